//! Tables of studies and results into the catalogue: looked at, compared with what is on record, taken in.

use std::collections::HashSet;
use std::sync::Arc;

use pruvex_core::catalogue::{Sheet, SheetInput};
use pruvex_core::people::Right;
use pruvex_core::{FieldError, FieldErrorCode};
use pruvex_formats::{
    PickedRows, TableView, change_cells, chosen_columns, open_table, pick_rows, read_changes, read_mapping,
    read_results_table, results_template, view_table,
};
use pruvex_store::exchange::{chosen_columns_of, import_table, remember_columns};
use pruvex_store::history::Act;
use pruvex_store::landing::Landing;
use pruvex_store::progress::ImportPhase;
use tracing::warn;

use super::imports::ImportView;
use super::outcome::Outcome;
use super::past_imports::file_name;
use crate::blocking::blocking;
use crate::people::StudyWriter;
use crate::{App, AppError, FileContent, media};

/// How a table is read.
#[derive(Debug, Clone, Copy, Default)]
pub struct TableReading<'r> {
    /// What its columns hold: `B:test,C:tp`.
    pub columns: &'r str,
    /// What is read in the place of what stands in the file, as a list in JSON.
    pub changes: &'r str,
    /// Sheets to be written as drafts for tests that have none, as a list in JSON.
    pub drafts: &'r str,
    /// It is only compared with what is on record.
    pub preview: bool,
}

/// Where in a file the table stands.
#[derive(Debug, Clone, Copy, Default)]
pub struct TablePlace {
    /// Place of a workbook's sheet, from 0.
    pub sheet: Option<usize>,
    /// Row of the columns' names, from 1.
    pub header_row: Option<u32>,
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

/// Rows of a table as they stand in the file.
///
/// # Errors
/// A file that is no table.
pub async fn table_rows(
    app: &App,
    _by: &StudyWriter,
    place: TablePlace,
    wanted: HashSet<u32>,
    bytes: Vec<u8>,
) -> Result<PickedRows, AppError> {
    let TablePlace { sheet, header_row } = place;
    let _place = app.imports.place().await?;
    let rows = blocking(move || open_table(&bytes, sheet).map(|file| pick_rows(&file, header_row, &wanted))).await?;
    rows.map_err(AppError::Fields)
}

/// Sheets that are written as drafts: `[{"name": "Thumb lift", "region": "hand_wrist", ...}]`.
fn read_drafts(text: &str) -> Result<Vec<Sheet>, AppError> {
    if text.trim().is_empty() {
        return Ok(Vec::new());
    }
    let refuse = |code, message: String, remedy: &str| {
        AppError::Asked(vec![FieldError::new("drafts", code, text, message, remedy)])
    };
    let given: Vec<SheetInput> = serde_json::from_str(text).map_err(|cause| {
        let message = format!("This is not a list of sheets: {cause}.");
        refuse(FieldErrorCode::Invalid, message, "Write each as it is sent to /tests.")
    })?;
    if given.len() > MOST_DRAFTS {
        let message = format!("These are {} sheets; at most {MOST_DRAFTS} are written.", given.len());
        return Err(refuse(FieldErrorCode::TooLong, message, "Write the others first."));
    }
    let mut faults = Vec::new();
    let mut sheets = Vec::new();
    for (place, input) in given.iter().enumerate() {
        match Sheet::check(input) {
            Ok(sheet) => sheets.push(sheet),
            Err(found) => faults.extend(found.into_iter().map(|it| it.within(&format!("drafts[{place}].")))),
        }
    }
    if faults.is_empty() { Ok(sheets) } else { Err(AppError::Asked(faults)) }
}

/// A table that names more tests without a sheet is of another catalogue.
const MOST_DRAFTS: usize = 50;

/// Begins to import a table, all of it or nothing; or to compare it with what is on record. Answers at once: how it goes on is asked for.
///
/// # Errors
/// Columns, changes or drafts that are not understood, [`AppError::NotAllowed`] for drafts by who may not write sheets,
/// [`AppError::ImportRunning`].
pub fn begin_table_import(
    app: &App,
    by: &StudyWriter,
    reading: TableReading<'_>,
    place: TablePlace,
    name: &str,
    bytes: Vec<u8>,
) -> Result<ImportView, AppError> {
    let TablePlace { sheet, header_row } = place;
    let TableReading { columns, changes, drafts, preview } = reading;
    let mapping = read_mapping(columns).map_err(AppError::Asked)?;
    let changes = read_changes(changes).map_err(AppError::Asked)?;
    let drafts = read_drafts(drafts)?;
    if !drafts.is_empty() && !by.role().may(Right::WriteSheets) {
        return Err(AppError::NotAllowed { right: Right::WriteSheets });
    }
    let (writers, account, name) = (app.writers.clone(), by.id(), file_name(name));
    let run = app.imports.begin(account, preview, move |run| async move {
        let reader = Arc::clone(&run);
        let read = blocking(move || {
            if !reader.step(ImportPhase::Reading, 0, 0) {
                return Ok(None);
            }
            let mut file = open_table(&bytes, sheet).map_err(AppError::Fields)?;
            drop(bytes);
            change_cells(&mut file, header_row, &mapping, &changes).map_err(AppError::Fields)?;
            let step = |done, of| reader.step(ImportPhase::Reading, done, of);
            let table = read_results_table(&file, header_row, &mapping, &step);
            let chosen = chosen_columns(&file, header_row, &mapping);
            let remarks = file.remarks;
            table.transpose().map(|table| table.map(|table| (table, remarks, chosen))).map_err(AppError::Fields)
        });
        let Some((table, mut remarks, chosen)) = read.await?? else { return Ok(None) };
        let act = Act::of("imported", Some(account));
        let landing = (!preview).then_some(Landing { id: run.id, name: &name });
        let step = |phase, done, of| run.step(phase, done, of);
        let transaction = writers.begin_import().await?;
        let Some(imported) = import_table(transaction, &table, &drafts, act, landing, &step).await? else {
            return Ok(None);
        };
        if !preview && let Err(cause) = remember_columns(writers.notes(), account, &chosen).await {
            warn!(%cause, "what the columns of a table hold is not remembered");
        }
        remarks.extend(table.remarks);
        Ok(Some(Outcome::Table { table: Box::new(imported), remarks }))
    })?;
    Ok(ImportView::of(&run))
}
