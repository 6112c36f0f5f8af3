//! What the cells of one row say, each by the kind of its field.

use std::collections::BTreeMap;

use pruvex_core::accuracy::Rounded;
use pruvex_core::evidence::{Identifier, Rule, parse_identifier};
use pruvex_core::{FieldError, FieldErrorCode};
use serde_json::{Value, json};

use super::cells::{Cell, Row, address};
use super::fields::Mapping;
use crate::BundleTogether;

/// How the cells of a field are read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Kind {
    Text,
    Number,
    /// A number in per cent.
    Percent,
    /// Codes, each with other words for it.
    Choice(&'static [(&'static str, &'static [&'static str])]),
    Yes,
    /// A figure whose printed digits count.
    Printed,
    Together,
    Doi,
}

const REGIONS: &[(&str, &[&str])] = &[
    ("neck", &[]),
    ("shoulder", &[]),
    ("elbow", &[]),
    ("hand_wrist", &["hand_and_wrist", "wrist_and_hand", "wrist", "hand"]),
    ("trunk_back", &["trunk_and_low_back", "low_back", "back"]),
    ("pelvis", &[]),
    ("hip", &[]),
    ("knee", &[]),
    ("ankle_foot", &["ankle_and_foot", "ankle", "foot"]),
];
const DESIGNS: &[(&str, &[&str])] = &[
    ("one_group", &["cross_sectional", "cohort", "single_gate", "cohort_single_gate"]),
    ("two_groups", &["cases_and_controls", "case_control", "two_gate", "case_control_two_gate"]),
    ("retrospective", &[]),
];
const SETTINGS: &[(&str, &[&str])] = &[
    ("primary_care", &["general_practice"]),
    ("specialist_clinic", &[]),
    ("surgical_series", &[]),
    ("emergency", &["emergency_department"]),
    ("community", &["work_or_screening"]),
    ("sports", &["sports_medicine"]),
];

/// Fields that hold something else than text.
const KINDS: [(&str, Kind); 34] = [
    ("region", Kind::Choice(REGIONS)),
    ("design", Kind::Choice(DESIGNS)),
    ("recruitment", Kind::Choice(&[("consecutive", &[]), ("random", &[]), ("convenience", &[])])),
    ("setting", Kind::Choice(SETTINGS)),
    ("activity", Kind::Choice(&[("general", &["general_public"]), ("athletes", &[]), ("workers", &["heavy_work"])])),
    ("course", Kind::Choice(&[("acute", &[]), ("chronic", &[]), ("mixed", &["acute_and_chronic"])])),
    ("state", Kind::Choice(&[("awake", &[]), ("anaesthetised", &["under_anaesthesia"])])),
    ("source", Kind::Choice(&[("published", &[]), ("own_records", &["local"])])),
    ("unit", Kind::Choice(&[("person", &["persons", "people", "by_person"]), ("side", &["sides", "by_side"])])),
    ("first_year", Kind::Number),
    ("last_year", Kind::Number),
    ("people", Kind::Number),
    ("age", Kind::Number),
    ("youngest", Kind::Number),
    ("oldest", Kind::Number),
    ("women", Kind::Percent),
    ("tp", Kind::Number),
    ("fp", Kind::Number),
    ("fn", Kind::Number),
    ("tn", Kind::Number),
    ("positive_unverified", Kind::Number),
    ("negative_unverified", Kind::Number),
    ("uninterpretable_with", Kind::Number),
    ("uninterpretable_without", Kind::Number),
    ("uninterpretable_unverified", Kind::Number),
    ("with_condition", Kind::Number),
    ("without_condition", Kind::Number),
    ("preferred", Kind::Yes),
    ("sample_data", Kind::Yes),
    ("sensitivity", Kind::Printed),
    ("specificity", Kind::Printed),
    ("together", Kind::Together),
    ("study", Kind::Text),
    ("doi", Kind::Doi),
];

/// Of fields with few possible values, those.
pub(super) fn choices() -> BTreeMap<&'static str, Vec<&'static str>> {
    let codes = |(field, kind): (&'static str, Kind)| match kind {
        Kind::Choice(codes) => Some((field, codes.iter().map(|(code, _)| *code).collect())),
        _ => None,
    };
    KINDS.into_iter().filter_map(codes).collect()
}

fn kind(field: &str) -> Kind {
    KINDS.iter().find(|(name, _)| *name == field).map_or(Kind::Text, |(_, kind)| *kind)
}

/// What a row says, field by field; fields without anything are absent.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Said {
    /// Row of the file.
    pub number: u32,
    pub values: BTreeMap<&'static str, Value>,
}

impl Said {
    pub fn text(&self, field: &str) -> &str {
        self.values.get(field).and_then(Value::as_str).unwrap_or_default()
    }

