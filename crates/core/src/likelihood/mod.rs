//! From a likelihood ratio to a probability, to numbers of people, and to what is done about it.

mod frequencies;
mod post_test;
mod study_size;
mod thresholds;
mod uncertain;

pub use frequencies::{NaturalFrequencies, natural_frequencies};
pub use post_test::{post_test, post_test_interval};
pub use study_size::{people_for_accuracy, people_for_proportion, subjects_for_kappa};
pub use thresholds::{Crossing, ThresholdError, Thresholds, Zone, net_benefit, treatment_threshold};
pub use uncertain::post_test_uncertain;
