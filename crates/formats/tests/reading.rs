//! Reading bundles and CSV tables: what is right comes in, what is wrong is named with its place.

use proptest::prelude::*;
use pruvex_core::FieldError;
use pruvex_core::catalogue::ContactTask;
use pruvex_core::evidence::{Between, Unit};
use pruvex_formats::{MAX_BUNDLE_BYTES, read_bundle, read_counts, read_matrix, write_bundle, write_csv};
use serde_json::{Value, json};

fn demo() -> Value {
    serde_json::from_slice(&std::fs::read("../../demo/hand_wrist.json").unwrap()).unwrap()
}

fn errors(bundle: &Value) -> Vec<FieldError> {
    read_bundle(bundle.to_string().as_bytes()).unwrap_err()
}

#[test]
fn the_demo_bundle_is_sample_data_and_reads_without_a_fault() {
    let bundle = read_bundle(demo().to_string().as_bytes()).unwrap();
    assert!(bundle.sample);
    let results = bundle.tests.iter().map(|test| test.results.len()).sum::<usize>();
    assert_eq!((bundle.tests.len(), bundle.studies.len(), results), (8, 32, 32));
    // What is written reads back as it was, to the last field.
    let written = write_bundle(&bundle).unwrap();
    assert_eq!(read_bundle(written.as_bytes()).unwrap(), bundle);
    assert_eq!(write_bundle(&read_bundle(written.as_bytes()).unwrap()).unwrap(), written);
}

#[test]
fn references_of_a_bundle_are_checked_and_studies_point_to_one_of_them() {
    let mut bundle = demo();
    let read = read_bundle(bundle.to_string().as_bytes()).unwrap();
    let works: Vec<Value> = read.studies.iter().map(|study| json!(study.work)).collect();
    let given: Vec<Value> = bundle["studies"].as_array().unwrap().iter().map(|study| study["work"].clone()).collect();
    assert_eq!(works, given);
    assert!(read.references.iter().all(|it| it.sample && it.reference.is_example()));
    // A mark stands at each reference when the file is not made up as a whole.
    let mut mixed = read.clone();
    mixed.sample = false;
    mixed.references[1].sample = false;
    let written: Value = serde_json::from_str(&write_bundle(&mixed).unwrap()).unwrap();
    assert_eq!(
        (&written["references"][0]["sample"], &written["references"][1]["sample"]),
        (&json!(true), &Value::Null)
    );
    assert_eq!(read_bundle(written.to_string().as_bytes()).unwrap(), mixed);

    bundle["references"][3]["reference"]["title"] = json!(" ");
    bundle["references"][4]["reference"]["year"] = json!(20.5);
    bundle["studies"][0]["work"] = json!(99);
    bundle["tests"][1]["results"][0]["study"] = json!(98);
    bundle["tests"][1]["results"][1]["result"]["together"] = json!({ "tests": [], "rule": "any" });
    bundle["studies"].as_array_mut().unwrap().push(json!({ "study": { "reference": "Of nothing" } }));
    let paths: Vec<String> = errors(&bundle).into_iter().map(|error| error.field).collect();
    let expected = [
        "references[3].reference.title",
        "references[4].reference.year",
        "studies[0].work",
        "tests[1].results[0].study",
        "tests[1].results[1].result.together",
        "studies[9]",
        "studies[32]",
    ];
    assert_eq!(paths, expected, "the study of the result that was misplaced has none now");
}

