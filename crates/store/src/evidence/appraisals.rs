//! Appraisals of studies: one of accuracy and one of agreement.

use std::collections::HashMap;

use chrono::Utc;
use pruvex_core::StudyId;
use pruvex_core::evidence::{Appraisal, AppraisalInput, Aspect};
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, QueryFilter, QueryOrder, QuerySelect,
};
use uuid::Uuid;

use super::studies::get_studies;
use crate::StoreError;
use crate::among::among;
use crate::entities::appraisal::{ActiveModel, Column, Entity, Model};
use crate::history::{Act, Kind, PORTION, alone, keep, keep_all};

/// A stored appraisal.
#[derive(Debug, Clone, PartialEq)]
pub struct AppraisalRecord {
    /// Id.
    pub id: Uuid,
    /// The study.
    pub study_id: StudyId,
    /// What is appraised.
    pub aspect: Aspect,
    /// Rises by one with every save.
    pub version: i32,
    /// Made up; cannot be switched off.
    pub sample: bool,
    /// What it says.
    pub appraisal: Appraisal,
}

/// Appraisals of these studies.
///
/// # Errors
/// Database errors.
pub async fn appraisals_of(
    db: &impl ConnectionTrait,
    studies: &[StudyId],
) -> Result<HashMap<StudyId, Vec<AppraisalRecord>>, StoreError> {
    let rows =
        Entity::find().filter(among(Column::StudyId, studies.iter().map(|id| id.0))).order_by_asc(Column::Aspect);
    let mut found: HashMap<StudyId, Vec<AppraisalRecord>> = HashMap::new();
    for row in rows.all(db).await? {
        found.entry(row.study_id.into()).or_default().push(record(row)?);
    }
    Ok(found)
}

/// Adds appraisals of studies that have none of that aspect, each with whether it is made up; call within a transaction.
///
/// # Errors
/// Database errors.
pub async fn create_appraisals(
    db: &impl ConnectionTrait,
    appraisals: &[(StudyId, Aspect, &Appraisal, bool)],
    act: Act<'_>,
) -> Result<(), StoreError> {
    alone(db).await?;
    for portion in appraisals.chunks(PORTION) {
        let rows = portion.iter().map(|(study_id, aspect, appraisal, sample)| ActiveModel {
            id: Set(Uuid::now_v7()),
            study_id: Set(study_id.0),
            aspect: Set(aspect.code().to_owned()),
            sample: Set(*sample),
            version: Set(1),
            created_at: Set(Utc::now()),
            ..row(appraisal)
        });
        let added = Entity::insert_many(rows).exec_with_returning(db).await?;
        let added = added.into_iter().map(record).collect::<Result<Vec<_>, _>>()?;
        let versions: Vec<_> = added.iter().map(|it| (it.id, it.version, &it.appraisal)).collect();
        keep_all(db, Kind::Appraisal, &versions, act).await?;
    }
    Ok(())
}

/// Saves the appraisal of a study that was read at `version`, 0 when there was none; call within a transaction.
///
/// # Errors
/// [`StoreError::Conflict`], [`StoreError::NotFound`] without that study, database errors.
pub async fn put_appraisal(
    db: &impl ConnectionTrait,
    study_id: StudyId,
    aspect: Aspect,
    version: i32,
    appraisal: &Appraisal,
    act: Act<'_>,
) -> Result<AppraisalRecord, StoreError> {
    alone(db).await?;
    let study = get_studies(db, [study_id]).await?.remove(&study_id);
    let study = study.ok_or(StoreError::not_found("study", study_id))?;
    let old = of(study_id, aspect).lock_exclusive().one(db).await?;
    let current = old.as_ref().map_or(0, |old| old.version);
    if current != version {
        return Err(StoreError::Conflict { what: "appraisal", current });
    }
    let Some(old) = old else {
        let act = Act { action: "created", ..act };
        create_appraisals(db, &[(study_id, aspect, appraisal, study.sample)], act).await?;
        let added = of(study_id, aspect).one(db).await?;
        return added.ok_or(StoreError::not_found("study", study_id)).and_then(record);
    };
    let changed = ActiveModel { id: Set(old.id), version: Set(version + 1), ..row(appraisal) };
    let record = record(changed.update(db).await?)?;
    keep(db, Kind::Appraisal, record.id, record.version, &record.appraisal, act).await?;
    Ok(record)
}

fn of(study_id: StudyId, aspect: Aspect) -> sea_orm::Select<Entity> {
    Entity::find().filter(Column::StudyId.eq(study_id.0)).filter(Column::Aspect.eq(aspect.code()))
}

fn row(appraisal: &Appraisal) -> ActiveModel {
    ActiveModel { content: Set(serde_json::json!(appraisal)), updated_at: Set(Utc::now()), ..Default::default() }
}

fn record(row: Model) -> Result<AppraisalRecord, StoreError> {
    let damaged = |why: String| StoreError::Damaged { what: "appraisal", id: row.id, why };
    let input: AppraisalInput = serde_json::from_value(row.content).map_err(|error| damaged(error.to_string()))?;
    let aspect = if row.aspect == Aspect::Agreement.code() { Aspect::Agreement } else { Aspect::Accuracy };
    let appraisal = Appraisal::check(aspect, &input)
        .map_err(|errors| damaged(errors.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ")))?;
    let Model { id, version, sample, .. } = row;
    let study_id = StudyId(row.study_id);
    Ok(AppraisalRecord { id, study_id, aspect, version, sample, appraisal })
}
