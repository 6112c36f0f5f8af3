//! The command line as a script would use it.

use std::io::Write;
use std::process::{Command, Output, Stdio};

use serde_json::Value;

fn pool(arguments: &[&str], input: &str) -> Output {
    let mut command = Command::new(env!("CARGO_BIN_EXE_pruvex"));
    let mut child = command
        .arg("pool")
        .args(arguments)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    child.stdin.take().unwrap().write_all(input.as_bytes()).unwrap();
    child.wait_with_output().unwrap()
}

const FIVE: &str = "study,tp,fp,fn,tn\na,20,4,5,24\nb,31,9,12,40\nc,14,2,9,30\nd,40,6,11,50\ne,22,8,3,35\n";

#[test]
fn what_a_new_study_would_find_is_printed_beside_the_intervals() {
    let output = pool(&["-"], FIVE);
    let said = String::from_utf8_lossy(&output.stdout).into_owned();
    let (intervals, predicted) = said.split_once("Prediction intervals, 95 %").expect(&said);
    let bounds = |text: &str| -> Vec<f64> {
        let line = text.lines().find(|line| line.trim_start().starts_with("LR+")).expect(text);
        let (_, range) = line.split_once('(').expect(line);
        range.trim_end_matches(')').split(" to ").map(|bound| bound.parse().unwrap()).collect()
    };
    let (known, new) = (bounds(intervals), bounds(predicted));
    assert!(new[0] < known[0] && known[1] < new[1], "{known:?} within {new:?}");
}

#[test]
fn json_has_the_documented_fields_and_the_core_s_numbers() {
    let output = pool(&["-", "--format", "json"], FIVE);
    assert!(output.status.success());
    let json: Value = serde_json::from_slice(&output.stdout).unwrap();
    assert_eq!((&json["k"], &json["model"], &json["converged"]), (&5.into(), &"bivariate".into(), &true.into()));
    for measure in ["sensitivity", "specificity", "lr_positive", "lr_negative", "dor"] {
        let [low, point, high] = ["lower", "estimate", "upper"].map(|f| json[measure][f].as_f64().unwrap());
        assert!(low < point && point < high, "{measure}");
    }
    for field in ["reason", "boundary", "mu", "tau2", "rho", "cov_mu", "log_likelihood"] {
        assert!(!json[field].is_null(), "{field}");
    }
    let counts: Vec<_> = [[20, 4, 5, 24], [31, 9, 12, 40], [14, 2, 9, 30], [40, 6, 11, 50], [22, 8, 3, 35]]
        .map(|[a, b, c, d]| pruvex_core::accuracy::Counts::full(a.into(), b.into(), c.into(), d.into()).unwrap())
        .to_vec();
    let same = pruvex_core::pooling::pool(&counts, Default::default()).unwrap();
    let same: Value = serde_json::from_str(&serde_json::to_string(&same).unwrap()).unwrap();
    for (field, value) in same.as_object().unwrap() {
        assert_eq!(&json[field], value, "{field}");
    }
}

#[test]
fn text_is_readable_and_cautions() {
    let output = pool(&["-"], FIVE);
    let text = String::from_utf8(output.stdout).unwrap();
    for part in ["5 studies", "sensitivity", "LR+", "Model: Bivariate random effects", "not a diagnosis"] {
        assert!(text.contains(part), "{part} is missing in:\n{text}");
    }
}

#[test]
fn bad_input_fails_with_its_place() {
    let output = pool(&["-"], "study,tp,fp,fn,tn\na,20,4,x,24\n");
    assert!(!output.status.success() && output.stdout.is_empty());
    assert!(String::from_utf8(output.stderr).unwrap().contains("line 2, column fn"));
    let missing = pool(&["no/such/file.csv"], "");
    assert!(String::from_utf8(missing.stderr).unwrap().contains("no/such/file.csv cannot be read"));
}

