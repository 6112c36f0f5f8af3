//! Agreement results of a test: what their figures say, list, add, correct, delete, restore.

use pruvex_core::evidence::{Agreement, AgreementAnswer, AgreementInput, FiguresInput, StudyInput, agreement_answer};
use pruvex_core::{FieldError, Level};
use pruvex_store::catalogue::get_test;
use pruvex_store::evidence::{self as store, AgreementRecord};
use pruvex_store::history::Act;
use pruvex_store::{DatabaseConnection, StoreError, TransactionTrait};
use rocket::serde::json::Json;
use rocket::serde::{Deserialize, Serialize};
use rocket::{delete, get, post, put};
use utoipa::ToSchema;
use uuid::Uuid;

use super::studies::{self, StudyView, both, needed, of_study};
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
    study: StudyView,
    answer: AgreementAnswer,
}

/// An agreement result and its study, as they are to be saved.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct AgreementBody {
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
    agreement: AgreementInput,
}

impl AgreementBody {
    fn of_study(&self) -> Result<Option<store::OfStudy>, Vec<FieldError>> {
        of_study(self.study_id, self.study_version, self.study.as_ref())
    }

    fn agreement(&self) -> Result<Agreement, Vec<FieldError>> {
        Agreement::check(&self.agreement)
            .map_err(|errors| errors.into_iter().map(|error| error.within("agreement.")).collect())
    }
}

async fn views(db: &DatabaseConnection, records: Vec<AgreementRecord>) -> Result<Vec<AgreementView>, ApiError> {
    let of = store::get_studies(db, records.iter().map(|record| record.study_id)).await?;
    let studies = studies::views(db, of.into_values().collect()).await?;
    off(move || {
        let view = |AgreementRecord { id, test_id, study_id, version, sample, agreement }| {
            let study = studies.get(&study_id).cloned()?;
            let (written, answer) = (agreement.written().clone(), agreement.answer(Level::default()));
            Some(AgreementView { id, test_id, version, sample, written, study, answer })
        };
        records.into_iter().filter_map(view).collect()
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
    visible_test(db.0, id, &by.0).await?;
    let agreements = store::list_agreements(db.0, &[id]).await?;
    Ok(Json(views(db.0, agreements).await?))
}

/// Adds an agreement result to a test.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", params(("id" = Uuid, Path)), request_body = AgreementBody,
    responses((status = 201, body = AgreementView), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/tests/<id>/agreements", data = "<input>")]
pub(crate) async fn create_agreement(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    input: JsonBody<AgreementBody>,
    db: Db<'_>,
) -> Result<Tagged<AgreementView>, ApiError> {
    let id = id?.0;
    let (study, agreement) = both(input.0.of_study().and_then(needed), input.0.agreement())?;
    let act = Act::of("created", Some(by.0.id));
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    get_test(&transaction, id).await?;
    let record = store::create_agreement(&transaction, id, &study, &agreement, act).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::created(record.version, one(db.0, record).await?))
}

/// Corrects an agreement result that was read at the version in `If-Match`.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", request_body = AgreementBody,
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = AgreementView), (status = 404, body = Problem), (status = 412, body = Problem),
        (status = 422, body = Problem)))]
#[put("/agreements/<id>", data = "<input>")]
pub(crate) async fn update_agreement(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    input: JsonBody<AgreementBody>,
    db: Db<'_>,
) -> Result<Tagged<AgreementView>, ApiError> {
    let (study, agreement) = both(input.0.of_study(), input.0.agreement())?;
    let act = Act::of("edited", Some(by.0.id));
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::update_agreement(&transaction, id?.0, version.0, study.as_ref(), &agreement, act).await?;
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
