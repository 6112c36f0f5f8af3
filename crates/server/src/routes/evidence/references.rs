//! References: list, look up, add, correct, delete, exchange.

use std::collections::{HashMap, HashSet};

use pruvex_core::evidence::{Likeness, Reference, ReferenceInput, parse_identifier};
use pruvex_formats::{CitationStyle, ReferenceFormat, cite, read_references, write_references};
use pruvex_store::evidence::{self as store, Citing, Order, ReferenceQuery, ReferenceRecord, ReferencesImported};
use pruvex_store::history::Act;
use pruvex_store::{DatabaseConnection, StoreError, TransactionTrait};
use rocket::data::Data;
use rocket::http::ContentType;
use rocket::serde::Serialize;
use rocket::serde::json::Json;
use rocket::{FromForm, State, delete, get, post, put};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use crate::body::{JsonBody, upload};
use crate::download::Download;
use crate::etag::{IfMatch, Tagged};
use crate::off::off;
use crate::params::{RecordId, choice, search_text, whole};
use crate::people::{DraftReader, Reader, StudyWriter};
use crate::problem::{ApiError, Problem};
use crate::state::{AppState, Db};

/// A reference with its id.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct ReferenceView {
    id: Uuid,
    version: i32,
    /// Made up, for demonstration.
    sample: bool,
    /// Short name: first authors and year.
    label: String,
    #[serde(flatten)]
    reference: Reference,
    /// As it stands in a list of literature.
    citation: String,
    /// How many studies were published as it.
    studies: usize,
}

async fn views(
    db: &DatabaseConnection,
    style: CitationStyle,
    records: Vec<ReferenceRecord>,
) -> Result<Vec<ReferenceView>, ApiError> {
    let ids: Vec<Uuid> = records.iter().map(|record| record.id).collect();
    let mut studies: HashMap<Uuid, HashSet<Uuid>> = HashMap::new();
    for Citing { reference, study, .. } in store::citing(db, &ids).await? {
        studies.entry(reference).or_default().insert(study);
    }
    off(move || {
        let citations = cite(style, &records.iter().map(|record| &record.reference).collect::<Vec<_>>());
        let view = |(ReferenceRecord { id, version, sample, reference }, citation)| {
            let (label, studies) = (reference.label(), studies.get(&id).map_or(0, HashSet::len));
            ReferenceView { id, version, sample, label, reference, citation, studies }
        };
        records.into_iter().zip(citations).map(view).collect()
    })
    .await
}

async fn one(db: &DatabaseConnection, record: ReferenceRecord) -> Result<ReferenceView, ApiError> {
    views(db, CitationStyle::default(), vec![record]).await?.pop().ok_or(ApiError::Internal)
}

/// Some of the references.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct ReferenceList {
    /// How many fit the question in all.
    total: u64,
    references: Vec<ReferenceView>,
}

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
    fn read(&self) -> Result<(ReferenceQuery, CitationStyle), ApiError> {
        let order = choice("order", self.order, &["added", "author", "year", "title"], |code| match code {
            "added" => Some(Order::Added),
            "author" => Some(Order::Author),
            "year" => Some(Order::Year),
            "title" => Some(Order::Title),
            _ => None,
        })?;
        let styles = CitationStyle::ALL.map(CitationStyle::code);
        let style =
            choice("style", self.style, &styles, |code| CitationStyle::ALL.into_iter().find(|it| it.code() == code))?;
        let query = ReferenceQuery {
            search: search_text("search", self.search)?.unwrap_or_default(),
            order: order.unwrap_or_default(),
            offset: whole("offset", self.offset, u64::from(u32::MAX))?.unwrap_or_default(),
            limit: Some(whole("limit", self.limit, MAX_LIMIT)?.unwrap_or(USUAL_LIMIT)),
        };
        Ok((query, style.unwrap_or_default()))
    }
}

/// References in the wanted order.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", params(ListQuery),
    responses((status = 200, body = ReferenceList), (status = 400, body = Problem)))]
#[get("/references?<query..>")]
pub(crate) async fn list_references(
    _by: Reader,
    query: ListQuery<'_>,
    db: Db<'_>,
) -> Result<Json<ReferenceList>, ApiError> {
    let (query, style) = query.read()?;
    let (records, total) = store::list_references(db.0, &query).await?;
    let references = views(db.0, style, records).await?;
    Ok(Json(ReferenceList { total, references }))
}

/// One reference.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", params(("id" = Uuid, Path)),
    responses((status = 200, body = ReferenceView), (status = 404, body = Problem)))]
