//! Whether the tests of a plan fit the patient in front of one: screening asked once, what cannot be done now, and what to do instead.

use std::collections::{BTreeMap, BTreeSet, HashMap, HashSet};

use pruvex_core::TestId;
use pruvex_core::catalogue::{Joint, Position, ScreeningAnswer, Sheet, Variant, name_key};
use pruvex_core::people::Right;
use pruvex_core::plan::{
    ExaminationFit, ExaminationPlan, ExaminationStop, ExaminationTest, FitState, PatientFit, ScreenedTest,
    ScreeningQuestion, TestFit, examination_fit,
};
use pruvex_store::catalogue::{TestRecord, get_tests, taught_texts};
use pruvex_store::plan as store;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use utoipa::ToSchema;
use uuid::Uuid;

use super::plans::eyes;
use crate::people::Reader;
use crate::{App, AppError};

/// A patient for whom a plan is made to fit.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(default, deny_unknown_fields)]
pub struct PatientFitInput {
    /// Answers, by the keys of the questions.
    answers: BTreeMap<String, ScreeningAnswer>,
    /// How irritable the complaint is, 0 to 3.
    irritable: Option<u8>,
    /// Positions that the patient cannot take.
    cannot_take: Vec<Position>,
    /// Equipment that is not at hand.
    lacking: Vec<String>,
    /// Minutes at hand.
    minutes: Option<f64>,
    /// Situations that hold, by their keys: what their sheets say to do instead is done.
    situations: Vec<String>,
    /// Optional tests that are wished.
    wished: Vec<TestId>,
}

/// A question that is asked once.
#[derive(Debug, Serialize, ToSchema)]
pub struct QuestionAsked {
    /// By which it is answered.
    key: String,
    #[serde(flatten)]
    pub(crate) question: ScreeningQuestion,
}

/// Something that may hold of the patient or the examiner, as sheets say it.
#[derive(Debug, Serialize, ToSchema)]
pub struct Situation {
    key: String,
    situation: String,
    /// Tests of the plan whose sheets say what to do then.
    tests: Vec<usize>,
}

/// What to do instead of a test.
#[derive(Debug, Serialize, ToSchema)]
pub struct AlternativeView {
    situation: String,
    instead: String,
    /// The test that it names, if it names one: its own screening counts, too.
    test: Option<AlternativeTest>,
}

/// A test that is offered in the place of another one.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct AlternativeTest {
    test: TestId,
    name: String,
    fit: TestFit,
}

/// A test of the plan and this patient.
#[derive(Debug, Serialize, ToSchema)]
pub struct FitView {
    test: TestId,
    #[serde(flatten)]
    pub(crate) fit: TestFit,
    /// An optional test that nobody wished: it is left out.
    pub(crate) left_out: bool,
    /// What its sheet says to do instead: where it is not done now, or where a situation holds.
    alternatives: Vec<AlternativeView>,
}

/// How a plan fits a patient.
#[derive(Debug, Serialize, ToSchema)]
pub struct PlanFitAnswer {
    pub(crate) questions: Vec<QuestionAsked>,
    situations: Vec<Situation>,
    /// Positions that its tests need.
    positions: Vec<Position>,
    /// Equipment that its tests need.
    equipment: Vec<String>,
    /// Its tests in their order.
    pub(crate) tests: Vec<FitView>,
    /// Everything stops, whatever else is known.
    pub(crate) stop: Option<ExaminationStop>,
    /// The tests that were screened, those of the plan that are done first: what `tests` of a question and `of` of a caution count.
    screened: Vec<TestId>,
    /// Something of it is done: at least one test is ready, or done with care.
    anything: bool,
}

/// Which words are meant, short enough for an address.
fn key(words: &str) -> String {
    Sha256::digest(name_key(words))[..6].iter().fold(String::new(), |text, byte| format!("{text}{byte:02x}"))
}

/// Whether the tests of a plan fit this patient.
///
/// # Errors
/// No such plan that this person may see; an irritability or a time that cannot be.
pub async fn fit_plan(app: &App, by: &Reader, id: Uuid, input: PatientFitInput) -> Result<PlanFitAnswer, AppError> {
    check(&input)?;
    fit_of(app, by, &store::get_plan(&app.db, eyes(by.role()), id).await?.plan, &input).await
}

