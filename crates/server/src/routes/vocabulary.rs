//! The structures and conditions that sheets may name, and which tests load a structure.

use pruvex_app::people::{Reader, SheetWriter};
use pruvex_app::vocabulary::{self as cases, ConditionView, LoadingTest, StructureRow, StructureView};
use pruvex_core::catalogue::{ConditionInput, Region, StructureInput};
use rocket::serde::json::Json;
use rocket::{get, post, put};
use uuid::Uuid;

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::guards::By;
use crate::params::{Id, region};
use crate::problem::ApiError;
use crate::ready::Ready;

/// The vocabulary of one region or of all, head to foot, by name.
#[utoipa::path(tag = "vocabulary",
    params(("region" = Option<Region>, Query, description = "only this region")),
    responses((status = 200, body = Vec<StructureRow>)))]
#[get("/structures?<region>")]
pub(crate) async fn list_structures(
    by: By<Reader>,
    region: Option<&str>,
    app: Ready<'_>,
) -> Result<Json<Vec<StructureRow>>, ApiError> {
    Ok(Json(cases::list_structures(&app, &by, self::region(region)?).await?))
}

/// Tests that load a structure, under any of its names, with the role.
#[utoipa::path(tag = "vocabulary", responses((status = 200, body = Vec<LoadingTest>)))]
#[get("/structures/<id>/tests")]
pub(crate) async fn list_loading_tests(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Json<Vec<LoadingTest>>, ApiError> {
    Ok(Json(cases::list_loading_tests(&app, &by, id?.0).await?))
}

/// Adds a structure.
#[utoipa::path(tag = "vocabulary", request_body = StructureInput,
    responses((status = 201, body = StructureView)))]
#[post("/structures", data = "<input>")]
pub(crate) async fn create_structure(
    by: By<SheetWriter>,
    input: JsonBody<StructureInput>,
    app: Ready<'_>,
) -> Result<Tagged<StructureView>, ApiError> {
    Ok(Tagged::created(cases::create_structure(&app, &by, input.0).await?))
}

/// Saves a structure that was read at the version in `If-Match`.
#[utoipa::path(tag = "vocabulary", request_body = StructureInput,
    params(IfMatch),
    responses((status = 200, body = StructureView)))]
#[put("/structures/<id>", data = "<input>")]
pub(crate) async fn update_structure(
    by: By<SheetWriter>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    input: JsonBody<StructureInput>,
    app: Ready<'_>,
) -> Result<Tagged<StructureView>, ApiError> {
    Ok(Tagged::ok(cases::update_structure(&app, &by, id?.0, version.0, input.0).await?))
}

/// Adds a target condition.
#[utoipa::path(tag = "vocabulary", request_body = ConditionInput,
    responses((status = 201, body = ConditionView)))]
#[post("/conditions", data = "<input>")]
pub(crate) async fn create_condition(
    by: By<SheetWriter>,
    input: JsonBody<ConditionInput>,
    app: Ready<'_>,
) -> Result<Tagged<ConditionView>, ApiError> {
    Ok(Tagged::created(cases::create_condition(&app, &by, input.0).await?))
}

/// Saves a target condition that was read at the version in `If-Match`; its tests follow a new name.
#[utoipa::path(tag = "vocabulary", request_body = ConditionInput,
    params(IfMatch),
    responses((status = 200, body = ConditionView)))]
#[put("/conditions/<id>", data = "<input>")]
pub(crate) async fn update_condition(
    by: By<SheetWriter>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    input: JsonBody<ConditionInput>,
    app: Ready<'_>,
) -> Result<Tagged<ConditionView>, ApiError> {
    Ok(Tagged::ok(cases::update_condition(&app, &by, id?.0, version.0, input.0).await?))
}

/// All target conditions by name.
#[utoipa::path(tag = "vocabulary", responses((status = 200, body = Vec<ConditionView>)))]
#[get("/conditions")]
pub(crate) async fn list_conditions(by: By<Reader>, app: Ready<'_>) -> Result<Json<Vec<ConditionView>>, ApiError> {
    Ok(Json(cases::list_conditions(&app, &by).await?))
}
