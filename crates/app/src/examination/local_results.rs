//! Local figures: what one's own closed examinations say of a test, entered as a result of the catalogue once they are appraised.

use chrono::Utc;

use pruvex_core::catalogue::{Region, name_key};
use pruvex_core::evidence::{
    AccuracyInput, AccuracyResult, Appraisal, AppraisalInput, Aspect, DataSource, Study, StudyInput, StudySetup, Unit,
};
use pruvex_core::examination::{OwnTest, own_records};
use pruvex_core::people::Right;
use pruvex_core::{Count, FieldError, FieldErrorCode, ResultId, StudyId, TestId};
use pruvex_store::evidence::{self as evidence, OfStudy, ResultRecord, Seen, StudyRecord};
use pruvex_store::history::{Act, Kind, entered};
use pruvex_store::{ConnectionTrait, catalogue};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::records::closed_examinations;
use crate::app::commit;
use crate::evidence::{ResultView, StudyView, result_view, study_views};
use crate::people::{Reader, StudyWriter};
use crate::{App, AppError};

/// Local figures of a test that are to become a result of the catalogue. The counts are taken from your own records.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LocalResultInput {
    /// Which test.
    test: TestId,
    /// About which condition.
    condition: String,
    /// From records of this region.
    #[serde(default)]
    region: Option<Region>,
    /// Who was examined, and how. It is needed with the first result of a condition; further ones are of the same people.
    #[serde(default)]
    study: Option<StudyInput>,
    /// How far that study can be trusted: the risk of bias in every domain.
    #[serde(default)]
    appraisal: Option<AppraisalInput>,
    /// Which variant was done; empty for the one that is taught.
    #[serde(default)]
    variant: String,
    /// What decided who has the condition.
    #[serde(default)]
    reference_standard: String,
}

/// The study of your own records of a condition, and what the catalogue has of it.
#[derive(Debug, Serialize, ToSchema)]
pub struct LocalStudy {
    study: StudyView,
    /// The test of each result, and that result.
    results: Vec<LocalResult>,
}

/// A result of it.
#[derive(Debug, Serialize, ToSchema)]
pub struct LocalResult {
    test: TestId,
    result: ResultId,
}

/// Your study of a condition, with its results.
struct Found {
    study: StudyRecord,
    results: Vec<ResultRecord>,
}

/// The study that this account entered of its own records about a condition. Studies of own records are few: they are all read.
async fn find(db: &impl ConnectionTrait, owner: Uuid, condition: &str) -> Result<Option<Found>, AppError> {
    let all: Vec<StudyId> = evidence::own_record_studies(db).await?.into_iter().collect();
    let by = entered(db, Kind::Study, &all.iter().map(|it| it.0).collect::<Vec<_>>()).await?;
    let mine: Vec<StudyId> =
        all.into_iter().filter(|it| by.get(&it.0).is_some_and(|it| it.account == Some(owner))).collect();
    let key = name_key(condition);
    let mut tests: Vec<TestId> = evidence::reported_from(db, &mine).await?.into_iter().map(|(_, test)| test).collect();
    tests.sort_unstable();
    tests.dedup();
    let results = evidence::list_results(db, &tests, Seen::All).await?;
    let mut about = Vec::new();
    for test in catalogue::get_tests(db, &tests).await? {
        let of_test = results.iter().filter(|it| it.test_id == test.id && mine.contains(&it.study_id));
        let named = |it: &&ResultRecord| {
            name_key(test.sheet.shows(&it.result.condition).unwrap_or(&test.sheet.condition)) == key
        };
        about.extend(of_test.filter(named).cloned());
    }
    let Some(first) = about.iter().map(|it| it.study_id).min() else { return Ok(None) };
    about.retain(|it| it.study_id == first);
    let study = evidence::get_studies(db, [first]).await?.remove(&first);
    Ok(study.map(|study| Found { study, results: about }))
}

/// The study of one's own records of a condition, for those who may enter results.
pub(super) async fn local_study(app: &App, by: &Reader, condition: &str) -> Result<Option<LocalStudy>, AppError> {
    if !by.role().may(Right::WriteStudies) {
        return Ok(None);
    }
    let Some(Found { study, results }) = find(&app.db, by.id(), condition).await? else { return Ok(None) };
    let id = study.id;
    let study = study_views(&app.db, vec![study]).await?.remove(&id);
    let results = results.into_iter().map(|it| LocalResult { test: it.test_id, result: it.id }).collect();
    Ok(study.map(|study| LocalStudy { study, results }))
}

