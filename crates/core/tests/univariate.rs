//! Meta-analysis of one quantity against the reference values, and its laws.

use crate::common::{assert_close, json};
use proptest::prelude::*;
use pruvex_core::Level;
use pruvex_core::pooling::{Effect, TauMethod, fisher_z, pool_effects};

#[test]
fn every_method_equals_the_reference() {
    let data = json("univariate.json");
    let mut compared = 0;
    for item in data.as_array().unwrap().iter().filter(|item| item["y"].is_array()) {
        let id = item["id"].as_str().unwrap();
        let column = |name: &str| -> Vec<f64> { serde_json::from_value(item[name].clone()).unwrap() };
        let effects: Vec<Effect> =
            column("y").into_iter().zip(column("v")).map(|(y, v)| Effect::new(y, v).unwrap()).collect();
        for (name, method) in [
            ("fixed", TauMethod::Fixed),
            ("DL", TauMethod::DerSimonianLaird),
            ("REML", TauMethod::Reml),
            ("PM", TauMethod::PauleMandel),
        ] {
            let result = pool_effects(&effects, method, Level::default()).unwrap();
            let expected = &item[name];
            let check = |what: &str, value: f64, expected: &serde_json::Value| {
                let expected = expected.as_f64().unwrap();
                // A variance of zero is reached from one side by iteration in some references.
                if expected.abs() < 1e-12 {
                    assert!(value.abs() < 1e-10, "{id} {name} {what}: {value}");
                } else {
                    assert_close(value, expected, 1e-7, &format!("{id} {name} {what}"));
                }
            };
            check("tau2", result.tau2, &expected["tau2"]);
            check("mu", result.mu.estimate, &expected["mu"]);
            check("se", result.se, &expected["se"]);
            check("lower", result.mu.lower, &expected["ci95_z"][0]);
            check("upper", result.mu.upper, &expected["ci95_z"][1]);
            if let Some(knapp) = result.hartung_knapp {
                check("Hartung-Knapp lower", knapp.lower, &expected["hk_ci95"][0]);
                check("Hartung-Knapp upper", knapp.upper, &expected["hk_ci95"][1]);
                assert_eq!(result.prediction.is_none(), expected["pi95_t_kminus2"].is_null(), "{id}");
                if let Some(prediction) = result.prediction {
                    check("prediction lower", prediction.lower, &expected["pi95_t_kminus2"][0]);
                    check("prediction upper", prediction.upper, &expected["pi95_t_kminus2"][1]);
                }
            }
            check("Q", result.q, &item["Q"]);
            check("p", result.q_p, &item["Q_p"]);
            check("I2", result.i2, &item["I2"]);
            compared += 1;
        }
    }
    assert!(compared >= 70, "only {compared} fits were compared");
}

#[test]
fn what_is_no_estimate_is_refused() {
    let effect = Effect::new(0.62, 0.01).unwrap();
    assert!((fisher_z(0.9).unwrap() - 1.472_219_489_583_22).abs() < 1e-12);
    assert!(fisher_z(1.0).is_err() && fisher_z(f64::NAN).is_err());
    for (value, variance) in [(f64::NAN, 1.0), (1.0, 0.0), (1.0, -1.0), (1.0, f64::INFINITY), (1e300, 1.0)] {
        assert!(Effect::new(value, variance).is_err(), "{value} {variance}");
    }
    assert!(pool_effects(&[effect], TauMethod::Reml, Level::default()).is_err());
}

proptest! {
    #[test]
    fn pooling_commutes_with_shifting_and_scaling(values in prop::collection::vec((-5.0..5.0f64, 0.01..2.0f64), 2..15), shift in -10.0..10.0f64, scale in 0.1..10.0f64) {
        for method in [TauMethod::Fixed, TauMethod::DerSimonianLaird, TauMethod::Reml, TauMethod::PauleMandel] {
            let effects = |f: &dyn Fn(f64) -> f64, s: f64| -> Vec<Effect> {
                values.iter().map(|(y, v)| Effect::new(f(*y), v * s * s).unwrap()).collect()
            };
            let a = pool_effects(&effects(&|y| y, 1.0), method, Level::default()).unwrap();
            let b = pool_effects(&effects(&|y| scale * y + shift, scale), method, Level::default()).unwrap();
            prop_assert!((b.mu.estimate - (scale * a.mu.estimate + shift)).abs() < 1e-6 * (1.0 + scale));
            prop_assert!((b.tau2 - scale * scale * a.tau2).abs() < 1e-5 * (1.0 + b.tau2), "{a:?} {b:?}");
            let (low, high) = values.iter().fold((f64::MAX, f64::MIN), |(l, h), (y, _)| (l.min(*y), h.max(*y)));
            prop_assert!(low - 1e-9 <= a.mu.estimate && a.mu.estimate <= high + 1e-9);
            prop_assert!(a.tau2 >= 0.0 && (0.0..=1.0).contains(&a.i2) && (0.0..=1.0).contains(&a.q_p));
        }
    }
}
