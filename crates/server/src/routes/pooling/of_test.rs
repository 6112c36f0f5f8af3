//! The pooled answer of a test's studies.

use pruvex_app::people::Reader;
use pruvex_app::pooling::{self as cases, PooledAnswer};
use pruvex_core::TestId;
use rocket::get;
use rocket::serde::json::Json;

use crate::guards::By;
use crate::params::Id;
use crate::problem::ApiError;
use crate::ready::Ready;

/// Summary sensitivity, specificity and ratios of a test's studies, with the model used and why.
#[utoipa::path(tag = "pooling",
    params(("condition" = Option<String>, Query, description = "which of the conditions of its sheet; the leading one if absent")),
    responses((status = 200, body = PooledAnswer)))]
#[get("/tests/<id>/pooled?<condition>")]
pub(crate) async fn pool_test(
    by: By<Reader>,
    id: Result<Id<TestId>, ApiError>,
    condition: Option<&str>,
    app: Ready<'_>,
) -> Result<Json<PooledAnswer>, ApiError> {
    Ok(Json(cases::pool_test(&app, &by, id?.0, condition).await?))
}
