//! References: the works in which studies were published.

use std::collections::{HashMap, HashSet};

use chrono::Utc;
use pruvex_core::evidence::{Likeness, Matcher, Reference, ReferenceInput, likeness, title_key};
use pruvex_core::{FieldError, FieldErrorCode, StudyId, TestId};
use pruvex_formats::BundleReference;
use sea_orm::sea_query::{Expr, ExprTrait, LikeExpr};
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, Condition, ConnectionTrait, DatabaseTransaction, EntityTrait,
    IntoActiveModel, PaginatorTrait, QueryFilter, QueryOrder, QuerySelect,
};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use super::extractions::listed_for;
use super::studies::reported_from;
use crate::StoreError;
use crate::among::among;
use crate::entities::{reference, study};
use crate::history::{Act, Kind, PORTION, alone, keep, keep_all};
use crate::landing::{ImportKind, Landing, Since};
use crate::progress::{ImportPhase, Step};

/// A stored reference.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ReferenceRecord {
    /// Id.
    pub id: Uuid,
    /// Rises by one with every change, deletion and restoring included.
    pub version: i32,
    /// Made up; cannot be switched off.
    pub sample: bool,
    /// What it says.
    pub reference: Reference,
}

/// The order of a list.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum Order {
    /// The newest entry first.
    #[default]
    Added,
    /// By first author, then year.
    Author,
    /// The newest work first; works without a year last.
    Year,
    /// By title.
    Title,
}

/// Which references are asked for.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct ReferenceQuery {
    /// Every word must be found in authors, title, container, year or identifiers.
    pub search: String,
    /// Order.
    pub order: Order,
    /// So many are left out at the beginning.
    pub offset: u64,
    /// At most so many; all when none is given.
    pub limit: Option<u64>,
}

/// References, deleted ones left out, and how many there are in all.
///
/// # Errors
/// Database errors.
pub async fn list_references(
    db: &impl ConnectionTrait,
    query: &ReferenceQuery,
) -> Result<(Vec<ReferenceRecord>, u64), StoreError> {
    let words = query.search.to_lowercase();
    let found = words.split_whitespace().fold(Condition::all(), |all, word| {
        let escaped = word.replace('\\', r"\\").replace('%', r"\%").replace('_', r"\_");
        all.add(Expr::col(reference::Column::Search).like(LikeExpr::new(format!("%{escaped}%")).escape('\\')))
    });
    let found = reference::Entity::find().filter(reference::Column::DeletedAt.is_null()).filter(found);
    let total = found.clone().count(db).await?;
    let found = match query.order {
        Order::Added => found.order_by_desc(reference::Column::CreatedAt),
        Order::Author => found.order_by_asc(reference::Column::FirstAuthor).order_by_asc(reference::Column::Year),
        Order::Year => found.order_by_with_nulls(
            reference::Column::Year,
            sea_orm::Order::Desc,
            sea_orm::sea_query::NullOrdering::Last,
        ),
        Order::Title => found.order_by_asc(reference::Column::TitleKey),
    };
    let found = found.order_by_desc(reference::Column::Id).offset(query.offset);
    let rows = match query.limit {
        Some(limit) => found.limit(limit).all(db).await?,
        None => found.all(db).await?,
    };
    Ok((rows.into_iter().map(record).collect::<Result<_, _>>()?, total))
}

/// One reference.
///
/// # Errors
/// [`StoreError::NotFound`], also when it was deleted; database errors.
pub async fn get_reference(db: &impl ConnectionTrait, id: Uuid) -> Result<ReferenceRecord, StoreError> {
    let row = reference::Entity::find_by_id(id).one(db).await?;
    let row = row.filter(|row| row.deleted_at.is_none());
    record(row.ok_or(StoreError::not_found("reference", id))?)
}

/// Those of these references that are there, in no order.
///
/// # Errors
/// Database errors.
pub async fn get_references(
    db: &impl ConnectionTrait,
    ids: impl IntoIterator<Item = Uuid>,
) -> Result<Vec<ReferenceRecord>, StoreError> {
    let rows = reference::Entity::find().filter(among(reference::Column::Id, ids));
    let rows = rows.filter(reference::Column::DeletedAt.is_null()).all(db).await?;
    rows.into_iter().map(record).collect()
}

