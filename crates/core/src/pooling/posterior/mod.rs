//! The summary point's posterior under weak priors: intervals that keep their promise with few studies.
//!
//! Model: `tp ~ Bin(n1, expit(μ1 + b1))`, `tn ~ Bin(n0, expit(μ2 + b2))`, `(b1, b2)` bivariate normal with spreads `τ1`, `τ2` and correlation `ρ`
//! (Chu and Cole 2006), exact binomial likelihood, no correction of empty cells. Priors, all independent: `τ1`, `τ2` half-normal, `ρ ~ 1 - ρ²`,
//! `μ1`, `μ2` normal. The mean of nobody's arm is not estimated; studies that report one arm inform that arm alone.
//!
//! Reported: posterior median and equal-tailed quantiles, of the ratios under the joint posterior (not from the two intervals). All integrals are
//! deterministic: in each arm a rough look first finds where mean and spread can be; then Gauss-Legendre over the spreads, the trapezoid rule over
//! `atanh ρ`, the means (on a scale that is fine in the middle), the common part of the two effects and each study's own part.
//!
//! Sources: Gelman, Bayesian Anal 2006 (priors of spreads); Lewandowski, Kurowicka, Joe, J Multivar Anal 2009 (prior of a correlation); Friede, Röver,
//! Wandel, Neuenschwander, Res Synth Methods 2017 (few studies); Zwinderman, Bossuyt, Stat Med 2008 (ratios at the summary point).

mod ahead;
mod arm;
mod joint;
mod levels;
mod quantiles;

use serde::{Deserialize, Serialize};

pub use self::ahead::{Ahead, JointShape};
use self::ahead::{Pair, Scores};
use self::arm::{ArmGrid, Share};
use self::joint::{Own, Reporting, integrate};
pub use self::levels::{LevelContrast, LevelPosterior, LevelsPosterior, posterior_levels};
use self::quantiles::{of_both, of_mean};
use super::derived::Summary;
use super::order::in_order;
use crate::accuracy::Counts;
use crate::{Estimate, FieldError, FieldErrorCode, Level, Probability, Ratio};

/// How wide the priors are.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PriorScales {
    spread: f64,
    mean: f64,
}

impl Default for PriorScales {
    fn default() -> Self {
        Self { spread: Self::SPREAD, mean: Self::MEAN }
    }
}

impl PriorScales {
    /// Scale of the half-normal priors of the spreads, on the logit scale.
    pub const SPREAD: f64 = 1.5;
    /// Standard deviation of the normal priors of the means, on the logit scale.
    pub const MEAN: f64 = 2.5;
    /// What the scale of the spreads may be.
    pub const SPREADS: [f64; 2] = [0.1, 5.0];

    /// With another scale of the spreads' priors.
    ///
    /// # Errors
    /// A scale outside of [`Self::SPREADS`].
    pub fn with_spread(spread: f64) -> Result<Self, FieldError> {
        let [least, most] = Self::SPREADS;
        if (least..=most).contains(&spread) {
            return Ok(Self { spread, ..Self::default() });
        }
        let message = "The scale of the prior of the standard deviations between studies is out of range.";
        let remedy = format!("Give a number from {least} to {most}; {} is the default.", Self::SPREAD);
        Err(FieldError::new("prior_scale", FieldErrorCode::Invalid, spread, message, &remedy))
    }

    /// Scale of the half-normal priors of the spreads.
    #[must_use]
    pub fn spread(self) -> f64 {
        self.spread
    }

    /// Priors of the spreads half as wide and twice as wide.
    #[must_use]
    pub fn others(self) -> [Self; 2] {
        [0.5, 2.0].map(|times| Self { spread: times * self.spread, ..self })
    }
}

/// Median and equal-tailed bounds of something.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Quantiles {
    /// Half of the posterior is below it.
    pub median: f64,
    /// As much of the posterior is below it as the level leaves on each side.
    pub lower: f64,
    /// As much is above it.
    pub upper: f64,
}

impl Quantiles {
    /// Of a logit, as a proportion.
    pub(crate) fn share(self) -> Option<Estimate<Probability>> {
        Estimate::around(self.median, self.lower, self.upper).expit()
    }

    /// Of a logarithm, as a ratio.
    pub(crate) fn ratio(self) -> Option<Estimate<Ratio>> {
        Estimate::around(self.median, self.lower, self.upper).exp()
    }
}

