//! One study's accuracy, live while its cells are typed.

use pruvex_core::accuracy::{Counts, Methods, RawCounts, StudyAccuracy};
use rocket::post;
use rocket::serde::json::Json;

use crate::body::JsonBody;
use crate::people::Reader;
use crate::problem::{ApiError, Problem};

/// Sensitivity, specificity, ratios and their intervals for one table; nothing is stored.
#[utoipa::path(context_path = "/api/v1", tag = "accuracy", request_body = RawCounts,
    responses((status = 200, body = StudyAccuracy), (status = 422, body = Problem)))]
#[post("/accuracy", data = "<cells>")]
pub(crate) fn study_accuracy(_by: Reader, cells: JsonBody<RawCounts>) -> Result<Json<StudyAccuracy>, ApiError> {
    let counts = Counts::check(cells.0).map_err(ApiError::Fields)?;
    Ok(Json(pruvex_core::accuracy::study_accuracy(&counts, Methods::default())))
}
