//! From probability to action: below one threshold reassure, above another treat, in between go on testing.

use serde::{Deserialize, Serialize};

use super::supported_share;
use crate::pooling::JointShape;
use crate::quantity::expit;
use crate::{Estimate, Level, Probability, Ratio};

/// The threshold at which treating and not treating are equally good: `p = 1 / (1 + B / C)`, with `benefit` `B` of treating
/// somebody who has the condition and `harm` `C` of treating somebody who has not (Pauker and Kassirer 1975).
///
/// `None` unless both are positive and finite.
#[must_use]
pub fn treatment_threshold(benefit: f64, harm: f64) -> Option<Probability> {
    let sound = benefit > 0.0 && harm > 0.0 && benefit.is_finite() && harm.is_finite();
    sound.then(|| Probability::rounded(1.0 / (1.0 + benefit / harm)))
}

/// Two thresholds of action.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(try_from = "WireThresholds")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Thresholds {
    reassure_below: Probability,
    treat_above: Probability,
}

#[derive(Deserialize)]
struct WireThresholds {
    reassure_below: Probability,
    treat_above: Probability,
}

/// Thresholds in the wrong order.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error)]
#[error("the threshold for reassuring ({reassure}) must not exceed the one for treating ({treat})")]
pub struct ThresholdError {
    reassure: f64,
    treat: f64,
}

impl TryFrom<WireThresholds> for Thresholds {
    type Error = ThresholdError;
    fn try_from(wire: WireThresholds) -> Result<Self, ThresholdError> {
        Self::new(wire.reassure_below, wire.treat_above)
    }
}

impl Thresholds {
    /// Checked constructor.
    ///
    /// # Errors
    /// [`ThresholdError`] when reassuring would begin above treating.
    pub fn new(reassure_below: Probability, treat_above: Probability) -> Result<Self, ThresholdError> {
        if reassure_below <= treat_above {
            Ok(Self { reassure_below, treat_above })
        } else {
            Err(ThresholdError { reassure: reassure_below.get(), treat: treat_above.get() })
        }
    }

    /// Below it the patient is reassured.
    #[must_use]
    pub fn reassure_below(&self) -> Probability {
        self.reassure_below
    }

    /// Above it the patient is treated.
    #[must_use]
    pub fn treat_above(&self) -> Probability {
        self.treat_above
    }

    /// Where a probability lies.
    #[must_use]
    pub fn zone(&self, p: Probability) -> Zone {
        if p < self.reassure_below {
            Zone::Reassure
        } else if p > self.treat_above {
            Zone::Treat
        } else {
            Zone::Between
        }
    }

    /// Whether a result moves this patient to another zone, and whether its whole interval lies there. A probability of 1 or 0 that rests
    /// on an empty cell counts as the bound that the data support (see [`supported_share`]).
    #[must_use]
    pub fn crossing(&self, pre_test: Probability, post_test: Estimate<Probability>) -> Crossing {
        let (from, to) = (self.zone(pre_test), self.zone(supported_share(post_test)));
        let whole = self.zone(post_test.lower) == to && self.zone(post_test.upper) == to;
        Crossing { from, to, crosses: from != to, whole_interval: whole }
    }

    /// Pre-test probabilities at which one result or the other leads across a threshold, in ascending order and without overlap; outside
    /// them the test cannot change what is done, whatever it shows.
    ///
    /// A result whose ratio `r` is above 1 leads upwards across a threshold `t` from odds within `(odds(t) / r, odds(t)]`, one whose ratio is below 1
    /// downwards from odds within `[odds(t), odds(t) / r)`; what is returned is the union over both results and both thresholds, as
    /// probabilities. Usually the positive result is the first and the negative one the second, but a test that turns things around is read
    /// the same way. A weak test between distant thresholds has two ranges, and in between it changes nothing. Empty for a test that tells
    /// nothing (both ratios 1).
    #[must_use]
    pub fn useful_ranges(&self, lr_positive: Ratio, lr_negative: Ratio) -> Vec<[Probability; 2]> {
        let ratios = [lr_positive.get(), lr_negative.get()];
        let (raises, lowers) = (ratios.into_iter().fold(1.0, f64::max), ratios.into_iter().fold(1.0, f64::min));
        let around = |threshold: Probability| {
            let threshold = threshold.get();
            let odds = threshold / (1.0 - threshold);
            // At a threshold of 0 or 1 no result can lead beyond it, which 0/0 and infinity/infinity would hide.
            let divided = |ratio: f64| {
                let value = odds / ratio;
                if value.is_nan() { odds } else { value }
            };
            let back = |odds: f64| if odds.is_infinite() { 1.0 } else { odds / (1.0 + odds) };
            [back(divided(raises)).min(threshold), back(divided(lowers)).max(threshold)]
        };
        let [low, high] = [around(self.reassure_below), around(self.treat_above)];
        let apart = if low[1] < high[0] { vec![low, high] } else { vec![[low[0].min(high[0]), low[1].max(high[1])]] };
        apart.into_iter().filter(|[from, to]| from < to).map(|range| range.map(Probability::rounded)).collect()
    }
}

