//! Results of accuracy: what a study found about a test.

use std::collections::{HashMap, HashSet};

use chrono::Utc;
use pruvex_core::accuracy::{Counts, RawCounts};
use pruvex_core::catalogue::{Condition, Region, name_key};
use pruvex_core::evidence::{AccuracyResult, Candidate, NotPooled, Together, Unit, left_out};
use pruvex_core::{FieldError, FieldErrorCode};
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, FromQueryResult, QueryFilter,
    QueryOrder, QuerySelect, SqlErr,
};
use uuid::Uuid;

use super::studies::{OfStudy, StudyRecord, get_studies, let_go, put_study, take_back};
use crate::StoreError;
use crate::condition::put_condition;
use crate::entities::accuracy_result::{ActiveModel, Column, Entity, Model};
use crate::entities::{condition, test};
use crate::history::{Act, Kind, PORTION, alone, keep, keep_all};

/// A stored result.
#[derive(Debug, Clone, PartialEq)]
pub struct ResultRecord {
    /// Id.
    pub id: Uuid,
    /// The test it is about.
    pub test_id: Uuid,
    /// The study it is of.
    pub study_id: Uuid,
    /// Rises by one with every change, deletion and restoring included.
    pub version: i32,
    /// Made up; cannot be switched off.
    pub sample: bool,
    /// What it reports.
    pub result: AccuracyResult,
    /// Why it is not in the pool of its test; none when it is.
    pub left_out: Option<NotPooled>,
}

/// Results of these tests, deleted ones left out, in the order they were entered.
///
/// # Errors
/// Database errors.
pub async fn list_results(db: &impl ConnectionTrait, tests: &[Uuid]) -> Result<Vec<ResultRecord>, StoreError> {
    let rows = Entity::find()
        .filter(Column::TestId.is_in(tests.iter().copied()))
        .filter(Column::DeletedAt.is_null())
        .order_by_asc(Column::CreatedAt)
        .order_by_asc(Column::Id)
        .all(db)
        .await?;
    let why = left_out_of(db, &rows.iter().map(Membership::from).collect::<Vec<_>>()).await?;
    let names = condition_names(db, rows.iter().filter_map(|row| row.condition_id)).await?;
    rows.into_iter().zip(why).map(|(row, why)| record(row, &names, why)).collect()
}

/// One result that is not deleted.
///
/// # Errors
/// [`StoreError::NotFound`], database errors.
pub async fn get_result(db: &impl ConnectionTrait, id: Uuid) -> Result<ResultRecord, StoreError> {
    let row = Entity::find_by_id(id).filter(Column::DeletedAt.is_null()).one(db).await?;
    let test = row.ok_or(StoreError::NotFound { what: "result", id })?.test_id;
    let all = list_results(db, &[test]).await?;
    all.into_iter().find(|it| it.id == id).ok_or(StoreError::NotFound { what: "result", id })
}

/// What a pool needs to know of a result.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ResultCounts {
    /// The test it is about.
    pub test_id: Uuid,
    /// Made up.
    pub sample: bool,
    /// The four cells.
    pub counts: Counts,
}

/// What decides whether a result is in the pool of its test, and its counts.
#[derive(Debug, Clone, FromQueryResult)]
struct Membership {
    id: Uuid,
    test_id: Uuid,
    study_id: Uuid,
    condition_id: Option<Uuid>,
    people_group: String,
    together: Option<sea_orm::JsonValue>,
    preferred: bool,
    sample: bool,
    tp: Option<i32>,
    fp: Option<i32>,
    #[sea_orm(from_alias = "fn")]
    fn_: Option<i32>,
    tn: Option<i32>,
}

impl From<&Model> for Membership {
    fn from(row: &Model) -> Self {
        Self {
            id: row.id,
            test_id: row.test_id,
            study_id: row.study_id,
            condition_id: row.condition_id,
            people_group: row.people_group.clone(),
            together: row.together.clone(),
            preferred: row.preferred,
            sample: row.sample,
            tp: row.tp,
            fp: row.fp,
            fn_: row.fn_,
            tn: row.tn,
        }
    }
}

