//! Double extractions: a result that two people read off its report, neither seeing what the other reads, and how it was settled.

use std::collections::{BTreeMap, HashMap, HashSet};

use chrono::{DateTime, Utc};
use pruvex_core::catalogue::Region;
use pruvex_core::evidence::{Decision, Extraction, ExtractionInput, settle};
use pruvex_core::{FieldError, FieldErrorCode, ResultId, TestId};
use pruvex_formats::BundleSettled;
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, IntoActiveModel, QueryFilter,
    QueryOrder, QuerySelect,
};
use uuid::Uuid;

use super::reference_links::check_references;
use super::results::{create_result, get_result, update_result};
use super::studies::{OfStudy, create_studies, get_studies};
use crate::StoreError;
use crate::among::among;
use crate::constraint::refused;
use crate::entities::{account, double_extraction, extraction};
use crate::history::{Act, Kind, alone, entered};

/// A double extraction.
#[derive(Debug, Clone, PartialEq)]
pub struct DoubleExtraction {
    /// Id.
    pub id: Uuid,
    /// The test it is about.
    pub test_id: TestId,
    /// The reference on record.
    pub reference_id: Option<Uuid>,
    /// Its text, as it was put on the list.
    pub reference: String,
    /// Which of the report's results is to be read.
    pub asked: String,
    /// The result that came of it, or that is read a second time.
    pub result_id: Option<ResultId>,
    /// Made up; cannot be switched off.
    pub sample: bool,
    /// What was read, by whom, in the order they began.
    pub readings: Vec<ReaderExtraction>,
    /// How it was adjudicated.
    pub settled: Option<Settled>,
}

impl DoubleExtraction {
    /// What both handed in; none before.
    #[must_use]
    pub fn both(&self) -> Option<[&ReaderExtraction; 2]> {
        match self.readings.as_slice() {
            [first, second] if first.handed_in_at.is_some() && second.handed_in_at.is_some() => Some([first, second]),
            _ => None,
        }
    }
}

/// What one reader reads.
#[derive(Debug, Clone, PartialEq)]
pub struct ReaderExtraction {
    /// The reader's account; none for what came with a file.
    pub account: Option<Uuid>,
    /// Their name.
    pub reader: Option<String>,
    /// Rises by one with every save.
    pub version: i32,
    /// None while it is being written.
    pub handed_in_at: Option<DateTime<Utc>>,
    /// As it was typed; checked when it is handed in.
    pub content: ExtractionInput,
}

/// How it was adjudicated.
#[derive(Debug, Clone, PartialEq)]
pub struct Settled {
    /// By whom.
    pub by: Option<String>,
    /// When.
    pub at: DateTime<Utc>,
    /// What was decided where the two differed.
    pub decisions: Vec<Decision>,
}

/// A result of a report that is to be read twice.
#[derive(Debug, Clone, Copy)]
pub struct NewDoubleExtraction<'a> {
    /// The test it is about.
    pub test_id: TestId,
    /// The reference on record.
    pub reference_id: Option<Uuid>,
    /// Its text.
    pub reference: &'a str,
    /// Which of the report's results.
    pub asked: &'a str,
    /// Made up.
    pub sample: bool,
}

/// Puts a result of a report on the list; call within a transaction.
///
/// # Errors
/// [`StoreError::NotFound`] without that test, [`StoreError::Fields`] for a reference that is not on record, database errors.
pub async fn create_double_extraction(
    db: &impl ConnectionTrait,
    new: NewDoubleExtraction<'_>,
    by: Option<Uuid>,
) -> Result<DoubleExtraction, StoreError> {
    alone(db).await?;
    check_references(db, new.reference_id.into_iter()).await?;
    let id = insert(db, new, None, by).await?;
    get_double_extraction(db, id).await
}

