//! Reading the reference vectors, and comparing with them honestly.
#![allow(dead_code)]

use std::collections::HashMap;

use pruvex_core::accuracy::Counts;

fn path(name: &str) -> String {
    format!("{}/tests/reference/{name}", env!("CARGO_MANIFEST_DIR"))
}

pub fn csv_rows(name: &str) -> Vec<HashMap<String, String>> {
    csv::Reader::from_path(path(name)).unwrap().deserialize().map(Result::unwrap).collect()
}

pub fn json(name: &str) -> serde_json::Value {
    serde_json::from_str(&std::fs::read_to_string(path(name)).unwrap()).unwrap()
}

/// The 2x2 tables of an item with columns `tp`, `fp`, `fn` and `tn`.
pub fn counts_of(item: &serde_json::Value) -> Vec<Counts> {
    let column = |name: &str| -> Vec<f64> { serde_json::from_value(item[name].clone()).unwrap() };
    let (tp, fp, fn_, tn) = (column("tp"), column("fp"), column("fn"), column("tn"));
    (0..tp.len()).map(|i| Counts::full(tp[i], fp[i], fn_[i], tn[i]).unwrap()).collect()
}

/// Empty is undefined, `inf` is infinity.
pub fn number(text: &str) -> Option<f64> {
    (!text.is_empty()).then(|| text.parse().unwrap())
}

/// Relative comparison without a hidden absolute floor; where zero is expected, only zero to rounding passes.
pub fn assert_close(value: f64, expected: f64, relative: f64, what: &str) {
    let close = if expected.is_infinite() {
        value == expected
    } else if expected == 0.0 {
        value.abs() < 1e-12
    } else {
        (value - expected).abs() <= relative * expected.abs()
    };
    assert!(close, "{what}: got {value}, expected {expected}");
}

#[test]
#[should_panic(expected = "got 1.0001")]
fn the_comparison_can_fail() {
    assert_close(1.0001, 1.0, 1e-8, "helper");
}
