//! A table's rows as studies with their results. Every fault of every cell is told, with its address; nothing is guessed.

use std::collections::{BTreeMap, HashMap, HashSet};

use pruvex_core::accuracy::{Counts, Fact, Figure, Rebuilt, Rounded, Total, rebuild};
use pruvex_core::catalogue::{Region, name_key};
use pruvex_core::evidence::{AccuracyInput, AccuracyResult, Extraction, ExtractionInput, Study, StudyInput};
use pruvex_core::{FieldError, FieldErrorCode};
use serde_json::{Value, json};

use super::cells::{Cell, Merged, Remark, TableFile, address};
use super::fields::{Mapping, OF_RESULT, OF_STUDY};
use super::heading::split;
use super::row::{Said, cell_fault, cell_place, read_row};
use crate::BundleTogether;

/// More faults are not collected: such a table is corrected as a whole.
const MOST_FAULTS: usize = 10_000;

/// A table that was read.
#[derive(Debug, Clone, PartialEq)]
pub struct ReadTable {
    /// Its studies, in the order of their first rows.
    pub studies: Vec<ReadStudy>,
    /// Its results, in the order of their rows.
    pub results: Vec<ReadResult>,
    /// What its rows name, those with faults included.
    pub named: Vec<Named>,
    /// Every fault of every cell; with any, studies and results are not complete.
    pub faults: Vec<FieldError>,
    /// What should be known of it.
    pub remarks: Vec<Remark>,
    mapping: Mapping,
}

/// What a row names that must be on record.
#[derive(Debug, Clone, PartialEq)]
pub struct Named {
    /// The row.
    pub row: u32,
    /// Name of the sheet that its result stands at.
    pub test: String,
    /// Body region of that, if it is told.
    pub region: Option<Region>,
    /// Identifier of its study's report.
    pub doi: String,
    /// Tests that were read together with this one.
    pub together: Option<BundleTogether>,
}

/// A study of a table.
#[derive(Debug, Clone, PartialEq)]
pub struct ReadStudy {
    /// Its first row.
    pub row: u32,
    /// Who was examined, and how.
    pub study: Study,
    /// Identifier of its report.
    pub doi: String,
    /// It is made up.
    pub sample: bool,
}

/// A result of a table.
#[derive(Debug, Clone, PartialEq)]
pub struct ReadResult {
    /// Its row.
    pub row: u32,
    /// Name of the sheet that it stands at.
    pub test: String,
    /// Place of its study.
    pub study: usize,
    /// What it reports.
    pub result: AccuracyResult,
    /// Tests that were read together with this one.
    pub together: Option<BundleTogether>,
    /// It is made up.
    pub sample: bool,
}

impl ReadTable {
    /// Where a field of a row stands: `G14 (tp)`.
    #[must_use]
    pub fn place(&self, row: u32, field: &str) -> String {
        cell_place(&self.mapping, row, field)
    }

    /// Its faults, and others that were found since, in the order of the cells.
    #[must_use]
    pub fn all_faults(&self, others: Vec<FieldError>) -> Vec<FieldError> {
        let mut faults = self.faults.clone();
        faults.extend(others);
        faults.sort_by_key(|fault| order(&fault.field));
        faults
    }
}