/// Stored references that look like the same work, the most alike first.
///
/// # Errors
/// Database errors.
pub async fn alike(
    db: &impl ConnectionTrait,
    wanted: &Reference,
    except: Option<Uuid>,
) -> Result<Vec<(ReferenceRecord, Likeness)>, StoreError> {
    // Trigrams are more forgiving than the rule of the core: they only choose what it looks at.
    let near = Expr::cust_with_values("title_key % $1", [title_key(&wanted.title)]);
    let any = Condition::any()
        .add(near)
        .add_option((!wanted.doi.is_empty()).then(|| reference::Column::Doi.eq(&wanted.doi)))
        .add_option((!wanted.pmid.is_empty()).then(|| reference::Column::Pmid.eq(&wanted.pmid)));
    let rows = reference::Entity::find()
        .filter(reference::Column::DeletedAt.is_null())
        .filter(any)
        .order_by_desc(Expr::cust_with_values(
            "coalesce(doi = $1 OR pmid = $2, false)",
            [wanted.doi.clone(), wanted.pmid.clone()],
        ))
        .order_by_desc(Expr::cust_with_values("similarity(title_key, $1)", [title_key(&wanted.title)]))
        .limit(MOST_COMPARED)
        .all(db)
        .await?;
    let mut found = Vec::new();
    for row in rows.into_iter().filter(|row| Some(row.id) != except) {
        let record = record(row)?;
        found.extend(likeness(wanted, &record.reference).map(|likeness| (record, likeness)));
    }
    found.sort_by(|(_, one), (_, other)| other.rank().total_cmp(&one.rank()));
    Ok(found)
}

/// More works of nearly one title are not looked at.
const MOST_COMPARED: u64 = 200;

/// Adds a reference; call within a transaction.
///
/// # Errors
/// [`StoreError::Fields`] when another one has its identifier, database errors.
pub async fn create_reference(
    db: &impl ConnectionTrait,
    reference: &Reference,
    act: Act<'_>,
) -> Result<ReferenceRecord, StoreError> {
    alone(db).await?;
    check_identifiers(db, reference, None).await?;
    let row = reference::ActiveModel {
        id: Set(Uuid::now_v7()),
        version: Set(1),
        sample: Set(reference.is_example()),
        created_at: Set(Utc::now()),
        ..row(reference)?
    };
    kept(db, row.insert(db).await?, act).await
}

/// Saves a reference that was read at `version`; call within a transaction.
///
/// # Errors
/// [`StoreError::Conflict`], [`StoreError::NotFound`], [`StoreError::Fields`] when another one has its identifier.
pub async fn update_reference(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    reference: &Reference,
    act: Act<'_>,
) -> Result<ReferenceRecord, StoreError> {
    let old = locked(db, id, version, false).await?;
    check_identifiers(db, reference, Some(id)).await?;
    let sample = Set(old.sample || reference.is_example());
    let changed = reference::ActiveModel { id: Set(id), version: Set(version + 1), sample, ..row(reference)? };
    kept(db, changed.update(db).await?, act).await
}

/// Marks a reference as deleted; it can be restored. Call within a transaction.
///
/// # Errors
/// As [`update_reference`]; [`StoreError::Fields`] while studies were published as it.
pub async fn delete_reference(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    act: Act<'_>,
) -> Result<ReferenceRecord, StoreError> {
    let mut row = locked(db, id, version, false).await?.into_active_model();
    let citing = citing(db, &[id]).await?.into_iter().map(|it| it.study).collect::<HashSet<_>>().len();
    if citing > 0 {
        let message =
            format!("{citing} {} published as this reference.", if citing == 1 { "study was" } else { "studies were" });
        let remedy =
            if citing == 1 { "Give it another reference first." } else { "Give them another reference first." };
        return Err(StoreError::Fields(vec![FieldError::new(
            "studies",
            FieldErrorCode::Invalid,
            citing,
            message,
            remedy,
        )]));
    }
    let listed = listed_for(db, id).await?;
    if listed > 0 {
        let message = format!("Results to be extracted from it are on the list of double extractions: {listed}.");
        let remedy = "Take them off that list first.";
        return Err(StoreError::Fields(vec![FieldError::new(
            "extractions",
            FieldErrorCode::Invalid,
            listed,
            message,
            remedy,
        )]));
    }
    row.version = Set(version + 1);
    row.deleted_at = Set(Some(Utc::now()));
    kept(db, row.update(db).await?, act).await
}