    pub fn number(&self, field: &str) -> Option<f64> {
        self.values.get(field).and_then(Value::as_f64)
    }

    pub fn yes(&self, field: &str) -> bool {
        self.values.get(field) == Some(&Value::Bool(true))
    }

    pub fn together(&self) -> Option<BundleTogether> {
        self.values.get("together").and_then(|it| serde_json::from_value(it.clone()).ok())
    }

    /// A printed figure with its digits.
    pub fn printed(&self, field: &str) -> Option<Rounded> {
        printed(self.text(field))
    }
}

/// A fault of one cell: `G14 (tp)`; of the row, where no column holds the field.
pub(super) fn cell_fault(
    mapping: &Mapping,
    row: u32,
    field: &str,
    code: FieldErrorCode,
    value: impl ToString,
    (message, remedy): (impl Into<String>, &str),
) -> FieldError {
    FieldError::new(cell_place(mapping, row, field), code, value, message, remedy)
}

pub(super) fn cell_place(mapping: &Mapping, row: u32, field: &str) -> String {
    match mapping.get(field) {
        Some(column) => format!("{} ({field})", address(*column, row)),
        None => format!("row {row} ({field})"),
    }
}

/// Reads a row; what cannot be read is kept in `faults`.
pub(super) fn read_row(mapping: &Mapping, row: &Row, faults: &mut Vec<FieldError>) -> Said {
    let mut values = BTreeMap::new();
    for (field, column) in mapping {
        let Some(cell) = row.cells.get(*column).filter(|cell| **cell != Cell::Empty) else { continue };
        // A choice that is not known is wrong wherever it stands; anything else may be right in another row.
        let code = match (cell, kind(field)) {
            (Cell::Text(_) | Cell::Number(_), Kind::Choice(_)) => FieldErrorCode::Unknown,
            _ => FieldErrorCode::Invalid,
        };
        let read = match cell {
            Cell::Broken(_, why) => Err(((*why).to_owned(), "Write the value itself into this cell.".to_owned())),
            _ => read(kind(field), cell),
        };
        match read {
            Ok(Value::Null) => {}
            Ok(value) => drop(values.insert(*field, value)),
            Err((message, remedy)) => {
                faults.push(cell_fault(mapping, row.number, field, code, cell.text(), (message, &remedy)));
            }
        }
    }
    if let Some(Value::String(year)) = values.remove("reference_year") {
        join_year(&mut values, &year);
    }
    Said { number: row.number, values }
}

/// Author and year in two columns are one reference, unless the first says the year already.
fn join_year(values: &mut BTreeMap<&'static str, Value>, year: &str) {
    if let Some(Value::String(reference)) = values.get_mut("reference")
        && !reference.contains(year)
    {
        *reference = format!("{reference} {year}");
    }
}

type Read = Result<Value, (String, String)>;

fn read(kind: Kind, cell: &Cell) -> Read {
    let text = cell.text();
    if kind != Kind::Text && ["-", "–", "na", "n/a", "nr"].contains(&text.to_lowercase().as_str()) {
        return Ok(Value::Null);
    }
    let said = |message: String, remedy: &str| Err((message, remedy.to_owned()));
    match kind {
        Kind::Text => Ok(Value::String(text)),
        Kind::Number | Kind::Percent => match cell {
            Cell::Number(number) => Ok(json!(number)),
            _ => number(text.strip_suffix('%').filter(|_| kind == Kind::Percent).unwrap_or(&text).trim()),
        },
        Kind::Choice(codes) => {
            let lower = text.to_lowercase();
            let words: Vec<&str> =
                lower.split(|sign: char| !sign.is_alphanumeric()).filter(|it| !it.is_empty()).collect();
            let given = words.join("_");
            match codes.iter().find(|(code, others)| given == *code || others.contains(&given.as_str())) {
                Some((code, _)) => Ok(json!(code)),
                None => {
                    let codes: Vec<&str> = codes.iter().map(|(code, _)| *code).collect();
                    said("This is not one of the possible values.".to_owned(), &format!("Write {}.", codes.join(", ")))
                }
            }
        }
        Kind::Yes => match text.to_lowercase().as_str() {
            "yes" | "true" | "y" | "x" | "1" => Ok(Value::Bool(true)),
            "no" | "false" | "n" | "0" => Ok(Value::Null),
            _ => said("This is neither yes nor no.".to_owned(), "Write yes, or leave the cell empty."),
        },
        Kind::Printed => match printed(&text) {
            Some(_) => Ok(Value::String(text)),
            None => said(
                "This is not a proportion.".to_owned(),
                "Write it as it is printed: from 0 to 1, or from 0 to 100 with a % sign.",
            ),
        },
        Kind::Doi => match parse_identifier(&text) {
            Ok(Identifier::Doi(doi)) => Ok(Value::String(doi)),
            _ => said("This is no DOI.".to_owned(), "It begins with 10. and has a slash."),
        },
        Kind::Together => match together(&text) {
            Some(together) => Ok(json!(together)),
            None => said(
                "This is not understood.".to_owned(),
                "Write the names of the other tests with semicolons between them, then (any), (all) or (at least 2).",
            ),
        },
    }
}

