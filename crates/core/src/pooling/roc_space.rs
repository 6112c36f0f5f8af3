//! A bivariate fit seen in ROC space: where the mean lies, where a new study would lie, and the curve through both.

use serde::Serialize;

use super::answer::{MIN_FOR_CORRELATION, Pooled};
use super::ladder::both_arms;
use super::posterior::{JointShape, Posterior};
use crate::accuracy::Counts;
use crate::{Level, Probability};

/// A point in ROC space.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct RocPoint {
    /// Sensitivity.
    pub sensitivity: Probability,
    /// Specificity; the axis of the usual plot is its complement.
    pub specificity: Probability,
}

/// A region on the logit scale, and its outline in ROC space.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct RocRegion {
    /// Of an ellipse about the mean; `null` where the region is a posterior's and no ellipse.
    pub ellipse: Option<Ellipse>,
    /// Outline, first point not repeated; `t = 0` is the largest sensitivity.
    pub outline: Vec<RocPoint>,
}

/// An ellipse on the logit scale.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Ellipse {
    /// Semi-axes, the longer first.
    pub semi_axes: [f64; 2],
    /// Angle of the longer one from the axis of logit sensitivity, in radians within (-pi/2, pi/2].
    pub angle: f64,
}

/// Parameters of the hierarchical summary curve (Rutter and Gatsonis 2001), by the map of Harbord et al. (2007).
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Hsroc {
    /// Accuracy.
    pub lambda: f64,
    /// Threshold.
    pub theta: f64,
    /// Asymmetry of the curve; 0 is symmetric.
    pub beta: f64,
    /// Variance of accuracy between studies.
    pub sigma2_alpha: f64,
    /// Variance of the threshold between studies.
    pub sigma2_theta: f64,
}

impl Hsroc {
    /// Sensitivity of the curve at a specificity: `logit Se = Lambda e^(-beta/2) + e^(-beta) logit(1 - Sp)`; `None` where the curve is so
    /// asymmetric that a term is zero times infinity.
    #[must_use]
    pub fn sensitivity_at(&self, specificity: Probability) -> Option<Probability> {
        let logit_fpr = ((1.0 - specificity.get()) / specificity.get()).ln();
        Probability::from_logit(self.lambda * (-self.beta / 2.0).exp() + (-self.beta).exp() * logit_fpr)
    }
}

/// A bivariate fit in ROC space.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct RocSpace {
    /// The summary point.
    pub summary: RocPoint,
    /// Where the mean lies with the given confidence.
    pub confidence: RocRegion,
    /// Where a new study's true point lies.
    pub prediction: RocRegion,
    /// `None` when a variance between studies is zero: there is no curve then.
    pub hsroc: Option<Hsroc>,
    /// The curve over the range of specificities that the studies observed, never beyond.
    pub curve: Vec<RocPoint>,
}

/// Points of an outline or curve: smooth at the size of a page.
const POINTS: usize = 120;

/// Summary point, regions (chi-square with 2 degrees of freedom) and curve of a bivariate fit.
///
/// RocRegion: `mu + q (sd_sens cos t, sd_spec cos(t + arccos r))`, `q² = chi²(level; 2)`, with the covariance of the means for
/// confidence, and that plus the covariance between studies for prediction. HSROC (Harbord 2007), with `sA, sB` the standard
/// deviations and `c` the covariance between studies: `beta = ln(sB/sA)`, `Lambda = sqrt(sB/sA) mu_sens + sqrt(sA/sB) mu_spec`,
/// `Theta = (sqrt(sB/sA) mu_sens - sqrt(sA/sB) mu_spec) / 2`, `sigma²_alpha = 2 (sA sB + c)`, `sigma²_theta = (sA sB - c) / 2`.
///
/// Where the summary is a posterior's, the regions are those of its joint distribution: `q` on the normal scores of each mean, or of a new study's
/// logits, and their correlation. The curve then goes through the posterior medians, with the posterior means of spreads and correlation, and is drawn
/// from [`MIN_FOR_CORRELATION`] studies with both arms on: with fewer it would be the prior's.
///
/// `None` unless sensitivity and specificity were modelled together.
#[must_use]
pub fn roc_space(pooled: &Pooled, studies: &[Counts]) -> Option<RocSpace> {
    if let Some(working) = &pooled.posterior {
        return of_posterior(&working.posterior, pooled.level, studies);
    }
    if !pooled.model.is_bivariate() {
        return None;
    }
    let mu = [pooled.mu.sens?, pooled.mu.spec?];
    let (tau_sens, tau_spec) = (pooled.tau2.sens?.sqrt(), pooled.tau2.spec?.sqrt());
    let between = pooled.rho.unwrap_or(0.0) * tau_sens * tau_spec;
    let mean = pooled.cov_mu?.both()?;
    let ahead = [
        [mean[0][0] + tau_sens * tau_sens, mean[0][1] + between],
        [mean[1][0] + between, mean[1][1] + tau_spec * tau_spec],
    ];
    let hsroc = (pooled.rho.is_some() && tau_sens > 0.0 && tau_spec > 0.0)
        .then(|| hierarchical(mu, [tau_sens, tau_spec], between));
    Some(RocSpace {
        summary: point(mu)?,
        confidence: region(mu, mean, pooled.level)?,
        prediction: region(mu, ahead, pooled.level)?,
        curve: hsroc.map(|hsroc| curve(&hsroc, studies)).unwrap_or_default(),
        hsroc,
    })
}

