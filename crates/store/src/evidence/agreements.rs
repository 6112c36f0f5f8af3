//! Agreement results of a test.

use chrono::Utc;
use pruvex_core::evidence::{Agreement, AgreementInput};
use pruvex_core::{StudyId, TestId};
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, QueryFilter, QueryOrder, QuerySelect,
};
use uuid::Uuid;

use super::seen::Seen;
use super::studies::{OfStudy, let_go, put_study, take_back};
use crate::StoreError;
use crate::among::among;
use crate::entities::agreement;
use crate::history::{Act, Kind, PORTION, alone, keep, keep_all};

/// A stored agreement result.
#[derive(Debug, Clone, PartialEq)]
pub struct AgreementRecord {
    /// Id.
    pub id: Uuid,
    /// The test it is about.
    pub test_id: TestId,
    /// The study it is of.
    pub study_id: StudyId,
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
pub async fn list_agreements(
    db: &impl ConnectionTrait,
    tests: &[TestId],
    seen: Seen,
) -> Result<Vec<AgreementRecord>, StoreError> {
    let rows = agreement::Entity::find()
        .filter(among(agreement::Column::TestId, tests.iter().map(|id| id.0)))
        .filter(agreement::Column::DeletedAt.is_null())
        .filter(seen.condition("agreement", Kind::Agreement))
        .order_by_asc(agreement::Column::CreatedAt)
        .order_by_asc(agreement::Column::Id)
        .all(db)
        .await?;
    rows.into_iter().map(record).collect()
}

/// Agreement results of a test, deleted ones included, each with its study.
///
/// # Errors
/// Database errors.
pub async fn agreements_of(db: &impl ConnectionTrait, test: TestId) -> Result<Vec<(Uuid, StudyId)>, StoreError> {
    let columns = [agreement::Column::Id, agreement::Column::StudyId];
    let found = agreement::Entity::find().select_only().columns(columns);
    let found = found.filter(agreement::Column::TestId.eq(test.0)).into_tuple::<(Uuid, Uuid)>();
    Ok(found.all(db).await?.into_iter().map(|(id, study)| (id, study.into())).collect())
}

/// An agreement result that is to be added.
#[derive(Debug, Clone, Copy)]
pub struct NewAgreement<'a> {
    /// The test it is about, which is there.
    pub test_id: TestId,
    /// The study it is of.
    pub study_id: StudyId,
    /// What it reports.
    pub agreement: &'a Agreement,
    /// It is made up.
    pub sample: bool,
}

/// Adds agreement results, in this order; call within a transaction.
///
/// # Errors
/// Database errors.
pub async fn create_agreements(
    db: &impl ConnectionTrait,
    agreements: &[NewAgreement<'_>],
    act: Act<'_>,
) -> Result<Vec<AgreementRecord>, StoreError> {
    alone(db).await?;
    let mut records = Vec::with_capacity(agreements.len());
    for portion in agreements.chunks(PORTION) {
        let rows = portion.iter().map(|it| {
            Ok(agreement::ActiveModel {
                id: Set(Uuid::now_v7()),
                test_id: Set(it.test_id.0),
                study_id: Set(it.study_id.0),
                sample: Set(it.sample),
                version: Set(1),
                created_at: Set(Utc::now()),
                ..row(it.agreement)?
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

/// Adds an agreement result to a test, with its study if that is new; call within a transaction.
///
/// # Errors
/// [`StoreError::Fields`] for faults of its study, [`StoreError::Conflict`] when that was changed meanwhile, database errors.
pub async fn create_agreement(
    db: &impl ConnectionTrait,
    test_id: TestId,
    of: &OfStudy,
    agreement: &Agreement,
    act: Act<'_>,
) -> Result<AgreementRecord, StoreError> {
    let study = put_study(db, of, act).await?;
    let new = NewAgreement { test_id, study_id: study.id, agreement, sample: study.sample };
    let added = create_agreements(db, &[new], act).await?;
    added.into_iter().next().ok_or(StoreError::not_found("test", test_id))
}

/// Saves an agreement result that was read at `version`, and its study if something is said of that; call within a transaction.
///
/// # Errors
/// As [`create_agreement`]; [`StoreError::NotFound`].
pub async fn update_agreement(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    of: Option<&OfStudy>,
    agreement: &Agreement,
    act: Act<'_>,
) -> Result<AgreementRecord, StoreError> {
    let old = locked(db, id, version, false).await?;
    let (study_id, sample) = match of {
        Some(of) => put_study(db, of, act).await.map(|study| (study.id, study.sample))?,
        None => (old.study_id.into(), false),
    };
    let changed = agreement::ActiveModel {
        id: Set(old.id),
        study_id: Set(study_id.0),
        sample: Set(old.sample || sample),
        version: Set(version + 1),
        ..row(agreement)?
    };
    let saved = kept(db, changed, act).await?;
    if old.study_id != study_id.0 {
        let_go(db, old.study_id.into(), act).await?;
    }
    Ok(saved)
}

/// Marks an agreement result as deleted, or brings it back; call within a transaction. A study goes with its last result and comes
/// back with it.
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
    let changed = agreement::ActiveModel {
        id: Set(old.id),
        version: Set(version + 1),
        updated_at: Set(Utc::now()),
        deleted_at: Set(deleted.then(Utc::now)),
        ..Default::default()
    };
    let saved = kept(db, changed, act).await?;
    if deleted {
        let_go(db, old.study_id.into(), act).await?
    } else {
        take_back(db, old.study_id.into(), act).await?
    }
    Ok(saved)
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
    Ok(AgreementRecord {
        id: row.id,
        test_id: row.test_id.into(),
        study_id: row.study_id.into(),
        version: row.version,
        sample: row.sample,
        agreement,
    })
}
