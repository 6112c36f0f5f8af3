//! The plan of an examination: for which questions, with which tests, in which order.

use std::collections::HashSet;

use serde::{Deserialize, Serialize};

use super::action::{ActionBand, ActionBandInput, PlanAction, actions};
use super::order::{MAX_PLANNED, OrderError, OrderWeights, check_weights, precedence};
use crate::catalogue::Region;
use crate::catalogue::limits::{MAX_NAME, MAX_TEXT, code};
use crate::field::Checker;
use crate::likelihood::Thresholds;
use crate::name::name_key;
use crate::population::{CareSetting, Course, Wakefulness};
use crate::{FieldError, FieldErrorCode, Probability, TestId};

/// More conditions at once are no plan.
pub const MAX_QUESTIONS: usize = 6;

/// A condition that an examination is to decide about, as a person or a file wrote it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PlanQuestionInput {
    /// Name of the target condition.
    pub condition: String,
    /// Probability of the condition before the first test, 0 to 1.
    pub pre_test: Option<f64>,
    /// Below this probability the patient is reassured.
    pub reassure_below: Option<f64>,
    /// Above this probability the condition is treated, or what `above` says.
    pub treat_above: Option<f64>,
    /// What is done between the two, the least probable first; where nothing is said, it is not decided.
    pub between: Vec<ActionBandInput>,
    /// What is done above the upper threshold; treated when nothing is said.
    pub above: Option<PlanAction>,
}

/// A test of an examination, as a person or a file wrote it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ExaminationTestInput {
    /// Which test.
    pub test: Option<TestId>,
    /// Name of the variant; empty for the taught one.
    pub variant: String,
    /// Why it is in the plan, or why at this place.
    pub reason: String,
    /// It is done only where it is asked for.
    pub optional: bool,
    /// It comes after every test that is not kept for last.
    pub keep_last: bool,
    /// Tests of the plan that come before it.
    pub after: Vec<TestId>,
}

/// A plan as a person or a file wrote it. Every field may be absent, so that all faults are told at once.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ExaminationPlanInput {
    /// What it is called; unique within the region.
    pub title: String,
    /// Region code.
    pub region: String,
    /// Where the patients are seen.
    pub setting: Option<CareSetting>,
    /// How long they have had it.
    #[serde(default)]
    pub course: Option<Course>,
    /// Whether they can guard.
    #[serde(default)]
    pub state: Option<Wakefulness>,
    /// For whom it is, and what else is to be said.
    pub note: String,
    /// What is to be decided: one condition, or several at once.
    pub questions: Vec<PlanQuestionInput>,
    /// Its tests in their order.
    pub tests: Vec<ExaminationTestInput>,
    /// How much each wish for the order counts.
    pub weights: OrderWeights,
    /// The affected side is examined first; otherwise the sound one.
    pub affected_side_first: bool,
    /// Tests of the regional frame stand anywhere; otherwise the basic examination comes before special tests.
    #[serde(default)]
    pub frame_anywhere: bool,
}

/// A condition that an examination is to decide about.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PlanQuestion {
    /// Name of the target condition.
    pub condition: String,
    /// Probability of the condition before the first test.
    pub pre_test: Probability,
    /// From where on something is done.
    #[serde(flatten)]
    pub thresholds: Thresholds,
    /// What is done between the two, the least probable first; where nothing is said, it is not decided.
    #[serde(default)]
    pub between: Vec<ActionBand>,
    /// What is done above the upper one.
    #[serde(default)]
    pub above: PlanAction,
}

/// A test of an examination.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ExaminationTest {
    /// Which test.
    pub test: TestId,
    /// Name of the variant; empty for the taught one.
    pub variant: String,
    /// Why it is in the plan, or why at this place.
    pub reason: String,
    /// It is done only where it is asked for.
    pub optional: bool,
    /// It comes after every test that is not kept for last.
    pub keep_last: bool,
    /// Tests of the plan that come before it.
    pub after: Vec<TestId>,
}

