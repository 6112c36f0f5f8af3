//! References: list, look up, add, correct, delete, exchange.

use std::collections::{HashMap, HashSet};

use pruvex_core::StudyId;
use pruvex_core::evidence::{Likeness, Reference, ReferenceInput, parse_identifier};
use pruvex_formats::{CitationStyle, ReferenceFormat, cite, write_references};
use pruvex_store::DatabaseConnection;
use pruvex_store::evidence::{self as store, Citing, Order, ReferenceQuery, ReferenceRecord};
use pruvex_store::history::Act;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::app::commit;
use crate::blocking::blocking;
use crate::catalogue::{NamedTest, named};
use crate::fields::asked_text;
use crate::people::{DraftReader, Reader, StudyWriter};
use crate::{App, AppError, FileContent, Versioned, only};

/// A reference with its id.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReferenceView {
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

impl Versioned for ReferenceView {
    fn version(&self) -> i32 {
        self.version
    }
}

async fn views(
    db: &DatabaseConnection,
    style: CitationStyle,
    records: Vec<ReferenceRecord>,
) -> Result<Vec<ReferenceView>, AppError> {
    let ids: Vec<Uuid> = records.iter().map(|record| record.id).collect();
    let mut studies: HashMap<Uuid, HashSet<StudyId>> = HashMap::new();
    for Citing { reference, study, .. } in store::citing(db, &ids).await? {
        studies.entry(reference).or_default().insert(study);
    }
    blocking(move || {
        let citations = cite(style, &records.iter().map(|record| &record.reference).collect::<Vec<_>>());
        let view = |(ReferenceRecord { id, version, sample, reference }, citation)| {
            let (label, studies) = (reference.label(), studies.get(&id).map_or(0, HashSet::len));
            ReferenceView { id, version, sample, label, reference, citation, studies }
        };
        records.into_iter().zip(citations).map(view).collect()
    })
    .await
}

async fn one(db: &DatabaseConnection, record: ReferenceRecord) -> Result<ReferenceView, AppError> {
    only(views(db, CitationStyle::default(), vec![record]).await?)
}

/// Some of the references.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReferenceList {
    /// How many fit the question in all.
    total: u64,
    references: Vec<ReferenceView>,
}

/// References in the wanted order.
///
/// # Errors
/// A text that is too long.
pub async fn list_references(
    app: &App,
    _by: &Reader,
    mut query: ReferenceQuery,
    style: CitationStyle,
) -> Result<ReferenceList, AppError> {
    query.search = asked_text("search", Some(&query.search))?.unwrap_or_default();
    let (records, total) = store::list_references(&app.db, &query).await?;
    let references = views(&app.db, style, records).await?;
    Ok(ReferenceList { total, references })
}

/// One reference.
pub async fn get_reference(app: &App, _by: &Reader, id: Uuid) -> Result<ReferenceView, AppError> {
    let record = store::get_reference(&app.db, id).await?;
    one(&app.db, record).await
}

/// The tests of which results were published as a reference.
pub async fn list_reported_tests(app: &App, by: &Reader, id: Uuid) -> Result<Vec<NamedTest>, AppError> {
    let record = store::get_reference(&app.db, id).await?;
    let citing = store::citing(&app.db, &[record.id]).await?;
    let mut tests: Vec<_> = named(app, by.role(), citing.into_iter().map(|it| it.test)).await?.into_values().collect();
    tests.sort_by(|a, b| a.name.cmp(&b.name));
    Ok(tests)
}

/// What an identifier stands for, as a registry of published works answers it. Nothing is stored.
pub async fn look_up_work(app: &App, _by: &StudyWriter, identifier: &str) -> Result<Reference, AppError> {
    let identifier = parse_identifier(identifier).map_err(|error| AppError::Asked(vec![error]))?;
    app.registry.look_up(&identifier).await
}

/// A stored reference that may be the same work.
#[derive(Debug, Serialize, ToSchema)]
pub struct AlikeReference {
    #[serde(flatten)]
    view: ReferenceView,
    likeness: Likeness,
}

/// Stored references that may be the same work as this one, the most alike first.
pub async fn list_alike_references(
    app: &App,
    _by: &StudyWriter,
    except: Option<Uuid>,
    input: ReferenceInput,
) -> Result<Vec<AlikeReference>, AppError> {
    let reference = Reference::check(&input).map_err(AppError::Fields)?;
    let (records, likenesses): (Vec<_>, Vec<_>) = store::alike(&app.db, &reference, except).await?.into_iter().unzip();
    let views = views(&app.db, CitationStyle::default(), records).await?;
    let alike = views.into_iter().zip(likenesses).map(|(view, likeness)| AlikeReference { view, likeness });
    Ok(alike.collect())
}

/// Adds a reference.
pub async fn create_reference(app: &App, by: &StudyWriter, input: ReferenceInput) -> Result<ReferenceView, AppError> {
    let reference = Reference::check(&input).map_err(AppError::Fields)?;
    let transaction = app.begin().await?;
    let record = store::create_reference(&transaction, &reference, Act::of("created", Some(by.id()))).await?;
    commit(transaction).await?;
    one(&app.db, record).await
}

/// Corrects a reference that was read at the version in `If-Match`.
pub async fn update_reference(
    app: &App,
    by: &StudyWriter,
    id: Uuid,
    version: i32,
    input: ReferenceInput,
) -> Result<ReferenceView, AppError> {
    let reference = Reference::check(&input).map_err(AppError::Fields)?;
    let transaction = app.begin().await?;
    let act = Act::of("edited", Some(by.id()));
    let record = store::update_reference(&transaction, id, version, &reference, act).await?;
    commit(transaction).await?;
    one(&app.db, record).await
}

/// Deletes a reference; it can be restored.
pub async fn delete_reference(app: &App, by: &StudyWriter, id: Uuid, version: i32) -> Result<ReferenceView, AppError> {
    let transaction = app.begin().await?;
    let act = Act::of("deleted", Some(by.id()));
    let record = store::delete_reference(&transaction, id, version, act).await?;
    commit(transaction).await?;
    one(&app.db, record).await
}

/// Brings a deleted reference back: the undo of a deletion.
pub async fn restore_reference(app: &App, by: &StudyWriter, id: Uuid, version: i32) -> Result<ReferenceView, AppError> {
    let transaction = app.begin().await?;
    let act = Act::of("restored", Some(by.id()));
    let record = store::restore_reference(&transaction, id, version, act).await?;
    commit(transaction).await?;
    one(&app.db, record).await
}

/// The references that a search finds, as a file; RIS unless told otherwise.
pub async fn export_references(
    app: &App,
    _by: &DraftReader,
    format: ReferenceFormat,
    search: Option<&str>,
) -> Result<FileContent, AppError> {
    let search = asked_text("search", search)?.unwrap_or_default();
    let query = ReferenceQuery { search, order: Order::Author, ..ReferenceQuery::default() };
    let (records, _) = store::list_references(&app.db, &query).await?;
    let references: Vec<Reference> = records.into_iter().map(|record| record.reference).collect();
    let text = blocking(move || write_references(format, &references)).await?;
    Ok(FileContent::new(text, format!("pruvex-references.{}", format.ending()), format.media_type()))
}
