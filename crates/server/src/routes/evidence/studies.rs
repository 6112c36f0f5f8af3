//! Studies: the people of whom results are reported, which of them are on record, and their correction.

use std::collections::{HashMap, HashSet};

use pruvex_core::evidence::{Study, StudyInput};
use pruvex_core::{FieldError, FieldErrorCode};
use pruvex_formats::{CitationStyle, cite};
use pruvex_store::evidence::{self as store, OfStudy, StudyRecord};
use pruvex_store::history::Act;
use pruvex_store::{DatabaseConnection, StoreError, TransactionTrait};
use rocket::request::FromParam;
use rocket::serde::Serialize;
use rocket::serde::json::Json;
use rocket::{State, get, put};
use utoipa::ToSchema;
use uuid::Uuid;

use super::appraisals::AppraisalView;
use super::references::{ReportedTest, named};
use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::off::off;
use crate::params::RecordId;
use crate::people::{Reader, StudyWriter};
use crate::problem::{ApiError, Problem};
use crate::state::{AppState, Db};

/// A study.
#[derive(Debug, Clone, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct StudyView {
    id: Uuid,
    version: i32,
    /// Made up, for demonstration.
    sample: bool,
    #[serde(flatten)]
    study: Study,
    /// The reference on record that it was published as.
    cited: Option<Cited>,
    /// How many results are reported from it, of accuracy and of agreement.
    results: usize,
    /// How far it can be trusted, as far as somebody judged it.
    appraisals: Vec<AppraisalView>,
}

/// A reference in the words of a list.
#[derive(Debug, Clone, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct Cited {
    /// Short name: first authors and year.
    label: String,
    /// As it stands in a list of literature.
    citation: String,
}

/// Studies as views, by id.
pub(super) async fn views(
    db: &DatabaseConnection,
    records: Vec<StudyRecord>,
) -> Result<HashMap<Uuid, StudyView>, ApiError> {
    let ids: HashSet<Uuid> = records.iter().filter_map(|record| record.study.reference_id).collect();
    let references = if ids.is_empty() { Vec::new() } else { store::get_references(db, ids).await? };
    let mut appraisals = store::appraisals_of(db, &records.iter().map(|record| record.id).collect::<Vec<_>>()).await?;
    let mut results: HashMap<Uuid, usize> = HashMap::new();
    for (study, _) in store::reported_from(db, &records.iter().map(|record| record.id).collect::<Vec<_>>()).await? {
        *results.entry(study).or_default() += 1;
    }
    off(move || {
        let citations = cite(CitationStyle::default(), &references.iter().map(|it| &it.reference).collect::<Vec<_>>());
        let cited: HashMap<Uuid, Cited> = references
            .iter()
            .zip(citations)
            .map(|(it, citation)| (it.id, Cited { label: it.reference.label(), citation }))
            .collect();
        let view = |StudyRecord { id, version, sample, study }| {
            let cited = study.reference_id.and_then(|id| cited.get(&id).cloned());
            let results = results.get(&id).copied().unwrap_or_default();
            let appraisals = appraisals.remove(&id).unwrap_or_default().into_iter().map(AppraisalView::from).collect();
            (id, StudyView { id, version, sample, study, cited, results, appraisals })
        };
        records.into_iter().map(view).collect()
    })
    .await
}

/// What a result says of its study: a new one, or one on record with its version. `study` holds its words.
pub(super) fn of_study(
    id: Option<Uuid>,
    version: Option<i32>,
    study: Option<&StudyInput>,
) -> Result<Option<OfStudy>, Vec<FieldError>> {
    let missing = |field: &str, message: &str, remedy: &str| {
        Err(vec![FieldError::new(field, FieldErrorCode::Missing, "", message, remedy)])
    };
    let Some(study) = study else {
        return match id {
            None => Ok(None),
            Some(_) => missing("study", "What the study says is missing.", "Send its words as they were read."),
        };
    };
    let study = Study::check(study)
        .map_err(|errors| errors.into_iter().map(|error| error.within("study.")).collect::<Vec<_>>())?;
    match (id, version) {
        (None, _) => Ok(Some(OfStudy::New(study))),
        (Some(id), Some(version)) => Ok(Some(OfStudy::Known { id, version, study })),
        (Some(_), None) => {
            missing("study_version", "The version of the study is missing.", "Send the one that was read.")
        }
    }
}

