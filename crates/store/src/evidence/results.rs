//! Results of accuracy: what a study found about a test.

use std::collections::{HashMap, HashSet};

use chrono::Utc;
use pruvex_core::accuracy::{Counts, Flow, LevelCounts};
use pruvex_core::catalogue::{Condition, Region, name_key};
use pruvex_core::evidence::{AccuracyResult, Candidate, OfTest, Together};
use pruvex_core::{FieldError, FieldErrorCode, ResultId, StudyId, TestId};
use sea_orm::sea_query::Expr;
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, Condition as Filter, ConnectionTrait, EntityTrait,
    FromQueryResult, JsonValue, QueryFilter, QueryOrder, QuerySelect,
};
use uuid::Uuid;

use super::own_records::{own_record_studies, takes_results};
use super::result_rows::{ResultRecord, record};
use super::seen::Seen;
use super::studies::{OfStudy, StudyRecord, get_studies, let_go, put_study, take_back};
use crate::StoreError;
use crate::among::among;
use crate::condition::put_condition;
use crate::constraint::refused;
use crate::entities::accuracy_result::{ActiveModel, Column, Entity, Model};
use crate::entities::accuracy_result::{stored_counts, stored_flow, stored_levels};
use crate::entities::{condition, test};
use crate::history::{Act, Kind, PORTION, alone, keep, keep_all};

/// Results of these tests, deleted ones left out, in the order they were entered.
///
/// # Errors
/// Database errors.
pub async fn list_results(
    db: &impl ConnectionTrait,
    tests: &[TestId],
    seen: Seen,
) -> Result<Vec<ResultRecord>, StoreError> {
    list_seen(db, Filter::all().add(among(Column::TestId, tests.iter().map(|id| id.0))), seen).await
}

/// Results of several tests read together that stand at one of these tests or name one of them, in the order they were entered.
///
/// # Errors
/// Database errors.
pub async fn list_together(
    db: &impl ConnectionTrait,
    tests: &[TestId],
    seen: Seen,
) -> Result<Vec<ResultRecord>, StoreError> {
    let named = |test: &TestId| Expr::cust_with_values("together->'tests' @> to_jsonb($1::text)", [test.to_string()]);
    let one_of_them = tests
        .iter()
        .fold(Filter::any().add(among(Column::TestId, tests.iter().map(|id| id.0))), |any, test| any.add(named(test)));
    list_seen(db, Filter::all().add(Column::Together.is_not_null()).add(one_of_them), seen).await
}

/// Results that are not deleted and that somebody may see, in the order they were entered.
async fn list_seen(db: &impl ConnectionTrait, which: Filter, seen: Seen) -> Result<Vec<ResultRecord>, StoreError> {
    let rows = Entity::find()
        .filter(which)
        .filter(Column::DeletedAt.is_null())
        .filter(seen.condition("accuracy_result", Kind::Result))
        .order_by_asc(Column::CreatedAt)
        .order_by_asc(Column::Id)
        .all(db)
        .await?;
    let names = condition_names(db, rows.iter().filter_map(|row| row.condition_id)).await?;
    rows.into_iter().map(|row| record(row, &names)).collect()
}

/// One result that is not deleted.
///
/// # Errors
/// [`StoreError::NotFound`], database errors.
pub async fn get_result(db: &impl ConnectionTrait, id: ResultId) -> Result<ResultRecord, StoreError> {
    let row = Entity::find_by_id(id.0).filter(Column::DeletedAt.is_null()).one(db).await?;
    let row = row.ok_or(StoreError::not_found("result", id))?;
    let names = condition_names(db, row.condition_id.into_iter()).await?;
    record(row, &names)
}

/// A result as far as pools need to know it, without its texts.
#[derive(Debug, Clone, PartialEq)]
pub struct ResultCandidate {
    /// The test it is about.
    pub test_id: TestId,
    /// The study it is of.
    pub study_id: StudyId,
    /// Which of the study's people; empty for all.
    pub group: String,
    /// The condition that it names, when it is not that of its test.
    pub condition: String,
    /// It is about several tests.
    pub together: bool,
    /// It is of somebody's own examinations.
    pub own_records: bool,
    /// Of several results of the same people this one is chosen.
    pub preferred: bool,
    /// Made up.
    pub sample: bool,
    /// The four cells.
    pub counts: Counts,
    /// Counts per level of the finding, if it gives them.
    pub levels: Vec<LevelCounts>,
    /// Who is in none of them.
    pub flow: Flow,
}

