//! What guards a test: cautions, urgent readings, pitfalls, burden, alternatives, norms.

use serde::{Deserialize, Serialize};

use super::finding::Sex;
use super::limits::{MAX_NAME, MAX_TEXT};
use crate::field::{Checker, Part};

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
    /// What to do instead.
    pub instead: String,
}

/// A finding that needs prompt referral.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct UrgentReading {
    /// The finding.
    pub finding: String,
    /// What to do, and how soon.
    pub action: String,
}

/// Which way a pitfall pushes the result.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
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
    /// Which way it pushes the result.
    pub bias: Option<Bias>,
    /// What to do about it.
    pub remedy: String,
    /// It lies in the patient (swelling, guarding, body size), not in how the test is done.
    pub patient_side: bool,
}

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

/// A usual value of what the test measures.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Norm {
    /// What is measured.
    pub measure: String,
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
    /// Where it comes from.
    pub source: String,
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

impl Part for Caution {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        Self {
            text: c.required(&field("text"), &self.text, MAX_TEXT, "Say what the caution is about."),
            kind: self.kind,
            screening: c.text(&field("screening"), &self.screening, MAX_TEXT),
            instead: c.text(&field("instead"), &self.instead, MAX_TEXT),
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
            action: c.required(&field("action"), &self.action, MAX_TEXT, "Say what to do, and how soon."),
        }
    }

    fn is_blank(&self) -> bool {
        self.finding.trim().is_empty() && self.action.trim().is_empty()
    }
}

impl Part for Pitfall {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        Self {
            text: c.required(&field("text"), &self.text, MAX_TEXT, "Say what goes wrong."),
            mechanism: c.text(&field("mechanism"), &self.mechanism, MAX_TEXT),
            cue: c.text(&field("cue"), &self.cue, MAX_TEXT),
            bias: self.bias,
            remedy: c.text(&field("remedy"), &self.remedy, MAX_TEXT),
            patient_side: self.patient_side,
        }
    }

    fn is_blank(&self) -> bool {
        [&self.text, &self.mechanism, &self.cue, &self.remedy].iter().all(|text| text.trim().is_empty())
    }
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
            measure: c.required(&field("measure"), &self.measure, MAX_NAME, "Say what is measured."),
            sex: self.sex,
            age_from: c.number(&field("age_from"), self.age_from, (0.0, 130.0), "years"),
            age_to: c.number(&field("age_to"), self.age_to, (0.0, 130.0), "years"),
            low: c.number(&field("low"), self.low, (-1e6, 1e6), ""),
            high: c.number(&field("high"), self.high, (-1e6, 1e6), ""),
            unit: c.text(&field("unit"), &self.unit, 30),
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
