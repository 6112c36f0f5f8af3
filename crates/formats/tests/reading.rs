//! Reading bundles and CSV tables: what is right comes in, what is wrong is named with its place.
#![allow(clippy::unwrap_used, reason = "a failed step is a failed test")]

use proptest::prelude::*;
use pruvex_core::FieldError;
use pruvex_formats::{MAX_BUNDLE_BYTES, read_bundle, read_counts};
use serde_json::{Value, json};

fn demo() -> Value {
    serde_json::from_slice(&std::fs::read("../../demo/fenwater.json").unwrap()).unwrap()
}

fn errors(bundle: &Value) -> Vec<FieldError> {
    read_bundle(bundle.to_string().as_bytes()).unwrap_err()
}

#[test]
fn the_demo_bundle_is_sample_data_and_reads_without_a_fault() {
    let bundle = read_bundle(demo().to_string().as_bytes()).unwrap();
    assert!(bundle.sample);
    assert_eq!((bundle.tests.len(), bundle.tests.iter().map(|t| t.studies.len()).sum::<usize>()), (6, 25));
}

#[test]
fn files_that_are_no_bundle_get_one_clear_error() {
    assert!(read_bundle(b"not json").unwrap_err()[0].message.contains("line 1"));
    assert!(read_bundle(b"{\"a\": 1}").unwrap_err()[0].message.contains("not a bundle"));
    let mut newer = demo();
    newer["schema_version"] = json!(7);
    let found = errors(&newer);
    assert_eq!((found.len(), found[0].field.as_str()), (1, "schema_version"));
    assert!(read_bundle(&vec![b' '; MAX_BUNDLE_BYTES + 1]).unwrap_err()[0].message.contains("20 MiB"));
    let deep = "[".repeat(100_000);
    assert!(read_bundle(deep.as_bytes()).is_err());
}

#[test]
fn every_fault_is_told_with_its_path() {
    let mut shape = demo();
    shape["tests"][0]["purpose"] = json!("magic");
    shape["tests"][1]["studies"][2]["tp"] = json!(-4);
    shape["tests"][2]["steps"] = json!("one");
    shape["conditions"][0]["pre_test"] = json!(35);
    shape["tests"][3].as_object_mut().unwrap().remove("positive_finding");
    shape["extra"] = json!(1);
    let paths: Vec<String> = errors(&shape).into_iter().map(|e| e.field).collect();
    for path in
        ["tests[0].purpose", "tests[1].studies[2].tp", "tests[2].steps", "conditions[0].pre_test", "tests[3]", "$"]
    {
        assert!(paths.contains(&path.to_owned()), "{path} is not among {paths:?}");
    }
    // Faults that no schema can see.
    let mut rules = demo();
    rules["tests"][1]["aliases"] = json!(["WRIST  flexion, held"]);
    rules["tests"][0]["studies"][1]["fn"] = Value::Null;
    rules["tests"][0]["studies"][3] = json!({ "reference": "x", "tp": 0, "fp": 0, "fn": 0, "tn": 0 });
    rules["tests"][4]["name"] = json!("\u{0}");
    let paths: Vec<String> = errors(&rules).into_iter().map(|e| e.field).collect();
    for path in ["tests[1].aliases[0]", "tests[0].studies[1].fn", "tests[0].studies[3].tp", "tests[4].name"] {
        assert!(paths.contains(&path.to_owned()), "{path} is not among {paths:?}");
    }
}

#[test]
fn a_csv_table_is_read_whatever_its_order_and_extra_columns() {
    let text = "\u{feff}\"study\",note,TN,fp,fn,tp\r\n\"A, first\",x,24,0,5,20\r\nB,,,,5,20\r\n";
    let table = read_counts(text.as_bytes()).unwrap();
    assert_eq!(table.rows[0].0, "A, first");
    assert_eq!(table.rows[0].1.cells(), [Some(20), Some(0), Some(5), Some(24)]);
    assert_eq!(table.rows[1].1.cells(), [Some(20), None, Some(5), None]);
}

#[test]
fn csv_faults_name_line_and_column() {
    let find = |text: &str| -> Vec<(u64, String)> {
        read_counts(text.as_bytes()).unwrap_err().into_iter().map(|e| (e.line, e.column)).collect()
    };
    assert_eq!(find("study,tp,fp,fn\nA,1,2,3\n"), [(1, "tn".to_owned())]);
    let text = "study,tp,fp,fn,tn\nA,1,2,3,4\nB,one,2,3,4\nC,1,-2,3,4.5\nD,1,2,,4\nE,0,0,0,0\n";
    let expected = [(3, "tp"), (4, "fp"), (4, "tn"), (5, "fn"), (6, "tp")];
    assert_eq!(find(text), expected.map(|(line, column)| (line, column.to_owned())));
    assert_eq!(find("study,tp,fp,fn,tn\n")[0].0, 2);
    assert!(!find("study,tp,fp,fn,tn\nA,1,2,3,inf\nB,1,2,3,NaN\n").is_empty());
}

proptest! {
    #[test]
    fn no_input_makes_a_reader_panic(bytes in prop::collection::vec(any::<u8>(), 0..400)) {
        let _ = read_counts(&bytes);
        let _ = read_bundle(&bytes);
        let mut with_header = b"study,tp,fp,fn,tn\n".to_vec();
        with_header.extend(bytes);
        let _ = read_counts(&with_header);
    }
}
