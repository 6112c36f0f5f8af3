//! Natural frequencies: what a test does to a crowd, in whole people.

use serde::Serialize;

use crate::Probability;

/// What happens when everybody in a crowd of `population` has the test. The parts add up exactly.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct NaturalFrequencies {
    /// Size of the crowd.
    pub population: u32,
    /// People with the condition.
    pub with_condition: u32,
    /// Of these, positive.
    pub true_positive: u32,
    /// Of these, negative: missed.
    pub false_negative: u32,
    /// People without the condition.
    pub without_condition: u32,
    /// Of these, positive: false alarms.
    pub false_positive: u32,
    /// Of these, negative.
    pub true_negative: u32,
}

/// Expected counts, `population * p * Se` and so on, rounded to whole people top down (first the two groups,
/// then each group's positives) so that every line of the picture adds up.
#[must_use]
pub fn natural_frequencies(
    population: u32,
    pre_test: Probability,
    sensitivity: Probability,
    specificity: Probability,
) -> NaturalFrequencies {
    let share = |n: u32, p: f64| (f64::from(n) * p).round().min(f64::from(n)) as u32;
    let with_condition = share(population, pre_test.get());
    let without_condition = population - with_condition;
    let true_positive = share(with_condition, sensitivity.get());
    let true_negative = share(without_condition, specificity.get());
    NaturalFrequencies {
        population,
        with_condition,
        true_positive,
        false_negative: with_condition - true_positive,
        without_condition,
        false_positive: without_condition - true_negative,
        true_negative,
    }
}
