//! Where an examination stands: what the results so far make of each condition, what the open tests can still change, and whether enough is known.

use serde::{Deserialize, Serialize};

use super::action::PlanAction;
use super::question::PlanQuestion;
use crate::combine::{TestAccuracy, decision_changes, expected_information, pattern_results};
use crate::likelihood::{ChainStep, Finding, Zone, chain_steps, supported_share};
use crate::{Estimate, Level, Probability};

/// A result that was found, by the place of its test in the plan.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct StandingResult {
    /// Which test.
    pub test: usize,
    /// What it showed, and what is known of the test for this condition.
    pub finding: Finding,
}

/// A test that was not done yet, and what is known of it for this condition.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TestLeft {
    /// Which test, by its place in the plan.
    pub test: usize,
    /// How accurate it is.
    pub accuracy: TestAccuracy,
    /// It is done only where it is asked for, so that an examination does not wait for it.
    pub optional: bool,
}

/// What one result did.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StandingStep {
    /// Which test, by its place in the plan.
    pub test: usize,
    /// Its ratio, and the probability after it.
    #[serde(flatten)]
    pub step: ChainStep,
    /// What is done then; none when it is not decided.
    pub action: Option<PlanAction>,
}

/// What a test that is still open would tell.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct OpenTest {
    /// Which test, by its place in the plan.
    pub test: usize,
    /// Information expected of it now, in bits.
    pub information: f64,
    /// In how many such patients its result, as the next one, changes what is done.
    pub changes: Probability,
}

/// How far a question is answered.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum QuestionState {
    /// A threshold is crossed: enough is known.
    Decided,
    /// No open test that is always done can change what is done, whatever all of them show.
    Settled,
    /// An open test that is always done can still change what is done.
    Open,
}

/// How far one condition is decided.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct QuestionStanding {
    /// The results that speak to it, in the order in which they were found.
    pub steps: Vec<StandingStep>,
    /// Its probability now.
    pub now: Estimate<Probability>,
    /// What is done at this probability; none when it is not decided.
    pub action: Option<PlanAction>,
    /// The same is done anywhere in the interval.
    pub whole_interval: bool,
    /// How far it is answered.
    pub state: QuestionState,
    /// The open tests that have figures for it, in their order.
    pub open: Vec<OpenTest>,
}

/// Whether an examination has come to its end.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ExaminationEnd {
    /// A question is open.
    Open,
    /// Every question is answered, but a condition that must not be missed was not asked about.
    MustNotMiss,
    /// Enough is known.
    Finished,
}

/// How far one condition is decided by the results found, each starting where the one before it ended, as if the tests were independent given
/// the condition ([`chain_steps`]), and what the open ones can still change.
///
/// A question counts as [`QuestionState::Settled`] when the probability stays with the same action even if every open test that is always done showed its result with the
/// highest likelihood ratio, and also if every one showed that with the lowest.
#[must_use]
pub fn question_standing(
    question: &PlanQuestion,
    found: &[StandingResult],
    open: &[TestLeft],
    level: Level,
) -> QuestionStanding {
    let start = question.pre_test;
    let start = Estimate { estimate: start, lower: start, upper: start };
    let findings: Vec<Finding> = found.iter().map(|it| it.finding).collect();
    let (steps, now) = chain_steps(start, &findings, level);
    let mut at = start.estimate;
    let steps = found.iter().zip(steps).map(|(result, step)| {
        at = step.after.map_or(at, supported_share);
        StandingStep { test: result.test, step, action: question.action(at) }
    });
    let steps = steps.collect();
    let action = question.action(now.estimate);
    let (low, high) = (question.action(now.lower), question.action(now.upper));
    let crossed = question.thresholds.zone(now.estimate) != Zone::Between;
    let reached = |highest: bool| {
        let odds = |p: f64| p / (1.0 - p);
        let extreme = |of: &TestAccuracy| {
            let (se, sp) = (of.sensitivity.get(), of.specificity.get());
            let ratios = [se / (1.0 - sp), (1.0 - se) / sp].into_iter().filter(|it| !it.is_nan());
            ratios.fold(1.0, |a: f64, b| if highest { a.max(b) } else { a.min(b) })
        };
        let odds = open.iter().filter(|it| !it.optional).fold(odds(now.estimate.get()), |odds, it| {
            let moved = odds * extreme(&it.accuracy);
            // A certainty stays one.
            if moved.is_nan() { odds } else { moved }
        });
        question.action(Probability::rounded(if odds.is_infinite() { 1.0 } else { odds / (1.0 + odds) }))
    };
    let state = if crossed {
        QuestionState::Decided
    } else if reached(true) == action && reached(false) == action {
        QuestionState::Settled
    } else {
        QuestionState::Open
    };
    let worth = |it: &TestLeft| {
        let patterns = pattern_results(&[it.accuracy]).ok();
        let changes = patterns.and_then(|it| decision_changes(&it, now.estimate, |p| question.action(p)));
        OpenTest {
            test: it.test,
            information: expected_information(now.estimate, it.accuracy),
            changes: changes.and_then(|it| it.first().copied()).unwrap_or(Probability::ZERO),
        }
    };
    let open = open.iter().map(worth).collect();
    QuestionStanding { steps, now, action, whole_interval: low == action && high == action, state, open }
}

/// Whether an examination has come to its end: it has not while a question is open, nor while one of the conditions that must not be missed was not
/// asked about (`unasked` of them), however certain all others are.
#[must_use]
pub fn examination_end(states: impl IntoIterator<Item = QuestionState>, unasked: usize) -> ExaminationEnd {
    if states.into_iter().any(|it| it == QuestionState::Open) {
        ExaminationEnd::Open
    } else if unasked > 0 {
        ExaminationEnd::MustNotMiss
    } else {
        ExaminationEnd::Finished
    }
}
