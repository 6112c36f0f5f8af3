//! Target conditions, region by region.

use pruvex_core::catalogue::{Condition, Region, name_key};
use pruvex_core::{FieldError, FieldErrorCode, Probability};
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, QueryFilter, QueryOrder,
    QuerySelect, Select,
};
use uuid::Uuid;

use crate::StoreError;
use crate::entities::condition;
use crate::history::{Act, Kind, alone, contents, keep};

/// A stored condition.
#[derive(Debug, Clone, PartialEq)]
pub struct ConditionRecord {
    /// Id.
    pub id: Uuid,
    /// Rises by one with every save.
    pub version: i32,
    /// The condition.
    pub condition: Condition,
}

/// Conditions by name.
///
/// # Errors
/// Database errors.
pub async fn list_conditions(db: &impl ConnectionTrait) -> Result<Vec<ConditionRecord>, StoreError> {
    let rows = condition::Entity::find().order_by_asc(condition::Column::NameKey).all(db).await?;
    rows.into_iter().map(condition_record).collect()
}

/// Names of the conditions of a region that must not be missed, in their order.
///
/// # Errors
/// Database errors.
pub async fn list_must_not_miss(db: &impl ConnectionTrait, region: Region) -> Result<Vec<String>, StoreError> {
    let found = condition::Entity::find()
        .select_only()
        .column(condition::Column::Name)
        .filter(condition::Column::Region.eq(region.code()))
        .filter(condition::Column::MustNotMiss.eq(true))
        .order_by_asc(condition::Column::NameKey);
    Ok(found.into_tuple().all(db).await?)
}

/// One condition.
///
/// # Errors
/// [`StoreError::NotFound`], database errors.
pub async fn get_condition(db: &impl ConnectionTrait, id: Uuid) -> Result<ConditionRecord, StoreError> {
    let row = condition::Entity::find_by_id(id).one(db).await?;
    condition_record(row.ok_or(StoreError::not_found("condition", id))?)
}

/// The condition of this name in a region, if it has one.
///
/// # Errors
/// Database errors.
pub async fn find_condition(
    db: &impl ConnectionTrait,
    region: Region,
    name: &str,
) -> Result<Option<ConditionRecord>, StoreError> {
    named(&Condition::named(region, name)).one(db).await?.map(condition_record).transpose()
}

/// Adds a condition or, when the region has one of that name, completes it: what is known there already stays. Answers its id, and
/// whether anything was written. Call within a transaction.
///
/// # Errors
/// Database errors.
pub async fn put_condition(
    db: &impl ConnectionTrait,
    condition: &Condition,
    act: Act<'_>,
) -> Result<(Uuid, bool), StoreError> {
    let mut found = named(condition).one(db).await?;
    if found.is_none() {
        // Two that miss it at once must not both add it.
        alone(db).await?;
        found = named(condition).one(db).await?;
    }
    match found {
        None => add(db, condition, act).await.map(|id| (id, true)),
        Some(row) => {
            let known = condition_record(row)?;
            let completed = known.condition.completed_by(condition);
            if completed == known.condition {
                return Ok((known.id, false));
            }
            update_condition(db, known.id, known.version, &completed, act).await.map(|record| (record.id, true))
        }
    }
}

/// Adds a condition; call within a transaction.
///
/// # Errors
/// [`StoreError::Fields`] when the region has one of that name, database errors.
pub async fn create_condition(
    db: &impl ConnectionTrait,
    condition: &Condition,
    act: Act<'_>,
) -> Result<ConditionRecord, StoreError> {
    alone(db).await?;
    free_condition(db, Uuid::nil(), condition).await?;
    let id = add(db, condition, act).await?;
    Ok(ConditionRecord { id, version: 1, condition: condition.clone() })
}

async fn add(db: &impl ConnectionTrait, condition: &Condition, act: Act<'_>) -> Result<Uuid, StoreError> {
    let id = Uuid::now_v7();
    let added = condition::ActiveModel { region: Set(condition.region.code().to_owned()), ..row(id, 1, condition)? };
    added.insert(db).await?;
    keep(db, Kind::Condition, id, 1, condition, act).await?;
    Ok(id)
}

