//! Results of accuracy of a test: list, add, correct, delete, restore.

use chrono::{DateTime, Utc};
use pruvex_core::accuracy::{Methods, StudyAccuracy, study_accuracy};
use pruvex_core::evidence::{AccuracyInput, AccuracyResult, NotPooled, StudyInput};
use pruvex_core::people::Right;
use pruvex_core::pooling::{Pooled, Worth};
use pruvex_store::evidence::{self as store, DoubleExtraction, ResultRecord};
use pruvex_store::history::{Act, Kind, entered};
use pruvex_store::{DatabaseConnection, StoreError, TransactionTrait};
use rocket::request::FromParam;
use rocket::serde::json::Json;
use rocket::serde::{Deserialize, Serialize};
use rocket::{State, delete, get, post, put};
use utoipa::ToSchema;
use uuid::Uuid;

use super::references::{ReportedTest, named};
use super::studies::{self, StudyView, both, needed, of_study};
use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::off::off;
use crate::params::RecordId;
use crate::people::{Reader, StudyWriter};
use crate::problem::{ApiError, Problem};
use crate::routes::catalogue::visible_test;
use crate::routes::pooling::{Backed, PooledAnswer, back_with};
use crate::routes::snapshots::{NamedSnapshot, current_snapshots};
use crate::state::{AppState, Db};

/// How a result came about.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct ResultTrace {
    /// Who entered it; `null` for what came with a file.
    entered_by: Option<String>,
    entered_at: DateTime<Utc>,
    /// Its double extraction; `null` when one person read it.
    double: Option<DoubleTrace>,
}

/// How two people read a result.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct DoubleTrace {
    id: Uuid,
    /// Who handed in; `null` for what came with a file.
    readers: Vec<Option<String>>,
    settled_by: Option<String>,
    /// `null` while it is not settled.
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
#[serde(crate = "rocket::serde")]
pub(crate) struct ResultView {
    id: Uuid,
    test_id: Uuid,
    version: i32,
    /// Made up, for demonstration.
    sample: bool,
    #[serde(flatten)]
    result: AccuracyResult,
    /// The other tests that were read together with this one, as far as they may be seen.
    others: Vec<ReportedTest>,
    /// Why it is not in the pool of its test; `null` when it is.
    left_out: Option<NotPooled>,
    study: StudyView,
    accuracy: StudyAccuracy,
    /// How it came about; `null` for who may not read histories.
    trace: Option<ResultTrace>,
}

/// A result and its study, as they are to be saved.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct ResultBody {
    /// The study on record that it is of; without it `study` is a new one.
    #[serde(default)]
    study_id: Option<Uuid>,
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
    fn of_study(&self) -> Result<Option<store::OfStudy>, Vec<pruvex_core::FieldError>> {
        of_study(self.study_id, self.study_version, self.study.as_ref())
    }

    fn result(&self) -> Result<AccuracyResult, Vec<pruvex_core::FieldError>> {
        AccuracyResult::check(&self.result)
            .map_err(|errors| errors.into_iter().map(|error| error.within("result.")).collect())
    }
}

async fn views(
    db: &DatabaseConnection,
    state: &AppState,
    by: &Reader,
    records: Vec<ResultRecord>,
) -> Result<Vec<ResultView>, ApiError> {
    let of = store::get_studies(db, records.iter().map(|record| record.study_id)).await?;
    let studies = studies::views(db, of.into_values().collect()).await?;
    let together = records.iter().filter_map(|record| record.result.together.as_ref());
    let names = named(state, by, together.flat_map(|it| it.tests.iter().copied())).await?;
    let traced = if by.0.role.may(Right::ReadDrafts) { records.iter().map(|it| it.id).collect() } else { Vec::new() };
    let mut entered = entered(db, Kind::Result, &traced).await?;
    let mut double = store::double_extractions_of(db, &traced).await?;
    off(move || {
        let mut view = |ResultRecord { id, test_id, study_id, version, sample, result, left_out }| {
            let study = studies.get(&study_id).cloned()?;
            let accuracy = study_accuracy(&result.counts, Methods::default());
            let others = result.together.iter().flat_map(|it| &it.tests);
            let others = others.filter_map(|test| names.get(test).cloned()).collect();
            let trace = entered.remove(&id).map(|it| ResultTrace {
                entered_by: it.by,
                entered_at: it.at,
                double: double.remove(&id).map(DoubleTrace::from),
            });
            Some(ResultView { id, test_id, version, sample, result, others, left_out, study, accuracy, trace })
        };
        records.into_iter().filter_map(&mut view).collect()
    })
    .await
}

async fn one(
    db: &DatabaseConnection,
    state: &AppState,
    by: StudyWriter,
    record: ResultRecord,
) -> Result<ResultView, ApiError> {
    views(db, state, &Reader(by.0), vec![record]).await?.pop().ok_or(ApiError::Internal)
}

/// A test's results of accuracy in the order they were entered.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<ResultView>), (status = 404, body = Problem)))]
#[get("/tests/<id>/results")]
pub(crate) async fn list_results(
    by: Reader,
    id: Result<RecordId, ApiError>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<Vec<ResultView>>, ApiError> {
    let id = id?.0;
    visible_test(db.0, id, &by.0).await?;
    let results = store::list_results(db.0, &[id]).await?;
    Ok(Json(views(db.0, state, &by, results).await?))
}

/// Adds a result to a test, with its study if that is new.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", params(("id" = Uuid, Path)), request_body = ResultBody,
    responses((status = 201, body = ResultView), (status = 404, body = Problem), (status = 412, body = Problem),
        (status = 422, body = Problem)))]
