//! Frozen pools: kept as they were, never written again.

use chrono::{DateTime, Utc};
use pruvex_core::TestId;
use pruvex_core::catalogue::Region;
use pruvex_core::evidence::Snapshot;
use sea_orm::sea_query::Expr;
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, QueryFilter, QueryOrder, QueryTrait,
};
use uuid::Uuid;

use crate::StoreError;
use crate::entities::pool_snapshot::{ActiveModel, Column, Entity, Model};
use crate::evidence::names;

/// A frozen pool.
#[derive(Debug, Clone, PartialEq)]
pub struct SnapshotRecord {
    /// Id.
    pub id: Uuid,
    /// What was frozen.
    pub snapshot: Snapshot,
    /// Its hash that day.
    pub hash: String,
    /// Who froze it.
    pub by: Option<String>,
    /// When.
    pub at: DateTime<Utc>,
}

/// Keeps a frozen pool.
///
/// # Errors
/// Database errors.
pub async fn create_snapshot(
    db: &impl ConnectionTrait,
    region: Region,
    snapshot: &Snapshot,
    by: Uuid,
) -> Result<SnapshotRecord, StoreError> {
    let row = ActiveModel {
        id: Set(Uuid::now_v7()),
        region: Set(region.code().to_owned()),
        content: Set(serde_json::json!(snapshot)),
        hash: Set(snapshot.hash()),
        created_by: Set(Some(by)),
        created_at: Set(Utc::now()),
    };
    let added = row.insert(db).await?;
    records(db, vec![added]).await?.pop().ok_or(StoreError::not_found("frozen pool", Uuid::nil()))
}

/// One frozen pool.
///
/// # Errors
/// [`StoreError::NotFound`], database errors.
pub async fn get_snapshot(db: &impl ConnectionTrait, id: Uuid) -> Result<SnapshotRecord, StoreError> {
    let row = Entity::find_by_id(id).one(db).await?.ok_or(StoreError::not_found("frozen pool", id))?;
    records(db, vec![row]).await?.pop().ok_or(StoreError::not_found("frozen pool", id))
}

/// The frozen pools of a region, or all, the newest first.
///
/// # Errors
/// Database errors.
pub async fn list_snapshots(
    db: &impl ConnectionTrait,
    region: Option<Region>,
) -> Result<Vec<SnapshotRecord>, StoreError> {
    let rows = Entity::find()
        .apply_if(region, |rows, region| rows.filter(Column::Region.eq(region.code())))
        .order_by_desc(Column::CreatedAt);
    records(db, rows.order_by_desc(Column::Id).all(db).await?).await
}

/// The frozen pools that a test is in, the newest first.
///
/// # Errors
/// Database errors.
pub async fn list_snapshots_of(db: &impl ConnectionTrait, test: TestId) -> Result<Vec<SnapshotRecord>, StoreError> {
    let of_test = serde_json::json!([{ "id": test }]);
    let rows = Entity::find()
        .filter(Expr::cust_with_values("content->'tests' @> $1", [of_test]))
        .order_by_desc(Column::CreatedAt)
        .order_by_desc(Column::Id);
    records(db, rows.all(db).await?).await
}

async fn records(db: &impl ConnectionTrait, rows: Vec<Model>) -> Result<Vec<SnapshotRecord>, StoreError> {
    let names = names(db, rows.iter().filter_map(|row| row.created_by)).await?;
    let record = |row: Model| {
        let damaged =
            |error: serde_json::Error| StoreError::Damaged { what: "frozen pool", id: row.id, why: error.to_string() };
        Ok(SnapshotRecord {
            id: row.id,
            snapshot: serde_json::from_value(row.content).map_err(damaged)?,
            hash: row.hash,
            by: row.created_by.and_then(|id| names.get(&id).cloned()),
            at: row.created_at,
        })
    };
    rows.into_iter().map(record).collect()
}
