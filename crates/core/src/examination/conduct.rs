//! What is written down while an examination is carried out, and what is concluded of it.

use chrono::NaiveDate;
use serde::{Deserialize, Serialize};

use super::attempt::Attempt;
use crate::catalogue::limits::{MAX_ITEMS, MAX_NAME, MAX_TEXT};
use crate::field::{Checker, Part, parts};
use crate::plan::{ExaminationPlan, MAX_PLANNED, PlanAction};
use crate::{FieldError, FieldErrorCode, TestId};

/// Attempts at one test.
const MAX_ATTEMPTS: usize = 30;
const HOURS: (f64, f64) = (0.0, 8_784.0);

/// Which side is affected.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum AffectedSide {
    Left,
    Right,
    Both,
}

/// An examination as it is carried out: everything that the examiner says, nothing that follows from it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ExaminationConduct {
    /// Which side is affected.
    pub affected_side: Option<AffectedSide>,
    /// Its tests in the order in which they were begun.
    pub tests: Vec<TestConduct>,
    /// Urgent findings that were met.
    pub urgent: Vec<UrgentFound>,
    /// Conditions that must not be missed and were asked about otherwise.
    pub asked: Vec<String>,
    /// What is concluded.
    pub conclusion: Conclusion,
    /// What is to be examined again.
    pub repeats: Vec<RepeatDue>,
}

/// A test of the plan, as it was carried out.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TestConduct {
    /// Which test.
    pub test: Option<TestId>,
    /// Every attempt, in the order in which they were made.
    pub attempts: Vec<Attempt>,
    /// The examiner passed it over; why is said beside it.
    pub skipped: bool,
    /// Why it was passed over.
    pub reason: String,
}

/// An urgent finding that was met.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct UrgentFound {
    /// The test whose sheet names it.
    pub test: Option<TestId>,
    /// The finding.
    pub finding: String,
    /// What to do.
    pub action: String,
    /// Within how many hours; 0 is at once.
    pub within_hours: Option<f64>,
    /// It was done; none while nobody said.
    pub done: Option<bool>,
    /// What was done, or why not.
    pub note: String,
}

/// What is concluded of an examination.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Conclusion {
    /// In words.
    pub text: String,
    /// The conditions in question cannot be told apart, or not be decided, by this examination.
    pub undecided: bool,
    /// What is done.
    pub action: Option<PlanAction>,
    /// Which imaging, referral or treatment.
    pub next: String,
    /// By when.
    pub deadline: Option<NaiveDate>,
    /// It was done.
    pub done: bool,
    /// What it means for treatment.
    pub treatment: String,
    /// What it means for training and work.
    pub training: String,
}

/// Something that is to be examined again.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct RepeatDue {
    /// The test; none for the whole examination.
    pub test: Option<TestId>,
    /// On which day.
    pub on: Option<NaiveDate>,
    /// What it waits for, in words.
    pub trigger: String,
    /// What must then be the same.
    pub keep_same: String,
    /// It was done.
    pub done: bool,
}

