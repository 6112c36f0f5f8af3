//! In which order the tests of an examination are done best, what an order of one's own costs, and what each test adds.

use pruvex_core::catalogue::{Basis, Position};
use pruvex_core::combine::{
    MAX_TESTS, Sequence, SequenceStep, TestAccuracy, decision_changes, expected_information, pattern_results, sequence,
};
use pruvex_core::evidence::{CareSetting, Course, Wakefulness};
use pruvex_core::plan::{
    ActionShare, BestOrder, ExaminationPlan, ExaminationPlanInput, ExaminationTest, ExaminationTestInput, OrderWeights,
    OwnOrder, PlanQuestion, PlanQuestionInput, PlannedTest, action_shares, best_order, own_order,
};
use pruvex_core::{Estimate, FieldErrorCode, Probability, Ratio, TestId};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::figures::{accuracy, row_for, rows_of};
use super::matching::matching_studies;
use crate::blocking::blocking;
use crate::catalogue::TestRow;
use crate::people::Reader;
use crate::{App, AppError};

/// An examination whose order is asked for: a plan without its title.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PlanOrderInput {
    /// Region code.
    region: String,
    questions: Vec<PlanQuestionInput>,
    /// Its tests in their present order.
    tests: Vec<ExaminationTestInput>,
    #[serde(default)]
    weights: OrderWeights,
    /// Where the patients are seen.
    #[serde(default)]
    setting: Option<CareSetting>,
    /// How long they have had it.
    #[serde(default)]
    course: Option<Course>,
    /// Whether they can guard.
    #[serde(default)]
    state: Option<Wakefulness>,
    /// Tests of the regional frame stand anywhere.
    #[serde(default)]
    frame_anywhere: bool,
}

/// What a test tells about one of the conditions.
#[derive(Debug, Serialize, ToSchema)]
pub struct QuestionWorth {
    /// Place of the condition among the questions.
    pub(super) question: usize,
    /// Studies behind the figures.
    studies: usize,
    /// How many of them examined people such as the plan is for: in its setting, with its course, as awake; `null` where the plan says none of these.
    matching: Option<usize>,
    pub(super) lr_positive: Option<Estimate<Ratio>>,
    pub(super) lr_negative: Option<Estimate<Ratio>>,
    /// Share of patients in whom it changes what is done, if it is the only test; `null` without figures.
    alone: Option<Probability>,
    /// The same at its place in the present order, after the results of the tests before it; `null` for an optional test, and where more tests
    /// are read together than can be.
    adds: Option<Probability>,
    /// In how many patients no threshold is crossed before it, so that it is still needed; `null` as `adds`.
    needed: Option<Probability>,
}

/// A test of the plan, with what decides its place.
#[derive(Debug, Serialize, ToSchema)]
pub struct PlannedTestView {
    test: TestId,
    /// `null` for a test that is archived, or that you may not see.
    pub(super) name: Option<String>,
    /// Names of its variants, the taught one first.
    variants: Vec<String>,
    /// How the patient is placed; `null` where the sheet does not say.
    pub(super) position: Option<Position>,
    /// How irritating it is, 0 to 3; `null` where the sheet does not say.
    pub(super) irritation: Option<f64>,
    /// It allows one valid attempt.
    pub(super) one_attempt: bool,
    /// Which part of the basic examination it is; `null` for a special test.
    basis: Option<Basis>,
    pub(super) minutes: Option<f64>,
    /// Information expected of it as the first test, in bits, over all conditions.
    bits: f64,
    /// What it tells, for each condition that it shows.
    pub(super) worth: Vec<QuestionWorth>,
    /// At least one figure rests on made-up studies, or the sheet is made up.
    sample: bool,
}

