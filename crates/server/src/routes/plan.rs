//! Plans of examinations.

use pruvex_app::catalogue::StepInput;
use pruvex_app::history::ChangeView;
use pruvex_app::people::{DraftReader, Reader, SheetWriter};
use pruvex_app::plan::{
    self as cases, OfferedTest, PatientFitInput, PlanFilter, PlanFitAnswer, PlanOrderAnswer, PlanOrderInput, PlanRow,
    PlanStandingAnswer, PlanView, StandingInput,
};
use pruvex_core::catalogue::{Region, Status};
use pruvex_core::plan::ExaminationPlanInput;
use rocket::serde::json::Json;
use rocket::{get, post, put};
use uuid::Uuid;

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::file::Download;
use crate::guards::By;
use crate::params::{Id, choice, region};
use crate::problem::ApiError;
use crate::ready::Ready;

/// Plans by title: as they stand for those who see drafts, else those that are published.
#[utoipa::path(tag = "plan",
    params(("region" = Option<Region>, Query, description = "of this region"),
        ("search" = Option<String>, Query, description = "with these words in title or conditions"),
        ("status" = Option<Status>, Query, description = "in this state")),
    responses((status = 200, body = Vec<PlanRow>)))]
#[get("/plans?<region>&<search>&<status>")]
pub(crate) async fn list_plans(
    by: By<Reader>,
    region: Option<&str>,
    search: Option<&str>,
    status: Option<&str>,
    app: Ready<'_>,
) -> Result<Json<Vec<PlanRow>>, ApiError> {
    let status = choice("status", status, &Status::ALL.map(Status::code), Status::from_code)?;
    let filter = PlanFilter { region: self::region(region)?, search, status };
    Ok(Json(cases::list_plans(&app, &by, &filter).await?))
}

/// The tests of a region that a plan may take, those of the basic examination first.
#[utoipa::path(tag = "plan", params(("region" = Option<Region>, Query, description = "of this region")),
    responses((status = 200, body = Vec<OfferedTest>)))]
#[get("/plans/tests?<region>")]
pub(crate) async fn list_offered_tests(
    by: By<Reader>,
    region: Option<&str>,
    app: Ready<'_>,
) -> Result<Json<Vec<OfferedTest>>, ApiError> {
    Ok(Json(cases::list_offered_tests(&app, &by, self::region(region)?).await?))
}

/// Adds a plan, as a draft.
#[utoipa::path(tag = "plan", request_body = ExaminationPlanInput,
    responses((status = 201, body = PlanView)))]
#[post("/plans", data = "<input>")]
pub(crate) async fn create_plan(
    by: By<SheetWriter>,
    input: JsonBody<ExaminationPlanInput>,
    app: Ready<'_>,
) -> Result<Tagged<PlanView>, ApiError> {
    Ok(Tagged::created(cases::create_plan(&app, &by, input.0).await?))
}

/// In which order the tests of an examination are done best, what the present order costs, and what each test adds.
#[utoipa::path(tag = "plan", request_body = PlanOrderInput,
    responses((status = 200, body = PlanOrderAnswer)))]
#[post("/plans/order", data = "<input>")]
pub(crate) async fn order_plan(
    by: By<Reader>,
    input: JsonBody<PlanOrderInput>,
    app: Ready<'_>,
) -> Result<Json<PlanOrderAnswer>, ApiError> {
    Ok(Json(cases::order_plan(&app, &by, input.0).await?))
}

/// A plan: as it was signed off for those who may not see drafts.
#[utoipa::path(tag = "plan", responses((status = 200, body = PlanView)))]
#[get("/plans/<id>")]
pub(crate) async fn get_plan(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Tagged<PlanView>, ApiError> {
    Ok(Tagged::ok(cases::get_plan(&app, &by, id?.0).await?))
}

/// Saves a plan that was read at the version in `If-Match`; it is a draft then.
#[utoipa::path(tag = "plan", request_body = ExaminationPlanInput,
    params(IfMatch),
    responses((status = 200, body = PlanView)))]
#[put("/plans/<id>", data = "<input>")]
pub(crate) async fn update_plan(
    by: By<SheetWriter>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    input: JsonBody<ExaminationPlanInput>,
    app: Ready<'_>,
) -> Result<Tagged<PlanView>, ApiError> {
    Ok(Tagged::ok(cases::update_plan(&app, &by, id?.0, version.0, input.0).await?))
}

/// Submits a plan for review, signs it off, sends it back, archives it, and so on.
#[utoipa::path(tag = "plan", request_body = StepInput,
    params(IfMatch),
    responses((status = 200, body = PlanView)))]
#[post("/plans/<id>/steps", data = "<input>")]
pub(crate) async fn step_plan(
    by: By<DraftReader>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    input: JsonBody<StepInput>,
    app: Ready<'_>,
) -> Result<Tagged<PlanView>, ApiError> {
    Ok(Tagged::ok(cases::step_plan(&app, &by, id?.0, version.0, input.0).await?))
}

/// Whether the tests of a plan fit a patient: screening asked once, what is not done now, what to do instead. Nothing of it is kept.
#[utoipa::path(tag = "plan", request_body = PatientFitInput,
    responses((status = 200, body = PlanFitAnswer)))]
#[post("/plans/<id>/fit", data = "<input>")]
pub(crate) async fn fit_plan(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    input: JsonBody<PatientFitInput>,
    app: Ready<'_>,
) -> Result<Json<PlanFitAnswer>, ApiError> {
    Ok(Json(cases::fit_plan(&app, &by, id?.0, input.0).await?))
}

/// Where an examination by this plan stands after some results: each condition against its thresholds, what the open tests can still change, and whether
/// it may end. Nothing of it is kept.
#[utoipa::path(tag = "plan", request_body = StandingInput,
    responses((status = 200, body = PlanStandingAnswer)))]
#[post("/plans/<id>/standing", data = "<input>")]
pub(crate) async fn plan_standing(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    input: JsonBody<StandingInput>,
    app: Ready<'_>,
) -> Result<Json<PlanStandingAnswer>, ApiError> {
    Ok(Json(cases::plan_standing(&app, &by, id?.0, input.0).await?))
}

/// The plan typeset on A4: what is asked first, then its tests by position with boxes for both sides.
#[utoipa::path(tag = "plan",
    responses((status = 200, description = "a PDF", body = Vec<u8>, content_type = "application/pdf")))]
#[get("/plans/<id>/plan.pdf")]
pub(crate) async fn print_plan(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Download, ApiError> {
    Ok(Download::inline(cases::print_plan(&app, &by, id?.0).await?))
}

/// Every change of a plan, the newest first.
#[utoipa::path(tag = "plan", responses((status = 200, body = Vec<ChangeView>)))]
#[get("/plans/<id>/history")]
pub(crate) async fn list_plan_changes(
    by: By<DraftReader>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Json<Vec<ChangeView>>, ApiError> {
    Ok(Json(cases::list_plan_changes(&app, &by, id?.0).await?))
}
