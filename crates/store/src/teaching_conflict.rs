//! The register of conflicting teaching.

use chrono::Utc;
use pruvex_core::catalogue::{Region, TeachingConflict, name_key};
use pruvex_core::{FieldError, FieldErrorCode, TestId};
use sea_orm::sea_query::Expr;
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, QueryFilter, QueryOrder, QuerySelect,
};
use uuid::Uuid;

use crate::StoreError;
use crate::catalogue::get_tests;
use crate::entities::teaching_conflict::{ActiveModel, Column, Entity, Model};
use crate::history::{Act, Kind, alone, keep};

/// A stored entry.
#[derive(Debug, Clone, PartialEq)]
pub struct TeachingConflictRecord {
    /// Id.
    pub id: Uuid,
    /// Rises by one with every save.
    pub version: i32,
    /// It is made up.
    pub sample: bool,
    /// What it says.
    pub conflict: TeachingConflict,
}

const WHAT: &str = "entry of the register";

/// Entries in the order in which they were filed, deleted ones left out; of one region, or that name one test, when
/// that is given.
///
/// # Errors
/// Database errors.
pub async fn list_teaching_conflicts(
    db: &impl ConnectionTrait,
    region: Option<Region>,
    test: Option<TestId>,
) -> Result<Vec<TeachingConflictRecord>, StoreError> {
    let mut query = Entity::find().filter(Column::DeletedAt.is_null()).order_by_asc(Column::CreatedAt);
    if let Some(region) = region {
        query = query.filter(Column::Region.eq(region.code()));
    }
    if let Some(test) = test {
        let named = Expr::cust_with_values("content->'tests' @> to_jsonb($1::text)", [test.to_string()]);
        query = query.filter(named);
    }
    query.order_by_asc(Column::Id).all(db).await?.into_iter().map(record).collect()
}

/// Files an entry; call within a transaction.
///
/// # Errors
/// [`StoreError::Fields`] for tests that are not there, or a question that the region has already; database errors.
pub async fn create_teaching_conflict(
    db: &impl ConnectionTrait,
    conflict: &TeachingConflict,
    sample: bool,
    act: Act<'_>,
) -> Result<TeachingConflictRecord, StoreError> {
    alone(db).await?;
    let id = Uuid::now_v7();
    check(db, id, conflict).await?;
    let row = ActiveModel { sample: Set(sample), created_at: Set(Utc::now()), ..row(id, 1, conflict)? };
    let record = record(row.insert(db).await?)?;
    keep(db, Kind::TeachingConflict, id, 1, conflict, act).await?;
    Ok(record)
}

/// Saves an entry that was read at `version`; call within a transaction.
///
/// # Errors
/// As [`create_teaching_conflict`]; [`StoreError::Conflict`] when it was saved meanwhile, [`StoreError::NotFound`].
pub async fn update_teaching_conflict(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    conflict: &TeachingConflict,
    act: Act<'_>,
) -> Result<TeachingConflictRecord, StoreError> {
    locked(db, id, version, false).await?;
    check(db, id, conflict).await?;
    let record = record(row(id, version + 1, conflict)?.update(db).await?)?;
    keep(db, Kind::TeachingConflict, id, record.version, conflict, act).await?;
    Ok(record)
}

/// Marks an entry as deleted, or brings it back; call within a transaction.
///
/// # Errors
/// As [`update_teaching_conflict`]; one that is deleted already, or not deleted, is not found.
pub async fn set_teaching_conflict_deleted(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    deleted: bool,
    act: Act<'_>,
) -> Result<TeachingConflictRecord, StoreError> {
    locked(db, id, version, !deleted).await?;
    let changed = ActiveModel {
        id: Set(id),
        version: Set(version + 1),
        updated_at: Set(Utc::now()),
        deleted_at: Set(deleted.then(Utc::now)),
        ..Default::default()
    };
    let record = record(changed.update(db).await?)?;
    if !deleted {
        check(db, id, &record.conflict).await?;
    }
    keep(db, Kind::TeachingConflict, id, record.version, &record.conflict, act).await?;
    Ok(record)
}

/// Its tests are there, and the region has no other entry with its question.
async fn check(db: &impl ConnectionTrait, id: Uuid, conflict: &TeachingConflict) -> Result<(), StoreError> {
    let mut errors = Vec::new();
    let known = get_tests(db, &conflict.tests).await?;
    for (place, test) in conflict.tests.iter().enumerate() {
        if !known.iter().any(|it| it.id == *test) {
            let field = format!("tests[{place}]");
            let (message, remedy) = ("No test has this id.", "Choose a test of the catalogue.");
            errors.push(FieldError::new(field, FieldErrorCode::Unknown, test, message, remedy));
        }
    }
    let others = list_teaching_conflicts(db, Some(conflict.region), None).await?;
    let key = name_key(&conflict.question);
    if others.iter().any(|it| it.id != id && name_key(&it.conflict.question) == key) {
        let message = "The register asks this question already.";
        let remedy = "Add the claim to the entry that is there.";
        errors.push(FieldError::new("question", FieldErrorCode::Duplicate, &conflict.question, message, remedy));
    }
    if errors.is_empty() { Ok(()) } else { Err(StoreError::Fields(errors)) }
}

async fn locked(db: &impl ConnectionTrait, id: Uuid, version: i32, deleted: bool) -> Result<Model, StoreError> {
    alone(db).await?;
    let row = Entity::find_by_id(id).lock_exclusive().one(db).await?;
    let row = row.filter(|row| row.deleted_at.is_some() == deleted).ok_or(StoreError::NotFound { what: WHAT, id })?;
    if row.version == version { Ok(row) } else { Err(StoreError::Conflict { what: WHAT, current: row.version }) }
}

fn row(id: Uuid, version: i32, conflict: &TeachingConflict) -> Result<ActiveModel, StoreError> {
    let content = serde_json::to_value(conflict);
    let damaged = |error: serde_json::Error| StoreError::Damaged { what: WHAT, id, why: error.to_string() };
    Ok(ActiveModel {
        id: Set(id),
        region: Set(conflict.region.code().to_owned()),
        content: Set(content.map_err(damaged)?),
        version: Set(version),
        updated_at: Set(Utc::now()),
        ..Default::default()
    })
}

fn record(row: Model) -> Result<TeachingConflictRecord, StoreError> {
    let damaged = |error: serde_json::Error| StoreError::Damaged { what: WHAT, id: row.id, why: error.to_string() };
    let conflict = serde_json::from_value(row.content).map_err(damaged)?;
    Ok(TeachingConflictRecord { id: row.id, version: row.version, sample: row.sample, conflict })
}