/// Has a result on record read a second time: what it says is the first reading, of whoever entered it. Call within a transaction.
///
/// # Errors
/// [`StoreError::NotFound`], [`StoreError::Fields`] when it is on the list already, database errors.
pub async fn ask_second_reading(
    db: &impl ConnectionTrait,
    result_id: ResultId,
    by: Option<Uuid>,
) -> Result<DoubleExtraction, StoreError> {
    alone(db).await?;
    let result = get_result(db, result_id).await?;
    let listed = double_extraction::Entity::find()
        .filter(double_extraction::Column::ResultId.eq(result_id.0))
        .filter(double_extraction::Column::DeletedAt.is_null());
    if listed.one(db).await?.is_some() {
        let (message, remedy) = ("This result is on the list already.", "Look for it there.");
        return Err(fault("result_id", FieldErrorCode::Duplicate, result_id, message, remedy));
    }
    let study = get_studies(db, [result.study_id]).await?.remove(&result.study_id);
    let study = study.ok_or(StoreError::not_found("study", result.study_id))?.study;
    let new = NewDoubleExtraction {
        test_id: result.test_id,
        reference_id: study.reference_id,
        reference: &study.reference,
        asked: &study.population,
        sample: result.sample,
    };
    let id = insert(db, new, Some(result_id), by).await?;
    let entered = entered(db, Kind::Result, &[result_id.0]).await?.remove(&result_id.0);
    let first = Extraction { study: study.clone(), result: result.result }.written();
    let at = entered.as_ref().map_or_else(Utc::now, |it| it.at);
    let row = reading(id, entered.and_then(|it| it.account), &first, Some(at))?;
    extraction::Entity::insert(row).exec_without_returning(db).await?;
    get_double_extraction(db, id).await
}

async fn insert(
    db: &impl ConnectionTrait,
    new: NewDoubleExtraction<'_>,
    result_id: Option<ResultId>,
    by: Option<Uuid>,
) -> Result<Uuid, StoreError> {
    let row = double_extraction::ActiveModel {
        id: Set(Uuid::now_v7()),
        test_id: Set(new.test_id.0),
        reference_id: Set(new.reference_id),
        reference: Set(new.reference.to_owned()),
        asked: Set(new.asked.to_owned()),
        result_id: Set(result_id.map(Uuid::from)),
        sample: Set(new.sample),
        created_by: Set(by),
        created_at: Set(Utc::now()),
        updated_at: Set(Utc::now()),
        ..Default::default()
    };
    let row = row.insert(db).await.map_err(|error| refused(error, &new.test_id.to_string()))?;
    Ok(row.id)
}

fn reading(
    of: Uuid,
    account: Option<Uuid>,
    content: &ExtractionInput,
    handed_in_at: Option<DateTime<Utc>>,
) -> Result<extraction::ActiveModel, StoreError> {
    Ok(extraction::ActiveModel {
        id: Set(Uuid::now_v7()),
        double_extraction_id: Set(of),
        account_id: Set(account),
        reader: Set(String::new()),
        content: Set(serde_json::to_value(content).map_err(|error| damaged(of, &error))?),
        handed_in_at: Set(handed_in_at),
        version: Set(1),
        created_at: Set(Utc::now()),
        updated_at: Set(Utc::now()),
    })
}

/// One double extraction, with everything that was read: who may see which part of it is decided by whoever asks.
///
/// # Errors
/// [`StoreError::NotFound`], database errors.
pub async fn get_double_extraction(db: &impl ConnectionTrait, id: Uuid) -> Result<DoubleExtraction, StoreError> {
    let row = double_extraction::Entity::find_by_id(id).filter(double_extraction::Column::DeletedAt.is_null());
    let row = row.one(db).await?.ok_or(StoreError::not_found("double extraction", id))?;
    records(db, vec![row]).await?.pop().ok_or(StoreError::not_found("double extraction", id))
}

