//! References: list, look up, add, correct, delete, exchange.

use pruvex_app::catalogue::NamedTest;
use pruvex_app::evidence::{
    self as cases, AlikeReference, CitationStyle, ReferenceFormat, ReferenceList, ReferenceOrder, ReferenceQuery,
    ReferenceView,
};
use pruvex_app::people::{DraftReader, Reader, StudyWriter};
use pruvex_core::evidence::{Reference, ReferenceInput};
use rocket::serde::json::Json;
use rocket::{FromForm, delete, get, post, put};
use utoipa::IntoParams;
use uuid::Uuid;

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::file::Download;
use crate::guards::By;
use crate::params::{self, Id, choice, whole};
use crate::problem::{ApiError, Problem};
use crate::ready::Ready;

/// Which references are asked for.
#[derive(Debug, FromForm, IntoParams)]
#[into_params(parameter_in = Query)]
pub(crate) struct ListQuery<'r> {
    /// Words that must be found in authors, title, journal, year or identifiers.
    search: Option<&'r str>,
    /// `added` (the newest first), `author`, `year` or `title`.
    #[param(value_type = Option<String>)]
    order: Option<&'r str>,
    /// Style of citing: `ama` or `apa`.
    #[param(value_type = Option<CitationStyle>)]
    style: Option<&'r str>,
    /// How many to leave out at the beginning.
    #[param(value_type = Option<u64>)]
    offset: Option<&'r str>,
    /// How many to answer at most, 100 unless told otherwise.
    #[param(value_type = Option<u64>)]
    limit: Option<&'r str>,
}

const USUAL_LIMIT: u64 = 100;
const MAX_LIMIT: u64 = 500;

impl ListQuery<'_> {
    fn read(&self) -> Result<ReferenceQuery, ApiError> {
        let order = choice("order", self.order, &["added", "author", "year", "title"], |code| match code {
            "added" => Some(ReferenceOrder::Added),
            "author" => Some(ReferenceOrder::Author),
            "year" => Some(ReferenceOrder::Year),
            "title" => Some(ReferenceOrder::Title),
            _ => None,
        })?;
        Ok(ReferenceQuery {
            search: self.search.unwrap_or_default().to_owned(),
            order: order.unwrap_or_default(),
            offset: whole("offset", self.offset, u64::from(u32::MAX))?.unwrap_or_default(),
            limit: Some(whole("limit", self.limit, MAX_LIMIT)?.unwrap_or(USUAL_LIMIT)),
        })
    }

    fn style(&self) -> Result<CitationStyle, ApiError> {
        let known = |code: &str| CitationStyle::ALL.into_iter().find(|it| it.code() == code);
        let style = choice("style", self.style, &CitationStyle::ALL.map(CitationStyle::code), known)?;
        Ok(style.unwrap_or_default())
    }
}

/// References in the wanted order.
#[utoipa::path(tag = "evidence", params(ListQuery),
    responses((status = 200, body = ReferenceList)))]
#[get("/references?<query..>")]
pub(crate) async fn list_references(
    by: By<Reader>,
    query: ListQuery<'_>,
    app: Ready<'_>,
) -> Result<Json<ReferenceList>, ApiError> {
    Ok(Json(cases::list_references(&app, &by, query.read()?, query.style()?).await?))
}

/// One reference.
#[utoipa::path(tag = "evidence", responses((status = 200, body = ReferenceView)))]
#[get("/references/<id>")]
pub(crate) async fn get_reference(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Tagged<ReferenceView>, ApiError> {
    Ok(Tagged::ok(cases::get_reference(&app, &by, id?.0).await?))
}

/// The tests of which results were published as a reference.
#[utoipa::path(tag = "evidence", responses((status = 200, body = Vec<NamedTest>)))]
#[get("/references/<id>/tests")]
pub(crate) async fn list_reported_tests(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Json<Vec<NamedTest>>, ApiError> {
    Ok(Json(cases::list_reported_tests(&app, &by, id?.0).await?))
}

/// What an identifier stands for, as a registry of published works answers it. Nothing is stored.
#[utoipa::path(tag = "evidence",
    params(("identifier" = String, Query, description = "DOI or PubMed number")),
    responses((status = 200, body = Reference),
        (status = 404, body = Problem), (status = 502, body = Problem)))]
