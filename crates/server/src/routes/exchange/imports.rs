//! How imports go on, whatever they bring.

use pruvex_app::exchange::{self as cases, ImportView};
use pruvex_app::people::StudyWriter;
use rocket::serde::json::Json;
use rocket::{delete, get};
use uuid::Uuid;

use crate::guards::By;
use crate::params::Id;
use crate::problem::ApiError;
use crate::ready::Ready;

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
