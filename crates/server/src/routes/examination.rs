//! Examinations that are carried out.

use pruvex_app::evidence::ResultView;
use pruvex_app::examination::{
    self as cases, ExaminationBegun, ExaminationFilter, ExaminationInput, ExaminationPage, ExaminationState,
    ExaminationView, ExaminationsWaiting, LocalResultInput, OwnView, ReferenceResultInput, SharingInput,
};
use pruvex_app::people::{Reader, SheetWriter, StudyWriter};
use pruvex_core::catalogue::Region;
use rocket::serde::json::Json;
use rocket::{FromForm, delete, get, post, put};
use utoipa::IntoParams;
use uuid::Uuid;

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::file::Download;
use crate::guards::By;
use crate::params::{Id, choice, id, region, whole};
use crate::problem::ApiError;
use crate::ready::Ready;

const STATES: [(&str, ExaminationState); 6] = [
    ("all", ExaminationState::All),
    ("running", ExaminationState::Running),
    ("finished", ExaminationState::Finished),
    ("due", ExaminationState::Due),
    ("awaiting", ExaminationState::Awaiting),
    ("shared", ExaminationState::Shared),
];

/// Which examinations are asked for.
#[derive(Debug, FromForm, IntoParams)]
#[into_params(parameter_in = Query)]
pub(crate) struct ExaminationQuery<'r> {
    /// `all` of your own, those that are `running` or `finished`, those of which something is `due`, finished ones `awaiting` a reference result, or those that others
    /// have `shared`.
    state: Option<&'r str>,
    /// Of this region.
    #[param(value_type = Option<Region>)]
    region: Option<&'r str>,
    /// By this plan.
    #[param(value_type = Option<Uuid>)]
    plan: Option<&'r str>,
    /// With these words in label, plan, conditions or conclusion.
    search: Option<&'r str>,
}

impl<'r> ExaminationQuery<'r> {
    fn filter(&self) -> Result<ExaminationFilter<'r>, ApiError> {
        let find = |code: &str| STATES.iter().find(|(known, _)| *known == code).map(|(_, state)| *state);
        Ok(ExaminationFilter {
            state: choice("state", self.state, &STATES.map(|(code, _)| code), find)?.unwrap_or_default(),
            region: region(self.region)?,
            plan: id("plan", self.plan)?,
            search: self.search,
        })
    }
}

/// Your examinations, or those that others share.
#[utoipa::path(tag = "examination",
    params(ExaminationQuery, ("offset" = Option<u64>, Query, description = "leaving out so many"),
        ("limit" = Option<u64>, Query, description = "at most so many, up to 200; 50 where nothing is said")),
    responses((status = 200, body = ExaminationPage)))]
#[get("/examinations?<offset>&<limit>&<query..>")]
pub(crate) async fn list_examinations(
    by: By<Reader>,
    query: ExaminationQuery<'_>,
    offset: Option<&str>,
    limit: Option<&str>,
    app: Ready<'_>,
) -> Result<Json<ExaminationPage>, ApiError> {
    let offset = whole("offset", offset, 1_000_000)?.unwrap_or(0);
    let limit = whole("limit", limit, 200)?.unwrap_or(50);
    Ok(Json(cases::list_examinations(&app, &by, &query.filter()?, offset, limit).await?))
}

/// The finished examinations that are asked for, with a row for each of their tests.
#[utoipa::path(tag = "examination", params(ExaminationQuery),
    responses((status = 200, description = "a table", body = String, content_type = "text/csv")))]
#[get("/examinations.csv?<query..>")]
pub(crate) async fn export_examinations(
    by: By<Reader>,
    query: ExaminationQuery<'_>,
    app: Ready<'_>,
) -> Result<Download, ApiError> {
    Ok(Download::attachment(cases::export_examinations(&app, &by, &query.filter()?).await?))
}

/// What your own finished examinations say of a condition: its share, how your probabilities agree with what was found out, and each test in your hands beside the
/// published figures.
#[utoipa::path(tag = "examination",
    params(("region" = Option<Region>, Query, description = "of this region"), ("condition" = Option<String>, Query, description = "its name")),
    responses((status = 200, body = OwnView)))]
#[get("/examinations/own?<region>&<condition>")]
pub(crate) async fn own_examinations(
    by: By<Reader>,
    region: Option<&str>,
    condition: Option<&str>,
    app: Ready<'_>,
) -> Result<Json<OwnView>, ApiError> {
    Ok(Json(cases::own_examinations(&app, &by, self::region(region)?, condition.unwrap_or_default()).await?))
}

/// Enters what your own closed examinations say of a test as a result of the catalogue, or brings that result up to date. Its study has to be appraised, and no pool takes
/// it unless somebody chooses so.
#[utoipa::path(tag = "examination", request_body = LocalResultInput,
    responses((status = 201, body = ResultView)))]
#[post("/examinations/own/results", data = "<input>")]
pub(crate) async fn enter_local_result(
    by: By<StudyWriter>,
    input: JsonBody<LocalResultInput>,
    app: Ready<'_>,
) -> Result<Tagged<ResultView>, ApiError> {
    Ok(Tagged::created(cases::enter_local_result(&app, &by, input.0).await?))
}

