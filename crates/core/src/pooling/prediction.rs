//! Where the next study is expected, and how much each study weighs.

use serde::Serialize;

use super::answer::Pooled;
use super::derived::log_ratio_gradients;
use super::posterior::Quantiles;
use crate::accuracy::{Arm, Counts};
use crate::distribution::t_upper;
use crate::quantity::{centred, expit};
use crate::{Estimate, Probability, Ratio};

/// Prediction intervals about the summary point. Without a posterior `None` where no variance between studies was estimated, or fewer than three
/// studies report the arm (for a ratio: both arms).
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Prediction {
    /// Of a new study's true sensitivity.
    pub sensitivity: Option<Estimate<Probability>>,
    /// Of its true specificity.
    pub specificity: Option<Estimate<Probability>>,
    /// Of its true LR+.
    pub lr_positive: Option<Estimate<Ratio>>,
    /// Of its true LR-.
    pub lr_negative: Option<Estimate<Ratio>>,
}

/// Prediction intervals of a pooled answer's studies.
///
/// On the logit scale `mu ± t(k - 2) sqrt(tau² + var(mu))` (Higgins, Thompson and Spiegelhalter 2009, who give it for one quantity), `k`
/// the studies that report the arm. For `ln LR` the same with `g' (T + cov) g`, where `T` is the covariance between studies, `g` the gradient
/// of the summary point's ratios and `k` the studies that report both arms: our extension of theirs. No fewer than three studies, since `t`
/// needs a degree of freedom. Where the summary is the posterior's this is as well: from two studies on.
#[must_use]
pub fn prediction(studies: &[Counts], pooled: &Pooled) -> Prediction {
    if let Some(working) = &pooled.posterior {
        let ahead = working.posterior.ahead;
        return Prediction {
            sensitivity: ahead.logit_sens.and_then(Quantiles::share),
            specificity: ahead.logit_spec.and_then(Quantiles::share),
            lr_positive: ahead.log_lr_pos.and_then(Quantiles::ratio),
            lr_negative: ahead.log_lr_neg.and_then(Quantiles::ratio),
        };
    }
    let reported = [0, 1].map(|arm| studies.iter().filter(|study| study.arms()[arm].is_some()).count());
    let both = studies.iter().filter(|study| study.has_both_arms()).count();
    let t = |k: usize| (k > 2).then(|| t_upper(pooled.level.tail(), k as f64 - 2.0));
    let share = |arm: usize, mu: Option<f64>, tau2: Option<f64>| {
        let (mu, tau2, variance, t) = (mu?, tau2?, pooled.cov_mu?.variance(arm)?, t(reported[arm])?);
        centred(mu, t * (tau2 + variance).max(0.0).sqrt()).expit()
    };
    let ratio = |which: usize| {
        let (mu, cov, t) = ([pooled.mu.sens?, pooled.mu.spec?], pooled.cov_mu?.both()?, t(both)?);
        let tau2 = [pooled.tau2.sens?, pooled.tau2.spec?];
        let between = pooled.rho.unwrap_or(0.0) * (tau2[0] * tau2[1]).max(0.0).sqrt();
        let (log, g) = log_ratio_gradients(mu)[which];
        let variance = g[0] * g[0] * (tau2[0] + cov[0][0])
            + g[1] * g[1] * (tau2[1] + cov[1][1])
            + 2.0 * g[0] * g[1] * (between + cov[0][1]);
        centred(log, t * variance.max(0.0).sqrt()).exp()
    };
    Prediction {
        sensitivity: share(0, pooled.mu.sens, pooled.tau2.sens),
        specificity: share(1, pooled.mu.spec, pooled.tau2.spec),
        lr_positive: ratio(0),
        lr_negative: ratio(1),
    }
}

/// A study's share of what is known of each mean, from 0 to 1; `None` for an arm that it does not report.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Weight {
    /// In the mean sensitivity.
    pub sensitivity: Option<f64>,
    /// In the mean specificity.
    pub specificity: Option<f64>,
}

/// How much each study weighs in each mean, in the order given.
///
/// `w = 1 / (tau² + 1 / (n p (1 - p)))` with `p` the summary proportion: the inverse variance that the model itself gives to a study with
/// `n` people in the arm, divided by the sum of all. The exact model has no weights; this is how it would weigh each arm by itself. Without a
/// variance between studies, or in an arm without an error, it is the share of people.
#[must_use]
pub fn weights(studies: &[Counts], pooled: &Pooled) -> Vec<Weight> {
    let mut weights = vec![Weight::default(); studies.len()];
    let arms = [(pooled.mu.sens, pooled.tau2.sens), (pooled.mu.spec, pooled.tau2.spec)];
    for (index, (mu, tau2)) in arms.into_iter().enumerate() {
        let weigh = |arm: Arm| {
            let n = arm.n as f64;
            let information = mu.map(expit).map(|p| n * p * (1.0 - p)).filter(|information| *information > 0.0);
            information.map_or(n, |information| 1.0 / (tau2.unwrap_or(0.0) + 1.0 / information))
        };
        let raw: Vec<Option<f64>> = studies.iter().map(|study| study.arms()[index].map(weigh)).collect();
        let total: f64 = raw.iter().flatten().sum();
        for (weight, raw) in weights.iter_mut().zip(raw) {
            let share = raw.filter(|_| total > 0.0).map(|raw| raw / total);
            *(if index == 0 { &mut weight.sensitivity } else { &mut weight.specificity }) = share;
        }
    }
    weights
}