#[get("/references/<id>")]
pub(crate) async fn get_reference(
    _by: Reader,
    id: Result<RecordId, ApiError>,
    db: Db<'_>,
) -> Result<Tagged<ReferenceView>, ApiError> {
    let record = store::get_reference(db.0, id?.0).await?;
    Ok(Tagged::ok(record.version, one(db.0, record).await?))
}

/// A test of which a result is reported.
#[derive(Debug, Clone, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct ReportedTest {
    id: Uuid,
    name: String,
}

/// The names of tests, as far as whoever asks may see them.
pub(super) async fn named(
    state: &AppState,
    by: &Reader,
    tests: impl Iterator<Item = Uuid>,
) -> Result<HashMap<Uuid, ReportedTest>, ApiError> {
    let tests: HashSet<Uuid> = tests.collect();
    if tests.is_empty() {
        return Ok(HashMap::new());
    }
    let shelf = state.shelf().await?;
    let rows = shelf.rows(by.0.role).iter().filter(|row| tests.contains(&row.id));
    Ok(rows.map(|row| (row.id, ReportedTest { id: row.id, name: row.name.clone() })).collect())
}

/// The tests of which results were published as a reference.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<ReportedTest>), (status = 404, body = Problem)))]
#[get("/references/<id>/tests")]
pub(crate) async fn list_reported_tests(
    by: Reader,
    id: Result<RecordId, ApiError>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<Vec<ReportedTest>>, ApiError> {
    let record = store::get_reference(db.0, id?.0).await?;
    let citing = store::citing(db.0, &[record.id]).await?;
    let mut tests: Vec<_> = named(state, &by, citing.into_iter().map(|it| it.test)).await?.into_values().collect();
    tests.sort_by(|a, b| a.name.cmp(&b.name));
    Ok(Json(tests))
}

/// What an identifier stands for, as a registry of published works answers it. Nothing is stored.
#[utoipa::path(context_path = "/api/v1", tag = "evidence",
    params(("identifier" = String, Query, description = "DOI or PubMed number")),
    responses((status = 200, body = Reference), (status = 400, body = Problem), (status = 404, body = Problem),
        (status = 502, body = Problem)))]
#[get("/works?<identifier>")]
pub(crate) async fn look_up_work(
    _by: StudyWriter,
    identifier: Option<&str>,
    state: &State<AppState>,
) -> Result<Json<Reference>, ApiError> {
    let identifier = parse_identifier(identifier.unwrap_or_default()).map_err(|error| ApiError::Query(vec![error]))?;
    Ok(Json(state.registry.look_up(&identifier).await?))
}

/// A stored reference that may be the same work.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct AlikeReference {
    #[serde(flatten)]
    view: ReferenceView,
    likeness: Likeness,
}

/// Stored references that may be the same work as this one, the most alike first.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", request_body = ReferenceInput,
    params(("except" = Option<Uuid>, Query, description = "the one that is being edited")),
    responses((status = 200, body = Vec<AlikeReference>), (status = 422, body = Problem)))]
#[post("/references/alike?<except>", data = "<input>")]
pub(crate) async fn list_alike_references(
    _by: StudyWriter,
    except: Option<&str>,
    input: JsonBody<ReferenceInput>,
    db: Db<'_>,
) -> Result<Json<Vec<AlikeReference>>, ApiError> {
    let reference = Reference::check(&input.0).map_err(ApiError::Fields)?;
    let except = except.and_then(|id| Uuid::parse_str(id).ok());
    let (records, likenesses): (Vec<_>, Vec<_>) = store::alike(db.0, &reference, except).await?.into_iter().unzip();
    let views = views(db.0, CitationStyle::default(), records).await?;
    let alike = views.into_iter().zip(likenesses).map(|(view, likeness)| AlikeReference { view, likeness });
    Ok(Json(alike.collect()))
}

/// Adds a reference.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", request_body = ReferenceInput,
    responses((status = 201, body = ReferenceView), (status = 422, body = Problem)))]
#[post("/references", data = "<input>")]
pub(crate) async fn create_reference(
    by: StudyWriter,
    input: JsonBody<ReferenceInput>,
    db: Db<'_>,
) -> Result<Tagged<ReferenceView>, ApiError> {
    let reference = Reference::check(&input.0).map_err(ApiError::Fields)?;
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::create_reference(&transaction, &reference, Act::of("created", Some(by.0.id))).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::created(record.version, one(db.0, record).await?))
}

/// Corrects a reference that was read at the version in `If-Match`.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", request_body = ReferenceInput,
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = ReferenceView), (status = 404, body = Problem), (status = 412, body = Problem),
        (status = 422, body = Problem)))]
