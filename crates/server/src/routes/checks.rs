//! What a sheet forgot or contradicts, and what an interpretation table answers.

use std::collections::BTreeMap;

use pruvex_core::FieldError;
use pruvex_core::catalogue::{Finding, Found, Interpretation, Reading, Sheet, SheetInput};
use pruvex_store::catalogue::get_test;
use rocket::serde::json::Json;
use rocket::serde::{Deserialize, Serialize};
use rocket::{State, get, post};
use utoipa::ToSchema;
use uuid::Uuid;

use crate::body::JsonBody;
use crate::params::RecordId;
use crate::people::{DraftReader, Reader, SheetWriter};
use crate::problem::{ApiError, Problem};
use crate::state::{AppState, Db};

/// A sheet that is being written, looked over.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct SheetCheck {
    /// What would keep it from being saved.
    errors: Vec<FieldError>,
    /// What to look at again; looked for only when nothing keeps it from being saved.
    findings: Vec<Finding>,
}

/// A sheet and the test it belongs to.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct CheckInput {
    /// `null` while it is not stored.
    test: Option<Uuid>,
    sheet: SheetInput,
}

/// Looks a sheet over without saving it.
#[utoipa::path(context_path = "/api/v1", tag = "checks", request_body = CheckInput,
    responses((status = 200, body = SheetCheck), (status = 400, body = Problem)))]
#[post("/checks", data = "<input>")]
pub(crate) async fn check_sheet(
    _by: SheetWriter,
    input: JsonBody<CheckInput>,
    state: &State<AppState>,
    _db: Db<'_>,
) -> Result<Json<SheetCheck>, ApiError> {
    let CheckInput { test, sheet } = input.0;
    Ok(Json(match Sheet::check(&sheet) {
        Err(errors) => SheetCheck { errors, findings: Vec::new() },
        Ok(sheet) => SheetCheck { errors: Vec::new(), findings: state.shelf().await?.audit(sheet, test).await? },
    }))
}

/// What the checks find in a stored sheet as it stands.
#[utoipa::path(context_path = "/api/v1", tag = "checks", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<Finding>), (status = 404, body = Problem)))]
#[get("/tests/<id>/findings")]
pub(crate) async fn list_findings(
    _by: DraftReader,
    id: Result<RecordId, ApiError>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<Vec<Finding>>, ApiError> {
    let record = get_test(db.0, id?.0).await?;
    Ok(Json(state.shelf().await?.audit(record.sheet, Some(record.id)).await?))
}

/// A table, and what was measured or found.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct ReadingInput {
    interpretation: Interpretation,
    /// By name of the measure.
    values: BTreeMap<String, Found>,
}

/// Which rows of an interpretation table answer these values.
#[utoipa::path(context_path = "/api/v1", tag = "checks", request_body = ReadingInput,
    responses((status = 200, body = Reading), (status = 422, body = Problem)))]
#[post("/readings", data = "<input>")]
pub(crate) async fn read_values(_by: Reader, input: JsonBody<ReadingInput>) -> Result<Json<Reading>, ApiError> {
    let ReadingInput { interpretation, values } = input.0;
    interpretation.read(&values).map(Json).map_err(ApiError::Fields)
}
