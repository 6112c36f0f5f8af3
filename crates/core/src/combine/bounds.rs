//! What a rule over several tests can be, however much their results depend on each other.

use serde::Serialize;

use super::error::CombineError;
use super::rules::{TestAccuracy, check, check_rule, ratio};
use crate::{Probability, Ratio};

/// The accuracy that a rule can have whatever the dependence. Dependence in people with the condition tells nothing of that in people without it:
/// every pair of a sensitivity and a specificity from the two ranges is possible.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct RuleBounds {
    /// Positive tests from which on the rule is positive.
    pub k: usize,
    /// Least and largest sensitivity.
    pub sensitivity: [Probability; 2],
    /// Least and largest specificity.
    pub specificity: [Probability; 2],
    /// Least and largest LR+.
    pub lr_positive: [Option<Ratio>; 2],
    /// Least and largest LR-.
    pub lr_negative: [Option<Ratio>; 2],
    /// Whether sensitivity and specificity can both be higher than those of every single test.
    pub both_can_rise: bool,
}

/// Sharp bounds of the rule "at least `k` are positive" from the accuracy of the single tests alone.
///
/// With the chances `p` in rising order, `P(at least k)` is at most `min over m < k of (sum of the n - m smallest) / (k - m)`, and at least 1 less
/// that bound for at least `n - k + 1` of the complements (Rueger 1978; for any and all the bounds of Frechet).
///
/// # Errors
/// [`CombineError`] for the number of tests and the rule.
pub fn rule_bounds(tests: &[TestAccuracy], k: usize) -> Result<RuleBounds, CombineError> {
    check(tests)?;
    check_rule(k, tests.len())?;
    let of = |chance: fn(&TestAccuracy) -> Probability| tests.iter().map(|it| chance(it).get()).collect::<Vec<_>>();
    let (se, sp) = (of(|it| it.sensitivity), of(|it| it.specificity));
    let sensitivity = at_least_bounds(&se, k);
    let specificity = at_least_bounds(&sp, tests.len() - k + 1);
    let best = |all: &[f64]| all.iter().copied().fold(0.0, f64::max);
    // What rounding alone would raise does not rise.
    let rises = |bound: f64, all: &[f64]| bound > best(all) + 1e-12;
    let ratios = |of: fn(f64, f64) -> Option<Ratio>| [0, 1].map(|i| of(sensitivity[i], specificity[i]));
    let [least_negative, largest_negative] = ratios(|se, sp| ratio(1.0 - se, sp));
    Ok(RuleBounds {
        k,
        sensitivity: sensitivity.map(Probability::rounded),
        specificity: specificity.map(Probability::rounded),
        lr_positive: ratios(|se, sp| ratio(se, 1.0 - sp)),
        lr_negative: [largest_negative, least_negative],
        both_can_rise: rises(sensitivity[1], &se) && rises(specificity[1], &sp),
    })
}

/// Least and largest chance that at least `k` of events with these chances happen.
pub(super) fn at_least_bounds(chances: &[f64], k: usize) -> [f64; 2] {
    let complements: Vec<f64> = chances.iter().map(|p| 1.0 - p).collect();
    [(1.0 - upper_bound(&complements, chances.len() - k + 1)).max(0.0), upper_bound(chances, k)]
}

fn upper_bound(chances: &[f64], k: usize) -> f64 {
    let mut rising = chances.to_vec();
    rising.sort_by(f64::total_cmp);
    let bound = |m: usize| rising[..rising.len() - m].iter().sum::<f64>() / (k - m) as f64;
    (0..k).map(bound).fold(1.0, f64::min)
}
