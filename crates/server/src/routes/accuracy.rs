//! One study's accuracy, live while its cells are typed, and the tables behind a rounded report.

use pruvex_app::accuracy::{self as cases, ReportInput};
use pruvex_app::people::Reader;
use pruvex_core::accuracy::{RawCounts, Rebuilt, StudyAccuracy};
use rocket::post;
use rocket::serde::json::Json;

use crate::body::JsonBody;
use crate::guards::By;
use crate::problem::ApiError;

/// Sensitivity, specificity, ratios and their intervals for one table; nothing is stored.
#[utoipa::path(tag = "accuracy", request_body = RawCounts,
    responses((status = 200, body = StudyAccuracy)))]
#[post("/accuracy", data = "<cells>")]
pub(crate) fn study_accuracy(by: By<Reader>, cells: JsonBody<RawCounts>) -> Result<Json<StudyAccuracy>, ApiError> {
    Ok(Json(cases::study_accuracy(&by, cells.0)?))
}

/// Every 2x2 table that gives all printed figures, or those that contradict each other; nothing is stored.
#[utoipa::path(tag = "accuracy", request_body = ReportInput,
    responses((status = 200, body = Rebuilt)))]
#[post("/rebuilds", data = "<report>")]
pub(crate) async fn rebuild_tables(by: By<Reader>, report: JsonBody<ReportInput>) -> Result<Json<Rebuilt>, ApiError> {
    Ok(Json(cases::rebuild_tables(&by, report.0).await?))
}
