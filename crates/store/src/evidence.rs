//! Studies of a test.

use chrono::Utc;
use pruvex_core::accuracy::{Counts, RawCounts};
use pruvex_core::evidence::Study;
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, IntoActiveModel, QueryFilter,
    QueryOrder, QuerySelect,
};
use uuid::Uuid;

use crate::StoreError;
use crate::catalogue::get_test;
use crate::entities::study;

/// A stored study.
#[derive(Debug, Clone, PartialEq)]
pub struct StudyRecord {
    /// Id.
    pub id: Uuid,
    /// The test it is about.
    pub test_id: Uuid,
    /// Rises by one with every change, deletion and restoring included.
    pub version: i32,
    /// Made up; cannot be switched off.
    pub sample: bool,
    /// What it reports.
    pub study: Study,
}

/// Studies of these tests, deleted ones left out, in the order they were entered.
///
/// # Errors
/// Database errors.
pub async fn list_studies(db: &impl ConnectionTrait, tests: &[Uuid]) -> Result<Vec<StudyRecord>, StoreError> {
    let rows = study::Entity::find()
        .filter(study::Column::TestId.is_in(tests.iter().copied()))
        .filter(study::Column::DeletedAt.is_null())
        .order_by_asc(study::Column::CreatedAt)
        .order_by_asc(study::Column::Id)
        .all(db)
        .await?;
    rows.into_iter().map(record).collect()
}

/// Adds a study to a test.
///
/// # Errors
/// [`StoreError::NotFound`] without that test, database errors.
pub async fn create_study(
    db: &impl ConnectionTrait,
    test_id: Uuid,
    study: &Study,
    sample: bool,
) -> Result<StudyRecord, StoreError> {
    get_test(db, test_id).await?;
    let id = Uuid::now_v7();
    let row = study::ActiveModel {
        id: Set(id),
        test_id: Set(test_id),
        sample: Set(sample),
        version: Set(1),
        created_at: Set(Utc::now()),
        ..row(study)
    };
    record(row.insert(db).await?)
}

/// Saves a study that was read at `version`; call within a transaction.
///
/// # Errors
/// [`StoreError::Conflict`], [`StoreError::NotFound`], database errors.
pub async fn update_study(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    study: &Study,
) -> Result<StudyRecord, StoreError> {
    let old = locked(db, id, version, false).await?;
    let changed = study::ActiveModel { id: Set(old.id), version: Set(version + 1), ..row(study) };
    record(changed.update(db).await?)
}

/// Marks a study as deleted; it can be restored. Call within a transaction.
///
/// # Errors
/// As [`update_study`].
pub async fn delete_study(db: &impl ConnectionTrait, id: Uuid, version: i32) -> Result<StudyRecord, StoreError> {
    set_deleted(db, id, version, true).await
}

/// Brings a deleted study back. Call within a transaction.
///
/// # Errors
/// As [`update_study`]; a study that is not deleted is not found.
pub async fn restore_study(db: &impl ConnectionTrait, id: Uuid, version: i32) -> Result<StudyRecord, StoreError> {
    set_deleted(db, id, version, false).await
}

async fn set_deleted(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    deleted: bool,
) -> Result<StudyRecord, StoreError> {
    let mut row = locked(db, id, version, !deleted).await?.into_active_model();
    row.version = Set(version + 1);
    row.updated_at = Set(Utc::now());
    row.deleted_at = Set(deleted.then(Utc::now));
    record(row.update(db).await?)
}

async fn locked(db: &impl ConnectionTrait, id: Uuid, version: i32, deleted: bool) -> Result<study::Model, StoreError> {
    let row = study::Entity::find_by_id(id).lock_exclusive().one(db).await?;
    let row =
        row.filter(|row| row.deleted_at.is_some() == deleted).ok_or(StoreError::NotFound { what: "study", id })?;
    if row.version == version { Ok(row) } else { Err(StoreError::Conflict { what: "study", current: row.version }) }
}

fn row(study: &Study) -> study::ActiveModel {
    // Count::MAX is far below i32::MAX.
    let cells = study.counts.cells().map(|cell| Set(cell.and_then(|count| i32::try_from(count).ok())));
    let [tp, fp, fn_, tn] = cells;
    study::ActiveModel {
        reference: Set(study.reference.clone()),
        population: Set(study.population.clone()),
        reference_standard: Set(study.reference_standard.clone()),
        tp,
        fp,
        fn_,
        tn,
        updated_at: Set(Utc::now()),
        ..Default::default()
    }
}

fn record(row: study::Model) -> Result<StudyRecord, StoreError> {
    let cell = |value: Option<i32>| value.map(f64::from);
    let raw = RawCounts { tp: cell(row.tp), fp: cell(row.fp), fn_: cell(row.fn_), tn: cell(row.tn) };
    let counts = Counts::check(raw).map_err(|errors| {
        let why = errors.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ");
        StoreError::Damaged { what: "study", id: row.id, why }
    })?;
    Ok(StudyRecord {
        id: row.id,
        test_id: row.test_id,
        version: row.version,
        sample: row.sample,
        study: Study {
            reference: row.reference,
            population: row.population,
            reference_standard: row.reference_standard,
            counts,
        },
    })
}