#[test]
fn plans_of_a_bundle_know_their_tests_by_name() {
    let mut bundle = demo();
    let read = read_bundle(bundle.to_string().as_bytes()).unwrap();
    let (plan, names) = (&read.plans[0].plan, &read.plans[0].names);
    assert_eq!((plan.tests.len(), names[0].as_str()), (7, "Two points at the fingertip"));
    assert_eq!(plan.before(), [(0, 3), (0, 4), (0, 5)]);
    // Names are compared as everywhere: case and spaces make no difference.
    bundle["plans"][0]["tests"][3]["after"] = json!(["  two points AT the fingertip"]);
    assert_eq!(read_bundle(bundle.to_string().as_bytes()).unwrap().plans[0].plan, *plan);
    let paths = |changed: &dyn Fn(&mut Value)| {
        let mut bundle = demo();
        changed(&mut bundle["plans"][0]);
        errors(&bundle).into_iter().map(|error| error.field).collect::<Vec<_>>()
    };
    assert_eq!(paths(&|it| it["tests"].as_array_mut().unwrap().truncate(6)), ["plans[0].tests"]);
    assert_eq!(paths(&|it| it["tests"][4]["after"] = json!(["Nothing"])), ["plans[0].tests[4].after[0]"]);
    assert_eq!(paths(&|it| it["tests"][4]["name"] = it["tests"][3]["name"].clone()), ["plans[0].plan.tests[4].test"]);
    assert_eq!(paths(&|it| it["tests"][0]["after"] = json!(["Wrist flexion, held"])), ["plans[0].plan.tests[0].after"]);
    assert_eq!(
        paths(&|it| it["plan"]["questions"][0]["treat_above"] = json!(0.05)),
        ["plans[0].plan.questions[0].reassure_below"]
    );
    assert_eq!(paths(&|it| it["plan"]["title"] = json!(" ")), ["plans[0].plan.title"]);
    assert_eq!(paths(&|it| it["plan"]["colour"] = json!("red")).len(), 1, "what the schema does not know is refused");
}

/// As version 1 wrote it: each result carries the words of its study.
fn version_1() -> Value {
    json!({ "format": "pruvex-bundle", "schema_version": 1, "title": "Thumb module", "sample": false,
        "references": [{ "reference": { "title": "Held flexion" } }],
        "tests": [{
            "sheet": { "name": "Thumb lift", "region": "hand_wrist", "purpose": "strength", "condition": "Weak thumb",
                "positive_finding": "Weaker" },
            "studies": [
                { "reference": "A", "work": 0, "population": "Adults", "setup": { "people": 49, "unit": "side" },
                    "reference_standard": "Follow-up", "note": "Page 5", "tp": 20, "fp": 4, "fn": 5, "tn": 24 },
                { "reference": "A", "population": "Adults", "tp": 1, "fn": 5, "sample": true },
            ],
            "agreements": [{ "work": 0, "agreement": { "reference": "B", "population": "Hands", "between": "occasions",
                "figures": { "kind": "table", "rows": [["40", "9"], ["6", "45"]] } } }] }] })
}

#[test]
fn a_bundle_of_version_1_is_read_with_every_word_and_faults_stand_where_its_file_has_them() {
    let read = read_bundle(version_1().to_string().as_bytes()).unwrap();
    let of = |place: usize| (&read.studies[place].study, read.studies[place].work, read.studies[place].sample);
    let (study, work, sample) = of(0);
    assert_eq!((study.reference.as_str(), study.population.as_str(), study.setup.people), ("A", "Adults", Some(49.0)));
    assert_eq!((work, sample, of(1).1, of(1).2), (Some(0), false, None, true));
    let [first, second] = &read.tests[0].results[..] else { panic!("{read:?}") };
    assert_eq!((first.study, second.study, second.sample), (0, 1, true), "nobody said that they are the same people");
    assert_eq!((first.result.unit, first.result.note.as_str()), (Some(Unit::Side), "Page 5"));
    assert_eq!((first.result.reference_standard.as_str(), second.result.counts.cells()[2]), ("Follow-up", Some(5)));
    let rated = &read.tests[0].agreements[0];
    assert_eq!((rated.study, of(2).0.reference.as_str(), of(2).1), (2, "B", Some(0)));
    assert_eq!(rated.agreement.written().between, Between::Occasions);
    assert_eq!(read_bundle(write_bundle(&read).unwrap().as_bytes()).unwrap(), read);

    let mut wrong = version_1();
    let studies = &mut wrong["tests"][0]["studies"];
    studies[0]["setup"]["people"] = json!(20);
    studies[1]["work"] = json!(7);
    studies[1]["tp"] = json!(1.5);
    studies.as_array_mut().unwrap().push(json!({ "population": "", "tp": 1, "fn": 1 }));
    wrong["tests"][0]["agreements"][0]["agreement"]["figures"]["rows"][0][1] = json!("x");
    let paths: Vec<String> = errors(&wrong).into_iter().map(|error| error.field).collect();
    let at = |rest: &str| format!("tests[0].{rest}");
    let mut expected = vec![
        at("studies[1].work"),
        at("studies[2].reference"),
        at("studies[0].setup.people"),
        at("studies[1].tp"),
        at("agreements[0].agreement.figures.rows[0][1]"),
    ];
    let mut found = paths.clone();
    expected.sort();
    found.sort();
    assert_eq!(found, expected, "{paths:?}");
    for (place, fault) in [("studies", json!("x")), ("studies", json!(["x", 4])), ("agreements", json!([[]]))] {
        let mut shape = version_1();
        shape["tests"][0][place] = fault;
        assert!(errors(&shape).iter().all(|error| error.field.starts_with(&at(place))), "{:?}", errors(&shape));
    }
}