impl ExaminationConduct {
    /// Checks what was written down against the plan that is carried out.
    ///
    /// # Errors
    /// Every fault found: tests that the plan has not, or that stand there twice; attempts without a side or without a result.
    pub fn check(&self, plan: &ExaminationPlan) -> Result<Self, Vec<FieldError>> {
        let mut checker = Checker::default();
        let c = &mut checker;
        let known = |id: TestId| plan.tests.iter().any(|it| it.test == id);
        let tests = parts(c, "tests", &self.tests, MAX_PLANNED);
        for (nth, it) in self.tests.iter().enumerate() {
            let field = format!("tests[{nth}].test");
            let Some(test) = c.present(&field, it.test, "Give a test of the plan.") else { continue };
            if !known(test) {
                let message = "The plan has no such test.";
                c.push(FieldError::new(field, FieldErrorCode::Unknown, test, message, "Give a test of the plan."));
            } else if self.tests[..nth].iter().any(|other| other.test == Some(test)) {
                let message = "This test stands here twice.";
                let remedy = "Put all attempts at it into one entry.";
                c.push(FieldError::new(field, FieldErrorCode::Duplicate, test, message, remedy));
            }
        }
        let urgent = parts(c, "urgent", &self.urgent, MAX_ITEMS);
        let repeats = parts(c, "repeats", &self.repeats, MAX_ITEMS);
        let about = self.urgent.iter().enumerate().map(|(nth, it)| (format!("urgent[{nth}].test"), it.test));
        let again = self.repeats.iter().enumerate().map(|(nth, it)| (format!("repeats[{nth}].test"), it.test));
        for (field, test) in about.chain(again) {
            if let Some(test) = test.filter(|it| !known(*it)) {
                let message = "The plan has no such test.";
                c.push(FieldError::new(field, FieldErrorCode::Unknown, test, message, "Give a test of the plan."));
            }
        }
        let asked = c.texts("asked", &self.asked, MAX_ITEMS, MAX_NAME);
        let conclusion = self.conclusion.checked(c, "conclusion");
        let affected_side = self.affected_side;
        checker.finish(Some(Self { affected_side, tests, urgent, asked, conclusion, repeats }))
    }

    /// What was written of a test.
    #[must_use]
    pub fn of(&self, test: TestId) -> Option<&TestConduct> {
        self.tests.iter().find(|it| it.test == Some(test))
    }

    /// The earliest day on which something of it is due: a repeat, or what was concluded to be done. None when nothing is open.
    #[must_use]
    pub fn next_due(&self) -> Option<NaiveDate> {
        let repeats = self.repeats.iter().filter(|it| !it.done).filter_map(|it| it.on);
        repeats.chain(self.conclusion.deadline.filter(|_| !self.conclusion.done)).min()
    }

    /// The same with what may still change once an examination is finished taken from `other`, and nothing else: its conclusion, what is done again, and what
    /// was done about urgent findings. The findings themselves are locked then.
    #[must_use]
    pub fn with_conclusion_of(&self, other: &Self) -> Self {
        let (conclusion, repeats) = (other.conclusion.clone(), other.repeats.clone());
        let mut kept = Self { conclusion, repeats, ..self.clone() };
        for (own, given) in kept.urgent.iter_mut().zip(&other.urgent) {
            own.done = given.done;
            own.note.clone_from(&given.note);
        }
        kept
    }
}

impl Part for TestConduct {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        let attempts = parts(c, &field("attempts"), &self.attempts, MAX_ATTEMPTS);
        let reason = c.text(&field("reason"), &self.reason, MAX_TEXT);
        if self.skipped && reason.is_empty() && attempts.is_empty() {
            c.required(&field("reason"), "", MAX_TEXT, "Say why this test was passed over.");
        }
        Self { test: self.test, attempts, skipped: self.skipped, reason }
    }

    fn is_blank(&self) -> bool {
        self.test.is_none()
    }
}

impl Part for UrgentFound {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        Self {
            finding: c.required(&field("finding"), &self.finding, MAX_TEXT, "Say what was found."),
            action: c.text(&field("action"), &self.action, MAX_TEXT),
            within_hours: c.number(&field("within_hours"), self.within_hours, HOURS, "hours; 0 is at once"),
            note: c.text(&field("note"), &self.note, MAX_TEXT),
            ..self.clone()
        }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

impl Part for Conclusion {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let mut text = |name: &str, value: &str| c.text(&format!("{at}.{name}"), value, MAX_TEXT);
        Self {
            text: text("text", &self.text),
            next: text("next", &self.next),
            treatment: text("treatment", &self.treatment),
            training: text("training", &self.training),
            ..self.clone()
        }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

impl Part for RepeatDue {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        let trigger = c.text(&field("trigger"), &self.trigger, MAX_TEXT);
        if self.on.is_none() && trigger.is_empty() {
            let message = "Nothing says when this is due.";
            let remedy = "Give a day, or what it waits for.";
            c.push(FieldError::new(field("on"), FieldErrorCode::Missing, "", message, remedy));
        }
        Self { trigger, keep_same: c.text(&field("keep_same"), &self.keep_same, MAX_TEXT), ..self.clone() }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}
