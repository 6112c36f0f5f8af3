//! How much studies differ beyond chance.

use serde::Serialize;

use super::answer::Pooled;
use super::small_study::{ThresholdCorrelation, threshold_correlation};
use super::univariate::{Effect, TauMethod, pool_effects};
use crate::Level;
use crate::accuracy::{Arm, Counts};

/// Cochran's test that all studies share one proportion.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct CochranQ {
    /// The statistic.
    pub q: f64,
    /// Studies less one.
    pub df: usize,
    /// Chance of a larger one if all studies agreed.
    pub p: f64,
}

/// Measures of heterogeneity of a pooled answer; the variances between studies and the correlation are in the answer itself.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Heterogeneity {
    /// Share of the total variability, of both proportions together, that lies between studies.
    pub i2_bivariate: Option<f64>,
    /// The same for sensitivity.
    pub i2_sensitivity: Option<f64>,
    /// The same for specificity.
    pub i2_specificity: Option<f64>,
    /// Over the studies' sensitivities.
    pub q_sensitivity: Option<CochranQ>,
    /// Over their specificities.
    pub q_specificity: Option<CochranQ>,
    /// Whether studies trade sensitivity for specificity.
    pub threshold: Option<ThresholdCorrelation>,
}

/// Heterogeneity of a pooled answer's studies.
///
/// I² after Zhou and Dendukuri (2014), whose within-study variance follows the mean as a binomial's does: with `m` the mean logit,
/// `t²` the variance between studies and `n` the people in an arm, `s² = (exp(t²/2 - m) + exp(t²/2 + m) + 2) mean(1/n)`. One
/// arm: `t² / (t² + s²)`. Both: `sqrt|T| / (sqrt|T| + sqrt|S|)` with `T` the covariance between studies and `S` diagonal. At a
/// correlation of ±1 `|T|` is zero whatever the spread, so that no figure is given for both.
///
/// Cochran's Q on logits with inverse-variance weights; 0.5 and 1 are added to `x` and `n` where `x` is 0 or `n`.
#[must_use]
pub fn heterogeneity(studies: &[Counts], pooled: &Pooled) -> Heterogeneity {
    let arms = [Counts::diseased, Counts::non_diseased].map(|arm| studies.iter().filter_map(arm).collect::<Vec<Arm>>());
    let within = |mean: Option<f64>, tau2: Option<f64>, arms: &[Arm]| {
        let (m, t2) = (mean?, tau2?);
        let inverse = arms.iter().map(|arm| 1.0 / arm.n as f64).sum::<f64>() / arms.len() as f64;
        Some([t2, ((0.5 * t2 - m).exp() + (0.5 * t2 + m).exp() + 2.0) * inverse])
    };
    let parts =
        [within(pooled.mu.sens, pooled.tau2.sens, &arms[0]), within(pooled.mu.spec, pooled.tau2.spec, &arms[1])];
    let share = |between: f64, within: f64| between / (between + within);
    let both = || {
        let ([t1, s1], [t2, s2], rho) = (parts[0]?, parts[1]?, pooled.rho?);
        let between = (t1 * t2 * (1.0 - rho * rho)).max(0.0).sqrt();
        (rho.abs() < 1.0 - 1e-9).then(|| share(between, (s1 * s2).sqrt()))
    };
    Heterogeneity {
        i2_bivariate: both(),
        i2_sensitivity: parts[0].map(|[t2, s2]| share(t2, s2)),
        i2_specificity: parts[1].map(|[t2, s2]| share(t2, s2)),
        q_sensitivity: cochran_q(&arms[0]),
        q_specificity: cochran_q(&arms[1]),
        threshold: threshold_correlation(studies, super::Correction::default()),
    }
}

fn cochran_q(arms: &[Arm]) -> Option<CochranQ> {
    let effect = |arm: &Arm| {
        let (x, n) = (arm.correct as f64, arm.n as f64);
        let (x, n) = if arm.correct == 0 || arm.correct == arm.n { (x + 0.5, n + 1.0) } else { (x, n) };
        Effect::new((x / (n - x)).ln(), 1.0 / x + 1.0 / (n - x)).ok()
    };
    let effects: Vec<Effect> = arms.iter().filter_map(effect).collect();
    let fixed = pool_effects(&effects, TauMethod::Fixed, Level::default()).ok()?;
    Some(CochranQ { q: fixed.q, df: fixed.df, p: fixed.q_p })
}
