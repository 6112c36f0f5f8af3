//! Two tests that are not independent given the condition: their conditional covariance (Vacek 1985).

use serde::Serialize;

use super::error::DependenceError;
use super::rules::{RuleAccuracy, TestAccuracy, ratio};
use crate::{Probability, Ratio};

/// The covariances that two tests' accuracies allow.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct CovarianceBounds {
    /// With the condition, from and to.
    pub diseased: [f64; 2],
    /// Without it.
    pub non_diseased: [f64; 2],
}

/// Two tests with dependence.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PairedTests {
    /// Chances of ++, +-, -+ and -- with the condition.
    pub diseased: [Probability; 4],
    /// The same without it.
    pub non_diseased: [Probability; 4],
    /// Likelihood ratios of ++, +-, -+ and --.
    pub lr: [Option<Ratio>; 4],
    /// Positive when either is.
    pub any: RuleAccuracy,
    /// Positive when both are.
    pub all: RuleAccuracy,
}

/// `max(-p q, -(1-p)(1-q)) <= cov <= min(p, q) - p q` for chances `p, q` of being correct.
#[must_use]
pub fn covariance_bounds(first: TestAccuracy, second: TestAccuracy) -> CovarianceBounds {
    CovarianceBounds {
        diseased: covariance_range(first.sensitivity.get(), second.sensitivity.get()),
        non_diseased: covariance_range(first.specificity.get(), second.specificity.get()),
    }
}

/// Least and largest covariance of two events with these chances.
pub(super) fn covariance_range(p: f64, q: f64) -> [f64; 2] {
    [(-p * q).max(-(1.0 - p) * (1.0 - q)), p.min(q) - p * q]
}

/// Joint results of two tests with conditional covariances: `P(++|D+) = s1 s2 + cov`, `P(--|D-) = c1 c2 + cov`, and so on
/// (Vacek 1985). Both zero is independence.
///
/// # Errors
/// [`DependenceError`] for a covariance outside [`covariance_bounds`] (beyond rounding) or not a number.
pub fn two_dependent_tests(
    first: TestAccuracy,
    second: TestAccuracy,
    covariance_diseased: f64,
    covariance_non_diseased: f64,
) -> Result<PairedTests, DependenceError> {
    let bounds = covariance_bounds(first, second);
    let checked = |value: f64, [lower, upper]: [f64; 2]| {
        let inside = value >= lower - 1e-12 && value <= upper + 1e-12;
        if inside { Ok(value) } else { Err(DependenceError { value, lower, upper }) }
    };
    let cov_d = checked(covariance_diseased, bounds.diseased)?;
    let cov_n = checked(covariance_non_diseased, bounds.non_diseased)?;
    let (s1, s2) = (first.sensitivity.get(), second.sensitivity.get());
    let (c1, c2) = (first.specificity.get(), second.specificity.get());
    // At a bound a chance is 0 up to rounding: it must not turn into a ratio of two roundings.
    let clean = |p: f64| if p < 1e-14 { 0.0 } else { p };
    let d =
        [s1 * s2 + cov_d, s1 * (1.0 - s2) - cov_d, (1.0 - s1) * s2 - cov_d, (1.0 - s1) * (1.0 - s2) + cov_d].map(clean);
    let n =
        [(1.0 - c1) * (1.0 - c2) + cov_n, (1.0 - c1) * c2 - cov_n, c1 * (1.0 - c2) - cov_n, c1 * c2 + cov_n].map(clean);
    let rule = |k: usize, se: f64, miss: f64, alarm: f64, sp: f64| RuleAccuracy {
        k,
        sensitivity: Probability::rounded(se),
        specificity: Probability::rounded(sp),
        lr_positive: ratio(se, alarm),
        lr_negative: ratio(miss, sp),
    };
    Ok(PairedTests {
        diseased: d.map(Probability::rounded),
        non_diseased: n.map(Probability::rounded),
        lr: [0, 1, 2, 3].map(|i| ratio(d[i], n[i])),
        any: rule(1, d[0] + d[1] + d[2], d[3], n[0] + n[1] + n[2], n[3]),
        all: rule(2, d[0], d[1] + d[2] + d[3], n[0], n[1] + n[2] + n[3]),
    })
}
