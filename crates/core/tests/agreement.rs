//! Agreement measures against the reference values, and their laws.

use crate::common::json;
use proptest::prelude::*;
use pruvex_core::Level;
use pruvex_core::agreement::{
    AgreementNote, Coefficient, IccForm, Measurements, Precision, RatingCounts, RatingTable, Reported, ReportedKind,
    Tabulated, bland_altman, intraclass_correlations, pool_reported, repeatability, several_rater_agreement, tabulate,
    two_rater_agreement,
};
use pruvex_core::pooling::TauMethod;
use serde_json::Value;

const TOLERANCE: f64 = 1e-8;

fn items(kind: &str) -> Vec<Value> {
    let data = json("kappa.json");
    let items: Vec<Value> = data.as_array().unwrap().iter().filter(|item| item["type"] == kind).cloned().collect();
    assert!(!items.is_empty());
    items
}

fn counts(value: &Value) -> Vec<Vec<u32>> {
    serde_json::from_value(value.clone()).unwrap()
}

/// An absolute floor is right here: coefficients of 0 come out as sums of terms of size 1.
fn close(value: f64, expected: &Value, what: &str) {
    let expected = expected.as_f64().unwrap_or_else(|| panic!("{what} has no reference"));
    assert!(
        (value - expected).abs() <= TOLERANCE * expected.abs().max(1e-3),
        "{what}: got {value}, expected {expected}"
    );
}

fn check(coefficient: Option<Coefficient>, expected: &Value, what: &str) {
    let Some(coefficient) = coefficient else {
        assert!(expected["kappa"].is_null(), "{what} is missing");
        return;
    };
    close(coefficient.value.estimate, &expected["kappa"], &format!("{what} kappa"));
    close(coefficient.po, &expected["po"], &format!("{what} po"));
    close(coefficient.pe, &expected["pe"], &format!("{what} pe"));
    // A perfect table's variance is a difference of equal terms.
    assert!(
        (coefficient.se - expected["se"].as_f64().unwrap()).abs() < 1e-7,
        "{what} se: {} {}",
        coefficient.se,
        expected["se"]
    );
    close(coefficient.se_null.unwrap(), &expected["se_null"], &format!("{what} null se"));
}

#[test]
fn two_raters_equal_the_reference() {
    for item in items("two_raters") {
        let id = item["id"].as_str().unwrap();
        let table = RatingTable::new(counts(&item["table_rows_rater1_cols_rater2"])).unwrap();
        let result = two_rater_agreement(&table, Level::default());
        check(result.kappa, &item["kappa_unweighted"], id);
        for (field, value) in [("kappa_linear", result.kappa_linear), ("kappa_quadratic", result.kappa_quadratic)] {
            if let Some(expected) = item.get(field).filter(|expected| expected.is_object()) {
                check(value, expected, &format!("{id} {field}"));
            }
        }
        close(result.pabak, &item["pabak"], &format!("{id} pabak"));
        let share = result.percent_agreement.unwrap();
        close(share.estimate.get(), &item["percent_agreement"], id);
        close(share.lower.get(), &item["percent_agreement_wilson"][0], id);
        close(share.upper.get(), &item["percent_agreement_wilson"][1], id);
        if let Some(index) = result.prevalence_index {
            close(index, &item["prevalence_index"], id);
            close(result.bias_index.unwrap(), &item["bias_index"], id);
        }
        for (value, expected) in result.specific_agreement.iter().zip(item["specific_agreement"].as_array().unwrap()) {
            assert_eq!(value.is_none(), expected.is_null(), "{id}");
            value.iter().for_each(|value| close(*value, expected, id));
        }
        if let (Some(max), Some(expected)) = (result.max_kappa, item.get("max_kappa").filter(|e| e.is_number())) {
            close(max, expected, &format!("{id} max"));
        }
        if let (Some(ac1), Some(expected)) = (result.ac1, item.get("gwet_ac1").filter(|e| e["se_nminus1"].is_number()))
        {
            close(ac1.value.estimate, &expected["ac1"], &format!("{id} ac1"));
            assert!((ac1.se - expected["se_nminus1"].as_f64().unwrap()).abs() < 1e-7, "{id} ac1 se");
        }
    }
}

