//! Cells as they are pasted from a spreadsheet: with or without names in the first row and the first column.

use crate::agreement::RatingError;
use crate::field::Checker;
use crate::{Count, FieldError, FieldErrorCode};

/// More rows are refused before they are looked at.
const MAX_ROWS: usize = 5_000;
/// More columns are refused.
const MAX_COLUMNS: usize = 60;

/// Tidied cells.
pub(super) struct Grid {
    /// All cells as they were written, trimmed, without empty lines.
    pub rows: Vec<Vec<String>>,
    /// Names of the columns.
    pub head: Option<Vec<String>>,
    /// Names of the rows.
    pub labels: Option<Vec<String>>,
}

impl Grid {
    /// A grid in which every cell may be a word: no row or column is taken for names.
    pub fn of_words(c: &mut Checker, field: &str, rows: &[Vec<String>]) -> Option<Self> {
        let rows = tidy(c, field, rows)?;
        Some(Self { rows, head: None, labels: None })
    }

    /// A grid of numbers. A first row without a number in it holds names, and so does a first column beside numbers; names that
    /// are numbers themselves are known by the empty corner between equal ones.
    pub fn of_numbers(c: &mut Checker, field: &str, rows: &[Vec<String>]) -> Option<Self> {
        let rows = tidy(c, field, rows)?;
        let number =
            |cell: &String| cell.contains(|it: char| it.is_ascii_digit()) && !cell.contains(char::is_alphabetic);
        let first = |rows: &[Vec<String>]| rows.iter().filter_map(|row| row.first().cloned()).collect::<Vec<_>>();
        let framed = rows[0].first().is_some_and(String::is_empty) && rows[0][1..] == first(&rows[1..]);
        // `6mm` is a value that somebody has to look at, no name to be passed over.
        let value = |cell: &String| number(cell) || cell.starts_with(|it: char| it.is_ascii_digit());
        let named = framed || (rows.len() > 1 && !rows[0].iter().any(value));
        let body = &rows[usize::from(named)..];
        let beside = || body.iter().any(|row| row.iter().skip(1).any(number));
        let words = |row: &Vec<String>| row.first().is_some_and(|cell| !cell.is_empty() && !number(cell));
        let labelled = framed || (body.iter().all(words) && beside());
        let labels = labelled.then(|| first(body));
        // Over the column of names stands nothing, or what the rows are.
        let head = named.then(|| {
            let width = body.first().map_or(0, Vec::len) - usize::from(labelled);
            let skipped = rows[0].len().saturating_sub(width);
            rows[0][skipped..].to_vec()
        });
        Some(Self { rows, head, labels })
    }

    /// Every cell that is no name, read; all that cannot be read are kept as faults.
    pub fn parse<T>(
        &self,
        c: &mut Checker,
        field: &str,
        read: impl Fn(&str) -> Result<T, CellFault>,
    ) -> Option<Vec<Vec<T>>> {
        let (top, left) = self.offset();
        let mut whole = true;
        let mut values = Vec::with_capacity(self.rows.len());
        for (i, row) in self.rows.iter().enumerate().skip(top) {
            let mut line = Vec::with_capacity(row.len());
            for (j, cell) in row.iter().enumerate().skip(left) {
                match read(cell) {
                    Ok(value) => line.push(value),
                    Err(CellFault { code, message, remedy }) => {
                        whole = false;
                        c.push(FieldError::new(format!("{field}[{i}][{j}]"), code, cell, message, remedy));
                    }
                }
            }
            values.push(line);
        }
        whole.then_some(values)
    }

    /// Keeps what is wrong with the table as a whole, at its place among the cells; empty lines do not count.
    pub fn fault(&self, c: &mut Checker, field: &str, error: RatingError) {
        let (top, left) = self.offset();
        let place = match error {
            RatingError::Ragged { row, .. } | RatingError::Raters { row, .. } => format!("{field}[{}]", row - 1 + top),
            RatingError::TooLarge { row, column, .. }
            | RatingError::Missing { row, column }
            | RatingError::NotFinite { row, column } => format!("{field}[{}][{}]", row - 1 + top, column - 1 + left),
            RatingError::Categories(_) | RatingError::Subjects { .. } => field.to_owned(),
        };
        let message = format!("{error}.");
        let message = message[..1].to_uppercase() + &message[1..];
        c.invalid(&place, "", message, "Paste the cells again, without totals and without merged cells.");
    }

    fn offset(&self) -> (usize, usize) {
        (usize::from(self.head.is_some()), usize::from(self.labels.is_some()))
    }
}

fn tidy(c: &mut Checker, field: &str, rows: &[Vec<String>]) -> Option<Vec<Vec<String>>> {
    let columns = rows.iter().map(Vec::len).max().unwrap_or(0);
    if rows.len() > MAX_ROWS || columns > MAX_COLUMNS {
        let message = format!("{} rows of {columns} cells are given; {MAX_ROWS} of {MAX_COLUMNS} fit.", rows.len());
        c.push(FieldError::new(field, FieldErrorCode::TooLong, rows.len(), message, "Check what was pasted."));
        return None;
    }
    let mut tidied = Vec::with_capacity(rows.len());
    for (i, row) in rows.iter().enumerate() {
        let cells: Vec<String> =
            row.iter().enumerate().map(|(j, cell)| c.text(&format!("{field}[{i}][{j}]"), cell, 80)).collect();
        if cells.iter().any(|cell| !cell.is_empty()) {
            tidied.push(cells);
        }
    }
    if tidied.is_empty() {
        let remedy = "Paste the cells, or type them: a line per row, cells separated by tabs, semicolons or spaces.";
        c.push(FieldError::new(field, FieldErrorCode::Missing, "", "There are no figures.", remedy));
        return None;
    }
    Some(tidied)
}

/// What is wrong with one cell.
pub(super) struct CellFault {
    code: FieldErrorCode,
    message: String,
    remedy: &'static str,
}

/// A number of people.
pub(super) fn count(cell: &str) -> Result<u32, CellFault> {
    cell.parse::<u32>().ok().filter(|value| *value <= Count::MAX).ok_or_else(|| CellFault {
        code: FieldErrorCode::NotACount,
        message: if cell.is_empty() { "This cell is empty.".into() } else { "This is not a number of people.".into() },
        remedy: "Enter a whole number; 0 if nobody is in this cell.",
    })
}

/// A measured value; a decimal comma is understood where it cannot be a thousands separator.
pub(super) fn measurement(cell: &str) -> Result<f64, CellFault> {
    let fault = |code, message: &str, remedy| CellFault { code, message: message.to_owned(), remedy };
    if cell.is_empty() {
        let remedy = "Enter the value; patients whom not every rater measured are left out.";
        return Err(fault(FieldErrorCode::Missing, "This cell is empty.", remedy));
    }
    let point = match cell.split_once(',') {
        None => cell.to_owned(),
        Some((whole, decimals)) if decimals.len() == 3 && whole.trim_start_matches('-') != "0" => {
            let remedy = "Write it with a decimal point, or without the separator.";
            return Err(fault(
                FieldErrorCode::Invalid,
                "This comma may be a decimal comma or separate thousands.",
                remedy,
            ));
        }
        Some(_) => cell.replacen(',', ".", 1),
    };
    point.parse::<f64>().ok().filter(|value| value.is_finite()).ok_or_else(|| {
        fault(FieldErrorCode::Invalid, "This is not a number.", "Give the measured value without its unit.")
    })
}
