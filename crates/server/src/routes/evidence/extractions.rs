//! Double extractions: the board of what is read how far, what each reader reads, and settling what two have read.
//!
//! What somebody reads is answered to nobody else before both readers have handed in.

use pruvex_app::evidence::{
    self as cases, AskedExtraction, BoardFilter, BoardView, DoubleExtractionView, OwnExtractionBody, Progress,
    SettlementBody,
};
use pruvex_app::people::StudyWriter;
use pruvex_core::catalogue::Region;
use pruvex_core::evidence::ReaderAgreement;
use rocket::http::Status;
use rocket::serde::json::Json;
use rocket::{FromForm, delete, get, post, put};
use utoipa::IntoParams;
use uuid::Uuid;

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::guards::By;
use crate::params::{Id, choice, region, whole, yes_no};
use crate::problem::{ApiError, Problem};
use crate::ready::Ready;

/// Which rows are asked for.
#[derive(Debug, FromForm, IntoParams)]
#[into_params(parameter_in = Query)]
pub(crate) struct BoardQuery<'r> {
    /// `unread`, `once`, `twice` or `settled`.
    progress: Option<&'r str>,
    /// Whether the study is appraised.
    #[param(value_type = Option<bool>)]
    appraised: Option<&'r str>,
    /// Region of the tests.
    #[param(value_type = Option<Region>)]
    region: Option<&'r str>,
    /// A part of the reference or of the test's name.
    search: Option<&'r str>,
    /// What you can do something about.
    #[param(value_type = Option<bool>)]
    next: Option<&'r str>,
    /// How many to leave out at the beginning.
    #[param(value_type = Option<u64>)]
    offset: Option<&'r str>,
    /// How many to answer at most, 50 unless told otherwise.
    #[param(value_type = Option<u64>)]
    limit: Option<&'r str>,
}

const USUAL_LIMIT: u64 = 50;
const MAX_LIMIT: u64 = 500;

impl BoardQuery<'_> {
    fn filter(&self) -> Result<BoardFilter, ApiError> {
        let progress = |code: &str| Progress::ALL.into_iter().find(|it| it.code() == code);
        Ok(BoardFilter {
            progress: choice("progress", self.progress, &Progress::ALL.map(Progress::code), progress)?,
            appraised: yes_no("appraised", self.appraised)?,
            region: region(self.region)?,
            search: self.search.map(str::to_owned),
            next: yes_no("next", self.next)?.unwrap_or(false),
            offset: whole("offset", self.offset, u64::from(u32::MAX))?.unwrap_or_default(),
            limit: whole("limit", self.limit, MAX_LIMIT)?.unwrap_or(USUAL_LIMIT),
        })
    }
}

/// How far the reading of each result has come.
#[utoipa::path(tag = "evidence", params(BoardQuery),
    responses((status = 200, body = BoardView)))]
#[get("/extractions?<query..>")]
pub(crate) async fn list_extractions(
    by: By<StudyWriter>,
    query: BoardQuery<'_>,
    app: Ready<'_>,
) -> Result<Json<BoardView>, ApiError> {
    Ok(Json(cases::list_extractions(&app, &by, query.filter()?).await?))
}

/// Puts a result on the list.
#[utoipa::path(tag = "evidence", request_body = AskedExtraction,
    responses((status = 201, body = DoubleExtractionView), (status = 404, body = Problem)))]
#[post("/extractions", data = "<input>")]
pub(crate) async fn ask_extraction(
    by: By<StudyWriter>,
    input: JsonBody<AskedExtraction>,
    app: Ready<'_>,
) -> Result<Tagged<DoubleExtractionView>, ApiError> {
    Ok(Tagged::created(cases::ask_extraction(&app, &by, input.0).await?))
}

/// How well readers agree, over all results of a region (or of all) that two have read.
#[utoipa::path(tag = "evidence",
    params(("region" = Option<Region>, Query, description = "Region of the tests")),
    responses((status = 200, body = ReaderAgreement)))]
#[get("/extractions/agreement?<region>")]
pub(crate) async fn reader_agreement_of(
    by: By<StudyWriter>,
    region: Option<&str>,
    app: Ready<'_>,
) -> Result<Json<ReaderAgreement>, ApiError> {
    Ok(Json(cases::reader_agreement_of(&app, &by, self::region(region)?).await?))
}

/// A double extraction, as far as you may see it.
#[utoipa::path(tag = "evidence", responses((status = 200, body = DoubleExtractionView)))]
#[get("/extractions/<id>")]
pub(crate) async fn get_extraction(
    by: By<StudyWriter>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Tagged<DoubleExtractionView>, ApiError> {
    Ok(Tagged::ok(cases::get_extraction(&app, &by, id?.0).await?))
}

/// Takes a result off the list that nobody has begun to read.
#[utoipa::path(tag = "evidence", responses((status = 204), (status = 422, body = Problem)))]
#[delete("/extractions/<id>")]
pub(crate) async fn delete_extraction(
    by: By<StudyWriter>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Status, ApiError> {
    cases::delete_extraction(&app, &by, id?.0).await?;
    Ok(Status::NoContent)
}

/// Keeps what you read, at the version in `If-Match`; 0 at first. The reference is that of the list.
#[utoipa::path(tag = "evidence", request_body = OwnExtractionBody,
    params(IfMatch),
    responses((status = 200, body = DoubleExtractionView)))]
#[put("/extractions/<id>/mine", data = "<input>")]
pub(crate) async fn save_extraction(
    by: By<StudyWriter>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    input: JsonBody<OwnExtractionBody>,
    app: Ready<'_>,
) -> Result<Tagged<DoubleExtractionView>, ApiError> {
    Ok(Tagged::ok(cases::save_extraction(&app, &by, id?.0, version.0, input.0).await?))
}

/// Gives up what you began, so that somebody else can read it.
#[utoipa::path(tag = "evidence",
    params(IfMatch),
    responses((status = 200, body = DoubleExtractionView)))]
#[delete("/extractions/<id>/mine")]
pub(crate) async fn give_up_extraction(
    by: By<StudyWriter>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    app: Ready<'_>,
) -> Result<Tagged<DoubleExtractionView>, ApiError> {
    Ok(Tagged::ok(cases::give_up_extraction(&app, &by, id?.0, version.0).await?))
}

/// Settles what two read: the result is added to its test, or corrected.
#[utoipa::path(tag = "evidence", request_body = SettlementBody,
    responses((status = 200, body = DoubleExtractionView), (status = 412, body = Problem)))]
#[post("/extractions/<id>/settlement", data = "<input>")]
pub(crate) async fn settle_extraction(
    by: By<StudyWriter>,
    id: Result<Id<Uuid>, ApiError>,
    input: JsonBody<SettlementBody>,
    app: Ready<'_>,
) -> Result<Tagged<DoubleExtractionView>, ApiError> {
    Ok(Tagged::ok(cases::settle_extraction(&app, &by, id?.0, input.0).await?))
}
