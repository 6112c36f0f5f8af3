//! Several tests together, against the reference values, and the law that along the counts one accuracy rises as the other falls.

use crate::common::json;
use proptest::prelude::*;
use pruvex_core::accuracy::Counts;
use pruvex_core::combine::{
    ClusterSource, CombineError, LatentCorrelation, ResultBand, RuleAccuracy, TestAccuracy, at_least, cluster_answer,
    count_results, count_results_latent, covariance_bounds, expected_information, pattern_results,
    pattern_results_latent, results_together, sequence, two_dependent_tests,
};
use pruvex_core::likelihood::{Thresholds, Zone, post_test};
use pruvex_core::pooling::PoolOptions;
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
    fn along_the_counts_sensitivity_falls_and_specificity_rises(values in prop::collection::vec((0.0..=1.0f64, 0.0..=1.0f64), 1..12)) {
        let tests: Vec<TestAccuracy> = values.iter().map(|(se, sp)| TestAccuracy { sensitivity: p(*se), specificity: p(*sp) }).collect();
        let rules: Vec<RuleAccuracy> = (1..=tests.len()).map(|k| at_least(&tests, k).unwrap()).collect();
        for pair in rules.windows(2) {
            prop_assert!(pair[1].sensitivity.get() <= pair[0].sensitivity.get() + 1e-12);
            prop_assert!(pair[1].specificity.get() >= pair[0].specificity.get() - 1e-12);
        }
        // The ends are bounded by the single tests.
        let (any, all) = (rules[0], rules[tests.len() - 1]);
        prop_assert!(tests.iter().all(|test| any.specificity.get() <= test.specificity.get() + 1e-12));
        prop_assert!(tests.iter().all(|test| all.sensitivity.get() <= test.sensitivity.get() + 1e-12));
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

#[test]
fn two_of_three_can_raise_both() {
    let two = at_least(&[test(0.8, 0.8); 3], 2).unwrap();
    assert!((two.sensitivity.get() - 0.896).abs() < 1e-12 && (two.specificity.get() - 0.896).abs() < 1e-12);
}

fn test(se: f64, sp: f64) -> TestAccuracy {
    TestAccuracy { sensitivity: p(se), specificity: p(sp) }
}

#[test]
fn a_shared_factor_gives_the_known_orthant_chances() {
    // With chances of one half, the chance that all of 2 or 3 are positive is 1/4 + asin(r)/(2 pi) and 1/8 + 3 asin(r)/(4 pi).
    for r in [0.0, 0.3, 0.75, 0.99] {
        let correlation = LatentCorrelation { diseased: r, non_diseased: 0.0 };
        let angle = f64::asin(r) / std::f64::consts::PI;
        for (n, expected) in [(2, 0.25 + angle / 2.0), (3, 0.125 + 0.75 * angle)] {
            let results = count_results_latent(&vec![test(0.5, 0.5); n], correlation).unwrap();
            assert!((results[n].diseased.get() - expected).abs() < 1e-10, "{n} {r}: {}", results[n].diseased.get());
            assert!((results[n].non_diseased.get() - 0.5_f64.powi(n as i32)).abs() < 1e-10, "independent without");
        }
    }
    // Dependence between tests of the same tissue makes the cluster worth less than independence promises.
    let (three, k) = ([test(0.8, 0.85), test(0.7, 0.8), test(0.75, 0.9)], 2);
    let correlation = LatentCorrelation { diseased: 0.4, non_diseased: 0.4 };
    let answer = cluster_answer(&three, k, Some(correlation), &[], PoolOptions::classical()).unwrap();
    assert_eq!(answer.source, ClusterSource::Dependent);
    assert!(answer.dependent.unwrap().lr_positive < answer.independent.lr_positive);
    assert_eq!(answer.independent, at_least(&three, k).unwrap());
    let published = [Counts::full(40.0, 6.0, 12.0, 50.0).unwrap()];
    let answer = cluster_answer(&three, k, Some(correlation), &published, PoolOptions::classical()).unwrap();
    assert_eq!((answer.source, answer.published.unwrap().k), (ClusterSource::Published, 1));
    let independent = cluster_answer(&three, k, None, &[], PoolOptions::classical()).unwrap();
    assert_eq!(independent.source, ClusterSource::Independent);
    for r in [-0.1, 1.0, f64::NAN] {
        let wrong = LatentCorrelation { diseased: r, non_diseased: 0.0 };
        assert!(count_results_latent(&three, wrong).is_err() && pattern_results_latent(&three, wrong).is_err());
        assert!(results_together(&[ResultBand::of(three[0], true)], wrong).is_err());
    }
    let backwards = ResultBand { diseased: [0.6, 0.5], non_diseased: [0.0, 1.0] };
    assert!(results_together(&[backwards], correlation).is_err() && results_together(&[], correlation).is_err());
}

#[test]
fn a_sequence_stops_at_its_thresholds() {
    let tests = [test(0.9, 0.8), test(0.7, 0.95)];
    let thresholds = Thresholds::new(p(0.05), p(0.7)).unwrap();
    let pre = p(0.3);
    let result = sequence(&pattern_results(&tests).unwrap(), pre, &thresholds).unwrap();
    // A negative first result leaves 5.1 %, between the thresholds; a positive one 66 %: the second test is always needed.
    let after_first = [0.9 / 0.2, 0.1 / 0.8].map(|lr| post_test(pre, Ratio::new(lr).unwrap()).unwrap());
    assert!(after_first.iter().all(|p| thresholds.zone(*p) == Zone::Between));
    assert!((result.expected_tests - 2.0).abs() < 1e-12 && result.steps[1].needed.get() > 0.999_999);
    // Treated: both positive (95 %). Reassured: both negative (1.7 %). The mixed results are 37 % and 43 %.
    let both = 0.3 * 0.63 + 0.7 * 0.01;
    assert!((result.treated.get() - both).abs() < 1e-12, "{result:?}");
    assert!((result.condition_if_treated.unwrap().get() - 0.189 / both).abs() < 1e-12);
    assert!((result.reassured.get() - (0.3 * 0.03 + 0.7 * 0.76)).abs() < 1e-12);
    assert!((result.steps[0].information - expected_information(pre, tests[0])).abs() < 1e-12);
    let early = sequence(&pattern_results(&tests).unwrap(), p(0.02), &thresholds).unwrap();
    assert_eq!((early.expected_tests, early.reassured.get(), early.treated.get()), (0.0, 1.0, 0.0));
    assert!(early.condition_if_treated.is_none() && sequence(&[], pre, &thresholds).is_none());
    // A perfect test tells all that is unknown, a worthless one nothing.
    assert!((expected_information(p(0.5), test(1.0, 1.0)) - 1.0).abs() < 1e-12);
    assert!(expected_information(p(0.4), test(0.6, 0.4)) < 1e-12);
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 32, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn dependence_keeps_each_test_s_own_accuracy(
        accuracy in prop::collection::vec((0.0..=1.0f64, 0.0..=1.0f64), 1..7),
        r in 0.0..=0.99f64,
    ) {
        let tests: Vec<TestAccuracy> = accuracy.iter().map(|(se, sp)| test(*se, *sp)).collect();
        let correlation = LatentCorrelation { diseased: r, non_diseased: 0.5 * r };
        let patterns = pattern_results_latent(&tests, correlation).unwrap();
        for (i, test) in tests.iter().enumerate() {
            let positive: f64 = patterns.iter().filter(|p| p.positive[i]).map(|p| p.diseased.get()).sum();
            prop_assert!((positive - test.sensitivity.get()).abs() < 1e-9, "{positive} {}", test.sensitivity.get());
        }
        for pattern in &patterns {
            // Each alone as among all others.
            let bands: Vec<ResultBand> =
                tests.iter().zip(&pattern.positive).map(|(test, positive)| ResultBand::of(*test, *positive)).collect();
            let [with, without] = results_together(&bands, correlation).unwrap();
            prop_assert!((with - pattern.diseased.get()).abs() < 1e-9 && (without - pattern.non_diseased.get()).abs() < 1e-9);
        }
        let counts = count_results_latent(&tests, correlation).unwrap();
        for count in &counts {
            let of_patterns: f64 = patterns
                .iter()
                .filter(|p| p.positive.iter().filter(|positive| **positive).count() == count.positive)
                .map(|p| p.non_diseased.get())
                .sum();
            prop_assert!((of_patterns - count.non_diseased.get()).abs() < 1e-9);
        }
        let apart = LatentCorrelation { diseased: 0.0, non_diseased: 0.0 };
        for (a, b) in count_results_latent(&tests, apart).unwrap().iter().zip(count_results(&tests).unwrap()) {
            prop_assert!((a.diseased.get() - b.diseased.get()).abs() < 1e-10);
        }
        let thresholds = Thresholds::new(p(0.1), p(0.6)).unwrap();
        let ends = sequence(&patterns, p(0.3), &thresholds).unwrap();
        prop_assert!((ends.reassured.get() + ends.undecided.get() + ends.treated.get() - 1.0).abs() < 1e-9);
        prop_assert!(ends.expected_tests <= tests.len() as f64 + 1e-9);
        prop_assert!(ends.steps.iter().all(|step| (0.0..=1.0).contains(&step.information)));
    }
}
