//! What counts as positive, equivocal, negative, and as no result at all.

use serde::{Deserialize, Serialize};

use super::limits::{DEGREES, MAX_ITEMS, MAX_NAME, MAX_TEXT};
use crate::field::{Checker, Part, parts};
use crate::{FieldError, FieldErrorCode};

/// What a criterion answers when it is met.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Outcome {
    /// The test is positive.
    Positive,
    /// Neither: say so.
    Equivocal,
    /// The test is negative.
    Negative,
    /// Could not be done, or cannot be read; never counted as negative.
    NotInterpretable,
}

/// What kind of thing is found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum CriterionKind {
    /// Something seen, heard or felt: a clunk, a shift, a lag, a gap, inability.
    Sign,
    /// Any pain.
    AnyPain,
    /// The pain for which the patient came.
    FamiliarPain,
    /// Apprehension.
    Apprehension,
    /// Tingling or numbness in a stated distribution.
    Paraesthesia,
    /// A measurement against a fixed value.
    Threshold,
    /// A measurement against the other side.
    SideDifference,
    /// A ratio of two measurements.
    Ratio,
    /// Active motion against passive motion of the same joint: by how much it is less.
    ActivePassiveDifference,
    /// A measurement against a norm by sex or age.
    Norm,
    /// Graded, such as unable, or able but painful.
    Graded,
}

impl CriterionKind {
    /// Whether it compares a number.
    #[must_use]
    pub fn is_measured(self) -> bool {
        matches!(
            self,
            Self::Threshold | Self::SideDifference | Self::ActivePassiveDifference | Self::Ratio | Self::Norm
        )
    }
}

/// How a measurement is compared with a value.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum Comparison {
    AtLeast,
    MoreThan,
    AtMost,
    LessThan,
}

/// Whom a norm is for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum Sex {
    Female,
    Male,
}

/// One criterion.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Criterion {
    /// What it answers.
    pub outcome: Option<Outcome>,
    /// What kind of finding it is.
    pub kind: Option<CriterionKind>,
    /// The finding in words.
    pub text: String,
    /// How the measurement is compared.
    pub comparison: Option<Comparison>,
    /// With which value.
    pub value: Option<f64>,
    /// In which unit.
    pub unit: String,
    /// For whom.
    pub sex: Option<Sex>,
    /// From which age, years.
    pub age_from: Option<f64>,
    /// Up to which age, years.
    pub age_to: Option<f64>,
    /// Name of the phase; empty when it is about the whole test.
    pub phase: String,
    /// How the end of the range feels.
    pub end_feel: Option<EndFeel>,
    /// At which angle the sign occurs, or from which on, degrees; an arc may be passed in either direction.
    pub arc_from: Option<f64>,
    /// Up to which angle, degrees.
    pub arc_to: Option<f64>,
    /// In which part of the way it occurs.
    pub part_of_range: Option<RangePart>,
    /// Whether something slips out of its place, or back.
    pub displacement: Option<Displacement>,
    /// It counts only when it comes in so many valid attempts.
    pub attempts: Option<f64>,
    /// How it turns round with the stage of the condition: a complete tear may be painless.
    pub reverses: String,
}

/// How the end of a range feels.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum EndFeel {
    Firm,
    Soft,
    Springy,
    /// Pain stops the motion before anything else does.
    Empty,
}

/// A part of the way through a range.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum RangePart {
    FirstThird,
    MiddleThird,
    LastThird,
}

/// Whether something leaves its place.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Displacement {
    /// Subluxation.
    SlipsOut,
    /// Reduction.
    GoesBack,
}

/// A finding of more than two levels, from the most normal to the most abnormal.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Grading {
    /// What is graded.
    pub name: String,
    /// Unit of classes of a number.
    pub unit: String,
    /// The levels, in order.
    pub levels: Vec<GradeLevel>,
}

/// One level of a finding.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct GradeLevel {
    /// Name, unique within the grading.
    pub name: String,
    /// How it is read when a single yes or no is wanted.
    pub outcome: Option<Outcome>,
    /// Of a class of numbers, its lower bound, which belongs to it.
    pub from: Option<f64>,
    /// Its upper bound, which belongs to the class above it.
    pub to: Option<f64>,
}

/// Why a patient cannot do a test.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum InabilityReason {
    Pain,
    Weakness,
    Stiffness,
    Fear,
    NotUnderstood,
}

/// What it means when a patient cannot do the test. The author says so for each reason; the program never decides it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Inability {
    /// Why not.
    pub reason: Option<InabilityReason>,
    /// What that means; never negative.
    pub outcome: Option<Outcome>,
    /// In words.
    pub note: String,
}

