//! Tables of studies and results into the catalogue: looked at, compared with what is on record, taken in.

use std::sync::Arc;

use pruvex_formats::{
    TableView, change_cells, chosen_columns, open_table, read_changes, read_mapping, read_results_table,
    results_template, view_table,
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

/// Begins to import a table, all of it or nothing; or to compare it with what is on record. Answers at once: how it goes on is asked for.
///
/// # Errors
/// Columns or changes that are not understood, [`AppError::ImportRunning`].
pub fn begin_table_import(
    app: &App,
    by: &StudyWriter,
    reading: TableReading<'_>,
    place: TablePlace,
    name: &str,
    bytes: Vec<u8>,
) -> Result<ImportView, AppError> {
    let TablePlace { sheet, header_row } = place;
    let TableReading { columns, changes, preview } = reading;
    let mapping = read_mapping(columns).map_err(AppError::Asked)?;
    let changes = read_changes(changes).map_err(AppError::Asked)?;
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
        let Some(imported) = import_table(transaction, &table, act, landing, &step).await? else { return Ok(None) };
        if !preview && let Err(cause) = remember_columns(writers.notes(), account, &chosen).await {
            warn!(%cause, "what the columns of a table hold is not remembered");
        }
        remarks.extend(table.remarks);
        Ok(Some(Outcome::Table { table: Box::new(imported), remarks }))
    })?;
    Ok(ImportView::of(&run))
}
