//! Double extractions: the board of what is read how far, what each reader reads, and settling what two have read.
//!
//! What somebody reads is answered to nobody else before both readers have handed in.

use std::collections::{BTreeMap, HashMap};

use chrono::{DateTime, Utc};
use pruvex_core::catalogue::Region;
use pruvex_core::evidence::{
    Decision, Extraction, ExtractionInput, FieldPair, ReaderAgreement, StudyInput, compare, reader_agreement,
};
use pruvex_core::{FieldError, FieldErrorCode, Level};
use pruvex_store::evidence::{
    self as store, BoardQuery, BoardRow, DoubleExtraction, NewDoubleExtraction, OfStudy, Progress, Settlement,
};
use pruvex_store::people::Account;
use pruvex_store::{DatabaseConnection, StoreError, TransactionTrait};
use rocket::http::Status;
use rocket::serde::json::Json;
use rocket::serde::{Deserialize, Serialize};
use rocket::{FromForm, State, delete, get, post, put};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use super::references::{ReportedTest, named};
use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::off::off;
use crate::params::{RecordId, choice, search_text, text_field, whole};
use crate::people::{Reader, StudyWriter};
use crate::problem::{ApiError, Problem};
use crate::state::{AppState, Db};

/// A reader of a double extraction.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct ReaderView {
    /// Their name; `null` for what came with a file.
    name: Option<String>,
    /// It is you.
    you: bool,
    /// It is handed in.
    done: bool,
}

/// A row of the board: a result on record, or one that is to be read.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct BoardRowView {
    /// The double extraction; `null` for a result that nobody was asked to read again.
    id: Option<Uuid>,
    /// The result on record.
    result_id: Option<Uuid>,
    test: ReportedTest,
    /// Short name of the reference, or the beginning of its text.
    report: String,
    /// Which of the report's results; for one on record who was examined.
    about: String,
    /// `unread`, `once`, `twice` or `settled`.
    progress: &'static str,
    /// Its study is appraised.
    appraised: bool,
    /// Made up, for demonstration.
    sample: bool,
    readers: Vec<ReaderView>,
}

/// A page of the board.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct BoardView {
    rows: Vec<BoardRowView>,
    /// How many are `unread`, `once`, `twice`, `settled`, whatever of those is asked for.
    counts: BTreeMap<&'static str, u64>,
    /// How many of them are appraised.
    appraised: u64,
    /// How many rows there are in all.
    found: u64,
}

/// Which rows are asked for.
#[derive(Debug, FromForm, IntoParams)]
#[into_params(parameter_in = Query)]
pub(crate) struct Query<'r> {
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

impl Query<'_> {
    fn read(&self, by: &Account) -> Result<BoardQuery, ApiError> {
        let yes_no = |field, given| choice(field, given, &["true", "false"], |text| text.parse::<bool>().ok());
        let codes = Progress::ALL.map(Progress::code);
        let progress = |code: &str| Progress::ALL.into_iter().find(|it| it.code() == code);
        Ok(BoardQuery {
            progress: choice("progress", self.progress, &codes, progress)?,
            appraised: yes_no("appraised", self.appraised)?,
            region: region(self.region)?,
            search: search_text("search", self.search)?,
            next_for: yes_no("next", self.next)?.filter(|next| *next).map(|_| by.id),
            offset: whole("offset", self.offset, u64::from(u32::MAX))?.unwrap_or_default(),
            limit: whole("limit", self.limit, MAX_LIMIT)?.unwrap_or(USUAL_LIMIT),
        })
    }
}

fn region(given: Option<&str>) -> Result<Option<Region>, ApiError> {
    choice("region", given, &Region::ALL.map(Region::code), Region::from_code)
}

/// What is to be put on the list: a result that is to be read off a report, or one on record that is to be read a second time.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", rename_all = "snake_case")]
pub(crate) enum AskedExtraction {
    /// To be read by two people.
    Report {
        /// The test.
        test_id: Uuid,
        /// The reference on record.
        reference_id: Uuid,
        /// Which of the report's results: criterion, condition, group.
        #[serde(default)]
        asked: String,
    },
    /// On record; who entered it is the first reader.
    Result {
        /// The result.
        result_id: Uuid,
    },
}

/// What you read.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct OwnExtraction {
    version: i32,
    /// `null` while you are writing it.
    handed_in_at: Option<DateTime<Utc>>,
    content: ExtractionInput,
}

/// What both readers read.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct ComparedExtractions {
    first: ExtractionInput,
    second: ExtractionInput,
    fields: Vec<FieldPair>,
    /// Names of the other tests that either of them was read together with.
    others: Vec<ReportedTest>,
}

