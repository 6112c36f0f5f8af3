//! Single-study accuracy against the reference values (generator and precision: tests/reference/README.md).

use crate::common::{assert_close, csv_rows, number};
use pruvex_core::Level;
use pruvex_core::accuracy::{
    Counts, Methods, Note, ProportionMethod, RatioMethod, StudyAccuracy, corrected_ratio, proportion_interval,
    study_accuracy,
};

#[test]
fn every_measure_and_interval_equals_the_reference() {
    let mut compared = 0;
    for row in csv_rows("accuracy.csv") {
        let id = &row["id"];
        let cells = ["tp", "fp", "fn", "tn"].map(|c| row[c].parse::<f64>().unwrap());
        let counts = Counts::full(cells[0], cells[1], cells[2], cells[3]).unwrap();
        let level = Level::new(row["level"].parse().unwrap()).unwrap();
        let score = study_accuracy(&counts, Methods { level, ..Methods::default() });
        let mut check = |column: &str, value: Option<f64>| {
            compared += 1;
            match (number(&row[column]), value) {
                (Some(expected), Some(value)) => assert_close(value, expected, 1e-8, &format!("{id} {column}")),
                (None, None) => {}
                (expected, value) => panic!("{id} {column}: expected {expected:?}, got {value:?}"),
            }
        };
        check("sens", score.sensitivity.map(|e| e.estimate.get()));
        check("spec", score.specificity.map(|e| e.estimate.get()));
        if counts.has_both_arms() {
            check("ppv", score.ppv.map(|e| e.estimate.get()));
            check("npv", score.npv.map(|e| e.estimate.get()));
            check("accuracy", score.accuracy.map(|e| e.estimate.get()));
            check("prevalence", score.prevalence.map(|e| e.estimate.get()));
            check("youden", score.youden);
            check("lr_pos", score.lr_positive.map(|e| e.estimate.get()));
            check("lr_neg", score.lr_negative.map(|e| e.estimate.get()));
            for (name, value) in [("pos", score.lr_positive), ("neg", score.lr_negative)] {
                if let Some(ci) = value {
                    check(&format!("lr_{name}_koopman_lo"), Some(ci.lower.get()));
                    check(&format!("lr_{name}_koopman_hi"), Some(ci.upper.get()));
                }
            }
            let table = cells.map(|c| c as u64);
            for (name, positive) in [("pos", true), ("neg", false)] {
                let ci = corrected_ratio(table, positive, level);
                check(&format!("lr_{name}_log_est"), ci.map(|e| e.estimate.get()));
                check(&format!("lr_{name}_log_lo"), ci.map(|e| e.lower.get()));
                check(&format!("lr_{name}_log_hi"), ci.map(|e| e.upper.get()));
            }
            check("dor_woolf_est", score.dor.map(|e| e.estimate.get()));
            check("dor_woolf_lo", score.dor.map(|e| e.lower.get()));
            check("dor_woolf_hi", score.dor.map(|e| e.upper.get()));
        }
        for (name, arm) in ["sens", "spec"].into_iter().zip(counts.arms().map(Option::unwrap_or_default)) {
            for (suffix, method) in [
                ("wilson", ProportionMethod::Wilson),
                ("cp", ProportionMethod::ClopperPearson),
                ("ac", ProportionMethod::AgrestiCoull),
                ("jeffreys", ProportionMethod::Jeffreys),
            ] {
                let ci = proportion_interval(arm.correct, arm.n, level, method);
                // The reference leaves Agresti-Coull uncut and Jeffreys unmodified at the edges.
                let cut = |column: String| number(&row[&column]).map(|v| v.clamp(0.0, 1.0));
                let edge = |bound| method == ProportionMethod::Jeffreys && arm.correct == bound;
                if !(edge(0) || (method == ProportionMethod::AgrestiCoull && arm.correct == 0)) {
                    compare(cut(format!("{name}_{suffix}_lo")), ci.map(|e| e.lower.get()), id, suffix);
                }
                if !(edge(arm.n) || (method == ProportionMethod::AgrestiCoull && arm.correct == arm.n)) {
                    compare(cut(format!("{name}_{suffix}_hi")), ci.map(|e| e.upper.get()), id, suffix);
                }
                compared += 2;
            }
        }
    }
    assert!(compared > 2_000, "only {compared} values were compared");
}

fn compare(expected: Option<f64>, value: Option<f64>, id: &str, what: &str) {
    match (expected, value) {
        (Some(expected), Some(value)) => assert_close(value, expected, 1e-8, &format!("{id} {what}")),
        (None, None) => {}
        pair => panic!("{id} {what}: {pair:?}"),
    }
}

fn accuracy(cells: [f64; 4]) -> StudyAccuracy {
    study_accuracy(&Counts::full(cells[0], cells[1], cells[2], cells[3]).unwrap(), Methods::default())
}

#[test]
fn a_perfect_specificity_says_what_is_still_compatible() {
    let result = accuracy([20.0, 0.0, 5.0, 24.0]);
    let lr = result.lr_positive.unwrap();
    assert!(lr.estimate.get().is_infinite() && lr.upper.get().is_infinite());
    assert!(lr.lower.get() > 4.0 && lr.lower.get().is_finite(), "{lr:?}");
    let upper = result.notes.iter().find_map(|note| match note {
        Note::NoFalsePositives { n: 24, upper } => Some(upper.get()),
        _ => None,
    });
    assert!((upper.unwrap() - 0.138).abs() < 1e-3);
    assert!(result.notes.contains(&Note::HalfAdded));
}

#[test]
fn an_empty_arm_is_not_estimable_and_a_one_armed_study_keeps_its_arm() {
    let empty = accuracy([12.0, 0.0, 3.0, 0.0]);
    assert!(empty.specificity.is_none() && empty.lr_positive.is_none() && empty.dor.is_none());
    assert!(empty.sensitivity.is_some() && empty.notes.contains(&Note::NoNonDiseasedArm));
    let never_positive = accuracy([0.0, 0.0, 10.0, 20.0]);
    assert!(never_positive.lr_positive.is_none() && never_positive.notes.contains(&Note::NoPositiveResult));
}

#[test]
fn the_log_method_is_used_when_asked_for() {
    let counts = Counts::full(20.0, 0.0, 5.0, 24.0).unwrap();
    let methods = Methods { ratio: RatioMethod::Log, ..Methods::default() };
    let lr = study_accuracy(&counts, methods).lr_positive.unwrap();
    assert!(lr.estimate.get().is_finite() && lr.upper.get().is_finite());
}

#[test]
fn every_fault_of_a_table_is_named() {
    let errors = Counts::full(-1.0, 2.5, 1e12, f64::NAN).unwrap_err();
    assert_eq!(errors.iter().map(|e| e.field.as_str()).collect::<Vec<_>>(), ["tp", "fp", "fn", "tn"]);
    let raw = |tp, fp, fn_, tn| Counts::check(pruvex_core::accuracy::RawCounts { tp, fp, fn_, tn });
    assert_eq!(raw(Some(3.0), None, None, None).unwrap_err()[0].field, "fn");
    assert!(raw(None, None, None, None).is_err());
    assert!(raw(Some(0.0), Some(0.0), Some(0.0), Some(0.0)).is_err());
    assert!(raw(Some(3.0), None, Some(0.0), None).unwrap().non_diseased().is_none());
}
