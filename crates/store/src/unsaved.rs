//! What somebody is writing and has not saved: kept as typed, checked by nobody, seen by its writer only.

use chrono::{DateTime, Utc};
use pruvex_core::evidence::Aspect;
use sea_orm::sea_query::OnConflict;
use sea_orm::{ActiveValue::Set, ConnectionTrait, EntityTrait};
use serde_json::Value;
use uuid::Uuid;

use crate::StoreError;
use crate::entities::unsaved;

/// What is being written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum What {
    /// A sheet: of this test, or a new one.
    Sheet(Option<Uuid>),
    /// A result: a correction of this one, or a new one of this test.
    Result(Uuid),
    /// An agreement result: a correction of this one, or a new one of this test.
    Agreement(Uuid),
    /// The appraisal of this study.
    Appraisal(Aspect, Uuid),
    /// A reference: a correction of this one, or a new one.
    Reference(Option<Uuid>),
}

impl What {
    fn key(self) -> (String, Uuid) {
        let (what, record) = match self {
            Self::Sheet(test) => ("sheet", test.unwrap_or_default()),
            Self::Result(id) => ("result", id),
            Self::Agreement(id) => ("agreement", id),
            Self::Appraisal(Aspect::Accuracy, study) => ("accuracy-appraisal", study),
            Self::Appraisal(Aspect::Agreement, study) => ("agreement-appraisal", study),
            Self::Reference(id) => ("reference", id.unwrap_or_default()),
        };
        (what.to_owned(), record)
    }
}

/// What was typed.
#[derive(Debug, Clone, PartialEq)]
pub struct Unsaved {
    /// The version it began from; none for a new record.
    pub version: Option<i32>,
    /// What was typed.
    pub content: Value,
    /// When.
    pub at: DateTime<Utc>,
}

/// What this account was writing there.
///
/// # Errors
/// Database errors.
pub async fn get_unsaved(db: &impl ConnectionTrait, account: Uuid, what: What) -> Result<Option<Unsaved>, StoreError> {
    let (what, record) = what.key();
    let row = unsaved::Entity::find_by_id((account, what, record)).one(db).await?;
    Ok(row.map(|unsaved::Model { version, content, at, .. }| Unsaved { version, content, at }))
}

/// Keeps it in the place of what was kept before.
///
/// # Errors
/// Database errors.
pub async fn put_unsaved(
    db: &impl ConnectionTrait,
    account: Uuid,
    what: What,
    version: Option<i32>,
    content: Value,
) -> Result<(), StoreError> {
    let (what, record) = what.key();
    let row = unsaved::ActiveModel {
        account_id: Set(account),
        what: Set(what),
        record_id: Set(record),
        version: Set(version),
        content: Set(content),
        at: Set(Utc::now()),
    };
    let meeting = OnConflict::columns([unsaved::Column::AccountId, unsaved::Column::What, unsaved::Column::RecordId])
        .update_columns([unsaved::Column::Version, unsaved::Column::Content, unsaved::Column::At])
        .to_owned();
    unsaved::Entity::insert(row).on_conflict(meeting).exec_without_returning(db).await?;
    Ok(())
}

/// Forgets it.
///
/// # Errors
/// Database errors.
pub async fn delete_unsaved(db: &impl ConnectionTrait, account: Uuid, what: What) -> Result<(), StoreError> {
    let (what, record) = what.key();
    unsaved::Entity::delete_by_id((account, what, record)).exec(db).await?;
    Ok(())
}