/// How results came about that were read twice, by result.
///
/// # Errors
/// Database errors.
pub async fn double_extractions_of(
    db: &impl ConnectionTrait,
    results: &[ResultId],
) -> Result<HashMap<ResultId, DoubleExtraction>, StoreError> {
    if results.is_empty() {
        return Ok(HashMap::new());
    }
    let rows = double_extraction::Entity::find()
        .filter(among(double_extraction::Column::ResultId, results.iter().map(|id| id.0)))
        .filter(double_extraction::Column::DeletedAt.is_null());
    let found = records(db, rows.all(db).await?).await?;
    Ok(found.into_iter().filter_map(|it| Some((it.result_id?, it))).collect())
}

/// Every pair of extractions that both were handed in, settled or not, of tests of a region or of all.
///
/// # Errors
/// Database errors.
pub async fn list_both(
    db: &impl ConnectionTrait,
    region: Option<Region>,
) -> Result<Vec<(Extraction, Extraction)>, StoreError> {
    let rows = double_extraction::Entity::find().filter(double_extraction::Column::DeletedAt.is_null());
    let rows = match region {
        Some(region) => {
            let tests = crate::entities::test::Entity::find()
                .select_only()
                .column(crate::entities::test::Column::Id)
                .filter(crate::entities::test::Column::Region.eq(region.code()));
            rows.filter(double_extraction::Column::TestId.in_subquery(sea_orm::QueryTrait::into_query(tests)))
        }
        None => rows,
    };
    let all = records(db, rows.order_by_asc(double_extraction::Column::Id).all(db).await?).await?;
    all.iter().filter_map(|it| it.both().map(|both| (it.id, both))).map(|(id, both)| checked(id, both)).collect()
}

async fn records(
    db: &impl ConnectionTrait,
    rows: Vec<double_extraction::Model>,
) -> Result<Vec<DoubleExtraction>, StoreError> {
    let mut readings: HashMap<Uuid, Vec<ReaderExtraction>> = HashMap::new();
    let of = rows.iter().map(|row| row.id);
    let found = extraction::Entity::find()
        .filter(among(extraction::Column::DoubleExtractionId, of))
        .order_by_asc(extraction::Column::CreatedAt)
        .order_by_asc(extraction::Column::Id);
    let found = found.all(db).await?;
    let people = found.iter().filter_map(|it| it.account_id).chain(rows.iter().filter_map(|row| row.settled_by));
    let names = names(db, people).await?;
    // Who read what came with a file has no account here, but a name.
    let named = |account: Option<Uuid>, written: String| {
        account.and_then(|id| names.get(&id).cloned()).or_else(|| Some(written).filter(|name| !name.is_empty()))
    };
    for row in found {
        let of = row.double_extraction_id;
        readings.entry(of).or_default().push(ReaderExtraction {
            account: row.account_id,
            reader: named(row.account_id, row.reader),
            version: row.version,
            handed_in_at: row.handed_in_at,
            content: serde_json::from_value(row.content).map_err(|error| damaged(of, &error))?,
        });
    }
    let record = |row: double_extraction::Model| {
        let decisions =
            row.decisions.map(serde_json::from_value).transpose().map_err(|error| damaged(row.id, &error))?;
        let settled = row.settled_at.zip(decisions);
        Ok(DoubleExtraction {
            id: row.id,
            test_id: row.test_id.into(),
            reference_id: row.reference_id,
            reference: row.reference,
            asked: row.asked,
            result_id: row.result_id.map(ResultId),
            sample: row.sample,
            readings: readings.remove(&row.id).unwrap_or_default(),
            settled: settled.map(|(at, decisions)| Settled { by: named(row.settled_by, row.settler), at, decisions }),
        })
    };
    rows.into_iter().map(record).collect()
}

pub(crate) async fn names(
    db: &impl ConnectionTrait,
    accounts: impl Iterator<Item = Uuid>,
) -> Result<HashMap<Uuid, String>, StoreError> {
    let ids: HashSet<Uuid> = accounts.collect();
    if ids.is_empty() {
        return Ok(HashMap::new());
    }
    let found = account::Entity::find().select_only().columns([account::Column::Id, account::Column::Name]);
    let found = found.filter(among(account::Column::Id, ids)).into_tuple::<(Uuid, String)>();
    Ok(found.all(db).await?.into_iter().collect())
}