/// A new result needs a study.
pub(super) fn needed(of: Option<OfStudy>) -> Result<OfStudy, Vec<FieldError>> {
    let message = "It is not said which study this is a result of.";
    let remedy = "Say who was examined, and where it was published.";
    of.ok_or_else(|| vec![FieldError::new("study", FieldErrorCode::Missing, "", message, remedy)])
}

/// Both of them, or the faults of both.
pub(super) fn both<A, B>(a: Result<A, Vec<FieldError>>, b: Result<B, Vec<FieldError>>) -> Result<(A, B), ApiError> {
    match (a, b) {
        (Ok(a), Ok(b)) => Ok((a, b)),
        (a, b) => Err(ApiError::Fields(a.err().into_iter().chain(b.err()).flatten().collect())),
    }
}

/// A study on record, with the tests of which it reports a result.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct KnownStudy {
    #[serde(flatten)]
    view: StudyView,
    tests: Vec<ReportedTest>,
}

/// Studies that were published as a reference, or under its text: a further result may be of the same people.
#[utoipa::path(context_path = "/api/v1", tag = "evidence",
    params(("reference_id" = Option<Uuid>, Query, description = "Reference on record"),
        ("reference" = Option<String>, Query, description = "Text of the reference, when it is not on record")),
    responses((status = 200, body = Vec<KnownStudy>), (status = 400, body = Problem)))]
#[get("/studies?<reference_id>&<reference>")]
pub(crate) async fn list_studies(
    by: StudyWriter,
    reference_id: Option<&str>,
    reference: Option<&str>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<Vec<KnownStudy>>, ApiError> {
    let records = match (reference_id, reference.map(str::trim).filter(|text| !text.is_empty())) {
        (Some(id), _) => store::studies_published_as(db.0, Ok(RecordId::from_param(id)?.0)).await?,
        (None, Some(text)) => store::studies_published_as(db.0, Err(text)).await?,
        (None, None) => {
            let message = "It is not said of which reference.";
            let remedy = "Give its number, or its text.";
            let error = FieldError::new("reference_id", FieldErrorCode::Missing, "", message, remedy);
            return Err(ApiError::Query(vec![error]));
        }
    };
    let ids: Vec<Uuid> = records.iter().map(|record| record.id).collect();
    let reported = store::reported_from(db.0, &ids).await?;
    let names = named(state, &Reader(by.0), reported.iter().map(|(_, test)| *test)).await?;
    let mut views = views(db.0, records).await?;
    let known = |id: Uuid| {
        let mut seen = HashSet::new();
        let of_study = reported.iter().filter(|(study, test)| *study == id && seen.insert(*test));
        let tests = of_study.filter_map(|(_, test)| names.get(test).cloned()).collect();
        views.remove(&id).map(|view| KnownStudy { view, tests })
    };
    Ok(Json(ids.into_iter().filter_map(known).collect()))
}

/// Corrects a study that was read at the version in `If-Match`, for all of its results.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", request_body = StudyInput,
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = StudyView), (status = 404, body = Problem), (status = 412, body = Problem),
        (status = 422, body = Problem)))]
#[put("/studies/<id>", data = "<input>")]
pub(crate) async fn update_study(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    input: JsonBody<StudyInput>,
    db: Db<'_>,
) -> Result<Tagged<StudyView>, ApiError> {
    let (id, study) = (id?.0, Study::check(&input.0).map_err(ApiError::Fields)?);
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::update_study(&transaction, id, version.0, &study, Act::of("edited", Some(by.0.id))).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    let version = record.version;
    let view = views(db.0, vec![record]).await?.remove(&id).ok_or(ApiError::Internal)?;
    Ok(Tagged::ok(version, view))
}
