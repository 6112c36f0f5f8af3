//! What somebody is writing and has not saved.

use chrono::{DateTime, Utc};
use pruvex_core::evidence::Aspect;
use pruvex_core::people::Right;
use pruvex_store::unsaved::{self as store, Unsaved, What};
use rocket::http::Status;
use rocket::request::FromParam;
use rocket::serde::json::{Json, Value};
use rocket::serde::{Deserialize, Serialize};
use rocket::{delete, get, put};
use utoipa::ToSchema;

use crate::body::JsonBody;
use crate::params::RecordId;
use crate::people::StudyWriter;
use crate::problem::{ApiError, Problem};
use crate::state::Db;

/// A form as it was typed.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct UnsavedView {
    /// The version it began from; `null` for a new record.
    version: Option<i32>,
    content: Value,
    at: DateTime<Utc>,
}

/// A form as it is being typed.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct UnsavedInput {
    version: Option<i32>,
    content: Value,
}

/// What stands at `/unsaved/<what>/<id>`, for who may write it.
fn place(by: &StudyWriter, what: &str, id: &str) -> Result<What, ApiError> {
    let record = |id| RecordId::from_param(id).map(|id| id.0);
    let new_or = |id| if id == "new" { Ok(None) } else { record(id).map(Some) };
    match what {
        "sheet" if !by.0.role.may(Right::WriteSheets) => Err(ApiError::NotAllowed { right: Right::WriteSheets }),
        "sheet" => Ok(What::Sheet(new_or(id)?)),
        "result" => Ok(What::Result(record(id)?)),
        "agreement" => Ok(What::Agreement(record(id)?)),
        "accuracy-appraisal" => Ok(What::Appraisal(Aspect::Accuracy, record(id)?)),
        "agreement-appraisal" => Ok(What::Appraisal(Aspect::Agreement, record(id)?)),
        "reference" => Ok(What::Reference(new_or(id)?)),
        _ => Err(ApiError::NoRoute),
    }
}

/// What you were writing there; `null` when nothing is kept.
#[utoipa::path(context_path = "/api/v1", tag = "unsaved",
    params(("what" = String, Path, description = "sheet, result, agreement, accuracy-appraisal, agreement-appraisal or reference"),
        ("id" = String, Path, description = "the record's id (of an appraisal its study's); of a new one its test's id, or `new`")),
    responses((status = 200, body = Option<UnsavedView>), (status = 404, body = Problem)))]
#[get("/unsaved/<what>/<id>")]
pub(crate) async fn get_unsaved(
    by: StudyWriter,
    what: &str,
    id: &str,
    db: Db<'_>,
) -> Result<Json<Option<UnsavedView>>, ApiError> {
    let found = store::get_unsaved(db.0, by.0.id, place(&by, what, id)?).await?;
    Ok(Json(found.map(|Unsaved { version, content, at }| UnsavedView { version, content, at })))
}

/// Keeps what you are writing.
#[utoipa::path(context_path = "/api/v1", tag = "unsaved", request_body = UnsavedInput,
    params(("what" = String, Path, description = "sheet, result, agreement, accuracy-appraisal, agreement-appraisal or reference"),
        ("id" = String, Path, description = "the record's id (of an appraisal its study's); of a new one its test's id, or `new`")),
    responses((status = 204), (status = 404, body = Problem)))]
#[put("/unsaved/<what>/<id>", data = "<input>")]
pub(crate) async fn put_unsaved(
    by: StudyWriter,
    what: &str,
    id: &str,
    input: JsonBody<UnsavedInput>,
    db: Db<'_>,
) -> Result<Status, ApiError> {
    let UnsavedInput { version, content } = input.0;
    store::put_unsaved(db.0, by.0.id, place(&by, what, id)?, version, content).await?;
    Ok(Status::NoContent)
}

/// Forgets it.
#[utoipa::path(context_path = "/api/v1", tag = "unsaved",
    params(("what" = String, Path, description = "sheet, result, agreement, accuracy-appraisal, agreement-appraisal or reference"),
        ("id" = String, Path, description = "the record's id (of an appraisal its study's); of a new one its test's id, or `new`")),
    responses((status = 204), (status = 404, body = Problem)))]
#[delete("/unsaved/<what>/<id>")]
pub(crate) async fn delete_unsaved(by: StudyWriter, what: &str, id: &str, db: Db<'_>) -> Result<Status, ApiError> {
    store::delete_unsaved(db.0, by.0.id, place(&by, what, id)?).await?;
    Ok(Status::NoContent)
}