/// How many of your own examinations wait for something: what is due, and a reference result.
#[utoipa::path(tag = "examination", responses((status = 200, body = ExaminationsWaiting)))]
#[get("/examinations/waiting")]
pub(crate) async fn count_waiting(by: By<Reader>, app: Ready<'_>) -> Result<Json<ExaminationsWaiting>, ApiError> {
    Ok(Json(cases::count_waiting(&app, &by).await?))
}

/// Begins an examination by a plan, under a label that says nothing of the patient.
#[utoipa::path(tag = "examination", request_body = ExaminationBegun,
    responses((status = 201, body = ExaminationView)))]
#[post("/examinations", data = "<input>")]
pub(crate) async fn begin_examination(
    by: By<Reader>,
    input: JsonBody<ExaminationBegun>,
    app: Ready<'_>,
) -> Result<Tagged<ExaminationView>, ApiError> {
    Ok(Tagged::created(cases::begin_examination(&app, &by, input.0).await?))
}

/// An examination of your own, or one that is shared.
#[utoipa::path(tag = "examination", responses((status = 200, body = ExaminationView)))]
#[get("/examinations/<id>")]
pub(crate) async fn get_examination(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Tagged<ExaminationView>, ApiError> {
    Ok(Tagged::ok(cases::get_examination(&app, &by, id?.0).await?))
}

/// Saves an examination that was read at the version in `If-Match`. Once it is finished, only its conclusion, what is done again and what was done about urgent
/// findings may change.
#[utoipa::path(tag = "examination", request_body = ExaminationInput,
    params(IfMatch),
    responses((status = 200, body = ExaminationView)))]
#[put("/examinations/<id>", data = "<input>")]
pub(crate) async fn save_examination(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    input: JsonBody<ExaminationInput>,
    app: Ready<'_>,
) -> Result<Tagged<ExaminationView>, ApiError> {
    Ok(Tagged::ok(cases::save_examination(&app, &by, id?.0, version.0, input.0).await?))
}

/// Finishes an examination: its findings are locked, and what they come to is kept with the figures and versions of today.
#[utoipa::path(tag = "examination",
    params(IfMatch),
    responses((status = 200, body = ExaminationView)))]
#[post("/examinations/<id>/finish")]
pub(crate) async fn finish_examination(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    app: Ready<'_>,
) -> Result<Tagged<ExaminationView>, ApiError> {
    Ok(Tagged::ok(cases::finish_examination(&app, &by, id?.0, version.0).await?))
}

/// Keeps what was found out later of a finished examination of your own: whether its conditions were there.
#[utoipa::path(tag = "examination", request_body = ReferenceResultInput,
    params(IfMatch),
    responses((status = 200, body = ExaminationView)))]
#[put("/examinations/<id>/reference", data = "<input>")]
pub(crate) async fn save_reference(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    input: JsonBody<ReferenceResultInput>,
    app: Ready<'_>,
) -> Result<Tagged<ExaminationView>, ApiError> {
    Ok(Tagged::ok(cases::save_reference(&app, &by, id?.0, version.0, &input.0).await?))
}

/// Shares a finished examination of your own for teaching, or ends that.
#[utoipa::path(tag = "examination", request_body = SharingInput,
    params(IfMatch),
    responses((status = 200, body = ExaminationView)))]
#[put("/examinations/<id>/sharing", data = "<input>")]
pub(crate) async fn share_examination(
    by: By<SheetWriter>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    input: JsonBody<SharingInput>,
    app: Ready<'_>,
) -> Result<Tagged<ExaminationView>, ApiError> {
    Ok(Tagged::ok(cases::share_examination(&app, &by, id?.0, version.0, &input.0).await?))
}

/// Deletes an examination of your own.
#[utoipa::path(tag = "examination",
    params(IfMatch),
    responses((status = 200, body = ExaminationView)))]
#[delete("/examinations/<id>")]
pub(crate) async fn delete_examination(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    app: Ready<'_>,
) -> Result<Tagged<ExaminationView>, ApiError> {
    Ok(Tagged::ok(cases::set_examination_deleted(&app, &by, id?.0, version.0, true).await?))
}

/// Brings a deleted examination of your own back.
#[utoipa::path(tag = "examination",
    params(IfMatch),
    responses((status = 200, body = ExaminationView)))]
#[post("/examinations/<id>/restore")]
pub(crate) async fn restore_examination(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    app: Ready<'_>,
) -> Result<Tagged<ExaminationView>, ApiError> {
    Ok(Tagged::ok(cases::set_examination_deleted(&app, &by, id?.0, version.0, false).await?))
}

/// The record of a finished examination typeset on A4.
#[utoipa::path(tag = "examination",
    responses((status = 200, description = "a PDF", body = Vec<u8>, content_type = "application/pdf")))]
#[get("/examinations/<id>/examination.pdf")]
pub(crate) async fn print_examination(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Download, ApiError> {
    Ok(Download::inline(cases::print_examination(&app, &by, id?.0).await?))
}