#[get("/works?<identifier>")]
pub(crate) async fn look_up_work(
    by: By<StudyWriter>,
    identifier: Option<&str>,
    app: Ready<'_>,
) -> Result<Json<Reference>, ApiError> {
    Ok(Json(cases::look_up_work(&app, &by, identifier.unwrap_or_default()).await?))
}

/// Stored references that may be the same work as this one, the most alike first.
#[utoipa::path(tag = "evidence", request_body = ReferenceInput,
    params(("except" = Option<Uuid>, Query, description = "the one that is being edited")),
    responses((status = 200, body = Vec<AlikeReference>)))]
#[post("/references/alike?<except>", data = "<input>")]
pub(crate) async fn list_alike_references(
    by: By<StudyWriter>,
    except: Option<&str>,
    input: JsonBody<ReferenceInput>,
    app: Ready<'_>,
) -> Result<Json<Vec<AlikeReference>>, ApiError> {
    Ok(Json(cases::list_alike_references(&app, &by, params::id("except", except)?, input.0).await?))
}

/// Adds a reference.
#[utoipa::path(tag = "evidence", request_body = ReferenceInput,
    responses((status = 201, body = ReferenceView)))]
#[post("/references", data = "<input>")]
pub(crate) async fn create_reference(
    by: By<StudyWriter>,
    input: JsonBody<ReferenceInput>,
    app: Ready<'_>,
) -> Result<Tagged<ReferenceView>, ApiError> {
    Ok(Tagged::created(cases::create_reference(&app, &by, input.0).await?))
}

/// Corrects a reference that was read at the version in `If-Match`.
#[utoipa::path(tag = "evidence", request_body = ReferenceInput,
    params(IfMatch),
    responses((status = 200, body = ReferenceView)))]
#[put("/references/<id>", data = "<input>")]
pub(crate) async fn update_reference(
    by: By<StudyWriter>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    input: JsonBody<ReferenceInput>,
    app: Ready<'_>,
) -> Result<Tagged<ReferenceView>, ApiError> {
    Ok(Tagged::ok(cases::update_reference(&app, &by, id?.0, version.0, input.0).await?))
}

/// Deletes a reference; it can be restored.
#[utoipa::path(tag = "evidence",
    params(IfMatch),
    responses((status = 200, body = ReferenceView)))]
#[delete("/references/<id>")]
pub(crate) async fn delete_reference(
    by: By<StudyWriter>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    app: Ready<'_>,
) -> Result<Tagged<ReferenceView>, ApiError> {
    Ok(Tagged::ok(cases::delete_reference(&app, &by, id?.0, version.0).await?))
}

/// Brings a deleted reference back: the undo of a deletion.
#[utoipa::path(tag = "evidence",
    params(IfMatch),
    responses((status = 200, body = ReferenceView)))]
#[post("/references/<id>/restore")]
pub(crate) async fn restore_reference(
    by: By<StudyWriter>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    app: Ready<'_>,
) -> Result<Tagged<ReferenceView>, ApiError> {
    Ok(Tagged::ok(cases::restore_reference(&app, &by, id?.0, version.0).await?))
}

/// The references that a search finds, as a file; RIS by default.
#[utoipa::path(tag = "evidence",
    params(("format" = Option<ReferenceFormat>, Query, description = "RIS by default"),
        ("search" = Option<String>, Query, description = "words that must be found")),
    responses((status = 200, description = "a file in that format", content((String = "application/x-research-info-systems"),
        (String = "application/x-bibtex"), (Vec<serde_json::Value> = "application/vnd.citationstyles.csl+json"), (String = "text/plain")))))]
#[get("/references/export?<format>&<search>")]
pub(crate) async fn export_references(
    by: By<DraftReader>,
    format: Option<&str>,
    search: Option<&str>,
    app: Ready<'_>,
) -> Result<Download, ApiError> {
    let known = |code: &str| ReferenceFormat::ALL.into_iter().find(|it| it.code() == code);
    let format = choice("format", format, &ReferenceFormat::ALL.map(ReferenceFormat::code), known)?;
    let format = format.unwrap_or(ReferenceFormat::Ris);
    Ok(Download::attachment(cases::export_references(&app, &by, format, search).await?))
}