/// Keeps what a reader read, at the version it was read at (0 at first); with `hand_in` it is complete, and was checked. Call within a
/// transaction.
///
/// # Errors
/// [`StoreError::Fields`] when two others read it, both are in, or it is settled; [`StoreError::Conflict`], [`StoreError::NotFound`].
pub async fn put_extraction(
    db: &impl ConnectionTrait,
    id: Uuid,
    account: Uuid,
    version: i32,
    content: &ExtractionInput,
    hand_in: bool,
) -> Result<DoubleExtraction, StoreError> {
    let there = open(db, id).await?;
    let mine = there.readings.iter().find(|it| it.account == Some(account));
    if mine.is_none() && there.readings.len() >= 2 {
        let (message, remedy) =
            ("Two people have already extracted this.", "Adjudicate the two extractions, or choose another one.");
        return Err(fault("extraction", FieldErrorCode::Invalid, "", message, remedy));
    }
    let current = mine.map_or(0, |it| it.version);
    if current != version {
        return Err(StoreError::Conflict { what: "extraction", current });
    }
    let handed_in_at = hand_in.then(Utc::now);
    if mine.is_none() {
        extraction::Entity::insert(reading(id, Some(account), content, handed_in_at)?)
            .exec_without_returning(db)
            .await?;
    } else {
        let mut row = of_reader(db, id, account).await?.into_active_model();
        row.content = Set(serde_json::to_value(content).map_err(|error| damaged(id, &error))?);
        row.handed_in_at = Set(handed_in_at);
        row.version = Set(version + 1);
        row.updated_at = Set(Utc::now());
        row.update(db).await?;
    }
    get_double_extraction(db, id).await
}

/// Gives up what a reader began, so that somebody else can read it; call within a transaction.
///
/// # Errors
/// As [`put_extraction`].
pub async fn give_up_extraction(
    db: &impl ConnectionTrait,
    id: Uuid,
    account: Uuid,
    version: i32,
) -> Result<DoubleExtraction, StoreError> {
    open(db, id).await?;
    let row = of_reader(db, id, account).await?;
    if row.version != version {
        return Err(StoreError::Conflict { what: "extraction", current: row.version });
    }
    extraction::Entity::delete_by_id(row.id).exec(db).await?;
    get_double_extraction(db, id).await
}

/// Takes a result off the list; call within a transaction. The result on record, if it was one, stays as it is.
///
/// # Errors
/// [`StoreError::Fields`] while somebody reads it, other than whoever entered a result on record.
pub async fn delete_double_extraction(db: &impl ConnectionTrait, id: Uuid) -> Result<(), StoreError> {
    let there = open(db, id).await?;
    let own = usize::from(there.result_id.is_some());
    if there.readings.len() > own {
        let (message, remedy) = ("Somebody has begun to extract it.", "Ask them to withdraw first.");
        return Err(fault("extraction", FieldErrorCode::Invalid, "", message, remedy));
    }
    let row = double_extraction::ActiveModel {
        id: Set(id),
        deleted_at: Set(Some(Utc::now())),
        updated_at: Set(Utc::now()),
        ..Default::default()
    };
    row.update(db).await?;
    Ok(())
}

/// What stands after two extractions, and the reasons by field.
#[derive(Debug, Clone)]
pub struct Settlement<'a> {
    /// Its study: a new one, or one on record.
    pub of: &'a OfStudy,
    /// The result.
    pub settled: &'a Extraction,
    /// Why, by field.
    pub reasons: &'a BTreeMap<String, String>,
    /// The version at which a result on record was read.
    pub result_version: Option<i32>,
}

