//! Results of accuracy of a test: list, add, correct, delete, restore.

use pruvex_app::evidence::{self as cases, ResultBody, ResultEffect, ResultView};
use pruvex_app::people::{Reader, StudyWriter};
use pruvex_core::{ResultId, TestId};
use rocket::serde::json::Json;
use rocket::{delete, get, post, put};

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::guards::By;
use crate::params::{self, Id};
use crate::problem::{ApiError, Problem};
use crate::ready::Ready;

/// A test's results of accuracy in the order they were entered, with why each is in the pool that its sheet shows for a condition, or not.
#[utoipa::path(tag = "evidence",
    params(("condition" = Option<String>, Query, description = "which of the conditions of its sheet; the leading one if absent")),
    responses((status = 200, body = Vec<ResultView>)))]
#[get("/tests/<id>/results?<condition>")]
pub(crate) async fn list_results(
    by: By<Reader>,
    id: Result<Id<TestId>, ApiError>,
    condition: Option<&str>,
    app: Ready<'_>,
) -> Result<Json<Vec<ResultView>>, ApiError> {
    Ok(Json(cases::list_results(&app, &by, id?.0, condition).await?))
}

/// Adds a result to a test, with its study if that is new.
#[utoipa::path(tag = "evidence", request_body = ResultBody,
    responses((status = 201, body = ResultView), (status = 412, body = Problem)))]
#[post("/tests/<id>/results", data = "<input>")]
pub(crate) async fn create_result(
    by: By<StudyWriter>,
    id: Result<Id<TestId>, ApiError>,
    input: JsonBody<ResultBody>,
    app: Ready<'_>,
) -> Result<Tagged<ResultView>, ApiError> {
    Ok(Tagged::created(cases::create_result(&app, &by, id?.0, input.0).await?))
}

/// What adding a result, or correcting the one named, would change in the test's pooled answer. It is tried and taken back: every rule of
/// saving holds here too.
#[utoipa::path(tag = "evidence", request_body = ResultBody,
    params(("correcting" = Option<Uuid>, Query, description = "The result to be corrected")),
    responses((status = 200, body = ResultEffect)))]
#[post("/tests/<id>/results/effect?<correcting>", data = "<input>")]
pub(crate) async fn try_result(
    by: By<StudyWriter>,
    id: Result<Id<TestId>, ApiError>,
    correcting: Option<&str>,
    input: JsonBody<ResultBody>,
    app: Ready<'_>,
) -> Result<Json<ResultEffect>, ApiError> {
    Ok(Json(cases::try_result(&app, &by, id?.0, params::id("correcting", correcting)?, input.0).await?))
}

/// Corrects a result that was read at the version in `If-Match`, and its study.
#[utoipa::path(tag = "evidence", request_body = ResultBody,
    params(IfMatch),
    responses((status = 200, body = ResultView)))]
#[put("/results/<id>", data = "<input>")]
pub(crate) async fn update_result(
    by: By<StudyWriter>,
    id: Result<Id<ResultId>, ApiError>,
    version: IfMatch,
    input: JsonBody<ResultBody>,
    app: Ready<'_>,
) -> Result<Tagged<ResultView>, ApiError> {
    Ok(Tagged::ok(cases::update_result(&app, &by, id?.0, version.0, input.0).await?))
}

/// Deletes a result; it can be restored.
#[utoipa::path(tag = "evidence",
    params(IfMatch),
    responses((status = 200, body = ResultView)))]
#[delete("/results/<id>")]
pub(crate) async fn delete_result(
    by: By<StudyWriter>,
    id: Result<Id<ResultId>, ApiError>,
    version: IfMatch,
    app: Ready<'_>,
) -> Result<Tagged<ResultView>, ApiError> {
    Ok(Tagged::ok(cases::delete_result(&app, &by, id?.0, version.0).await?))
}

/// Brings a deleted result back: the undo of a deletion.
#[utoipa::path(tag = "evidence",
    params(IfMatch),
    responses((status = 200, body = ResultView)))]
#[post("/results/<id>/restore")]
pub(crate) async fn restore_result(
    by: By<StudyWriter>,
    id: Result<Id<ResultId>, ApiError>,
    version: IfMatch,
    app: Ready<'_>,
) -> Result<Tagged<ResultView>, ApiError> {
    Ok(Tagged::ok(cases::restore_result(&app, &by, id?.0, version.0).await?))
}
