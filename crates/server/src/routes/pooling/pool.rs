//! Pools that somebody puts together: which results are in, what they answer together, and what that depends on.

use pruvex_app::people::Reader;
use pruvex_app::pooling::{self as cases, CorrectionAnswer, CorrectionInput, PoolAnswer, PoolInput, PoolSensitivity};
use rocket::post;
use rocket::serde::json::Json;

use crate::body::JsonBody;
use crate::guards::By;
use crate::problem::{ApiError, Problem};
use crate::ready::Ready;

/// What results of tests answer together, which of them are in and why each other one is not.
#[utoipa::path(tag = "pooling", request_body = PoolInput,
    responses((status = 200, body = PoolAnswer), (status = 404, body = Problem)))]
#[post("/pools/answer", data = "<input>")]
pub(crate) async fn answer_pool(
    by: By<Reader>,
    input: JsonBody<PoolInput>,
    app: Ready<'_>,
) -> Result<Json<PoolAnswer>, ApiError> {
    Ok(Json(cases::answer_pool(&app, &by, input.0).await?))
}

/// How much the answer of a pool depends on the model, on single results and on the risk of bias. Whoever asks this of the same tests anew
/// before it is answered ends it: 409.
#[utoipa::path(tag = "pooling", request_body = PoolInput,
    responses((status = 200, body = PoolSensitivity), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/pools/sensitivity", data = "<input>")]
pub(crate) async fn try_pool(
    by: By<Reader>,
    input: JsonBody<PoolInput>,
    app: Ready<'_>,
) -> Result<Json<PoolSensitivity>, ApiError> {
    Ok(Json(cases::try_pool(&app, &by, input.0).await?))
}

/// The summary of a pool corrected for a reference standard that errs: a sensitivity analysis, with bounds that hold whatever the dependence between the errors of
/// test and reference.
#[utoipa::path(tag = "pooling", request_body = CorrectionInput,
    responses((status = 200, body = CorrectionAnswer), (status = 404, body = Problem)))]
#[post("/pools/reference", data = "<input>")]
pub(crate) async fn correct_pool(
    by: By<Reader>,
    input: JsonBody<CorrectionInput>,
    app: Ready<'_>,
) -> Result<Json<CorrectionAnswer>, ApiError> {
    Ok(Json(cases::correct_pool(&app, &by, input.0).await?))
}
