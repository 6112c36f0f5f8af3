//! Agreement results of a test: what their figures say, list, add, correct, delete, restore.

use pruvex_app::evidence::{self as cases, AgreementBody, AgreementView};
use pruvex_app::people::{Reader, StudyWriter};
use pruvex_core::TestId;
use pruvex_core::evidence::{AgreementAnswer, FiguresInput};
use rocket::serde::json::Json;
use rocket::{delete, get, post, put};
use uuid::Uuid;

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::guards::By;
use crate::params::Id;
use crate::problem::{ApiError, Problem};
use crate::ready::Ready;

/// What figures say that are being entered. Nothing is stored.
#[utoipa::path(tag = "evidence", request_body = FiguresInput,
    responses((status = 200, body = AgreementAnswer)))]
#[post("/agreements/answer", data = "<input>")]
pub(crate) async fn answer_agreement(
    by: By<Reader>,
    input: JsonBody<FiguresInput>,
) -> Result<Json<AgreementAnswer>, ApiError> {
    Ok(Json(cases::answer_agreement(&by, input.0).await?))
}

/// A test's agreement results in the order they were entered.
#[utoipa::path(tag = "evidence", responses((status = 200, body = Vec<AgreementView>)))]
#[get("/tests/<id>/agreements")]
pub(crate) async fn list_agreements(
    by: By<Reader>,
    id: Result<Id<TestId>, ApiError>,
    app: Ready<'_>,
) -> Result<Json<Vec<AgreementView>>, ApiError> {
    Ok(Json(cases::list_agreements(&app, &by, id?.0).await?))
}

/// Adds an agreement result to a test.
#[utoipa::path(tag = "evidence", request_body = AgreementBody,
    responses((status = 201, body = AgreementView), (status = 412, body = Problem)))]
#[post("/tests/<id>/agreements", data = "<input>")]
pub(crate) async fn create_agreement(
    by: By<StudyWriter>,
    id: Result<Id<TestId>, ApiError>,
    input: JsonBody<AgreementBody>,
    app: Ready<'_>,
) -> Result<Tagged<AgreementView>, ApiError> {
    Ok(Tagged::created(cases::create_agreement(&app, &by, id?.0, input.0).await?))
}

/// Corrects an agreement result that was read at the version in `If-Match`.
#[utoipa::path(tag = "evidence", request_body = AgreementBody,
    params(IfMatch),
    responses((status = 200, body = AgreementView)))]
#[put("/agreements/<id>", data = "<input>")]
pub(crate) async fn update_agreement(
    by: By<StudyWriter>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    input: JsonBody<AgreementBody>,
    app: Ready<'_>,
) -> Result<Tagged<AgreementView>, ApiError> {
    Ok(Tagged::ok(cases::update_agreement(&app, &by, id?.0, version.0, input.0).await?))
}

/// Deletes an agreement result; it can be restored.
#[utoipa::path(tag = "evidence",
    params(IfMatch),
    responses((status = 200, body = AgreementView)))]
#[delete("/agreements/<id>")]
pub(crate) async fn delete_agreement(
    by: By<StudyWriter>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    app: Ready<'_>,
) -> Result<Tagged<AgreementView>, ApiError> {
    Ok(Tagged::ok(cases::delete_agreement(&app, &by, id?.0, version.0).await?))
}

/// Brings a deleted agreement result back: the undo of a deletion.
#[utoipa::path(tag = "evidence",
    params(IfMatch),
    responses((status = 200, body = AgreementView)))]
#[post("/agreements/<id>/restore")]
pub(crate) async fn restore_agreement(
    by: By<StudyWriter>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    app: Ready<'_>,
) -> Result<Tagged<AgreementView>, ApiError> {
    Ok(Tagged::ok(cases::restore_agreement(&app, &by, id?.0, version.0).await?))
}
