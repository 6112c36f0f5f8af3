//! The register of conflicting teaching: list, file, change, delete, restore.

use pruvex_app::catalogue::{self as cases, TeachingConflictView};
use pruvex_app::people::{Reader, SheetWriter};
use pruvex_core::catalogue::TeachingConflictInput;
use rocket::serde::json::Json;
use rocket::{delete, get, post, put};
use uuid::Uuid;

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::guards::By;
use crate::params::{self, Id};
use crate::problem::ApiError;
use crate::ready::Ready;

/// Entries of the register of conflicting teaching, in the order in which they were filed.
#[utoipa::path(tag = "catalogue",
    params(("region" = Option<pruvex_core::catalogue::Region>, Query, description = "of this region"),
        ("test" = Option<Uuid>, Query, description = "that name this test")),
    responses((status = 200, body = Vec<TeachingConflictView>)))]
#[get("/teaching-conflicts?<region>&<test>")]
pub(crate) async fn list_teaching_conflicts(
    by: By<Reader>,
    region: Option<&str>,
    test: Option<&str>,
    app: Ready<'_>,
) -> Result<Json<Vec<TeachingConflictView>>, ApiError> {
    let (region, test) = (params::region(region)?, params::id("test", test)?);
    Ok(Json(cases::list_teaching_conflicts(&app, &by, region, test).await?))
}

/// Files an entry of the register.
#[utoipa::path(tag = "catalogue", request_body = TeachingConflictInput,
    responses((status = 201, body = TeachingConflictView)))]
#[post("/teaching-conflicts", data = "<input>")]
pub(crate) async fn create_teaching_conflict(
    by: By<SheetWriter>,
    input: JsonBody<TeachingConflictInput>,
    app: Ready<'_>,
) -> Result<Tagged<TeachingConflictView>, ApiError> {
    Ok(Tagged::created(cases::create_teaching_conflict(&app, &by, input.0).await?))
}

/// Saves an entry that was read at the version in `If-Match`.
#[utoipa::path(tag = "catalogue", request_body = TeachingConflictInput,
    params(IfMatch),
    responses((status = 200, body = TeachingConflictView)))]
#[put("/teaching-conflicts/<id>", data = "<input>")]
pub(crate) async fn update_teaching_conflict(
    by: By<SheetWriter>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    input: JsonBody<TeachingConflictInput>,
    app: Ready<'_>,
) -> Result<Tagged<TeachingConflictView>, ApiError> {
    Ok(Tagged::ok(cases::update_teaching_conflict(&app, &by, id?.0, version.0, input.0).await?))
}

/// Deletes an entry; it can be restored.
#[utoipa::path(tag = "catalogue",
    params(IfMatch),
    responses((status = 200, body = TeachingConflictView)))]
#[delete("/teaching-conflicts/<id>")]
pub(crate) async fn delete_teaching_conflict(
    by: By<SheetWriter>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    app: Ready<'_>,
) -> Result<Tagged<TeachingConflictView>, ApiError> {
    Ok(Tagged::ok(cases::set_teaching_conflict_deleted(&app, &by, id?.0, version.0, true).await?))
}

/// Brings a deleted entry back: the undo of a deletion.
#[utoipa::path(tag = "catalogue",
    params(IfMatch),
    responses((status = 200, body = TeachingConflictView)))]
#[post("/teaching-conflicts/<id>/restore")]
pub(crate) async fn restore_teaching_conflict(
    by: By<SheetWriter>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    app: Ready<'_>,
) -> Result<Tagged<TeachingConflictView>, ApiError> {
    Ok(Tagged::ok(cases::set_teaching_conflict_deleted(&app, &by, id?.0, version.0, false).await?))
}
