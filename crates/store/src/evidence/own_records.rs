//! Studies of somebody's own examinations: which they are, and when they take results.

use std::collections::HashSet;

use pruvex_core::StudyId;
use pruvex_core::evidence::Aspect;
use sea_orm::sea_query::Expr;
use sea_orm::{ConnectionTrait, EntityTrait, QueryFilter, QuerySelect};
use uuid::Uuid;

use super::appraisals::appraisals_of;
use super::studies::StudyRecord;
use crate::StoreError;
use crate::entities::study;

/// Studies of somebody's own examinations, deleted ones included.
///
/// # Errors
/// Database errors.
pub async fn own_record_studies(db: &impl ConnectionTrait) -> Result<HashSet<StudyId>, StoreError> {
    let own = Expr::cust("setup->>'source' = 'own_records'");
    let found = study::Entity::find().select_only().column(study::Column::Id).filter(own);
    Ok(found.into_tuple::<Uuid>().all(db).await?.into_iter().map(StudyId::from).collect())
}

/// Whether results may be entered of a study, by its appraisal; the fault of a field stands under `study`.
pub(super) async fn takes_results(db: &impl ConnectionTrait, of: &StudyRecord) -> Result<(), StoreError> {
    if !of.study.setup.own_records() {
        return Ok(());
    }
    let appraisals = appraisals_of(db, &[of.id]).await?.remove(&of.id).unwrap_or_default();
    let of_accuracy = appraisals.iter().find(|it| it.aspect == Aspect::Accuracy);
    of.study
        .takes_results(of_accuracy.map(|it| &it.appraisal))
        .map_err(|error| StoreError::Fields(vec![error.within("study.")]))
}
