//! What goes with a test: burden, alternatives, norms, and when it is done again.

use serde::{Deserialize, Serialize};

use super::finding::Sex;
use super::limits::{MAX_NAME, MAX_TEXT};
use crate::field::{Checker, Part};

/// What the test asks of patient and examiner.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Burden {
    /// How irritating it is, 0 (not at all) to 3 (hardly repeatable).
    pub irritation: Option<f64>,
    /// How many valid attempts it allows.
    pub tries: Option<f64>,
    /// How long it takes, minutes.
    pub minutes: Option<f64>,
    /// How many of the examiner's hands it needs.
    pub hands: Option<f64>,
}

/// What to do when the test cannot be done as it is taught.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Alternative {
    /// When: a large limb, small hands, an acute joint.
    pub situation: String,
    /// What to do then.
    pub instead: String,
}

/// What a norm is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum NormKind {
    /// The value on one side.
    Value,
    /// How much the sides differ in health.
    SideDifference,
    /// How much of a sign is normal: some laxity, slight tenderness on both sides.
    Sign,
}

/// A usual value of what the test measures, or a normal amount of the sign it looks for.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Norm {
    /// What is measured or looked for.
    pub measure: String,
    /// What it is about.
    pub kind: Option<NormKind>,
    /// For whom.
    pub sex: Option<Sex>,
    /// From which age, years.
    pub age_from: Option<f64>,
    /// Up to which age, years.
    pub age_to: Option<f64>,
    /// Lower end of the usual range.
    pub low: Option<f64>,
    /// Upper end of the usual range.
    pub high: Option<f64>,
    /// Unit.
    pub unit: String,
    /// The normal amount in words.
    pub note: String,
    /// Where it comes from.
    pub source: String,
}

/// When a negative test, or one that could not be done, is done again.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Repeat {
    /// When.
    pub when: Option<RepeatWhen>,
    /// After how many days.
    pub days: Option<f64>,
    /// Why, in words.
    pub reason: String,
    /// What must then be the same.
    pub keep_same: String,
}

/// When a test is done again.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum RepeatWhen {
    SwellingGone,
    UnderAnaesthesia,
    AfterDays,
    Otherwise,
}

/// What it takes to call a second measurement changed.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Retest {
    /// Minimal detectable change.
    pub detectable_change: Option<f64>,
    /// Its unit.
    pub unit: String,
    /// Where it comes from.
    pub source: String,
    /// What must be kept the same between test and retest.
    pub keep_same: String,
}

impl Part for Burden {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        Self {
            irritation: c.number(&field("irritation"), self.irritation, (0.0, 3.0), ""),
            tries: c.number(&field("tries"), self.tries, (1.0, 100.0), "tries"),
            minutes: c.number(&field("minutes"), self.minutes, (0.0, 240.0), "minutes"),
            hands: c.number(&field("hands"), self.hands, (0.0, 4.0), "hands"),
        }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

impl Part for Alternative {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        Self {
            situation: c.required(&field("situation"), &self.situation, MAX_TEXT, "Say when this is needed."),
            instead: c.required(&field("instead"), &self.instead, MAX_TEXT, "Say what to do then."),
        }
    }

    fn is_blank(&self) -> bool {
        self.situation.trim().is_empty() && self.instead.trim().is_empty()
    }
}

impl Part for Norm {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        Self {
            measure: c.required(&field("measure"), &self.measure, MAX_NAME, "Say what is measured or looked for."),
            kind: self.kind,
            sex: self.sex,
            age_from: c.number(&field("age_from"), self.age_from, (0.0, 130.0), "years"),
            age_to: c.number(&field("age_to"), self.age_to, (0.0, 130.0), "years"),
            low: c.number(&field("low"), self.low, (-1e6, 1e6), ""),
            high: c.number(&field("high"), self.high, (-1e6, 1e6), ""),
            unit: c.text(&field("unit"), &self.unit, 30),
            note: c.text(&field("note"), &self.note, MAX_TEXT),
            source: c.text(&field("source"), &self.source, MAX_TEXT),
        }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

impl Part for Retest {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        Self {
            detectable_change: c.number(&field("detectable_change"), self.detectable_change, (0.0, 1e6), ""),
            unit: c.text(&field("unit"), &self.unit, 30),
            source: c.text(&field("source"), &self.source, MAX_TEXT),
            keep_same: c.text(&field("keep_same"), &self.keep_same, MAX_TEXT),
        }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

impl Part for Repeat {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        c.present(&field("when"), self.when, "Choose when it is done again.");
        let days = c.number(&field("days"), self.days, (0.0, 3_650.0), "days");
        if self.when == Some(RepeatWhen::AfterDays) {
            c.present(&field("days"), days, "Say after how many days.");
        }
        Self {
            when: self.when,
            days,
            reason: c.text(&field("reason"), &self.reason, MAX_TEXT),
            keep_same: c.text(&field("keep_same"), &self.keep_same, MAX_TEXT),
        }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}
