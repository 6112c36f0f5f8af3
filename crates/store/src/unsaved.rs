//! What somebody is writing and has not saved: kept as typed, checked by nobody, seen by its writer only.

use chrono::{DateTime, Utc};
use pruvex_core::evidence::Aspect;
use pruvex_core::{FieldError, FieldErrorCode};
use sea_orm::sea_query::OnConflict;
use sea_orm::{ActiveValue::Set, ConnectionTrait, EntityTrait, PrimaryKeyTrait};
use serde_json::Value;
use uuid::Uuid;

use crate::StoreError;
use crate::entities::{accuracy_result, agreement, examination_plan, reference, study, test, unsaved};
use crate::sql::with_values;

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
    /// A plan of an examination: of this one, or a new one.
    Plan(Option<Uuid>),
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
            Self::Plan(id) => ("plan", id.unwrap_or_default()),
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

/// Whether the record is there that something is being written about; new sheets, references and plans are about none.
async fn is_there(db: &impl ConnectionTrait, what: What) -> Result<bool, StoreError> {
    async fn found<E>(db: &impl ConnectionTrait, id: Uuid) -> Result<bool, StoreError>
    where
        E: EntityTrait,
        <E::PrimaryKey as PrimaryKeyTrait>::ValueType: From<Uuid>,
    {
        Ok(E::find_by_id(id).one(db).await?.is_some())
    }
    Ok(match what {
        What::Sheet(None) | What::Reference(None) | What::Plan(None) => true,
        What::Sheet(Some(id)) => found::<test::Entity>(db, id).await?,
        What::Reference(Some(id)) => found::<reference::Entity>(db, id).await?,
        What::Plan(Some(id)) => found::<examination_plan::Entity>(db, id).await?,
        What::Result(id) => found::<accuracy_result::Entity>(db, id).await? || found::<test::Entity>(db, id).await?,
        What::Agreement(id) => found::<agreement::Entity>(db, id).await? || found::<test::Entity>(db, id).await?,
        What::Appraisal(_, id) => found::<study::Entity>(db, id).await?,
    })
}

/// So many texts are kept for one person, and together so much of them.
const MAX_KEPT: (i64, i64) = (200, 24 * 1024 * 1024);

/// What is kept for this account beside one place: how many texts, and their bytes.
async fn kept_beside(
    db: &impl ConnectionTrait,
    account: Uuid,
    what: &str,
    record: Uuid,
) -> Result<(i64, i64), StoreError> {
    let query = "SELECT count(*), coalesce(sum(pg_column_size(content)), 0)::bigint FROM unsaved
        WHERE account_id = $1 AND NOT (what = $2 AND record_id = $3)";
    let values = [account.into(), what.into(), record.into()];
    let row = db.query_one_raw(with_values(query, values)).await?;
    let Some(row) = row else { return Ok((0, 0)) };
    Ok((row.try_get_by_index(0)?, row.try_get_by_index(1)?))
}

/// Keeps it in the place of what was kept before.
///
/// # Errors
/// [`StoreError::NotFound`] of the record it is about, [`StoreError::Fields`] when too much is kept for this account already.
pub async fn put_unsaved(
    db: &impl ConnectionTrait,
    account: Uuid,
    what: What,
    version: Option<i32>,
    content: Value,
) -> Result<(), StoreError> {
    let there = is_there(db, what).await?;
    let (what, record) = what.key();
    if !there {
        return Err(StoreError::not_found("record", record));
    }
    let (texts, bytes) = kept_beside(db, account, &what, record).await?;
    if texts >= MAX_KEPT.0 || bytes >= MAX_KEPT.1 {
        let message =
            format!("{texts} forms of yours that are not saved are kept, of {} KiB; more are not.", bytes / 1024);
        let remedy = "Save or discard some of them.";
        return Err(StoreError::Fields(vec![FieldError::new(
            "content",
            FieldErrorCode::TooLong,
            texts,
            message,
            remedy,
        )]));
    }
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
