//! What each level of a test's finding is worth.

use pruvex_app::evidence::{self as cases, LevelsAnswer};
use pruvex_app::people::Reader;
use pruvex_core::TestId;
use rocket::get;
use rocket::serde::json::Json;

use crate::guards::By;
use crate::params::{Id, pre_test};
use crate::problem::ApiError;
use crate::ready::Ready;

/// Likelihood ratio of each level of the finding, over the studies of the test that share their levels.
#[utoipa::path(tag = "evidence",
    params(("condition" = Option<String>, Query, description = "which of the conditions of its sheet; the leading one if absent"),
        ("pre_test" = Option<f64>, Query, description = "probability before testing, above 0 and below 1")),
    responses((status = 200, body = LevelsAnswer)))]
#[get("/tests/<id>/levels?<condition>&<pre_test>")]
pub(crate) async fn answer_levels(
    by: By<Reader>,
    id: Result<Id<TestId>, ApiError>,
    condition: Option<&str>,
    pre_test: Option<&str>,
    app: Ready<'_>,
) -> Result<Json<LevelsAnswer>, ApiError> {
    Ok(Json(cases::answer_levels(&app, &by, id?.0, condition, self::pre_test(pre_test)?).await?))
}