/// As version 2 wrote it: hands with one task, equipment by name.
#[test]
fn a_bundle_of_version_2_is_read_with_every_word_and_faults_stand_where_its_file_has_them() {
    let sheet = |hands: Value| {
        json!({ "format": "pruvex-bundle", "schema_version": 2, "title": "Thumb module", "sample": false, "tests": [{ "sheet": {
            "name": "Thumb lift", "region": "hand_wrist", "purpose": "strength", "condition": "Weak thumb", "positive_finding": "Weaker",
            "variants": [{ "name": "Bare" }, { "name": "As taught", "equipment": ["Gauge", "Roll"], "hands": hands }] } }] })
    };
    let whole =
        sheet(json!([{ "placement": "On the thumb", "task": "resist" }, { "placement": "Free", "task": null }]));
    let read = read_bundle(whole.to_string().as_bytes()).unwrap();
    let variant = &read.tests[0].sheet.variants[1];
    let contacts: Vec<_> = variant.contacts.iter().map(|it| (it.placement.as_str(), it.tasks.as_slice())).collect();
    assert_eq!(contacts, [("On the thumb", [ContactTask::Resist].as_slice()), ("Free", &[])]);
    assert_eq!(variant.equipment.iter().map(|it| it.name.as_str()).collect::<Vec<_>>(), ["Gauge", "Roll"]);
    let written = write_bundle(&read).unwrap();
    assert!(written.contains("\"schema_version\": 3"));
    assert_eq!(read_bundle(written.as_bytes()).unwrap(), read);
    let wrong = sheet(json!([{ "placement": "x", "task": "resist" }, { "placement": 4, "task": "resist" }]));
    assert_eq!(errors(&wrong)[0].field, "tests[0].sheet.variants[1].hands[1].placement");
    let wrong = sheet(json!([{ "placement": "x", "task": "juggle" }]));
    assert_eq!(errors(&wrong)[0].field, "tests[0].sheet.variants[1].hands[0].task");
    assert!(!errors(&sheet(json!("x"))).is_empty() && !errors(&sheet(json!(["x"]))).is_empty());
}

#[test]
fn files_that_are_no_bundle_get_one_clear_error() {
    assert!(read_bundle(b"not json").unwrap_err()[0].message.contains("line 1"));
    assert!(read_bundle(b"{\"a\": 1}").unwrap_err()[0].message.contains("not a bundle"));
    let mut newer = demo();
    newer["schema_version"] = json!(7);
    let found = errors(&newer);
    assert_eq!((found.len(), found[0].field.as_str()), (1, "schema_version"));
    assert!(read_bundle(&vec![b' '; MAX_BUNDLE_BYTES + 1]).unwrap_err()[0].message.contains("64 MiB"));
    let deep = "[".repeat(100_000);
    assert!(read_bundle(deep.as_bytes()).is_err());
}

