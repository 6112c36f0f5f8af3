//! What counts as positive, equivocal, negative, and as no result at all.

use serde::{Deserialize, Serialize};

use super::limits::{MAX_NAME, MAX_TEXT};
use crate::field::{Checker, Part};

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
    /// A measurement against a norm by sex or age.
    Norm,
    /// Graded, such as unable, or able but painful.
    Graded,
}

impl CriterionKind {
    /// Whether it compares a number.
    #[must_use]
    pub fn is_measured(self) -> bool {
        matches!(self, Self::Threshold | Self::SideDifference | Self::Ratio | Self::Norm)
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
            ..self.clone()
        }
    }

    fn is_blank(&self) -> bool {
        self.text.trim().is_empty() && self.value.is_none()
    }
}
