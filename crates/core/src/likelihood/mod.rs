//! From a likelihood ratio to a probability, and to numbers of people.

mod frequencies;
mod post_test;

pub use frequencies::{NaturalFrequencies, natural_frequencies};
pub use post_test::{post_test, post_test_interval};
