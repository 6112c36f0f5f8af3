//! Which column holds what: told by the column's name, by what somebody chose for that name before, or by choosing.

use std::collections::{BTreeMap, HashMap, HashSet};

use pruvex_core::{FieldError, FieldErrorCode};
use rust_xlsxwriter::utility::{column_name_to_number, column_number_to_name};
use serde::Serialize;
use utoipa::ToSchema;

use super::cells::{Cell, Remark, TableFile};
use super::fields::{FIELDS, Mapping, TableField, named, plain};
use super::heading::split;
use super::row::choices;

/// One column of a file.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct ColumnView {
    /// `A`, `B`, ...
    pub letter: String,
    /// What stands at its head.
    pub header: String,
    /// What stands below: the first few different values.
    pub examples: Vec<String>,
    /// What it is taken to hold; `null` when it is left out.
    pub field: Option<String>,
    /// Somebody chose that for a column of this name before.
    pub remembered: bool,
}

/// A file before it is imported: its columns, and what they are taken to hold.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct TableView {
    /// Names of a workbook's sheets; none of a CSV file.
    pub sheets: Vec<String>,
    /// The one that was read.
    pub sheet: usize,
    /// Row of the columns' names, from 1.
    pub header_row: u32,
    /// Rows below it.
    pub rows: usize,
    /// Its columns.
    pub columns: Vec<ColumnView>,
    /// Everything that a column can hold.
    pub fields: Vec<TableField>,
    /// Of fields with few possible values, those.
    pub choices: BTreeMap<&'static str, Vec<&'static str>>,
    /// What should be known of the file.
    pub remarks: Vec<Remark>,
}

/// Looks at a file's columns. `chosen` tells what was chosen before for columns of these names, which are written without capitals,
/// spaces and signs; nothing stands for a column that was left out. Of two columns for the same field the first has it.
#[must_use]
pub fn view_table(file: &TableFile, header_row: Option<u32>, chosen: &HashMap<String, Option<String>>) -> TableView {
    let (header, rows) = split(file, header_row);
    let width = rows.iter().chain([header]).map(|row| row.cells.len()).max().unwrap_or(0);
    let mut taken: HashSet<String> = HashSet::new();
    let mut columns = Vec::new();
    for column in 0..width {
        let title = header.cells.get(column).map(Cell::text).unwrap_or_default();
        let mut examples: Vec<String> = Vec::new();
        for cell in rows.iter().filter_map(|row| row.cells.get(column)).filter(|cell| **cell != Cell::Empty) {
            let text: String = cell.text().chars().take(60).collect();
            if !examples.contains(&text) {
                examples.push(text);
            }
            if examples.len() == 3 {
                break;
            }
        }
        if title.is_empty() && examples.is_empty() {
            continue;
        }
        let before = chosen.get(&plain(&title));
        let field = match before {
            Some(before) => before.clone(),
            None => named(&title).map(str::to_owned),
        };
        let field = field.filter(|field| taken.insert(field.clone()));
        let remembered = before.is_some_and(|before| before.as_deref() != named(&title));
        columns.push(ColumnView {
            letter: column_number_to_name(u16::try_from(column).unwrap_or(u16::MAX - 1)),
            header: title,
            examples,
            field,
            remembered,
        });
    }
    TableView {
        sheets: file.sheets.clone(),
        sheet: file.sheet,
        header_row: header.number,
        rows: rows.len(),
        columns,
        fields: FIELDS.to_vec(),
        choices: choices(),
        remarks: file.remarks.clone(),
    }
}

/// Rows of a file as they stand there.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct PickedRows {
    /// The names of all columns.
    pub header: Vec<String>,
    /// The rows that were asked for and are there, in their order.
    pub rows: Vec<PickedRow>,
}

/// A row of a file as it stands there.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct PickedRow {
    /// Its number.
    pub row: u32,
    /// What stands in it, column by column.
    pub cells: Vec<String>,
}

/// The rows of these numbers below the columns' names.
#[must_use]
pub fn pick_rows(file: &TableFile, header_row: Option<u32>, wanted: &HashSet<u32>) -> PickedRows {
    let (header, rows) = split(file, header_row);
    let texts = |cells: &[Cell]| cells.iter().map(Cell::text).collect();
    let rows = rows.iter().filter(|row| wanted.contains(&row.number));
    PickedRows {
        header: texts(&header.cells),
        rows: rows.map(|row| PickedRow { row: row.number, cells: texts(&row.cells) }).collect(),
    }
}

/// Reads `B:test,C:tp`: for each column by its letters the field that it holds.
///
/// # Errors
/// Every part that names no column, no field, or a field that another column holds.
pub fn read_mapping(text: &str) -> Result<BTreeMap<&'static str, usize>, Vec<FieldError>> {
    let (mut mapping, mut errors) = (Mapping::new(), Vec::new());
    for part in text.split(',').filter(|part| !part.trim().is_empty()) {
        let (letter, name) = part.split_once(':').unwrap_or((part, ""));
        let (letter, name) = (letter.trim(), name.trim());
        let mut refuse = |code, message: String, remedy: &str| {
            errors.push(FieldError::new("columns", code, part, message, remedy));
        };
        let column = place(letter);
        let field = FIELDS.iter().map(|field| field.name).find(|known| *known == name);
        match (column, field) {
            (None, _) => {
                refuse(FieldErrorCode::Unknown, format!("{letter:?} names no column."), "Give its letters, such as C.");
            }
            (_, None) => {
                refuse(FieldErrorCode::Unknown, format!("No column can hold {name:?}."), "Give the name of a field.");
            }
            (Some(column), Some(field)) => {
                if mapping.insert(field, column).is_some() {
                    let message = format!("Two columns are assigned to {field}.");
                    refuse(FieldErrorCode::Duplicate, message, "Choose one of them.");
                }
            }
        }
    }
    if errors.is_empty() { Ok(mapping) } else { Err(errors) }
}

/// Place of a column by its letters.
fn place(letters: &str) -> Option<usize> {
    if letters.is_empty() || letters.len() > 3 || !letters.bytes().all(|byte| byte.is_ascii_alphabetic()) {
        return None;
    }
    Some(usize::from(column_name_to_number(&letters.to_ascii_uppercase())))
}

/// What was chosen for the columns of a file, to be remembered: by their plain names.
#[must_use]
pub fn chosen_columns(
    file: &TableFile,
    header_row: Option<u32>,
    mapping: &BTreeMap<&'static str, usize>,
) -> Vec<(String, Option<String>)> {
    let (header, _) = split(file, header_row);
    let of = |column: usize| mapping.iter().find(|(_, place)| **place == column).map(|(field, _)| (*field).to_owned());
    let titles = header.cells.iter().enumerate().map(|(column, cell)| (plain(&cell.text()), of(column)));
    titles.filter(|(title, _)| !title.is_empty()).collect()
}