impl ResultCandidate {
    /// As far as it decides whether the pool of its sheet takes it.
    #[must_use]
    pub fn of_test(&self) -> OfTest<'_> {
        let candidate = Candidate { study: self.study_id, group: &self.group, preferred: self.preferred };
        OfTest { condition: &self.condition, together: self.together, own_records: self.own_records, candidate }
    }
}

/// A row of it.
#[derive(Debug, FromQueryResult)]
struct CandidateRow {
    id: Uuid,
    test_id: Uuid,
    study_id: Uuid,
    condition_id: Option<Uuid>,
    people_group: String,
    together: bool,
    preferred: bool,
    sample: bool,
    tp: Option<i32>,
    fp: Option<i32>,
    #[sea_orm(from_alias = "fn")]
    fn_: Option<i32>,
    tn: Option<i32>,
    levels: Option<JsonValue>,
    positive_unverified: Option<i32>,
    negative_unverified: Option<i32>,
    uninterpretable_with: Option<i32>,
    uninterpretable_without: Option<i32>,
    uninterpretable_unverified: Option<i32>,
}

/// The results of all tests, or of some, in the order of [`list_results`] and without their texts: lists need no more.
///
/// # Errors
/// Database errors.
pub async fn list_candidates(
    db: &impl ConnectionTrait,
    tests: Option<&[TestId]>,
    seen: Seen,
) -> Result<Vec<ResultCandidate>, StoreError> {
    let found = Entity::find();
    let found = match tests {
        Some(tests) => found.filter(among(Column::TestId, tests.iter().map(|id| id.0))),
        None => found,
    };
    let rows: Vec<CandidateRow> = found
        .select_only()
        .columns([
            Column::Id,
            Column::TestId,
            Column::StudyId,
            Column::ConditionId,
            Column::PeopleGroup,
            Column::Preferred,
            Column::Sample,
            Column::Tp,
            Column::Fp,
            Column::Fn,
            Column::Tn,
            Column::Levels,
            Column::PositiveUnverified,
            Column::NegativeUnverified,
            Column::UninterpretableWith,
            Column::UninterpretableWithout,
            Column::UninterpretableUnverified,
        ])
        .column_as(Column::Together.is_not_null(), "together")
        .filter(Column::DeletedAt.is_null())
        .filter(seen.condition("accuracy_result", Kind::Result))
        .order_by_asc(Column::CreatedAt)
        .order_by_asc(Column::Id)
        .into_model()
        .all(db)
        .await?;
    let names = condition_names(db, rows.iter().filter_map(|row| row.condition_id)).await?;
    let own_records = own_record_studies(db).await?;
    let candidate = |row: CandidateRow| {
        Ok(ResultCandidate {
            levels: stored_levels(row.id, row.levels)?,
            counts: stored_counts(row.id, [row.tp, row.fp, row.fn_, row.tn])?,
            flow: stored_flow(
                row.id,
                [
                    row.positive_unverified,
                    row.negative_unverified,
                    row.uninterpretable_with,
                    row.uninterpretable_without,
                    row.uninterpretable_unverified,
                ],
            )?,
            test_id: row.test_id.into(),
            study_id: row.study_id.into(),
            condition: row.condition_id.and_then(|id| names.get(&id).cloned()).unwrap_or_default(),
            group: row.people_group,
            together: row.together,
            own_records: own_records.contains(&row.study_id.into()),
            preferred: row.preferred,
            sample: row.sample,
        })
    };
    rows.into_iter().map(candidate).collect()
}

/// Results of a test, deleted ones included, each with its study.
///
/// # Errors
/// Database errors.
pub async fn results_of(db: &impl ConnectionTrait, test: TestId) -> Result<Vec<(ResultId, StudyId)>, StoreError> {
    let found = Entity::find().select_only().columns([Column::Id, Column::StudyId]).filter(Column::TestId.eq(test.0));
    let found = found.into_tuple::<(Uuid, Uuid)>().all(db).await?;
    Ok(found.into_iter().map(|(id, study)| (id.into(), study.into())).collect())
}

