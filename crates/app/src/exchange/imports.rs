//! How imports go on, whatever they bring.

use pruvex_core::FieldError;
use pruvex_formats::Remark;
use pruvex_store::exchange::{Imported, ImportedTable};
use pruvex_store::progress::ImportPhase;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use super::import_run::{Run, Stage};
use super::outcome::{Outcome, ReferenceFile};
use crate::people::StudyWriter;
use crate::{App, AppError};

/// How an import stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ImportState {
    /// Other files are read before it.
    Waiting,
    /// It is under way.
    Busy,
    /// It came to its end.
    Done,
    /// The file has faults; nothing was changed.
    Refused,
    /// It was stopped; nothing was changed.
    Stopped,
    /// Something else went wrong; nothing was changed.
    Failed,
}

/// An import.
#[derive(Debug, Serialize, ToSchema)]
pub struct ImportView {
    id: Uuid,
    /// Nothing is changed by it.
    preview: bool,
    state: ImportState,
    /// What it is doing, while it is under way.
    phase: Option<ImportPhase>,
    /// Rows, entries or sheets done in this phase.
    done: usize,
    /// Of how many; 0 while that is not known.
    of: usize,
    /// What a bundle brought, or would bring.
    bundle: Option<Imported>,
    /// What a table brought, or would bring.
    imported: Option<ImportedTable>,
    /// What a file of references brought, or would bring.
    reference_file: Option<ReferenceFile>,
    /// What should be known of the file.
    remarks: Vec<Remark>,
    /// Faults of the file, the first 500 of them.
    faults: Vec<FieldError>,
    /// How many there are.
    fault_count: usize,
    /// Why it failed.
    why: Option<String>,
}

impl ImportView {
    pub(super) fn of(run: &Run) -> Self {
        Self::at(run, run.stage())
    }

    fn at(run: &Run, stage: Stage) -> Self {
        let mut view = Self {
            id: run.id,
            preview: run.preview,
            state: ImportState::Waiting,
            phase: None,
            done: 0,
            of: 0,
            bundle: None,
            imported: None,
            reference_file: None,
            remarks: Vec::new(),
            faults: Vec::new(),
            fault_count: 0,
            why: None,
        };
        match stage {
            Stage::Waiting => {}
            Stage::Busy { phase, done, of } => {
                (view.state, view.phase, view.done, view.of) = (ImportState::Busy, Some(phase), done, of);
            }
            Stage::Done(Outcome::Bundle(imported)) => (view.state, view.bundle) = (ImportState::Done, Some(imported)),
            Stage::Done(Outcome::Table { table, remarks }) => {
                (view.state, view.imported, view.remarks) = (ImportState::Done, Some(*table), remarks);
            }
            Stage::Done(Outcome::References(file)) => {
                (view.state, view.reference_file) = (ImportState::Done, Some(*file))
            }
            Stage::Refused { faults } => {
                view.state = ImportState::Refused;
                view.fault_count = faults.count();
                view.faults = faults.told().to_vec();
            }
            Stage::Stopped => view.state = ImportState::Stopped,
            Stage::Failed { why } => (view.state, view.why) = (ImportState::Failed, Some(why)),
        }
        view
    }
}

/// How one of your imports goes on.
///
/// # Errors
/// None of yours with this id.
pub fn get_import(app: &App, by: &StudyWriter, id: Uuid) -> Result<ImportView, AppError> {
    Ok(ImportView::of(&*app.imports.of(by.id(), id)?))
}

/// Stops one of your imports. The answer says how it ended: nothing was changed, or it was done before.
///
/// # Errors
/// None of yours with this id.
pub async fn stop_import(app: &App, by: &StudyWriter, id: Uuid) -> Result<ImportView, AppError> {
    let run = app.imports.of(by.id(), id)?;
    let stage = run.stop().await;
    Ok(ImportView::at(&run, stage))
}
