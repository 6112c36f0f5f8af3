//! Studies of a test.

use chrono::Utc;
use pruvex_core::accuracy::{Counts, RawCounts};
use pruvex_core::evidence::Study;
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, IntoActiveModel, QueryFilter,
    QueryOrder, QuerySelect, SqlErr,
};
use uuid::Uuid;

use super::references::{check_references, known_reference};
use crate::StoreError;
use crate::entities::study;
use crate::history::{Act, Kind, PORTION, alone, keep, keep_all};

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

/// What a pool needs to know of a study.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct StudyCounts {
    /// The test it is about.
    pub test_id: Uuid,
    /// Made up.
    pub sample: bool,
    /// The four cells.
    pub counts: Counts,
}

/// The counts of all studies, or of those of some tests, in the order of [`list_studies`] and without their texts: lists need no more.
///
/// # Errors
/// Database errors.
pub async fn list_counts(db: &impl ConnectionTrait, tests: Option<&[Uuid]>) -> Result<Vec<StudyCounts>, StoreError> {
    type Row = (Uuid, Uuid, bool, Option<i32>, Option<i32>, Option<i32>, Option<i32>);
    let found = study::Entity::find();
    let found = match tests {
        Some(tests) => found.filter(study::Column::TestId.is_in(tests.iter().copied())),
        None => found,
    };
    let rows: Vec<Row> = found
        .select_only()
        .columns([
            study::Column::Id,
            study::Column::TestId,
            study::Column::Sample,
            study::Column::Tp,
            study::Column::Fp,
            study::Column::Fn,
            study::Column::Tn,
        ])
        .filter(study::Column::DeletedAt.is_null())
        .order_by_asc(study::Column::CreatedAt)
        .order_by_asc(study::Column::Id)
        .into_tuple()
        .all(db)
        .await?;
    let counts = |(id, test_id, sample, tp, fp, fn_, tn): Row| {
        Ok(StudyCounts { test_id, sample, counts: stored_counts(id, [tp, fp, fn_, tn])? })
    };
    rows.into_iter().map(counts).collect()
}

/// Studies of a test, deleted ones included.
///
/// # Errors
/// Database errors.
pub async fn studies_of(db: &impl ConnectionTrait, test: Uuid) -> Result<Vec<Uuid>, StoreError> {
    let studies = study::Entity::find().select_only().column(study::Column::Id).filter(study::Column::TestId.eq(test));
    Ok(studies.into_tuple().all(db).await?)
}

/// The tests that these studies are about, deleted studies included.
///
/// # Errors
/// Database errors.
pub async fn tests_of(db: &impl ConnectionTrait, studies: &[Uuid]) -> Result<Vec<Uuid>, StoreError> {
    let tests = study::Entity::find()
        .select_only()
        .column(study::Column::TestId)
        .distinct()
        .filter(study::Column::Id.is_in(studies.iter().copied()));
    Ok(tests.into_tuple().all(db).await?)
}

/// Adds a study to a test; call within a transaction.
///
/// # Errors
/// [`StoreError::NotFound`] without that test, database errors.
pub async fn create_study(
    db: &impl ConnectionTrait,
    test_id: Uuid,
    study: &Study,
    sample: bool,
    act: Act<'_>,
) -> Result<StudyRecord, StoreError> {
    let added = create_studies(db, &[(test_id, study, sample)], act).await?;
    added.into_iter().next().ok_or(StoreError::NotFound { what: "test", id: test_id })
}