/// The tests that these results are about, deleted results included.
///
/// # Errors
/// Database errors.
pub async fn tests_of(db: &impl ConnectionTrait, results: &[ResultId]) -> Result<Vec<TestId>, StoreError> {
    let tests = Entity::find()
        .select_only()
        .column(Column::TestId)
        .distinct()
        .filter(among(Column::Id, results.iter().map(|id| id.0)));
    Ok(tests.into_tuple::<Uuid>().all(db).await?.into_iter().map(TestId::from).collect())
}

/// A result that is to be added.
#[derive(Debug, Clone, Copy)]
pub struct NewResult<'a> {
    /// The test it is about.
    pub test_id: TestId,
    /// The study it is of.
    pub study_id: StudyId,
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
            test_id: Set(it.test_id.0),
            study_id: Set(it.study_id.0),
            sample: Set(it.sample),
            version: Set(1),
            created_at: Set(Utc::now()),
            ..ActiveModel::of(it.result, conditions.of(it.test_id, &it.result.condition))
        });
        let first = portion.first().map(|it| it.test_id).unwrap_or_default();
        let rows = Entity::insert_many(rows).exec_with_returning(db).await;
        added.extend(rows.map_err(|error| refused(error, &first.to_string()))?);
    }
    let names = condition_names(db, added.iter().filter_map(|row| row.condition_id)).await?;
    let records = added.into_iter().map(|row| record(row, &names)).collect::<Result<Vec<_>, _>>()?;
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
    test_id: TestId,
    of: &OfStudy,
    result: &AccuracyResult,
    act: Act<'_>,
) -> Result<ResultRecord, StoreError> {
    let study = put_study(db, of, act).await?;
    fitting(result, &study)?;
    takes_results(db, &study).await?;
    // What is found in made-up people is made up.
    let new = NewResult { test_id, study_id: study.id, result, sample: study.sample };
    let added = create_results(db, &[new], act).await?;
    let added = added.into_iter().next().ok_or(StoreError::not_found("test", test_id))?;
    prefer(db, &added, act).await?;
    get_result(db, added.id).await
}