#[test]
fn every_fault_is_told_with_its_path() {
    let mut shape = demo();
    shape["tests"][0]["sheet"]["variants"][0]["position"] = json!("floating");
    shape["tests"][2]["sheet"]["variants"][0]["steps"] = json!("one");
    shape["conditions"][0]["pre_test"] = json!("often");
    shape["tests"][3].as_object_mut().unwrap().remove("sheet");
    shape["tests"][4]["sheet"]["mnemonic"] = json!("x");
    shape["tests"][1]["results"][2]["result"]["tp"] = json!("four");
    shape["studies"][4]["study"]["setup"]["design"] = json!("guess");
    shape["extra"] = json!(1);
    let paths: Vec<String> = errors(&shape).into_iter().map(|e| e.field).collect();
    for path in [
        "tests[0].sheet.variants[0].position",
        "tests[1].results[2].result.tp",
        "studies[4].study.setup.design",
        "tests[2].sheet.variants[0].steps",
        "conditions[0].pre_test",
        "tests[3]",
        "tests[4].sheet",
        "$",
    ] {
        assert!(paths.contains(&path.to_owned()), "{path} is not among {paths:?}");
    }
    // Faults that no schema can see.
    let mut rules = demo();
    rules["tests"][1]["sheet"]["aliases"] = json!(["WRIST  flexion, held"]);
    rules["tests"][2]["sheet"]["purpose"] = json!("magic");
    rules["conditions"][0]["pre_test"] = json!(35);
    rules["tests"][0]["results"][1]["result"]["fn"] = Value::Null;
    rules["tests"][0]["results"][3]["result"] = json!({ "tp": 0, "fp": 0, "fn": 0, "tn": 0 });
    rules["studies"][5]["study"]["reference"] = json!(" ");
    rules["studies"][6]["appraisals"]["accuracy"]["domains"]["index_test"] = json!({ "risk": "high" });
    rules["studies"][0]["study"]["setup"]["people"] = json!(10);
    rules["tests"][4]["sheet"]["name"] = json!("\u{0}");
    let others = json!(["Nerve tapping at the wrist crease", "wrist  FLEXION, held"]);
    rules["tests"][0]["results"][4]["together"] = json!({ "tests": others, "rule": { "at_least": 4 } });
    let read = |tp: i32| json!({ "reader": "A", "study": {}, "result": { "tp": tp, "fn": 1 } });
    let settled = json!({ "by": "B", "at": "2026-03-01T10:00:00Z", "decisions": [] });
    rules["tests"][5]["extractions"] = json!([
        { "reference": "Sample report", "result": 99, "work": 99, "readings": [read(4)] },
        { "reference": "Sample report", "readings": [read(4), read(-4)], "settled": settled },
    ]);
    let paths: Vec<String> = errors(&rules).into_iter().map(|e| e.field).collect();
    for path in [
        "tests[1].sheet.aliases[0]",
        "tests[2].sheet.purpose",
        "conditions[0].pre_test",
        "tests[0].results[1].result.fn",
        "tests[0].results[3].result.tp",
        "studies[5].study.reference",
        "studies[6].appraisals.accuracy.domains.index_test.reason",
        "studies[0].study.setup.people",
        "tests[4].sheet.name",
        "tests[0].results[4].together.rule",
        "tests[0].results[4].together.tests[1]",
        "tests[5].extractions[0].result",
        "tests[5].extractions[0].work",
        "tests[5].extractions[0].readings",
        "tests[5].extractions[1].readings[1].result.tp",
        "tests[5].extractions[1].settled",
    ] {
        assert!(paths.contains(&path.to_owned()), "{path} is not among {paths:?}");
    }
}

