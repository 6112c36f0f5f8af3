//! Results of accuracy of a test: list, add, correct, delete, restore.

use std::collections::{HashMap, HashSet};

use chrono::{DateTime, Utc};
use pruvex_core::accuracy::{
    LevelTable, Methods, StudyAccuracy, Uninterpretable, VerifiedAccuracy, correct_for_verification, level_table,
    study_accuracy,
};
use pruvex_core::evidence::{AccuracyInput, AccuracyResult, Candidate, OfTest, StudyInput, WhyOut, left_out};
use pruvex_core::people::{Right, Role};
use pruvex_core::pooling::{Pooled, Worth};
use pruvex_core::{FieldError, Level, ResultId, StudyId, TestId};
use pruvex_store::catalogue::get_test;
use pruvex_store::evidence::{self as store, DoubleExtraction, ResultRecord, Seen};
use pruvex_store::history::{Act, Kind, entered};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::studies::{self, StudyView, both, needed, of_study};
use crate::app::{commit, rollback};
use crate::blocking::blocking;
use crate::catalogue::{NamedTest, named, shown_condition, visible_test};
use crate::people::{Reader, ShownToLearners, StudyWriter, seen_by};
use crate::pooling::{Backed, NamedSnapshot, PooledAnswer, backed_by, current_snapshots};
use crate::{App, AppError, Versioned, only};

/// How a result came about.
#[derive(Debug, Serialize, ToSchema)]
pub struct ResultTrace {
    /// Who entered it; `null` for what came with a file.
    entered_by: Option<String>,
    entered_at: DateTime<Utc>,
    /// Its double extraction; `null` when one person read it.
    double: Option<DoubleTrace>,
}

/// How two people read a result.
#[derive(Debug, Serialize, ToSchema)]
pub struct DoubleTrace {
    id: Uuid,
    /// Who submitted it; `null` for what came with a file.
    readers: Vec<Option<String>>,
    settled_by: Option<String>,
    /// `null` while it is not adjudicated.
    settled_at: Option<DateTime<Utc>>,
}

impl From<DoubleExtraction> for DoubleTrace {
    fn from(of: DoubleExtraction) -> Self {
        let readers = of.readings.into_iter().filter(|it| it.handed_in_at.is_some()).map(|it| it.reader).collect();
        let settled_at = of.settled.as_ref().map(|it| it.at);
        Self { id: of.id, readers, settled_by: of.settled.and_then(|it| it.by), settled_at }
    }
}

/// A result with its study and the accuracy that its counts give.
#[derive(Debug, Serialize, ToSchema)]
pub struct ResultView {
    id: ResultId,
    test_id: TestId,
    version: i32,
    /// Made up, for demonstration.
    sample: bool,
    #[serde(flatten)]
    result: AccuracyResult,
    /// The other tests that were read together with this one, as far as they may be seen.
    others: Vec<NamedTest>,
    /// Why it is not in the pool of its test; `null` when it is.
    left_out: Option<WhyOut>,
    study: StudyView,
    accuracy: StudyAccuracy,
    /// What each level of the finding is worth; `null` where the report gives none.
    by_level: Option<LevelTable>,
    /// Corrected for people who were not verified; `null` where the report does not tell, or all were.
    verified: Option<VerifiedAccuracy>,
    /// Tests that could not be interpreted, of how many; of no result where the report does not tell.
    uninterpretable: Uninterpretable,
    /// Learners see it, if they see the sheet.
    learners_see: bool,
    /// How it came about; `null` for who may not read histories.
    trace: Option<ResultTrace>,
}

impl Versioned for ResultView {
    fn version(&self) -> i32 {
        self.version
    }
}

/// A result and its study, as they are to be saved.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ResultBody {
    /// The study on record that it is of; without it `study` is a new one.
    #[serde(default)]
    study_id: Option<StudyId>,
    /// The version at which that study was read.
    #[serde(default)]
    study_version: Option<i32>,
    /// What is said of the study now, for all of its results. A correction may leave it out with its number.
    #[serde(default)]
    study: Option<StudyInput>,
    /// What it reports.
    result: AccuracyInput,
}

impl ResultBody {
    fn of_study(&self) -> Result<Option<store::OfStudy>, Vec<FieldError>> {
        of_study(self.study_id, self.study_version, self.study.as_ref())
    }

    fn result(&self) -> Result<AccuracyResult, Vec<FieldError>> {
        AccuracyResult::check(&self.result)
            .map_err(|errors| errors.into_iter().map(|error| error.within("result.")).collect())
    }
}

