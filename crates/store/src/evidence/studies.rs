//! Studies: sets of people, to which results point. A study is there as long as a result of it is.

use std::collections::{HashMap, HashSet};

use chrono::Utc;
use pruvex_core::evidence::{Study, StudyInput, fits};
use pruvex_core::{FieldError, StudyId, TestId};
use sea_orm::sea_query::{Expr, Func};
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, ExprTrait, IntoActiveModel,
    QueryFilter, QueryOrder, QuerySelect,
};
use uuid::Uuid;

use super::reference_links::{check_references, known_reference};
use crate::StoreError;
use crate::among::among;
use crate::entities::{accuracy_result, agreement, study};
use crate::history::{Act, Kind, PORTION, alone, keep, keep_all};

/// A stored study.
#[derive(Debug, Clone, PartialEq)]
pub struct StudyRecord {
    /// Id.
    pub id: StudyId,
    /// Rises by one with every change, deletion and restoring included.
    pub version: i32,
    /// Made up; cannot be switched off.
    pub sample: bool,
    /// Who was examined, and how.
    pub study: Study,
}

/// The study that a result is of.
#[derive(Debug, Clone, PartialEq)]
pub enum OfStudy {
    /// One that is not on record yet.
    New(Study),
    /// One on record as it was read at a version, with what is to be said of it now.
    Known {
        /// Its id.
        id: StudyId,
        /// The version that was read.
        version: i32,
        /// What it says now.
        study: Study,
    },
}

/// These studies, deleted ones included, by id.
///
/// # Errors
/// Database errors.
pub async fn get_studies(
    db: &impl ConnectionTrait,
    ids: impl IntoIterator<Item = StudyId>,
) -> Result<HashMap<StudyId, StudyRecord>, StoreError> {
    let ids: HashSet<Uuid> = ids.into_iter().map(Uuid::from).collect();
    if ids.is_empty() {
        return Ok(HashMap::new());
    }
    let rows = study::Entity::find().filter(among(study::Column::Id, ids)).all(db).await?;
    rows.into_iter().map(|row| record(row).map(|record| (record.id, record))).collect()
}

/// Studies that were published as this reference, or under this text, in the order they were entered.
///
/// # Errors
/// Database errors.
pub async fn studies_published_as(
    db: &impl ConnectionTrait,
    reference: Result<Uuid, &str>,
) -> Result<Vec<StudyRecord>, StoreError> {
    let found = study::Entity::find().filter(study::Column::DeletedAt.is_null());
    let found = match reference {
        Ok(id) => found.filter(study::Column::ReferenceId.eq(id)),
        Err(text) => found.filter(of_texts(&[text.trim().to_owned()])),
    };
    let rows = found.order_by_asc(study::Column::CreatedAt).order_by_asc(study::Column::Id).all(db).await?;
    rows.into_iter().map(record).collect()
}

/// By the index on the short form of the text: texts are long.
fn of_texts(texts: &[String]) -> sea_orm::sea_query::SimpleExpr {
    let short = |text: sea_orm::sea_query::SimpleExpr| Func::cust("md5").arg(Func::lower(text));
    let wanted = texts.iter().map(|text| short(Expr::value(text.clone())).into());
    let column: sea_orm::sea_query::SimpleExpr = Expr::col((study::Entity, study::Column::Reference));
    Expr::expr(short(column)).is_in(wanted.collect::<Vec<sea_orm::sea_query::SimpleExpr>>())
}

/// Live studies under one of these texts.
pub(crate) async fn studies_of_texts(
    db: &impl ConnectionTrait,
    texts: &HashSet<&str>,
) -> Result<Vec<StudyRecord>, StoreError> {
    let texts: Vec<String> = texts.iter().map(|text| (*text).to_owned()).collect();
    let mut records = Vec::new();
    for portion in texts.chunks(PORTION) {
        let found = study::Entity::find().filter(study::Column::DeletedAt.is_null()).filter(of_texts(portion));
        let rows = found.order_by_asc(study::Column::CreatedAt).order_by_asc(study::Column::Id).all(db).await?;
        records.extend(rows.into_iter().map(record).collect::<Result<Vec<_>, _>>()?);
    }
    Ok(records)
}

