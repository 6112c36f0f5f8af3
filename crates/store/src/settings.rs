//! What the administrator settles for everybody.

use pruvex_core::people::Settings;
use sea_orm::{ActiveModelTrait, ActiveValue::Set, ConnectionTrait, EntityTrait, QuerySelect};
use uuid::Uuid;

use crate::StoreError;
use crate::entities::settings;
use crate::history::{Act, Kind, alone, keep};

/// The one row.
const ONE: Uuid = Uuid::nil();

/// What holds, and its version.
///
/// # Errors
/// [`StoreError::Damaged`], database errors.
pub async fn get_settings(db: &impl ConnectionTrait) -> Result<(Settings, i32), StoreError> {
    read(settings::Entity::find_by_id(ONE).one(db).await?)
}

/// Changes what holds, as it was read at `version`; call within a transaction.
///
/// # Errors
/// [`StoreError::Conflict`], database errors.
pub async fn update_settings(
    db: &impl ConnectionTrait,
    version: i32,
    content: Settings,
    act: Act<'_>,
) -> Result<(Settings, i32), StoreError> {
    alone(db).await?;
    let (_, current) = read(settings::Entity::find_by_id(ONE).lock_exclusive().one(db).await?)?;
    if current != version {
        return Err(StoreError::Conflict { what: "settings", current });
    }
    let written = serde_json::to_value(&content).map_err(|cause| damaged(&cause))?;
    let row = settings::ActiveModel { id: Set(ONE), content: Set(written), version: Set(version + 1) };
    row.update(db).await?;
    keep(db, Kind::Settings, ONE, version + 1, &content, act).await?;
    Ok((content, version + 1))
}

fn read(row: Option<settings::Model>) -> Result<(Settings, i32), StoreError> {
    let row = row.ok_or(StoreError::not_found("settings", ONE))?;
    Ok((serde_json::from_value(row.content).map_err(|cause| damaged(&cause))?, row.version))
}

fn damaged(cause: &serde_json::Error) -> StoreError {
    StoreError::Damaged { what: "settings", id: ONE, why: cause.to_string() }
}
