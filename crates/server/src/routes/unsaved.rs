//! What somebody is writing and has not saved.

use chrono::{DateTime, Utc};
use pruvex_store::unsaved::{self as store, Unsaved};
use rocket::http::Status;
use rocket::serde::json::{Json, Value};
use rocket::serde::{Deserialize, Serialize};
use rocket::{delete, get, put};
use utoipa::ToSchema;
use uuid::Uuid;

use crate::body::JsonBody;
use crate::params::RecordId;
use crate::people::SheetWriter;
use crate::problem::{ApiError, Problem};
use crate::state::Db;

/// A sheet as it was typed.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct UnsavedView {
    /// The version it began from; `null` for a new sheet.
    version: Option<i32>,
    sheet: Value,
    at: DateTime<Utc>,
}

/// A sheet as it is being typed.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct UnsavedInput {
    version: Option<i32>,
    sheet: Value,
}

/// A test's id, or `new` for a sheet that is not stored yet.
fn place(id: &str) -> Result<Option<Uuid>, ApiError> {
    if id == "new" { Ok(None) } else { rocket::request::FromParam::from_param(id).map(|id: RecordId| Some(id.0)) }
}

/// What you were writing there; `null` when nothing is kept.
#[utoipa::path(context_path = "/api/v1", tag = "unsaved",
    params(("id" = String, Path, description = "a test's id, or `new`")),
    responses((status = 200, body = Option<UnsavedView>), (status = 404, body = Problem)))]
#[get("/unsaved/<id>")]
pub(crate) async fn get_unsaved(by: SheetWriter, id: &str, db: Db<'_>) -> Result<Json<Option<UnsavedView>>, ApiError> {
    let found = store::get_unsaved(db.0, by.0.id, place(id)?).await?;
    Ok(Json(found.map(|Unsaved { version, sheet, at }| UnsavedView { version, sheet, at })))
}

/// Keeps what you are writing.
#[utoipa::path(context_path = "/api/v1", tag = "unsaved", request_body = UnsavedInput,
    params(("id" = String, Path, description = "a test's id, or `new`")),
    responses((status = 204), (status = 404, body = Problem)))]
#[put("/unsaved/<id>", data = "<input>")]
pub(crate) async fn put_unsaved(
    by: SheetWriter,
    id: &str,
    input: JsonBody<UnsavedInput>,
    db: Db<'_>,
) -> Result<Status, ApiError> {
    let UnsavedInput { version, sheet } = input.0;
    store::put_unsaved(db.0, by.0.id, place(id)?, version, sheet).await?;
    Ok(Status::NoContent)
}

/// Forgets it.
#[utoipa::path(context_path = "/api/v1", tag = "unsaved",
    params(("id" = String, Path, description = "a test's id, or `new`")),
    responses((status = 204), (status = 404, body = Problem)))]
#[delete("/unsaved/<id>")]
pub(crate) async fn delete_unsaved(by: SheetWriter, id: &str, db: Db<'_>) -> Result<Status, ApiError> {
    store::delete_unsaved(db.0, by.0.id, place(id)?).await?;
    Ok(Status::NoContent)
}
