//! Several tests read together.

use pruvex_app::combine::{self as cases, BatteryAnswer, BatteryInput, ClaimsAnswer, ClaimsInput};
use pruvex_app::people::Reader;
use rocket::post;
use rocket::serde::json::Json;

use crate::body::JsonBody;
use crate::guards::By;
use crate::problem::ApiError;
use crate::ready::Ready;

/// What a battery of tests is worth: calculated, within the bounds of any dependence, and as studies of the very rule found it.
#[utoipa::path(tag = "combine", request_body = BatteryInput,
    responses((status = 200, body = BatteryAnswer)))]
#[post("/combine/battery", data = "<input>")]
pub(crate) async fn answer_battery(
    by: By<Reader>,
    input: JsonBody<BatteryInput>,
    app: Ready<'_>,
) -> Result<Json<BatteryAnswer>, ApiError> {
    Ok(Json(cases::answer_battery(&app, &by, input.0).await?))
}

/// Whether what is claimed of several tests read together can be true, given the single tests.
#[utoipa::path(tag = "combine", request_body = ClaimsInput,
    responses((status = 200, body = ClaimsAnswer)))]
#[post("/combine/claims", data = "<input>")]
pub(crate) fn check_claims(by: By<Reader>, input: JsonBody<ClaimsInput>) -> Result<Json<ClaimsAnswer>, ApiError> {
    Ok(Json(cases::check_claims(&by, &input.0)?))
}
