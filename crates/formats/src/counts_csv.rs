//! A table of 2x2 counts as CSV: columns `study, tp, fp, fn, tn` in any order, other columns ignored.

use csv::{ReaderBuilder, StringRecord};
use pruvex_core::accuracy::{Counts, RawCounts};

/// Counts with the names of their studies, in the order of the file.
#[derive(Debug, Clone, PartialEq)]
pub struct CountsTable {
    /// Name and counts of each study.
    pub rows: Vec<(String, Counts)>,
}

/// A fault of a CSV file: where, what, and the remedy.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("line {line}, column {column}: {message}")]
pub struct CsvError {
    /// Line of the file, from 1.
    pub line: u64,
    /// Name of the column.
    pub column: String,
    /// What is wrong, and what to do.
    pub message: String,
}

const COLUMNS: [&str; 5] = ["study", "tp", "fp", "fn", "tn"];

/// Reads the table; empty cells of one arm make a one-armed study.
///
/// # Errors
/// Every fault of the file.
pub fn read_counts(text: &[u8]) -> Result<CountsTable, Vec<CsvError>> {
    let mut reader = ReaderBuilder::new().flexible(true).trim(csv::Trim::All).from_reader(text);
    let fault = |line: u64, column: &str, message: String| CsvError { line, column: column.to_owned(), message };
    let headers =
        reader.headers().map_err(|e| vec![fault(1, "study", format!("the file cannot be read: {e}"))])?.clone();
    // A byte order mark belongs to the file, not to the first column's name.
    let position = |name: &str| {
        headers
            .iter()
            .position(|header| header.trim_start_matches('\u{feff}').trim_matches('"').eq_ignore_ascii_case(name))
    };
    let missing: Vec<CsvError> = COLUMNS
        .into_iter()
        .filter(|name| position(name).is_none())
        .map(|name| fault(1, name, format!("the header has no column {name:?}; it needs study,tp,fp,fn,tn")))
        .collect();
    if !missing.is_empty() {
        return Err(missing);
    }
    let place = COLUMNS.map(|name| position(name).unwrap_or_default());
    let (mut rows, mut errors) = (Vec::new(), Vec::new());
    for record in reader.records() {
        match record {
            Ok(record) => match row(&record, place) {
                Ok(row) => rows.push(row),
                Err(faults) => errors.extend(faults),
            },
            Err(error) => {
                let line = error.position().map_or(0, csv::Position::line);
                errors.push(fault(line, "study", format!("the line cannot be read: {error}")));
            }
        }
    }
    if rows.is_empty() && errors.is_empty() {
        errors.push(fault(2, "study", "there is no study below the header".to_owned()));
    }
    if errors.is_empty() { Ok(CountsTable { rows }) } else { Err(errors) }
}

fn row(record: &StringRecord, place: [usize; 5]) -> Result<(String, Counts), Vec<CsvError>> {
    let line = record.position().map_or(0, csv::Position::line);
    let text = |index: usize| record.get(place[index]).unwrap_or("");
    let mut errors = Vec::new();
    let mut cell = |index: usize| {
        let text = text(index);
        (!text.is_empty()).then(|| {
            text.parse::<f64>().unwrap_or_else(|_| {
                let message = format!("{text:?} is not a number; enter a whole number of people, or leave it empty");
                errors.push(CsvError { line, column: COLUMNS[index].to_owned(), message });
                0.0
            })
        })
    };
    let raw = RawCounts { tp: cell(1), fp: cell(2), fn_: cell(3), tn: cell(4) };
    if !errors.is_empty() {
        return Err(errors);
    }
    let counts = Counts::check(raw).map_err(|faults| {
        let convert = |f: pruvex_core::FieldError| CsvError {
            line,
            column: f.field,
            message: format!("{} {}", f.message, f.remedy),
        };
        faults.into_iter().map(convert).collect::<Vec<_>>()
    })?;
    Ok((text(0).to_owned(), counts))
}