/// The counts that enter the pools of all tests, or of some, in the order of [`list_results`] and without their texts: lists need no
/// more.
///
/// # Errors
/// Database errors.
pub async fn list_counts(db: &impl ConnectionTrait, tests: Option<&[Uuid]>) -> Result<Vec<ResultCounts>, StoreError> {
    let found = Entity::find();
    let found = match tests {
        Some(tests) => found.filter(Column::TestId.is_in(tests.iter().copied())),
        None => found,
    };
    let rows: Vec<Membership> = found
        .select_only()
        .columns([
            Column::Id,
            Column::TestId,
            Column::StudyId,
            Column::ConditionId,
            Column::PeopleGroup,
            Column::Together,
            Column::Preferred,
            Column::Sample,
            Column::Tp,
            Column::Fp,
            Column::Fn,
            Column::Tn,
        ])
        .filter(Column::DeletedAt.is_null())
        .order_by_asc(Column::CreatedAt)
        .order_by_asc(Column::Id)
        .into_model()
        .all(db)
        .await?;
    let why = left_out_of(db, &rows).await?;
    let pooled = rows.into_iter().zip(why).filter(|(_, why)| why.is_none());
    let counts = |(row, _): (Membership, _)| {
        let counts = stored_counts(row.id, [row.tp, row.fp, row.fn_, row.tn])?;
        Ok(ResultCounts { test_id: row.test_id, sample: row.sample, counts })
    };
    pooled.map(counts).collect()
}

/// Why each of these results is not in the pool of its test; all results of each test that is among them.
async fn left_out_of(db: &impl ConnectionTrait, rows: &[Membership]) -> Result<Vec<Option<NotPooled>>, StoreError> {
    let named: HashSet<Uuid> = rows.iter().filter(|row| row.condition_id.is_some()).map(|row| row.test_id).collect();
    let own: HashMap<Uuid, Uuid> = if named.is_empty() {
        HashMap::new()
    } else {
        let found = test::Entity::find().select_only().columns([test::Column::Id, test::Column::ConditionId]);
        let found = found.filter(test::Column::Id.is_in(named)).into_tuple::<(Uuid, Uuid)>();
        found.all(db).await?.into_iter().collect()
    };
    let mut by_test: HashMap<Uuid, Vec<usize>> = HashMap::new();
    for (index, row) in rows.iter().enumerate() {
        by_test.entry(row.test_id).or_default().push(index);
    }
    let mut out = vec![None; rows.len()];
    for (test, places) in by_test {
        let candidates: Vec<Candidate<'_>> = places
            .iter()
            .map(|place| &rows[*place])
            .map(|row| Candidate {
                study: row.study_id,
                group: &row.people_group,
                preferred: row.preferred,
                other_condition: row.condition_id.is_some_and(|id| own.get(&test) != Some(&id)),
                together: row.together.is_some(),
            })
            .collect();
        for (place, why) in places.into_iter().zip(left_out(&candidates)) {
            out[place] = why;
        }
    }
    Ok(out)
}

/// Results of a test, deleted ones included, each with its study.
///
/// # Errors
/// Database errors.
pub async fn results_of(db: &impl ConnectionTrait, test: Uuid) -> Result<Vec<(Uuid, Uuid)>, StoreError> {
    let results = Entity::find().select_only().columns([Column::Id, Column::StudyId]).filter(Column::TestId.eq(test));
    Ok(results.into_tuple().all(db).await?)
}

/// The tests that these results are about, deleted results included.
///
/// # Errors
/// Database errors.
pub async fn tests_of(db: &impl ConnectionTrait, results: &[Uuid]) -> Result<Vec<Uuid>, StoreError> {
    let tests = Entity::find()
        .select_only()
        .column(Column::TestId)
        .distinct()
        .filter(Column::Id.is_in(results.iter().copied()));
    Ok(tests.into_tuple().all(db).await?)
}

/// A result that is to be added.
#[derive(Debug, Clone, Copy)]
pub struct NewResult<'a> {
    /// The test it is about.
    pub test_id: Uuid,
    /// The study it is of.
    pub study_id: Uuid,
    /// What it reports.
    pub result: &'a AccuracyResult,
    /// It is made up.
    pub sample: bool,
}

