//! Values that are read in the place of what stands in a file, so that a table is corrected while it comes in and the file stays as it is.

use std::collections::BTreeMap;

use pruvex_core::{FieldError, FieldErrorCode};
use rust_xlsxwriter::utility::column_name_to_number;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::cells::{Cell, TableFile};
use super::fields::FIELDS;
use super::heading::split;

/// More are not taken: such a table is corrected as a whole.
const MOST_CHANGES: usize = 500;

/// One value in the place of another.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(untagged, expecting = "expected a cell and what it becomes, or a field, what it was and what it becomes")]
pub enum TableChange {
    /// In one cell, by its address.
    Cell {
        /// Such as `D5`.
        cell: String,
        /// What is read there; empty as if nothing stood there.
        becomes: String,
    },
    /// In every cell of a field that says the same.
    Value {
        /// The field.
        field: String,
        /// What stands in the file.
        was: String,
        /// What is read there.
        becomes: String,
    },
}

/// Reads a list of changes.
///
/// # Errors
/// Text that is no such list, or a list that is too long.
pub fn read_changes(text: &str) -> Result<Vec<TableChange>, Vec<FieldError>> {
    if text.trim().is_empty() {
        return Ok(Vec::new());
    }
    let refuse =
        |code, message: String, remedy: &str| Err(vec![FieldError::new("changes", code, text, message, remedy)]);
    match serde_json::from_str::<Vec<TableChange>>(text) {
        Ok(changes) if changes.len() <= MOST_CHANGES => Ok(changes),
        Ok(changes) => {
            let message = format!("These are {} changes; at most {MOST_CHANGES} are made.", changes.len());
            refuse(FieldErrorCode::TooLong, message, "Correct the file.")
        }
        Err(cause) => {
            let remedy =
                r#"Write [{"cell": "D5", "becomes": "12"}, {"field": "test", "was": "Lfit", "becomes": "Lift"}]."#;
            refuse(FieldErrorCode::Invalid, format!("This is not a list of changes: {cause}."), remedy)
        }
    }
}

/// Makes the changes in what was read of a file; the later one of two for the same cell counts.
///
/// # Errors
/// Each that names a cell outside of the table's rows, or a field that no column holds.
pub fn change_cells(
    file: &mut TableFile,
    header_row: Option<u32>,
    mapping: &BTreeMap<&'static str, usize>,
    changes: &[TableChange],
) -> Result<(), Vec<FieldError>> {
    let header = split(file, header_row).0.number;
    let mut errors = Vec::new();
    for change in changes {
        match change {
            TableChange::Cell { cell, becomes } => {
                let place = address(cell);
                let row = place
                    .and_then(|(_, number)| file.rows.iter_mut().find(|row| row.number == number && number > header));
                match (place, row) {
                    (Some((column, _)), Some(row)) => {
                        if row.cells.len() <= column {
                            row.cells.resize(column + 1, Cell::Empty);
                        }
                        row.cells[column] = typed(becomes);
                    }
                    _ => {
                        let message = "The rows of the table have no such cell.";
                        let remedy = "Give the letters of its column and the number of its row, such as D5.";
                        errors.push(FieldError::new("changes", FieldErrorCode::Unknown, cell, message, remedy));
                    }
                }
            }
            TableChange::Value { field, was, becomes } => match mapping.get(field.as_str()) {
                Some(column) => {
                    let rows = file.rows.iter_mut().filter(|row| row.number > header);
                    let cells = rows.filter_map(|row| row.cells.get_mut(*column));
                    cells.filter(|cell| cell.text() == *was).for_each(|cell| *cell = typed(becomes));
                }
                None => {
                    let known = FIELDS.iter().any(|it| it.name == field);
                    let message = if known { "No column of this table holds this." } else { "There is no such field." };
                    let remedy = "Choose a column for it first, or leave the change out.";
                    errors.push(FieldError::new("changes", FieldErrorCode::Unknown, field, message, remedy));
                }
            },
        }
    }
    if errors.is_empty() { Ok(()) } else { Err(errors) }
}

fn typed(text: &str) -> Cell {
    match text.trim() {
        "" => Cell::Empty,
        text => Cell::Text(text.to_owned()),
    }
}

/// Column from 0 and row from 1 of an address such as `D5`.
fn address(cell: &str) -> Option<(usize, u32)> {
    let cell = cell.trim();
    let digits = cell.find(|sign: char| sign.is_ascii_digit())?;
    let (letters, number) = cell.split_at(digits);
    let plain = (1..=3).contains(&letters.len()) && letters.bytes().all(|byte| byte.is_ascii_alphabetic());
    // A spreadsheet has columns up to XFD; further ones would only take memory.
    let column = plain.then(|| usize::from(column_name_to_number(&letters.to_ascii_uppercase())))?;
    (column < 16_384).then_some(())?;
    Some((column, number.parse().ok()?))
}