/// Settles two extractions: the result is added to its test, or corrected, and what was decided is kept. Call within a transaction.
///
/// # Errors
/// [`StoreError::Fields`] before both are in, when it is settled already, or without the reasons that are needed; as
/// [`create_result`] and [`update_result`].
pub async fn settle_double_extraction(
    db: &impl ConnectionTrait,
    id: Uuid,
    settlement: &Settlement<'_>,
    by: Uuid,
) -> Result<DoubleExtraction, StoreError> {
    alone(db).await?;
    let there = get_double_extraction(db, id).await?;
    if there.settled.is_some() {
        let (message, remedy) = ("This was adjudicated already.", "Correct the result on its sheet.");
        return Err(fault("extraction", FieldErrorCode::Invalid, "", message, remedy));
    }
    let Some(both) = there.both() else {
        let (message, remedy) =
            ("Two extractions are needed before they can be adjudicated.", "Wait for the other extractor.");
        return Err(fault("extraction", FieldErrorCode::Invalid, "", message, remedy));
    };
    let (first, second) = checked(id, both)?;
    let decisions = settle(&first, &second, settlement.settled, settlement.reasons).map_err(StoreError::Fields)?;
    let (of, result) = (settlement.of, &settlement.settled.result);
    let result = match (there.result_id, settlement.result_version) {
        (Some(result_id), Some(version)) => {
            update_result(db, result_id, version, Some(of), result, Act::of("settled", Some(by))).await?
        }
        (Some(_), None) => {
            let (message, remedy) = ("The version of the result is missing.", "Send the one that was read.");
            return Err(fault("result_version", FieldErrorCode::Missing, "", message, remedy));
        }
        (None, _) => {
            let of = marked(db, of, there.sample, by).await?;
            create_result(db, there.test_id, &of, result, Act::of("settled", Some(by))).await?
        }
    };
    let row = double_extraction::ActiveModel {
        id: Set(id),
        result_id: Set(Some(result.id.0)),
        decisions: Set(Some(serde_json::json!(decisions))),
        settled_by: Set(Some(by)),
        settled_at: Set(Some(Utc::now())),
        updated_at: Set(Utc::now()),
        ..Default::default()
    };
    row.update(db).await?;
    get_double_extraction(db, id).await
}

/// The study of what is settled: a new one that was read off a made-up report is made up.
async fn marked(db: &impl ConnectionTrait, of: &OfStudy, sample: bool, by: Uuid) -> Result<OfStudy, StoreError> {
    match of {
        OfStudy::New(study) if sample => {
            let added = create_studies(db, &[(study, true)], Act::of("created", Some(by))).await?;
            let added = added.into_iter().next().ok_or(StoreError::not_found("study", Uuid::nil()))?;
            Ok(OfStudy::Known { id: added.id, version: added.version, study: added.study })
        }
        of => Ok(of.clone()),
    }
}

/// One that can still be changed: not both are in.
async fn open(db: &impl ConnectionTrait, id: Uuid) -> Result<DoubleExtraction, StoreError> {
    alone(db).await?;
    let there = get_double_extraction(db, id).await?;
    if there.both().is_some() {
        let message = "Both extractions are complete and can no longer be changed.";
        return Err(fault("extraction", FieldErrorCode::Invalid, "", message, "Settle it."));
    }
    Ok(there)
}

async fn of_reader(db: &impl ConnectionTrait, id: Uuid, account: Uuid) -> Result<extraction::Model, StoreError> {
    let mine = extraction::Entity::find()
        .filter(extraction::Column::DoubleExtractionId.eq(id))
        .filter(extraction::Column::AccountId.eq(account));
    mine.one(db).await?.ok_or(StoreError::not_found("extraction", id))
}

pub(crate) fn checked(
    id: Uuid,
    [first, second]: [&ReaderExtraction; 2],
) -> Result<(Extraction, Extraction), StoreError> {
    let check = |it: &ReaderExtraction| {
        Extraction::check(&it.content).map_err(|errors| StoreError::Damaged {
            what: "extraction",
            id,
            why: errors.iter().map(ToString::to_string).collect::<Vec<_>>().join(" "),
        })
    };
    Ok((check(first)?, check(second)?))
}

