//! From probability to action: below one threshold reassure, above another treat, in between go on testing.

use serde::{Deserialize, Serialize};

use crate::{Estimate, Probability, Ratio};

/// The threshold at which treating and not treating are equally good: `p = 1 / (1 + B / C)`, with `benefit` `B` of treating
/// somebody who has the condition and `harm` `C` of treating somebody who has not (Pauker and Kassirer 1975).
///
/// `None` unless both are positive and finite.
#[must_use]
pub fn treatment_threshold(benefit: f64, harm: f64) -> Option<Probability> {
    let sound = benefit > 0.0 && harm > 0.0 && benefit.is_finite() && harm.is_finite();
    sound.then(|| Probability::clamped(1.0 / (1.0 + benefit / harm)))
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

    /// Whether a result moves this patient to another zone, and whether its whole interval lies there.
    #[must_use]
    pub fn crossing(&self, pre_test: Probability, post_test: Estimate<Probability>) -> Crossing {
        let (from, to) = (self.zone(pre_test), self.zone(post_test.estimate));
        let whole = self.zone(post_test.lower) == to && self.zone(post_test.upper) == to;
        Crossing { from, to, crosses: from != to, whole_interval: whole }
    }

    /// Pre-test probabilities at which one result or the other leads across a threshold: below the first a positive result
    /// no longer leads out of "reassure", above the second a negative one no longer out of "treat". In between the test can
    /// change what is done.
    ///
    /// From odds: `low = odds(reassure) / LR+`, `high = odds(treat) / LR-`, as probabilities. `None` for tests that turn
    /// things around (`LR+ < LR-`).
    #[must_use]
    pub fn useful_range(&self, lr_positive: Ratio, lr_negative: Ratio) -> Option<[Probability; 2]> {
        let odds = |p: Probability| p.get() / (1.0 - p.get());
        let back = |odds: f64| Probability::clamped(if odds.is_infinite() { 1.0 } else { odds / (1.0 + odds) });
        let low = odds(self.reassure_below) / lr_positive.get();
        let high = odds(self.treat_above) / lr_negative.get();
        (lr_positive >= lr_negative && !low.is_nan() && !high.is_nan()).then(|| [back(low), back(high)])
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
