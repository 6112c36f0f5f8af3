//! Tests, their names and their conditions.

use std::collections::HashMap;

use chrono::Utc;
use pruvex_core::catalogue::{Condition, Purpose, Region, Sheet, name_key};
use pruvex_core::{FieldError, FieldErrorCode, Probability};
use sea_orm::sea_query::{Expr, ExprTrait, Func, OnConflict, Query};
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, FromQueryResult, IntoActiveModel,
    QueryFilter, QueryOrder, QuerySelect,
};
use uuid::Uuid;

use crate::StoreError;
use crate::entities::test::Texts;
use crate::entities::{condition, test, test_name};

/// A stored test.
#[derive(Debug, Clone, PartialEq)]
pub struct TestRecord {
    /// Id.
    pub id: Uuid,
    /// Rises by one with every save.
    pub version: i32,
    /// Came with sample data.
    pub sample: bool,
    /// The sheet.
    pub sheet: Sheet,
}

/// A stored condition.
#[derive(Debug, Clone, PartialEq)]
pub struct ConditionRecord {
    /// Id.
    pub id: Uuid,
    /// The condition.
    pub condition: Condition,
}

/// What the catalogue's list is narrowed to.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct TestFilter {
    /// Only this region.
    pub region: Option<Region>,
    /// Only tests for the condition of this name.
    pub condition: Option<String>,
    /// Part of a name or alias, whatever its case.
    pub search: Option<String>,
}

/// Tests in the order of their names.
///
/// # Errors
/// Database errors.
pub async fn list_tests(db: &impl ConnectionTrait, filter: &TestFilter) -> Result<Vec<TestRecord>, StoreError> {
    let mut query = test::Entity::find().find_also_related(condition::Entity);
    if let Some(region) = filter.region {
        query = query.filter(test::Column::Region.eq(region.code()));
    }
    if let Some(name) = filter.condition.as_deref().filter(|name| !name.is_empty()) {
        query = query.filter(condition::Column::NameKey.eq(name_key(name)));
    }
    if let Some(search) = filter.search.as_deref().map(name_key).filter(|search| !search.is_empty()) {
        let holds = Expr::expr(Func::cust("strpos").arg(Expr::col(test_name::Column::Key)).arg(search)).gt(0);
        let ids = Query::select().column(test_name::Column::TestId).from(test_name::Entity).and_where(holds).to_owned();
        query = query.filter(test::Column::Id.in_subquery(ids));
    }
    records(db, query.all(db).await?).await
}

/// One test.
///
/// # Errors
/// [`StoreError::NotFound`], database errors.
pub async fn get_test(db: &impl ConnectionTrait, id: Uuid) -> Result<TestRecord, StoreError> {
    let rows = test::Entity::find_by_id(id).find_also_related(condition::Entity).all(db).await?;
    records(db, rows).await?.pop().ok_or(StoreError::NotFound { what: "test", id })
}

/// Adds a test; call within a transaction.
///
/// # Errors
/// [`StoreError::Fields`] when a name or alias is taken, database errors.
pub async fn create_test(db: &impl ConnectionTrait, sheet: &Sheet, sample: bool) -> Result<TestRecord, StoreError> {
    let id = Uuid::now_v7();
    check_names(db, id, sheet).await?;
    let now = Utc::now();
    let row =
        test::ActiveModel { created_at: Set(now), version: Set(1), sample: Set(sample), ..row(db, id, sheet).await? };
    row.insert(db).await?;
    insert_names(db, id, sheet).await?;
    Ok(TestRecord { id, version: 1, sample, sheet: sheet.clone() })
}

/// Saves a test that was read at `version`; call within a transaction.
///
/// # Errors
/// [`StoreError::Conflict`] when it was saved meanwhile, [`StoreError::NotFound`], [`StoreError::Fields`].
pub async fn update_test(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    sheet: &Sheet,
) -> Result<TestRecord, StoreError> {
    let found = test::Entity::find_by_id(id).lock_exclusive().one(db).await?;
    let old = found.ok_or(StoreError::NotFound { what: "test", id })?;
    if old.version != version {
        return Err(StoreError::Conflict { what: "test", current: old.version });
    }
    check_names(db, id, sheet).await?;
    let version = version + 1;
    test::ActiveModel { version: Set(version), ..row(db, id, sheet).await? }.update(db).await?;
    test_name::Entity::delete_many().filter(test_name::Column::TestId.eq(id)).exec(db).await?;
    insert_names(db, id, sheet).await?;
    Ok(TestRecord { id, version, sample: old.sample, sheet: sheet.clone() })
}