/// What becomes of a question.
#[derive(Debug, Serialize, ToSchema)]
pub struct QuestionView {
    condition: String,
    /// How many of the tests that are always done have figures for it.
    tests: usize,
    /// What becomes of patients who are examined in the present order until a threshold is crossed; as if the tests were independent. `null`
    /// without such a test, and where there are more than can be followed.
    sequence: Option<Sequence>,
    /// What is done in the end, and for how many, the least probable first; empty without a sequence.
    ends: Vec<ActionShare>,
}

/// What becomes of a question in the present order.
struct Followed {
    sequence: Sequence,
    /// Test by test.
    adds: Vec<Probability>,
    ends: Vec<ActionShare>,
}

/// The order of an examination.
#[derive(Debug, Serialize, ToSchema)]
pub struct PlanOrderAnswer {
    /// The tests in their present order.
    pub(super) tests: Vec<PlannedTestView>,
    questions: Vec<QuestionView>,
    /// The order that costs least; tests by their place in the present one.
    proposed: BestOrder,
    /// The present order, read the same way.
    own: OwnOrder,
    /// Minutes of the tests that are always done, as far as their sheets say.
    minutes: f64,
    /// At least one figure rests on made-up studies.
    pub(super) sample: bool,
}

/// The order that costs least, what the present one costs, and what each test adds.
///
/// # Errors
/// What is wrong with the plan: no test, no condition, thresholds that are crossed, wishes that contradict each other.
pub async fn order_plan(app: &App, by: &Reader, input: PlanOrderInput) -> Result<PlanOrderAnswer, AppError> {
    let PlanOrderInput { region, questions, tests, weights, setting, course, state, frame_anywhere } = input;
    // Its title makes no difference to its order.
    let input = ExaminationPlanInput {
        title: "–".to_owned(),
        region,
        questions,
        tests,
        weights,
        setting,
        course,
        state,
        frame_anywhere,
        ..Default::default()
    };
    order_of(app, by, ExaminationPlan::check(&input).map_err(AppError::Fields)?).await
}

/// The same of a plan that was checked.
pub(super) async fn order_of(app: &App, by: &Reader, plan: ExaminationPlan) -> Result<PlanOrderAnswer, AppError> {
    let catalogue = app.catalogue().await?;
    let rows = rows_of(&plan, &catalogue, by);
    let mut views: Vec<PlannedTestView> = plan.tests.iter().map(|it| planned(&plan, it, &rows[&it.test])).collect();
    let accuracy = |test: usize, question: &PlanQuestion| {
        row_for(&plan, question, &rows[&plan.tests[test].test]).and_then(accuracy)
    };
    for (test, question, studies) in matching_studies(app, by, &plan, &rows).await? {
        let worth = views[test].worth.iter_mut().find(|it| it.question == question);
        worth.into_iter().for_each(|it| it.matching = Some(studies));
    }
    let mut questions = Vec::with_capacity(plan.questions.len());
    for (nth, question) in plan.questions.iter().enumerate() {
        let asked = (0..views.len()).filter(|test| !plan.tests[*test].optional);
        let told: Vec<(usize, TestAccuracy)> =
            asked.filter_map(|test| Some((test, accuracy(test, question)?))).collect();
        let followed = follow(question, &told);
        if let Some(Followed { sequence, adds, .. }) = &followed {
            for ((test, _), (adds, SequenceStep { needed, .. })) in told.iter().zip(adds.iter().zip(&sequence.steps)) {
                let worth = views[*test].worth.iter_mut().find(|it| it.question == nth);
                worth.into_iter().for_each(|it| (it.adds, it.needed) = (Some(*adds), Some(*needed)));
            }
        }
        let (sequence, ends) = followed.map(|it| (it.sequence, it.ends)).unzip();
        let (condition, ends) = (question.condition.clone(), ends.unwrap_or_default());
        questions.push(QuestionView { condition, tests: told.len(), sequence, ends });
    }
    let place = |(view, it)| place(view, it, !plan.frame_anywhere);
    let tests: Vec<PlannedTest> = views.iter().zip(&plan.tests).map(place).collect();
    let before = plan.before();
    let weights = plan.weights;
    let ordered = blocking(move || {
        let present: Vec<usize> = (0..tests.len()).collect();
        Ok::<_, pruvex_core::plan::OrderError>((
            best_order(&tests, &weights, &before)?,
            own_order(&tests, &weights, &before, &present)?,
        ))
    });
    let (proposed, own) = ordered.await?.map_err(|error| {
        let remedy = "Take a wish back, or correct the sheet's figures.";
        AppError::field("tests", FieldErrorCode::Invalid, "", format!("{error}."), remedy)
    })?;
    let always = views.iter().zip(&plan.tests).filter(|(_, it)| !it.optional);
    let minutes = always.filter_map(|(view, _)| view.minutes).sum();
    let sample = views.iter().any(|it| it.sample);
    Ok(PlanOrderAnswer { tests: views, questions, proposed, own, minutes, sample })
}