/// The same of a plan that is at hand, for a patient who was checked.
pub(crate) async fn fit_of(
    app: &App,
    by: &Reader,
    plan: &ExaminationPlan,
    input: &PatientFitInput,
) -> Result<PlanFitAnswer, AppError> {
    let ids: Vec<TestId> = plan.tests.iter().map(|it| it.test).collect();
    let mut sheets = sheets(app, by, &ids).await?;
    let named = alternatives_named(app, by, &ids, &sheets).await?;
    let wished = |id: &TestId, optional: bool| !optional || input.wished.contains(id);
    // Those that are done, in their order, as far as this person sees them; then those that may take their places, which use no minutes.
    let done: Vec<(TestId, &str)> = plan
        .tests
        .iter()
        .filter(|it| wished(&it.test, it.optional) && sheets.contains_key(&it.test))
        .map(|it| (it.test, it.variant.as_str()))
        .collect();
    // A test that is left out is screened as well: a red flag of its sheet is one whether it is done or not.
    let others: BTreeSet<TestId> =
        ids.iter().chain(named.values()).copied().filter(|id| !done.iter().any(|it| it.0 == *id)).collect();
    let others: Vec<TestId> = others.into_iter().collect();
    sheets.extend(self::sheets(app, by, &others).await?);
    // An optional test of the plan may take a place, too, as the plan wants it done.
    let variant_of = |id: TestId| plan.tests.iter().find(|it| it.test == id).map_or("", |it| it.variant.as_str());

    let mut screened: Vec<TestId> = Vec::new();
    let mut tests: Vec<ScreenedTest> = Vec::new();
    for (id, variant) in done.iter().copied().chain(others.iter().map(|id| (*id, variant_of(*id)))) {
        if let Some(sheet) = sheets.get(&id) {
            tests.push(screened_test(sheet, variant, screened.len() < done.len()));
            screened.push(id);
        }
    }
    let mut patient = PatientFit {
        irritable: input.irritable,
        cannot_take: input.cannot_take.clone(),
        lacking: input.lacking.clone(),
        minutes: input.minutes,
        answers: BTreeMap::new(),
    };
    // Which words the keys mean is known once the questions are.
    let asked = examination_fit(&tests, &patient).questions;
    let words = asked.iter().map(|it| (key(&it.question), name_key(&it.question)));
    let answered = words.filter_map(|(key, words)| Some((words, *input.answers.get(&key)?)));
    patient.answers = answered.collect();
    let ExaminationFit { questions, tests: fits, stop } = examination_fit(&tests, &patient);

    let fit_of = |id: TestId| screened.iter().position(|it| *it == id).map(|place| fits[place].clone());
    let mut offered: HashSet<TestId> = HashSet::new();
    let views: Vec<FitView> = plan
        .tests
        .iter()
        .map(|it| {
            let left_out = !wished(&it.test, it.optional);
            let gone = TestFit { state: FitState::NotNow, reasons: Vec::new() };
            let fit = fit_of(it.test).unwrap_or(gone);
            let given = sheets.get(&it.test).map(|sheet| sheet.alternatives.as_slice()).unwrap_or_default();
            let holds = |situation: &str| input.situations.contains(&key(situation));
            let shown =
                given.iter().filter(|one| !left_out && (fit.state == FitState::NotNow || holds(&one.situation)));
            let alternatives = shown.map(|one| {
                let test = named.get(&name_key(&one.instead)).copied().filter(|id| *id != it.test);
                offered.extend(test);
                let view = |id: TestId| {
                    let name = sheets.get(&id)?.name.clone();
                    Some(AlternativeTest { test: id, name, fit: fit_of(id)? })
                };
                let (situation, instead) = (one.situation.clone(), one.instead.clone());
                AlternativeView { situation, instead, test: test.and_then(view) }
            });
            let alternatives = alternatives.collect();
            FitView { test: it.test, fit, left_out, alternatives }
        })
        .collect();
    // What only a test decides about that is not offered now is not asked now.
    let needed = |place: &usize| *place < done.len() || screened.get(*place).is_some_and(|id| offered.contains(id));
    let questions = questions.into_iter().filter(|it| it.tests.iter().any(needed));
    let questions = questions.map(|question| QuestionAsked { key: key(&question.question), question }).collect();
    let planned: Vec<(usize, &Sheet)> =
        ids.iter().enumerate().filter_map(|(place, id)| Some((place, sheets.get(id)?))).collect();
    let anything = views.iter().any(|it| !it.left_out && it.fit.state <= FitState::WithCare);
    Ok(PlanFitAnswer {
        questions,
        situations: situations(&planned),
        positions: distinct(tests.iter().take(done.len()).filter_map(|it| it.position)),
        equipment: distinct(tests.iter().take(done.len()).flat_map(|it| it.equipment.iter().cloned())),
        tests: views,
        anything: anything && stop.is_none(),
        stop,
        screened,
    })
}