#[put("/references/<id>", data = "<input>")]
pub(crate) async fn update_reference(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    input: JsonBody<ReferenceInput>,
    db: Db<'_>,
) -> Result<Tagged<ReferenceView>, ApiError> {
    let (id, reference) = (id?.0, Reference::check(&input.0).map_err(ApiError::Fields)?);
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let act = Act::of("edited", Some(by.0.id));
    let record = store::update_reference(&transaction, id, version.0, &reference, act).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(record.version, one(db.0, record).await?))
}

/// Deletes a reference; it can be restored.
#[utoipa::path(context_path = "/api/v1", tag = "evidence",
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = ReferenceView), (status = 404, body = Problem), (status = 412, body = Problem)))]
#[delete("/references/<id>")]
pub(crate) async fn delete_reference(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    db: Db<'_>,
) -> Result<Tagged<ReferenceView>, ApiError> {
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let act = Act::of("deleted", Some(by.0.id));
    let record = store::delete_reference(&transaction, id?.0, version.0, act).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(record.version, one(db.0, record).await?))
}

/// Brings a deleted reference back: the undo of a deletion.
#[utoipa::path(context_path = "/api/v1", tag = "evidence",
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that the deletion answered")),
    responses((status = 200, body = ReferenceView), (status = 404, body = Problem), (status = 412, body = Problem),
        (status = 422, body = Problem)))]
#[post("/references/<id>/restore")]
pub(crate) async fn restore_reference(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    db: Db<'_>,
) -> Result<Tagged<ReferenceView>, ApiError> {
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let act = Act::of("restored", Some(by.0.id));
    let record = store::restore_reference(&transaction, id?.0, version.0, act).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(record.version, one(db.0, record).await?))
}

/// What an import of a file brought, or would bring.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct ReferenceFile {
    /// The format that the file is in.
    format: ReferenceFormat,
    #[serde(flatten)]
    imported: ReferencesImported,
}

/// Adds the references of a file in RIS, BibTeX, CSL-JSON or PubMed's text, all of it or nothing; or says what that would do.
#[utoipa::path(context_path = "/api/v1", tag = "evidence",
    request_body(content = String, content_type = "text/plain", description = "the file"),
    params(
        ("preview" = Option<bool>, Query, description = "change nothing"),
        ("add" = Option<Vec<usize>>, Query, description = "places, from 0, of those to add although something similar is there"),
    ),
    responses((status = 200, body = ReferenceFile), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/references/import?<preview>&<add>", data = "<file>")]
pub(crate) async fn import_references(
    by: StudyWriter,
    preview: Option<&str>,
    add: Vec<usize>,
    file: Data<'_>,
    db: Db<'_>,
) -> Result<Json<ReferenceFile>, ApiError> {
    let preview = choice("preview", preview, &["true", "false"], |text| text.parse().ok())?.unwrap_or(false);
    let bytes = upload(file).await?;
    let read = off(move || read_references(&bytes)).await?.map_err(ApiError::Fields)?;
    let chosen: HashSet<usize> = add.into_iter().collect();
    let act = Act::of("imported", Some(by.0.id));
    let imported = store::import_references(db.0, &read.references, &chosen, act, preview).await?;
    Ok(Json(ReferenceFile { format: read.format, imported }))
}

/// The references that a search finds, as a file; RIS unless told otherwise.
#[utoipa::path(context_path = "/api/v1", tag = "evidence",
    params(("format" = Option<ReferenceFormat>, Query), ("search" = Option<String>, Query)),
    responses((status = 200, description = "a file in that format"), (status = 400, body = Problem)))]
#[get("/references/export?<format>&<search>")]
pub(crate) async fn export_references(
    _by: DraftReader,
    format: Option<&str>,
    search: Option<&str>,
    db: Db<'_>,
) -> Result<Download, ApiError> {
    let codes = ReferenceFormat::ALL.map(ReferenceFormat::code);
    let found = choice("format", format, &codes, |code| ReferenceFormat::ALL.into_iter().find(|it| it.code() == code))?;
    let format = found.unwrap_or(ReferenceFormat::Ris);
    let search = search_text("search", search)?.unwrap_or_default();
    let query = ReferenceQuery { search, order: Order::Author, ..ReferenceQuery::default() };
    let (records, _) = store::list_references(db.0, &query).await?;
    let references: Vec<Reference> = records.into_iter().map(|record| record.reference).collect();
    let text = off(move || write_references(format, &references)).await?;
    let kind = ContentType::from_extension(format.ending()).unwrap_or(ContentType::Plain);
    Ok(Download::new(text, kind, &format!("pruvex-references.{}", format.ending())))
}