/// Adds studies to their tests, in this order, each with whether it is made up; call within a transaction.
///
/// # Errors
/// As [`create_study`].
pub async fn create_studies(
    db: &impl ConnectionTrait,
    studies: &[(Uuid, &Study, bool)],
    act: Act<'_>,
) -> Result<Vec<StudyRecord>, StoreError> {
    alone(db).await?;
    check_references(db, studies.iter().filter_map(|(_, study, _)| study.reference_id)).await?;
    let mut records = Vec::with_capacity(studies.len());
    for portion in studies.chunks(PORTION) {
        let rows = portion.iter().map(|(test_id, study, sample)| study::ActiveModel {
            id: Set(Uuid::now_v7()),
            test_id: Set(*test_id),
            sample: Set(*sample),
            version: Set(1),
            created_at: Set(Utc::now()),
            ..row(study)
        });
        match study::Entity::insert_many(rows).exec_with_returning(db).await {
            Ok(rows) => records.extend(rows.into_iter().map(record).collect::<Result<Vec<_>, _>>()?),
            Err(error) if matches!(error.sql_err(), Some(SqlErr::ForeignKeyConstraintViolation(_))) => {
                let id = portion.first().map_or(Uuid::nil(), |(test, ..)| *test);
                return Err(StoreError::NotFound { what: "test", id });
            }
            Err(error) => return Err(error.into()),
        }
    }
    let versions: Vec<_> = records.iter().map(|record| (record.id, record.version, &record.study)).collect();
    keep_all(db, Kind::Study, &versions, act).await?;
    Ok(records)
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
    act: Act<'_>,
) -> Result<StudyRecord, StoreError> {
    let old = locked(db, id, version, false).await?;
    check_references(db, study.reference_id.into_iter()).await?;
    let changed = study::ActiveModel { id: Set(old.id), version: Set(version + 1), ..row(study) };
    kept(db, changed.update(db).await?, act).await
}

/// A stored row as a record, with its version kept in the history.
async fn kept(db: &impl ConnectionTrait, row: study::Model, act: Act<'_>) -> Result<StudyRecord, StoreError> {
    let record = record(row)?;
    keep(db, Kind::Study, record.id, record.version, &record.study, act).await?;
    Ok(record)
}

/// Marks a study as deleted; it can be restored. Call within a transaction.
///
/// # Errors
/// As [`update_study`].
pub async fn delete_study(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    act: Act<'_>,
) -> Result<StudyRecord, StoreError> {
    set_deleted(db, id, version, true, act).await
}

/// Brings a deleted study back. Call within a transaction.
///
/// # Errors
/// As [`update_study`]; a study that is not deleted is not found.
pub async fn restore_study(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    act: Act<'_>,
) -> Result<StudyRecord, StoreError> {
    set_deleted(db, id, version, false, act).await
}

async fn set_deleted(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    deleted: bool,
    act: Act<'_>,
) -> Result<StudyRecord, StoreError> {
    let old = locked(db, id, version, !deleted).await?;
    let link = old.reference_id;
    let mut row = old.into_active_model();
    if !deleted {
        row.reference_id = Set(known_reference(db, link).await?);
    }
    row.version = Set(version + 1);
    row.updated_at = Set(Utc::now());
    row.deleted_at = Set(deleted.then(Utc::now));
    kept(db, row.update(db).await?, act).await
}

async fn locked(db: &impl ConnectionTrait, id: Uuid, version: i32, deleted: bool) -> Result<study::Model, StoreError> {
    alone(db).await?;
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
        reference_id: Set(study.reference_id),
        population: Set(study.population.clone()),
        setup: Set(serde_json::json!(study.setup)),
        reference_standard: Set(study.reference_standard.clone()),
        note: Set(study.note.clone()),
        tp,
        fp,
        fn_,
        tn,
        updated_at: Set(Utc::now()),
        ..Default::default()
    }
}

fn stored_counts(id: Uuid, cells: [Option<i32>; 4]) -> Result<Counts, StoreError> {
    let [tp, fp, fn_, tn] = cells.map(|cell| cell.map(f64::from));
    Counts::check(RawCounts { tp, fp, fn_, tn }).map_err(|errors| {
        let why = errors.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ");
        StoreError::Damaged { what: "study", id, why }
    })
}

fn record(row: study::Model) -> Result<StudyRecord, StoreError> {
    let counts = stored_counts(row.id, [row.tp, row.fp, row.fn_, row.tn])?;
    let damaged = |error: serde_json::Error| StoreError::Damaged { what: "study", id: row.id, why: error.to_string() };
    let setup = serde_json::from_value(row.setup).map_err(damaged)?;
    Ok(StudyRecord {
        id: row.id,
        test_id: row.test_id,
        version: row.version,
        sample: row.sample,
        study: Study {
            reference: row.reference,
            reference_id: row.reference_id,
            population: row.population,
            setup,
            reference_standard: row.reference_standard,
            note: row.note,
            counts,
        },
    })
}
