//! Frozen pools: a pool as it was at a day, for guidelines and sheets to cite, and how it differs from today's.

use pruvex_app::people::{Reader, StudyWriter};
use pruvex_app::pooling::{
    self as cases, RatioThresholds, SnapshotDifference, SnapshotFilter, SnapshotInput, SnapshotRow, SnapshotView,
};
use pruvex_core::catalogue::Region;
use pruvex_core::evidence::SnapshotFile;
use rocket::http::Status;
use rocket::response::status::Custom;
use rocket::serde::json::Json;
use rocket::{get, post};
use uuid::Uuid;

use crate::body::JsonBody;
use crate::file::Download;
use crate::guards::By;
use crate::params::{self, Id, choice, region};
use crate::problem::{ApiError, Problem};
use crate::ready::Ready;

/// Freezes a pool as it is now.
#[utoipa::path(tag = "pooling", request_body = SnapshotInput,
    responses((status = 201, body = SnapshotView), (status = 404, body = Problem)))]
#[post("/snapshots", data = "<input>")]
pub(crate) async fn freeze_pool(
    by: By<StudyWriter>,
    input: JsonBody<SnapshotInput>,
    app: Ready<'_>,
) -> Result<Custom<Json<SnapshotView>>, ApiError> {
    Ok(Custom(Status::Created, Json(cases::freeze_pool(&app, &by, input.0).await?)))
}

/// The frozen pools, of a region, of a test or all, the newest first, as far as their tests may be seen.
#[utoipa::path(tag = "pooling",
    params(("region" = Option<Region>, Query, description = "only of this region"), ("test" = Option<Uuid>, Query, description = "only those that it is in")),
    responses((status = 200, body = Vec<SnapshotRow>)))]
#[get("/snapshots?<region>&<test>")]
pub(crate) async fn list_snapshots(
    by: By<Reader>,
    region: Option<&str>,
    test: Option<&str>,
    app: Ready<'_>,
) -> Result<Json<Vec<SnapshotRow>>, ApiError> {
    let filter = SnapshotFilter { region: self::region(region)?, test: params::id("test", test)? };
    Ok(Json(cases::list_snapshots(&app, &by, &filter).await?))
}

/// A frozen pool as it was.
#[utoipa::path(tag = "pooling", responses((status = 200, body = SnapshotView)))]
#[get("/snapshots/<id>")]
pub(crate) async fn get_snapshot(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Json<SnapshotView>, ApiError> {
    Ok(Json(cases::get_snapshot(&app, &by, id?.0).await?))
}

/// A frozen pool as a file that `pruvex verify` confirms.
#[utoipa::path(tag = "pooling", responses((status = 200, body = SnapshotFile)))]
#[get("/snapshots/<id>/file")]
pub(crate) async fn get_snapshot_file(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Download, ApiError> {
    Ok(Download::attachment(cases::get_snapshot_file(&app, &by, id?.0).await?))
}

fn threshold(field: &str, given: Option<&str>) -> Result<Option<f64>, ApiError> {
    choice(field, given, &["a number above 0"], |text| text.parse().ok().filter(|it: &f64| it.is_finite() && *it > 0.0))
}

/// How a frozen pool differs from the same selection now, and by which thresholds its ratios lie.
#[utoipa::path(tag = "pooling",
    params(("lr_positive" = Option<f64>, Query, description = "Threshold for LR+, 5 unless stated"),
        ("lr_negative" = Option<f64>, Query, description = "Threshold for LR-, 0.2 unless stated")),
    responses((status = 200, body = SnapshotDifference)))]
#[get("/snapshots/<id>/difference?<lr_positive>&<lr_negative>")]
pub(crate) async fn compare_snapshot(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    lr_positive: Option<&str>,
    lr_negative: Option<&str>,
    app: Ready<'_>,
) -> Result<Json<SnapshotDifference>, ApiError> {
    let usual = RatioThresholds::default();
    let thresholds = RatioThresholds {
        positive: threshold("lr_positive", lr_positive)?.unwrap_or(usual.positive),
        negative: threshold("lr_negative", lr_negative)?.unwrap_or(usual.negative),
    };
    Ok(Json(cases::compare_snapshot(&app, &by, id?.0, thresholds).await?))
}
