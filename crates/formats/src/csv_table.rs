//! Reading CSV so that every fault can be told with its line and column.

use std::str::FromStr;

use csv::{ReaderBuilder, Trim};

/// A fault of a CSV file: where, what, and the remedy.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("line {line}, column {column}: {message}")]
pub struct CsvError {
    /// Line of the file, from 1.
    pub line: u64,
    /// Name of the column, or its number where there is no header.
    pub column: String,
    /// What is wrong, and what to do.
    pub message: String,
}

/// A table with a header.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct CsvTable {
    headers: Vec<String>,
    /// The rows below the header, in the order of the file.
    pub rows: Vec<CsvRow>,
}

/// A row and where it stands.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct CsvRow {
    /// Line of the file, from 1.
    pub line: u64,
    cells: Vec<String>,
}

impl CsvTable {
    /// Reads a table; cells are trimmed, short rows end in empty cells.
    ///
    /// # Errors
    /// Every line that cannot be read, each required column that is missing, columns of one name, cells beyond the last column, and a table
    /// without a row.
    pub fn read(bytes: &[u8], required: &[&str]) -> Result<Self, Vec<CsvError>> {
        let records = records(bytes)?;
        let mut lines = records.into_iter();
        let first = lines.next();
        let headers: Vec<String> = first.map(|row| row.cells).unwrap_or_default();
        let table = Self { headers, rows: lines.collect() };
        let missing = required.iter().filter(|name| table.position(name).is_none()).map(|name| {
            let message = format!("the header has no column {name:?}; it needs {}", required.join(","));
            CsvError { line: 1, column: (*name).to_owned(), message }
        });
        let twice =
            table.headers.iter().enumerate().filter(|(index, header)| {
                !header.is_empty() && table.position(header).is_some_and(|first| first < *index)
            });
        let twice = twice.map(|(_, header)| {
            let message = "the header has this column twice; give each a name of its own, or remove one".to_owned();
            CsvError { line: 1, column: header.clone(), message }
        });
        let surplus = table.rows.iter().filter_map(|row| {
            let beyond = row.cells.iter().enumerate().skip(table.headers.len()).find(|(_, cell)| !cell.is_empty());
            let (index, cell) = beyond?;
            let message = format!(
                "{cell:?} stands beyond the last of {} columns; a cell with a comma needs quotation marks",
                table.headers.len()
            );
            Some(row.fault(&(index + 1).to_string(), message))
        });
        let faults: Vec<CsvError> = missing.chain(twice).chain(surplus).collect();
        if !faults.is_empty() {
            return Err(faults);
        }
        if table.rows.is_empty() {
            let column = required.first().map_or_else(|| "1".to_owned(), |name| (*name).to_owned());
            return Err(vec![CsvError { line: 2, column, message: "there is no row below the header".to_owned() }]);
        }
        Ok(table)
    }

    /// Where a column stands, whatever the case of its name.
    #[must_use]
    pub fn position(&self, column: &str) -> Option<usize> {
        self.headers.iter().position(|header| header.trim_matches('"').eq_ignore_ascii_case(column))
    }

    /// The names of the columns, in the order of the file.
    #[must_use]
    pub fn headers(&self) -> &[String] {
        &self.headers
    }

    /// A cell's text, empty where the row or the table has no such column.
    #[must_use]
    pub fn text<'a>(&self, row: &'a CsvRow, column: &str) -> &'a str {
        self.position(column).and_then(|index| row.cells.get(index)).map_or("", String::as_str)
    }

    /// A cell as a number; nothing where it is empty.
    ///
    /// # Errors
    /// The fault of a cell that holds something else.
    pub fn number(&self, row: &CsvRow, column: &str) -> Result<Option<f64>, CsvError> {
        let text = self.text(row, column);
        if text.is_empty() {
            return Ok(None);
        }
        let parsed = text.parse::<f64>().map_err(|_| {
            row.fault(
                column,
                format!("{text:?} is not a number; enter a number with a decimal point, or leave it empty"),
            )
        })?;
        Ok(Some(parsed))
    }
}

