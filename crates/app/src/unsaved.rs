//! What somebody is writing and has not saved.

use chrono::{DateTime, Utc};
use pruvex_core::people::Right;
use pruvex_store::unsaved::{self as store, Unsaved};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;

use crate::people::StudyWriter;
use crate::{App, AppError};

pub use pruvex_store::unsaved::What;

/// A form as it was typed.
#[derive(Debug, Serialize, ToSchema)]
pub struct UnsavedView {
    /// The version it began from; `null` for a new record.
    version: Option<i32>,
    content: Value,
    at: DateTime<Utc>,
}

/// A form as it is being typed.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct UnsavedInput {
    version: Option<i32>,
    content: Value,
}

/// Only who may save it keeps it.
fn check(by: &StudyWriter, what: What) -> Result<What, AppError> {
    match what {
        What::Sheet(_) | What::Plan(_) if !by.role().may(Right::WriteSheets) => {
            Err(AppError::NotAllowed { right: Right::WriteSheets })
        }
        what => Ok(what),
    }
}

/// What you were writing there; `None` when nothing is kept.
///
/// # Errors
/// [`AppError::NotAllowed`].
pub async fn get_unsaved(app: &App, by: &StudyWriter, what: What) -> Result<Option<UnsavedView>, AppError> {
    let found = store::get_unsaved(&app.db, by.id(), check(by, what)?).await?;
    Ok(found.map(|Unsaved { version, content, at }| UnsavedView { version, content, at }))
}

/// Keeps what you are writing.
///
/// # Errors
/// [`AppError::NotAllowed`], no such record, more than is kept for one person.
pub async fn put_unsaved(app: &App, by: &StudyWriter, what: What, input: UnsavedInput) -> Result<(), AppError> {
    let UnsavedInput { version, content } = input;
    Ok(store::put_unsaved(&app.db, by.id(), check(by, what)?, version, content).await?)
}

/// Forgets it.
///
/// # Errors
/// [`AppError::NotAllowed`].
pub async fn delete_unsaved(app: &App, by: &StudyWriter, what: What) -> Result<(), AppError> {
    Ok(store::delete_unsaved(&app.db, by.id(), check(by, what)?).await?)
}
