//! Calibration of probabilities against the reference values, and what holds of every set of them.

use crate::common::json;
use proptest::prelude::*;
use pruvex_core::Probability;
use pruvex_core::likelihood::{Calibration, CalibrationLine, Judged, SlopeStatus, calibration};
use serde_json::Value;

fn judged(p: f64, came: bool) -> Judged {
    Judged { probability: Probability::new(p).unwrap(), came }
}

fn close(value: impl Into<Option<f64>>, expected: &Value, what: &str) {
    match (value.into(), expected.as_f64()) {
        (None, None) => {}
        (Some(value), Some(expected)) => {
            assert!((value - expected).abs() <= 1e-8 * expected.abs().max(1.0), "{what}: {value} {expected}");
        }
        pair => panic!("{what}: {pair:?}"),
    }
}

fn line(of: Option<CalibrationLine>, expected: &Value, prefix: &str, what: &str) {
    let parts = [
        ("intercept", of.map(|it| it.intercept)),
        ("intercept_se", of.map(|it| it.intercept_se)),
        ("slope", of.map(|it| it.slope)),
        ("slope_se", of.map(|it| it.slope_se)),
    ];
    for (name, value) in parts {
        close(value, &expected[format!("{prefix}{name}")], &format!("{what} {prefix}{name}"));
    }
}

#[test]
fn calibration_meets_the_reference_values() {
    let items = json("scoring.json");
    let scored: Vec<&Value> = items.as_array().unwrap().iter().filter(|it| it["type"] == "scoring").collect();
    assert_eq!(scored.len(), 12);
    for item in scored {
        let (id, expected) = (item["id"].as_str().unwrap(), &item["expected"]);
        let given = item["p"].as_array().unwrap().iter().zip(item["y"].as_array().unwrap());
        let all: Vec<Judged> =
            given.map(|(p, y)| judged(p.as_str().unwrap().parse().unwrap(), y.as_u64() == Some(1))).collect();
        let of = calibration(&all).unwrap();
        assert_eq!(
            (of.n as u64, of.events as u64),
            (expected["n"].as_u64().unwrap(), expected["events"].as_u64().unwrap())
        );
        for (name, value) in [
            ("brier", Some(of.brier)),
            ("log_score", Some(of.log_score)),
            ("mean_p", Some(of.mean.get())),
            ("observed", Some(of.observed.estimate.get())),
            ("brier_skill", of.skill),
            ("citl_intercept", of.shift.map(|it| it.0)),
            ("citl_intercept_se", of.shift.map(|it| it.1)),
            ("expected_calibration_error", Some(of.error)),
        ] {
            close(value, &expected[name], &format!("{id} {name}"));
        }
        let status = match of.status {
            SlopeStatus::Ok => "ok",
            SlopeStatus::OneClass => "undefined_one_class",
            SlopeStatus::ConstantProbability => "undefined_constant_p",
            SlopeStatus::CompleteSeparation => "undefined_complete_separation",
            SlopeStatus::QuasiSeparation => "undefined_quasi_separation",
        };
        assert_eq!(status, expected["slope_status"], "{id}");
        line(of.line, expected, "", id);
        line(of.penalised, expected, "firth_", id);
        for (bin, expected) in of.bins.iter().zip(expected["bins"].as_array().unwrap()) {
            assert_eq!(
                (bin.n as u64, bin.events as u64),
                (expected["n"].as_u64().unwrap(), expected["events"].as_u64().unwrap()),
                "{id}"
            );
            close(bin.mean.map(Probability::get), &expected["mean_p"], id);
            close(bin.observed.map(|it| it.estimate.get()), &expected["observed"], id);
            close(bin.observed.map(|it| it.lower.get()), &expected["wilson_lo"], id);
            close(bin.observed.map(|it| it.upper.get()), &expected["wilson_hi"], id);
        }
    }
}

fn finite(of: &Calibration) -> bool {
    let lines = of.line.iter().chain(&of.penalised);
    let parts = lines.flat_map(|it| [it.intercept, it.intercept_se, it.slope, it.slope_se]);
    let shift = of.shift.into_iter().flat_map(|it| [it.0, it.1]);
    parts.chain(shift).chain([of.brier, of.log_score, of.error]).chain(of.skill).all(f64::is_finite)
}

proptest! {
    /// Certainties, ties and single classes too: nothing is without a number, and turning every probability and result round turns only the intercept.
    #[test]
    fn any_set_has_finite_figures_and_its_mirror_the_same(
        given in prop::collection::vec((prop_oneof![Just(0.0), Just(1.0), Just(0.2), 0.0..=1.0], any::<bool>()), 1..60)
    ) {
        let all: Vec<Judged> = given.iter().map(|(p, came)| judged(*p, *came)).collect();
        let of = calibration(&all).unwrap();
        prop_assert!(finite(&of), "{of:?}");
        prop_assert!((0.0..=1.0).contains(&of.brier) && (0.0..=1.0).contains(&of.error));
        prop_assert_eq!(of.bins.iter().map(|it| it.n).sum::<usize>(), all.len());
        prop_assert_eq!(of.line.is_some(), of.status == SlopeStatus::Ok);
        let mirror: Vec<Judged> = given.iter().map(|(p, came)| judged(1.0 - p, !came)).collect();
        let turned = calibration(&mirror).unwrap();
        prop_assert!((turned.brier - of.brier).abs() < 1e-9 && (turned.log_score - of.log_score).abs() < 1e-6);
        // Half a bit of a probability may join or part two that were alike.
        if let Some((a, b)) = of.penalised.zip(turned.penalised).filter(|_| of.status == turned.status) {
            prop_assert!((a.slope - b.slope).abs() < 1e-3 * a.slope.abs().max(1.0), "{a:?} {b:?}");
            prop_assert!((a.intercept + b.intercept).abs() < 1e-3 * a.intercept.abs().max(1.0), "{a:?} {b:?}");
        }
    }
}

#[test]
fn of_no_probability_there_is_no_calibration() {
    assert_eq!(calibration(&[]), None);
}
