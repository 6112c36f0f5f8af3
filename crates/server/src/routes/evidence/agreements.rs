//! Agreement results of a test: what their figures say, list, add, correct, delete, restore.

use pruvex_core::Level;
use pruvex_core::evidence::{Agreement, AgreementAnswer, AgreementInput, FiguresInput, agreement_answer};
use pruvex_store::catalogue::get_test;
use pruvex_store::evidence::{self as store, AgreementRecord};
use pruvex_store::history::Act;
use pruvex_store::{DatabaseConnection, StoreError, TransactionTrait};
use rocket::serde::Serialize;
use rocket::serde::json::Json;
use rocket::{delete, get, post, put};
use utoipa::ToSchema;
use uuid::Uuid;

use super::studies::{Cited, cited};
use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::off::off;
use crate::params::RecordId;
use crate::people::{Reader, StudyWriter};
use crate::problem::{ApiError, Problem};
use crate::routes::catalogue::visible_test;
use crate::state::Db;

/// An agreement result with what its figures say.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct AgreementView {
    id: Uuid,
    test_id: Uuid,
    version: i32,
    /// Made up, for demonstration.
    sample: bool,
    #[serde(flatten)]
    written: AgreementInput,
    /// The reference on record that it was published as.
    cited: Option<Cited>,
    answer: AgreementAnswer,
}

async fn views(db: &DatabaseConnection, records: Vec<AgreementRecord>) -> Result<Vec<AgreementView>, ApiError> {
    let cited = cited(db, records.iter().filter_map(|it| it.agreement.written().reference_id)).await?;
    off(move || {
        let view = |AgreementRecord { id, test_id, version, sample, agreement }| {
            let (written, answer) = (agreement.written().clone(), agreement.answer(Level::default()));
            let cited = written.reference_id.and_then(|id| cited.get(&id).cloned());
            AgreementView { id, test_id, version, sample, written, cited, answer }
        };
        records.into_iter().map(view).collect()
    })
    .await
}

async fn one(db: &DatabaseConnection, record: AgreementRecord) -> Result<AgreementView, ApiError> {
    views(db, vec![record]).await?.pop().ok_or(ApiError::Internal)
}

/// What figures say that are being entered. Nothing is stored.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", request_body = FiguresInput,
    responses((status = 200, body = AgreementAnswer), (status = 422, body = Problem)))]
#[post("/agreements/answer", data = "<input>")]
pub(crate) async fn answer_agreement(
    _by: Reader,
    input: JsonBody<FiguresInput>,
) -> Result<Json<AgreementAnswer>, ApiError> {
    let answer = off(move || agreement_answer(&input.0, Level::default())).await?;
    answer.map(Json).map_err(ApiError::Fields)
}

/// A test's agreement results in the order they were entered.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<AgreementView>), (status = 404, body = Problem)))]
#[get("/tests/<id>/agreements")]
pub(crate) async fn list_agreements(
    by: Reader,
    id: Result<RecordId, ApiError>,
    db: Db<'_>,
) -> Result<Json<Vec<AgreementView>>, ApiError> {
    let id = id?.0;
    visible_test(&db, id, &by.0).await?;
    let agreements = store::list_agreements(db.0, &[id]).await?;
    Ok(Json(views(db.0, agreements).await?))
}

/// Adds an agreement result to a test.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", params(("id" = Uuid, Path)), request_body = AgreementInput,
    responses((status = 201, body = AgreementView), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/tests/<id>/agreements", data = "<input>")]
pub(crate) async fn create_agreement(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    input: JsonBody<AgreementInput>,
    db: Db<'_>,
) -> Result<Tagged<AgreementView>, ApiError> {
    let (id, agreement) = (id?.0, Agreement::check(&input.0).map_err(ApiError::Fields)?);
    let act = Act::of("created", Some(by.0.id));
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    get_test(&transaction, id).await?;
    let added = store::create_agreements(&transaction, &[(id, &agreement, false)], act).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    let record = added.into_iter().next().ok_or(ApiError::Internal)?;
    Ok(Tagged::created(record.version, one(db.0, record).await?))
}

/// Corrects an agreement result that was read at the version in `If-Match`.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", request_body = AgreementInput,
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = AgreementView), (status = 404, body = Problem), (status = 412, body = Problem),
        (status = 422, body = Problem)))]
#[put("/agreements/<id>", data = "<input>")]
pub(crate) async fn update_agreement(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    input: JsonBody<AgreementInput>,
    db: Db<'_>,
) -> Result<Tagged<AgreementView>, ApiError> {
    let (id, agreement) = (id?.0, Agreement::check(&input.0).map_err(ApiError::Fields)?);
    let act = Act::of("edited", Some(by.0.id));
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::update_agreement(&transaction, id, version.0, &agreement, act).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(record.version, one(db.0, record).await?))
}

/// Deletes an agreement result; it can be restored.
#[utoipa::path(context_path = "/api/v1", tag = "evidence",
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = AgreementView), (status = 404, body = Problem), (status = 412, body = Problem)))]
#[delete("/agreements/<id>")]
pub(crate) async fn delete_agreement(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    db: Db<'_>,
) -> Result<Tagged<AgreementView>, ApiError> {
    set_deleted(db.0, id?.0, version.0, true, Act::of("deleted", Some(by.0.id))).await
}

/// Brings a deleted agreement result back: the undo of a deletion.
#[utoipa::path(context_path = "/api/v1", tag = "evidence",
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that the deletion answered")),
    responses((status = 200, body = AgreementView), (status = 404, body = Problem), (status = 412, body = Problem)))]
#[post("/agreements/<id>/restore")]
pub(crate) async fn restore_agreement(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    db: Db<'_>,
) -> Result<Tagged<AgreementView>, ApiError> {
    set_deleted(db.0, id?.0, version.0, false, Act::of("restored", Some(by.0.id))).await
}

async fn set_deleted(
    db: &DatabaseConnection,
    id: Uuid,
    version: i32,
    deleted: bool,
    act: Act<'_>,
) -> Result<Tagged<AgreementView>, ApiError> {
    let transaction = db.begin().await.map_err(StoreError::from)?;
    let record = store::set_agreement_deleted(&transaction, id, version, deleted, act).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(record.version, one(db, record).await?))
}
