//! Quantities refuse nonsense, by constructor and when deserialised, and survive JSON.

use proptest::prelude::*;
use pruvex_core::{Count, Estimate, Level, Probability, Ratio};
use serde_json::json;

#[test]
fn constructors_and_json_refuse_the_same() {
    for bad in [-0.1, 1.1, f64::NAN, f64::INFINITY] {
        assert!(Probability::new(bad).is_err(), "{bad}");
    }
    for bad in [0.0, 1.0, f64::NAN, -1.0] {
        assert!(Level::new(bad).is_err(), "{bad}");
    }
    for bad in [-1.0, 0.5, 10_000_001.0, f64::NAN, f64::INFINITY] {
        assert!(Count::new(bad).is_err(), "{bad}");
    }
    assert!(Ratio::new(-1e-9).is_err() && Ratio::new(f64::NAN).is_err() && Ratio::new(f64::INFINITY).is_ok());
    assert!(serde_json::from_value::<Probability>(json!(1.5)).is_err());
    assert!(serde_json::from_value::<Count>(json!(2.5)).is_err());
    assert!(serde_json::from_value::<Level>(json!(95)).is_err());
    for bad in [json!(-1), json!("infinite"), json!(null), json!([1])] {
        assert!(serde_json::from_value::<Ratio>(bad.clone()).is_err(), "{bad}");
    }
}

#[test]
fn the_normal_deviate_is_exact() {
    // To all printed digits; 1.96 would be off by 2e-5.
    assert!((Level::default().z() - 1.959_963_984_540_054).abs() < 1e-12);
    assert!((Level::new(0.99).unwrap().z() - 2.575_829_303_548_901).abs() < 1e-12);
}

#[test]
fn infinity_travels_as_a_word() {
    let lr = Estimate {
        estimate: Ratio::new(f64::INFINITY).unwrap(),
        lower: Ratio::new(2.5).unwrap(),
        upper: Ratio::new(f64::INFINITY).unwrap(),
    };
    let wire = serde_json::to_value(lr).unwrap();
    assert_eq!(wire, json!({ "estimate": "infinity", "lower": 2.5, "upper": "infinity" }));
    assert_eq!(serde_json::from_value::<Estimate<Ratio>>(wire).unwrap(), lr);
}

#[test]
fn the_inverse_logit_is_total_and_monotone() {
    let at = |x: f64| Probability::from_logit(x).map(Probability::get);
    assert_eq!([at(f64::NEG_INFINITY), at(f64::INFINITY), at(0.0)], [Some(0.0), Some(1.0), Some(0.5)]);
    assert!(at(-800.0) <= at(-700.0));
    assert_eq!(at(f64::NAN), None);
}

#[test]
fn an_interval_out_of_order_is_refused() {
    for wrong in [
        json!({ "estimate": 3, "lower": 8, "upper": 2 }),
        json!({ "estimate": 3, "lower": 1, "upper": 2 }),
        json!({ "estimate": 3, "lower": 4, "upper": "infinity" }),
    ] {
        let error = serde_json::from_value::<Estimate<Ratio>>(wrong).unwrap_err().to_string();
        assert!(error.starts_with("3 does not lie within its interval"), "{error}");
    }
}

proptest! {
    #[test]
    fn valid_numbers_survive_json(p in 0.0..=1.0f64, r in 0.0..1e12f64, c in 0..=Count::MAX) {
        let close = |a: f64, b: f64| (a - b).abs() <= 4.0 * f64::EPSILON * b.abs();
        let probability: Probability = serde_json::from_value(json!(Probability::new(p).unwrap())).unwrap();
        prop_assert!(close(probability.get(), p));
        let ratio: Ratio = serde_json::from_value(json!(Ratio::new(r).unwrap())).unwrap();
        prop_assert!(close(ratio.get(), r));
        let count: Count = serde_json::from_value(json!(c)).unwrap();
        prop_assert_eq!(count.get(), c);
    }
}