/// Reads a table. `step` is told how many rows are done, and of how many; when it answers no, nothing more is read and nothing comes
/// back.
///
/// # Errors
/// The fault of a table without rows, or without the columns that are needed.
pub fn read_results_table(
    file: &TableFile,
    header_row: Option<u32>,
    mapping: &BTreeMap<&'static str, usize>,
    step: &dyn Fn(usize, usize) -> bool,
) -> Option<Result<ReadTable, Vec<FieldError>>> {
    let (header, rows) = split(file, header_row);
    let mut faults = missing_columns(mapping, header.number);
    if rows.is_empty() {
        let message = "There is no row below the columns' names.";
        let remedy = "Choose another table, or another row as that of the names.";
        faults.push(FieldError::new("file", FieldErrorCode::Missing, "", message, remedy));
    }
    if !faults.is_empty() {
        return Some(Err(faults));
    }
    faults.extend(merged_cells(file, header.number, mapping));
    let mut said = Vec::with_capacity(rows.len());
    for (done, row) in rows.iter().enumerate() {
        if done % 200 == 0 && !step(done, rows.len()) {
            return None;
        }
        let before = faults.len();
        let read = read_row(mapping, row, &mut faults);
        // A row with nothing in the columns that count is no row of the table: a sum, a note below.
        if !read.values.is_empty() || faults.len() > before {
            said.push(read);
        }
        if faults.len() > MOST_FAULTS {
            break;
        }
    }
    let (groups, places) = studies(&said, mapping, &mut faults);
    let named = said.iter().map(named).collect();
    let told = faults.iter().map(|fault| fault.field.clone()).collect();
    let mut reading = Reading { mapping, groups: &groups, faults, told, seen: HashMap::new(), against: Vec::new() };
    let (mut results, mut checked) = (Vec::new(), vec![None; groups.len()]);
    for (done, row) in said.iter().enumerate() {
        if done % 200 == 0 && !step(done, said.len()) {
            return None;
        }
        if let Some((study, result)) = reading.row(row, places[done]) {
            checked[places[done]].get_or_insert(study);
            results.push(result);
        }
        if reading.faults.len() > MOST_FAULTS {
            break;
        }
    }
    let Reading { faults, against, .. } = reading;
    let mut table =
        ReadTable { studies: Vec::new(), results, named, faults, remarks: Vec::new(), mapping: mapping.clone() };
    if table.faults.is_empty() {
        let study = |(group, study): (&Group, Option<Study>)| {
            Some(ReadStudy { row: group.row, study: study?, doi: group.text("doi").to_owned(), sample: group.sample })
        };
        table.studies = groups.iter().zip(checked).filter_map(study).collect();
    }
    table.remarks.extend(against.first().map(|_| {
        let message =
            "In these rows a positive test is more frequent in people without the condition. Were columns swapped?";
        Remark::new(message, &against)
    }));
    table.remarks.extend(small_shares(&said, mapping));
    Some(Ok(table))
}

fn named(row: &Said) -> Named {
    Named {
        row: row.number,
        test: row.text("test").to_owned(),
        region: Region::from_code(row.text("region")),
        doi: row.text("doi").to_owned(),
        together: row.together(),
    }
}

/// What is known while the rows are gone through.
struct Reading<'a> {
    mapping: &'a Mapping,
    groups: &'a [Group],
    faults: Vec<FieldError>,
    /// Cells of which a fault was told.
    told: HashSet<String>,
    /// The rows of results, by everything that they say.
    seen: HashMap<String, u32>,
    /// Cells of results that speak against the test.
    against: Vec<String>,
}

impl Reading<'_> {
    /// The study and the result of a row, when nothing is wrong with either.
    fn row(&mut self, row: &Said, place: usize) -> Option<(Study, ReadResult)> {
        let mut own = Vec::new();
        let found = one(row, &self.groups[place], self.mapping, &mut own);
        let mut read = None;
        if let Some((study, result)) = found {
            let (test, together) = (row.text("test").to_owned(), row.together());
            let key = json!([name_key(&test), place, result.written(), together]).to_string();
            if let Some(before) = self.seen.insert(key, row.number) {
                let words = (
                    format!("Row {before} is identical."),
                    "Remove one of them; two results of one study must differ.",
                );
                own.push(cell_fault(self.mapping, row.number, "test", FieldErrorCode::Duplicate, &test, words));
            }
            if speaks_against(result.counts) {
                self.against.push(address(self.mapping.get("tp").copied().unwrap_or(0), row.number));
            }
            let sample = row.yes("sample_data");
            read = Some((study, ReadResult { row: row.number, test, study: place, result, together, sample }));
        }
        // What is wrong with a study is told once, and a cell that could not be read is not said to be missing as well.
        own.retain(|fault| self.told.insert(fault.field.clone()));
        self.faults.extend(own);
        read
    }
}

