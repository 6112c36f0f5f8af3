//! Imports that landed, and taking one back.

use chrono::{DateTime, Utc};
use pruvex_core::people::Right;
use pruvex_store::exchange::{self as store, Brought, PastImport};
use pruvex_store::landing::ImportKind;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::app::commit;
use crate::people::{DraftReader, StudyWriter};
use crate::{App, AppError};

/// Longer names of files are cut.
const LONGEST_NAME: usize = 200;

/// A file's name as it is kept: without what does not show.
pub(super) fn file_name(given: &str) -> String {
    given.chars().filter(|sign| !sign.is_control()).take(LONGEST_NAME).collect::<String>().trim().to_owned()
}

/// An import that landed.
#[derive(Debug, Serialize, ToSchema)]
pub struct PastImportView {
    id: Uuid,
    kind: ImportKind,
    /// Name of the file, or the title that it gave itself; may be empty.
    name: String,
    /// Who brought it; `null` for the installation.
    by: Option<String>,
    at: DateTime<Utc>,
    brought: Brought,
    /// When it was taken back, if it was.
    taken_back_at: Option<DateTime<Utc>>,
    /// By whom.
    taken_back_by: Option<String>,
    /// Whoever asks may take it back, as long as nothing was changed or built on it since.
    may_take_back: bool,
}

/// Whoever brought it, as long as their role lets them write what it brought; and administrators.
fn may_take_back(import: &PastImport, account: Uuid, may: impl Fn(Right) -> bool) -> bool {
    let wrote = if import.kind == ImportKind::Bundle { Right::WriteSheets } else { Right::WriteStudies };
    may(Right::ManageAccounts) || (import.account == Some(account) && may(wrote))
}

/// The newest imports that landed, the newest first.
///
/// # Errors
/// Database errors.
pub async fn list_past_imports(app: &App, by: &DraftReader) -> Result<Vec<PastImportView>, AppError> {
    let view = |it: PastImport| {
        let may = it.taken_back.is_none() && may_take_back(&it, by.id(), |right| by.role().may(right));
        let PastImport { id, kind, name, by, at, brought, taken_back, .. } = it;
        let (taken_back_at, taken_back_by) = taken_back.unzip();
        PastImportView { id, kind, name, by, at, brought, taken_back_at, taken_back_by, may_take_back: may }
    };
    Ok(store::list_past_imports(&app.db).await?.into_iter().map(view).collect())
}

/// Takes an import back as one: what it added goes, what it changed says what it said before. Histories keep both.
///
/// # Errors
/// [`AppError::Fields`] with everything that was changed or built on it since, [`AppError::NotAllowed`] for the import of somebody else,
/// no such import.
pub async fn take_back_import(app: &App, by: &StudyWriter, id: Uuid) -> Result<(), AppError> {
    let import = store::get_past_import(&app.db, id).await?;
    if !may_take_back(&import, by.id(), |right| by.role().may(right)) {
        return Err(AppError::NotAllowed { right: Right::ManageAccounts });
    }
    let transaction = app.writers.begin_import().await?;
    store::take_back(&transaction, id, by.id()).await?;
    commit(transaction).await
}
