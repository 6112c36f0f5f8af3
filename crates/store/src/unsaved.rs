//! Sheets that somebody is writing and has not saved: kept as typed, checked by nobody, seen by their writer only.

use chrono::{DateTime, Utc};
use sea_orm::sea_query::OnConflict;
use sea_orm::{ActiveValue::Set, ConnectionTrait, EntityTrait};
use serde_json::Value;
use uuid::Uuid;

use crate::StoreError;
use crate::entities::unsaved;

/// What was typed.
#[derive(Debug, Clone, PartialEq)]
pub struct Unsaved {
    /// The version it began from; none for a new sheet.
    pub version: Option<i32>,
    /// The sheet as it was typed.
    pub sheet: Value,
    /// When.
    pub at: DateTime<Utc>,
}

/// What this account was writing for a test, or, without one, for a new sheet.
///
/// # Errors
/// Database errors.
pub async fn get_unsaved(
    db: &impl ConnectionTrait,
    account: Uuid,
    test: Option<Uuid>,
) -> Result<Option<Unsaved>, StoreError> {
    let row = unsaved::Entity::find_by_id((account, test.unwrap_or_default())).one(db).await?;
    Ok(row.map(|unsaved::Model { version, sheet, at, .. }| Unsaved { version, sheet, at }))
}

/// Keeps it in the place of what was kept before.
///
/// # Errors
/// Database errors.
pub async fn put_unsaved(
    db: &impl ConnectionTrait,
    account: Uuid,
    test: Option<Uuid>,
    version: Option<i32>,
    sheet: Value,
) -> Result<(), StoreError> {
    let row = unsaved::ActiveModel {
        account_id: Set(account),
        test_id: Set(test.unwrap_or_default()),
        version: Set(version),
        sheet: Set(sheet),
        at: Set(Utc::now()),
    };
    let meeting = OnConflict::columns([unsaved::Column::AccountId, unsaved::Column::TestId])
        .update_columns([unsaved::Column::Version, unsaved::Column::Sheet, unsaved::Column::At])
        .to_owned();
    unsaved::Entity::insert(row).on_conflict(meeting).exec_without_returning(db).await?;
    Ok(())
}

/// Forgets it.
///
/// # Errors
/// Database errors.
pub async fn delete_unsaved(db: &impl ConnectionTrait, account: Uuid, test: Option<Uuid>) -> Result<(), StoreError> {
    unsaved::Entity::delete_by_id((account, test.unwrap_or_default())).exec(db).await?;
    Ok(())
}