/// The posterior of the summary point.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Posterior {
    /// Logit of summary sensitivity.
    pub logit_sens: Option<Quantiles>,
    /// Logit of summary specificity.
    pub logit_spec: Option<Quantiles>,
    /// Natural logarithm of LR+.
    pub log_lr_pos: Option<Quantiles>,
    /// Natural logarithm of LR-.
    pub log_lr_neg: Option<Quantiles>,
    /// Natural logarithm of the diagnostic odds ratio.
    pub log_dor: Option<Quantiles>,
    /// Posterior means: they describe, they are not tested.
    pub mean: PosteriorMeans,
    /// A new study's true values.
    pub ahead: Ahead,
    /// The joint distribution of the two means; `null` without one of them.
    pub mean_shape: Option<JointShape>,
    /// That of a new study's two logits.
    pub ahead_shape: Option<JointShape>,
}

/// Posterior means of what was integrated over.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PosteriorMeans {
    /// Logit of summary sensitivity.
    pub logit_sens: Option<f64>,
    /// Logit of summary specificity.
    pub logit_spec: Option<f64>,
    /// Standard deviation of the studies' logit sensitivities.
    pub tau_sens: Option<f64>,
    /// Standard deviation of the studies' logit specificities.
    pub tau_spec: Option<f64>,
    /// Correlation of logit sensitivity and logit specificity across studies; `null` where no study reports both.
    pub rho: Option<f64>,
}

/// How fine the integration is.
#[derive(Debug, Clone, Copy)]
pub struct Fineness {
    /// Step of a study's own part, as a share of the integrand's width; and in distances of the logistic's poles.
    step: f64,
    pole_step: f64,
    /// Terms below this share of the sum end it.
    negligible: f64,
    /// Standard deviations of the priors that are looked at.
    reach: f64,
    /// Spreads, and how small a share of the top ends them.
    spreads: usize,
    spread_ends: f64,
    /// Means of each arm, how small a share of the top ends them, and where their even spacing goes over into a geometric one.
    means: usize,
    mean_ends: f64,
    mean_scale: f64,
    /// Pairs of spreads that are looked at, by their share of the top.
    pair_ends: f64,
    /// Points of a table of marginal likelihoods.
    table: usize,
    /// Step of the common part, as a share of the integrand's width, and how far it goes.
    common_step: f64,
    common_reach: f64,
    /// Step and end of `atanh ρ`, and how small a share of the top ends it earlier.
    correlation_step: f64,
    correlation_reach: f64,
    correlation_ends: f64,
}

impl Fineness {
    /// Bounds to half a hundredth of an interval's width: what a page waits for.
    pub const STANDARD: Self = Self {
        step: 1.4,
        pole_step: 1.5,
        negligible: 1e-5,
        reach: 5.5,
        spreads: 10,
        spread_ends: 3e-5,
        means: 16,
        mean_ends: 3e-5,
        mean_scale: 1.5,
        pair_ends: 1e-3,
        table: 24,
        common_step: 1.4,
        common_reach: 4.0,
        correlation_step: 0.55,
        correlation_reach: 3.0,
        correlation_ends: 4e-4,
    };
    /// Bounds to 2e-5 of an interval's width, as far as it was compared: what the standard is measured by.
    pub const FINE: Self = Self {
        step: 0.9,
        pole_step: 0.9,
        negligible: 1e-9,
        reach: 6.0,
        spreads: 20,
        spread_ends: 1e-8,
        means: 56,
        mean_ends: 1e-9,
        mean_scale: 1.5,
        pair_ends: 1e-7,
        table: 90,
        common_step: 1.0,
        common_reach: 5.5,
        correlation_step: 0.3,
        correlation_reach: 4.2,
        correlation_ends: 1e-7,
    };
}

