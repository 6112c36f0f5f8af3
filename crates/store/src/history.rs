//! Every version of every record: who made it, when, by what, and what it said.

use chrono::{DateTime, Utc};
use sea_orm::sea_query::{Condition, ExprTrait};
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, ConnectionTrait, DbBackend, EntityTrait, PaginatorTrait,
    QueryFilter, QueryOrder, QuerySelect, Statement,
};
use serde::Serialize;
use serde_json::Value;
use uuid::Uuid;

use crate::StoreError;
use crate::entities::{account, revision};

/// What a history is kept of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Kind {
    /// Sheets.
    Test,
    /// Studies.
    Study,
}

impl Kind {
    fn code(self) -> &'static str {
        match self {
            Self::Test => "test",
            Self::Study => "study",
        }
    }
}

/// How a version came about. `by` is empty for imports.
#[derive(Debug, Clone, Copy)]
pub struct Act<'a> {
    /// What was done, as a code: `created`, `edited`, a step's code, `deleted`, `restored`, `imported`.
    pub action: &'a str,
    /// Why, in the words of who did it.
    pub comment: &'a str,
    /// Who.
    pub by: Option<Uuid>,
}

impl<'a> Act<'a> {
    /// An act without a comment.
    #[must_use]
    pub fn of(action: &'a str, by: Option<Uuid>) -> Self {
        Self { action, comment: "", by }
    }
}

/// One version.
#[derive(Debug, Clone, PartialEq)]
pub struct Revision {
    /// The version.
    pub version: i32,
    /// What was done.
    pub action: String,
    /// Why.
    pub comment: String,
    /// What the record said then.
    pub content: Value,
    /// Name of who did it.
    pub by: Option<String>,
    /// Their account.
    pub account: Option<Uuid>,
    /// When.
    pub at: DateTime<Utc>,
}

/// Keeps a version; call within the transaction that makes it.
///
/// # Errors
/// Database errors.
pub(crate) async fn keep<T: Serialize + Sync>(
    db: &impl ConnectionTrait,
    kind: Kind,
    id: Uuid,
    version: i32,
    content: &T,
    act: Act<'_>,
) -> Result<(), StoreError> {
    let content = serde_json::to_value(content).map_err(|error| StoreError::Damaged {
        what: kind.code(),
        id,
        why: error.to_string(),
    })?;
    let row = revision::ActiveModel {
        kind: Set(kind.code().to_owned()),
        record_id: Set(id),
        version: Set(version),
        action: Set(act.action.to_owned()),
        comment: Set(act.comment.to_owned()),
        content: Set(content),
        account_id: Set(act.by),
        at: Set(Utc::now()),
    };
    row.insert(db).await?;
    Ok(())
}

/// A number that is another one after every change of a test or study. What was read after asking for it is at least as new as
/// it says.
///
/// # Errors
/// Database errors.
pub async fn generation(db: &impl ConnectionTrait) -> Result<i64, StoreError> {
    let row = db.query_one_raw(Statement::from_string(DbBackend::Postgres, "SELECT n FROM generation")).await?;
    Ok(row.map(|row| row.try_get_by_index(0)).transpose()?.unwrap_or_default())
}

/// How many records of a kind have a history.
///
/// # Errors
/// Database errors.
pub async fn count(db: &impl ConnectionTrait, kind: Kind) -> Result<u64, StoreError> {
    let first = revision::Entity::find().select_only().column(revision::Column::RecordId).distinct();
    Ok(first.filter(revision::Column::Kind.eq(kind.code())).count(db).await?)
}

/// All versions of a record, the newest first.
///
/// # Errors
/// Database errors.
pub async fn list_revisions(db: &impl ConnectionTrait, kind: Kind, id: Uuid) -> Result<Vec<Revision>, StoreError> {
    let rows = revision::Entity::find()
        .filter(revision::Column::Kind.eq(kind.code()))
        .filter(revision::Column::RecordId.eq(id))
        .order_by_desc(revision::Column::Version)
        .find_also_related(account::Entity)
        .all(db)
        .await?;
    Ok(rows
        .into_iter()
        .map(|(row, by)| Revision {
            version: row.version,
            action: row.action,
            comment: row.comment,
            content: row.content,
            by: by.map(|account| account.name),
            account: row.account_id,
            at: row.at,
        })
        .collect())
}

/// What records said at given versions, in no order.
///
/// # Errors
/// Database errors.
pub(crate) async fn contents(
    db: &impl ConnectionTrait,
    kind: Kind,
    wanted: &[(Uuid, i32)],
) -> Result<Vec<(Uuid, Value)>, StoreError> {
    let any = wanted.iter().fold(Condition::any(), |any, (id, version)| {
        any.add(revision::Column::RecordId.eq(*id).and(revision::Column::Version.eq(*version)))
    });
    if wanted.is_empty() {
        return Ok(Vec::new());
    }
    let rows = revision::Entity::find().filter(revision::Column::Kind.eq(kind.code())).filter(any).all(db).await?;
    Ok(rows.into_iter().map(|row| (row.record_id, row.content)).collect())
}