impl CsvRow {
    /// A fault of one of this row's cells.
    #[must_use]
    pub fn fault(&self, column: &str, message: String) -> CsvError {
        CsvError { line: self.line, column: column.to_owned(), message }
    }
}

/// A matrix without a header, every cell of one type.
///
/// # Errors
/// Every line that cannot be read and every cell that is none of that type.
pub fn read_matrix<T: FromStr>(bytes: &[u8]) -> Result<Vec<Vec<T>>, Vec<CsvError>> {
    let mut errors = Vec::new();
    let mut rows = Vec::new();
    for row in records(bytes)? {
        let mut values = Vec::with_capacity(row.cells.len());
        for (index, text) in row.cells.iter().enumerate() {
            match text.parse() {
                Ok(value) => values.push(value),
                Err(_) => errors.push(row.fault(
                    &(index + 1).to_string(),
                    format!("{text:?} is not a value of the kind that this table holds; correct it"),
                )),
            }
        }
        rows.push(values);
    }
    if errors.is_empty() { Ok(rows) } else { Err(errors) }
}

fn records(bytes: &[u8]) -> Result<Vec<CsvRow>, Vec<CsvError>> {
    // A byte order mark belongs to the file, not to the first cell.
    let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes);
    let mut reader = ReaderBuilder::new().has_headers(false).flexible(true).trim(Trim::All).from_reader(bytes);
    let (mut rows, mut errors) = (Vec::new(), Vec::new());
    let mut lines = Lines { bytes, at: 0, line: 1 };
    for record in reader.records() {
        match record {
            Ok(record) => {
                let row =
                    CsvRow { line: lines.of(record.position()), cells: record.iter().map(str::to_owned).collect() };
                if let Some(index) = row.cells.iter().position(|cell| cell.contains('\0')) {
                    let message = "a character that is no text (NUL) stands in this cell; remove it".to_owned();
                    errors.push(row.fault(&(index + 1).to_string(), message));
                }
                rows.push(row);
            }
            Err(error) => errors.push(CsvError {
                line: lines.of(error.position()),
                column: "1".to_owned(),
                message: format!("the line cannot be read: {error}; save the file as CSV in UTF-8"),
            }),
        }
    }
    if errors.is_empty() { Ok(rows) } else { Err(errors) }
}

/// Counts lines up to a record. The reader's own count is one behind after lines that end in a carriage return and a line feed.
struct Lines<'a> {
    bytes: &'a [u8],
    at: usize,
    line: u64,
}

impl Lines<'_> {
    fn of(&mut self, position: Option<&csv::Position>) -> u64 {
        let start = position.map_or(self.at, |position| position.byte() as usize).min(self.bytes.len());
        let ends = self.bytes[start..].iter().take_while(|byte| matches!(byte, b'\r' | b'\n')).count();
        let passed =
            self.bytes.get(self.at..start + ends).unwrap_or_default().iter().filter(|byte| **byte == b'\n').count();
        self.line += passed as u64;
        self.at = start + ends;
        self.line
    }
}

/// Writes rows as CSV. A cell that a spreadsheet would run as a formula is kept from it by an apostrophe.
///
/// # Errors
/// None in practice; what the writer reports otherwise.
pub fn write_csv(rows: &[Vec<String>]) -> Result<String, csv::Error> {
    let mut writer = csv::Writer::from_writer(Vec::new());
    for row in rows {
        writer.write_record(row.iter().map(|cell| neutral(cell)))?;
    }
    let bytes = writer.into_inner().map_err(|error| csv::Error::from(std::io::Error::other(error.to_string())))?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

fn neutral(cell: &str) -> String {
    // One that has apostrophes of its own gets one more, so that all of them come back.
    let risky =
        cell.trim_start_matches('\'').starts_with(['=', '+', '-', '@', '\t', '\r']) && cell.parse::<f64>().is_err();
    if risky { format!("'{cell}") } else { cell.to_owned() }
}