fn planned(plan: &ExaminationPlan, it: &ExaminationTest, rows: &[&TestRow]) -> PlannedTestView {
    let any = rows.first();
    let mut view = PlannedTestView {
        test: it.test,
        name: any.map(|row| row.name.clone()),
        variants: any
            .map(|row| row.placing.variants.iter().map(|(name, _)| name.clone()).collect())
            .unwrap_or_default(),
        position: any.and_then(|row| row.placing.position(&it.variant)),
        irritation: any.and_then(|row| row.irritation),
        one_attempt: any.is_some_and(|row| row.placing.one_attempt),
        basis: any.and_then(|row| row.basis),
        minutes: any.and_then(|row| row.placing.minutes),
        bits: 0.0,
        worth: Vec::new(),
        sample: rows.iter().any(|row| row.sample),
    };
    for (nth, question) in plan.questions.iter().enumerate() {
        let Some(row) = row_for(plan, question, rows) else { continue };
        let summary = row.summary.unwrap_or_default();
        let of = accuracy(row);
        view.bits += of.map_or(0.0, |of| expected_information(question.pre_test, of));
        view.worth.push(QuestionWorth {
            question: nth,
            studies: row.studies,
            matching: None,
            lr_positive: summary.lr_positive,
            lr_negative: summary.lr_negative,
            alone: of.and_then(|of| {
                let changes =
                    decision_changes(&pattern_results(&[of]).ok()?, question.pre_test, |p| question.action(p))?;
                changes.first().copied()
            }),
            adds: None,
            needed: None,
        });
    }
    view
}

/// What becomes of a question, and what each of these tests adds in their order.
fn follow(question: &PlanQuestion, told: &[(usize, TestAccuracy)]) -> Option<Followed> {
    if told.is_empty() || told.len() > MAX_TESTS {
        return None;
    }
    let tests: Vec<TestAccuracy> = told.iter().map(|(_, of)| *of).collect();
    let patterns = pattern_results(&tests).ok()?;
    let (pre_test, thresholds) = (question.pre_test, &question.thresholds);
    let sequence = sequence(&patterns, pre_test, thresholds)?;
    let adds = decision_changes(&patterns, pre_test, |p| question.action(p))?;
    let ends = action_shares(question, &patterns)?;
    Some(Followed { sequence, adds, ends })
}

fn place(view: &PlannedTestView, it: &ExaminationTest, frame_first: bool) -> PlannedTest {
    // Tests whose position no sheet tells are taken to share one.
    let position = view
        .position
        .map_or(Position::ALL.len(), |at| Position::ALL.iter().position(|it| *it == at).unwrap_or(Position::ALL.len()));
    PlannedTest {
        position: u32::try_from(position).unwrap_or(u32::MAX),
        one_attempt: view.one_attempt,
        irritation: view.irritation.unwrap_or(0.0),
        bits: view.bits,
        keep_last: it.keep_last,
        frame: frame_first && view.basis.is_some(),
    }
}
