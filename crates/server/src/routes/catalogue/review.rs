//! The way of a sheet to its readers.

use pruvex_app::catalogue::{self as cases, StepInput, TestView};
use pruvex_app::people::DraftReader;
use pruvex_core::TestId;
use rocket::post;

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::guards::By;
use crate::params::Id;
use crate::problem::ApiError;
use crate::ready::Ready;

/// Submits a sheet for review, signs it off, sends it back, archives it, and so on.
#[utoipa::path(tag = "review", request_body = StepInput,
    params(IfMatch),
    responses((status = 200, body = TestView)))]
#[post("/tests/<id>/steps", data = "<input>")]
pub(crate) async fn step_test(
    by: By<DraftReader>,
    id: Result<Id<TestId>, ApiError>,
    version: IfMatch,
    input: JsonBody<StepInput>,
    app: Ready<'_>,
) -> Result<Tagged<TestView>, ApiError> {
    Ok(Tagged::ok(cases::step_test(&app, &by, id?.0, version.0, input.0).await?))
}