/// Saves a result that was read at `version`, and its study if something is said of that; call within a transaction.
///
/// # Errors
/// As [`create_result`]; [`StoreError::Conflict`], [`StoreError::NotFound`].
pub async fn update_result(
    db: &impl ConnectionTrait,
    id: ResultId,
    version: i32,
    of: Option<&OfStudy>,
    result: &AccuracyResult,
    act: Act<'_>,
) -> Result<ResultRecord, StoreError> {
    let old = locked(db, id, version, false).await?;
    let study = match of {
        Some(of) => put_study(db, of, act).await?,
        None => {
            let id = StudyId(old.study_id);
            get_studies(db, [id]).await?.remove(&id).ok_or(StoreError::not_found("study", id))?
        }
    };
    fitting(result, &study)?;
    takes_results(db, &study).await?;
    check_tests(db, std::iter::once((old.test_id.into(), result.together.as_ref()))).await?;
    let conditions = condition_ids(db, std::iter::once((old.test_id.into(), result.condition.as_str())), act).await?;
    let changed = ActiveModel {
        id: Set(id.0),
        study_id: Set(study.id.0),
        sample: Set(old.sample || study.sample),
        version: Set(version + 1),
        ..ActiveModel::of(result, conditions.of(old.test_id.into(), &result.condition))
    };
    let saved = kept(db, changed, act).await?;
    if old.study_id != study.id.0 {
        let_go(db, old.study_id.into(), act).await?;
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
    id: ResultId,
    version: i32,
    deleted: bool,
    act: Act<'_>,
) -> Result<ResultRecord, StoreError> {
    let old = locked(db, id, version, !deleted).await?;
    let changed = ActiveModel {
        id: Set(id.0),
        version: Set(version + 1),
        updated_at: Set(Utc::now()),
        deleted_at: Set(deleted.then(Utc::now)),
        ..Default::default()
    };
    let saved = kept(db, changed, act).await?;
    if deleted {
        let_go(db, old.study_id.into(), act).await?;
        return Ok(saved);
    }
    take_back(db, old.study_id.into(), act).await?;
    prefer(db, &saved, act).await?;
    get_result(db, saved.id).await
}

/// Of the results of one study at one test only the last that was preferred stays so.
async fn prefer(db: &impl ConnectionTrait, chosen: &ResultRecord, act: Act<'_>) -> Result<(), StoreError> {
    if !chosen.result.preferred {
        return Ok(());
    }
    let others = Entity::find()
        .filter(Column::TestId.eq(chosen.test_id.0))
        .filter(Column::StudyId.eq(chosen.study_id.0))
        .filter(Column::Id.ne(chosen.id.0))
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
    let record = record(row, &names)?;
    keep(db, Kind::Result, record.id, record.version, &record.result, act).await?;
    Ok(record)
}

async fn locked(db: &impl ConnectionTrait, id: ResultId, version: i32, deleted: bool) -> Result<Model, StoreError> {
    alone(db).await?;
    let row = Entity::find_by_id(id.0).lock_exclusive().one(db).await?;
    let row = row.filter(|row| row.deleted_at.is_some() == deleted).ok_or(StoreError::not_found("result", id))?;
    if row.version == version { Ok(row) } else { Err(StoreError::Conflict { what: "result", current: row.version }) }
}

fn fitting(result: &AccuracyResult, study: &StudyRecord) -> Result<(), StoreError> {
    result.fits(&study.study).map_err(|error| StoreError::Fields(vec![error.within("study.")]))
}

/// Whether the other tests are on record, and others.
async fn check_tests<'a>(
    db: &impl ConnectionTrait,
    together: impl Iterator<Item = (TestId, Option<&'a Together>)>,
) -> Result<(), StoreError> {
    let wanted: Vec<(TestId, TestId)> = together
        .flat_map(|(test, together)| {
            together.into_iter().flat_map(move |it| it.tests.iter().map(move |id| (test, *id)))
        })
        .collect();
    if wanted.is_empty() {
        return Ok(());
    }
    let known = test::Entity::find().select_only().column(test::Column::Id);
    let ids = wanted.iter().map(|(_, id)| id.0);
    let known: HashSet<Uuid> =
        known.filter(among(test::Column::Id, ids)).into_tuple().all(db).await?.into_iter().collect();
    let refused = wanted.iter().filter_map(|(test, id)| {
        let (code, message) = match () {
            () if test == id => (FieldErrorCode::Duplicate, "This test already has the result."),
            () if !known.contains(&id.0) => (FieldErrorCode::Unknown, "This test is not in the catalogue."),
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
    let names = names.filter(among(condition::Column::Id, ids)).into_tuple::<(Uuid, String)>();
    Ok(names.all(db).await?.into_iter().collect())
}

/// Ids of the conditions that results name, in the region of their tests.
#[derive(Default)]
struct Conditions {
    regions: HashMap<TestId, (String, Uuid)>,
    ids: HashMap<(String, String), Uuid>,
}

impl Conditions {
    /// None when the result is about the condition of its sheet.
    fn of(&self, test: TestId, name: &str) -> Option<Uuid> {
        let (region, own) = self.regions.get(&test)?;
        self.ids.get(&(region.clone(), name_key(name))).copied().filter(|id| id != own)
    }
}

/// A condition that the region does not know yet is added to it, as it is for a sheet.
async fn condition_ids<'a>(
    db: &impl ConnectionTrait,
    named: impl Iterator<Item = (TestId, &'a str)>,
    act: Act<'_>,
) -> Result<Conditions, StoreError> {
    let named: Vec<(TestId, &str)> = named.filter(|(_, name)| !name.is_empty()).collect();
    let mut conditions = Conditions::default();
    if named.is_empty() {
        return Ok(conditions);
    }
    let tests =
        test::Entity::find().select_only().columns([test::Column::Id, test::Column::Region, test::Column::ConditionId]);
    let wanted: HashSet<Uuid> = named.iter().map(|(test, _)| test.0).collect();
    let tests = tests.filter(among(test::Column::Id, wanted)).into_tuple::<(Uuid, String, Uuid)>();
    conditions.regions = tests.all(db).await?.into_iter().map(|(id, region, own)| (id.into(), (region, own))).collect();
    for (test, name) in named {
        let Some((code, _)) = conditions.regions.get(&test) else { continue };
        let key = (code.clone(), name_key(name));
        let Some(region) = Region::from_code(code).filter(|_| !conditions.ids.contains_key(&key)) else { continue };
        let (id, _) = put_condition(db, &Condition::named(region, name), act).await?;
        conditions.ids.insert(key, id);
    }
    Ok(conditions)
}
