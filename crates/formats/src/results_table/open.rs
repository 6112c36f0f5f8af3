//! Opening a file, whatever it is: CSV of any common separator and encoding, or a workbook.

use std::io::Cursor;

use calamine::{Data, DataRef, Reader, SheetType, Xlsx, XlsxError};
use encoding_rs::{Encoding, UTF_8, UTF_16BE, UTF_16LE, WINDOWS_1252};
use pruvex_core::{FieldError, FieldErrorCode};

use super::cells::{Cell, Merged, Remark, Row, TableFile, address};
use super::heading::known_columns;
use super::inflate::{Refused, inspect};

/// More rows are refused: nobody looks through them before they are taken in.
pub const MAX_ROWS: usize = 20_000;
/// Columns beyond are not looked at, and it is said when something stands there.
const MAX_COLUMNS: usize = 100;

/// A fault of the file as a whole.
fn fault(message: impl Into<String>, remedy: &str) -> Vec<FieldError> {
    vec![FieldError::new("file", FieldErrorCode::Invalid, "", message, remedy)]
}

fn too_long() -> Vec<FieldError> {
    let message = format!("The table has more than {MAX_ROWS} rows.");
    vec![FieldError::new("file", FieldErrorCode::TooLong, "", message, "Split it over several files.")]
}

/// Opens a file by what it holds, not by its name. Of a workbook one sheet is read: that of this place, else the first one with a table
/// whose columns are known. Formulas are not worked out: the value that was saved with them counts. Programs in it are not looked at.
///
/// # Errors
/// The fault of a file that is no table, cannot be unpacked, or has more than [`MAX_ROWS`] rows.
pub fn open_table(bytes: &[u8], sheet: Option<usize>) -> Result<TableFile, Vec<FieldError>> {
    if bytes.starts_with(b"PK") {
        return open_workbook(bytes, sheet);
    }
    if bytes.starts_with(&[0xd0, 0xcf, 0x11, 0xe0]) {
        let message = "This workbook is in an old format, or locked by a password.";
        return Err(fault(message, "Save it without a password as .xlsx, or as CSV."));
    }
    open_csv(bytes)
}

fn open_csv(bytes: &[u8]) -> Result<TableFile, Vec<FieldError>> {
    let mut remarks = Vec::new();
    let text = decoded(bytes, &mut remarks)?;
    let separator = separator(&text);
    let mut reader = csv::ReaderBuilder::new()
        .has_headers(false)
        .flexible(true)
        .trim(csv::Trim::All)
        .delimiter(separator)
        .from_reader(text.as_bytes());
    let (mut rows, mut number, mut at, mut beyond) = (Vec::new(), 0_u32, 0_usize, Vec::new());
    let mut record = csv::StringRecord::new();
    loop {
        let found = reader.read_record(&mut record);
        let found =
            found.map_err(|error| fault(format!("The file cannot be read: {error}."), "Save it as CSV again."))?;
        if !found {
            break;
        }
        // The reader leaves empty lines out, a spreadsheet numbers them.
        let start = record.position().map_or(at, |position| position.byte() as usize);
        number += 1 + empty_lines(text.as_bytes(), start);
        at = reader.position().byte() as usize;
        if record.iter().skip(MAX_COLUMNS).any(|text| !text.is_empty()) {
            beyond.push(address(MAX_COLUMNS, number));
        }
        let cells: Vec<Cell> = record.iter().take(MAX_COLUMNS).map(|text| Cell::from_text(unguarded(text))).collect();
        if cells.iter().any(|cell| *cell != Cell::Empty) {
            rows.push(Row { number, cells });
        }
        if rows.len() > MAX_ROWS + 1 {
            return Err(too_long());
        }
    }
    if rows.is_empty() {
        return Err(fault("The file holds no row.", "Choose a table with a line of column names and rows below it."));
    }
    remarks.extend(too_wide(&beyond));
    if rows.iter().all(|row| row.cells.len() < 2) {
        let message = "No columns were found: there is no comma, semicolon, tab or | between values.";
        remarks.push(Remark::new(message, &[]));
    }
    Ok(TableFile { sheets: Vec::new(), sheet: 0, remarks, rows, merged: Vec::new() })
}

/// What stands in columns that are not looked at.
fn too_wide(cells: &[String]) -> Option<Remark> {
    let message = format!("Only the first {MAX_COLUMNS} columns are read; there is content beyond them.");
    (!cells.is_empty()).then(|| Remark::new(message, cells))
}

