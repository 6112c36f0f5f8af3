//! Where the next study is expected, and how much each study weighs.

use serde::Serialize;
use statrs::distribution::{ContinuousCDF, StudentsT};

use super::answer::Pooled;
use super::derived::log_ratio_gradients;
use crate::accuracy::Counts;
use crate::{Estimate, Probability, Ratio};

/// Prediction intervals about the summary point. `None` where no variance between studies was estimated, or fewer than three studies
/// report the arm.
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
/// On the logit scale `mu ± t(k - 2) sqrt(tau² + var(mu))` (Higgins, Thompson and Spiegelhalter 2009), `k` the studies that report the
/// arm; for `ln LR` the same with `g' (T + cov) g`, where `T` is the covariance between studies and `g` the gradient of the summary point's
/// ratios. No fewer than three studies, since `t` needs a degree of freedom.
#[must_use]
pub fn prediction(studies: &[Counts], pooled: &Pooled) -> Prediction {
    let reported = [Counts::diseased, Counts::non_diseased]
        .map(|arm| studies.iter().filter_map(arm).filter(|arm| arm.n > 0).count());
    let both = studies.iter().filter(|it| it.diseased().is_some() && it.non_diseased().is_some()).count();
    let t = |k: usize| {
        let df = k.checked_sub(2).filter(|df| *df > 0)?;
        Some(StudentsT::new(0.0, 1.0, df as f64).ok()?.inverse_cdf(1.0 - pooled.level.tail()))
    };
    let Some(cov) = pooled.cov_mu else { return Prediction::default() };
    let share = |arm: usize, mu: Option<f64>, tau2: Option<f64>| {
        let (mu, tau2, t) = (mu?, tau2?, t(reported[arm])?);
        let half = t * (tau2 + cov[arm][arm]).max(0.0).sqrt();
        Some(Estimate::around(mu, mu - half, mu + half).map(Probability::from_logit))
    };
    let ratio = |which: usize| {
        let (mu, t) = ([pooled.mu.sens?, pooled.mu.spec?], t(both)?);
        let tau2 = [pooled.tau2.sens?, pooled.tau2.spec?];
        let between = pooled.rho.unwrap_or(0.0) * (tau2[0] * tau2[1]).max(0.0).sqrt();
        let (log, g) = log_ratio_gradients(mu)[which];
        let variance = g[0] * g[0] * (tau2[0] + cov[0][0])
            + g[1] * g[1] * (tau2[1] + cov[1][1])
            + 2.0 * g[0] * g[1] * (between + cov[0][1]);
        let half = t * variance.max(0.0).sqrt();
        Some(Estimate::around(log, log - half, log + half).map(|log: f64| Ratio::clamped(log.exp())))
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
        let people = |study: &Counts| if index == 0 { study.diseased() } else { study.non_diseased() };
        let weigh = |n: u64| {
            let (tau2, p) = (tau2.unwrap_or(0.0), mu.map(|mu| Probability::from_logit(mu).get()));
            match p.map(|p| n as f64 * p * (1.0 - p)).filter(|information| *information > 0.0) {
                Some(information) => 1.0 / (tau2 + 1.0 / information),
                None => n as f64,
            }
        };
        let raw: Vec<Option<f64>> =
            studies.iter().map(|study| people(study).filter(|arm| arm.n > 0).map(|arm| weigh(arm.n))).collect();
        let total: f64 = raw.iter().flatten().sum();
        for (weight, raw) in weights.iter_mut().zip(raw) {
            let share = raw.filter(|_| total > 0.0).map(|raw| raw / total);
            *(if index == 0 { &mut weight.sensitivity } else { &mut weight.specificity }) = share;
        }
    }
    weights
}