/// How many tests each region has.
///
/// # Errors
/// Database errors.
pub async fn count_by_region(db: &impl ConnectionTrait) -> Result<HashMap<Region, u64>, StoreError> {
    #[derive(FromQueryResult)]
    struct Row {
        region: String,
        tests: i64,
    }
    let rows = test::Entity::find()
        .select_only()
        .column(test::Column::Region)
        .column_as(test::Column::Id.count(), "tests")
        .group_by(test::Column::Region)
        .into_model::<Row>()
        .all(db)
        .await?;
    let count = |row: Row| Some((Region::from_code(&row.region)?, u64::try_from(row.tests).unwrap_or_default()));
    Ok(rows.into_iter().filter_map(count).collect())
}

/// Whether the catalogue holds no test at all.
///
/// # Errors
/// Database errors.
pub async fn is_empty(db: &impl ConnectionTrait) -> Result<bool, StoreError> {
    Ok(test::Entity::find().limit(1).one(db).await?.is_none())
}

/// Conditions by name.
///
/// # Errors
/// Database errors.
pub async fn list_conditions(db: &impl ConnectionTrait) -> Result<Vec<ConditionRecord>, StoreError> {
    let rows = condition::Entity::find().order_by_asc(condition::Column::NameKey).all(db).await?;
    rows.into_iter().map(condition_record).collect()
}

/// Adds a condition or, when the region has one of that name, completes it. Answers its id.
///
/// # Errors
/// Database errors.
pub async fn put_condition(db: &impl ConnectionTrait, condition: &Condition) -> Result<Uuid, StoreError> {
    let row = condition::ActiveModel {
        id: Set(Uuid::now_v7()),
        region: Set(condition.region.code().to_owned()),
        name: Set(condition.name.clone()),
        name_key: Set(name_key(&condition.name)),
        setting: Set(condition.setting.clone()),
        pre_test: Set(condition.pre_test.map(Probability::get)),
    };
    let mut meeting = OnConflict::columns([condition::Column::Region, condition::Column::NameKey]);
    if condition.pre_test.is_some() {
        meeting.update_columns([condition::Column::Setting, condition::Column::PreTest]);
    } else {
        // A write that changes nothing, so that the row comes back and its id with it.
        meeting.update_column(condition::Column::NameKey);
    }
    let stored = condition::Entity::insert(row).on_conflict(meeting).exec_with_returning(db).await?;
    Ok(stored.id)
}

/// The sheet's columns; the caller adds what differs between adding and saving.
async fn row(db: &impl ConnectionTrait, id: Uuid, sheet: &Sheet) -> Result<test::ActiveModel, StoreError> {
    let named =
        Condition { region: sheet.region, name: sheet.condition.clone(), setting: String::new(), pre_test: None };
    let texts = |list: &Vec<String>| Set(Texts(list.clone()));
    Ok(test::ActiveModel {
        id: Set(id),
        region: Set(sheet.region.code().to_owned()),
        purpose: Set(sheet.purpose.code().to_owned()),
        condition_id: Set(put_condition(db, &named).await?),
        target_structures: texts(&sheet.target_structures),
        patient_position: Set(sheet.patient_position.clone()),
        steps: texts(&sheet.steps),
        positive_finding: Set(sheet.positive_finding.clone()),
        cautions: texts(&sheet.cautions),
        pitfalls: texts(&sheet.pitfalls),
        updated_at: Set(Utc::now()),
        ..Default::default()
    })
}