/// Row and column of an address, for putting faults in order.
fn order(field: &str) -> (u32, usize, String) {
    let letters: String = field.chars().take_while(char::is_ascii_uppercase).collect();
    let after = field.trim_start_matches(|sign: char| !sign.is_ascii_digit());
    let digits: String = after.chars().take_while(char::is_ascii_digit).collect();
    (digits.parse().unwrap_or(0), letters.len(), letters)
}

fn missing_columns(mapping: &Mapping, header_row: u32) -> Vec<FieldError> {
    let has = |field: &str| mapping.contains_key(field);
    let mut faults = Vec::new();
    let mut missing = |field: &str, message: &str| {
        let remedy = "Say which column holds it.";
        faults.push(FieldError::new(
            format!("row {header_row} ({field})"),
            FieldErrorCode::Missing,
            "",
            message,
            remedy,
        ));
    };
    if !has("test") {
        missing("test", "No column holds the name of the test.");
    }
    if !has("reference") {
        missing("reference", "No column holds where the figures were published.");
    }
    let cells = (has("tp") && has("fn")) || (has("fp") && has("tn"));
    let printed = (has("sensitivity") && has("with_condition")) || (has("specificity") && has("without_condition"));
    if !cells && !printed {
        missing("tp", "No columns hold the four cells, nor a printed figure with its number of people.");
    }
    faults
}

fn merged_cells(file: &TableFile, header_row: u32, mapping: &Mapping) -> Vec<FieldError> {
    let counts = |it: &Merged| mapping.values().any(|place| (it.start.1..=it.end.1).contains(&(*place as u32)));
    let below = file.merged.iter().filter(|it| it.end.0 + 1 > header_row && counts(it));
    below
        .map(|it| {
            let (first, last) =
                (address(it.start.1 as usize, it.start.0 + 1), address(it.end.1 as usize, it.end.0 + 1));
            let row = file.rows.iter().find(|row| row.number == it.start.0 + 1);
            let value = row.and_then(|row| row.cells.get(it.start.1 as usize)).map(Cell::text).unwrap_or_default();
            let message = "These cells are merged, so it is unclear which rows and columns the value belongs to.";
            let remedy = "Undo the merging, and write the value into every row that it is for.";
            FieldError::new(format!("{first}:{last}"), FieldErrorCode::Invalid, value, message, remedy)
        })
        .collect()
}

/// What the rows of one study say about it together.
#[derive(Debug, Default)]
struct Group {
    /// Its first row.
    row: u32,
    /// With the row that says it.
    values: BTreeMap<&'static str, (Value, u32)>,
    sample: bool,
}

impl Group {
    fn text(&self, field: &str) -> &str {
        self.values.get(field).and_then(|(value, _)| value.as_str()).unwrap_or_default()
    }
}

/// The studies of the rows, and of each row the place of its study. Rows are of one study when they have the same study number; without
/// one, when they name the same reference and population, or no population after others of the same reference.
fn studies(said: &[Said], mapping: &Mapping, faults: &mut Vec<FieldError>) -> (Vec<Group>, Vec<usize>) {
    let mut groups: Vec<Group> = Vec::new();
    let mut known: HashMap<String, usize> = HashMap::new();
    let mut places = Vec::with_capacity(said.len());
    let mut latest: HashMap<String, usize> = HashMap::new();
    for row in said {
        let [reference, population] = ["reference", "population"].map(|field| row.text(field).to_lowercase());
        let before = latest.get(&reference).filter(|_| population.is_empty() && !reference.is_empty());
        let key = match row.text("study") {
            "" if reference.is_empty() => format!("row {}", row.number),
            "" => json!([&reference, population]).to_string(),
            number => number.to_lowercase(),
        };
        let place = match before {
            Some(place) if row.text("study").is_empty() => *place,
            _ => *known.entry(key).or_insert(groups.len()),
        };
        if place == groups.len() {
            groups.push(Group { row: row.number, ..Group::default() });
        }
        latest.insert(reference, place);
        let group = &mut groups[place];
        group.sample |= row.yes("sample_data");
        for field in OF_STUDY {
            let Some(value) = row.values.get(field) else { continue };
            match group.values.get(field) {
                None => drop(group.values.insert(field, (value.clone(), row.number))),
                Some((before, _)) if before == value => {}
                Some((before, at)) => {
                    let shown = before.as_str().map_or_else(|| before.to_string(), str::to_owned);
                    let message = format!("Row {at} of the same study says {shown}.");
                    let words = (message, "Make both the same, or give the rows different study numbers.");
                    let value = value.as_str().map_or_else(|| value.to_string(), str::to_owned);
                    faults.push(cell_fault(mapping, row.number, field, FieldErrorCode::Invalid, value, words));
                }
            }
        }
        places.push(place);
    }
    (groups, places)
}

