//! Studies of a test: list, add, correct, delete, restore.

use std::collections::{HashMap, HashSet};

use pruvex_core::accuracy::{Methods, StudyAccuracy, study_accuracy};
use pruvex_core::evidence::{Study, StudyInput};
use pruvex_formats::{CitationStyle, cite};
use pruvex_store::evidence::{self as store, StudyRecord};
use pruvex_store::history::Act;
use pruvex_store::{DatabaseConnection, StoreError, TransactionTrait};
use rocket::serde::Serialize;
use rocket::serde::json::Json;
use rocket::{delete, get, post, put};
use utoipa::ToSchema;
use uuid::Uuid;

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::off::off;
use crate::params::RecordId;
use crate::people::{Reader, StudyWriter};
use crate::problem::{ApiError, Problem};
use crate::routes::catalogue::visible_test;
use crate::state::Db;

/// A study with the accuracy that its counts give.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct StudyView {
    id: Uuid,
    test_id: Uuid,
    version: i32,
    /// Made up, for demonstration.
    sample: bool,
    #[serde(flatten)]
    study: Study,
    /// The reference on record that it was published as.
    cited: Option<Cited>,
    accuracy: StudyAccuracy,
}

/// A reference in the words of a list.
#[derive(Debug, Clone, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct Cited {
    /// Short name: first authors and year.
    label: String,
    /// As it stands in a list of literature.
    citation: String,
}

/// References by their numbers, in the words of a list.
pub(super) async fn cited(
    db: &DatabaseConnection,
    ids: impl Iterator<Item = Uuid>,
) -> Result<HashMap<Uuid, Cited>, ApiError> {
    let ids: HashSet<Uuid> = ids.collect();
    let references = if ids.is_empty() { Vec::new() } else { store::get_references(db, ids).await? };
    off(move || {
        let citations = cite(CitationStyle::default(), &references.iter().map(|it| &it.reference).collect::<Vec<_>>());
        let cited = references.iter().zip(citations);
        cited.map(|(it, citation)| (it.id, Cited { label: it.reference.label(), citation })).collect()
    })
    .await
}

async fn views(db: &DatabaseConnection, records: Vec<StudyRecord>) -> Result<Vec<StudyView>, ApiError> {
    let cited = cited(db, records.iter().filter_map(|record| record.study.reference_id)).await?;
    off(move || {
        let view = |StudyRecord { id, test_id, version, sample, study }| {
            let accuracy = study_accuracy(&study.counts, Methods::default());
            let cited = study.reference_id.and_then(|id| cited.get(&id).cloned());
            StudyView { id, test_id, version, sample, study, cited, accuracy }
        };
        records.into_iter().map(view).collect()
    })
    .await
}

async fn one(db: &DatabaseConnection, record: StudyRecord) -> Result<StudyView, ApiError> {
    views(db, vec![record]).await?.pop().ok_or(ApiError::Internal)
}

/// A test's studies in the order they were entered.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<StudyView>), (status = 404, body = Problem)))]
#[get("/tests/<id>/studies")]
pub(crate) async fn list_studies(
    by: Reader,
    id: Result<RecordId, ApiError>,
    db: Db<'_>,
) -> Result<Json<Vec<StudyView>>, ApiError> {
    let id = id?.0;
    visible_test(&db, id, &by.0).await?;
    let studies = store::list_studies(db.0, &[id]).await?;
    Ok(Json(views(db.0, studies).await?))
}

/// Adds a study to a test.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", params(("id" = Uuid, Path)), request_body = StudyInput,
    responses((status = 201, body = StudyView), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/tests/<id>/studies", data = "<input>")]
pub(crate) async fn create_study(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    input: JsonBody<StudyInput>,
    db: Db<'_>,
) -> Result<Tagged<StudyView>, ApiError> {
    let study = Study::check(&input.0).map_err(ApiError::Fields)?;
    let act = Act::of("created", Some(by.0.id));
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::create_study(&transaction, id?.0, &study, false, act).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::created(record.version, one(db.0, record).await?))
}

/// Corrects a study that was read at the version in `If-Match`.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", request_body = StudyInput,
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = StudyView), (status = 404, body = Problem), (status = 412, body = Problem),
        (status = 422, body = Problem)))]
#[put("/studies/<id>", data = "<input>")]
pub(crate) async fn update_study(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    input: JsonBody<StudyInput>,
    db: Db<'_>,
) -> Result<Tagged<StudyView>, ApiError> {
    let (id, study) = (id?.0, Study::check(&input.0).map_err(ApiError::Fields)?);
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::update_study(&transaction, id, version.0, &study, Act::of("edited", Some(by.0.id))).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(record.version, one(db.0, record).await?))
}

/// Deletes a study; it can be restored.
#[utoipa::path(context_path = "/api/v1", tag = "evidence",
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = StudyView), (status = 404, body = Problem), (status = 412, body = Problem)))]
#[delete("/studies/<id>")]
pub(crate) async fn delete_study(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    db: Db<'_>,
) -> Result<Tagged<StudyView>, ApiError> {
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::delete_study(&transaction, id?.0, version.0, Act::of("deleted", Some(by.0.id))).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(record.version, one(db.0, record).await?))
}

/// Brings a deleted study back: the undo of a deletion.
#[utoipa::path(context_path = "/api/v1", tag = "evidence",
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that the deletion answered")),
    responses((status = 200, body = StudyView), (status = 404, body = Problem), (status = 412, body = Problem)))]
#[post("/studies/<id>/restore")]
pub(crate) async fn restore_study(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    db: Db<'_>,
) -> Result<Tagged<StudyView>, ApiError> {
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::restore_study(&transaction, id?.0, version.0, Act::of("restored", Some(by.0.id))).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(record.version, one(db.0, record).await?))
}