fn fault(field: &str, code: FieldErrorCode, value: impl ToString, message: &str, remedy: &str) -> StoreError {
    StoreError::Fields(vec![FieldError::new(field, code, value, message, remedy)])
}

fn damaged(id: Uuid, error: &serde_json::Error) -> StoreError {
    StoreError::Damaged { what: "extraction", id, why: error.to_string() }
}

/// How many on the list are to be read off a reference.
pub(super) async fn listed_for(db: &impl ConnectionTrait, reference: Uuid) -> Result<usize, StoreError> {
    let listed = double_extraction::Entity::find()
        .filter(double_extraction::Column::ReferenceId.eq(reference))
        .filter(double_extraction::Column::ResultId.is_null())
        .filter(double_extraction::Column::DeletedAt.is_null());
    Ok(listed.all(db).await?.len())
}

/// A double extraction out of a file.
#[derive(Debug, Clone)]
pub(crate) struct BroughtExtraction<'a> {
    /// What is to be read.
    pub new: NewDoubleExtraction<'a>,
    /// The result that came of it.
    pub result_id: Option<ResultId>,
    /// What two people read, with their names; or nothing.
    pub readings: Vec<(&'a str, &'a Extraction)>,
    /// How it was adjudicated.
    pub settled: Option<&'a BundleSettled>,
}

/// Adds double extractions out of a file; call within a transaction. Those that are on the list already are left out: what is to be
/// read of the same report at the same test, under the same words.
///
/// # Errors
/// Database errors.
pub(crate) async fn bring_extractions(
    db: &impl ConnectionTrait,
    brought: &[BroughtExtraction<'_>],
    by: Option<Uuid>,
) -> Result<Vec<Uuid>, StoreError> {
    let tests: HashSet<Uuid> = brought.iter().map(|it| it.new.test_id.0).collect();
    let listed = double_extraction::Entity::find()
        .filter(among(double_extraction::Column::TestId, tests))
        .filter(double_extraction::Column::DeletedAt.is_null());
    let listed: HashSet<(TestId, String, String)> =
        listed.all(db).await?.into_iter().map(|row| (row.test_id.into(), row.reference, row.asked)).collect();
    let mut added = Vec::new();
    for BroughtExtraction { new, result_id, readings, settled } in brought {
        let key = (new.test_id, new.reference.to_owned(), new.asked.to_owned());
        if result_id.is_none() && listed.contains(&key) {
            continue;
        }
        let id = insert(db, *new, *result_id, by).await?;
        added.push(id);
        for (name, read) in readings {
            let row = extraction::ActiveModel {
                reader: Set((*name).to_owned()),
                ..reading(id, None, &read.written(), Some(Utc::now()))?
            };
            extraction::Entity::insert(row).exec_without_returning(db).await?;
        }
        if let Some(BundleSettled { by, at, decisions }) = settled {
            let row = double_extraction::ActiveModel {
                id: Set(id),
                decisions: Set(Some(serde_json::json!(decisions))),
                settler: Set(by.clone()),
                settled_at: Set(Some(*at)),
                ..Default::default()
            };
            row.update(db).await?;
        }
    }
    Ok(added)
}

/// What a file takes along: what two have read, or nobody yet. What one person read stays with them until the other has read it too.
///
/// # Errors
/// Database errors.
pub(crate) async fn extractions_for_file(
    db: &impl ConnectionTrait,
    tests: &[TestId],
) -> Result<Vec<DoubleExtraction>, StoreError> {
    let rows = double_extraction::Entity::find()
        .filter(among(double_extraction::Column::TestId, tests.iter().map(|id| id.0)))
        .filter(double_extraction::Column::DeletedAt.is_null())
        .order_by_asc(double_extraction::Column::Id);
    let all = records(db, rows.all(db).await?).await?;
    Ok(all.into_iter().filter(|it| it.readings.is_empty() || it.both().is_some()).collect())
}
