//! What somebody is writing and has not saved.

use pruvex_app::people::StudyWriter;
use pruvex_app::unsaved::{self as cases, UnsavedInput, UnsavedView, What};
use pruvex_core::evidence::Aspect;
use rocket::http::Status;
use rocket::request::FromParam;
use rocket::serde::json::Json;
use rocket::{delete, get, put};
use uuid::Uuid;

use crate::body::JsonBody;
use crate::guards::By;
use crate::params::Id;
use crate::problem::ApiError;
use crate::ready::Ready;

/// What stands at `/unsaved/<what>/<id>`.
fn place(what: &str, id: &str) -> Result<What, ApiError> {
    fn record<T: From<Uuid>>(id: &str) -> Result<T, ApiError> {
        Ok(Id::<T>::from_param(id)?.0)
    }
    match what {
        "sheet" if id == "new" => Ok(What::Sheet(None)),
        "sheet" => Ok(What::Sheet(Some(record(id)?))),
        "result" => Ok(What::Result(record(id)?)),
        "agreement" => Ok(What::Agreement(record(id)?)),
        "accuracy-appraisal" => Ok(What::Appraisal(Aspect::Accuracy, record(id)?)),
        "agreement-appraisal" => Ok(What::Appraisal(Aspect::Agreement, record(id)?)),
        "reference" if id == "new" => Ok(What::Reference(None)),
        "reference" => Ok(What::Reference(Some(record(id)?))),
        "plan" if id == "new" => Ok(What::Plan(None)),
        "plan" => Ok(What::Plan(Some(record(id)?))),
        _ => Err(ApiError::NoRoute),
    }
}

/// What you were writing there; `null` when nothing is kept.
#[utoipa::path(tag = "unsaved",
    params(("what" = String, Path, description = "sheet, result, agreement, accuracy-appraisal, agreement-appraisal or reference"),
        ("id" = String, Path, description = "the record's id (of an appraisal its study's); of a new one its test's id, or `new`")),
    responses((status = 200, body = Option<UnsavedView>)))]
#[get("/unsaved/<what>/<id>")]
pub(crate) async fn get_unsaved(
    by: By<StudyWriter>,
    what: &str,
    id: &str,
    app: Ready<'_>,
) -> Result<Json<Option<UnsavedView>>, ApiError> {
    Ok(Json(cases::get_unsaved(&app, &by, place(what, id)?).await?))
}

/// Keeps what you are writing.
#[utoipa::path(tag = "unsaved", request_body = UnsavedInput,
    params(("what" = String, Path, description = "sheet, result, agreement, accuracy-appraisal, agreement-appraisal or reference"),
        ("id" = String, Path, description = "the record's id (of an appraisal its study's); of a new one its test's id, or `new`")),
    responses((status = 204)))]
#[put("/unsaved/<what>/<id>", data = "<input>")]
pub(crate) async fn put_unsaved(
    by: By<StudyWriter>,
    what: &str,
    id: &str,
    input: JsonBody<UnsavedInput>,
    app: Ready<'_>,
) -> Result<Status, ApiError> {
    cases::put_unsaved(&app, &by, place(what, id)?, input.0).await?;
    Ok(Status::NoContent)
}

/// Forgets it.
#[utoipa::path(tag = "unsaved",
    params(("what" = String, Path, description = "sheet, result, agreement, accuracy-appraisal, agreement-appraisal or reference"),
        ("id" = String, Path, description = "the record's id (of an appraisal its study's); of a new one its test's id, or `new`")),
    responses((status = 204)))]
#[delete("/unsaved/<what>/<id>")]
pub(crate) async fn delete_unsaved(
    by: By<StudyWriter>,
    what: &str,
    id: &str,
    app: Ready<'_>,
) -> Result<Status, ApiError> {
    cases::delete_unsaved(&app, &by, place(what, id)?).await?;
    Ok(Status::NoContent)
}