/// What a probability asks for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Zone {
    /// Low enough to reassure.
    Reassure,
    /// Neither.
    Between,
    /// High enough to treat.
    Treat,
}

/// What a result does to a patient.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Crossing {
    /// Before the test.
    pub from: Zone,
    /// After the result.
    pub to: Zone,
    /// Whether they differ.
    pub crosses: bool,
    /// Whether the whole interval lies in the new zone.
    pub whole_interval: bool,
}

/// Net benefit of acting on the test at a threshold `pt`: `Se p - (1 - Sp)(1 - p) pt / (1 - pt)`, in true positives per
/// patient (Vickers and Elkin 2006); and of treating everybody, `p - (1 - p) pt / (1 - pt)`. Treating nobody is 0.
///
/// `None` at `pt = 1`, where nobody would be treated.
#[must_use]
pub fn net_benefit(
    pre_test: Probability,
    sensitivity: Probability,
    specificity: Probability,
    threshold: Probability,
) -> Option<[f64; 2]> {
    let (p, pt) = (pre_test.get(), threshold.get());
    let exchange = pt / (1.0 - pt);
    let by_test = sensitivity.get() * p - (1.0 - specificity.get()) * (1.0 - p) * exchange;
    (pt < 1.0).then_some([by_test, p - (1.0 - p) * exchange])
}

/// One threshold of a net-benefit curve.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct BenefitPoint {
    /// The threshold.
    pub threshold: Probability,
    /// Net benefit of acting on the test.
    pub by_test: f64,
    /// Bounds of it, from what is not known of sensitivity and specificity together; `null` where that is not known.
    pub interval: Option<[f64; 2]>,
    /// Of treating everybody.
    pub treat_all: f64,
}

/// [`net_benefit`] at thresholds of 1, 2, ... 99 %, with equal-tailed bounds from the joint distribution of both shares.
///
/// At a threshold it is at most `v` where `Sp <= 1 - (Se p - v) / ((1 - p) pt / (1 - pt))`, whose chance is summed over the sensitivity.
#[must_use]
pub fn net_benefit_curve(
    pre_test: Probability,
    sensitivity: Probability,
    specificity: Probability,
    joint: Option<&JointShape>,
    level: Level,
) -> Vec<BenefitPoint> {
    let p = pre_test.get();
    let interval = |exchange: f64| {
        let harm = (1.0 - p) * exchange;
        let below = |value: f64, logit: f64| {
            let specificity = 1.0 - (expit(logit) * p - value) / harm;
            match specificity {
                it if it <= 0.0 => f64::NEG_INFINITY,
                it if it >= 1.0 => f64::INFINITY,
                it => (it / (1.0 - it)).ln(),
            }
        };
        joint.filter(|_| harm > 0.0).map(|joint| joint.bounds(level, [-harm, p], below))
    };
    let point = |percent: u64| {
        let threshold = Probability::of(percent, 100);
        let [by_test, treat_all] = net_benefit(pre_test, sensitivity, specificity, threshold)?;
        let around = |[low, high]: [f64; 2]| [low.min(by_test), high.max(by_test)];
        let interval = interval(threshold.get() / (1.0 - threshold.get())).map(around);
        Some(BenefitPoint { threshold, by_test, interval, treat_all })
    };
    (1..100).filter_map(point).collect()
}