impl Part for Criterion {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        c.present(&field("outcome"), self.outcome, "Choose what it means when this is found.");
        Self {
            text: c.required(&field("text"), &self.text, MAX_TEXT, "Say what is seen, felt, measured or reported."),
            value: c.number(&field("value"), self.value, (-1e6, 1e6), ""),
            unit: c.text(&field("unit"), &self.unit, 30),
            age_from: c.number(&field("age_from"), self.age_from, (0.0, 130.0), "years"),
            age_to: c.number(&field("age_to"), self.age_to, (0.0, 130.0), "years"),
            phase: c.text(&field("phase"), &self.phase, MAX_NAME),
            arc_from: c.number(&field("arc_from"), self.arc_from, DEGREES, "degrees"),
            arc_to: c.number(&field("arc_to"), self.arc_to, DEGREES, "degrees"),
            attempts: c.number(&field("attempts"), self.attempts, (1.0, 100.0), "attempts"),
            reverses: c.text(&field("reverses"), &self.reverses, MAX_TEXT),
            ..self.clone()
        }
    }

    fn is_blank(&self) -> bool {
        self.text.trim().is_empty() && self.value.is_none()
    }
}

impl Part for Grading {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        let levels: Vec<GradeLevel> = parts(c, &field("levels"), &self.levels, MAX_ITEMS);
        c.unique(&field("levels"), levels.iter().map(|level| level.name.as_str()));
        if levels.len() == 1 {
            let remedy = "Add the others, or leave it out.";
            c.invalid(&field("levels"), 1, "A finding of levels has at least two.", remedy);
        }
        let name = if levels.is_empty() {
            c.text(&field("name"), &self.name, MAX_NAME)
        } else {
            c.required(&field("name"), &self.name, MAX_NAME, "Say what is graded.")
        };
        // Rank of what a level means; a level that is not interpretable has no place in the order.
        let rank = |level: &GradeLevel| match level.outcome? {
            Outcome::Negative => Some(0),
            Outcome::Equivocal => Some(1),
            Outcome::Positive => Some(2),
            Outcome::NotInterpretable => None,
        };
        // Empty lines are left out of the levels, but not of the form.
        let lines: Vec<usize> = (0..self.levels.len()).filter(|line| !self.levels[*line].is_blank()).collect();
        for (pair, line) in levels.windows(2).zip(lines.iter().skip(1)) {
            let place = format!("{at}.levels[{line}]");
            if let [before, level] = pair {
                if rank(before).zip(rank(level)).is_some_and(|(before, here)| before > here) {
                    let message = format!("This level means less than “{}” before it.", before.name);
                    let remedy = "Put the levels in order, the most normal one first.";
                    c.invalid(&format!("{place}.outcome"), "", message, remedy);
                }
                let bounded = |level: &GradeLevel| level.from.is_some() || level.to.is_some();
                // Small numbers may be the abnormal ones.
                let rising = before.to.is_some() && before.to == level.from;
                let falling = before.from.is_some() && before.from == level.to;
                if bounded(before) && bounded(level) && !rising && !falling {
                    let message = format!("This class and “{}” before it leave a gap or overlap.", before.name);
                    let remedy = "Let each class begin where its neighbour ends; a bound belongs to the upper class.";
                    c.invalid(&format!("{place}.from"), level.from.unwrap_or_default(), message, remedy);
                }
            }
        }
        Self { name, unit: c.text(&field("unit"), &self.unit, 30), levels }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

impl Part for GradeLevel {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        if self.outcome == Some(Outcome::NotInterpretable) {
            let message = "A level is something that was found; what cannot be read is no level.";
            let remedy = "Choose positive, equivocal or negative, and say under the criteria what cannot be read.";
            c.invalid(&field("outcome"), "", message, remedy);
        }
        let from = c.number(&field("from"), self.from, (-1e6, 1e6), "");
        let to = c.number(&field("to"), self.to, (-1e6, 1e6), "");
        if let (Some(low), Some(high)) = (from, to)
            && low >= high
        {
            let message = format!("The class ends before it begins at {low}.");
            c.invalid(&field("to"), high, message, "Put the smaller bound first.");
        }
        Self {
            name: c.required(&field("name"), &self.name, MAX_NAME, "Name the level."),
            outcome: c.present(&field("outcome"), self.outcome, "Choose how this level is read."),
            from,
            to,
        }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

/// One reason means one thing.
pub(super) fn check_inability(c: &mut Checker, at: &str, given: &[Inability]) {
    for (index, it) in given.iter().enumerate() {
        if it.reason.is_some() && given[..index].iter().any(|earlier| earlier.reason == it.reason) {
            let message = "This reason stands here already.";
            let field = format!("{at}[{index}].reason");
            c.push(FieldError::new(field, FieldErrorCode::Duplicate, "", message, "Say once what it means."));
        }
    }
}

impl Part for Inability {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        c.present(&field("reason"), self.reason, "Choose why the patient cannot do it.");
        c.present(&field("outcome"), self.outcome, "Choose what that means.");
        if self.outcome == Some(Outcome::Negative) {
            let message = "A test that cannot be done is never negative.";
            let remedy = "Choose positive, equivocal or not interpretable.";
            c.invalid(&field("outcome"), "negative", message, remedy);
        }
        Self { note: c.text(&field("note"), &self.note, MAX_TEXT), ..self.clone() }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}