pub(crate) fn check(input: &PatientFitInput) -> Result<(), AppError> {
    use pruvex_core::FieldErrorCode::Invalid;
    if let Some(irritable) = input.irritable.filter(|it| *it > 3) {
        let message = format!("{irritable} is no irritability.");
        return Err(AppError::field("irritable", Invalid, irritable.to_string(), message, "Give 0, 1, 2 or 3."));
    }
    if let Some(minutes) = input.minutes.filter(|it| !(0.0..=600.0).contains(it)) {
        let message = format!("{minutes} minutes are no time for an examination.");
        return Err(AppError::field("minutes", Invalid, minutes.to_string(), message, "Give a number from 0 to 600."));
    }
    Ok(())
}

/// The tests of a plan that this person sees, as they are screened, with their places in the plan.
pub(super) async fn screened_tests(
    app: &App,
    by: &Reader,
    plan: &ExaminationPlan,
) -> Result<(Vec<usize>, Vec<ScreenedTest>), AppError> {
    let ids: Vec<TestId> = plan.tests.iter().map(|it| it.test).collect();
    let sheets = sheets(app, by, &ids).await?;
    let seen =
        |(place, it): (usize, &ExaminationTest)| Some((place, screened_test(sheets.get(&it.test)?, &it.variant, true)));
    Ok(plan.tests.iter().enumerate().filter_map(seen).unzip())
}

/// Sheets of these tests as this person sees them.
pub(crate) async fn sheets(app: &App, by: &Reader, ids: &[TestId]) -> Result<HashMap<TestId, Sheet>, AppError> {
    let mut records = get_tests(&app.db, ids).await?;
    if !by.role().may(Right::ReadDrafts) {
        let earlier = taught_texts(&app.db, &records).await?;
        records.retain(TestRecord::is_taught);
        for record in &mut records {
            if let Some(taught) = earlier.get(&record.id) {
                record.sheet.clone_from(&taught.sheet);
            }
        }
    }
    Ok(records.into_iter().map(|record| (record.id, record.sheet)).collect())
}

/// Which tests the alternatives of these sheets name, by the compared forms of their words: the longest name of a test of the region that stands in them.
async fn alternatives_named(
    app: &App,
    by: &Reader,
    ids: &[TestId],
    sheets: &HashMap<TestId, Sheet>,
) -> Result<HashMap<String, TestId>, AppError> {
    let catalogue = app.catalogue().await?;
    let mut found = HashMap::new();
    for sheet in ids.iter().filter_map(|id| sheets.get(id)) {
        for alternative in &sheet.alternatives {
            let words = name_key(&alternative.instead);
            let of_region = catalogue.rows(by.role()).filter(|row| row.region == sheet.region);
            let named = of_region.filter(|row| says(&words, &row.key)).max_by_key(|row| row.key.len());
            found.extend(named.map(|row| (words.clone(), row.id)));
        }
    }
    Ok(found)
}

/// Whether these words hold that name, and not only as a part of other words.
fn says(words: &str, name: &str) -> bool {
    let letter = |it: Option<char>| it.is_some_and(char::is_alphanumeric);
    words
        .match_indices(name)
        .any(|(at, _)| !letter(words[..at].chars().next_back()) && !letter(words[at + name.len()..].chars().next()))
}

/// `timed`: whether it uses minutes.
fn screened_test(sheet: &Sheet, variant: &str, timed: bool) -> ScreenedTest {
    let chosen = sheet.variant(variant);
    ScreenedTest {
        region: sheet.region,
        joints: chosen.map(joints).unwrap_or_default(),
        variant: chosen.map(|it| it.name.clone()).unwrap_or_default(),
        position: chosen.and_then(|it| it.position),
        equipment: chosen.map(|it| it.equipment.iter().map(|thing| thing.name.clone()).collect()).unwrap_or_default(),
        irritation: sheet.burden.irritation,
        minutes: sheet.burden.minutes.filter(|_| timed),
        cautions: sheet.cautions.clone(),
    }
}

/// Joints that a variant moves, holds or passes its force through.
fn joints(variant: &Variant) -> Vec<Joint> {
    let moved = variant.joints.iter().filter_map(|it| it.joint).chain(variant.steps.iter().filter_map(|it| it.joint));
    distinct(moved.chain(variant.relays.iter().filter_map(|it| it.joint)))
}

fn situations(planned: &[(usize, &Sheet)]) -> Vec<Situation> {
    let mut found: Vec<Situation> = Vec::new();
    for (place, sheet) in planned {
        for one in sheet.alternatives.iter().filter(|it| !it.situation.is_empty()) {
            let key = key(&one.situation);
            match found.iter_mut().find(|it| it.key == key) {
                Some(known) => known.tests.push(*place),
                None => found.push(Situation { key, situation: one.situation.clone(), tests: vec![*place] }),
            }
        }
    }
    found
}

fn distinct<T: PartialEq>(all: impl Iterator<Item = T>) -> Vec<T> {
    let mut found = Vec::new();
    for it in all {
        if !found.contains(&it) {
            found.push(it);
        }
    }
    found
}