/// Those of its region and name: one or none.
fn named(condition: &Condition) -> Select<condition::Entity> {
    condition::Entity::find()
        .filter(condition::Column::Region.eq(condition.region.code()))
        .filter(condition::Column::NameKey.eq(name_key(&condition.name)))
}

/// Brings back what an earlier version of a condition said, as a new one; call within a transaction.
///
/// # Errors
/// As [`update_condition`]; [`StoreError::NotFound`] also without that version.
pub(crate) async fn restore_condition(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    earlier: i32,
    act: Act<'_>,
) -> Result<ConditionRecord, StoreError> {
    let said = contents(db, Kind::Condition, &[(id, earlier)]).await?.pop();
    let (_, said) = said.ok_or(StoreError::not_found("version of the condition", id))?;
    let condition: Condition = serde_json::from_value(said).map_err(|error| damaged(id, error.to_string()))?;
    update_condition(db, id, version, &condition, act).await
}

/// Saves a condition that was read at `version`; tests of which it is the leading one follow a new name. Call within a transaction.
///
/// # Errors
/// [`StoreError::Conflict`] when it was saved meanwhile, [`StoreError::NotFound`], [`StoreError::Fields`].
pub async fn update_condition(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    condition: &Condition,
    act: Act<'_>,
) -> Result<ConditionRecord, StoreError> {
    alone(db).await?;
    let found = condition::Entity::find_by_id(id).lock_exclusive().one(db).await?;
    let old = found.ok_or(StoreError::not_found("condition", id))?;
    if old.version != version {
        return Err(StoreError::Conflict { what: "condition", current: old.version });
    }
    if old.region != condition.region.code() {
        let (message, remedy) = ("A condition stays in its region.", "Add another one there.");
        let error = FieldError::new("region", FieldErrorCode::Invalid, condition.region.code(), message, remedy);
        return Err(StoreError::Fields(vec![error]));
    }
    free_condition(db, id, condition).await?;
    let version = version + 1;
    row(id, version, condition)?.update(db).await?;
    keep(db, Kind::Condition, id, version, condition, act).await?;
    Ok(ConditionRecord { id, version, condition: condition.clone() })
}

async fn free_condition(db: &impl ConnectionTrait, id: Uuid, condition: &Condition) -> Result<(), StoreError> {
    if named(condition).filter(condition::Column::Id.ne(id)).one(db).await?.is_none() {
        return Ok(());
    }
    let message = "This region already has a condition of this name.";
    let remedy = "Choose another name, or edit the one that is there.";
    Err(StoreError::Fields(vec![FieldError::new("name", FieldErrorCode::Duplicate, &condition.name, message, remedy)]))
}

/// The columns that saving writes; a condition stays in its region.
fn row(id: Uuid, version: i32, condition: &Condition) -> Result<condition::ActiveModel, StoreError> {
    let prevalence = serde_json::to_value(&condition.prevalence);
    Ok(condition::ActiveModel {
        id: Set(id),
        name: Set(condition.name.clone()),
        name_key: Set(name_key(&condition.name)),
        setting: Set(condition.setting.clone()),
        pre_test: Set(condition.pre_test.map(Probability::get)),
        prevalence: Set(prevalence.map_err(|error| damaged(id, error.to_string()))?),
        must_not_miss: Set(condition.must_not_miss),
        version: Set(version),
        ..Default::default()
    })
}

fn damaged(id: Uuid, why: String) -> StoreError {
    StoreError::Damaged { what: "condition", id, why }
}

fn condition_record(row: condition::Model) -> Result<ConditionRecord, StoreError> {
    let damaged = |why: String| damaged(row.id, why);
    let region = Region::from_code(&row.region).ok_or_else(|| damaged("unknown region".to_owned()))?;
    let pre_test = row.pre_test.map(Probability::new).transpose().map_err(|error| damaged(error.to_string()))?;
    let prevalence = serde_json::from_value(row.prevalence).map_err(|error| damaged(error.to_string()))?;
    Ok(ConditionRecord {
        id: row.id,
        version: row.version,
        condition: Condition {
            region,
            name: row.name,
            setting: row.setting,
            pre_test,
            prevalence,
            must_not_miss: row.must_not_miss,
        },
    })
}
