//! A table of 2x2 counts as CSV: columns `study, tp, fp, fn, tn` in any order; others may serve as covariates.

use pruvex_core::accuracy::{Counts, RawCounts};

use crate::csv_table::{CsvError, CsvRow, CsvTable};

/// Studies with their counts, in the order of the file.
#[derive(Debug, Clone, PartialEq)]
pub struct CountsTable {
    table: CsvTable,
    /// Name of each study.
    pub names: Vec<String>,
    /// Its counts.
    pub counts: Vec<Counts>,
}

const COLUMNS: [&str; 5] = ["study", "tp", "fp", "fn", "tn"];

/// Reads the table; empty cells of one arm make a one-armed study.
///
/// # Errors
/// Every fault of the file.
pub fn read_counts(bytes: &[u8]) -> Result<CountsTable, Vec<CsvError>> {
    let table = CsvTable::read(bytes, &COLUMNS)?;
    let (mut names, mut counts, mut errors) = (Vec::new(), Vec::new(), Vec::new());
    for row in &table.rows {
        match row_counts(&table, row) {
            Ok(found) => {
                names.push(table.text(row, "study").to_owned());
                counts.push(found);
            }
            Err(faults) => errors.extend(faults),
        }
    }
    if errors.is_empty() { Ok(CountsTable { table, names, counts }) } else { Err(errors) }
}

fn row_counts(table: &CsvTable, row: &CsvRow) -> Result<Counts, Vec<CsvError>> {
    let mut errors = Vec::new();
    let [tp, fp, fn_, tn] = ["tp", "fp", "fn", "tn"].map(|column| {
        table.number(row, column).unwrap_or_else(|fault| {
            errors.push(fault);
            None
        })
    });
    if !errors.is_empty() {
        return Err(errors);
    }
    Counts::check(RawCounts { tp, fp, fn_, tn }).map_err(|faults| {
        faults.into_iter().map(|f| row.fault(&f.field, format!("{} {}", f.message, f.remedy))).collect()
    })
}

impl CountsTable {
    /// What each study has in another column.
    ///
    /// # Errors
    /// A column that is missing, and every study that leaves it empty.
    pub fn values(&self, column: &str) -> Result<Vec<&str>, Vec<CsvError>> {
        if self.table.position(column).is_none() {
            let message = format!("the header has no column {column:?}; it has {}", self.table.headers().join(","));
            return Err(vec![CsvError { line: 1, column: column.to_owned(), message }]);
        }
        let values: Vec<&str> = self.table.rows.iter().map(|row| self.table.text(row, column)).collect();
        let empty = |(row, value): (&CsvRow, &&str)| {
            value.is_empty().then(|| row.fault(column, "no value is given; every study needs one here".to_owned()))
        };
        let errors: Vec<CsvError> = self.table.rows.iter().zip(&values).filter_map(empty).collect();
        if errors.is_empty() { Ok(values) } else { Err(errors) }
    }
}
