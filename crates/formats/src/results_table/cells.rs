//! Rows and cells of a file, whatever it was.

use rust_xlsxwriter::utility::row_col_to_cell;
use serde::Serialize;
use utoipa::ToSchema;

/// Beyond that a remark says only how many cells it is about.
const MAX_NAMED: usize = 12;

/// What a cell holds.
#[derive(Debug, Clone, Default, PartialEq)]
pub(super) enum Cell {
    /// Nothing.
    #[default]
    Empty,
    /// Text as it stands there, without spaces around it.
    Text(String),
    /// A number of a workbook.
    Number(f64),
    /// Something that cannot be taken as it is: what is shown, and why not.
    Broken(String, &'static str),
}

impl Cell {
    /// As it is read and shown.
    pub fn text(&self) -> String {
        match self {
            Self::Empty => String::new(),
            Self::Text(text) | Self::Broken(text, _) => text.clone(),
            Self::Number(number) => number.to_string(),
        }
    }
}

/// A row and where it stands.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Row {
    /// As a spreadsheet numbers it, from 1.
    pub number: u32,
    /// From the first column on.
    pub cells: Vec<Cell>,
}

/// Something that should be known of a file before it is imported.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Remark {
    /// What it is, in a sentence or two.
    pub message: String,
    /// Which cells it is about, the first of them.
    pub cells: Vec<String>,
    /// How many there are.
    pub count: usize,
}

impl Remark {
    pub(super) fn new(message: impl Into<String>, cells: &[String]) -> Self {
        let shown = cells.iter().take(MAX_NAMED).cloned().collect();
        Self { message: message.into(), cells: shown, count: cells.len() }
    }
}

/// An opened file: its rows, without the empty ones, and what should be known of it.
#[derive(Debug, Clone, PartialEq)]
pub struct TableFile {
    /// Names of a workbook's sheets; none of a CSV file.
    pub sheets: Vec<String>,
    /// The one that was read.
    pub sheet: usize,
    /// What should be known of it.
    pub remarks: Vec<Remark>,
    pub(super) rows: Vec<Row>,
    /// Cells of the sheet that are parts of a larger one.
    pub(super) merged: Vec<Merged>,
}

/// Several cells that were made one.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Merged {
    /// Row and column of the first and of the last of them, from 0.
    pub start: (u32, u32),
    pub end: (u32, u32),
}

/// `G14`, from a column from 0 and a row from 1.
pub(super) fn address(column: usize, row: u32) -> String {
    row_col_to_cell(row.saturating_sub(1), u16::try_from(column).unwrap_or(u16::MAX - 1))
}
