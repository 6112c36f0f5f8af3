//! Post-test probability when the pre-test probability is itself an estimate.

use super::post_test;
use crate::{Estimate, Level, Probability, Ratio};

/// Post-test probability with an interval from both uncertainties:
/// `var(logit post) = var(logit pre) + var(ln LR)`, each variance taken from its interval of the same level,
/// `((upper - lower) / (2 z))²` on the logit or log scale.
///
/// Where an interval has no finite width on that scale (a bound of 0, 1 or infinity), the ends are combined instead:
/// lower with lower, upper with upper, which is wider. `None` when the point is a contradiction (see [`post_test`]).
#[must_use]
pub fn post_test_uncertain(
    pre_test: Estimate<Probability>,
    lr: Estimate<Ratio>,
    level: Level,
) -> Option<Estimate<Probability>> {
    let estimate = post_test(pre_test.estimate, lr.estimate)?;
    let logit = |p: Probability| (p.get() / (1.0 - p.get())).ln();
    let width = |lower: f64, upper: f64| ((upper - lower) / (2.0 * level.z())).powi(2);
    let variance =
        width(logit(pre_test.lower), logit(pre_test.upper)) + width(lr.lower.get().ln(), lr.upper.get().ln());
    let centre = logit(estimate);
    if variance.is_finite() && centre.is_finite() {
        let half = level.z() * variance.sqrt();
        return Estimate { estimate: centre, lower: centre - half, upper: centre + half }.expit();
    }
    let lower = post_test(pre_test.lower, lr.lower).unwrap_or(Probability::ZERO);
    let upper = post_test(pre_test.upper, lr.upper).unwrap_or(Probability::ONE);
    Some(Estimate::around(estimate, lower, upper))
}
