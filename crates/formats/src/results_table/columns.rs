//! Which column holds what: told by the column's name, by what somebody chose for that name before, or by choosing.

use std::collections::{BTreeMap, HashMap, HashSet};

use pruvex_core::{FieldError, FieldErrorCode};
use serde::Serialize;
use utoipa::ToSchema;

use super::file::{Cell, Remark, Row, TableFile, letters};
use super::write::RESULT_COLUMNS;

/// Something that a column can hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct TableField {
    /// Its name, that of the column in tables written here.
    pub name: &'static str,
    /// What stands there.
    pub about: &'static str,
}

/// Beyond the columns that are written: printed figures, from which the cells are rebuilt or by which they are checked.
const PRINTED: [(&str, &str); 4] = [
    ("sensitivity", "As printed, such as 0.78 or 78%; the cells are rebuilt from it, or checked by it"),
    ("specificity", "As printed"),
    ("with_condition", "How many have the condition"),
    ("without_condition", "How many do not"),
];

/// Everything that a column can hold, in the order of the tables written here.
pub const FIELDS: [TableField; RESULT_COLUMNS.len() + PRINTED.len()] = {
    let mut fields = [TableField { name: "", about: "" }; RESULT_COLUMNS.len() + PRINTED.len()];
    let mut at = 0;
    while at < fields.len() {
        let (name, about) =
            if at < RESULT_COLUMNS.len() { RESULT_COLUMNS[at] } else { PRINTED[at - RESULT_COLUMNS.len()] };
        fields[at] = TableField { name, about };
        at += 1;
    }
    fields
};

/// Other words that people give to columns, without spaces and signs.
const OTHER_NAMES: [(&str, &[&str]); 30] = [
    ("test", &["testname", "indextest", "clinicaltest"]),
    ("region", &["bodyregion", "joint"]),
    ("study", &["studynumber", "studyno", "studyid", "studynr"]),
    ("reference", &["citation", "publication", "source", "report", "article", "authoryear", "authorsyear"]),
    ("population", &["patients", "participants", "subjects"]),
    ("design", &["studydesign", "studytype"]),
    ("recruitment", &["sampling", "enrolment", "enrollment"]),
    ("setting", &["caresetting"]),
    ("people", &["n", "samplesize", "numberofpeople", "numberofpatients", "examined"]),
    ("age", &["meanage", "medianage", "ageyears"]),
    ("youngest", &["minage", "ageminimum", "agemin"]),
    ("oldest", &["maxage", "agemaximum", "agemax"]),
    ("women", &["womenpercent", "percentwomen", "female", "females", "percentfemale", "femalepercent"]),
    ("examiners", &["examiner", "rater", "raters"]),
    ("criterion", &["positivecriterion", "cutoff", "threshold"]),
    ("condition", &["targetcondition", "diagnosis", "disease"]),
    ("group", &["subgroup"]),
    ("reference_standard", &["goldstandard", "referencetest", "criterionstandard"]),
    ("unit", &["unitofanalysis"]),
    ("page", &["pages", "pageortable", "table"]),
    ("tp", &["truepositive", "truepositives"]),
    ("fp", &["falsepositive", "falsepositives"]),
    ("fn", &["falsenegative", "falsenegatives"]),
    ("tn", &["truenegative", "truenegatives"]),
    ("note", &["notes", "comment", "comments", "remark", "remarks"]),
    ("sample_data", &["sample", "madeup"]),
    ("sensitivity", &["se", "sens", "sn"]),
    ("specificity", &["sp", "spec"]),
    ("with_condition", &["diseased", "ndiseased", "cases"]),
    ("without_condition", &["nondiseased", "nnondiseased", "healthy", "controls"]),
];

/// A header without capitals, spaces and signs: what makes two headers the same.
fn plain(header: &str) -> String {
    header.chars().filter(|sign| sign.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}

/// The field that a header names.
fn named(header: &str) -> Option<&'static str> {
    let header = plain(header);
    let own = FIELDS.iter().map(|field| field.name).find(|name| plain(name) == header);
    own.or_else(|| OTHER_NAMES.iter().find(|(_, names)| names.contains(&header.as_str())).map(|(name, _)| *name))
}

/// One column of a file.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct ColumnView {
    /// `A`, `B`, ...
    pub letter: String,
    /// What stands at its head.
    pub header: String,
    /// What stands below: the first few different values.
    pub examples: Vec<String>,
    /// What it is taken to hold; `null` when it is left out.
    pub field: Option<String>,
    /// Somebody chose that for a column of this name before.
    pub remembered: bool,
}

/// A file before it is taken in: its columns, and what they are taken to hold.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct TableView {
    /// Names of a workbook's sheets; none of a CSV file.
    pub sheets: Vec<String>,
    /// The one that was read.
    pub sheet: usize,
    /// Row of the columns' names, from 1.
    pub header_row: u32,
    /// Rows below it.
    pub rows: usize,
    /// Its columns.
    pub columns: Vec<ColumnView>,
    /// Everything that a column can hold.
    pub fields: Vec<TableField>,
    /// What should be known of the file.
    pub remarks: Vec<Remark>,
}

/// Rows at the top among which the columns' names are looked for.
const LOOKED_AT: usize = 20;

