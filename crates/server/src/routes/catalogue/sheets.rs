//! Sheets: one test each.

use pruvex_app::catalogue::{self as cases, TestView};
use pruvex_app::people::{Reader, SheetWriter};
use pruvex_core::TestId;
use pruvex_core::catalogue::SheetInput;
use rocket::{get, post, put};

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::guards::By;
use crate::params::Id;
use crate::problem::ApiError;
use crate::ready::Ready;

/// A test's sheet: as it was signed off for those who may not see drafts.
#[utoipa::path(tag = "catalogue", responses((status = 200, body = TestView)))]
#[get("/tests/<id>")]
pub(crate) async fn get_test(
    by: By<Reader>,
    id: Result<Id<TestId>, ApiError>,
    app: Ready<'_>,
) -> Result<Tagged<TestView>, ApiError> {
    Ok(Tagged::ok(cases::get_test(&app, &by, id?.0).await?))
}

/// Adds a test, as a draft.
#[utoipa::path(tag = "catalogue", request_body = SheetInput,
    responses((status = 201, body = TestView)))]
#[post("/tests", data = "<input>")]
pub(crate) async fn create_test(
    by: By<SheetWriter>,
    input: JsonBody<SheetInput>,
    app: Ready<'_>,
) -> Result<Tagged<TestView>, ApiError> {
    Ok(Tagged::created(cases::create_test(&app, &by, input.0).await?))
}

/// Saves a sheet that was read at the version in `If-Match`; it is a draft then.
#[utoipa::path(tag = "catalogue", request_body = SheetInput,
    params(IfMatch),
    responses((status = 200, body = TestView)))]
#[put("/tests/<id>", data = "<input>")]
pub(crate) async fn update_test(
    by: By<SheetWriter>,
    id: Result<Id<TestId>, ApiError>,
    version: IfMatch,
    input: JsonBody<SheetInput>,
    app: Ready<'_>,
) -> Result<Tagged<TestView>, ApiError> {
    Ok(Tagged::ok(cases::update_test(&app, &by, id?.0, version.0, input.0).await?))
}
