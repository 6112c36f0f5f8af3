//! Every version of every record: who made it, when, by what, and what it said.

use std::collections::HashMap;

use chrono::{DateTime, Utc};
use sea_orm::sea_query::{Condition, ExprTrait};
use sea_orm::{
    ActiveValue::{NotSet, Set},
    ColumnTrait, ConnectionTrait, DbBackend, DbErr, EntityTrait, PaginatorTrait, QueryFilter, QueryOrder, QuerySelect,
    Statement,
};
use serde::Serialize;
use serde_json::Value;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::StoreError;
use crate::among::among;
use crate::entities::{account, revision};

/// What a history is kept of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = RecordKind)]
pub enum Kind {
    /// Sheets.
    Test,
    /// Studies.
    Study,
    /// Results of accuracy.
    Result,
    /// Structures of the vocabulary.
    Structure,
    /// Target conditions.
    Condition,
    /// Published works.
    Reference,
    /// Agreement results.
    Agreement,
    /// Appraisals of studies.
    Appraisal,
    /// Entries of the register of conflicting teaching.
    TeachingConflict,
    /// Plans of examinations.
    Plan,
    /// What holds for everybody.
    Settings,
}

impl Kind {
    const ALL: [Self; 11] = [
        Self::Test,
        Self::Study,
        Self::Result,
        Self::Structure,
        Self::Condition,
        Self::Reference,
        Self::Agreement,
        Self::Appraisal,
        Self::TeachingConflict,
        Self::Plan,
        Self::Settings,
    ];

    pub(crate) fn code(self) -> &'static str {
        match self {
            Self::Test => "test",
            Self::Study => "study",
            Self::Result => "result",
            Self::Structure => "structure",
            Self::Condition => "condition",
            Self::Reference => "reference",
            Self::Agreement => "agreement",
            Self::Appraisal => "appraisal",
            Self::TeachingConflict => "teaching_conflict",
            Self::Plan => "plan",
            Self::Settings => "settings",
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
    id: impl Into<Uuid>,
    version: i32,
    content: &T,
    act: Act<'_>,
) -> Result<(), StoreError> {
    keep_all(db, kind, &[(id.into(), version, content)], act).await
}

/// Keeps a version of each of these records.
///
/// # Errors
/// Database errors.
pub(crate) async fn keep_all<T: Serialize + Sync>(
    db: &impl ConnectionTrait,
    kind: Kind,
    versions: &[(impl Into<Uuid> + Copy, i32, &T)],
    act: Act<'_>,
) -> Result<(), StoreError> {
    for portion in versions.chunks(PORTION) {
        let rows = portion.iter().map(|(id, version, content)| {
            let id = (*id).into();
            let damaged =
                |error: serde_json::Error| StoreError::Damaged { what: kind.code(), id, why: error.to_string() };
            Ok(revision::ActiveModel {
                seq: NotSet,
                kind: Set(kind.code().to_owned()),
                record_id: Set(id),
                version: Set(*version),
                action: Set(act.action.to_owned()),
                comment: Set(act.comment.to_owned()),
                content: Set(serde_json::to_value(content).map_err(damaged)?),
                account_id: Set(act.by),
                at: Set(Utc::now()),
            })
        });
        let rows = rows.collect::<Result<Vec<_>, StoreError>>()?;
        revision::Entity::insert_many(rows).exec_without_returning(db).await?;
    }
    Ok(())
}

/// Rows written by one statement: far below what PostgreSQL takes, and enough that more would not be faster.
pub(crate) const PORTION: usize = 500;

/// Until the transaction ends no other one changes anything that has a history. Every change begins with it: who locked a row first
/// and then waited for the lock under which revisions draw their numbers could wait for somebody who waits for that row.
///
/// # Errors
/// Database errors.
pub(crate) async fn alone(db: &impl ConnectionTrait) -> Result<(), StoreError> {
    // The lock under which revisions draw their numbers.
    db.execute_unprepared("SELECT pg_advisory_xact_lock(7201126)").await?;
    Ok(())
}

/// A moment in the history of a database.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Moment {
    /// Which history. A restore puts another one in its place, in which the same numbers stand for other changes: it makes the table
    /// anew, and PostgreSQL gives every table that is made an identifier of its own, in the transaction that brings its rows.
    history: i64,
    /// Number of the newest change.
    pub seq: i64,
}

impl Moment {
    /// Whether changes can be counted from that moment to this one.
    #[must_use]
    pub const fn continues(self, other: Self) -> bool {
        self.history == other.history
    }

    /// Whether everything up to that moment is known at this one.
    #[must_use]
    pub const fn covers(self, other: Self) -> bool {
        self.continues(other) && self.seq >= other.seq
    }
}

/// The newest change of anything that has a history. What is read after asking for it is at least as new.
///
/// # Errors
/// Database errors.
pub async fn newest_change(db: &impl ConnectionTrait) -> Result<Moment, StoreError> {
    let newest = "SELECT 'revision'::regclass::oid::bigint, coalesce(max(seq), 0) FROM revision";
    let row = db.query_one_raw(Statement::from_string(DbBackend::Postgres, newest)).await?;
    let read =
        row.map(|row| Ok::<_, DbErr>(Moment { history: row.try_get_by_index(0)?, seq: row.try_get_by_index(1)? }));
    Ok(read.transpose()?.unwrap_or(Moment { history: 0, seq: 0 }))
}