/// Brings a deleted reference back. Call within a transaction.
///
/// # Errors
/// As [`update_reference`]; one that is not deleted is not found.
pub async fn restore_reference(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    act: Act<'_>,
) -> Result<ReferenceRecord, StoreError> {
    let old = locked(db, id, version, true).await?;
    check_identifiers(db, &record(old.clone())?.reference, Some(id)).await?;
    let mut row = old.into_active_model();
    row.version = Set(version + 1);
    row.deleted_at = Set(None);
    kept(db, row.update(db).await?, act).await
}

/// How a reference of a file meets what is there.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Encounter {
    /// Nothing like it is there.
    New,
    /// It is there: the identifier is the same.
    Known,
    /// Something is there, or earlier in the file, that may be the same work.
    Similar,
}

/// What became, or would become, of one reference of a file.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct BroughtReference {
    /// Its place in the file, from 0.
    pub index: usize,
    /// Short name.
    pub label: String,
    /// Title.
    pub title: String,
    /// How it meets what is there.
    pub encounter: Encounter,
    /// Whether it is added.
    pub added: bool,
    /// Why it looks like another one.
    pub likeness: Option<Likeness>,
    /// Short name and title of that one.
    pub like: Option<String>,
}

/// What an import of references brought, or would bring.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ReferencesImported {
    /// The file's references in their order.
    pub references: Vec<BroughtReference>,
    /// So many are added.
    pub added: usize,
}

/// Adds the references of a file in this transaction, which it ends: those that are new, and of those that look like another one the
/// chosen places. What is there by its identifier is left as it is. Without `landing` nothing is changed. When `step` answers no, all is taken
/// back and nothing is answered.
///
/// # Errors
/// Database errors.
pub async fn import_references(
    transaction: DatabaseTransaction,
    references: &[Reference],
    chosen: &HashSet<usize>,
    act: Act<'_>,
    landing: Option<Landing<'_>>,
    step: &Step<'_>,
) -> Result<Option<ReferencesImported>, StoreError> {
    if landing.is_some() {
        alone(&transaction).await?;
    }
    let since = Since::now(&transaction).await?;
    let mut matcher: Matcher<usize> = Matcher::default();
    let (stored, _) = list_references(&transaction, &ReferenceQuery::default()).await?;
    for record in stored {
        matcher.add(usize::MAX, record.reference);
    }
    let mut brought = Vec::with_capacity(references.len());
    let mut fresh: Vec<Fresh<'_>> = Vec::new();
    for (index, reference) in references.iter().enumerate() {
        if index % PORTION == 0 && !step(ImportPhase::Comparing, index, references.len()) {
            return Ok(None);
        }
        let found = matcher.find(reference);
        let encounter = match found {
            None => Encounter::New,
            Some((_, _, likeness)) if likeness.is_certain() => Encounter::Known,
            Some(_) => Encounter::Similar,
        };
        let added = encounter == Encounter::New || (encounter == Encounter::Similar && chosen.contains(&index));
        if added {
            fresh.push(Fresh { id: Uuid::now_v7(), reference, sample: false });
        }
        brought.push(BroughtReference {
            index,
            label: reference.label(),
            title: reference.title.clone(),
            encounter,
            added,
            likeness: found.map(|(_, _, likeness)| likeness),
            like: found.map(|(_, known, _)| format!("{}: {}", known.label(), known.title)),
        });
        if encounter != Encounter::Known {
            matcher.add(index, reference.clone());
        }
    }
    let added = fresh.len();
    if landing.is_some() && !insert(&transaction, &fresh, act, step).await? {
        return Ok(None);
    }
    // The last moment to stop is before the transaction ends; one that is dropped leaves nothing.
    if !step(ImportPhase::Writing, added, added) {
        return Ok(None);
    }
    if let Some(landing) = landing {
        landing.keep(&transaction, ImportKind::References, since, &[], act).await?;
    }
    transaction.commit().await?;
    Ok(Some(ReferencesImported { references: brought, added }))
}