async fn check_names(db: &impl ConnectionTrait, id: Uuid, sheet: &Sheet) -> Result<(), StoreError> {
    let keys: Vec<String> = sheet.names().map(name_key).collect();
    let taken = test_name::Entity::find()
        .filter(test_name::Column::Key.is_in(keys.clone()))
        .filter(test_name::Column::TestId.ne(id))
        .all(db)
        .await?;
    let errors: Vec<FieldError> = keys
        .iter()
        .enumerate()
        .filter(|(_, key)| taken.iter().any(|name| name.key == **key))
        .map(|(position, _)| taken_name(position, sheet))
        .collect();
    if errors.is_empty() { Ok(()) } else { Err(StoreError::Fields(errors)) }
}

fn taken_name(position: usize, sheet: &Sheet) -> FieldError {
    let field = if position == 0 { "name".to_owned() } else { format!("aliases[{}]", position - 1) };
    FieldError::new(
        field,
        FieldErrorCode::Duplicate,
        sheet.names().nth(position).unwrap_or_default(),
        "Another test already has this name or alias.",
        "Choose a name that tells the two apart, or edit the test that is there.",
    )
}

async fn insert_names(db: &impl ConnectionTrait, id: Uuid, sheet: &Sheet) -> Result<(), StoreError> {
    let rows = sheet.names().enumerate().map(|(position, label)| {
        let name = test_name::Model {
            key: name_key(label),
            test_id: id,
            position: i32::try_from(position).unwrap_or(i32::MAX),
            label: label.to_owned(),
        };
        name.into_active_model()
    });
    match test_name::Entity::insert_many(rows).exec(db).await {
        Ok(_) => Ok(()),
        // Somebody took a name between the check and here.
        Err(error) if error.sql_err().is_some() => Err(StoreError::Fields(vec![taken_name(0, sheet)])),
        Err(error) => Err(error.into()),
    }
}

async fn records(
    db: &impl ConnectionTrait,
    rows: Vec<(test::Model, Option<condition::Model>)>,
) -> Result<Vec<TestRecord>, StoreError> {
    let ids: Vec<Uuid> = rows.iter().map(|(row, _)| row.id).collect();
    let names = test_name::Entity::find()
        .filter(test_name::Column::TestId.is_in(ids))
        .order_by_asc(test_name::Column::Position)
        .all(db)
        .await?;
    let mut by_test: HashMap<Uuid, Vec<String>> = HashMap::new();
    for name in names {
        by_test.entry(name.test_id).or_default().push(name.label);
    }
    let mut records: Vec<TestRecord> = rows
        .into_iter()
        .map(|(row, condition)| {
            let names = by_test.remove(&row.id).unwrap_or_default();
            test_record(row, condition, names)
        })
        .collect::<Result<_, _>>()?;
    records.sort_by_cached_key(|record| name_key(&record.sheet.name));
    Ok(records)
}

fn test_record(
    row: test::Model,
    condition: Option<condition::Model>,
    mut names: Vec<String>,
) -> Result<TestRecord, StoreError> {
    let damaged = |why: &str| StoreError::Damaged { what: "test", id: row.id, why: why.to_owned() };
    if names.is_empty() {
        return Err(damaged("it has no name"));
    }
    let sheet = Sheet {
        name: names.remove(0),
        aliases: names,
        region: Region::from_code(&row.region).ok_or_else(|| damaged("unknown region"))?,
        purpose: Purpose::from_code(&row.purpose).ok_or_else(|| damaged("unknown purpose"))?,
        condition: condition.ok_or_else(|| damaged("no condition"))?.name,
        target_structures: row.target_structures.0,
        patient_position: row.patient_position,
        steps: row.steps.0,
        positive_finding: row.positive_finding,
        cautions: row.cautions.0,
        pitfalls: row.pitfalls.0,
    };
    Ok(TestRecord { id: row.id, version: row.version, sample: row.sample, sheet })
}

fn condition_record(row: condition::Model) -> Result<ConditionRecord, StoreError> {
    let damaged = |why: String| StoreError::Damaged { what: "condition", id: row.id, why };
    let region = Region::from_code(&row.region).ok_or_else(|| damaged("unknown region".to_owned()))?;
    let pre_test = row.pre_test.map(Probability::new).transpose().map_err(|error| damaged(error.to_string()))?;
    Ok(ConditionRecord { id: row.id, condition: Condition { region, name: row.name, setting: row.setting, pre_test } })
}