/// A checked plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ExaminationPlan {
    /// What it is called; unique within the region.
    pub title: String,
    /// Region.
    pub region: Region,
    /// Where the patients are seen.
    pub setting: Option<CareSetting>,
    /// How long they have had it.
    #[serde(default)]
    pub course: Option<Course>,
    /// Whether they can guard.
    #[serde(default)]
    pub state: Option<Wakefulness>,
    /// For whom it is, and what else is to be said.
    pub note: String,
    /// What is to be decided.
    pub questions: Vec<PlanQuestion>,
    /// Its tests in their order.
    pub tests: Vec<ExaminationTest>,
    /// How much each wish for the order counts.
    pub weights: OrderWeights,
    /// The affected side is examined first; otherwise the sound one.
    pub affected_side_first: bool,
    /// Tests of the regional frame stand anywhere; otherwise the basic examination comes before special tests.
    #[serde(default)]
    pub frame_anywhere: bool,
}

impl ExaminationPlan {
    /// Checks a plan by itself; whether its tests and conditions are there is the store's to say.
    ///
    /// # Errors
    /// Every fault found: no title, no question, thresholds that are crossed, no test, a test that is named twice, wishes for what comes before
    /// what that contradict each other.
    pub fn check(input: &ExaminationPlanInput) -> Result<Self, Vec<FieldError>> {
        let mut checker = Checker::default();
        let c = &mut checker;
        let title = c.required("title", &input.title, MAX_NAME, "Say what the plan is called.");
        c.seen("title", &title);
        let region = code(c, "region", &input.region, Region::from_code, "Choose a body region.");
        let note = c.text("note", &input.note, MAX_TEXT);
        let questions = questions(c, &input.questions);
        let tests = tests(c, &input.tests);
        if let Err(OrderError::Weight { what, value }) = check_weights(&input.weights) {
            let message = format!("{value} is no weight of {what}.");
            c.invalid("weights", value, message, "Give a number from 0 on.");
        }
        let &ExaminationPlanInput { setting, course, state, weights, affected_side_first, frame_anywhere, .. } = input;
        checker.finish(region.map(|region| Self {
            title,
            region,
            setting,
            course,
            state,
            note,
            questions,
            tests,
            weights,
            affected_side_first,
            frame_anywhere,
        }))
    }

    /// Pairs of places, a test and one that comes after it.
    #[must_use]
    pub fn before(&self) -> Vec<(usize, usize)> {
        let ids: Vec<TestId> = self.tests.iter().map(|it| it.test).collect();
        let after: Vec<&[TestId]> = self.tests.iter().map(|it| it.after.as_slice()).collect();
        pairs(&ids, &after)
    }

    /// The same plan with other tests in the place of these, such as those of another catalogue; a test that has no place there is answered.
    ///
    /// # Errors
    /// The first test without one.
    pub fn with_tests(mut self, place: impl Fn(TestId) -> Option<TestId>) -> Result<Self, TestId> {
        let other = |id: TestId| place(id).ok_or(id);
        for it in &mut self.tests {
            it.test = other(it.test)?;
            it.after = it.after.iter().map(|id| other(*id)).collect::<Result<_, _>>()?;
        }
        Ok(self)
    }

    /// Its questions follow a condition to its new name; answers whether one did.
    pub fn rename_condition(&mut self, from: &str, to: &str) -> bool {
        let from = name_key(from);
        let named = self.questions.iter_mut().filter(|it| name_key(&it.condition) == from);
        named.map(|it| to.clone_into(&mut it.condition)).count() > 0
    }
}

fn pairs(ids: &[TestId], after: &[&[TestId]]) -> Vec<(usize, usize)> {
    let place = |id: &TestId| ids.iter().position(|it| it == id);
    let of = |(later, earlier): (usize, &&[TestId])| {
        earlier.iter().filter_map(|id| Some((place(id)?, later))).collect::<Vec<_>>()
    };
    after.iter().enumerate().flat_map(of).collect()
}

fn too_many(c: &mut Checker, field: &str, n: usize, most: usize) {
    let message = format!("This list has {n} entries; at most {most} fit.");
    c.push(FieldError::new(field, FieldErrorCode::TooLong, n, message, "Leave some out."));
}

