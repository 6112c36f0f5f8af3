//! What a sheet forgot or contradicts, and what an interpretation table answers.

use pruvex_app::catalogue::{self as cases, CheckInput, ReadingInput, SheetCheck};
use pruvex_app::people::{DraftReader, Reader, SheetWriter};
use pruvex_core::TestId;
use pruvex_core::catalogue::{Finding, Reading};
use rocket::serde::json::Json;
use rocket::{get, post};

use crate::body::JsonBody;
use crate::guards::By;
use crate::params::Id;
use crate::problem::ApiError;
use crate::ready::Ready;

/// Looks a sheet over without saving it.
#[utoipa::path(tag = "checks", request_body = CheckInput,
    responses((status = 200, body = SheetCheck)))]
#[post("/checks", data = "<input>")]
pub(crate) async fn check_sheet(
    by: By<SheetWriter>,
    input: JsonBody<CheckInput>,
    app: Ready<'_>,
) -> Result<Json<SheetCheck>, ApiError> {
    Ok(Json(cases::check_sheet(&app, &by, input.0).await?))
}

/// What the checks find in a stored sheet as it stands.
#[utoipa::path(tag = "checks", responses((status = 200, body = Vec<Finding>)))]
#[get("/tests/<id>/findings")]
pub(crate) async fn list_findings(
    by: By<DraftReader>,
    id: Result<Id<TestId>, ApiError>,
    app: Ready<'_>,
) -> Result<Json<Vec<Finding>>, ApiError> {
    Ok(Json(cases::list_findings(&app, &by, id?.0).await?))
}

/// Which rows of an interpretation table answer these values.
#[utoipa::path(tag = "checks", request_body = ReadingInput,
    responses((status = 200, body = Reading)))]
#[post("/readings", data = "<input>")]
pub(crate) async fn read_values(by: By<Reader>, input: JsonBody<ReadingInput>) -> Result<Json<Reading>, ApiError> {
    Ok(Json(cases::read_values(&by, &input.0)?))
}
