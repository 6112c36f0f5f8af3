//! How imports go on, whatever they bring; those that landed, and taking one back.

use pruvex_app::exchange::{self as cases, ImportView, PastImportView};
use pruvex_app::people::{DraftReader, StudyWriter};
use rocket::http::Status;
use rocket::serde::json::Json;
use rocket::{delete, get, post};
use uuid::Uuid;

use crate::guards::By;
use crate::params::Id;
use crate::problem::{ApiError, Problem};
use crate::ready::Ready;

/// The newest 200 imports that landed, the newest first.
#[utoipa::path(tag = "exchange", responses((status = 200, body = Vec<PastImportView>)))]
#[get("/imports")]
pub(crate) async fn list_past_imports(
    by: By<DraftReader>,
    app: Ready<'_>,
) -> Result<Json<Vec<PastImportView>>, ApiError> {
    Ok(Json(cases::list_past_imports(&app, &by).await?))
}

/// Takes an import that landed back as one: what it added goes, what it changed says what it said before. Refused, with every reason, once
/// anything was changed or built on it.
#[utoipa::path(tag = "exchange", responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/imports/<id>/taking-back")]
pub(crate) async fn take_back_import(
    by: By<StudyWriter>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Status, ApiError> {
    cases::take_back_import(&app, &by, id?.0).await?;
    Ok(Status::NoContent)
}

/// How one of your imports goes on.
#[utoipa::path(tag = "exchange", responses((status = 200, body = ImportView)))]
#[get("/imports/<id>")]
pub(crate) async fn get_import(
    by: By<StudyWriter>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Json<ImportView>, ApiError> {
    Ok(Json(cases::get_import(&app, &by, id?.0)?))
}

/// Stops one of your imports. The answer says how it ended: nothing was changed, or it was done before.
#[utoipa::path(tag = "exchange", responses((status = 200, body = ImportView)))]
#[delete("/imports/<id>")]
pub(crate) async fn stop_import(
    by: By<StudyWriter>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Json<ImportView>, ApiError> {
    Ok(Json(cases::stop_import(&app, &by, id?.0).await?))
}
