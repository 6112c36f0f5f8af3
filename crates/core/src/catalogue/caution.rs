//! Whom not to do a test on, when to stop, and which findings need prompt referral.

use serde::{Deserialize, Serialize};

use super::anatomy::Joint;
use super::limits::{MAX_NAME, MAX_TEXT, distinct};
use crate::field::{Checker, Part};
use crate::{FieldError, FieldErrorCode};

/// How strict a caution is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum CautionKind {
    /// Do not do the test.
    Contraindication,
    /// Do it with care.
    Precaution,
    /// Stop at once when this comes.
    StopRule,
}

/// Whom not to do it on, and when to stop.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Caution {
    /// What it is about.
    pub text: String,
    /// How strict it is.
    pub kind: Option<CautionKind>,
    /// The question to ask, or the sign to look for.
    pub screening: String,
    /// The answers to that question with which it holds.
    pub unsafe_answers: Vec<ScreeningAnswer>,
    /// How far it reaches.
    pub scope: Option<CautionScope>,
    /// The joint, of tests that load one.
    pub joint: Option<Joint>,
    /// What to do instead.
    pub instead: String,
    /// Within how many hours that is to happen; 0 is at once.
    pub within_hours: Option<f64>,
    /// Name of the variant for which alone it holds; empty when it holds for all.
    pub variant: String,
}

/// An answer to a screening question.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ScreeningAnswer {
    /// Yes, or the sign is there.
    Yes,
    /// No, or the sign is not there.
    No,
    /// Neither can be said.
    Unknown,
}

/// How far a caution reaches.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum CautionScope {
    /// This test only.
    Test,
    /// Every test that loads the joint.
    Joint,
    /// Every test of the region.
    Region,
    /// The whole examination: a red flag.
    Examination,
}

/// A finding that needs prompt referral.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct UrgentReading {
    /// The finding.
    pub finding: String,
    /// What to do.
    pub action: String,
    /// Within how many hours; 0 is at once.
    pub within_hours: Option<f64>,
}

/// A year, in hours.
const MAX_HOURS: f64 = 8_784.0;

/// Within how many hours something is to be done.
pub(super) fn hours(c: &mut Checker, field: &str, value: Option<f64>) -> Option<f64> {
    c.number(field, value, (0.0, MAX_HOURS), "hours; 0 is at once")
}

impl Part for Caution {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        if self.scope == Some(CautionScope::Joint) {
            c.present(&field("joint"), self.joint, "Choose the joint.");
        }
        let screening = c.text(&field("screening"), &self.screening, MAX_TEXT);
        if screening.is_empty() && !self.unsafe_answers.is_empty() {
            let message = "An answer is called unsafe, but no question is asked.";
            c.push(FieldError::new(field("screening"), FieldErrorCode::Missing, "", message, "Write the question."));
        }
        if self.unsafe_answers.contains(&ScreeningAnswer::Yes) && self.unsafe_answers.contains(&ScreeningAnswer::No) {
            let message = "With both yes and no unsafe, there is nothing to ask.";
            let remedy = "Leave one out, or make it a contraindication without a question.";
            c.invalid(&field("unsafe_answers"), "", message, remedy);
        }
        Self {
            text: c.required(&field("text"), &self.text, MAX_TEXT, "Say what the caution is about."),
            kind: self.kind,
            screening,
            unsafe_answers: distinct(&self.unsafe_answers),
            scope: self.scope,
            joint: self.joint,
            instead: c.text(&field("instead"), &self.instead, MAX_TEXT),
            within_hours: hours(c, &field("within_hours"), self.within_hours),
            variant: c.text(&field("variant"), &self.variant, MAX_NAME),
        }
    }

    fn is_blank(&self) -> bool {
        [&self.text, &self.screening, &self.instead].iter().all(|text| text.trim().is_empty())
    }
}

impl Part for UrgentReading {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        Self {
            finding: c.required(&field("finding"), &self.finding, MAX_TEXT, "Say which finding is urgent."),
            action: c.required(&field("action"), &self.action, MAX_TEXT, "Say what to do."),
            within_hours: hours(c, &field("within_hours"), self.within_hours),
        }
    }

    fn is_blank(&self) -> bool {
        self.finding.trim().is_empty() && self.action.trim().is_empty()
    }
}
