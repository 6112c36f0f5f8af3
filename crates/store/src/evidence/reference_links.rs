//! Whether references that others point to are on record.

use std::collections::HashSet;

use pruvex_core::{FieldError, FieldErrorCode};
use sea_orm::{ColumnTrait, ConnectionTrait, EntityTrait, QueryFilter, QuerySelect};
use uuid::Uuid;

use crate::StoreError;
use crate::among::among;
use crate::entities::reference;

/// Those of these references that are on record.
async fn known(db: &impl ConnectionTrait, ids: impl IntoIterator<Item = Uuid>) -> Result<HashSet<Uuid>, StoreError> {
    let found = reference::Entity::find().select_only().column(reference::Column::Id);
    let found = found.filter(among(reference::Column::Id, ids)).filter(reference::Column::DeletedAt.is_null());
    Ok(found.into_tuple::<Uuid>().all(db).await?.into_iter().collect())
}

/// Whether each of these references is on record.
pub(super) async fn check_references(
    db: &impl ConnectionTrait,
    ids: impl Iterator<Item = Uuid>,
) -> Result<(), StoreError> {
    let wanted: HashSet<Uuid> = ids.collect();
    if wanted.is_empty() {
        return Ok(());
    }
    let known = known(db, wanted.iter().copied()).await?;
    let unknown = wanted.difference(&known).map(|id| {
        let (message, remedy) = ("This reference is not on record, or was deleted.", "Choose another one.");
        FieldError::new("reference_id", FieldErrorCode::Unknown, id, message, remedy)
    });
    let errors: Vec<FieldError> = unknown.collect();
    if errors.is_empty() { Ok(()) } else { Err(StoreError::Fields(errors)) }
}

/// The reference that a restored result goes on pointing to: one that was deleted meanwhile does not keep it away; its text still
/// stands there.
pub(super) async fn known_reference(db: &impl ConnectionTrait, id: Option<Uuid>) -> Result<Option<Uuid>, StoreError> {
    match id {
        Some(id) => Ok(known(db, [id]).await?.into_iter().next()),
        None => Ok(None),
    }
}