#[test]
fn several_raters_equal_the_reference() {
    for item in items("fleiss") {
        let id = item["id"].as_str().unwrap();
        let result = several_rater_agreement(&RatingCounts::new(counts(&item["counts"])).unwrap(), Level::default());
        match result.kappa {
            Some(kappa) => {
                close(kappa.value.estimate, &item["kappa"], id);
                assert!((kappa.se - item["se_linearised"].as_f64().unwrap()).abs() < 1e-8, "{id} se");
                close(kappa.se_null.unwrap(), &item["se_null_fleiss1979"], id);
            }
            None => assert!(item["kappa"].is_null(), "{id}"),
        }
        for (value, expected) in result.category_kappa.iter().zip(item["category_kappa"].as_array().unwrap()) {
            assert_eq!(value.is_none(), expected.is_null(), "{id}");
            value.iter().for_each(|value| close(*value, expected, id));
        }
        close(result.ac1.value.estimate, &item["gwet_ac1"]["ac1"], id);
        assert!((result.ac1.se - item["gwet_ac1"]["se_nminus1"].as_f64().unwrap()).abs() < 1e-8, "{id} ac1 se");
    }
}

#[test]
fn measurements_equal_the_reference() {
    for item in items("icc") {
        let id = item["id"].as_str().unwrap();
        let rows: Vec<Vec<f64>> = serde_json::from_value(item["matrix_rows_subjects_cols_raters"].clone()).unwrap();
        let measurements = Measurements::new(rows).unwrap();
        for icc in intraclass_correlations(&measurements, Level::default()) {
            let name = match icc.form {
                IccForm::OneWaySingle => "1,1",
                IccForm::OneWayAverage => "1,k",
                IccForm::AgreementSingle => "2,1",
                IccForm::AgreementAverage => "2,k",
                IccForm::ConsistencySingle => "3,1",
                IccForm::ConsistencyAverage => "3,k",
            };
            let expected = &item["icc"][name];
            let (Some(value), true) = (icc.value, expected["icc"].is_number()) else { continue };
            close(value.estimate, &expected["icc"], &format!("{id} {name}"));
            if expected["ci95"][0].is_number() {
                close(value.lower, &expected["ci95"][0], &format!("{id} {name} lower"));
                close(value.upper, &expected["ci95"][1], &format!("{id} {name} upper"));
            }
        }
        let error = repeatability(&measurements, Level::default());
        let sem = &item["sem"];
        close(error.sem_agreement, &sem["agreement_sqrt(var_rater_trunc0+MSE)"]["sem"], id);
        close(error.mdc_agreement, &sem["agreement_sqrt(var_rater_trunc0+MSE)"]["mdc95"], id);
        close(error.sem_consistency, &sem["consistency_sqrt(MSE)"]["sem"], id);
        if let Some(limits) = bland_altman(&measurements, Level::default()) {
            let expected = &item["bland_altman"];
            close(limits.bias.estimate, &expected["bias"], id);
            close(limits.bias.lower, &expected["bias_ci95_t"][0], id);
            close(limits.lower_limit.estimate, &expected["loa_z"][0], id);
            close(limits.upper_limit.estimate, &expected["loa_z"][1], id);
            close(limits.upper_limit.lower, &expected["loa_upper_ci_approx1999"][0], id);
            close(limits.lower_limit.upper, &expected["loa_lower_ci_approx1999"][1], id);
            for (limit, name) in [(limits.lower_limit_exact, "lower"), (limits.upper_limit_exact, "upper")] {
                let bounds = &expected[format!("loa_{name}_ci_exact")];
                close(limit.lower, &bounds[0], &format!("{id} exact {name}"));
                close(limit.upper, &bounds[1], &format!("{id} exact {name}"));
            }
        }
    }
}

#[test]
fn a_rare_finding_warns_of_the_kappa_paradox() {
    let rare = RatingTable::new(vec![vec![118, 5], vec![2, 0]]).unwrap();
    let result = two_rater_agreement(&rare, Level::default());
    assert!(matches!(result.notes[..], [AgreementNote::KappaParadox { prevalence_index }] if prevalence_index > 0.9));
    let even = RatingTable::new(vec![vec![40, 9], vec![6, 45]]).unwrap();
    assert!(two_rater_agreement(&even, Level::default()).notes.is_empty());
    let constant = RatingTable::new(vec![vec![30, 0], vec![0, 0]]).unwrap();
    let result = two_rater_agreement(&constant, Level::default());
    assert!(result.kappa.is_none() && result.notes == [AgreementNote::NoVariation]);
}

