//! The plan of an examination: for which questions, with which tests, in which order.

use serde::{Deserialize, Serialize};

use super::order::{MAX_PLANNED, OrderError, OrderWeights, check_weights, precedence};
use super::question::{PlanQuestion, PlanQuestionInput, questions, too_many};
use crate::catalogue::Region;
use crate::catalogue::limits::{MAX_NAME, MAX_TEXT, code};
use crate::field::Checker;
use crate::name::name_key;
use crate::population::{CareSetting, Course, Wakefulness};
use crate::{FieldError, FieldErrorCode, TestId};

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
