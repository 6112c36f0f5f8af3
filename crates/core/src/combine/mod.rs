//! Several tests together: what "any positive", "all positive" or "at least k" does to accuracy, and what a pattern of
//! results is worth.

mod battery;
mod bounds;
mod claim;
mod cluster;
mod dependence;
mod error;
mod latent;
mod rules;
mod sequence;

pub use battery::{
    Battery, BatteryCount, BatteryDependence, BatteryRule, BatteryTest, WithoutTest, battery, each_test_left_out,
};
pub use bounds::{RuleBounds, rule_bounds};
pub use claim::{
    Claim, ClaimCheck, ClaimFault, ClaimsCheck, FigureCheck, NeededDependence, SingleRange, check_claims,
    needed_dependence,
};
pub use cluster::{ClusterAnswer, ClusterSource, cluster_answer};
pub use dependence::{CovarianceBounds, PairedTests, covariance_bounds, two_dependent_tests};
pub use error::{CombineError, DependenceError, MAX_TESTS};
pub use latent::{
    LatentCorrelation, ResultBand, RulesAt, count_results_latent, pattern_results_latent, results_together,
    rules_by_correlation,
};
pub use rules::{CountResult, PatternResult, RuleAccuracy, TestAccuracy, at_least, count_results, pattern_results};
pub use sequence::{Sequence, SequenceStep, decision_changes, expected_information, sequence, undecided_ends};