/// What is reported from these studies, deleted results left out: a study and a test for each result, accuracy first.
///
/// # Errors
/// Database errors.
pub async fn reported_from(
    db: &impl ConnectionTrait,
    studies: &[StudyId],
) -> Result<Vec<(StudyId, TestId)>, StoreError> {
    let results = accuracy_result::Entity::find()
        .select_only()
        .columns([accuracy_result::Column::StudyId, accuracy_result::Column::TestId])
        .filter(among(accuracy_result::Column::StudyId, studies.iter().map(|id| id.0)))
        .filter(accuracy_result::Column::DeletedAt.is_null())
        .order_by_asc(accuracy_result::Column::CreatedAt);
    let agreements = agreement::Entity::find()
        .select_only()
        .columns([agreement::Column::StudyId, agreement::Column::TestId])
        .filter(among(agreement::Column::StudyId, studies.iter().map(|id| id.0)))
        .filter(agreement::Column::DeletedAt.is_null())
        .order_by_asc(agreement::Column::CreatedAt);
    let mut pairs: Vec<(Uuid, Uuid)> = results.into_tuple().all(db).await?;
    pairs.extend(agreements.into_tuple::<(Uuid, Uuid)>().all(db).await?);
    Ok(pairs.into_iter().map(|(study, test)| (study.into(), test.into())).collect())
}

/// Adds studies, in this order, each with whether it is made up; call within a transaction, together with their results.
///
/// # Errors
/// [`StoreError::Fields`] for a reference that is not on record, database errors.
pub async fn create_studies(
    db: &impl ConnectionTrait,
    studies: &[(&Study, bool)],
    act: Act<'_>,
) -> Result<Vec<StudyRecord>, StoreError> {
    alone(db).await?;
    check_references(db, studies.iter().filter_map(|(study, _)| study.reference_id)).await?;
    let mut records = Vec::with_capacity(studies.len());
    for portion in studies.chunks(PORTION) {
        let rows = portion.iter().map(|(study, sample)| study::ActiveModel {
            id: Set(Uuid::now_v7()),
            sample: Set(*sample),
            version: Set(1),
            created_at: Set(Utc::now()),
            ..row(study)
        });
        let rows = study::Entity::insert_many(rows).exec_with_returning(db).await?;
        records.extend(rows.into_iter().map(record).collect::<Result<Vec<_>, _>>()?);
    }
    let versions: Vec<_> = records.iter().map(|record| (record.id, record.version, &record.study)).collect();
    keep_all(db, Kind::Study, &versions, act).await?;
    Ok(records)
}

/// Saves a study that was read at `version`; call within a transaction.
///
/// # Errors
/// [`StoreError::Conflict`], [`StoreError::NotFound`], [`StoreError::Fields`] when one of its results holds more people, database
/// errors.
pub async fn update_study(
    db: &impl ConnectionTrait,
    id: StudyId,
    version: i32,
    study: &Study,
    act: Act<'_>,
) -> Result<StudyRecord, StoreError> {
    let old = locked(db, id).await?;
    if old.deleted_at.is_some() {
        return Err(StoreError::not_found("study", id));
    }
    if old.version != version {
        return Err(StoreError::Conflict { what: "study", current: old.version });
    }
    record(old)?.study.may_become(study).map_err(|error| StoreError::Fields(vec![error]))?;
    check_references(db, study.reference_id.into_iter()).await?;
    let results = accuracy_result::Entity::find()
        .filter(accuracy_result::Column::StudyId.eq(id.0))
        .filter(accuracy_result::Column::DeletedAt.is_null());
    for result in results.all(db).await? {
        fits(study, result.unit(), result.counts()?, &result.flow()?)
            .map_err(|error| StoreError::Fields(vec![error]))?;
    }
    let changed = study::ActiveModel { id: Set(id.0), version: Set(version + 1), ..row(study) };
    kept(db, changed.update(db).await?, act).await
}