/// Lines without anything between the end of one record and the next.
fn empty_lines(bytes: &[u8], start: usize) -> u32 {
    let (mut at, mut lines) = (start, 0);
    // Of a line end of two signs the reader leaves the second one behind.
    if start > 0 && bytes.get(start - 1) == Some(&b'\r') && bytes.get(start) == Some(&b'\n') {
        at += 1;
    }
    while let Some(sign @ (b'\r' | b'\n')) = bytes.get(at) {
        at += if *sign == b'\r' && bytes.get(at + 1) == Some(&b'\n') { 2 } else { 1 };
        lines += 1;
    }
    lines
}

fn decoded(bytes: &[u8], remarks: &mut Vec<Remark>) -> Result<String, Vec<FieldError>> {
    let remedy = "Save it as CSV in UTF-8, or as .xlsx.";
    let encoding: &'static Encoding = match Encoding::for_bom(bytes) {
        Some((encoding, _)) => encoding,
        None if std::str::from_utf8(bytes).is_ok() => UTF_8,
        // Without a mark at its start such a file has a zero in every other place.
        None if bytes.iter().take(200).skip(1).step_by(2).filter(|byte| **byte == 0).count() > 20 => UTF_16LE,
        None if bytes.iter().take(200).step_by(2).filter(|byte| **byte == 0).count() > 20 => UTF_16BE,
        None => WINDOWS_1252,
    };
    let (text, _, broken) = encoding.decode(bytes);
    if broken {
        let name = encoding.name();
        return Err(fault(
            format!("The file says that it is {name}, but it contains characters that are not."),
            remedy,
        ));
    }
    if text.contains('\0') {
        return Err(fault("The file contains characters that no text has.", remedy));
    }
    if encoding == WINDOWS_1252 {
        let odd = text.lines().find(|line| !line.is_ascii()).map(str::trim).unwrap_or_default();
        let shown: String = odd.chars().take(80).collect();
        let message =
            format!("The file is not in UTF-8 and was read as Windows-1252. Are the letters right here: {shown}");
        remarks.push(Remark::new(message, &[]));
    }
    Ok(text.into_owned())
}

/// The one of the common separators that stands most often in the first line that has any, outside of quotes.
fn separator(text: &str) -> u8 {
    let count = |line: &str, wanted: char| {
        let mut quoted = false;
        line.chars()
            .filter(|sign| {
                quoted ^= *sign == '"';
                !quoted && *sign == wanted
            })
            .count()
    };
    let most =
        |line: &str| [',', ';', '\t', '|'].into_iter().map(|sign| (count(line, sign), sign)).max_by_key(|it| it.0);
    text.lines().filter_map(most).find(|(count, _)| *count > 0).map_or(b',', |(_, sign)| sign as u8)
}

/// Without the apostrophe by which a text was kept from being run as a formula.
fn unguarded(text: &str) -> &str {
    let guarded = |rest: &&str| rest.trim_start_matches('\'').starts_with(['=', '+', '-', '@']);
    text.strip_prefix('\'').filter(guarded).unwrap_or(text)
}

impl Cell {
    fn from_text(text: &str) -> Self {
        let text = text.trim();
        if text.is_empty() { Self::Empty } else { Self::Text(text.to_owned()) }
    }

    fn from_workbook(value: &DataRef<'_>, formula: bool) -> Self {
        match value {
            DataRef::Empty if formula => {
                Self::Broken("formula".to_owned(), "A formula stands here whose value was not saved with it.")
            }
            DataRef::Empty => Self::Empty,
            DataRef::Int(number) => Self::Number(*number as f64),
            DataRef::Float(number) => Self::Number(*number),
            DataRef::String(text) => Self::from_text(text),
            DataRef::SharedString(text) => Self::from_text(text),
            DataRef::Bool(yes) => Self::Text(if *yes { "yes" } else { "no" }.to_owned()),
            DataRef::DateTime(_) | DataRef::DateTimeIso(_) | DataRef::DurationIso(_) => {
                Self::Broken(Data::from(value.clone()).to_string(), "A date or a time stands here.")
            }
            DataRef::Error(error) => Self::Broken(error.to_string(), "A formula ended in an error here."),
        }
    }
}