/// How it was settled.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct SettledView {
    by: Option<String>,
    at: DateTime<Utc>,
    decisions: Vec<Decision>,
}

/// The result on record that is read a second time, at the versions to settle from.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct ResultOnRecord {
    id: Uuid,
    version: i32,
    study_id: Uuid,
    study_version: i32,
}

/// A double extraction, as far as you may see it.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct DoubleExtractionView {
    id: Uuid,
    test: ReportedTest,
    /// The reference on record.
    reference_id: Option<Uuid>,
    /// Short name of the reference, or its text.
    report: String,
    /// Its text.
    reference: String,
    /// Which of the report's results.
    asked: String,
    /// Made up, for demonstration.
    sample: bool,
    progress: &'static str,
    readers: Vec<ReaderView>,
    /// What you read; `null` before you began.
    mine: Option<OwnExtraction>,
    /// What both read; `null` before both have handed in.
    compared: Option<ComparedExtractions>,
    /// How it was settled; `null` before.
    settled: Option<SettledView>,
    /// It is a result on record that is read a second time, or was settled.
    result_known: bool,
    /// The result on record that is to be settled; `null` without one, while it is being read, and after.
    result: Option<ResultOnRecord>,
}

fn progress(of: &DoubleExtraction) -> Progress {
    match of.readings.iter().filter(|it| it.handed_in_at.is_some()).count() {
        _ if of.settled.is_some() => Progress::Settled,
        0 => Progress::Unread,
        1 => Progress::Once,
        _ => Progress::Twice,
    }
}

async fn labels(
    db: &DatabaseConnection,
    references: impl Iterator<Item = Uuid>,
) -> Result<HashMap<Uuid, String>, ApiError> {
    let found = store::get_references(db, references).await?;
    Ok(found.into_iter().map(|it| (it.id, it.reference.label())).collect())
}

async fn view(
    db: &DatabaseConnection,
    state: &AppState,
    by: &Account,
    of: DoubleExtraction,
) -> Result<DoubleExtractionView, ApiError> {
    let progress = progress(&of).code();
    let mut compared = None;
    let mut result = None;
    if let Some([first, second]) = of.both() {
        let both = [first, second].map(|it| Extraction::check(&it.content).map_err(|_| ApiError::Internal));
        let [one, other] = both;
        let fields = compare(&one?, &other?);
        let (first, second) = (first.content.clone(), second.content.clone());
        let together = [&first, &second].map(|it| it.result.together.clone());
        let others = together.into_iter().flatten().flat_map(|it| it.tests);
        let others = named(state, &Reader(by.clone()), others).await?.into_values().collect();
        compared = Some(ComparedExtractions { first, second, fields, others });
        // What is settled stands, whatever became of its result since.
        if let (Some(id), None) = (of.result_id, &of.settled) {
            let on_record = store::get_result(db, id).await?;
            let study = store::get_studies(db, [on_record.study_id]).await?.remove(&on_record.study_id);
            let study_version = study.ok_or(ApiError::Internal)?.version;
            let (version, study_id) = (on_record.version, on_record.study_id);
            result = Some(ResultOnRecord { id, version, study_id, study_version });
        }
    }
    let names = named(state, &Reader(by.clone()), std::iter::once(of.test_id)).await?;
    let test = names.get(&of.test_id).cloned();
    let test = test.ok_or(ApiError::NotFound { what: "double extraction", id: of.id.to_string() })?;
    let label = labels(db, of.reference_id.into_iter()).await?.into_values().next();
    let mine = of.readings.iter().find(|it| it.account == Some(by.id));
    Ok(DoubleExtractionView {
        id: of.id,
        test,
        reference_id: of.reference_id,
        report: label.unwrap_or_else(|| of.reference.clone()),
        progress,
        mine: mine.map(|it| OwnExtraction {
            version: it.version,
            handed_in_at: it.handed_in_at,
            content: it.content.clone(),
        }),
        readers: of
            .readings
            .iter()
            .map(|it| ReaderView {
                name: it.reader.clone(),
                you: it.account == Some(by.id),
                done: it.handed_in_at.is_some(),
            })
            .collect(),
        reference: of.reference,
        asked: of.asked,
        sample: of.sample,
        compared,
        result_known: of.result_id.is_some(),
        settled: of.settled.map(|it| SettledView { by: it.by, at: it.at, decisions: it.decisions }),
        result,
    })
}