/// Adds the references of a bundle that are not there yet: neither by an identifier nor word for word. Call within a transaction. Answers
/// nothing when `step` says to stop.
///
/// # Errors
/// Database errors.
pub(crate) async fn bring_references(
    db: &impl ConnectionTrait,
    references: &[BundleReference],
    act: Act<'_>,
    step: &Step<'_>,
) -> Result<Option<BroughtIn>, StoreError> {
    if references.is_empty() {
        return Ok(Some(BroughtIn::default()));
    }
    let (stored, _) = list_references(db, &ReferenceQuery::default()).await?;
    let mut matcher: Matcher<Uuid> = Matcher::default();
    let mut same: HashMap<Reference, Uuid> = HashMap::new();
    for ReferenceRecord { id, reference, .. } in stored {
        same.insert(reference.clone(), id);
        matcher.add(id, reference);
    }
    let (mut fresh, mut ids) = (Vec::new(), Vec::with_capacity(references.len()));
    for (index, BundleReference { reference, sample }) in references.iter().enumerate() {
        if index % PORTION == 0 && !step(ImportPhase::Comparing, index, references.len()) {
            return Ok(None);
        }
        let certain = || matcher.find(reference).filter(|(.., likeness)| likeness.is_certain()).map(|(id, ..)| id);
        let known = same.get(reference).copied().or_else(certain);
        let id = known.unwrap_or_else(Uuid::now_v7);
        ids.push(id);
        if known.is_none() {
            fresh.push(Fresh { id, reference, sample: *sample });
            same.insert(reference.clone(), id);
            matcher.add(id, reference.clone());
        }
    }
    let added = fresh.len();
    Ok(insert(db, &fresh, act, step).await?.then_some(BroughtIn { ids, added }))
}

/// References on record by their DOIs.
pub(crate) async fn references_of_dois(
    db: &impl ConnectionTrait,
    dois: &HashSet<&str>,
) -> Result<HashMap<String, Uuid>, StoreError> {
    let dois: Vec<&str> = dois.iter().copied().collect();
    let mut found: HashMap<String, Uuid> = HashMap::new();
    for portion in dois.chunks(PORTION) {
        let rows = reference::Entity::find()
            .select_only()
            .columns([reference::Column::Doi, reference::Column::Id])
            .filter(reference::Column::Doi.is_in(portion.iter().copied()))
            .filter(reference::Column::DeletedAt.is_null());
        found.extend(rows.into_tuple::<(String, Uuid)>().all(db).await?);
    }
    Ok(found)
}

/// The references of a bundle as they are on record, in its order.
#[derive(Debug, Default)]
pub(crate) struct BroughtIn {
    pub ids: Vec<Uuid>,
    pub added: usize,
}

/// A reference to be added.
struct Fresh<'a> {
    id: Uuid,
    reference: &'a Reference,
    sample: bool,
}