fn open_workbook(bytes: &[u8], sheet: Option<usize>) -> Result<TableFile, Vec<FieldError>> {
    let parts = inspect(bytes).map_err(|why| match why {
        Refused::TooMuch => fault(
            "This file unpacks to more than a table of this kind ever holds.",
            "Copy the cells into a new workbook, or save the sheet as CSV.",
        ),
        Refused::Unreadable => fault("This file is damaged, or no workbook.", "Save it as .xlsx again, or as CSV."),
    })?;
    let unreadable = |error: &XlsxError| {
        fault(format!("This workbook cannot be read: {error}."), "Save it as .xlsx again, or as CSV.")
    };
    let mut book: Xlsx<_> = Xlsx::new(Cursor::new(bytes)).map_err(|error| unreadable(&error))?;
    let tables = book.sheets_metadata().iter().filter(|sheet| sheet.typ == SheetType::WorkSheet);
    let sheets: Vec<String> = tables.map(|sheet| sheet.name.clone()).collect();
    let wanted: Vec<usize> = match sheet {
        Some(place) if place < sheets.len() => vec![place],
        _ => (0..sheets.len()).collect(),
    };
    let mut best: Option<(usize, TableFile)> = None;
    for place in wanted {
        let Sheet { rows, formulas, beyond } = rows(&mut book, &sheets[place]).map_err(|why| match why {
            Unread::TooLong => too_long(),
            Unread::Damaged(error) => unreadable(&error),
        })?;
        if rows.is_empty() && sheets.len() > 1 && sheet.is_none() {
            continue;
        }
        let merged = book.merge_cells_by_sheet_name(&sheets[place]).map_err(|error| unreadable(&error))?;
        let merged = merged.into_iter().map(|it| Merged { start: it.start, end: it.end }).collect();
        let mut remarks: Vec<Remark> = too_wide(&beyond).into_iter().collect();
        if !formulas.is_empty() {
            let message = "Formulas are not calculated here: the values that were saved with them are read.";
            remarks.push(Remark::new(message, &formulas));
        }
        let found = TableFile { sheets: sheets.clone(), sheet: place, remarks, rows, merged };
        let known = known_columns(&found);
        if best.as_ref().is_none_or(|(most, _)| known > *most) {
            best = Some((known, found));
        }
    }
    let (_, mut found) = best
        .filter(|(_, found)| !found.rows.is_empty())
        .ok_or_else(|| fault("The sheet is empty.", "Choose a table with a line of column names and rows below it."))?;
    if parts.macros {
        found.remarks.push(Remark::new("The workbook contains macros. They are ignored and never run.", &[]));
    }
    Ok(found)
}

enum Unread {
    TooLong,
    Damaged(XlsxError),
}

/// One sheet: its rows, which of their cells are formulas, and which stand beyond the last column.
struct Sheet {
    rows: Vec<Row>,
    formulas: Vec<String>,
    beyond: Vec<String>,
}

fn rows(book: &mut Xlsx<Cursor<&[u8]>>, sheet: &str) -> Result<Sheet, Unread> {
    let mut reader = book.worksheet_cells_reader(sheet).map_err(Unread::Damaged)?;
    let mut rows: Vec<Row> = Vec::new();
    let (mut formulas, mut beyond) = (Vec::new(), Vec::new());
    while let Some(found) = reader.next_cell_with_formula_metadata().map_err(Unread::Damaged)? {
        let (row, column) = (found.pos.0 + 1, found.pos.1 as usize);
        let cell = Cell::from_workbook(&found.value, found.formula.is_some());
        if cell == Cell::Empty {
            continue;
        }
        if column >= MAX_COLUMNS {
            beyond.push(address(column, row));
            continue;
        }
        if found.formula.is_some() {
            formulas.push(address(column, row));
        }
        // Rows stand in their order; a file in which they do not is put in order below.
        match rows.last_mut() {
            Some(last) if last.number == row => {
                last.cells.resize(last.cells.len().max(column + 1), Cell::Empty);
                last.cells[column] = cell;
            }
            _ => {
                let mut cells = vec![Cell::Empty; column];
                cells.push(cell);
                rows.push(Row { number: row, cells });
            }
        }
        if rows.len() > MAX_ROWS + 1 {
            return Err(Unread::TooLong);
        }
    }
    rows.sort_by_key(|row| row.number);
    Ok(Sheet { rows, formulas, beyond })
}