/// Adds results in this order; call within a transaction. Whether they fit their studies was checked.
///
/// # Errors
/// [`StoreError::NotFound`] without that test, [`StoreError::Fields`] for other tests that are not on record, database errors.
pub async fn create_results(
    db: &impl ConnectionTrait,
    results: &[NewResult<'_>],
    act: Act<'_>,
) -> Result<Vec<ResultRecord>, StoreError> {
    alone(db).await?;
    check_tests(db, results.iter().map(|it| (it.test_id, it.result.together.as_ref()))).await?;
    let named = results.iter().map(|it| (it.test_id, it.result.condition.as_str()));
    let conditions = condition_ids(db, named, act).await?;
    let mut added = Vec::with_capacity(results.len());
    for portion in results.chunks(PORTION) {
        let rows = portion.iter().map(|it| ActiveModel {
            id: Set(Uuid::now_v7()),
            test_id: Set(it.test_id),
            study_id: Set(it.study_id),
            sample: Set(it.sample),
            version: Set(1),
            created_at: Set(Utc::now()),
            ..row(it.result, conditions.of(it.test_id, &it.result.condition))
        });
        match Entity::insert_many(rows).exec_with_returning(db).await {
            Ok(rows) => added.extend(rows),
            Err(error) if matches!(error.sql_err(), Some(SqlErr::ForeignKeyConstraintViolation(_))) => {
                let id = portion.first().map_or(Uuid::nil(), |it| it.test_id);
                return Err(StoreError::NotFound { what: "test", id });
            }
            Err(error) => return Err(error.into()),
        }
    }
    let names = condition_names(db, added.iter().filter_map(|row| row.condition_id)).await?;
    let records = added.into_iter().map(|row| record(row, &names, None)).collect::<Result<Vec<_>, _>>()?;
    let versions: Vec<_> = records.iter().map(|record| (record.id, record.version, &record.result)).collect();
    keep_all(db, Kind::Result, &versions, act).await?;
    Ok(records)
}

/// Adds a result to a test, with its study if that is new; call within a transaction.
///
/// # Errors
/// As [`create_results`]; [`StoreError::Fields`] when its study examined fewer people, [`StoreError::Conflict`] when its study was
/// changed meanwhile.
pub async fn create_result(
    db: &impl ConnectionTrait,
    test_id: Uuid,
    of: &OfStudy,
    result: &AccuracyResult,
    act: Act<'_>,
) -> Result<ResultRecord, StoreError> {
    let study = put_study(db, of, act).await?;
    fitting(result, &study)?;
    // What is found in made-up people is made up.
    let new = NewResult { test_id, study_id: study.id, result, sample: study.sample };
    let added = create_results(db, &[new], act).await?;
    let added = added.into_iter().next().ok_or(StoreError::NotFound { what: "test", id: test_id })?;
    prefer(db, &added, act).await?;
    get_result(db, added.id).await
}

/// Saves a result that was read at `version`, and its study if something is said of that; call within a transaction.
///
/// # Errors
/// As [`create_result`]; [`StoreError::Conflict`], [`StoreError::NotFound`].
pub async fn update_result(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    of: Option<&OfStudy>,
    result: &AccuracyResult,
    act: Act<'_>,
) -> Result<ResultRecord, StoreError> {
    let old = locked(db, id, version, false).await?;
    let study = match of {
        Some(of) => put_study(db, of, act).await?,
        None => get_studies(db, [old.study_id])
            .await?
            .remove(&old.study_id)
            .ok_or(StoreError::NotFound { what: "study", id: old.study_id })?,
    };
    fitting(result, &study)?;
    check_tests(db, std::iter::once((old.test_id, result.together.as_ref()))).await?;
    let conditions = condition_ids(db, std::iter::once((old.test_id, result.condition.as_str())), act).await?;
    let changed = ActiveModel {
        id: Set(id),
        study_id: Set(study.id),
        sample: Set(old.sample || study.sample),
        version: Set(version + 1),
        ..row(result, conditions.of(old.test_id, &result.condition))
    };
    let saved = kept(db, changed, act).await?;
    if old.study_id != study.id {
        let_go(db, old.study_id, act).await?;
    }
    prefer(db, &saved, act).await?;
    get_result(db, saved.id).await
}

/// Marks a result as deleted, or brings it back; call within a transaction. A study goes with its last result and comes back with it.
///
/// # Errors
/// As [`update_result`]; one that is deleted already, or not deleted, is not found.
pub async fn set_result_deleted(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    deleted: bool,
    act: Act<'_>,
) -> Result<ResultRecord, StoreError> {
    let old = locked(db, id, version, !deleted).await?;
    let changed = ActiveModel {
        id: Set(id),
        version: Set(version + 1),
        updated_at: Set(Utc::now()),
        deleted_at: Set(deleted.then(Utc::now)),
        ..Default::default()
    };
    let saved = kept(db, changed, act).await?;
    if deleted {
        let_go(db, old.study_id, act).await?;
        return Ok(saved);
    }
    take_back(db, old.study_id, act).await?;
    prefer(db, &saved, act).await?;
    get_result(db, saved.id).await
}

/// Of the results of one study at one test only the last that was preferred stays so.
async fn prefer(db: &impl ConnectionTrait, chosen: &ResultRecord, act: Act<'_>) -> Result<(), StoreError> {
    if !chosen.result.preferred {
        return Ok(());
    }
    let others = Entity::find()
        .filter(Column::TestId.eq(chosen.test_id))
        .filter(Column::StudyId.eq(chosen.study_id))
        .filter(Column::Id.ne(chosen.id))
        .filter(Column::Preferred.eq(true))
        .filter(Column::DeletedAt.is_null());
    for other in others.all(db).await? {
        let changed = ActiveModel {
            id: Set(other.id),
            version: Set(other.version + 1),
            preferred: Set(false),
            updated_at: Set(Utc::now()),
            ..Default::default()
        };
        kept(db, changed, Act { action: "edited", ..act }).await?;
    }
    Ok(())
}

/// Writes a row, and keeps its version in the history.
async fn kept(db: &impl ConnectionTrait, row: ActiveModel, act: Act<'_>) -> Result<ResultRecord, StoreError> {
    let row = row.update(db).await?;
    let names = condition_names(db, row.condition_id.into_iter()).await?;
    let record = record(row, &names, None)?;
    keep(db, Kind::Result, record.id, record.version, &record.result, act).await?;
    Ok(record)
}

async fn locked(db: &impl ConnectionTrait, id: Uuid, version: i32, deleted: bool) -> Result<Model, StoreError> {
    alone(db).await?;
    let row = Entity::find_by_id(id).lock_exclusive().one(db).await?;
    let row =
        row.filter(|row| row.deleted_at.is_some() == deleted).ok_or(StoreError::NotFound { what: "result", id })?;
    if row.version == version { Ok(row) } else { Err(StoreError::Conflict { what: "result", current: row.version }) }
}

fn fitting(result: &AccuracyResult, study: &StudyRecord) -> Result<(), StoreError> {
    result.fits(&study.study).map_err(|error| StoreError::Fields(vec![error.within("study.")]))
}

/// Whether the other tests are on record, and others.
async fn check_tests<'a>(
    db: &impl ConnectionTrait,
    together: impl Iterator<Item = (Uuid, Option<&'a Together>)>,
) -> Result<(), StoreError> {
    let wanted: Vec<(Uuid, Uuid)> = together
        .flat_map(|(test, together)| {
            together.into_iter().flat_map(move |it| it.tests.iter().map(move |id| (test, *id)))
        })
        .collect();
    if wanted.is_empty() {
        return Ok(());
    }
    let known = test::Entity::find().select_only().column(test::Column::Id);
    let ids = wanted.iter().map(|(_, id)| *id);
    let known: HashSet<Uuid> =
        known.filter(test::Column::Id.is_in(ids)).into_tuple().all(db).await?.into_iter().collect();
    let refused = wanted.iter().filter_map(|(test, id)| {
        let (code, message) = match () {
            () if test == id => (FieldErrorCode::Duplicate, "The result stands at this test already."),
            () if !known.contains(id) => (FieldErrorCode::Unknown, "This test is not in the catalogue."),
            () => return None,
        };
        Some(FieldError::new("result.together.tests", code, id, message, "Choose another one."))
    });
    let errors: Vec<FieldError> = refused.collect();
    if errors.is_empty() { Ok(()) } else { Err(StoreError::Fields(errors)) }
}

/// Names of conditions by id.
async fn condition_names(
    db: &impl ConnectionTrait,
    ids: impl Iterator<Item = Uuid>,
) -> Result<HashMap<Uuid, String>, StoreError> {
    let ids: HashSet<Uuid> = ids.collect();
    if ids.is_empty() {
        return Ok(HashMap::new());
    }
    let names = condition::Entity::find().select_only().columns([condition::Column::Id, condition::Column::Name]);
    let names = names.filter(condition::Column::Id.is_in(ids)).into_tuple::<(Uuid, String)>();
    Ok(names.all(db).await?.into_iter().collect())
}

/// Ids of the conditions that results name, in the region of their tests.
#[derive(Default)]
struct Conditions {
    regions: HashMap<Uuid, (String, Uuid)>,
    ids: HashMap<(String, String), Uuid>,
}

impl Conditions {
    /// None when the result is about the condition of its sheet.
    fn of(&self, test: Uuid, name: &str) -> Option<Uuid> {
        let (region, own) = self.regions.get(&test)?;
        self.ids.get(&(region.clone(), name_key(name))).copied().filter(|id| id != own)
    }
}

/// A condition that the region does not know yet is added to it, as it is for a sheet.
async fn condition_ids<'a>(
    db: &impl ConnectionTrait,
    named: impl Iterator<Item = (Uuid, &'a str)>,
    act: Act<'_>,
) -> Result<Conditions, StoreError> {
    let named: Vec<(Uuid, &str)> = named.filter(|(_, name)| !name.is_empty()).collect();
    let mut conditions = Conditions::default();
    if named.is_empty() {
        return Ok(conditions);
    }
    let tests =
        test::Entity::find().select_only().columns([test::Column::Id, test::Column::Region, test::Column::ConditionId]);
    let wanted: HashSet<Uuid> = named.iter().map(|(test, _)| *test).collect();
    let tests = tests.filter(test::Column::Id.is_in(wanted)).into_tuple::<(Uuid, String, Uuid)>();
    conditions.regions = tests.all(db).await?.into_iter().map(|(id, region, own)| (id, (region, own))).collect();
    for (test, name) in named {
        let Some((code, _)) = conditions.regions.get(&test) else { continue };
        let key = (code.clone(), name_key(name));
        let Some(region) = Region::from_code(code).filter(|_| !conditions.ids.contains_key(&key)) else { continue };
        let condition = Condition { region, name: name.to_owned(), setting: String::new(), pre_test: None };
        let (id, _) = put_condition(db, &condition, act).await?;
        conditions.ids.insert(key, id);
    }
    Ok(conditions)
}

fn row(result: &AccuracyResult, condition_id: Option<Uuid>) -> ActiveModel {
    // Count::MAX is far below i32::MAX.
    let cells = result.counts.cells().map(|cell| Set(cell.and_then(|count| i32::try_from(count).ok())));
    let [tp, fp, fn_, tn] = cells;
    ActiveModel {
        condition_id: Set(condition_id),
        variant: Set(result.variant.clone()),
        criterion: Set(result.criterion.clone()),
        stage: Set(result.stage.clone()),
        people_group: Set(result.group.clone()),
        reference_standard: Set(result.reference_standard.clone()),
        unit: Set(result.unit.map(|unit| unit_code(unit).to_owned())),
        together: Set(result.together.as_ref().map(|it| serde_json::json!(it))),
        preferred: Set(result.preferred),
        page: Set(result.page.clone()),
        note: Set(result.note.clone()),
        tp,
        fp,
        fn_,
        tn,
        updated_at: Set(Utc::now()),
        ..Default::default()
    }
}

fn unit_code(unit: Unit) -> &'static str {
    match unit {
        Unit::Person => "person",
        Unit::Side => "side",
    }
}

