//! What was changed, by whom and when, and bringing it back.

use pruvex_app::catalogue::TestView;
use pruvex_app::history::{self as cases, ChangeView, RestoreInput, RevisionView};
use pruvex_app::people::{DraftReader, SheetWriter};
use pruvex_core::TestId;
use rocket::serde::json::Json;
use rocket::{get, post};

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::guards::By;
use crate::params::Id;
use crate::problem::ApiError;
use crate::ready::Ready;

/// Every version of a sheet, the newest first.
#[utoipa::path(tag = "history", responses((status = 200, body = Vec<RevisionView>)))]
#[get("/tests/<id>/history")]
pub(crate) async fn list_versions(
    by: By<DraftReader>,
    id: Result<Id<TestId>, ApiError>,
    app: Ready<'_>,
) -> Result<Json<Vec<RevisionView>>, ApiError> {
    Ok(Json(cases::list_versions(&app, &by, id?.0).await?))
}

/// Every change of a test's results, of accuracy and of agreement, of their studies and of what was judged of these, deleted ones
/// included, the newest first.
#[utoipa::path(tag = "history", responses((status = 200, body = Vec<ChangeView>)))]
#[get("/tests/<id>/results/history")]
pub(crate) async fn list_study_changes(
    by: By<DraftReader>,
    id: Result<Id<TestId>, ApiError>,
    app: Ready<'_>,
) -> Result<Json<Vec<ChangeView>>, ApiError> {
    Ok(Json(cases::list_study_changes(&app, &by, id?.0).await?))
}

/// What people changed in the vocabulary of structures and conditions and in the register of conflicting teaching, the newest first.
#[utoipa::path(tag = "history", responses((status = 200, body = Vec<ChangeView>)))]
#[get("/vocabulary/history")]
pub(crate) async fn list_vocabulary_changes(
    by: By<DraftReader>,
    app: Ready<'_>,
) -> Result<Json<Vec<ChangeView>>, ApiError> {
    Ok(Json(cases::list_vocabulary_changes(&app, &by).await?))
}

/// Brings the text of an earlier version back, as a new version.
#[utoipa::path(tag = "history", request_body = RestoreInput,
    params(IfMatch),
    responses((status = 200, body = TestView)))]
#[post("/tests/<id>/restore", data = "<input>")]
pub(crate) async fn restore_test(
    by: By<SheetWriter>,
    id: Result<Id<TestId>, ApiError>,
    version: IfMatch,
    input: JsonBody<RestoreInput>,
    app: Ready<'_>,
) -> Result<Tagged<TestView>, ApiError> {
    Ok(Tagged::ok(cases::restore_test(&app, &by, id?.0, version.0, input.0).await?))
}