/// A row's study and result, checked; nothing when something is wrong with either.
fn one(row: &Said, group: &Group, mapping: &Mapping, faults: &mut Vec<FieldError>) -> Option<(Study, AccuracyResult)> {
    if row.text("test").is_empty() {
        let words = ("No test is named.", "Write the name of its sheet.");
        faults.push(cell_fault(mapping, row.number, "test", FieldErrorCode::Missing, "", words));
    }
    let mut study = serde_json::Map::new();
    let mut setup = serde_json::Map::new();
    for (field, (value, _)) in &group.values {
        match *field {
            "doi" => {}
            "reference" | "population" => drop(study.insert((*field).to_owned(), value.clone())),
            "study_note" => drop(study.insert("note".to_owned(), value.clone())),
            _ => drop(setup.insert((*field).to_owned(), value.clone())),
        }
    }
    study.entry("reference").or_insert_with(|| json!(""));
    study.entry("population").or_insert_with(|| json!(""));
    study.insert("setup".to_owned(), Value::Object(setup));
    let own = |field: &&'static str| row.values.get(field).map(|value| ((*field).to_owned(), value.clone()));
    let result: serde_json::Map<String, Value> = OF_RESULT.iter().filter_map(own).collect();
    // The kinds of the fields are those of the columns, so that both can be read.
    let study: StudyInput = serde_json::from_value(Value::Object(study)).ok()?;
    let mut result: AccuracyInput = serde_json::from_value(Value::Object(result)).ok()?;
    counted(row, &mut result, mapping, faults);
    if let Some(Err(error)) = row.together().as_ref().map(|it| it.rule.check(it.tests.len())) {
        faults.push(FieldError { field: cell_place(mapping, row.number, "together"), ..error });
    }
    let open = row.values.contains_key("sensitivity") || row.values.contains_key("specificity");
    match Extraction::check(&ExtractionInput { study, result }) {
        Ok(read) if faults.is_empty() => Some((read.study, read.result)),
        Ok(_) => None,
        Err(errors) => {
            // Cells that could not be rebuilt are not said to be missing as well.
            let told =
                |error: &FieldError| !(open && error.field == "result.tp" && error.code == FieldErrorCode::Missing);
            faults.extend(errors.into_iter().filter(told).map(|error| placed(error, row, group, mapping)));
            None
        }
    }
}

/// A fault with the address of its cell: what is wrong with a study stands where it is said.
fn placed(error: FieldError, row: &Said, group: &Group, mapping: &Mapping) -> FieldError {
    let path = error.field.as_str();
    let field = match path {
        "study.note" => "study_note",
        _ => path.rsplit('.').next().unwrap_or(path),
    };
    let at = if path.starts_with("study.") && field != "people" {
        group.values.get(field).map_or(group.row, |(_, row)| *row)
    } else {
        row.number
    };
    FieldError { field: cell_place(mapping, at, field), ..error }
}