fn hierarchical(mu: [f64; 2], [tau_sens, tau_spec]: [f64; 2], between: f64) -> Hsroc {
    let (up, down) = ((tau_spec / tau_sens).sqrt(), (tau_sens / tau_spec).sqrt());
    Hsroc {
        lambda: up * mu[0] + down * mu[1],
        theta: 0.5 * (up * mu[0] - down * mu[1]),
        beta: (tau_spec / tau_sens).ln(),
        sigma2_alpha: 2.0 * (tau_sens * tau_spec + between).max(0.0),
        sigma2_theta: 0.5 * (tau_sens * tau_spec - between).max(0.0),
    }
}

fn of_posterior(posterior: &Posterior, level: Level, studies: &[Counts]) -> Option<RocSpace> {
    let mu = [posterior.logit_sens?.median, posterior.logit_spec?.median];
    let q = radius(level);
    let region = |shape: JointShape| {
        let shift = shape.correlation.acos();
        let outline = turn().map(|t| point(shape.at([q * t.cos(), q * (t + shift).cos()])));
        Some(RocRegion { ellipse: None, outline: outline.collect::<Option<_>>()? })
    };
    let hsroc = (both_arms(studies) >= MIN_FOR_CORRELATION)
        .then(|| {
            let tau = [posterior.mean.tau_sens?, posterior.mean.tau_spec?];
            Some(hierarchical(mu, tau, posterior.mean.rho? * tau[0] * tau[1]))
        })
        .flatten();
    Some(RocSpace {
        summary: point(mu)?,
        confidence: region(posterior.mean_shape?)?,
        prediction: region(posterior.ahead_shape?)?,
        curve: hsroc.map(|hsroc| curve(&hsroc, studies)).unwrap_or_default(),
        hsroc,
    })
}

/// Half the width of a region in standard deviations: the quantile of chi-square with 2 degrees of freedom has a closed form.
fn radius(level: Level) -> f64 {
    (-2.0 * (2.0 * level.tail()).ln()).sqrt()
}

/// Angles once around.
fn turn() -> impl Iterator<Item = f64> {
    (0..POINTS).map(|i| std::f64::consts::TAU * i as f64 / POINTS as f64)
}

fn point(logits: [f64; 2]) -> Option<RocPoint> {
    let [sensitivity, specificity] = logits.map(Probability::from_logit);
    Some(RocPoint { sensitivity: sensitivity?, specificity: specificity? })
}

fn region(mu: [f64; 2], covariance: [[f64; 2]; 2], level: Level) -> Option<RocRegion> {
    let q = radius(level);
    let [[a, b], [_, d]] = covariance;
    let (sd_sens, sd_spec) = (a.max(0.0).sqrt(), d.max(0.0).sqrt());
    let correlation = if sd_sens > 0.0 && sd_spec > 0.0 { (b / (sd_sens * sd_spec)).clamp(-1.0, 1.0) } else { 0.0 };
    let (half_sum, half_gap) = (0.5 * (a + d), (0.5 * (a - d)).hypot(b));
    let shift = correlation.acos();
    let outline = turn().map(|t| point([mu[0] + q * sd_sens * t.cos(), mu[1] + q * sd_spec * (t + shift).cos()]));
    let ellipse = Ellipse {
        semi_axes: [q * (half_sum + half_gap).max(0.0).sqrt(), q * (half_sum - half_gap).max(0.0).sqrt()],
        angle: 0.5 * (2.0 * b).atan2(a - d),
    };
    Some(RocRegion { ellipse: Some(ellipse), outline: outline.collect::<Option<_>>()? })
}

/// The curve between the least and the greatest specificity observed, on an even grid.
fn curve(hsroc: &Hsroc, studies: &[Counts]) -> Vec<RocPoint> {
    let observed = studies.iter().filter_map(Counts::non_diseased);
    let (low, high) = observed
        .map(|arm| arm.correct as f64 / arm.n as f64)
        .fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), sp| (low.min(sp), high.max(sp)));
    if low > high {
        return Vec::new();
    }
    let at = |i: usize| Probability::rounded(low + (high - low) * i as f64 / (POINTS - 1) as f64);
    let on_curve = |specificity| Some(RocPoint { sensitivity: hsroc.sensitivity_at(specificity)?, specificity });
    (0..POINTS).map(at).filter_map(on_curve).collect()
}
