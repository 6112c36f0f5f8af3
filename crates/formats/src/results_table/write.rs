//! Writing the table.

use pruvex_core::evidence::{AccuracyInput, Rule, StudyInput};
use rust_xlsxwriter::{Format, Workbook, XlsxError};
use serde_json::{Value, json};

use super::fields::{FIELDS, RESULT_COLUMNS};
use crate::{Bundle, BundleResult, BundleStudy, BundleTest, write_csv};

/// A cell.
#[derive(Debug, Clone, PartialEq)]
enum Cell {
    Text(String),
    Number(f64),
    Empty,
}

fn cell(value: &Value) -> Cell {
    match value {
        Value::Number(number) => number.as_f64().map_or(Cell::Empty, Cell::Number),
        Value::String(text) if !text.is_empty() => Cell::Text(text.clone()),
        Value::Bool(true) => Cell::Text("yes".to_owned()),
        _ => Cell::Empty,
    }
}

/// The rows below the header, test by test.
fn rows(bundle: &Bundle) -> Vec<Vec<Cell>> {
    let of_test = |test: &BundleTest| -> Vec<Vec<Cell>> {
        let one = |it: &BundleResult| bundle.studies.get(it.study).map(|study| row(bundle, test, study, it));
        test.results.iter().filter_map(one).collect()
    };
    bundle.tests.iter().flat_map(of_test).collect()
}

fn row(bundle: &Bundle, test: &BundleTest, of: &BundleStudy, it: &BundleResult) -> Vec<Cell> {
    let study = StudyInput {
        reference: of.study.reference.clone(),
        population: of.study.population.clone(),
        setup: of.study.setup.clone(),
        ..StudyInput::default()
    };
    let result: AccuracyInput = it.result.written();
    let (study, result) = (json!(study), json!(result));
    let doi = of.work.and_then(|place| bundle.references.get(place)).map(|work| work.reference.doi.clone());
    let together = it.together.as_ref().map(|together| {
        let rule = match together.rule {
            Rule::Any => "any".to_owned(),
            Rule::All => "all".to_owned(),
            Rule::AtLeast(least) => format!("at least {least}"),
        };
        format!("{} ({rule})", together.tests.join("; "))
    });
    let value = |column: &str| match column {
        "test" => Cell::Text(test.sheet.name.clone()),
        "region" => Cell::Text(test.sheet.region.code().to_owned()),
        "study" => Cell::Number(it.study as f64 + 1.0),
        "doi" => doi.clone().filter(|doi| !doi.is_empty()).map_or(Cell::Empty, Cell::Text),
        "together" => together.clone().map_or(Cell::Empty, Cell::Text),
        "study_note" => cell(&json!(of.study.note)),
        "sample_data" => cell(&Value::Bool(it.sample)),
        "reference" | "population" => cell(&study[column]),
        _ if !result[column].is_null() => cell(&result[column]),
        _ => cell(&study["setup"][column]),
    };
    RESULT_COLUMNS.iter().map(|(column, _)| value(column)).collect()
}

/// The results of a bundle as CSV with a header. A cell that a spreadsheet would run as a formula is kept from it.
///
/// # Errors
/// None in practice; what the writer reports otherwise.
pub fn write_results_csv(bundle: &Bundle) -> Result<String, csv::Error> {
    let header = RESULT_COLUMNS.iter().map(|(column, _)| (*column).to_owned()).collect();
    let plain = |cell: Cell| match cell {
        Cell::Text(text) => text,
        Cell::Number(number) => number.to_string(),
        Cell::Empty => String::new(),
    };
    let lines = rows(bundle).into_iter().map(|row| row.into_iter().map(plain).collect());
    write_csv(&std::iter::once(header).chain(lines).collect::<Vec<_>>())
}

/// A cell of a workbook holds no more; what is longer ends in an ellipsis.
const LONGEST: usize = 32_767;

/// The results of a bundle as an Office Open XML workbook: the table, and a sheet that tells what stands in each column. Texts are written
/// as texts, so that none of them is a formula.
///
/// # Errors
/// What the writer reports; more rows than a sheet has (1 048 575) among it.
pub fn write_results_xlsx(bundle: &Bundle) -> Result<Vec<u8>, XlsxError> {
    workbook(&RESULT_COLUMNS, &rows(bundle))
}

/// A workbook to be filled in: the columns of the table, those of printed figures among them, and what stands in each.
///
/// # Errors
/// None in practice; what the writer reports otherwise.
pub fn results_template() -> Result<Vec<u8>, XlsxError> {
    workbook(&FIELDS.map(|field| (field.name, field.about)), &[])
}

fn workbook(columns: &[(&str, &str)], rows: &[Vec<Cell>]) -> Result<Vec<u8>, XlsxError> {
    let mut workbook = Workbook::new();
    let bold = Format::new().set_bold();
    let sheet = workbook.add_worksheet().set_name("Results")?;
    for (column, (name, _)) in (0_u16..).zip(columns) {
        sheet.write_with_format(0, column, *name, &bold)?;
    }
    for (line, row) in (1_u32..).zip(rows) {
        for (column, cell) in (0_u16..).zip(row) {
            match cell {
                Cell::Text(text) if text.chars().count() > LONGEST => {
                    let shown: String = text.chars().take(LONGEST - 1).collect();
                    sheet.write_string(line, column, format!("{shown}…"))?;
                }
                Cell::Text(text) => drop(sheet.write_string(line, column, text)?),
                Cell::Number(number) => drop(sheet.write_number(line, column, *number)?),
                Cell::Empty => {}
            }
        }
    }
    sheet.set_freeze_panes(1, 1)?;
    sheet.autofilter(0, 0, u32::try_from(rows.len()).unwrap_or(u32::MAX), columns.len() as u16 - 1)?;
    for (column, _) in
        (0_u16..).zip(columns).filter(|(_, (name, _))| ["test", "reference", "population"].contains(name))
    {
        sheet.set_column_width(column, 34)?;
    }
    let about = workbook.add_worksheet().set_name("Columns")?;
    about.write_with_format(0, 0, "Column", &bold)?;
    about.write_with_format(0, 1, "What stands there", &bold)?;
    for (line, (name, meaning)) in (1_u32..).zip(columns) {
        about.write_string(line, 0, *name)?;
        about.write_string(line, 1, *meaning)?;
    }
    about.set_column_width(0, 20)?;
    about.set_column_width(1, 90)?;
    workbook.save_to_buffer()
}
