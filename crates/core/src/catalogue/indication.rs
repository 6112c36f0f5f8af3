//! For whom a test is, and where evidence for it was looked for in vain.

use chrono::NaiveDate;
use serde::{Deserialize, Serialize};

use super::limits::{MAX_NAME, MAX_TEXT};
use crate::field::{Checker, Part};

/// What speaks for doing the test.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Indication {
    /// What kind of thing it is.
    pub kind: Option<IndicationKind>,
    /// The complaint, the mechanism, the fact.
    pub text: String,
    /// Why it leads to this test.
    pub reason: String,
    /// Name of the variant for which alone it holds; empty when it holds for all.
    pub variant: String,
}

/// What kind of thing speaks for a test.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum IndicationKind {
    /// What the patient complains of.
    Complaint,
    /// How it began: the mechanism of injury.
    Mechanism,
    /// What the history must contain for the test to mean anything.
    History,
    /// A disease that is known.
    Disease,
}

/// Evidence was looked for, and none can be used. Not the same as a test that nobody studied.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct EvidenceSearch {
    /// When: a year, a month or a day, such as 2026, 2026-11 or 2026-11-30.
    pub when: String,
    /// Where: databases, and the question put to them.
    pub place: String,
    /// What was found.
    pub found: String,
    /// Why it cannot be used.
    pub unusable: String,
}

impl Part for Indication {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        Self {
            kind: c.present(&field("kind"), self.kind, "Choose what kind of indication it is."),
            text: c.required(&field("text"), &self.text, MAX_TEXT, "Say what speaks for the test."),
            reason: c.text(&field("reason"), &self.reason, MAX_TEXT),
            variant: c.text(&field("variant"), &self.variant, MAX_NAME),
        }
    }

    fn is_blank(&self) -> bool {
        self.text.trim().is_empty() && self.reason.trim().is_empty()
    }
}

impl Part for EvidenceSearch {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        let when = c.required(&field("when"), &self.when, 10, "Say when it was looked for, such as 2026-11.");
        if !when.is_empty() && !is_date(&when) {
            let remedy = "Write a year, a month or a day, such as 2026, 2026-11 or 2026-11-30.";
            c.invalid(&field("when"), &when, "This is not a date.", remedy);
        }
        Self {
            when,
            place: c.required(&field("place"), &self.place, MAX_TEXT, "Say where it was looked for."),
            found: c.text(&field("found"), &self.found, MAX_TEXT),
            unusable: c.required(&field("unusable"), &self.unusable, MAX_TEXT, "Say why nothing can be used."),
        }
    }

    fn is_blank(&self) -> bool {
        [&self.when, &self.place, &self.found, &self.unusable].iter().all(|text| text.trim().is_empty())
    }
}

/// Whether it is a year, a month or a day that exists.
fn is_date(text: &str) -> bool {
    let first = match text.len() {
        4 => "-01-01",
        7 => "-01",
        10 => "",
        _ => return false,
    };
    NaiveDate::parse_from_str(&format!("{text}{first}"), "%Y-%m-%d").is_ok()
}