/// Place of the row with the columns' names: the one that names most fields, else the first with two cells.
fn header_place(rows: &[Row]) -> usize {
    let known = |row: &Row| row.cells.iter().filter_map(|cell| named(&cell.text())).collect::<HashSet<_>>().len();
    let best = (0..rows.len().min(LOOKED_AT)).map(|at| (known(&rows[at]), at)).rev().max_by_key(|(known, _)| *known);
    match best {
        Some((known, at)) if known > 1 => at,
        _ => rows.iter().position(|row| row.cells.iter().filter(|cell| **cell != Cell::Empty).count() > 1).unwrap_or(0),
    }
}

/// How many of a file's columns say by their name what they hold.
pub(super) fn known_columns(file: &TableFile) -> usize {
    let header = file.rows.get(header_place(&file.rows));
    header.map_or(0, |row| row.cells.iter().filter(|cell| named(&cell.text()).is_some()).count())
}

/// The row of the columns' names and those below.
pub(super) fn split(file: &TableFile, header_row: Option<u32>) -> (&Row, &[Row]) {
    let asked = header_row.and_then(|number| file.rows.iter().position(|row| row.number == number));
    let place = asked.unwrap_or_else(|| header_place(&file.rows));
    (&file.rows[place], &file.rows[place + 1..])
}

/// Looks at a file's columns. `chosen` tells what was chosen before for columns of these names, which are written without capitals,
/// spaces and signs; nothing stands for a column that was left out. Of two columns for the same field the first has it.
#[must_use]
pub fn view_table(file: &TableFile, header_row: Option<u32>, chosen: &HashMap<String, Option<String>>) -> TableView {
    let (header, rows) = split(file, header_row);
    let width = rows.iter().chain([header]).map(|row| row.cells.len()).max().unwrap_or(0);
    let mut taken: HashSet<String> = HashSet::new();
    let mut columns = Vec::new();
    for column in 0..width {
        let title = header.cells.get(column).map(Cell::text).unwrap_or_default();
        let mut examples: Vec<String> = Vec::new();
        for cell in rows.iter().filter_map(|row| row.cells.get(column)).filter(|cell| **cell != Cell::Empty) {
            let text: String = cell.text().chars().take(60).collect();
            if !examples.contains(&text) {
                examples.push(text);
            }
            if examples.len() == 3 {
                break;
            }
        }
        if title.is_empty() && examples.is_empty() {
            continue;
        }
        let before = chosen.get(&plain(&title));
        let field = match before {
            Some(before) => before.clone(),
            None => named(&title).map(str::to_owned),
        };
        let field = field.filter(|field| taken.insert(field.clone()));
        let remembered = before.is_some_and(|before| before.as_deref() != named(&title));
        columns.push(ColumnView { letter: letters(column), header: title, examples, field, remembered });
    }
    TableView {
        sheets: file.sheets.clone(),
        sheet: file.sheet,
        header_row: header.number,
        rows: rows.len(),
        columns,
        fields: FIELDS.to_vec(),
        remarks: file.remarks.clone(),
    }
}

/// Which field each column holds, by the place of the column.
pub(super) type Mapping = BTreeMap<&'static str, usize>;

/// Reads `B:test,C:tp`: for each column by its letters the field that it holds.
///
/// # Errors
/// Every part that names no column, no field, or a field that another column holds.
pub fn read_mapping(text: &str) -> Result<BTreeMap<&'static str, usize>, Vec<FieldError>> {
    let (mut mapping, mut errors) = (Mapping::new(), Vec::new());
    for part in text.split(',').filter(|part| !part.trim().is_empty()) {
        let (letter, name) = part.split_once(':').unwrap_or((part, ""));
        let (letter, name) = (letter.trim(), name.trim());
        let mut refuse = |code, message: String, remedy: &str| {
            errors.push(FieldError::new("columns", code, part, message, remedy));
        };
        let column = place(letter);
        let field = FIELDS.iter().map(|field| field.name).find(|known| *known == name);
        match (column, field) {
            (None, _) => {
                refuse(FieldErrorCode::Unknown, format!("{letter:?} names no column."), "Give its letters, such as C.");
            }
            (_, None) => {
                refuse(FieldErrorCode::Unknown, format!("No column can hold {name:?}."), "Give the name of a field.");
            }
            (Some(column), Some(field)) => {
                if mapping.insert(field, column).is_some() {
                    let message = format!("Two columns are said to hold {field}.");
                    refuse(FieldErrorCode::Duplicate, message, "Choose one of them.");
                }
            }
        }
    }
    if errors.is_empty() { Ok(mapping) } else { Err(errors) }
}

/// Place of a column by its letters.
fn place(letters: &str) -> Option<usize> {
    if letters.is_empty() || letters.len() > 3 || !letters.bytes().all(|byte| byte.is_ascii_alphabetic()) {
        return None;
    }
    let value = letters.bytes().fold(0_usize, |sum, byte| sum * 26 + usize::from(byte.to_ascii_uppercase() - b'A') + 1);
    Some(value - 1)
}

/// What was chosen for the columns of a file, to be remembered: by their plain names.
#[must_use]
pub fn chosen_columns(
    file: &TableFile,
    header_row: Option<u32>,
    mapping: &BTreeMap<&'static str, usize>,
) -> Vec<(String, Option<String>)> {
    let (header, _) = split(file, header_row);
    let of = |column: usize| mapping.iter().find(|(_, place)| **place == column).map(|(field, _)| (*field).to_owned());
    let titles = header.cells.iter().enumerate().map(|(column, cell)| (plain(&cell.text()), of(column)));
    titles.filter(|(title, _)| !title.is_empty()).collect()
}