pub(super) fn unit_of(row: &Model) -> Option<Unit> {
    let code = row.unit.as_deref()?;
    [Unit::Person, Unit::Side].into_iter().find(|unit| unit_code(*unit) == code)
}

pub(super) fn counts_of(row: &Model) -> Result<Counts, StoreError> {
    stored_counts(row.id, [row.tp, row.fp, row.fn_, row.tn])
}

fn stored_counts(id: Uuid, cells: [Option<i32>; 4]) -> Result<Counts, StoreError> {
    let [tp, fp, fn_, tn] = cells.map(|cell| cell.map(f64::from));
    Counts::check(RawCounts { tp, fp, fn_, tn }).map_err(|errors| {
        let why = errors.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ");
        StoreError::Damaged { what: "result", id, why }
    })
}

fn record(
    row: Model,
    conditions: &HashMap<Uuid, String>,
    left_out: Option<NotPooled>,
) -> Result<ResultRecord, StoreError> {
    let (counts, unit) = (counts_of(&row)?, unit_of(&row));
    let damaged = |error: serde_json::Error| StoreError::Damaged { what: "result", id: row.id, why: error.to_string() };
    let together = row.together.map(serde_json::from_value).transpose().map_err(damaged)?;
    Ok(ResultRecord {
        id: row.id,
        test_id: row.test_id,
        study_id: row.study_id,
        version: row.version,
        sample: row.sample,
        left_out,
        result: AccuracyResult {
            variant: row.variant,
            criterion: row.criterion,
            condition: row.condition_id.and_then(|id| conditions.get(&id).cloned()).unwrap_or_default(),
            stage: row.stage,
            group: row.people_group,
            reference_standard: row.reference_standard,
            unit,
            together,
            preferred: row.preferred,
            page: row.page,
            note: row.note,
            counts,
        },
    })
}
