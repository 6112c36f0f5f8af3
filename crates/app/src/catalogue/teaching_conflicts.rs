//! The register of conflicting teaching: list, file, change, delete, restore.

use pruvex_core::TestId;
use pruvex_core::catalogue::{Region, TeachingConflict, TeachingConflictInput};
use pruvex_core::people::Role;
use pruvex_store::history::Act;
use pruvex_store::teaching_conflict::{self as store, TeachingConflictRecord};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use super::{NamedTest, named};
use crate::app::commit;
use crate::people::{Reader, SheetWriter};
use crate::{App, AppError, Versioned};

/// An entry of the register.
#[derive(Debug, Serialize, ToSchema)]
pub struct TeachingConflictView {
    id: Uuid,
    version: i32,
    /// It is made up.
    sample: bool,
    #[serde(flatten)]
    conflict: TeachingConflict,
    /// Names of its tests, of those that you may see.
    named_tests: Vec<NamedTest>,
}

impl Versioned for TeachingConflictView {
    fn version(&self) -> i32 {
        self.version
    }
}

async fn views(
    app: &App,
    role: Role,
    records: Vec<TeachingConflictRecord>,
) -> Result<Vec<TeachingConflictView>, AppError> {
    let names = named(app, role, records.iter().flat_map(|record| record.conflict.tests.iter().copied())).await?;
    let view = |TeachingConflictRecord { id, version, sample, conflict }: TeachingConflictRecord| {
        let named_tests = conflict.tests.iter().filter_map(|id| names.get(id).cloned()).collect();
        TeachingConflictView { id, version, sample, conflict, named_tests }
    };
    Ok(records.into_iter().map(view).collect())
}

async fn one(app: &App, by: &SheetWriter, record: TeachingConflictRecord) -> Result<TeachingConflictView, AppError> {
    let first = views(app, by.role(), vec![record]).await?.into_iter().next();
    first.ok_or_else(|| AppError::internal("an entry without its view"))
}

/// Entries of the register in the order in which they were filed: of a region, or those that name a test.
///
/// # Errors
/// Database errors.
pub async fn list_teaching_conflicts(
    app: &App,
    by: &Reader,
    region: Option<Region>,
    test: Option<TestId>,
) -> Result<Vec<TeachingConflictView>, AppError> {
    views(app, by.role(), store::list_teaching_conflicts(&app.db, region, test).await?).await
}

/// Files an entry.
///
/// # Errors
/// An entry that breaks rules.
pub async fn create_teaching_conflict(
    app: &App,
    by: &SheetWriter,
    input: TeachingConflictInput,
) -> Result<TeachingConflictView, AppError> {
    let conflict = TeachingConflict::check(&input).map_err(AppError::Fields)?;
    let transaction = app.begin().await?;
    let act = Act::of("created", Some(by.id()));
    let record = store::create_teaching_conflict(&transaction, &conflict, false, act).await?;
    commit(transaction).await?;
    one(app, by, record).await
}

/// Saves an entry that was read at this version.
///
/// # Errors
/// An entry that breaks rules, no such entry, [`AppError::Conflict`].
pub async fn update_teaching_conflict(
    app: &App,
    by: &SheetWriter,
    id: Uuid,
    version: i32,
    input: TeachingConflictInput,
) -> Result<TeachingConflictView, AppError> {
    let conflict = TeachingConflict::check(&input).map_err(AppError::Fields)?;
    let transaction = app.begin().await?;
    let act = Act::of("edited", Some(by.id()));
    let record = store::update_teaching_conflict(&transaction, id, version, &conflict, act).await?;
    commit(transaction).await?;
    one(app, by, record).await
}

/// Deletes an entry, or brings a deleted one back.
///
/// # Errors
/// No such entry, [`AppError::Conflict`].
pub async fn set_teaching_conflict_deleted(
    app: &App,
    by: &SheetWriter,
    id: Uuid,
    version: i32,
    deleted: bool,
) -> Result<TeachingConflictView, AppError> {
    let act = Act::of(if deleted { "deleted" } else { "restored" }, Some(by.id()));
    let transaction = app.begin().await?;
    let record = store::set_teaching_conflict_deleted(&transaction, id, version, deleted, act).await?;
    commit(transaction).await?;
    one(app, by, record).await
}