#[test]
fn ratings_as_written_are_counted_by_category() {
    let rows = |text: &str| -> Vec<Vec<String>> {
        text.lines().map(|line| line.split(',').map(str::to_owned).collect()).collect()
    };
    let (names, two) = tabulate(&rows("2,10\n10,10\n2, 2\n1,2")).unwrap();
    assert_eq!(names, ["1", "2", "10"], "numbers by size");
    assert_eq!(two, Tabulated::Two(RatingTable::new(vec![vec![0, 1, 0], vec![0, 1, 1], vec![0, 0, 1]]).unwrap()));
    let (names, three) = tabulate(&rows("pos,pos,neg\nneg,neg,neg")).unwrap();
    assert_eq!(names, ["neg", "pos"]);
    assert_eq!(three, Tabulated::Several(RatingCounts::new(vec![vec![1, 2], vec![3, 0]]).unwrap()));
    for (text, said) in [
        ("a,b\na", "row 2"),
        ("a,b\nb, ", "row 2, column 2"),
        ("a,a\na,a", "1 categories"),
        ("a\nb", "row 1"),
        ("", "row 1"),
    ] {
        let error = tabulate(&rows(text)).unwrap_err().to_string();
        assert!(error.contains(said), "{text:?}: {error}");
    }
}

#[test]
fn reports_are_pooled_on_the_scale_on_which_they_are_symmetric() {
    let level = Level::default();
    let reference = json("univariate.json");
    let item = |id: &str| reference.as_array().unwrap().iter().find(|item| item["id"] == id).unwrap();
    let column = |item: &serde_json::Value, name: &str| -> Vec<f64> {
        serde_json::from_value(item["raw"][name].clone()).unwrap()
    };
    let kappas = item("s_kappa_k9");
    let reports: Vec<Reported> = column(kappas, "kappa")
        .into_iter()
        .zip(column(kappas, "se"))
        .map(|(value, se)| Reported::new(ReportedKind::Kappa, value, Precision::StandardError(se)).unwrap())
        .collect();
    let pooled = pool_reported(&reports, TauMethod::Reml, level).unwrap();
    close(pooled.estimate.lower, &kappas["REML"]["ci95_z"][0], "kappa");
    close(pooled.prediction.unwrap().upper, &kappas["REML"]["pi95_t_kminus2"][1], "kappa prediction");

    // An interval made in Fisher's z with variance 1/(n - 3) gives that variance back.
    let correlations = item("s_fisherz_k9");
    let reports: Vec<Reported> = column(correlations, "r")
        .into_iter()
        .zip(column(correlations, "n"))
        .map(|(r, n)| {
            let half = level.z() / (n - 3.0).sqrt();
            let precision =
                Precision::Interval { lower: (r.atanh() - half).tanh(), upper: (r.atanh() + half).tanh(), level };
            Reported::new(ReportedKind::Icc, r, precision).unwrap()
        })
        .collect();
    let pooled = pool_reported(&reports, TauMethod::PauleMandel, level).unwrap();
    let back = |value: &serde_json::Value| serde_json::json!(value.as_f64().unwrap().tanh());
    close(pooled.estimate.estimate, &back(&correlations["PM"]["mu"]), "ICC");
    close(pooled.hartung_knapp.unwrap().lower, &back(&correlations["PM"]["hk_ci95"][0]), "ICC");
    let by_error = Reported::new(ReportedKind::Icc, 0.8, Precision::StandardError(0.05)).unwrap().estimate(level);
    assert!(by_error.upper - 0.8 < 0.8 - by_error.lower && by_error.upper < 1.0, "{by_error:?}");

    assert!(pool_reported(&[], TauMethod::Reml, level).is_err());
    let mixed = [Reported::new(ReportedKind::Kappa, 0.5, Precision::StandardError(0.1)).unwrap(), reports[0]];
    assert!(pool_reported(&mixed, TauMethod::Reml, level).unwrap_err().to_string().contains("not pooled"));
    let interval = |lower: f64, upper: f64| Precision::Interval { lower, upper, level };
    for (kind, value, precision) in [
        (ReportedKind::Kappa, 1.2, Precision::StandardError(0.1)),
        (ReportedKind::Icc, 1.0, Precision::StandardError(0.1)),
        (ReportedKind::Kappa, f64::NAN, Precision::StandardError(0.1)),
        (ReportedKind::Kappa, 0.5, Precision::StandardError(0.0)),
        (ReportedKind::Kappa, 0.5, Precision::StandardError(f64::NAN)),
        (ReportedKind::Kappa, 0.5, interval(0.6, 0.7)),
        (ReportedKind::Icc, 0.5, interval(0.4, 1.0)),
        (ReportedKind::Icc, 0.5, interval(0.5, 0.5)),
    ] {
        assert!(Reported::new(kind, value, precision).is_err(), "{value} {precision:?}");
    }
}

