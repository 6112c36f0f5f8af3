//! Several tests together: what "any positive", "all positive" or "at least k" does to accuracy, and what a pattern of
//! results is worth.

mod dependence;
mod rules;

pub use dependence::{CovarianceBounds, DependenceError, PairedTests, covariance_bounds, two_dependent_tests};
pub use rules::{
    CombineError, CountResult, MAX_TESTS, PatternResult, RuleAccuracy, TestAccuracy, at_least, count_results,
    pattern_results,
};