#[test]
fn options_add_to_the_answer_and_change_nothing_in_it() {
    let plain: Value = serde_json::from_slice(&pool(&["-", "--format", "json"], FIVE).stdout).unwrap();
    let output = pool(&["-", "--format", "json", "--leave-one-out", "--small-study"], FIVE);
    let more: Value = serde_json::from_slice(&output.stdout).unwrap();
    for (field, value) in plain.as_object().unwrap() {
        assert_eq!(&more[field], value, "{field}");
    }
    let rows = more["leave_one_out"].as_array().unwrap();
    assert_eq!((rows.len(), &rows[4]["name"], &rows[4]["model"]), (5, &"e".into(), &"bivariate".into()));
    assert!(rows.iter().all(|row| row["cook_distance"].as_f64().unwrap() >= 0.0));
    assert!(more["small_study_refused"].as_str().unwrap().contains("below 10"));
    let text = String::from_utf8(pool(&["-", "--leave-one-out", "--interval", "profile"], FIVE).stdout).unwrap();
    assert!(text.contains("Without one study") && text.contains("e: sensitivity"), "{text}");
    let one = pool(&["-", "--leave-one-out"], "study,tp,fp,fn,tn\na,20,4,5,24\n");
    assert!(!one.status.success());
}

#[test]
fn covariates_models_and_parts_are_asked_for_by_name() {
    let with_columns = "study,tp,fp,fn,tn,setting,risk\na,20,4,5,24,clinic,low\nb,31,9,12,40,clinic,high\nc,14,2,9,30,field,low\n\
        d,40,6,11,50,field,low\ne,22,8,3,35,field,high\nf,20,,7,,clinic,low\n";
    let asked = ["-", "--format", "json", "--by", "setting", "--without", "risk=high", "--without-one-armed", "--roc"];
    let json: Value = serde_json::from_slice(&pool(&asked, with_columns).stdout).unwrap();
    assert_eq!(json["comparison"]["names"], serde_json::json!(["clinic", "field"]));
    assert_eq!(json["comparison"]["test"]["df"], 2);
    let parts = json["sensitivity_analyses"].as_array().unwrap();
    assert_eq!((&parts[0]["without"], &parts[0]["k"], &parts[1]["k"]), (&"risk=high".into(), &4.into(), &5.into()));
    assert!(json["roc_space"]["confidence"]["outline"].as_array().unwrap().len() > 50);
    assert!(json["heterogeneity"]["q_sensitivity"]["df"] == 5);
    let text = String::from_utf8(pool(&["-", "--by", "setting"], with_columns).stdout).unwrap();
    assert!(text.contains("field against clinic") && text.contains("Neither differs"), "{text}");
    for (model, expected) in [
        ("bivariate", "bivariate"),
        ("independent", "independent"),
        ("fixed", "fixed"),
        ("normal-reml", "normal_reml"),
        ("normal-ml", "normal_ml"),
    ] {
        let json: Value =
            serde_json::from_slice(&pool(&["-", "--format", "json", "--model", model], FIVE).stdout).unwrap();
        assert_eq!((&json["model"], &json["reason"]), (&expected.into(), &"requested".into()));
    }
    for (asked, said) in [
        (&["-", "--by", "side"][..], "line 1, column side"),
        (&["-", "--without", "risk"], "COLUMN=VALUE"),
        (&["-", "--without", "side=left"], "line 1, column side"),
    ] {
        let output = pool(asked, with_columns);
        assert!(!output.status.success() && String::from_utf8(output.stderr).unwrap().contains(said), "{asked:?}");
    }
    let empty = pool(&["-", "--by", "setting"], &with_columns.replace(",field,high", ",,high"));
    assert!(String::from_utf8(empty.stderr).unwrap().contains("line 6, column setting"));
    let one_level: Value =
        serde_json::from_slice(&pool(&["-", "--format", "json", "--by", "study"], FIVE).stdout).unwrap();
    assert!(one_level["comparison"].is_object() || one_level["comparison_refused"].is_string());
}