async fn viewed(
    db: &DatabaseConnection,
    state: &AppState,
    by: &Account,
    of: DoubleExtraction,
) -> Result<Tagged<DoubleExtractionView>, ApiError> {
    let view = view(db, state, by, of).await?;
    Ok(Tagged::ok(view.mine.as_ref().map_or(0, |it| it.version), view))
}

/// How far the reading of each result has come.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", params(Query),
    responses((status = 200, body = BoardView), (status = 400, body = Problem)))]
#[get("/extractions?<query..>")]
pub(crate) async fn list_extractions(
    by: StudyWriter,
    query: Query<'_>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<BoardView>, ApiError> {
    let board = store::list_board(db.0, &query.read(&by.0)?).await?;
    let labels = labels(db.0, board.rows.iter().filter_map(|row| row.reference_id)).await?;
    let me = by.0.id;
    let names = named(state, &Reader(by.0), board.rows.iter().map(|row| row.test_id)).await?;
    let row = |row: BoardRow| {
        let label = row.reference_id.and_then(|id| labels.get(&id).cloned());
        let readers = row.readers.into_iter();
        Some(BoardRowView {
            id: row.id,
            result_id: row.result_id,
            test: names.get(&row.test_id)?.clone(),
            report: label.unwrap_or(row.reference),
            about: row.about,
            progress: row.progress.code(),
            appraised: row.appraised,
            sample: row.sample,
            readers: readers
                .map(|it| ReaderView { name: it.name, you: it.account == Some(me), done: it.done })
                .collect(),
        })
    };
    Ok(Json(BoardView {
        rows: board.rows.into_iter().filter_map(row).collect(),
        counts: Progress::ALL.map(Progress::code).into_iter().zip(board.counts).collect(),
        appraised: board.appraised,
        found: board.found,
    }))
}

/// Puts a result on the list.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", request_body = AskedExtraction,
    responses((status = 201, body = DoubleExtractionView), (status = 404, body = Problem),
        (status = 422, body = Problem)))]
#[post("/extractions", data = "<input>")]
pub(crate) async fn ask_extraction(
    by: StudyWriter,
    input: JsonBody<AskedExtraction>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Tagged<DoubleExtractionView>, ApiError> {
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let me = Some(by.0.id);
    let added = match input.0 {
        AskedExtraction::Report { test_id, reference_id, asked } => {
            let asked = text_field("asked", &asked)?;
            let found = store::get_references(&transaction, [reference_id]).await?.pop();
            let Some(found) = found else {
                let (message, remedy) = ("This reference is not on record.", "Choose another one.");
                let code = FieldErrorCode::Unknown;
                let error = FieldError::new("reference_id", code, reference_id, message, remedy);
                return Err(ApiError::Fields(vec![error]));
            };
            let (reference, sample) = (citation(found.reference).await?, found.sample);
            let (reference, asked) = (reference.as_str(), asked.as_str());
            let new = NewDoubleExtraction { test_id, reference_id: Some(reference_id), reference, asked, sample };
            store::create_double_extraction(&transaction, new, me).await?
        }
        AskedExtraction::Result { result_id } => store::ask_second_reading(&transaction, result_id, me).await?,
    };
    transaction.commit().await.map_err(StoreError::from)?;
    let view = view(db.0, state, &by.0, added).await?;
    Ok(Tagged::created(0, view))
}

async fn citation(reference: pruvex_core::evidence::Reference) -> Result<String, ApiError> {
    let cited = off(move || pruvex_formats::cite(pruvex_formats::CitationStyle::default(), &[&reference])).await?;
    cited.into_iter().next().ok_or(ApiError::Internal)
}

/// How well readers agree, over all results of a region (or of all) that two have read.
#[utoipa::path(context_path = "/api/v1", tag = "evidence",
    params(("region" = Option<Region>, Query, description = "Region of the tests")),
    responses((status = 200, body = ReaderAgreement), (status = 400, body = Problem)))]
#[get("/extractions/agreement?<region>")]
pub(crate) async fn reader_agreement_of(
    _by: StudyWriter,
    region: Option<&str>,
    db: Db<'_>,
) -> Result<Json<ReaderAgreement>, ApiError> {
    let both = store::list_both(db.0, self::region(region)?).await?;
    let answer = off(move || {
        let compared: Vec<Vec<FieldPair>> = both.iter().map(|(first, second)| compare(first, second)).collect();
        reader_agreement(&compared, Level::default())
    });
    Ok(Json(answer.await?))
}

/// A double extraction, as far as you may see it.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", params(("id" = Uuid, Path)),
    responses((status = 200, body = DoubleExtractionView), (status = 404, body = Problem)))]