#[post("/tests/<id>/results", data = "<input>")]
pub(crate) async fn create_result(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    input: JsonBody<ResultBody>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Tagged<ResultView>, ApiError> {
    let (study, result) = both(input.0.of_study().and_then(needed), input.0.result())?;
    let act = Act::of("created", Some(by.0.id));
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::create_result(&transaction, id?.0, &study, &result, act).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::created(record.version, one(db.0, state, by, record).await?))
}

/// What a test answers now, and what it would answer.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct ResultEffect {
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
#[serde(crate = "rocket::serde")]
struct WorthChange {
    before: Option<Worth>,
    after: Option<Worth>,
}

/// What adding a result, or correcting the one named, would change in the test's pooled answer. It is tried and taken back: every rule of
/// saving holds here too.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", request_body = ResultBody,
    params(("id" = Uuid, Path), ("correcting" = Option<Uuid>, Query, description = "The result to be corrected")),
    responses((status = 200, body = ResultEffect), (status = 404, body = Problem), (status = 412, body = Problem),
        (status = 422, body = Problem)))]
#[post("/tests/<id>/results/effect?<correcting>", data = "<input>")]
pub(crate) async fn try_result(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    correcting: Option<&str>,
    input: JsonBody<ResultBody>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<ResultEffect>, ApiError> {
    let (id, (study, result)) = (id?.0, both(input.0.of_study(), input.0.result())?);
    let before = store::list_counts(db.0, Some(&[id])).await?;
    let reader = Reader(by.0.clone());
    let mut stale = current_snapshots(id, &reader, db.0).await?;
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    match correcting.map(RecordId::from_param).transpose()? {
        Some(RecordId(result_id)) => {
            let version = store::get_result(&transaction, result_id).await?.version;
            let act = Act::of("edited", Some(by.0.id));
            store::update_result(&transaction, result_id, version, study.as_ref(), &result, act).await?;
        }
        None => {
            let study = needed(study).map_err(ApiError::Fields)?;
            store::create_result(&transaction, id, &study, &result, Act::of("created", Some(by.0.id))).await?;
        }
    }
    let after = store::list_counts(&transaction, Some(&[id])).await?;
    if !stale.is_empty() {
        let left = current_snapshots(id, &reader, &transaction).await?;
        stale.retain(|it| !left.iter().any(|other| other.id == it.id));
    }
    transaction.rollback().await.map_err(StoreError::from)?;
    let (before, after) = (back_with(before, state).await?, back_with(after, state).await?);
    let worth =
        |of: &Option<Backed>| of.as_ref().and_then(|it| it.pooled.as_deref()).map(Pooled::worth).unwrap_or_default();
    let ([from_positive, from_negative], [to_positive, to_negative]) = (worth(&before), worth(&after));
    Ok(Json(ResultEffect {
        before: before.into(),
        after: after.into(),
        positive: WorthChange { before: from_positive, after: to_positive },
        negative: WorthChange { before: from_negative, after: to_negative },
        stale,
    }))
}

/// Corrects a result that was read at the version in `If-Match`, and its study.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", request_body = ResultBody,
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = ResultView), (status = 404, body = Problem), (status = 412, body = Problem),
        (status = 422, body = Problem)))]
#[put("/results/<id>", data = "<input>")]
pub(crate) async fn update_result(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    input: JsonBody<ResultBody>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Tagged<ResultView>, ApiError> {
    let (study, result) = both(input.0.of_study(), input.0.result())?;
    let act = Act::of("edited", Some(by.0.id));
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::update_result(&transaction, id?.0, version.0, study.as_ref(), &result, act).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(record.version, one(db.0, state, by, record).await?))
}

/// Deletes a result; it can be restored.
#[utoipa::path(context_path = "/api/v1", tag = "evidence",
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = ResultView), (status = 404, body = Problem), (status = 412, body = Problem)))]
#[delete("/results/<id>")]
pub(crate) async fn delete_result(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Tagged<ResultView>, ApiError> {
    let act = Act::of("deleted", Some(by.0.id));
    set_deleted(db.0, state, by, id?.0, version.0, act).await
}

/// Brings a deleted result back: the undo of a deletion.
#[utoipa::path(context_path = "/api/v1", tag = "evidence",
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that the deletion answered")),
    responses((status = 200, body = ResultView), (status = 404, body = Problem), (status = 412, body = Problem)))]
#[post("/results/<id>/restore")]
pub(crate) async fn restore_result(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Tagged<ResultView>, ApiError> {
    let act = Act::of("restored", Some(by.0.id));
    set_deleted(db.0, state, by, id?.0, version.0, act).await
}

async fn set_deleted(
    db: &DatabaseConnection,
    state: &AppState,
    by: StudyWriter,
    id: Uuid,
    version: i32,
    act: Act<'_>,
) -> Result<Tagged<ResultView>, ApiError> {
    let transaction = db.begin().await.map_err(StoreError::from)?;
    let deleted = act.action == "deleted";
    let record = store::set_result_deleted(&transaction, id, version, deleted, act).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(record.version, one(db, state, by, record).await?))
}
