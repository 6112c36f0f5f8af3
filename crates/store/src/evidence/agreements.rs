//! Agreement results of a test.

use chrono::Utc;
use pruvex_core::evidence::{Agreement, AgreementInput};
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, QueryFilter, QueryOrder, QuerySelect,
};
use uuid::Uuid;

use super::references::{check_references, known_reference};
use crate::StoreError;
use crate::entities::agreement;
use crate::history::{Act, Kind, PORTION, alone, keep, keep_all};

/// A stored agreement result.
#[derive(Debug, Clone, PartialEq)]
pub struct AgreementRecord {
    /// Id.
    pub id: Uuid,
    /// The test it is about.
    pub test_id: Uuid,
    /// Rises by one with every change, deletion and restoring included.
    pub version: i32,
    /// Made up; cannot be switched off.
    pub sample: bool,
    /// What it reports.
    pub agreement: Agreement,
}

/// Agreement results of these tests, deleted ones left out, in the order they were entered.
///
/// # Errors
/// Database errors.
pub async fn list_agreements(db: &impl ConnectionTrait, tests: &[Uuid]) -> Result<Vec<AgreementRecord>, StoreError> {
    let rows = agreement::Entity::find()
        .filter(agreement::Column::TestId.is_in(tests.iter().copied()))
        .filter(agreement::Column::DeletedAt.is_null())
        .order_by_asc(agreement::Column::CreatedAt)
        .order_by_asc(agreement::Column::Id)
        .all(db)
        .await?;
    rows.into_iter().map(record).collect()
}

/// Agreement results of a test, deleted ones included.
///
/// # Errors
/// Database errors.
pub async fn agreements_of(db: &impl ConnectionTrait, test: Uuid) -> Result<Vec<Uuid>, StoreError> {
    let found = agreement::Entity::find().select_only().column(agreement::Column::Id);
    Ok(found.filter(agreement::Column::TestId.eq(test)).into_tuple().all(db).await?)
}

/// Adds agreement results to tests that are there, in this order, each with whether it is made up; call within a transaction.
///
/// # Errors
/// [`StoreError::Fields`] for a reference that is not on record, database errors.
pub async fn create_agreements(
    db: &impl ConnectionTrait,
    agreements: &[(Uuid, &Agreement, bool)],
    act: Act<'_>,
) -> Result<Vec<AgreementRecord>, StoreError> {
    alone(db).await?;
    check_references(db, agreements.iter().filter_map(|(_, it, _)| it.written().reference_id)).await?;
    let mut records = Vec::with_capacity(agreements.len());
    for portion in agreements.chunks(PORTION) {
        let rows = portion.iter().map(|(test_id, agreement, sample)| {
            Ok(agreement::ActiveModel {
                id: Set(Uuid::now_v7()),
                test_id: Set(*test_id),
                sample: Set(*sample),
                version: Set(1),
                created_at: Set(Utc::now()),
                ..row(agreement)?
            })
        });
        let rows = rows.collect::<Result<Vec<_>, StoreError>>()?;
        let added = agreement::Entity::insert_many(rows).exec_with_returning(db).await?;
        records.extend(added.into_iter().map(record).collect::<Result<Vec<_>, _>>()?);
    }
    let versions: Vec<_> = records.iter().map(|record| (record.id, record.version, &record.agreement)).collect();
    keep_all(db, Kind::Agreement, &versions, act).await?;
    Ok(records)
}

/// Saves an agreement result that was read at `version`; call within a transaction.
///
/// # Errors
/// [`StoreError::Conflict`], [`StoreError::NotFound`], [`StoreError::Fields`], database errors.
pub async fn update_agreement(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    agreement: &Agreement,
    act: Act<'_>,
) -> Result<AgreementRecord, StoreError> {
    let old = locked(db, id, version, false).await?;
    check_references(db, agreement.written().reference_id.into_iter()).await?;
    kept(db, agreement::ActiveModel { id: Set(old.id), version: Set(version + 1), ..row(agreement)? }, act).await
}

/// Marks an agreement result as deleted, or brings it back; call within a transaction.
///
/// # Errors
/// As [`update_agreement`]; one that is deleted already, or not deleted, is not found.
pub async fn set_agreement_deleted(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    deleted: bool,
    act: Act<'_>,
) -> Result<AgreementRecord, StoreError> {
    let old = locked(db, id, version, !deleted).await?;
    let reference = if deleted { old.reference_id } else { known_reference(db, old.reference_id).await? };
    let agreement = record(old.clone())?.agreement.published_as(reference);
    let changed = agreement::ActiveModel {
        version: Set(version + 1),
        deleted_at: Set(deleted.then(Utc::now)),
        ..row(&agreement)?
    };
    kept(db, agreement::ActiveModel { id: Set(old.id), ..changed }, act).await
}

/// Writes a row, and keeps its version in the history.
async fn kept(
    db: &impl ConnectionTrait,
    row: agreement::ActiveModel,
    act: Act<'_>,
) -> Result<AgreementRecord, StoreError> {
    let record = record(row.update(db).await?)?;
    keep(db, Kind::Agreement, record.id, record.version, &record.agreement, act).await?;
    Ok(record)
}

async fn locked(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    deleted: bool,
) -> Result<agreement::Model, StoreError> {
    alone(db).await?;
    let what = "agreement result";
    let row = agreement::Entity::find_by_id(id).lock_exclusive().one(db).await?;
    let row = row.filter(|row| row.deleted_at.is_some() == deleted).ok_or(StoreError::NotFound { what, id })?;
    if row.version == version { Ok(row) } else { Err(StoreError::Conflict { what, current: row.version }) }
}

fn row(agreement: &Agreement) -> Result<agreement::ActiveModel, StoreError> {
    let damaged = |error: serde_json::Error| StoreError::Damaged {
        what: "agreement result",
        id: Uuid::nil(),
        why: error.to_string(),
    };
    Ok(agreement::ActiveModel {
        reference_id: Set(agreement.written().reference_id),
        content: Set(serde_json::to_value(agreement).map_err(damaged)?),
        updated_at: Set(Utc::now()),
        ..Default::default()
    })
}

fn record(row: agreement::Model) -> Result<AgreementRecord, StoreError> {
    let damaged = |why: String| StoreError::Damaged { what: "agreement result", id: row.id, why };
    let input: AgreementInput = serde_json::from_value(row.content).map_err(|error| damaged(error.to_string()))?;
    let agreement = Agreement::check(&input)
        .map_err(|errors| damaged(errors.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ")))?;
    let agreement = agreement.published_as(row.reference_id);
    Ok(AgreementRecord { id: row.id, test_id: row.test_id, version: row.version, sample: row.sample, agreement })
}
