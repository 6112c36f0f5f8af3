//! Interpretation tables: no gap and no overlap stays unseen, and none is invented.

use std::collections::BTreeMap;

use proptest::prelude::*;
use pruvex_core::catalogue::{Found, Interpretation, TableFault};
use serde_json::{Value, json};

fn table(measures: Value, rows: Value) -> Interpretation {
    serde_json::from_value(json!({ "measures": measures, "rows": rows })).unwrap()
}

fn words(faults: &[TableFault]) -> Vec<(Vec<usize>, String)> {
    faults.iter().map(|fault| (fault.rows.clone(), fault.words())).collect()
}

/// Turning compared at two angles: both turn further than the other side, only one does, or none.
fn two_angles(rows: Value) -> Interpretation {
    let measure = |name: &str| json!({ "name": name, "unit": "deg", "low": 0, "high": 60, "resolution": 1 });
    table(json!([measure("Difference at 30"), measure("Difference at 90")]), rows)
}

fn when(reading: &str, conditions: &[(&str, &str, f64)]) -> Value {
    let conditions: Vec<Value> = conditions
        .iter()
        .map(|(measure, comparison, value)| json!({ "measure": measure, "comparison": comparison, "value": value }))
        .collect();
    json!({ "reading": reading, "conditions": conditions })
}

#[test]
fn a_gap_is_shown_by_a_concrete_case() {
    let (at_30, at_90) = ("Difference at 30", "Difference at 90");
    let rows = json!([
        when("neither", &[(at_30, "less_than", 10.0), (at_90, "less_than", 10.0)]),
        when("one structure", &[(at_30, "at_least", 10.0), (at_90, "less_than", 10.0)]),
        when("two structures", &[(at_30, "at_least", 10.0), (at_90, "at_least", 10.0)]),
    ]);
    let table = two_angles(rows);
    let found = words(&table.faults().unwrap());
    assert_eq!(found, [(vec![], "Difference at 30: 0 deg; Difference at 90: 10 deg".to_owned())]);
}

#[test]
fn whole_degrees_leave_no_gap_between_nine_and_ten() {
    let rows =
        |low: f64| json!([when("no", &[("Angle", "at_most", low)]), when("yes", &[("Angle", "at_least", 10.0)])]);
    let measure = |resolution: Value| json!([{ "name": "Angle", "low": 0, "high": 90, "resolution": resolution }]);
    assert!(table(measure(json!(1)), rows(9.0)).faults().unwrap().is_empty());
    let read_finely = table(measure(Value::Null), rows(9.0)).faults().unwrap();
    assert_eq!(words(&read_finely), [(vec![], "Angle: 9.5".to_owned())]);
    let overlapping = table(measure(json!(1)), rows(10.0)).faults().unwrap();
    assert_eq!(words(&overlapping), [(vec![0, 1], "Angle: 10".to_owned())]);
    // Without limits a number may lie beyond every boundary.
    let open = table(json!([{ "name": "Angle" }]), json!([when("yes", &[("Angle", "at_least", 10.0)])]));
    assert_eq!(open.faults().unwrap().len(), 1);
}

#[test]
fn words_that_no_row_names_are_gaps() {
    let rows = json!([
        { "reading": "root", "conditions": [{ "measure": "Press", "choices": ["arm"] }, { "measure": "Lift", "choices": ["less"] }] },
        { "reading": "joint", "conditions": [{ "measure": "Press", "choices": ["neck"] }] },
    ]);
    let measures = json!([
        { "name": "Press", "choices": ["arm", "neck"] },
        { "name": "Lift", "choices": ["less", "same"] },
    ]);
    let table = table(measures, rows);
    assert_eq!(words(&table.faults().unwrap()), [(vec![], "Press: arm; Lift: same".to_owned())]);
    let values = |press: &str, lift: &str| {
        BTreeMap::from([("Press", press), ("Lift", lift)].map(|(k, v)| (k.to_owned(), Found::Choice(v.to_owned()))))
    };
    assert_eq!(table.read(&values("neck", "same")).unwrap().rows, [1]);
    assert!(table.read(&values("arm", "same")).unwrap().rows.is_empty());
    let errors = table.read(&values("leg", "same")).unwrap_err();
    assert_eq!(errors[0].field, "values.Press");
    let half = table.read(&BTreeMap::from([("Press".to_owned(), Found::Choice("neck".to_owned()))])).unwrap();
    assert_eq!((half.rows, half.missing), (vec![1], vec!["Lift".to_owned()]));
}

#[test]
fn conditions_that_cannot_be_read_are_named_and_large_tables_admit_it() {
    let rows = json!([{ "reading": "x", "conditions": [
        { "measure": "Nowhere", "comparison": "at_least", "value": 1 },
        { "measure": "Angle", "comparison": "at_least" },
        { "measure": "Angle", "comparison": "at_least", "value": 1 }
    ] }]);
    assert_eq!(table(json!([{ "name": "Angle" }]), rows).unreadable(), [(0, 0), (0, 1)]);
    // Twelve measures, each cut in many places by sixty rows: more combinations than anybody can look at.
    let names: Vec<String> = (0..12).map(|m| format!("M{m}")).collect();
    let rows: Vec<Value> = (0..60)
        .map(|row| {
            let conditions: Vec<(&str, &str, f64)> = names
                .iter()
                .enumerate()
                .map(|(m, name)| {
                    (name.as_str(), "at_least", f64::from((row * 7 + i32::try_from(m).unwrap() * 13) % 60))
                })
                .collect();
            when("x", &conditions)
        })
        .collect();
    let measures: Vec<Value> =
        names.iter().map(|name| json!({ "name": name, "low": 0, "high": 60, "resolution": 1 })).collect();
    let answer = table(json!(measures), json!(rows)).faults();
    assert!(answer.is_none_or(|faults| !faults.is_empty()));
}

proptest! {
    /// Against looking at every reading of two small measures one by one.
    #[test]
    fn faults_are_those_of_looking_at_every_case(
        rows in prop::collection::vec((0..4u8, 0..9u8, 0..4u8, 0..9u8), 1..6),
    ) {
        let comparison = |code: u8| ["at_least", "more_than", "at_most", "less_than"][usize::from(code)];
        let rows: Vec<Value> = rows
            .iter()
            .map(|(c1, v1, c2, v2)| when("x", &[("A", comparison(*c1), f64::from(*v1)), ("B", comparison(*c2), f64::from(*v2))]))
            .collect();
        let measure = |name: &str| json!({ "name": name, "low": 0, "high": 8, "resolution": 1 });
        let table = table(json!([measure("A"), measure("B")]), json!(rows));
        let answers = |a: u8, b: u8| {
            let values = BTreeMap::from([("A", a), ("B", b)].map(|(k, v)| (k.to_owned(), Found::Number(f64::from(v)))));
            table.read(&values).unwrap().rows
        };
        let wrong = (0..9).flat_map(|a| (0..9).map(move |b| (a, b))).filter(|(a, b)| answers(*a, *b).len() != 1).count();
        let faults = table.faults().unwrap();
        prop_assert_eq!(faults.is_empty(), wrong == 0);
        for fault in &faults {
            let value = |index: usize| match &fault.example[index].value {
                Some(Found::Number(number)) => *number,
                _ => 0.0,
            };
            let values = BTreeMap::from([("A".to_owned(), Found::Number(value(0))), ("B".to_owned(), Found::Number(value(1)))]);
            prop_assert_eq!(&table.read(&values).unwrap().rows, &fault.rows, "an example shows its fault");
        }
    }
}
