//! The summary point and what follows from it.

use serde::{Deserialize, Serialize};

use crate::quantity::{centred, expit};
use crate::{Estimate, Level, Probability, Ratio};

/// A pair of numbers, one per arm; `None` where the model does not estimate it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Means {
    /// Mean logit sensitivity.
    pub sens: Option<f64>,
    /// Mean logit specificity.
    pub spec: Option<f64>,
}

/// Variances between studies on the logit scale; `None` where the model does not estimate one.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Variances {
    /// Of logit sensitivity.
    pub sens: Option<f64>,
    /// Of logit specificity.
    pub spec: Option<f64>,
}

/// Sensitivity, specificity and the ratios at the summary point. `None` is "not estimable".
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Summary {
    /// Inverse logit of the mean logit sensitivity: the median study's.
    pub sensitivity: Option<Estimate<Probability>>,
    /// Inverse logit of the mean logit specificity.
    pub specificity: Option<Estimate<Probability>>,
    /// Se / (1 - Sp) at the summary point.
    pub lr_positive: Option<Estimate<Ratio>>,
    /// (1 - Se) / Sp at the summary point.
    pub lr_negative: Option<Estimate<Ratio>>,
    /// exp(mu_sens + mu_spec).
    pub dor: Option<Estimate<Ratio>>,
}

/// Covariance of the mean logits, sensitivity first. Entries of an arm whose mean is not estimated are `None`.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct MeanCovariance(pub [[Option<f64>; 2]; 2]);

impl MeanCovariance {
    /// From the covariance of both, of which only the arms that are `estimated` count.
    pub(super) fn of(covariance: [[f64; 2]; 2], estimated: [bool; 2]) -> Self {
        Self([0, 1].map(|i| [0, 1].map(|j| (estimated[i] && estimated[j]).then_some(covariance[i][j]))))
    }

    /// Variance of an arm's mean logit: 0 is sensitivity, 1 specificity.
    #[must_use]
    pub fn variance(&self, arm: usize) -> Option<f64> {
        self.0.get(arm)?.get(arm).copied()?
    }

    /// The whole matrix, when both means are estimated.
    #[must_use]
    pub fn both(&self) -> Option<[[f64; 2]; 2]> {
        let [[a, b], [c, d]] = self.0;
        Some([[a?, b?], [c?, d?]])
    }
}

/// `expit(mu ± z se)`; `None` where these are no numbers.
pub(super) fn proportion(mu: f64, variance: f64, level: Level) -> Option<Estimate<Probability>> {
    centred(mu, level.z() * variance.max(0.0).sqrt()).expit()
}

/// `ln expit(m)` without cancellation.
fn log_p(m: f64) -> f64 {
    if m > 0.0 { -(-m).exp().ln_1p() } else { m - m.exp().ln_1p() }
}

/// `ln(1 - expit(m))`.
fn log_q(m: f64) -> f64 {
    log_p(-m)
}

/// Ratios at the summary point with delta-method intervals on the log scale; likelihood ratios are never pooled
/// themselves (Zwinderman and Bossuyt 2008).
///
/// With `cov` the covariance of the mean logits: gradient of `ln LR+` is `(1 - Se, Sp)`, of `ln LR-`
/// `(-Se, -(1 - Sp))`, of `ln DOR` `(1, 1)`; interval `exp(value ± z sqrt(g' cov g))`.
pub(super) fn ratios(mu: [f64; 2], cov: [[f64; 2]; 2], level: Level) -> [Option<Estimate<Ratio>>; 3] {
    log_ratio_gradients(mu).map(|(log, g)| {
        let variance = g[0] * g[0] * cov[0][0] + 2.0 * g[0] * g[1] * cov[0][1] + g[1] * g[1] * cov[1][1];
        centred(log, level.z() * variance.max(0.0).sqrt()).exp()
    })
}

