//! What is kept of an import, so that it can be listed and taken back as one.

use chrono::Utc;
use sea_orm::{ActiveValue::Set, ConnectionTrait, EntityTrait, FromQueryResult, JsonValue};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::StoreError;
use crate::entities::import;
use crate::history::{Act, newest_change};
use crate::sql::with_values;

/// What kind of file an import read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ImportKind {
    /// A bundle.
    Bundle,
    /// A table of studies and results.
    Table,
    /// A file of references.
    References,
}

impl ImportKind {
    /// Stable code.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Bundle => "bundle",
            Self::Table => "table",
            Self::References => "references",
        }
    }

    pub(crate) fn from_code(code: &str) -> Option<Self> {
        [Self::Bundle, Self::Table, Self::References].into_iter().find(|kind| kind.code() == code)
    }
}

/// Under which id and name an import is kept.
#[derive(Debug, Clone, Copy)]
pub struct Landing<'a> {
    /// Id.
    pub id: Uuid,
    /// Name of the file, or the title that it gives itself.
    pub name: &'a str,
}

/// Numbers of the changes that one transaction made alone.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Since(i64);

impl Since {
    /// From now on; the transaction is alone already.
    pub async fn now(db: &impl ConnectionTrait) -> Result<Self, StoreError> {
        Ok(Self(newest_change(db).await?.seq))
    }
}

#[derive(FromQueryResult)]
struct Counted {
    kind: String,
    added: i64,
    changed: i64,
}

impl Landing<'_> {
    /// Keeps an import with everything that was changed since; one that brought nothing is not kept. Call within its transaction.
    pub(crate) async fn keep(
        &self,
        db: &impl ConnectionTrait,
        kind: ImportKind,
        Since(before): Since,
        extractions: &[Uuid],
        act: Act<'_>,
    ) -> Result<(), StoreError> {
        let last = newest_change(db).await?.seq;
        if last == before && extractions.is_empty() {
            return Ok(());
        }
        const COUNTING: &str = "SELECT kind, count(*) FILTER (WHERE version = 1) AS added,
            count(*) FILTER (WHERE version > 1) AS changed FROM revision WHERE seq BETWEEN $1 AND $2 GROUP BY kind";
        let counted = Counted::find_by_statement(with_values(COUNTING, [(before + 1).into(), last.into()]));
        let mut brought = serde_json::Map::new();
        let mut changed = 0;
        for row in counted.all(db).await? {
            changed += row.changed;
            brought.insert(row.kind, row.added.into());
        }
        brought.insert("changed".to_owned(), changed.into());
        let row = import::ActiveModel {
            id: Set(self.id),
            kind: Set(kind.code().to_owned()),
            name: Set(self.name.to_owned()),
            account_id: Set(act.by),
            at: Set(Utc::now()),
            first_seq: Set(before + 1),
            last_seq: Set(last),
            brought: Set(JsonValue::Object(brought)),
            extractions: Set(serde_json::json!(extractions)),
            taken_back_at: Set(None),
            taken_back_by: Set(None),
        };
        import::Entity::insert(row).exec_without_returning(db).await?;
        Ok(())
    }
}
