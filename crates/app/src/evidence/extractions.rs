//! Double extractions: the board of what is read how far, what each reader reads, and settling what two have read.
//!
//! What somebody reads is answered to nobody else before both readers have handed in.

use std::collections::{BTreeMap, HashMap};

use chrono::{DateTime, Utc};
use pruvex_core::catalogue::Region;
use pruvex_core::evidence::{
    Decision, Extraction, ExtractionInput, FieldPair, ReaderAgreement, StudyInput, compare, reader_agreement,
};
use pruvex_core::{FieldErrorCode, Level, ResultId, StudyId, TestId};
use pruvex_store::DatabaseConnection;
use pruvex_store::evidence::{
    self as store, BoardQuery, BoardRow, DoubleExtraction, NewDoubleExtraction, OfStudy, Progress, Settlement,
};
use pruvex_store::people::Account;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use crate::app::commit;
use crate::blocking::blocking;
use crate::catalogue::{NamedTest, named};
use crate::fields::{asked_text, short_text};
use crate::people::StudyWriter;
use crate::{App, AppError, Versioned, only};

/// A reader of a double extraction.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReaderView {
    /// Their name; `null` for what came with a file.
    name: Option<String>,
    /// It is you.
    you: bool,
    /// It is submitted.
    done: bool,
}

/// A row of the board: a result on record, or one that is to be read.
#[derive(Debug, Serialize, ToSchema)]
pub struct BoardRowView {
    /// The double extraction; `null` for a result that nobody was asked to read again.
    id: Option<Uuid>,
    /// The result on record.
    result_id: Option<ResultId>,
    test: NamedTest,
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
pub struct BoardView {
    rows: Vec<BoardRowView>,
    /// How many are `unread`, `once`, `twice`, `settled`, whatever of those is asked for.
    counts: BTreeMap<&'static str, u64>,
    /// How many of them are appraised.
    appraised: u64,
    /// How many rows there are in all.
    found: u64,
}

/// Which rows are asked for. What is `None` does not matter.
#[derive(Debug, Default)]
pub struct BoardFilter {
    /// How far they have come.
    pub progress: Option<Progress>,
    /// Whether their study is appraised.
    pub appraised: Option<bool>,
    /// In this region.
    pub region: Option<Region>,
    /// A part of the reference or of the test's name.
    pub search: Option<String>,
    /// Only what whoever asks can do something about.
    pub next: bool,
    /// How many are left out at the beginning.
    pub offset: u64,
    /// At most so many.
    pub limit: u64,
}

/// What is to be put on the list: a result that is to be read off a report, or one on record that is to be read a second time.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum AskedExtraction {
    /// To be read by two people.
    Report {
        /// The test.
        test_id: TestId,
        /// The reference on record.
        reference_id: Uuid,
        /// Which of the report's results: criterion, condition, group.
        #[serde(default)]
        asked: String,
    },
    /// On record; who entered it is the first reader.
    Result {
        /// The result.
        result_id: ResultId,
    },
}

/// What you read.
#[derive(Debug, Serialize, ToSchema)]
pub struct OwnExtraction {
    version: i32,
    /// `null` while you are writing it.
    handed_in_at: Option<DateTime<Utc>>,
    content: ExtractionInput,
}

/// What both readers read.
#[derive(Debug, Serialize, ToSchema)]
pub struct ComparedExtractions {
    first: ExtractionInput,
    second: ExtractionInput,
    fields: Vec<FieldPair>,
    /// Names of the other tests that either of them was read together with.
    others: Vec<NamedTest>,
}

/// How it was adjudicated.
#[derive(Debug, Serialize, ToSchema)]
pub struct SettledView {
    by: Option<String>,
    at: DateTime<Utc>,
    decisions: Vec<Decision>,
}

/// The result on record that is read a second time, at the versions to settle from.
#[derive(Debug, Serialize, ToSchema)]
pub struct ResultOnRecord {
    id: ResultId,
    version: i32,
    study_id: StudyId,
    study_version: i32,
}

/// A double extraction, as far as you may see it.
#[derive(Debug, Serialize, ToSchema)]
pub struct DoubleExtractionView {
    id: Uuid,
    test: NamedTest,
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
    /// What both extracted; `null` before both have submitted.
    compared: Option<ComparedExtractions>,
    /// How it was adjudicated; `null` before.
    settled: Option<SettledView>,
    /// It is a result on record that is extracted a second time, or was adjudicated.
    result_known: bool,
    /// The result on record that is to be adjudicated; `null` without one, while it is being extracted, and after.
    result: Option<ResultOnRecord>,
}