/// Why results of a test are not in the pool that its sheet shows for a condition, by result.
pub(super) fn out_of_pool(
    all: &[ResultRecord],
    own: &HashSet<StudyId>,
    taught: &str,
    asked: &str,
) -> HashMap<ResultId, WhyOut> {
    let of_test: Vec<OfTest<'_>> = all
        .iter()
        .map(|it| OfTest {
            condition: &it.result.condition,
            together: it.result.together.is_some(),
            own_records: own.contains(&it.study_id),
            candidate: Candidate { study: it.study_id, group: &it.result.group, preferred: it.result.preferred },
        })
        .collect();
    all.iter().zip(left_out(&of_test, taught, asked)).filter_map(|(it, why)| Some((it.id, why?))).collect()
}

async fn views(
    app: &App,
    role: Role,
    records: Vec<ResultRecord>,
    why: HashMap<ResultId, WhyOut>,
) -> Result<Vec<ResultView>, AppError> {
    let of = store::get_studies(&app.db, records.iter().map(|record| record.study_id)).await?;
    let studies = studies::views(&app.db, of.into_values().collect()).await?;
    let together = records.iter().filter_map(|record| record.result.together.as_ref());
    let names = named(app, role, together.flat_map(|it| it.tests.iter().copied())).await?;
    let traced: Vec<ResultId> =
        if role.may(Right::ReadDrafts) { records.iter().map(|it| it.id).collect() } else { Vec::new() };
    let ids: Vec<Uuid> = traced.iter().map(|id| id.0).collect();
    let tests: HashSet<TestId> = records.iter().map(|record| record.test_id).collect();
    let tests: Vec<TestId> = tests.into_iter().collect();
    let shown = ShownToLearners::of(role, &app.db, async |seen| {
        Ok(store::list_results(&app.db, &tests, seen).await?.into_iter().map(|record| record.id).collect())
    });
    let shown = shown.await?;
    let mut entered = entered(&app.db, Kind::Result, &ids).await?;
    let mut double = store::double_extractions_of(&app.db, &traced).await?;
    blocking(move || {
        let mut view = |ResultRecord { id, test_id, study_id, version, sample, result }| {
            let study = studies.get(&study_id).cloned()?;
            let accuracy = study_accuracy(&result.counts, Methods::default());
            let by_level = (!result.levels.is_empty()).then(|| level_table(&result.levels, Level::default()));
            let verification = result.flow.verification(&result.counts);
            let uninterpretable = Uninterpretable::among([(&result.counts, &result.flow)]);
            let verified = verification.map(|it| correct_for_verification(&it, Level::default()));
            let others = result.together.iter().flat_map(|it| &it.tests);
            let others = others.filter_map(|test| names.get(test).cloned()).collect();
            let trace = entered.remove(&id.0).map(|it| ResultTrace {
                entered_by: it.by,
                entered_at: it.at,
                double: double.remove(&id).map(DoubleTrace::from),
            });
            let left_out = why.get(&id).copied();
            Some(ResultView {
                id,
                test_id,
                version,
                sample,
                result,
                others,
                left_out,
                study,
                accuracy,
                by_level,
                verified,
                uninterpretable,
                learners_see: shown.holds(&id),
                trace,
            })
        };
        records.into_iter().filter_map(&mut view).collect()
    })
    .await
}

/// The view of a result that was just saved.
pub(crate) async fn one(app: &App, by: &StudyWriter, record: ResultRecord) -> Result<ResultView, AppError> {
    let test = get_test(&app.db, record.test_id).await?;
    let all = store::list_results(&app.db, &[record.test_id], Seen::All).await?;
    let asked = test.sheet.shows(&record.result.condition).unwrap_or(&test.sheet.condition);
    let own = store::own_record_studies(&app.db).await?;
    let why = out_of_pool(&all, &own, &test.sheet.condition, asked);
    only(views(app, by.role(), vec![record], why).await?)
}

/// A test's results of accuracy in the order they were entered.
///
/// # Errors
/// No such test that this person may see.
pub async fn list_results(
    app: &App,
    by: &Reader,
    id: TestId,
    condition: Option<&str>,
) -> Result<Vec<ResultView>, AppError> {
    let test = visible_test(&app.db, id, by.account()).await?;
    let results = store::list_results(&app.db, &[id], seen_by(by.role(), &app.db).await?).await?;
    let asked = shown_condition(&test.sheet, condition)?;
    let own = store::own_record_studies(&app.db).await?;
    let why = out_of_pool(&results, &own, &test.sheet.condition, asked);
    let views = views(app, by.role(), results, why).await?;
    if by.role().may(Right::ReadDrafts) {
        return Ok(views);
    }
    let without_notes = |mut view: ResultView| {
        view.result.note.clear();
        ResultView { study: view.study.without_notes(), ..view }
    };
    Ok(views.into_iter().map(without_notes).collect())
}

