//! Bayes' rule in odds form.

use crate::{Estimate, Probability, Ratio};

/// Post-test probability `p LR / (p LR + 1 - p)`, the odds form of Bayes' rule.
///
/// `p` is the pre-test probability, `lr` the likelihood ratio of the result seen. `p = 0` gives 0 and `p = 1`
/// gives 1 for finite positive ratios; an infinite ratio gives 1, a ratio of 0 gives 0. `None` for the two
/// contradictions: `p = 1` with `LR = 0`, and `p = 0` with `LR` infinite.
///
/// ```
/// use pruvex_core::{Probability, Ratio, likelihood::post_test};
/// let p = post_test(Probability::new(0.25).unwrap(), Ratio::new(3.0).unwrap()).unwrap();
/// assert!((p.get() - 0.5).abs() < 1e-15);
/// ```
#[must_use]
pub fn post_test(pre_test: Probability, lr: Ratio) -> Option<Probability> {
    let (p, lr) = (pre_test.get(), lr.get());
    if lr.is_infinite() {
        return (p > 0.0).then_some(Probability::ONE);
    }
    let positive = p * lr;
    let total = positive + (1.0 - p);
    (total > 0.0).then(|| Probability::rounded(if total.is_finite() { positive / total } else { 1.0 }))
}

/// [`post_test`] at the point and at both bounds of the ratio's interval; the pre-test probability is taken as
/// known. A bound that is a contradiction (see [`post_test`]) is widened to 0 or 1. `None` when the point is one.
#[must_use]
pub fn post_test_interval(pre_test: Probability, lr: Estimate<Ratio>) -> Option<Estimate<Probability>> {
    let estimate = post_test(pre_test, lr.estimate)?;
    let lower = post_test(pre_test, lr.lower).unwrap_or(Probability::ZERO);
    let upper = post_test(pre_test, lr.upper).unwrap_or(Probability::ONE);
    Some(Estimate::around(estimate, lower, upper))
}

/// The ratio that the data support: the point, or the finite bound of an interval whose point is infinite or 0. An empty cell makes such a
/// point; on few people it must not count as certainty.
#[must_use]
pub fn supported_ratio(lr: Estimate<Ratio>) -> Ratio {
    if lr.estimate.get().is_infinite() {
        lr.lower
    } else if lr.estimate.get() == 0.0 {
        lr.upper
    } else {
        lr.estimate
    }
}

/// The same of a proportion or probability: the bound of an interval whose point is 1 or 0.
#[must_use]
pub fn supported_share(p: Estimate<Probability>) -> Probability {
    if p.estimate.get() >= 1.0 {
        p.lower
    } else if p.estimate.get() <= 0.0 {
        p.upper
    } else {
        p.estimate
    }
}