#[get("/extractions/<id>")]
pub(crate) async fn get_extraction(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Tagged<DoubleExtractionView>, ApiError> {
    let found = store::get_double_extraction(db.0, id?.0).await?;
    viewed(db.0, state, &by.0, found).await
}

/// Takes a result off the list that nobody has begun to read.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[delete("/extractions/<id>")]
pub(crate) async fn delete_extraction(
    _by: StudyWriter,
    id: Result<RecordId, ApiError>,
    db: Db<'_>,
) -> Result<Status, ApiError> {
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    store::delete_double_extraction(&transaction, id?.0).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Status::NoContent)
}

/// What you read, as it is being typed or complete.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct OwnExtractionBody {
    /// It is complete: it is checked, and shown to the other reader once theirs is too.
    hand_in: bool,
    content: ExtractionInput,
}

/// Keeps what you read, at the version in `If-Match`; 0 at first. The reference is that of the list.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", request_body = OwnExtractionBody,
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "Version that was read")),
    responses((status = 200, body = DoubleExtractionView), (status = 404, body = Problem),
        (status = 412, body = Problem), (status = 422, body = Problem)))]
#[put("/extractions/<id>/mine", data = "<input>")]
pub(crate) async fn save_extraction(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    input: JsonBody<OwnExtractionBody>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Tagged<DoubleExtractionView>, ApiError> {
    let (id, OwnExtractionBody { hand_in, mut content }) = (id?.0, input.0);
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let there = store::get_double_extraction(&transaction, id).await?;
    (content.study.reference, content.study.reference_id) = (there.reference, there.reference_id);
    if hand_in {
        content = Extraction::check(&content).map_err(ApiError::Fields)?.written();
    }
    let saved = store::put_extraction(&transaction, id, by.0.id, version.0, &content, hand_in).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    viewed(db.0, state, &by.0, saved).await
}

/// Gives up what you began, so that somebody else can read it.
#[utoipa::path(context_path = "/api/v1", tag = "evidence",
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "Version that was read")),
    responses((status = 200, body = DoubleExtractionView), (status = 404, body = Problem),
        (status = 412, body = Problem), (status = 422, body = Problem)))]
#[delete("/extractions/<id>/mine")]
pub(crate) async fn give_up_extraction(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Tagged<DoubleExtractionView>, ApiError> {
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let left = store::give_up_extraction(&transaction, id?.0, by.0.id, version.0).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    viewed(db.0, state, &by.0, left).await
}

/// What stands, and why.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct SettlementBody {
    /// The study on record that it is of; without it the study is a new one.
    #[serde(default)]
    study_id: Option<Uuid>,
    /// The version at which that study was read.
    #[serde(default)]
    study_version: Option<i32>,
    /// The version at which a result on record was read.
    #[serde(default)]
    result_version: Option<i32>,
    /// What stands.
    settled: ExtractionInput,
    /// Why, by path of the field, where the readers differed or both are overruled.
    #[serde(default)]
    reasons: BTreeMap<String, String>,
}

/// Settles what two read: the result is added to its test, or corrected.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", request_body = SettlementBody,
    params(("id" = Uuid, Path)),
    responses((status = 200, body = DoubleExtractionView), (status = 404, body = Problem),
        (status = 412, body = Problem), (status = 422, body = Problem)))]
#[post("/extractions/<id>/settlement", data = "<input>")]
pub(crate) async fn settle_extraction(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    input: JsonBody<SettlementBody>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Tagged<DoubleExtractionView>, ApiError> {
    let (id, SettlementBody { study_id, study_version, result_version, mut settled, reasons }) = (id?.0, input.0);
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let there = store::get_double_extraction(&transaction, id).await?;
    if study_id.is_none() {
        let StudyInput { reference, reference_id, .. } = &mut settled.study;
        (*reference, *reference_id) = (there.reference, there.reference_id);
    }
    let settled = Extraction::check(&settled).map_err(ApiError::Fields)?;
    let study = settled.study.clone();
    let of = match (study_id, study_version) {
        (None, _) => OfStudy::New(study),
        (Some(id), Some(version)) => OfStudy::Known { id, version, study },
        (Some(_), None) => {
            let (message, remedy) = ("The version of the study is missing.", "Send the one that was read.");
            let error = FieldError::new("study_version", FieldErrorCode::Missing, "", message, remedy);
            return Err(ApiError::Fields(vec![error]));
        }
    };
    let settlement = Settlement { of: &of, settled: &settled, reasons: &reasons, result_version };
    let done = store::settle_double_extraction(&transaction, id, &settlement, by.0.id).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    viewed(db.0, state, &by.0, done).await
}
