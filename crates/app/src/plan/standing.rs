//! Where an examination stands after some of its results: each condition against its thresholds, what the open tests can still change, and whether it may end.

use std::collections::HashSet;

use pruvex_core::catalogue::name_key;
use pruvex_core::likelihood::Finding;
use pruvex_core::plan::{
    ExaminationEnd, ExaminationPlan, PlanQuestion, QuestionStanding, QuestionState, StandingResult, TestLeft,
    examination_end, question_standing,
};
use pruvex_core::{FieldErrorCode, Level, TestId};
use pruvex_store::condition::list_must_not_miss;
use pruvex_store::plan as store;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::figures::{accuracy, row_for, rows_of};
use super::plans::eyes;
use crate::likelihood::FindingInput;
use crate::people::Reader;
use crate::{App, AppError};

/// What is known so far.
#[derive(Debug, Default, Deserialize, ToSchema)]
#[serde(default, deny_unknown_fields)]
pub struct StandingInput {
    /// Results in the order in which they were found.
    pub(crate) findings: Vec<FindingInput>,
    /// Tests that tell nothing: that could not be read, or are not done now.
    pub(crate) without: Vec<TestId>,
    /// Conditions that must not be missed and were asked about otherwise.
    pub(crate) asked: Vec<String>,
}

/// Where one condition of a plan stands.
#[derive(Debug, Serialize, ToSchema)]
pub struct QuestionStands {
    pub(crate) condition: String,
    #[serde(flatten)]
    pub(crate) standing: QuestionStanding,
}

/// A condition of the region that must not be missed.
#[derive(Debug, Serialize, ToSchema)]
pub struct MustNotMiss {
    pub(crate) condition: String,
    /// It was asked about: by a result that speaks to it, or otherwise.
    pub(crate) asked: bool,
    /// The plan has it among its questions, with tests that have figures for it.
    in_plan: bool,
}

/// Where an examination stands.
#[derive(Debug, Serialize, ToSchema)]
pub struct PlanStandingAnswer {
    /// For each condition of the plan.
    pub(crate) questions: Vec<QuestionStands>,
    /// The conditions of the region that must not be missed.
    pub(crate) must_not_miss: Vec<MustNotMiss>,
    /// Whether it may end.
    pub(crate) end: ExaminationEnd,
    /// The open test that comes next, by its place in the plan: the first that can still change what is done in an open question.
    next: Option<usize>,
    /// Minutes of each test of the plan, as far as its sheet says.
    minutes: Vec<Option<f64>>,
}

/// Where an examination by this plan stands after these results.
///
/// # Errors
/// No such plan that this person may see; a result of a test that the plan has not, or that is given twice; a level that no study knows.
pub async fn plan_standing(
    app: &App,
    by: &Reader,
    id: Uuid,
    input: StandingInput,
) -> Result<PlanStandingAnswer, AppError> {
    let plan = store::get_plan(&app.db, eyes(by.role()), id).await?.plan;
    standing_of(app, by, &plan, &input).await
}