/// Every record that changed after the change of this number.
///
/// # Errors
/// Database errors.
pub async fn changed_since(db: &impl ConnectionTrait, seq: i64) -> Result<Vec<(Kind, Uuid)>, StoreError> {
    let rows: Vec<(String, Uuid)> = revision::Entity::find()
        .select_only()
        .columns([revision::Column::Kind, revision::Column::RecordId])
        .distinct()
        .filter(revision::Column::Seq.gt(seq))
        .into_tuple()
        .all(db)
        .await?;
    let known = |(code, id): (String, Uuid)| Some((Kind::ALL.into_iter().find(|kind| kind.code() == code)?, id));
    Ok(rows.into_iter().filter_map(known).collect())
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
pub async fn list_revisions(
    db: &impl ConnectionTrait,
    kind: Kind,
    id: impl Into<Uuid>,
) -> Result<Vec<Revision>, StoreError> {
    let rows = revision::Entity::find()
        .filter(revision::Column::Kind.eq(kind.code()))
        .filter(revision::Column::RecordId.eq(id.into()))
        .order_by_desc(revision::Column::Version)
        .find_also_related(account::Entity)
        .all(db)
        .await?;
    Ok(rows.into_iter().map(|(row, by)| revised(row, by)).collect())
}

/// Who entered a record, and when.
#[derive(Debug, Clone, PartialEq)]
pub struct Entered {
    /// Their account; none for imports.
    pub account: Option<Uuid>,
    /// Their name.
    pub by: Option<String>,
    /// When.
    pub at: DateTime<Utc>,
}

/// Who entered each of these records.
///
/// # Errors
/// Database errors.
pub async fn entered(
    db: &impl ConnectionTrait,
    kind: Kind,
    records: &[Uuid],
) -> Result<HashMap<Uuid, Entered>, StoreError> {
    if records.is_empty() {
        return Ok(HashMap::new());
    }
    // Without the texts, which nobody asked for.
    let first = revision::Entity::find()
        .select_only()
        .columns([revision::Column::RecordId, revision::Column::AccountId])
        .column(account::Column::Name)
        .column(revision::Column::At)
        .left_join(account::Entity)
        .filter(revision::Column::Kind.eq(kind.code()))
        .filter(revision::Column::Version.eq(1))
        .filter(among(revision::Column::RecordId, records.iter().copied()));
    let entered = |(id, account, by, at)| (id, Entered { account, by, at });
    Ok(first.into_tuple().all(db).await?.into_iter().map(entered).collect())
}

fn revised(row: revision::Model, by: Option<account::Model>) -> Revision {
    Revision {
        version: row.version,
        action: row.action,
        comment: row.comment,
        content: row.content,
        by: by.map(|account| account.name),
        account: row.account_id,
        at: row.at,
    }
}

/// A version beside the one before it.
#[derive(Debug, Clone, PartialEq)]
pub struct Change {
    /// What was changed.
    pub kind: Kind,
    /// Which.
    pub record_id: Uuid,
    /// The version that came about.
    pub revision: Revision,
    /// What the record said before; none for its first version.
    pub before: Option<Value>,
}

/// The newest changes of these kinds, newest first: of some records, or all that people made. At most a few hundred.
///
/// # Errors
/// Database errors.
pub async fn list_changes(
    db: &impl ConnectionTrait,
    kinds: &[Kind],
    records: Option<&[Uuid]>,
) -> Result<Vec<Change>, StoreError> {
    let query = revision::Entity::find().filter(revision::Column::Kind.is_in(kinds.iter().map(|kind| kind.code())));
    let query = match records {
        Some(ids) => query.filter(among(revision::Column::RecordId, ids.iter().copied())),
        None => query.filter(revision::Column::AccountId.is_not_null()),
    };
    let rows = query
        .order_by_desc(revision::Column::Seq)
        .limit(MOST_CHANGES)
        .find_also_related(account::Entity)
        .all(db)
        .await?;
    let mut before: HashMap<(Uuid, i32), Value> = HashMap::new();
    for kind in kinds {
        let of_kind = rows.iter().filter(|(row, _)| row.kind == kind.code() && row.version > 1);
        let wanted: Vec<(Uuid, i32)> = of_kind.map(|(row, _)| (row.record_id, row.version - 1)).collect();
        before.extend(
            versions_at(db, *kind, &wanted).await?.into_iter().map(|row| ((row.record_id, row.version), row.content)),
        );
    }
    let change = |(row, by): (revision::Model, Option<account::Model>)| {
        let kind = Kind::ALL.into_iter().find(|kind| kind.code() == row.kind)?;
        let (record_id, before) = (row.record_id, before.remove(&(row.record_id, row.version - 1)));
        Some(Change { kind, record_id, before, revision: revised(row, by) })
    };
    Ok(rows.into_iter().filter_map(change).collect())
}

/// Who looks further back than this looks for one record.
const MOST_CHANGES: u64 = 300;

/// What records said at given versions, in no order.
///
/// # Errors
/// Database errors.
pub(crate) async fn contents(
    db: &impl ConnectionTrait,
    kind: Kind,
    wanted: &[(Uuid, i32)],
) -> Result<Vec<(Uuid, Value)>, StoreError> {
    Ok(versions_at(db, kind, wanted).await?.into_iter().map(|row| (row.record_id, row.content)).collect())
}

async fn versions_at(
    db: &impl ConnectionTrait,
    kind: Kind,
    wanted: &[(Uuid, i32)],
) -> Result<Vec<revision::Model>, StoreError> {
    let any = wanted.iter().fold(Condition::any(), |any, (id, version)| {
        any.add(revision::Column::RecordId.eq(*id).and(revision::Column::Version.eq(*version)))
    });
    if wanted.is_empty() {
        return Ok(Vec::new());
    }
    Ok(revision::Entity::find().filter(revision::Column::Kind.eq(kind.code())).filter(any).all(db).await?)
}