/// Fills the cells of a group of people from its printed figure and their number, or checks the cells by them.
fn counted(row: &Said, result: &mut AccuracyInput, mapping: &Mapping, faults: &mut Vec<FieldError>) {
    let mut rebuilt = Vec::new();
    let arms = [
        (Figure::Sensitivity, "sensitivity", "with_condition", [result.tp, result.fn_]),
        (Figure::Specificity, "specificity", "without_condition", [result.tn, result.fp]),
    ];
    for (figure, printed, people, cells) in arms {
        let mut refuse = |field: &str, value: String, message: String, remedy: &str| {
            faults.push(cell_fault(mapping, row.number, field, FieldErrorCode::Invalid, value, (message, remedy)));
        };
        let size = row.number(people);
        let counted = cells[0].zip(cells[1]).map(|(hits, misses)| hits + misses);
        if let (Some(size), Some(counted)) = (size, counted)
            && size != counted
        {
            let message = format!("The cells hold {counted} of these people.");
            refuse(people, size.to_string(), message, "Compare all of them with the report.");
            continue;
        }
        let Some(value) = row.printed(printed) else { continue };
        let shown = row.text(printed).to_owned();
        let Some(size) = size.or(counted).filter(|size| size.fract() == 0.0 && (0.0..=5_000.0).contains(size)) else {
            if cells == [None, None] {
                let message = "The number of people is missing.".to_owned();
                refuse(printed, shown, message, &format!("Fill in {people}, or the cells."));
            }
            continue;
        };
        let hits = fitting(figure, value, size as u32);
        match (cells[0], hits.as_slice()) {
            (Some(given), hits) if hits.iter().any(|hits| f64::from(*hits) == given) => {}
            (Some(given), _) => {
                let message = format!("The cells give {given} of {size}.");
                refuse(printed, shown, message, "Compare both with the report; were columns swapped?");
            }
            (None, []) => {
                let message = format!("No whole number of {size} people is printed like this.");
                refuse(printed, shown, message, "Compare both with the report.");
            }
            (None, [hits]) => {
                let (hits, misses) = (f64::from(*hits), size - f64::from(*hits));
                match figure {
                    Figure::Sensitivity => (result.tp, result.fn_) = (Some(hits), Some(misses)),
                    _ => (result.tn, result.fp) = (Some(hits), Some(misses)),
                }
                rebuilt.push(format!("{printed} {shown} of {size}"));
            }
            (None, several) => {
                let message =
                    format!("{} to {} of {size} people are printed like this.", several[0], several[several.len() - 1]);
                refuse(printed, shown, message, "Give the cells, or more digits.");
            }
        }
    }
    if !rebuilt.is_empty() {
        let how = format!("Cells rebuilt from {}.", rebuilt.join(" and "));
        result.note = if result.note.is_empty() { how } else { format!("{}\n{how}", result.note) };
    }
}

/// How many of a group may have had the result that is right for it.
fn fitting(figure: Figure, value: Rounded, size: u32) -> Vec<u32> {
    let [own, other] = match figure {
        Figure::Sensitivity => [Total::Diseased, Total::NonDiseased],
        _ => [Total::NonDiseased, Total::Diseased],
    };
    let facts = [
        Fact::Total { total: own, value: size },
        Fact::Total { total: other, value: 0 },
        Fact::Figure { figure, value },
    ];
    let tables = match rebuild(&facts, size) {
        Ok(Rebuilt::Unique { table, .. }) => vec![table],
        Ok(Rebuilt::Several { tables, .. }) => tables,
        Ok(Rebuilt::Contradiction { .. } | Rebuilt::NotFound { .. }) | Err(_) => Vec::new(),
    };
    let mut hits: Vec<u32> =
        tables.iter().map(|table| if figure == Figure::Sensitivity { table.tp } else { table.tn }).collect();
    hits.sort_unstable();
    hits.dedup();
    hits
}

/// Positive tests are commoner in people without the condition.
fn speaks_against(counts: Counts) -> bool {
    match counts.cells() {
        [Some(tp), Some(fp), Some(fn_), Some(tn)] => {
            u64::from(tp) * (u64::from(fp) + u64::from(tn)) < u64::from(fp) * (u64::from(tp) + u64::from(fn_))
        }
        _ => false,
    }
}

/// Shares of women below one per cent: more often a share of 1 than so few women.
fn small_shares(said: &[Said], mapping: &Mapping) -> Option<Remark> {
    let column = *mapping.get("women")?;
    let small = said.iter().filter(|row| row.number("women").is_some_and(|share| share > 0.0 && share < 1.0));
    let cells: Vec<String> = small.map(|row| address(column, row.number)).collect();
    let message = "Less than one per cent of women: is this a share of 1 instead of a number in per cent?";
    (!cells.is_empty()).then(|| Remark::new(message, &cells))
}