/// The same of a plan that is at hand.
pub(crate) async fn standing_of(
    app: &App,
    by: &Reader,
    plan: &ExaminationPlan,
    input: &StandingInput,
) -> Result<PlanStandingAnswer, AppError> {
    let places = check(plan, input)?;
    let catalogue = app.catalogue().await?;
    let rows = rows_of(plan, &catalogue, by);
    for (nth, (place, finding)) in places.iter().zip(&input.findings).enumerate() {
        let of_test = &rows[&plan.tests[*place].test];
        if !of_test.is_empty() && !of_test.iter().any(|row| finding.speaks_of(row)) {
            let (message, remedy) = ("No study tells what this level is worth.", "Give a positive or negative result.");
            let field = format!("findings[{nth}].level");
            return Err(AppError::field(field, FieldErrorCode::Invalid, finding.test.to_string(), message, remedy));
        }
    }
    let gone: HashSet<TestId> = input.findings.iter().map(|it| it.test).chain(input.without.iter().copied()).collect();
    let row = |place: usize, question: &PlanQuestion| row_for(plan, question, &rows[&plan.tests[place].test]);
    let stands = |question: &PlanQuestion| {
        let found = places.iter().zip(&input.findings).filter_map(|(place, finding)| {
            let row = row(*place, question).filter(|row| finding.speaks_of(row))?;
            let finding = Finding { summary: row.summary.unwrap_or_default(), result: finding.result(row) };
            Some(StandingResult { test: *place, finding })
        });
        let open = (0..plan.tests.len()).filter(|place| !gone.contains(&plan.tests[*place].test));
        let open: Vec<TestLeft> = open
            .filter_map(|test| {
                let optional = plan.tests[test].optional;
                Some(TestLeft { test, accuracy: accuracy(row(test, question)?)?, optional })
            })
            .collect();
        let standing = question_standing(question, &found.collect::<Vec<_>>(), &open, Level::default());
        QuestionStands { condition: question.condition.clone(), standing }
    };
    let questions: Vec<QuestionStands> = plan.questions.iter().map(stands).collect();
    let otherwise: HashSet<String> = input.asked.iter().map(|it| name_key(it)).collect();
    let named = list_must_not_miss(&app.db, plan.region).await?;
    let must_not_miss: Vec<MustNotMiss> = named
        .into_iter()
        .map(|condition| {
            let key = name_key(&condition);
            let own = questions.iter().find(|question| name_key(&question.condition) == key).map(|it| &it.standing);
            let told = own.is_some_and(|it| it.steps.iter().any(|step| step.step.after.is_some()));
            let in_plan = own.is_some_and(|it| !it.open.is_empty() || !it.steps.is_empty());
            MustNotMiss { asked: told || otherwise.contains(&key), condition, in_plan }
        })
        .collect();
    let unasked = must_not_miss.iter().filter(|it| !it.asked).count();
    let end = examination_end(questions.iter().map(|it| it.standing.state), unasked);
    let useful = |place: &usize| {
        let of = |it: &QuestionStanding| it.open.iter().any(|test| test.test == *place && test.information > 0.0);
        let open = |it: &QuestionStanding| it.state == QuestionState::Open && of(it);
        // One that must not be missed is asked about, however improbable it is.
        let missing = |it: &QuestionStands| {
            let key = name_key(&it.condition);
            of(&it.standing) && must_not_miss.iter().any(|one| !one.asked && name_key(&one.condition) == key)
        };
        !plan.tests[*place].optional && questions.iter().any(|it| open(&it.standing) || missing(it))
    };
    let next = (0..plan.tests.len()).find(useful);
    let minutes = plan.tests.iter().map(|it| rows[&it.test].first().and_then(|row| row.placing.minutes)).collect();
    Ok(PlanStandingAnswer { questions, must_not_miss, end, next, minutes })
}

/// The places of the tests whose results are given.
fn check(plan: &ExaminationPlan, input: &StandingInput) -> Result<Vec<usize>, AppError> {
    let mut places = Vec::with_capacity(input.findings.len());
    for (nth, finding) in input.findings.iter().enumerate() {
        let refused = |field: &str, message: &str, remedy: &str| {
            let field = format!("findings[{nth}].{field}");
            AppError::field(field, FieldErrorCode::Invalid, finding.test.to_string(), message, remedy)
        };
        let Some(place) = plan.tests.iter().position(|it| it.test == finding.test) else {
            return Err(refused("test", "The plan has no such test.", "Give a test of the plan."));
        };
        if places.contains(&place) || input.without.contains(&finding.test) {
            let message = "This test is given twice.";
            return Err(refused(
                "test",
                message,
                "Give each test once: with its result, or as one that tells nothing.",
            ));
        }
        if finding.says_nothing() {
            let message = "A result is positive, negative or a level.";
            return Err(refused("positive", message, "Give one of them."));
        }
        places.push(place);
    }
    Ok(places)
}