#[test]
fn a_file_of_nothing_but_faults_is_told_in_part_and_without_delay() {
    let with_tests = |tests: &str| {
        let head = "\"format\":\"pruvex-bundle\",\"schema_version\":2,\"title\":\"Empty\",\"sample\":true";
        let mut errors = read_bundle(format!("{{{head},\"tests\":[{tests}]}}").as_bytes()).unwrap_err();
        (errors.pop().unwrap(), errors)
    };
    // Against the schema; against the rules; in one huge record; more than any bundle has.
    let (last, told) = with_tests(&format!("{}{{}}", "{},".repeat(200_000)));
    assert_eq!((told.len(), told[499].field.as_str(), last.field.as_str()), (500, "tests[499]", "file"));
    let (last, told) = with_tests(&format!("{}{{\"sheet\":{{}}}}", "{\"sheet\":{}},".repeat(100_000)));
    assert_eq!((told.len(), last.field.as_str()), (500, "file"));
    let huge = format!("{{\"sheet\":{{}},\"results\":[{}0]}}", "0,".repeat(300_000));
    let (first, _) = with_tests(&huge);
    assert_eq!(first.field, "tests[0].results[0]");
    let (only, _) = with_tests(&format!("{}{{}}", "{},".repeat(1_000_000)));
    assert!(only.message.contains("1000000 records"), "{only:?}");
    // The place is that of the file, in whichever portion it stands.
    let mut bundle = demo();
    let study = bundle["studies"][0].clone();
    let studies = bundle["studies"].as_array_mut().unwrap();
    studies.resize(20_000, study);
    studies[19_999]["study"]["population"] = json!(4);
    assert_eq!(errors(&bundle)[0].field, "studies[19999].study.population");
}

#[test]
fn a_csv_table_is_read_whatever_its_order_and_extra_columns() {
    let text = "\u{feff}\"study\",note,TN,fp,fn,tp\r\n\"A, first\",x,24,0,5,20\r\nB,,,,5,20\r\n";
    let table = read_counts(text.as_bytes()).unwrap();
    assert_eq!(table.names, ["A, first", "B"]);
    assert_eq!(table.counts[0].cells(), [Some(20), Some(0), Some(5), Some(24)]);
    assert_eq!(table.counts[1].cells(), [Some(20), None, Some(5), None]);
    let fault = &table.values("NOTE").unwrap_err()[0];
    assert_eq!((fault.line, fault.column.as_str()), (3, "NOTE"), "the second study has no note");
    assert!(table.values("setting").unwrap_err()[0].message.contains("study,note"));
}

#[test]
fn a_written_table_runs_no_formula() {
    let rows = [["name", "a, \"b\""], ["=1+1", "-5"], ["@sum", "-x"]].map(|row| row.map(str::to_owned).to_vec());
    assert_eq!(write_csv(&rows).unwrap(), "name,\"a, \"\"b\"\"\"\n'=1+1,-5\n'@sum,'-x\n");
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

#[test]
fn a_matrix_names_every_cell_that_does_not_fit() {
    assert_eq!(read_matrix::<u32>(b"\xef\xbb\xbf3, 0\n1,2\n").unwrap(), [[3, 0], [1, 2]]);
    let places = |text: &str| -> Vec<(u64, String)> {
        read_matrix::<u32>(text.as_bytes()).unwrap_err().into_iter().map(|e| (e.line, e.column)).collect()
    };
    assert_eq!(places("3,x\n-1,2\n"), [(1, "2".to_owned()), (2, "1".to_owned())]);
    assert_eq!(read_matrix::<u32>(b"1,\xff\n").unwrap_err()[0].line, 1);
}

proptest! {
    #[test]
    fn no_input_makes_a_reader_panic(bytes in prop::collection::vec(any::<u8>(), 0..400)) {
        let _ = read_counts(&bytes);
        let _ = read_bundle(&bytes);
        let _ = read_matrix::<f64>(&bytes);
        let mut with_header = b"study,tp,fp,fn,tn\n".to_vec();
        with_header.extend(bytes);
        let _ = read_counts(&with_header);
    }
}