/// `ln LR+`, `ln LR-` and `ln DOR` at these mean logits, each with its gradient.
pub(super) fn log_ratio_gradients(mu: [f64; 2]) -> [(f64, [f64; 2]); 3] {
    let [se, sp] = mu.map(expit);
    [
        (log_p(mu[0]) - log_q(mu[1]), [1.0 - se, sp]),
        (log_q(mu[0]) - log_p(mu[1]), [-se, -(1.0 - sp)]),
        (mu[0] + mu[1], [1.0, 1.0]),
    ]
}

/// Ratios from intervals of the mean logits that need not be symmetric, such as profile-likelihood intervals: their recovered
/// variances are combined with the correlation of the two means (Zou 2007, Psychol Methods 12:399-413). For a difference `a - b` with correlation
/// `r`: lower bound `a - b - sqrt((a - la)² + (ub - b)² - 2 r (a - la)(ub - b))`, and likewise above.
pub(super) fn ratios_from_bounds(
    mu: [f64; 2],
    cov: [[f64; 2]; 2],
    bounds: [[f64; 2]; 2],
) -> [Option<Estimate<Ratio>>; 3] {
    let correlation = (cov[0][1] / (cov[0][0] * cov[1][1]).sqrt()).clamp(-1.0, 1.0);
    // Each part as (point, lower, upper), the sum of two with the correlation of their estimates.
    let rising = |arm: usize, f: &dyn Fn(f64) -> f64| [f(mu[arm]), f(bounds[arm][0]), f(bounds[arm][1])];
    let falling = |arm: usize, f: &dyn Fn(f64) -> f64| [f(mu[arm]), f(bounds[arm][1]), f(bounds[arm][0])];
    let sum = |[a, la, ua]: [f64; 3], [b, lb, ub]: [f64; 3], r: f64| {
        let reach = |x: f64, y: f64| {
            if x.is_finite() && y.is_finite() {
                (x * x + y * y + 2.0 * r * x * y).max(0.0).sqrt()
            } else {
                f64::INFINITY
            }
        };
        let (low, high) = (a + b - reach(a - la, b - lb), a + b + reach(ua - a, ub - b));
        Estimate::around(a + b, low, high).exp()
    };
    [
        // -ln(1 - Sp) rises with the logit of Sp.
        sum(rising(0, &log_p), rising(1, &|m| -log_q(m)), correlation),
        sum(falling(0, &log_q), falling(1, &|m| -log_p(m)), correlation),
        sum(rising(0, &|m| m), rising(1, &|m| m), correlation),
    ]
}

/// Ratios when an arm has only an exact interval and no logit: every combination of the two intervals' ends is
/// allowed. No coverage is guaranteed: the exact interval of the pooled people ignores differences between studies.
pub(super) fn ratios_from_ends(se: Estimate<Probability>, sp: Estimate<Probability>) -> [Option<Estimate<Ratio>>; 3] {
    let divide = |a: f64, b: f64| {
        if b > 0.0 {
            Some(a / b)
        } else if a > 0.0 {
            Some(f64::INFINITY)
        } else {
            None
        }
    };
    let positive = |se: f64, sp: f64| divide(se, 1.0 - sp);
    let negative = |se: f64, sp: f64| divide(1.0 - se, sp);
    let odds = |se: f64, sp: f64| divide(se * sp, (1.0 - se) * (1.0 - sp));
    let estimate = |point: Option<f64>, low: Option<f64>, high: Option<f64>| {
        // A bound that is 0/0 says nothing: the ratio may be anything on that side.
        let (low, high) = (low.unwrap_or(0.0), high.unwrap_or(f64::INFINITY));
        Some(Estimate::around(Ratio::rounded(point?), Ratio::rounded(low), Ratio::rounded(high)))
    };
    let (s, p) = (
        [se.estimate, se.lower, se.upper].map(Probability::get),
        [sp.estimate, sp.lower, sp.upper].map(Probability::get),
    );
    [
        estimate(positive(s[0], p[0]), positive(s[1], p[1]), positive(s[2], p[2])),
        estimate(negative(s[0], p[0]), negative(s[2], p[2]), negative(s[1], p[1])),
        estimate(odds(s[0], p[0]), odds(s[1], p[1]), odds(s[2], p[2])),
    ]
}