/// The study that a result is of: added, corrected or left as it is; the faults of its fields stand under `study`.
pub(super) async fn put_study(
    db: &impl ConnectionTrait,
    of: &OfStudy,
    act: Act<'_>,
) -> Result<StudyRecord, StoreError> {
    alone(db).await?;
    let put = match of {
        OfStudy::New(study) => create_studies(db, &[(study, false)], Act { action: "created", ..act })
            .await
            .and_then(|added| added.into_iter().next().ok_or(StoreError::not_found("study", Uuid::nil()))),
        OfStudy::Known { id, version, study } => {
            let existing = get_studies(db, [*id]).await?.remove(id);
            match existing.filter(|it| it.version == *version && it.study == *study) {
                Some(existing) => Ok(existing),
                None => update_study(db, *id, *version, study, act).await,
            }
        }
    };
    put.map_err(|error| match error {
        StoreError::Fields(errors) => {
            StoreError::Fields(errors.into_iter().map(|error: FieldError| error.within("study.")).collect())
        }
        other => other,
    })
}

/// Marks a study as deleted when nothing is reported from it any more.
pub(super) async fn let_go(db: &impl ConnectionTrait, id: StudyId, act: Act<'_>) -> Result<(), StoreError> {
    let old = locked(db, id).await?;
    if old.deleted_at.is_some() || !reported_from(db, &[id]).await?.is_empty() {
        return Ok(());
    }
    let (version, mut row) = (old.version + 1, old.into_active_model());
    row.version = Set(version);
    row.deleted_at = Set(Some(Utc::now()));
    kept(db, row.update(db).await?, act).await.map(drop)
}

/// Brings a study back with its result, if it went with it. A reference that was deleted meanwhile does not keep it away; its text
/// still stands there.
pub(super) async fn take_back(db: &impl ConnectionTrait, id: StudyId, act: Act<'_>) -> Result<(), StoreError> {
    let old = locked(db, id).await?;
    if old.deleted_at.is_none() {
        return Ok(());
    }
    let (version, link) = (old.version + 1, old.reference_id);
    let mut row = old.into_active_model();
    row.reference_id = Set(known_reference(db, link).await?);
    row.version = Set(version);
    row.deleted_at = Set(None);
    kept(db, row.update(db).await?, act).await.map(drop)
}

/// A stored row as a record, with its version kept in the history.
async fn kept(db: &impl ConnectionTrait, row: study::Model, act: Act<'_>) -> Result<StudyRecord, StoreError> {
    let record = record(row)?;
    keep(db, Kind::Study, record.id, record.version, &record.study, act).await?;
    Ok(record)
}

async fn locked(db: &impl ConnectionTrait, id: StudyId) -> Result<study::Model, StoreError> {
    alone(db).await?;
    let row = study::Entity::find_by_id(id.0).lock_exclusive().one(db).await?;
    row.ok_or(StoreError::not_found("study", id))
}

fn row(study: &Study) -> study::ActiveModel {
    study::ActiveModel {
        reference: Set(study.reference.clone()),
        reference_id: Set(study.reference_id),
        population: Set(study.population.clone()),
        setup: Set(serde_json::json!(study.setup)),
        note: Set(study.note.clone()),
        updated_at: Set(Utc::now()),
        ..Default::default()
    }
}

fn record(row: study::Model) -> Result<StudyRecord, StoreError> {
    let damaged = |why: String| StoreError::Damaged { what: "study", id: row.id, why };
    let setup = serde_json::from_value(row.setup).map_err(|error| damaged(error.to_string()))?;
    let (reference, reference_id, population, note) = (row.reference, row.reference_id, row.population, row.note);
    let study = Study::check(&StudyInput { reference, reference_id, population, setup, note })
        .map_err(|errors| damaged(errors.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ")))?;
    Ok(StudyRecord { id: row.id.into(), version: row.version, sample: row.sample, study })
}