/// Enters what your own closed examinations say of a test as a result of the catalogue, or brings that result up to date. It is of one study of own records for each
/// condition, which has to be appraised first, and no pool takes it unless somebody chooses so.
///
/// # Errors
/// No record with a reference result; a study or an appraisal that is missing, breaks rules or is not complete; database errors.
pub async fn enter_local_result(app: &App, by: &StudyWriter, input: LocalResultInput) -> Result<ResultView, AppError> {
    let LocalResultInput { test, condition, region, study, appraisal, variant, reference_standard } = input;
    let refused = |field, message: &str, remedy| AppError::field(field, FieldErrorCode::Missing, "", message, remedy);
    let (closed, sample) = closed_examinations(app, by.id(), region).await?;
    let own = own_records(&closed, &condition).tests.into_iter().find(|it| it.test == test);
    let told = own.filter(|OwnTest { counts: it, .. }| {
        let cells = [it.positive_with, it.positive_without, it.negative_with, it.negative_without];
        cells.iter().any(|cell| cell.get() > 0)
    });
    let Some(own) = told else {
        let message = "None of your finished examinations with this test has a reference result of this condition.";
        return Err(refused("test", message, "Enter reference results first."));
    };
    let sheet = catalogue::get_test(&app.db, test).await?.sheet;
    let Some(shown) = sheet.shows(&condition) else {
        return Err(refused(
            "condition",
            "The sheet of this test is not about this condition.",
            "Add it to the sheet.",
        ));
    };
    let named = if name_key(shown) == name_key(&sheet.condition) { String::new() } else { shown.to_owned() };
    let key = name_key(&condition);
    let asked = closed.iter().filter(|it| it.asked_about(&key).is_some());
    let note = format!("Counted on {} from {} own examinations.", Utc::now().date_naive(), asked.count());
    let result = AccuracyResult::check(&accuracy_of(&own, named, variant, reference_standard, note))
        .map_err(AppError::Fields)?;
    let transaction = app.begin().await?;
    let act = Act::of("created", Some(by.id()));
    let found = find(&transaction, by.id(), &condition).await?;
    let record = match found {
        Some(Found { study, results }) => match results.iter().find(|it| it.test_id == test) {
            // It stays the one that is chosen of these people.
            Some(known) => {
                let act = Act::of("edited", Some(by.id()));
                let result = AccuracyResult { preferred: known.result.preferred, ..result };
                evidence::update_result(&transaction, known.id, known.version, None, &result, act).await?
            }
            None => {
                let of = OfStudy::Known { id: study.id, version: study.version, study: study.study };
                evidence::create_result(&transaction, test, &of, &result, act).await?
            }
        },
        None => {
            let Some(study) = study else {
                return Err(refused("study", "Nothing says who was examined.", "Describe your patients."));
            };
            let Some(appraisal) = appraisal else {
                let remedy = "Judge the risk of bias in every domain first.";
                return Err(refused("appraisal", "Your records are not appraised.", remedy));
            };
            let setup = StudySetup { source: Some(DataSource::OwnRecords), ..study.setup.clone() };
            let study = within("study.", Study::check(&StudyInput { setup, ..study }))?;
            let appraisal = within("appraisal.", Appraisal::check(Aspect::Accuracy, &appraisal))?;
            if !appraisal.is_complete(Aspect::Accuracy) {
                let remedy = "Judge the risk of bias in every domain.";
                return Err(refused("appraisal", "The appraisal is not complete.", remedy));
            }
            let added = evidence::create_studies(&transaction, &[(&study, sample)], act).await?;
            let added = added.into_iter().next().ok_or_else(|| AppError::internal("a study that was not added"))?;
            evidence::put_appraisal(&transaction, added.id, Aspect::Accuracy, 0, &appraisal, act).await?;
            let of = OfStudy::Known { id: added.id, version: added.version, study: added.study };
            evidence::create_result(&transaction, test, &of, &result, act).await?
        }
    };
    commit(transaction).await?;
    result_view(app, by, record).await
}

fn within<T>(part: &str, checked: Result<T, Vec<FieldError>>) -> Result<T, AppError> {
    checked.map_err(|errors| AppError::Fields(errors.into_iter().map(|error| error.within(part)).collect()))
}

/// Records of people without the condition only say nothing of sensitivity, and the other way round.
fn accuracy_of(
    own: &OwnTest,
    condition: String,
    variant: String,
    reference_standard: String,
    note: String,
) -> AccuracyInput {
    let counts = &own.counts;
    let number = |it: Count| Some(f64::from(it.get()));
    let arm = |a: Count, b: Count| if a.get() + b.get() == 0 { [None, None] } else { [number(a), number(b)] };
    let [tp, fn_] = arm(counts.positive_with, counts.negative_with);
    let [fp, tn] = arm(counts.positive_without, counts.negative_without);
    let [with, without, unverified] = own.uninterpretable.map(|it| Some(f64::from(it)));
    AccuracyInput {
        variant,
        condition,
        reference_standard,
        note,
        unit: Some(Unit::Person),
        tp,
        fp,
        fn_,
        tn,
        positive_unverified: number(counts.positive_unverified),
        negative_unverified: number(counts.negative_unverified),
        uninterpretable_with: with,
        uninterpretable_without: without,
        uninterpretable_unverified: unverified,
        ..AccuracyInput::default()
    }
}
