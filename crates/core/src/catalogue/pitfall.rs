//! What goes wrong with a test, and which way that pushes its result.

use serde::{Deserialize, Serialize};

use super::Purpose;
use super::finding::{Comparison, Criterion, CriterionKind, Outcome};
use super::limits::MAX_TEXT;
use crate::field::{Checker, Part};

/// Which way a pitfall pushes the result.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum Bias {
    TowardsPositive,
    TowardsNegative,
    Invalid,
}

/// What goes wrong.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Pitfall {
    /// What goes wrong.
    pub text: String,
    /// Why it changes the result.
    pub mechanism: String,
    /// How somebody who watches sees it.
    pub cue: String,
    /// What it does to what is measured, felt or reported; from this the direction of the bias follows.
    pub effect: Option<Effect>,
    /// Which way it pushes the result.
    pub bias: Option<Bias>,
    /// What to do about it.
    pub remedy: String,
    /// It lies in the patient (swelling, guarding, body size), not in how the test is done.
    pub patient_side: bool,
    /// A negative result counts in spite of it. Else one that lies in the patient and pushes towards negative makes it not interpretable.
    pub negative_stands: bool,
}

/// What a pitfall does to what is measured, felt or reported.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Effect {
    /// More motion.
    MoreMotion,
    /// Less motion.
    LessMotion,
    /// More pain.
    MorePain,
    /// Less pain.
    LessPain,
    /// Hides a sign that is there.
    HidesSign,
    /// Looks like a sign that is not there.
    FakesSign,
}

impl Effect {
    /// Which way an effect pushes a test whose positive findings are these: the direction on which all of them agree that it touches.
    ///
    /// A sign that is hidden is missed, and one that is faked is found. More motion pushes a measured angle or distance up, so it pushes
    /// towards positive where the finding is *at least*, towards negative where it is *at most*; where nothing is measured, laxity is too much
    /// motion and a short muscle too little. More pain makes a painful finding more likely, unless it is relief that counts (*less than*).
    /// None where no finding is touched, or where one is pushed one way and another the other way.
    #[must_use]
    pub fn bias<'a>(self, purpose: Purpose, criteria: impl IntoIterator<Item = &'a Criterion>) -> Option<Bias> {
        let positive = criteria.into_iter().filter(|criterion| criterion.outcome == Some(Outcome::Positive));
        let mut agreed = None;
        for bias in positive.filter_map(|criterion| self.bias_of(purpose, criterion)) {
            if agreed.is_some_and(|earlier| earlier != bias) {
                return None;
            }
            agreed = Some(bias);
        }
        agreed
    }

    /// Which way it pushes one positive finding, if it touches it.
    fn bias_of(self, purpose: Purpose, criterion: &Criterion) -> Option<Bias> {
        let towards = |positive: bool| Some(if positive { Bias::TowardsPositive } else { Bias::TowardsNegative });
        let fewer = matches!(criterion.comparison, Some(Comparison::AtMost | Comparison::LessThan));
        let kind = criterion.kind?;
        match self {
            Self::HidesSign => towards(false),
            Self::FakesSign => towards(true),
            Self::MorePain | Self::LessPain => {
                let painful = matches!(
                    kind,
                    CriterionKind::AnyPain
                        | CriterionKind::FamiliarPain
                        | CriterionKind::Apprehension
                        | CriterionKind::Paraesthesia
                );
                if painful { towards((self == Self::MorePain) != fewer) } else { None }
            }
            Self::MoreMotion | Self::LessMotion => {
                let wanted = if kind.is_measured() {
                    // A ratio, a difference of two motions, and a number without a comparison say nothing of the direction.
                    let moves = is_motion(&criterion.unit)
                        && criterion.comparison.is_some()
                        && kind != CriterionKind::ActivePassiveDifference;
                    moves.then_some(!fewer)
                } else {
                    match (kind, purpose) {
                        (CriterionKind::Sign | CriterionKind::Graded, Purpose::Laxity) => Some(true),
                        (CriterionKind::Sign | CriterionKind::Graded, Purpose::MuscleLength) => Some(false),
                        _ => None,
                    }
                };
                towards((self == Self::MoreMotion) == wanted?)
            }
        }
    }
}

/// Units of angles and distances.
fn is_motion(unit: &str) -> bool {
    const UNITS: [&str; 12] = [
        "°",
        "deg",
        "degree",
        "degrees",
        "mm",
        "millimetre",
        "millimetres",
        "cm",
        "centimetre",
        "centimetres",
        "m",
        "in",
    ];
    UNITS.contains(&unit.trim().to_lowercase().as_str())
}

impl Pitfall {
    /// Which way it pushes the result: as its author wrote, or as it follows from what it does to the positive findings.
    #[must_use]
    pub fn direction<'a>(&self, purpose: Purpose, criteria: impl IntoIterator<Item = &'a Criterion>) -> Option<Bias> {
        self.bias.or_else(|| self.effect?.bias(purpose, criteria))
    }

    /// Whether it makes a negative result not interpretable when it pushes that way.
    #[must_use]
    pub fn spoils_negative(&self, direction: Option<Bias>) -> bool {
        self.patient_side && !self.negative_stands && direction == Some(Bias::TowardsNegative)
    }
}

impl Part for Pitfall {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        Self {
            text: c.required(&field("text"), &self.text, MAX_TEXT, "Say what goes wrong."),
            mechanism: c.text(&field("mechanism"), &self.mechanism, MAX_TEXT),
            cue: c.text(&field("cue"), &self.cue, MAX_TEXT),
            effect: self.effect,
            bias: self.bias,
            remedy: c.text(&field("remedy"), &self.remedy, MAX_TEXT),
            patient_side: self.patient_side,
            negative_stands: self.negative_stands,
        }
    }

    fn is_blank(&self) -> bool {
        [&self.text, &self.mechanism, &self.cue, &self.remedy].iter().all(|text| text.trim().is_empty())
    }
}