#[test]
fn what_is_no_table_is_refused_with_its_place() {
    assert!(RatingTable::new(vec![vec![1, 2], vec![3]]).unwrap_err().to_string().contains("row 2"));
    assert!(RatingTable::new(vec![vec![0, 0], vec![0, 0]]).is_err() && RatingTable::new(vec![vec![4]]).is_err());
    assert!(RatingTable::new(vec![vec![1, u32::MAX], vec![3, 4]]).unwrap_err().to_string().contains("row 1, column 2"));
    assert!(RatingCounts::new(vec![vec![2, 1], vec![2, 2]]).unwrap_err().to_string().contains("row 2"));
    assert!(RatingCounts::new(vec![vec![1, 0], vec![0, 1]]).is_err(), "one rater agrees with nobody");
    assert!(
        Measurements::new(vec![vec![1.0, 2.0], vec![f64::NAN, 1.0]])
            .unwrap_err()
            .to_string()
            .contains("row 2, column 1")
    );
    assert!(Measurements::new(vec![vec![1.0], vec![2.0]]).is_err());
}

proptest! {
    #[test]
    fn kappa_stays_in_range_and_is_symmetric(cells in prop::collection::vec(prop_oneof![Just(0u32), 0..60u32, 0..1_000_000u32], 9)) {
        prop_assume!(cells.iter().any(|c| *c > 0));
        let table: Vec<Vec<u32>> = cells.chunks(3).map(<[u32]>::to_vec).collect();
        let transposed: Vec<Vec<u32>> = (0..3).map(|j| (0..3).map(|i| table[i][j]).collect()).collect();
        let result = two_rater_agreement(&RatingTable::new(table).unwrap(), Level::default());
        let mirror = two_rater_agreement(&RatingTable::new(transposed).unwrap(), Level::default());
        for (a, b) in [(result.kappa, mirror.kappa), (result.kappa_linear, mirror.kappa_linear), (result.kappa_quadratic, mirror.kappa_quadratic), (result.ac1, mirror.ac1)] {
            prop_assert_eq!(a.is_some(), b.is_some());
            if let (Some(a), Some(b)) = (a, b) {
                prop_assert!((a.value.estimate - b.value.estimate).abs() < 1e-9);
                prop_assert!(a.value.estimate <= 1.0 + 1e-9 && a.value.estimate >= -1.0 - 1e-9, "{a:?}");
                prop_assert!(a.se.is_finite() && a.value.lower <= a.value.upper);
            }
        }
        prop_assert!(!serde_json::to_string(&result).unwrap().contains("null,\"pe\""));
    }

    #[test]
    fn shifting_all_measurements_changes_no_correlation(rows in prop::collection::vec(prop::collection::vec(0.0..50.0f64, 3), 3..12), shift in -1e5..1e5f64) {
        let shifted: Vec<Vec<f64>> = rows.iter().map(|row| row.iter().map(|v| v + shift).collect()).collect();
        let a = intraclass_correlations(&Measurements::new(rows).unwrap(), Level::default());
        let b = intraclass_correlations(&Measurements::new(shifted).unwrap(), Level::default());
        for (a, b) in a.iter().zip(&b) {
            if let (Some(a), Some(b)) = (a.value, b.value) {
                prop_assert!((a.estimate - b.estimate).abs() < 1e-6, "{a:?} {b:?}");
                prop_assert!(a.lower <= a.estimate && a.estimate <= a.upper);
            }
        }
    }
}