impl Versioned for DoubleExtractionView {
    /// That of what you read; 0 before you began.
    fn version(&self) -> i32 {
        self.mine.as_ref().map_or(0, |it| it.version)
    }
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
) -> Result<HashMap<Uuid, String>, AppError> {
    let found = store::get_references(db, references).await?;
    Ok(found.into_iter().map(|it| (it.id, it.reference.label())).collect())
}

async fn view(app: &App, by: &Account, of: DoubleExtraction) -> Result<DoubleExtractionView, AppError> {
    let progress = progress(&of).code();
    let mut compared = None;
    let mut result = None;
    if let Some([first, second]) = of.both() {
        let both = [first, second].map(|it| Extraction::check(&it.content).map_err(damaged));
        let [one, other] = both;
        let fields = compare(&one?, &other?);
        let (first, second) = (first.content.clone(), second.content.clone());
        let together = [&first, &second].map(|it| it.result.together.clone());
        let others = together.into_iter().flatten().flat_map(|it| it.tests);
        let others = named(app, by.role, others).await?.into_values().collect();
        compared = Some(ComparedExtractions { first, second, fields, others });
        // What is settled stands, whatever became of its result since.
        if let (Some(id), None) = (of.result_id, &of.settled) {
            let on_record = store::get_result(&app.db, id).await?;
            let study = store::get_studies(&app.db, [on_record.study_id]).await?.remove(&on_record.study_id);
            let study_version = study.ok_or_else(|| AppError::internal("a result has no study"))?.version;
            let (version, study_id) = (on_record.version, on_record.study_id);
            result = Some(ResultOnRecord { id, version, study_id, study_version });
        }
    }
    let names = named(app, by.role, std::iter::once(of.test_id)).await?;
    let test = names.get(&of.test_id).cloned();
    let test = test.ok_or_else(|| AppError::not_found("double extraction", of.id))?;
    let label = labels(&app.db, of.reference_id.into_iter()).await?.into_values().next();
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

fn damaged(errors: Vec<pruvex_core::FieldError>) -> AppError {
    AppError::internal(format!("a reading that was handed in breaks rules: {errors:?}"))
}

/// How far the reading of each result has come.
///
/// # Errors
/// A text that is too long.
pub async fn list_extractions(app: &App, by: &StudyWriter, filter: BoardFilter) -> Result<BoardView, AppError> {
    let query = BoardQuery {
        progress: filter.progress,
        appraised: filter.appraised,
        region: filter.region,
        search: asked_text("search", filter.search.as_deref())?,
        next_for: filter.next.then(|| by.id()),
        offset: filter.offset,
        limit: filter.limit,
    };
    let board = store::list_board(&app.db, &query).await?;
    let labels = labels(&app.db, board.rows.iter().filter_map(|row| row.reference_id)).await?;
    let me = by.id();
    let names = named(app, by.role(), board.rows.iter().map(|row| row.test_id)).await?;
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
    Ok(BoardView {
        rows: board.rows.into_iter().filter_map(row).collect(),
        counts: Progress::ALL.map(Progress::code).into_iter().zip(board.counts).collect(),
        appraised: board.appraised,
        found: board.found,
    })
}

/// Puts a result on the list.
pub async fn ask_extraction(
    app: &App,
    by: &StudyWriter,
    input: AskedExtraction,
) -> Result<DoubleExtractionView, AppError> {
    let transaction = app.begin().await?;
    let me = Some(by.id());
    let added = match input {
        AskedExtraction::Report { test_id, reference_id, asked } => {
            let asked = short_text("asked", &asked)?;
            let found = store::get_references(&transaction, [reference_id]).await?.pop();
            let Some(found) = found else {
                let (message, remedy) = ("This reference is not on record.", "Choose another one.");
                return Err(AppError::field("reference_id", FieldErrorCode::Unknown, reference_id, message, remedy));
            };
            let (reference, sample) = (citation(found.reference).await?, found.sample);
            let (reference, asked) = (reference.as_str(), asked.as_str());
            let new = NewDoubleExtraction { test_id, reference_id: Some(reference_id), reference, asked, sample };
            store::create_double_extraction(&transaction, new, me).await?
        }
        AskedExtraction::Result { result_id } => store::ask_second_reading(&transaction, result_id, me).await?,
    };
    commit(transaction).await?;
    view(app, by.account(), added).await
}

async fn citation(reference: pruvex_core::evidence::Reference) -> Result<String, AppError> {
    let cited = blocking(move || pruvex_formats::cite(pruvex_formats::CitationStyle::default(), &[&reference])).await?;
    only(cited)
}

/// How well readers agree, over all results of a region (or of all) that two have read.
pub async fn reader_agreement_of(
    app: &App,
    _by: &StudyWriter,
    region: Option<Region>,
) -> Result<ReaderAgreement, AppError> {
    let both = store::list_both(&app.db, region).await?;
    let answer = blocking(move || {
        let compared: Vec<Vec<FieldPair>> = both.iter().map(|(first, second)| compare(first, second)).collect();
        reader_agreement(&compared, Level::default())
    });
    answer.await
}

/// A double extraction, as far as you may see it.
pub async fn get_extraction(app: &App, by: &StudyWriter, id: Uuid) -> Result<DoubleExtractionView, AppError> {
    let found = store::get_double_extraction(&app.db, id).await?;
    view(app, by.account(), found).await
}

/// Takes a result off the list that nobody has begun to read.
pub async fn delete_extraction(app: &App, _by: &StudyWriter, id: Uuid) -> Result<(), AppError> {
    let transaction = app.begin().await?;
    store::delete_double_extraction(&transaction, id).await?;
    commit(transaction).await
}

/// What you read, as it is being typed or complete.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnExtractionBody {
    /// It is complete: it is checked, and shown to the other reader once theirs is too.
    hand_in: bool,
    content: ExtractionInput,
}

