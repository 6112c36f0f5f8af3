//! What an examination came to, as it is kept when it is finished: with the figures and versions of that day.

use chrono::{Days, NaiveDate};
use serde::{Deserialize, Serialize};

use super::attempt::TestReading;
use super::conduct::ExaminationConduct;
use crate::catalogue::{Outcome, Repeat, RepeatWhen, ScreeningAnswer};
use crate::plan::{ExaminationEnd, FitReason, FitState, PlanAction};
use crate::{Estimate, FieldError, FieldErrorCode, Probability, Ratio, TestId};

/// What an examination came to.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ExaminationOutcome {
    /// What was asked before.
    pub screening: Vec<ScreeningAnswered>,
    /// What a caution of the whole examination said, if one held.
    pub stop: Option<String>,
    /// Every test of the plan, in its order.
    pub tests: Vec<OutcomeTest>,
    /// Each condition of the plan.
    pub questions: Vec<OutcomeQuestion>,
    /// Conditions that must not be missed.
    pub must_not_miss: Vec<AskedAbout>,
    /// Whether enough was known.
    pub end: ExaminationEnd,
    /// Some figure rests on made-up data.
    pub sample: bool,
    /// The program that computed it.
    pub engine: String,
}

/// A question that was asked before the examination.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ScreeningAnswered {
    /// The question.
    pub question: String,
    /// Its answer; none where nobody answered.
    pub answer: Option<ScreeningAnswer>,
}

/// A condition that must not be missed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct AskedAbout {
    /// Which.
    pub condition: String,
    /// It was asked about: by a result, or otherwise.
    pub asked: bool,
}

/// What a sheet says is done again, and when.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SuggestedRepeat {
    /// Which test.
    pub test: TestId,
    /// When.
    pub when: Option<RepeatWhen>,
    /// On which day, if it counts days.
    pub on: Option<NaiveDate>,
    /// Why, in words.
    pub reason: String,
    /// What must then be the same.
    pub keep_same: String,
}

/// A test of the plan, and what became of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct OutcomeTest {
    /// Which test.
    pub test: TestId,
    /// Its name then.
    pub name: String,
    /// Which way of doing it.
    pub variant: String,
    /// The version of its sheet; none where the examiner may not see it.
    pub sheet: Option<i32>,
    /// Whether it fitted.
    pub fit: FitState,
    /// Why not.
    pub reasons: Vec<FitReason>,
    /// It is done only where it is asked for, and nobody asked.
    pub left_out: bool,
    /// What it showed.
    pub reading: TestReading,
}

/// A condition, and what the results made of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct OutcomeQuestion {
    /// Which condition.
    pub condition: String,
    /// Its probability before the first test.
    pub pre_test: Probability,
    /// After the last one.
    pub after: Estimate<Probability>,
    /// What is done at that probability; none when it is not decided.
    pub action: Option<PlanAction>,
    /// The results that spoke to it, with the ratios of that day.
    pub steps: Vec<OutcomeStep>,
}

/// A result that spoke to a condition.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct OutcomeStep {
    /// Which test.
    pub test: TestId,
    /// Likelihood ratio of the result; none when there is none.
    pub ratio: Option<Estimate<Ratio>>,
    /// Probability after it.
    pub after: Option<Estimate<Probability>>,
    /// Studies behind the ratio.
    pub studies: usize,
    /// Names the pooled figures of that day; empty without any.
    #[serde(default)]
    pub figures: String,
}

/// Whether an examination may be finished as it stands.
///
/// # Errors
/// Every fault found: nothing is concluded; an urgent finding of which nobody says whether it was acted on; reassurance while one of `unasked`,
/// conditions that must not be missed, was not asked about, or after a caution of the whole examination (`stop`); imaging or a referral without a day by which it is to happen.
pub fn may_finish(conduct: &ExaminationConduct, stop: Option<&str>, unasked: &[String]) -> Result<(), Vec<FieldError>> {
    let mut errors = Vec::new();
    let conclusion = &conduct.conclusion;
    let mut missing = |field: &str, message: &str, remedy: &str| {
        errors.push(FieldError::new(field, FieldErrorCode::Missing, "", message, remedy));
    };
    if conclusion.text.is_empty() && !conclusion.undecided {
        let remedy = "Write the conclusion, or say that it cannot be decided.";
        missing("conclusion.text", "Nothing is concluded.", remedy);
    }
    if matches!(conclusion.action, Some(PlanAction::Image | PlanAction::Refer)) && conclusion.deadline.is_none() {
        missing("conclusion.deadline", "Nothing says by when this is to happen.", "Give the day.");
    }
    for (nth, _) in conduct.urgent.iter().enumerate().filter(|(_, it)| it.done.is_none()) {
        let message = "Nobody says whether this was acted on.";
        missing(&format!("urgent[{nth}].done"), message, "Say whether it was done.");
    }
    let reassured = conclusion.action == Some(PlanAction::Reassure);
    if let Some(stop) = stop.filter(|_| reassured) {
        let message = format!("The examination was stopped: {stop}");
        let remedy = "Say what is done about it instead.";
        errors.push(FieldError::new("conclusion.action", FieldErrorCode::Invalid, "reassure", message, remedy));
    }
    if reassured && !unasked.is_empty() {
        let message = format!("Nobody asked about what must not be missed: {}.", unasked.join(", "));
        let remedy = "Ask about it, or choose another action.";
        errors.push(FieldError::new("conclusion.action", FieldErrorCode::Invalid, "reassure", message, remedy));
    }
    if errors.is_empty() { Ok(()) } else { Err(errors) }
}

/// What a sheet says is done again after such a reading: only of a test that was negative or could not be read. Days count from `today`.
#[must_use]
pub fn suggested_repeats(
    test: TestId,
    reading: &TestReading,
    repeats: &[Repeat],
    today: NaiveDate,
) -> Vec<SuggestedRepeat> {
    if !matches!(reading.outcome, Some(Outcome::Negative | Outcome::NotInterpretable)) {
        return Vec::new();
    }
    let due = |it: &Repeat| {
        #[allow(
            clippy::cast_possible_truncation,
            clippy::cast_sign_loss,
            reason = "whole days from 0 to some thousand"
        )]
        let days = it.days.filter(|days| (0.0..=100_000.0).contains(days)).map(|days| Days::new(days.ceil() as u64));
        let on = days.and_then(|days| today.checked_add_days(days));
        SuggestedRepeat { test, when: it.when, on, reason: it.reason.clone(), keep_same: it.keep_same.clone() }
    };
    repeats.iter().map(due).collect()
}
