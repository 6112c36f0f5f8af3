//! The computing commands: their answers in words and in JSON, and bad input with its place.

#![allow(clippy::unwrap_used, reason = "a failed step is a failed test")]

use std::io::Write;
use std::process::{Command, Stdio};

use serde_json::{Value, json};

/// Whether it succeeded, and all it said.
fn run(arguments: &[&str], input: &str) -> (bool, String) {
    let mut child = Command::new(env!("CARGO_BIN_EXE_pruvex"))
        .args(arguments)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    // A command that refuses its arguments does not read on.
    let _ = child.stdin.take().unwrap().write_all(input.as_bytes());
    let output = child.wait_with_output().unwrap();
    let said = [output.stdout, output.stderr].concat();
    (output.status.success(), String::from_utf8(said).unwrap())
}

fn parsed(arguments: &[&str], input: &str) -> Value {
    let (success, said) = run(&[arguments, &["--format", "json"]].concat(), input);
    assert!(success, "{said}");
    serde_json::from_str(&said).unwrap()
}

#[test]
fn accuracy_answers_for_each_study() {
    let input = "study,tp,fp,fn,tn\nA,90,10,10,90\nB,20,,5,\n";
    let answer = parsed(&["accuracy", "-"], input);
    assert!((answer[0]["lr_positive"]["lower"].as_f64().unwrap() - 5.139_139_983_481_234).abs() < 1e-8);
    assert_eq!((&answer[1]["study"], &answer[1]["specificity"]), (&json!("B"), &Value::Null));
    let (success, said) = run(&["accuracy", "-"], input);
    assert!(success && said.contains("not estimable") && said.contains("not a diagnosis"), "{said}");
    let (success, said) = run(&["accuracy", "-", "--level", "95"], input);
    assert!(!success && said.contains("0.95"), "{said}");
}

#[test]
fn posttest_is_bayes_rule() {
    let answer = parsed(&["posttest", "--pre-test", "0.25", "--lr", "3", "--lower", "1", "--upper", "infinity"], "");
    assert_eq!(answer, json!({ "estimate": 0.5, "lower": 0.25, "upper": 1.0 }));
    for wrong in
        [["--pre-test", "25", "--lr", "3"], ["--pre-test", "0.2", "--lr", "-3"], ["--pre-test", "1", "--lr", "0"]]
    {
        assert!(!run(&[&["posttest"][..], &wrong].concat(), "").0, "{wrong:?}");
    }
}

#[test]
fn combine_states_its_assumption() {
    let input = "test,sensitivity,specificity\nA,0.8,0.9\nB,0.7,0.85\n";
    let answer = parsed(&["combine", "-"], input);
    assert_eq!(answer["assumption"], "conditional_independence");
    assert!((answer["rules"][0]["sensitivity"].as_f64().unwrap() - 0.94).abs() < 1e-12);
    let (_, said) = run(&["combine", "-"], input);
    assert!(said.contains("at least 2 of 2") && said.contains("not independent"), "{said}");
    let (success, said) = run(&["combine", "-"], "test,sensitivity,specificity\nA,0.8,90\n");
    assert!(!success && said.contains("line: 2") && said.contains("between 0 and 1"), "{said}");
}

#[test]
fn agreement_reads_tables_counts_and_measurements() {
    let answer = parsed(&["agreement", "-", "--kind", "table"], "40,9\n6,45\n");
    assert!((answer["kappa"]["value"]["estimate"].as_f64().unwrap() - 0.699_519_230_769_231).abs() < 1e-9);
    let (_, said) = run(&["agreement", "-", "--kind", "table"], "118,5\n2,0\n");
    assert!(said.contains("kappa is low although raters agree"), "{said}");
    let (success, said) = run(&["agreement", "-", "--kind", "counts"], "3,0\n1,2\n0,3\n");
    assert!(success && said.contains("3 subjects, 3 raters each"), "{said}");
    let (success, said) = run(&["agreement", "-", "--kind", "measurements"], "90,86\n97,94\n98,101\n85,85\n");
    assert!(success && said.contains("ICC(2,1)") && said.contains("bias"), "{said}");
    for (kind, input, place) in [
        ("table", "40,9\n6,x\n", "line 2, column 2"),
        ("table", "40,9\n6\n", "row 2"),
        ("measurements", "1,2\n3,inf\n", "row 2, column 2"),
        ("counts", "3,0\n1,1\n", "row 2"),
    ] {
        let (success, said) = run(&["agreement", "-", "--kind", kind], input);
        assert!(!success && said.contains(place), "{kind}: {said}");
    }
}

#[test]
fn rebuild_finds_names_and_refuses() {
    let unique = parsed(&["rebuild", "N=60", "sens=0.78", "spec=0.84", "diseased=23"], "");
    assert_eq!(
        (&unique["outcome"], &unique["table"]["tp"], &unique["table"]["fn"]),
        (&json!("unique"), &json!(18), &json!(5))
    );
    let (_, several) = run(&["rebuild", "N=60", "sens=78%", "spec=83%"], "");
    assert!(several.contains("tables give all these figures") && several.contains("LR+"), "{several}");
    let none = parsed(&["rebuild", "N=80", "sens=85%", "spec=70%", "prevalence=40%", "ppv=92%"], "");
    assert_eq!(none["outcome"], "contradiction");
    assert!(none["facts"].as_array().unwrap().contains(&json!("ppv=92%")), "{none}");
    let by_interval = parsed(
        &["rebuild", "sens=0.78", "sens_ci=0.58-0.90", "spec=0.84", "spec_ci=0.69-0.92", "--max-per-arm", "120"],
        "",
    );
    assert_eq!(by_interval["outcome"], "unique");
    for wrong in ["sens", "sens=abc", "power=0.8", "ppv_ci=0.1-0.2", "sens_ci=0.1", "N=-4"] {
        assert!(!run(&["rebuild", "N=60", wrong], "").0, "{wrong}");
    }
}