/// Writes references in portions; answers whether all of them, as long as `step` says to go on.
async fn insert(
    db: &impl ConnectionTrait,
    references: &[Fresh<'_>],
    act: Act<'_>,
    step: &Step<'_>,
) -> Result<bool, StoreError> {
    for (number, portion) in references.chunks(PORTION).enumerate() {
        if !step(ImportPhase::Writing, number * PORTION, references.len()) {
            return Ok(false);
        }
        let mut rows = Vec::with_capacity(portion.len());
        let mut versions = Vec::with_capacity(portion.len());
        for Fresh { id, reference, sample } in portion {
            let (sample, created_at) = (Set(*sample || reference.is_example()), Set(Utc::now()));
            rows.push(reference::ActiveModel { id: Set(*id), version: Set(1), sample, created_at, ..row(reference)? });
            versions.push((*id, 1, *reference));
        }
        reference::Entity::insert_many(rows).exec_without_returning(db).await?;
        keep_all(db, Kind::Reference, &versions, act).await?;
    }
    Ok(true)
}

async fn kept(db: &impl ConnectionTrait, row: reference::Model, act: Act<'_>) -> Result<ReferenceRecord, StoreError> {
    let record = record(row)?;
    keep(db, Kind::Reference, record.id, record.version, &record.reference, act).await?;
    Ok(record)
}

async fn locked(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    deleted: bool,
) -> Result<reference::Model, StoreError> {
    alone(db).await?;
    let row = reference::Entity::find_by_id(id).lock_exclusive().one(db).await?;
    let row = row.filter(|row| row.deleted_at.is_some() == deleted);
    let row = row.ok_or(StoreError::not_found("reference", id))?;
    if row.version == version { Ok(row) } else { Err(StoreError::Conflict { what: "reference", current: row.version }) }
}

async fn check_identifiers(
    db: &impl ConnectionTrait,
    reference: &Reference,
    except: Option<Uuid>,
) -> Result<(), StoreError> {
    let own = [
        ("doi", reference::Column::Doi, &reference.doi, "DOI"),
        ("pmid", reference::Column::Pmid, &reference.pmid, "PubMed number"),
    ];
    let mut errors = Vec::new();
    for (field, column, value, name) in own.into_iter().filter(|(_, _, value, _)| !value.is_empty()) {
        let same = reference::Entity::find().filter(column.eq(value)).filter(reference::Column::DeletedAt.is_null());
        if let Some(row) = same.one(db).await?.filter(|row| Some(row.id) != except) {
            let other = record(row)?.reference.label();
            let message = format!("{other} has this {name} already.");
            let remedy = "Use the reference that is there, or correct the number.";
            errors.push(FieldError::new(field, FieldErrorCode::Duplicate, value, message, remedy));
        }
    }
    if errors.is_empty() { Ok(()) } else { Err(StoreError::Fields(errors)) }
}

fn row(reference: &Reference) -> Result<reference::ActiveModel, StoreError> {
    let broken =
        |error: serde_json::Error| StoreError::Damaged { what: "reference", id: Uuid::nil(), why: error.to_string() };
    let given = |text: &str| Some(text.to_owned()).filter(|text| !text.is_empty());
    let names = reference.authors.iter().map(|author| author.family.as_str());
    let year = reference.year.map(|year| year.to_string()).unwrap_or_default();
    let parts = [&reference.title, &reference.container, &year, &reference.doi, &reference.pmid];
    let search: Vec<&str> = names.chain(parts.into_iter().map(String::as_str)).filter(|it| !it.is_empty()).collect();
    Ok(reference::ActiveModel {
        doi: Set(given(&reference.doi)),
        pmid: Set(given(&reference.pmid)),
        title_key: Set(title_key(&reference.title)),
        first_author: Set(title_key(reference.authors.first().map_or(&reference.title, |author| &author.family))),
        year: Set(reference.year.map(i32::from)),
        search: Set(search.join(" ").to_lowercase()),
        content: Set(serde_json::to_value(reference).map_err(broken)?),
        updated_at: Set(Utc::now()),
        ..Default::default()
    })
}

fn record(row: reference::Model) -> Result<ReferenceRecord, StoreError> {
    let damaged = |why: String| StoreError::Damaged { what: "reference", id: row.id, why };
    let input: ReferenceInput = serde_json::from_value(row.content).map_err(|error| damaged(error.to_string()))?;
    let reference = Reference::check(&input)
        .map_err(|errors| damaged(errors.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ")))?;
    Ok(ReferenceRecord { id: row.id, version: row.version, sample: row.sample, reference })
}

/// A result that was published as a reference.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct Citing {
    /// The reference.
    pub reference: Uuid,
    /// The study.
    pub study: StudyId,
    /// The test that a result of it is about.
    pub test: TestId,
}

/// What was published as these references, deleted ones left out, result by result.
///
/// # Errors
/// Database errors.
pub async fn citing(db: &impl ConnectionTrait, references: &[Uuid]) -> Result<Vec<Citing>, StoreError> {
    let studies = study::Entity::find()
        .select_only()
        .columns([study::Column::Id, study::Column::ReferenceId])
        .filter(among(study::Column::ReferenceId, references.iter().copied()))
        .filter(study::Column::DeletedAt.is_null());
    let studies = studies.into_tuple::<(Uuid, Option<Uuid>)>().all(db).await?;
    let studies: HashMap<StudyId, Option<Uuid>> = studies.into_iter().map(|(id, of)| (id.into(), of)).collect();
    let reported = reported_from(db, &studies.keys().copied().collect::<Vec<_>>()).await?;
    let citing = |(study, test)| Some(Citing { reference: studies.get(&study).copied()??, study, test });
    Ok(reported.into_iter().filter_map(citing).collect())
}
