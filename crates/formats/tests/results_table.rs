//! Studies and results as a table for spreadsheets: every word and number, and nothing that runs.

use std::io::Cursor;

use calamine::{Data, Reader, Xlsx};
use pruvex_formats::{Bundle, RESULT_COLUMNS, read_bundle, write_results_csv, write_results_xlsx};

fn demo() -> Bundle {
    let mut bundle = read_bundle(&std::fs::read("../../demo/pelvis.json").unwrap()).unwrap();
    "=HYPERLINK(\"http://x\")".clone_into(&mut bundle.studies[0].study.population);
    "@SUM(A1)".clone_into(&mut bundle.tests[0].results[0].result.note);
    bundle
}

fn cells(it: &pruvex_formats::BundleResult) -> [Option<f64>; 4] {
    it.result.counts.cells().map(|cell| cell.map(f64::from))
}

fn place(column: &str) -> usize {
    RESULT_COLUMNS.iter().position(|(name, _)| *name == column).unwrap()
}

#[test]
fn a_workbook_holds_every_result_with_its_numbers_as_numbers_and_no_formula() {
    let bundle = demo();
    let mut book: Xlsx<_> = calamine::open_workbook_from_rs(Cursor::new(write_results_xlsx(&bundle).unwrap())).unwrap();
    let table = book.worksheet_range("Results").unwrap();
    let header: Vec<String> = table.rows().next().unwrap().iter().map(ToString::to_string).collect();
    assert_eq!(header, RESULT_COLUMNS.map(|(name, _)| name.to_owned()));
    let expected: Vec<_> = bundle.tests.iter().flat_map(|test| test.results.iter().map(move |it| (test, it))).collect();
    assert_eq!(table.rows().count(), expected.len() + 1);
    for (row, (test, it)) in table.rows().skip(1).zip(expected) {
        let study = &bundle.studies[it.study].study;
        let text = |column: &str| row[place(column)].to_string();
        let number = |value: Option<f64>| value.map_or(Data::Empty, Data::Float);
        assert_eq!((text("test"), text("reference")), (test.sheet.name.clone(), study.reference.clone()));
        assert_eq!((text("population"), text("page")), (study.population.clone(), it.result.page.clone()));
        for (column, cell) in ["tp", "fp", "fn", "tn"].into_iter().zip(cells(it)) {
            assert_eq!(row[place(column)], number(cell), "{column}");
        }
        assert_eq!(row[place("people")], number(study.setup.people));
        assert_eq!(row[place("sample_data")], Data::String("yes".to_owned()), "made up is said in every row");
        assert_eq!(text("together").is_empty(), it.together.is_none());
    }
    assert!(book.worksheet_formula("Results").unwrap().cells().all(|(_, _, formula)| formula.is_empty()));
    assert_eq!(book.worksheet_range("Columns").unwrap().rows().count(), RESULT_COLUMNS.len() + 1);
}

#[test]
fn csv_says_the_same_and_keeps_a_spreadsheet_from_running_it() {
    let text = write_results_csv(&demo()).unwrap();
    let mut reader = csv::Reader::from_reader(text.as_bytes());
    assert_eq!(reader.headers().unwrap().len(), RESULT_COLUMNS.len());
    let first = reader.records().next().unwrap().unwrap();
    assert_eq!(&first[place("population")], "'=HYPERLINK(\"http://x\")");
    assert_eq!(&first[place("note")], "'@SUM(A1)");
    assert_eq!((&first[place("tp")], &first[place("unit")], &first[place("study")]), ("13", "person", "1"));
    let risky = |cell: &str| cell.starts_with(['=', '+', '-', '@']) && cell.parse::<f64>().is_err();
    let all = csv::Reader::from_reader(text.as_bytes()).into_records().map(Result::unwrap).collect::<Vec<_>>();
    assert_eq!(all.len(), 24);
    assert!(!all.iter().flatten().any(risky));
}