/// The posterior of the summary point of these studies. The order of the studies does not matter.
///
/// Nothing of an arm that nobody was examined in, and no ratio then. A group without one error has a finite median and finite bounds; the far one
/// leans on the prior of the mean.
#[must_use]
pub fn posterior(studies: &[Counts], level: Level, prior: PriorScales, fineness: Fineness) -> Posterior {
    let (shares, reporting) = arms_of(studies);
    let tail = level.tail();
    let wanted = [0.5, tail, 1.0 - tail];
    let of = |[median, lower, upper]: [f64; 3]| Quantiles { median, lower, upper };
    let grids = shares.map(|shares| (!shares.is_empty()).then(|| ArmGrid::new(shares, prior, &fineness)));
    let [Some(first), Some(second)] = &grids else {
        let one = grids.iter().map(|grid| {
            let grid = grid.as_ref()?;
            let alone = grid.alone();
            let mass: Vec<f64> = (0..grid.means.points.len()).map(|a| alone.iter().map(|row| row[a]).sum()).collect();
            let spread = mean_of(&by_spread(&alone), &grid.spreads);
            let ahead = Scores::of_new_study(&alone, &grid.spreads, &grid.means).quantiles(level);
            Some((of(of_mean(&mass, &grid.means, wanted)), mean_of(&mass, &grid.means.points), spread, ahead))
        });
        let [sens, spec] =
            <[Option<(Quantiles, f64, f64, Quantiles)>; 2]>::try_from(one.collect::<Vec<_>>()).unwrap_or_default();
        return Posterior {
            logit_sens: sens.map(|it| it.0),
            logit_spec: spec.map(|it| it.0),
            log_lr_pos: None,
            log_lr_neg: None,
            log_dor: None,
            mean: PosteriorMeans {
                logit_sens: sens.map(|it| it.1),
                logit_spec: spec.map(|it| it.1),
                tau_sens: sens.map(|it| it.2),
                tau_spec: spec.map(|it| it.2),
                rho: None,
            },
            ahead: Ahead {
                logit_sens: sens.map(|it| it.3),
                logit_spec: spec.map(|it| it.3),
                log_lr_pos: None,
                log_lr_neg: None,
            },
            mean_shape: None,
            ahead_shape: None,
        };
    };
    let joint = integrate(Own { arms: [first, second], reporting: &reporting }, &fineness);
    let [logit_sens, logit_spec, log_lr_pos, log_lr_neg, log_dor] =
        ratios_of([first, second], &joint.mass, wanted).map(Some);
    let [by_first, by_second] = sums(&joint.mass);
    let of_spreads = [0, 1].map(|side| by_spread(&joint.by_spread[side]));
    let grids = [first, second];
    let spreads = [0, 1].map(|side| mean_of(&of_spreads[side], &grids[side].spreads));
    // Covariances of the two means, and of a new study's logits.
    let means = [mean_of(&by_first, &first.means.points), mean_of(&by_second, &second.means.points)];
    let variance = |mass: &[f64], points: &[f64], mean: f64| {
        mean_of(mass, &points.iter().map(|x| (x - mean) * (x - mean)).collect::<Vec<f64>>())
    };
    let variances =
        [variance(&by_first, &first.means.points, means[0]), variance(&by_second, &second.means.points, means[1])];
    let by_row: Vec<f64> = joint
        .mass
        .iter()
        .zip(&first.means.points)
        .map(|(row, x)| {
            (x - means[0]) * row.iter().zip(&second.means.points).map(|(m, y)| m * (y - means[1])).sum::<f64>()
        })
        .collect();
    let covariance = by_row.iter().sum::<f64>() / by_first.iter().sum::<f64>();
    let squares = [0, 1].map(|side| {
        mean_of(&of_spreads[side], &grids[side].spreads.iter().map(|spread| spread * spread).collect::<Vec<f64>>())
    });
    let correlation = |covariance: f64, [a, b]: [f64; 2]| (covariance / (a * b).sqrt()).clamp(-0.999, 0.999);
    let mean_pair = Pair {
        scores: [Scores::of_mean(&by_first, &first.means), Scores::of_mean(&by_second, &second.means)],
        correlation: correlation(covariance, variances),
    };
    let new_study =
        |side: usize| Scores::of_new_study(&joint.by_spread[side], &grids[side].spreads, &grids[side].means);
    let ahead = Pair {
        scores: [new_study(0), new_study(1)],
        correlation: correlation(covariance + joint.between, [0, 1].map(|side| variances[side] + squares[side])),
    };
    let next_pos =
        ahead.of_both(0, wanted, |mu1, mu2| ln_expit(mu1) - ln_expit(-mu2), |c, mu1| below(c - ln_expit(mu1)));
    let [next_median, next_upper, next_lower] = ahead
        .of_both(1, wanted, |mu2, mu1| ln_expit(mu2) - ln_expit(-mu1), |c, mu2| below(c - ln_expit(mu2)))
        .map(|it| -it);
    Posterior {
        ahead: Ahead {
            logit_sens: Some(ahead.scores[0].quantiles(level)),
            logit_spec: Some(ahead.scores[1].quantiles(level)),
            log_lr_pos: Some(of(next_pos)),
            log_lr_neg: Some(Quantiles { median: next_median, lower: next_lower, upper: next_upper }),
        },
        mean_shape: Some(mean_pair.shape()),
        ahead_shape: Some(ahead.shape()),
        logit_sens,
        logit_spec,
        log_lr_pos,
        log_lr_neg,
        log_dor,
        mean: PosteriorMeans {
            logit_sens: Some(means[0]),
            logit_spec: Some(means[1]),
            tau_sens: Some(spreads[0]),
            tau_spec: Some(spreads[1]),
            rho: (!reporting.both.is_empty()).then_some(joint.correlation),
        },
    }
}

