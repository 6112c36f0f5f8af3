//! From a likelihood ratio to a probability, to numbers of people, and to what is done about it.

mod calibration;
mod chain;
mod frequencies;
mod post_test;
mod study_size;
mod thresholds;
mod uncertain;

pub use calibration::{Calibration, CalibrationBin, CalibrationLine, Judged, SlopeStatus, calibration};
pub use chain::{
    Chain, ChainStep, Dependence, Finding, FoundLevel, FoundResult, after_result, chain, chain_steps,
    supported_accuracy,
};
pub use frequencies::{NaturalFrequencies, natural_frequencies};
pub use post_test::{post_test, post_test_interval, supported_ratio, supported_share};
pub use study_size::{AccuracyStudySize, people_for_accuracy, people_for_proportion, subjects_for_kappa};
pub use thresholds::{
    BenefitPoint, Crossing, ThresholdError, Thresholds, Zone, net_benefit, net_benefit_curve, treatment_threshold,
};
pub use uncertain::post_test_uncertain;
