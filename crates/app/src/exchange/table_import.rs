//! Tables of studies and results into the catalogue: looked at, compared with what is on record, taken in.

use pruvex_core::FieldError;
use pruvex_formats::{Remark, TableView, open_table, read_mapping, results_template, view_table};
use pruvex_store::exchange::{ImportPhase, ImportedTable, chosen_columns_of};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use super::import_run::{Run, Stage, Wish};
use crate::blocking::blocking;
use crate::people::StudyWriter;
use crate::{App, AppError, FileContent, media};

/// So many faults are told; who has corrected them sees the others.
const TOLD: usize = 500;

/// Where in a file the table stands.
#[derive(Debug, Clone, Copy, Default)]
pub struct TablePlace {
    /// Place of a workbook's sheet, from 0.
    pub sheet: Option<usize>,
    /// Row of the columns' names, from 1.
    pub header_row: Option<u32>,
}

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

/// An import of a table.
#[derive(Debug, Serialize, ToSchema)]
pub struct ImportView {
    id: Uuid,
    /// Nothing is changed by it.
    preview: bool,
    state: ImportState,
    /// What it is doing, while it is under way.
    phase: Option<ImportPhase>,
    /// Rows done in this phase.
    done: usize,
    /// Of how many; 0 while that is not known.
    of: usize,
    /// What it brought, or would bring.
    imported: Option<ImportedTable>,
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
    fn of(run: &Run, stage: Stage) -> Self {
        let mut view = Self {
            id: run.id,
            preview: run.preview,
            state: ImportState::Waiting,
            phase: None,
            done: 0,
            of: 0,
            imported: None,
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
            Stage::Done { table, remarks } => {
                (view.state, view.imported, view.remarks) = (ImportState::Done, Some(*table), remarks);
            }
            Stage::Refused { mut faults } => {
                (view.state, view.fault_count) = (ImportState::Refused, faults.len());
                faults.truncate(TOLD);
                view.faults = faults;
            }
            Stage::Stopped => view.state = ImportState::Stopped,
            Stage::Failed { why } => (view.state, view.why) = (ImportState::Failed, Some(why)),
        }
        view
    }
}

/// A workbook to be filled in, with every column that is understood.
///
/// # Errors
/// None but our own.
pub async fn table_template(_by: &StudyWriter) -> Result<FileContent, AppError> {
    let bytes = blocking(results_template).await?.map_err(AppError::internal)?;
    Ok(FileContent::new(bytes, "pruvex-studies-and-results.xlsx", media::XLSX))
}

/// The columns of a table, and what they are taken to hold.
///
/// # Errors
/// A file that is no table.
pub async fn table_columns(
    app: &App,
    by: &StudyWriter,
    place: TablePlace,
    bytes: Vec<u8>,
) -> Result<TableView, AppError> {
    let TablePlace { sheet, header_row } = place;
    let chosen = chosen_columns_of(&app.db, by.id()).await?;
    let _place = app.imports.place().await?;
    let view = blocking(move || open_table(&bytes, sheet).map(|file| view_table(&file, header_row, &chosen))).await?;
    view.map_err(AppError::Fields)
}

/// Begins to import a table, all of it or nothing; or to compare it with what is on record. Answers at once: how it goes on is asked for.
///
/// # Errors
/// Columns that are not understood, [`AppError::ImportRunning`].
pub fn begin_table_import(
    app: &App,
    by: &StudyWriter,
    columns: &str,
    preview: bool,
    place: TablePlace,
    bytes: Vec<u8>,
) -> Result<ImportView, AppError> {
    let TablePlace { sheet, header_row } = place;
    let mapping = read_mapping(columns).map_err(AppError::Asked)?;
    let wish = Wish { bytes, sheet, header_row, mapping, preview };
    let run = app.imports.begin(app.writers.clone(), by.id(), wish)?;
    Ok(ImportView::of(&run, run.stage()))
}

/// How one of your imports goes on.
///
/// # Errors
/// None of yours with this id.
pub fn get_table_import(app: &App, by: &StudyWriter, id: Uuid) -> Result<ImportView, AppError> {
    let run = app.imports.of(by.id(), id)?;
    Ok(ImportView::of(&run, run.stage()))
}

/// Stops one of your imports. The answer says how it ended: nothing was changed, or it was done before.
///
/// # Errors
/// None of yours with this id.
pub async fn stop_table_import(app: &App, by: &StudyWriter, id: Uuid) -> Result<ImportView, AppError> {
    let run = app.imports.of(by.id(), id)?;
    let stage = run.stop().await;
    Ok(ImportView::of(&run, stage))
}