fn questions(c: &mut Checker, input: &[PlanQuestionInput]) -> Vec<PlanQuestion> {
    if input.is_empty() {
        let message = "The plan decides about no condition.";
        let remedy = "Add the condition that the examination is to show or to rule out.";
        c.push(FieldError::new("questions", FieldErrorCode::Missing, "", message, remedy));
    }
    if input.len() > MAX_QUESTIONS {
        too_many(c, "questions", input.len(), MAX_QUESTIONS);
        return Vec::new();
    }
    let mut seen = HashSet::new();
    let mut questions = Vec::with_capacity(input.len());
    for (nth, it) in input.iter().enumerate() {
        let at = |field: &str| format!("questions[{nth}].{field}");
        let condition = c.required(&at("condition"), &it.condition, MAX_NAME, "Choose a condition of the region.");
        if !condition.is_empty() && !seen.insert(name_key(&condition)) {
            let message = "This condition is asked about twice.";
            let field = at("condition");
            c.push(FieldError::new(field, FieldErrorCode::Duplicate, &condition, message, "Ask about it once."));
        }
        let mut share = |field: &str, value: Option<f64>, remedy: &str| {
            let value = c.present(&at(field), value, remedy)?;
            if let Ok(share) = Probability::new(value) {
                return Some(share);
            }
            c.invalid(&at(field), value, format!("{value} is no probability."), "Give a number from 0 to 1.");
            None
        };
        let pre_test = share("pre_test", it.pre_test, "Give the probability before the first test.");
        let low = share("reassure_below", it.reassure_below, "Give the threshold below which you reassure.");
        let high = share("treat_above", it.treat_above, "Give the threshold above which you treat.");
        let thresholds = low.zip(high).and_then(|(low, high)| {
            let ordered = Thresholds::new(low, high);
            if ordered.is_err() {
                let message = format!("Reassuring below {} would begin above treating from {}.", low.get(), high.get());
                let remedy = "Put the threshold for reassuring below the one for treating.";
                c.invalid(&at("reassure_below"), low.get(), message, remedy);
            }
            ordered.ok()
        });
        let (between, above) = actions(c, &format!("questions[{nth}]"), it, thresholds);
        questions.extend(pre_test.zip(thresholds).map(|(pre_test, thresholds)| PlanQuestion {
            condition,
            pre_test,
            thresholds,
            between,
            above,
        }));
    }
    questions
}

fn tests(c: &mut Checker, input: &[ExaminationTestInput]) -> Vec<ExaminationTest> {
    if input.is_empty() {
        let message = "The plan has no test.";
        c.push(FieldError::new("tests", FieldErrorCode::Missing, "", message, "Add a test."));
    }
    if input.len() > MAX_PLANNED {
        too_many(c, "tests", input.len(), MAX_PLANNED);
        return Vec::new();
    }
    let mut tests: Vec<ExaminationTest> = Vec::with_capacity(input.len());
    for (nth, it) in input.iter().enumerate() {
        let at = |field: &str| format!("tests[{nth}].{field}");
        let test = c.present(&at("test"), it.test, "Choose a test of the catalogue.").unwrap_or_default();
        if it.test.is_some() && tests.iter().any(|other| other.test == test) {
            let message = "This test is in the plan already.";
            c.push(FieldError::new(at("test"), FieldErrorCode::Duplicate, test, message, "Give each test once."));
        }
        let mut after: Vec<TestId> = Vec::new();
        for id in &it.after {
            if *id == test || !input.iter().any(|other| other.test == Some(*id)) {
                let message = "A test comes only after other tests of the plan.";
                let remedy = "Add that test to the plan, or take the wish back.";
                c.push(FieldError::new(at("after"), FieldErrorCode::Unknown, id, message, remedy));
            } else if !after.contains(id) {
                after.push(*id);
            }
        }
        let variant = c.text(&at("variant"), &it.variant, MAX_NAME);
        let reason = c.text(&at("reason"), &it.reason, MAX_TEXT);
        let (optional, keep_last) = (it.optional, it.keep_last);
        tests.push(ExaminationTest { test, variant, reason, optional, keep_last, after });
    }
    let ids: Vec<TestId> = tests.iter().map(|it| it.test).collect();
    let after: Vec<&[TestId]> = tests.iter().map(|it| it.after.as_slice()).collect();
    let last: Vec<bool> = tests.iter().map(|it| it.keep_last).collect();
    if let Err(OrderError::Contradiction(circle)) = precedence(&last, &pairs(&ids, &after)) {
        let first = circle.first().copied().unwrap_or_default();
        let message = format!("{} tests would each have to come before another one of them.", circle.len());
        let remedy = "Take one of the wishes for what comes before what back, or one that is kept for last.";
        c.invalid(&format!("tests[{first}].after"), circle.len(), message, remedy);
    }
    tests
}