fn number(text: &str) -> Read {
    let remedy = "Write a number with a decimal point, or leave the cell empty.".to_owned();
    let grouped = text.split_once(',').is_some_and(|(before, after)| {
        after.len() == 3
            && before != "0"
            && !before.is_empty()
            && [before, after].iter().all(|it| it.parse::<u32>().is_ok())
    });
    if grouped {
        return Err((
            "This can be read in two ways.".to_owned(),
            "Write it without the comma, or with a point.".to_owned(),
        ));
    }
    // Infinity and the like are words of programs, not numbers of a report.
    let plain = text.replacen(',', ".", 1);
    let digits = plain.bytes().all(|byte| byte.is_ascii_digit() || matches!(byte, b'.' | b'-' | b'+' | b'e' | b'E'));
    match plain.parse::<f64>() {
        Ok(number) if digits && number.is_finite() => Ok(json!(number)),
        _ => Err(("This is not a number.".to_owned(), remedy)),
    }
}

/// `0.78`, `78%`, `78.4` (more than 1: per cent); none beyond 100 per cent.
fn printed(text: &str) -> Option<Rounded> {
    let plain = text.trim().replacen(',', ".", 1);
    let (digits, percent) = match plain.strip_suffix('%') {
        Some(digits) => (digits.trim(), true),
        None => (plain.as_str(), false),
    };
    let value: f64 = digits.parse().ok()?;
    let percent = percent || value > 1.0;
    let most = if percent { 100.0 } else { 1.0 };
    if value > most { None } else { Rounded::parse(digits, percent) }
}

/// `One test; Another (at least 2)`, as it is written.
fn together(text: &str) -> Option<BundleTogether> {
    let (names, rule) = text.trim().strip_suffix(')')?.rsplit_once('(')?;
    let tests: Vec<String> =
        names.split(';').map(|name| name.trim().to_owned()).filter(|name| !name.is_empty()).collect();
    let rule = match rule.trim().to_lowercase().as_str() {
        "any" => Rule::Any,
        "all" => Rule::All,
        other => Rule::AtLeast(other.strip_prefix("at least")?.trim().parse().ok()?),
    };
    (!tests.is_empty()).then_some(BundleTogether { tests, rule })
}

#[cfg(test)]
mod tests {
    use pruvex_core::catalogue::Region;
    use pruvex_core::evidence::{AccuracyInput, StudySetup};

    use super::*;

    /// The words of a choice are those of the domain, and all that are listed beside the column.
    #[test]
    fn every_choice_is_one_of_the_domain_and_told_beside_its_column() {
        for (field, kind) in KINDS {
            let Kind::Choice(codes) = kind else { continue };
            for (code, _) in codes {
                let value = json!({ field: code });
                let known = match field {
                    "region" => Region::from_code(code).is_some(),
                    "unit" => serde_json::from_value::<AccuracyInput>(value).is_ok(),
                    _ => serde_json::from_value::<StudySetup>(value).is_ok(),
                };
                assert!(known, "{field} {code}");
                let about = crate::results_table::FIELDS.iter().find(|it| it.name == field).unwrap().about;
                assert!(field == "region" || about.contains(code), "{field} {code}");
            }
        }
        assert!(REGIONS.iter().map(|(code, _)| *code).eq(Region::ALL.map(Region::code)));
    }

    #[test]
    fn numbers_are_read_as_people_write_them_and_never_guessed() {
        for (text, value) in [("12", 12.0), ("12,5", 12.5), ("0,125", 0.125), ("-3", -3.0), ("1234", 1234.0)] {
            assert_eq!(number(text), Ok(json!(value)), "{text}");
        }
        for text in ["1,234", "1.234,5", "twelve", "inf", "NaN", "1 234", "12;5", ""] {
            assert!(number(text).is_err(), "{text}");
        }
        for (text, same) in [("78%", "78.0%"), ("0.78", "0.780")] {
            assert_ne!(printed(text), printed(same), "digits count");
            assert!(printed(text).is_some());
        }
        assert_eq!(printed("78.4"), printed("78,4 %"));
        for text in ["120%", "101", "-0.2", "high"] {
            assert_eq!(printed(text), None, "{text}");
        }
    }
}