/// The arms of studies, in one order whatever the one given, and which of them report both.
fn arms_of(studies: &[Counts]) -> ([Vec<Share>; 2], Reporting) {
    let mut shares: [Vec<Share>; 2] = [Vec::new(), Vec::new()];
    let mut reporting = Reporting { both: Vec::new(), alone: [Vec::new(), Vec::new()] };
    for study in in_order(studies) {
        let arms = [study.diseased(), study.non_diseased()].map(|arm| arm.filter(|arm| arm.n > 0));
        let mut places = [None, None];
        for (side, arm) in arms.iter().enumerate() {
            if let Some(arm) = arm {
                places[side] = Some(shares[side].len());
                shares[side].push(Share { correct: arm.correct as f64, n: arm.n as f64 });
            }
        }
        match places {
            [Some(first), Some(second)] => reporting.both.push([first, second]),
            [Some(first), None] => reporting.alone[0].push(first),
            [None, Some(second)] => reporting.alone[1].push(second),
            [None, None] => {}
        }
    }
    (shares, reporting)
}

/// The mass of each first mean, and of each second one.
fn sums(mass: &[Vec<f64>]) -> [Vec<f64>; 2] {
    let columns = mass.first().map_or(0, Vec::len);
    [
        mass.iter().map(|row| row.iter().sum()).collect(),
        (0..columns).map(|b| mass.iter().map(|row| row[b]).sum()).collect(),
    ]
}

/// `ln expit(x)`, without loss for large `|x|`.
fn ln_expit(x: f64) -> f64 {
    x.min(0.0) - (-x.abs()).exp().ln_1p()
}

/// `ln(e^d - 1)` where `d` is positive: up to where `ln(1 + e^x)` is below `d`.
fn below(d: f64) -> f64 {
    if d > 0.0 { d + (-(-d).exp()).ln_1p() } else { f64::NEG_INFINITY }
}

/// Quantiles of both means and of `ln LR+ = ln expit(μ1) + ln(1 + e^μ2)`, `ln LR- = ln(1 + e^-μ2) - ln(1 + e^μ1)` and `ln DOR = μ1 + μ2`.
fn ratios_of([first, second]: [&ArmGrid; 2], mass: &[Vec<f64>], wanted: [f64; 3]) -> [Quantiles; 5] {
    let [by_first, by_second] = sums(mass);
    let turned: Vec<Vec<f64>> =
        (0..second.means.points.len()).map(|b| mass.iter().map(|row| row[b]).collect()).collect();
    let ends = |grid: &ArmGrid| [grid.means.points[0], grid.means.points[grid.means.points.len() - 1]];
    let ([low1, high1], [low2, high2]) = (ends(first), ends(second));
    let positive = of_both(
        mass,
        &first.means,
        &second.means,
        [ln_expit(low1) - ln_expit(-low2), ln_expit(high1) - ln_expit(-high2)],
        wanted,
        |c, mu1| below(c - ln_expit(mu1)),
    );
    // It falls with both means: -ln LR- rises, and its quantiles are those of the other side.
    let [median, upper, lower] = of_both(
        &turned,
        &second.means,
        &first.means,
        [ln_expit(low2) - ln_expit(-low1), ln_expit(high2) - ln_expit(-high1)],
        wanted,
        |c, mu2| below(c - ln_expit(mu2)),
    )
    .map(|it| -it);
    let odds = of_both(mass, &first.means, &second.means, [low1 + low2, high1 + high2], wanted, |c, mu1| c - mu1);
    let of = |[median, lower, upper]: [f64; 3]| Quantiles { median, lower, upper };
    [
        of(of_mean(&by_first, &first.means, wanted)),
        of(of_mean(&by_second, &second.means, wanted)),
        of(positive),
        Quantiles { median, lower, upper },
        of(odds),
    ]
}

/// The mass of each spread.
fn by_spread(mass: &[Vec<f64>]) -> Vec<f64> {
    mass.iter().map(|row| row.iter().sum()).collect()
}

fn mean_of(mass: &[f64], values: &[f64]) -> f64 {
    mass.iter().zip(values).map(|(mass, value)| mass * value).sum::<f64>() / mass.iter().sum::<f64>()
}

impl Posterior {
    /// Medians and bounds as measures at the summary point.
    #[must_use]
    pub fn summary(&self) -> Summary {
        Summary {
            sensitivity: self.logit_sens.and_then(Quantiles::share),
            specificity: self.logit_spec.and_then(Quantiles::share),
            lr_positive: self.log_lr_pos.and_then(Quantiles::ratio),
            lr_negative: self.log_lr_neg.and_then(Quantiles::ratio),
            dor: self.log_dor.and_then(Quantiles::ratio),
        }
    }
}