/// Keeps what you read, at the version in `If-Match`; 0 at first. The reference is that of the list.
pub async fn save_extraction(
    app: &App,
    by: &StudyWriter,
    id: Uuid,
    version: i32,
    input: OwnExtractionBody,
) -> Result<DoubleExtractionView, AppError> {
    let OwnExtractionBody { hand_in, mut content } = input;
    let transaction = app.begin().await?;
    let listed = store::get_double_extraction(&transaction, id).await?;
    (content.study.reference, content.study.reference_id) = (listed.reference, listed.reference_id);
    if hand_in {
        content = Extraction::check(&content).map_err(AppError::Fields)?.written();
    }
    let saved = store::put_extraction(&transaction, id, by.id(), version, &content, hand_in).await?;
    commit(transaction).await?;
    view(app, by.account(), saved).await
}

/// Gives up what you began, so that somebody else can read it.
pub async fn give_up_extraction(
    app: &App,
    by: &StudyWriter,
    id: Uuid,
    version: i32,
) -> Result<DoubleExtractionView, AppError> {
    let transaction = app.begin().await?;
    let left = store::give_up_extraction(&transaction, id, by.id(), version).await?;
    commit(transaction).await?;
    view(app, by.account(), left).await
}

/// What stands, and why.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SettlementBody {
    /// The study on record that it is of; without it the study is a new one.
    #[serde(default)]
    study_id: Option<StudyId>,
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
pub async fn settle_extraction(
    app: &App,
    by: &StudyWriter,
    id: Uuid,
    input: SettlementBody,
) -> Result<DoubleExtractionView, AppError> {
    let SettlementBody { study_id, study_version, result_version, mut settled, reasons } = input;
    let transaction = app.begin().await?;
    let listed = store::get_double_extraction(&transaction, id).await?;
    if study_id.is_none() {
        let StudyInput { reference, reference_id, .. } = &mut settled.study;
        (*reference, *reference_id) = (listed.reference, listed.reference_id);
    }
    let settled = Extraction::check(&settled).map_err(AppError::Fields)?;
    let study = settled.study.clone();
    let of = match (study_id, study_version) {
        (None, _) => OfStudy::New(study),
        (Some(id), Some(version)) => OfStudy::Known { id, version, study },
        (Some(_), None) => {
            let (message, remedy) = ("The version of the study is missing.", "Send the one that was read.");
            return Err(AppError::field("study_version", FieldErrorCode::Missing, "", message, remedy));
        }
    };
    let settlement = Settlement { of: &of, settled: &settled, reasons: &reasons, result_version };
    let done = store::settle_double_extraction(&transaction, id, &settlement, by.id()).await?;
    commit(transaction).await?;
    view(app, by.account(), done).await
}