/// Adds a result to a test, with its study if that is new.
pub async fn create_result(app: &App, by: &StudyWriter, id: TestId, input: ResultBody) -> Result<ResultView, AppError> {
    let (study, result) = both(input.of_study().and_then(needed), input.result())?;
    let act = Act::of("created", Some(by.id()));
    let transaction = app.begin().await?;
    let record = store::create_result(&transaction, id, &study, &result, act).await?;
    commit(transaction).await?;
    one(app, by, record).await
}

/// What a test answers now, and what it would answer.
#[derive(Debug, Serialize, ToSchema)]
pub struct ResultEffect {
    before: PooledAnswer,
    after: PooledAnswer,
    /// What a positive result is worth by the bands of its ratio, and what a negative one is.
    positive: WorthChange,
    negative: WorthChange,
    /// Frozen pools that are as the evidence stands, and would not be any more.
    stale: Vec<NamedSnapshot>,
}

/// `null` where the ratio cannot be estimated.
#[derive(Debug, Serialize, ToSchema)]
pub struct WorthChange {
    before: Option<Worth>,
    after: Option<Worth>,
}

/// What adding a result, or correcting the one named, would change in the test's pooled answer. It is tried and taken back: every rule of
/// saving holds here too.
pub async fn try_result(
    app: &App,
    by: &StudyWriter,
    id: TestId,
    correcting: Option<ResultId>,
    input: ResultBody,
) -> Result<ResultEffect, AppError> {
    let (study, result) = both(input.of_study(), input.result())?;
    let sheet = get_test(&app.db, id).await?.sheet;
    let conditions = (sheet.condition.as_str(), sheet.shows(&result.condition).unwrap_or(&sheet.condition));
    let before = store::list_candidates(&app.db, Some(&[id]), Seen::All).await?;
    let mut stale = current_snapshots(id, by.account(), &app.db).await?;
    let transaction = app.begin().await?;
    match correcting {
        Some(result_id) => {
            let version = store::get_result(&transaction, result_id).await?.version;
            let act = Act::of("edited", Some(by.id()));
            store::update_result(&transaction, result_id, version, study.as_ref(), &result, act).await?;
        }
        None => {
            let study = needed(study).map_err(AppError::Fields)?;
            store::create_result(&transaction, id, &study, &result, Act::of("created", Some(by.id()))).await?;
        }
    }
    let after = store::list_candidates(&transaction, Some(&[id]), Seen::All).await?;
    if !stale.is_empty() {
        let left = current_snapshots(id, by.account(), &transaction).await?;
        stale.retain(|it| !left.iter().any(|other| other == it));
    }
    rollback(transaction).await?;
    let (before, after) = (backed_by(app, before, conditions).await?, backed_by(app, after, conditions).await?);
    let worth =
        |of: &Option<Backed>| of.as_ref().and_then(|it| it.pooled.as_deref()).map(Pooled::worth).unwrap_or_default();
    let ([from_positive, from_negative], [to_positive, to_negative]) = (worth(&before), worth(&after));
    Ok(ResultEffect {
        before: before.into(),
        after: after.into(),
        positive: WorthChange { before: from_positive, after: to_positive },
        negative: WorthChange { before: from_negative, after: to_negative },
        stale,
    })
}

/// Corrects a result that was read at the version in `If-Match`, and its study.
pub async fn update_result(
    app: &App,
    by: &StudyWriter,
    id: ResultId,
    version: i32,
    input: ResultBody,
) -> Result<ResultView, AppError> {
    let (study, result) = both(input.of_study(), input.result())?;
    let act = Act::of("edited", Some(by.id()));
    let transaction = app.begin().await?;
    let record = store::update_result(&transaction, id, version, study.as_ref(), &result, act).await?;
    commit(transaction).await?;
    one(app, by, record).await
}

/// Deletes a result; it can be restored.
pub async fn delete_result(app: &App, by: &StudyWriter, id: ResultId, version: i32) -> Result<ResultView, AppError> {
    let act = Act::of("deleted", Some(by.id()));
    set_deleted(app, by, id, version, act).await
}

/// Brings a deleted result back: the undo of a deletion.
pub async fn restore_result(app: &App, by: &StudyWriter, id: ResultId, version: i32) -> Result<ResultView, AppError> {
    let act = Act::of("restored", Some(by.id()));
    set_deleted(app, by, id, version, act).await
}

async fn set_deleted(
    app: &App,
    by: &StudyWriter,
    id: ResultId,
    version: i32,
    act: Act<'_>,
) -> Result<ResultView, AppError> {
    let transaction = app.begin().await?;
    let deleted = act.action == "deleted";
    let record = store::set_result_deleted(&transaction, id, version, deleted, act).await?;
    commit(transaction).await?;
    one(app, by, record).await
}
