//! Several tests together, against the reference values, and the law that no rule raises both accuracies.

#![allow(clippy::unwrap_used, reason = "a failed step is a failed test")]

mod common;

use common::json;
use proptest::prelude::*;
use pruvex_core::combine::{
    CombineError, RuleAccuracy, TestAccuracy, at_least, count_results, covariance_bounds, pattern_results,
    two_dependent_tests,
};
use pruvex_core::{Probability, Ratio};
use serde_json::Value;

fn p(value: f64) -> Probability {
    Probability::new(value).unwrap()
}

fn tests(item: &Value) -> Vec<TestAccuracy> {
    let column = |name: &str| -> Vec<f64> { serde_json::from_value(item[name].clone()).unwrap() };
    column("sens")
        .into_iter()
        .zip(column("spec"))
        .map(|(se, sp)| TestAccuracy { sensitivity: p(se), specificity: p(sp) })
        .collect()
}

fn close(value: f64, expected: &Value, what: &str) {
    let expected = expected.as_f64().unwrap();
    assert!((value - expected).abs() <= 1e-10 * expected.abs().max(1e-2), "{what}: {value} {expected}");
}

fn close_ratio(value: Option<Ratio>, expected: &Value, what: &str) {
    match (value, expected) {
        (None, Value::Null) => {}
        (Some(value), Value::String(_)) => assert!(value.get().is_infinite(), "{what}"),
        (Some(value), expected) => close(value.get(), expected, what),
        pair => panic!("{what}: {pair:?}"),
    }
}

fn close_rule(rule: RuleAccuracy, expected: &Value, what: &str) {
    close(rule.sensitivity.get(), &expected["sens"], what);
    close(rule.specificity.get(), &expected["spec"], what);
    close_ratio(rule.lr_positive, &expected["lr_pos"], what);
    close_ratio(rule.lr_negative, &expected["lr_neg"], what);
}

#[test]
fn independent_and_dependent_combinations_equal_the_reference() {
    for item in json("cluster.json").as_array().unwrap() {
        let id = item["id"].as_str().unwrap();
        let tests = tests(item);
        if item["type"] == "conditional_independence" {
            for (count, expected) in count_results(&tests).unwrap().iter().zip(item["count"].as_array().unwrap()) {
                close(count.diseased.get(), &expected["p_diseased"], id);
                close(count.non_diseased.get(), &expected["p_nondiseased"], id);
                close_ratio(count.lr, &expected["lr"], id);
            }
            for expected in item["at_least_k"].as_array().unwrap() {
                close_rule(at_least(&tests, expected["k"].as_u64().unwrap() as usize).unwrap(), expected, id);
            }
            for expected in item["patterns"].as_array().into_iter().flatten() {
                let wanted: Vec<bool> = expected["pattern"].as_str().unwrap().chars().map(|c| c == '+').collect();
                let patterns = pattern_results(&tests).unwrap();
                let found = patterns.iter().find(|pattern| pattern.positive == wanted).unwrap();
                close(found.diseased.get(), &expected["p_diseased"], id);
                close_ratio(found.lr, &expected["lr"], id);
            }
            continue;
        }
        let covariance = |name: &str| item[name].as_f64().unwrap();
        let bounds = covariance_bounds(tests[0], tests[1]);
        for index in 0..2 {
            close(bounds.diseased[index], &item["cov_diseased_bounds"][index], id);
            close(bounds.non_diseased[index], &item["cov_nondiseased_bounds"][index], id);
        }
        let paired = two_dependent_tests(tests[0], tests[1], covariance("cov_diseased"), covariance("cov_nondiseased"));
        if item["status"] == "inadmissible_covariance" {
            assert!(paired.unwrap_err().to_string().contains("impossible"), "{id}");
            continue;
        }
        let paired = paired.unwrap();
        for (index, expected) in item["patterns"].as_array().unwrap().iter().enumerate() {
            close(paired.diseased[index].get(), &expected["p_diseased"], id);
            close(paired.non_diseased[index].get(), &expected["p_nondiseased"], id);
            close_ratio(paired.lr[index], &expected["lr"], id);
        }
        close_rule(paired.any, &item["any_positive"], id);
        close_rule(paired.all, &item["all_positive"], id);
    }
}

#[test]
fn impossible_requests_are_refused() {
    let one = TestAccuracy { sensitivity: p(0.8), specificity: p(0.7) };
    assert_eq!(count_results(&[]), Err(CombineError::Tests(0)));
    assert_eq!(pattern_results(&[one; 13]).unwrap_err(), CombineError::Tests(13));
    assert_eq!(at_least(&[one; 3], 4), Err(CombineError::Rule { k: 4, n: 3 }));
    assert_eq!(at_least(&[one; 3], 0), Err(CombineError::Rule { k: 0, n: 3 }));
    assert!(two_dependent_tests(one, one, f64::NAN, 0.0).is_err());
}

proptest! {
    #[test]
    fn no_rule_raises_both_accuracies(values in prop::collection::vec((0.0..=1.0f64, 0.0..=1.0f64), 1..12)) {
        let tests: Vec<TestAccuracy> = values.iter().map(|(se, sp)| TestAccuracy { sensitivity: p(*se), specificity: p(*sp) }).collect();
        let rules: Vec<RuleAccuracy> = (1..=tests.len()).map(|k| at_least(&tests, k).unwrap()).collect();
        for pair in rules.windows(2) {
            prop_assert!(pair[1].sensitivity.get() <= pair[0].sensitivity.get() + 1e-12);
            prop_assert!(pair[1].specificity.get() >= pair[0].specificity.get() - 1e-12);
        }
        let total: f64 = count_results(&tests).unwrap().iter().map(|count| count.diseased.get()).sum();
        prop_assert!((total - 1.0).abs() < 1e-12);
        let patterns = pattern_results(&tests).unwrap();
        prop_assert_eq!(patterns.len(), 1 << tests.len());
        let total: f64 = patterns.iter().map(|pattern| pattern.non_diseased.get()).sum();
        prop_assert!((total - 1.0).abs() < 1e-9);
    }

    #[test]
    fn positive_dependence_brings_any_and_all_together(se in [0.05..0.95f64, 0.05..0.95f64], sp in [0.05..0.95f64, 0.05..0.95f64], share in 0.0..1.0f64) {
        let test = |i: usize| TestAccuracy { sensitivity: p(se[i]), specificity: p(sp[i]) };
        let bounds = covariance_bounds(test(0), test(1));
        let free = two_dependent_tests(test(0), test(1), 0.0, 0.0).unwrap();
        let bound = two_dependent_tests(test(0), test(1), share * bounds.diseased[1], share * bounds.non_diseased[1]).unwrap();
        prop_assert!(bound.any.sensitivity.get() <= free.any.sensitivity.get() + 1e-12);
        prop_assert!(bound.all.sensitivity.get() >= free.all.sensitivity.get() - 1e-12);
        prop_assert!(bound.any.specificity.get() >= free.any.specificity.get() - 1e-12);
    }
}
