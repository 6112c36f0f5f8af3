//! The order of an examination, and what becomes of patients who are examined in it.

use crate::common::json;
use proptest::prelude::*;
use pruvex_core::Probability;
use pruvex_core::combine::{TestAccuracy, expected_information, pattern_results, sequence};
use pruvex_core::likelihood::Thresholds;
use pruvex_core::plan::{MAX_PLANNED, OrderError, OrderWeights, PlaceReason, PlannedTest, best_order, order_cost};
use serde_json::Value;

fn number(item: &Value) -> f64 {
    item.as_str().map_or_else(|| item.as_f64().unwrap(), |text| text.parse().unwrap())
}

fn p(value: f64) -> Probability {
    Probability::new(value).unwrap()
}

#[test]
fn the_best_order_equals_the_reference() {
    for item in json("plan_order.json").as_array().unwrap() {
        let (id, expected) = (item["id"].as_str().unwrap(), &item["expected"]);
        // Of equally good orders the first by the names: tests are numbered by their names.
        let listed = item["tests"].as_array().unwrap();
        let mut named: Vec<&Value> = listed.iter().collect();
        named.sort_by_key(|test| test["id"].as_str().unwrap());
        let place = |name: &Value| named.iter().position(|test| test["id"] == *name).unwrap();
        let mut positions: Vec<&str> = Vec::new();
        let tests: Vec<PlannedTest> = named
            .iter()
            .map(|test| {
                let position = test["position"].as_str().unwrap();
                if !positions.contains(&position) {
                    positions.push(position);
                }
                let accuracy =
                    TestAccuracy { sensitivity: p(number(&test["sens"])), specificity: p(number(&test["spec"])) };
                let bits = expected_information(p(number(&item["pretest"])), accuracy);
                assert!((bits - test["bits"].as_f64().unwrap()).abs() < 1e-12, "{id}");
                PlannedTest {
                    position: positions.iter().position(|it| *it == position).unwrap() as u32,
                    one_attempt: test["tries"] == 1,
                    irritation: number(&test["irritation"]),
                    bits,
                    keep_last: test["keep_last"] == true,
                }
            })
            .collect();
        let weights = OrderWeights {
            turning: number(&item["c_pos"]),
            one_attempt: number(&item["w1"]),
            irritating_late: number(&item["w2"]),
            informative_early: number(&item["w3"]),
        };
        let before: Vec<(usize, usize)> =
            item["before"].as_array().unwrap().iter().map(|pair| (place(&pair[0]), place(&pair[1]))).collect();
        let as_listed: Vec<usize> = listed.iter().map(|test| place(&test["id"])).collect();
        let listed_cost = order_cost(&tests, &weights, &as_listed).unwrap();
        if expected["status"] == "infeasible" {
            assert!(matches!(best_order(&tests, &weights, &before), Err(OrderError::Contradiction(_))), "{id}");
            continue;
        }
        assert!((listed_cost.total - expected["cost_of_listed_order"].as_f64().unwrap()).abs() < 1e-9, "{id}");
        let best = best_order(&tests, &weights, &before).unwrap();
        assert!((best.cost.total - expected["optimal_cost"].as_f64().unwrap()).abs() < 1e-9, "{id}: {best:?}");
        let order: Vec<usize> = expected["optimal_order"].as_array().unwrap().iter().map(place).collect();
        assert_eq!(best.order, order, "{id}");
        assert_eq!(best.cost.changes as u64, expected["position_changes"].as_u64().unwrap(), "{id}");
        let parts = [best.cost.turning, best.cost.one_attempt, best.cost.irritating_late, best.cost.informative_early];
        for (part, name) in parts.into_iter().zip(["position", "tries", "irritation", "bits"]) {
            assert!((part - expected["parts"][name].as_f64().unwrap()).abs() < 1e-9, "{id} {name}");
        }
        assert!(best.exact && best.bound == best.cost.total);
    }
}

#[test]
fn stopping_at_thresholds_equals_the_reference() {
    for item in json("sequence.json").as_array().unwrap() {
        let id = item["id"].as_str().unwrap();
        let column = |name: &str| item[name].as_array().unwrap().iter().map(number).collect::<Vec<f64>>();
        let accuracy = |(se, sp): (f64, f64)| TestAccuracy { sensitivity: p(se), specificity: p(sp) };
        let tests: Vec<TestAccuracy> = column("sens").into_iter().zip(column("spec")).map(accuracy).collect();
        // There a threshold that is just reached stops; it matters only at 0 and 1.
        let thresholds = Thresholds::new(p(number(&item["lo"]) + 1e-12), p(number(&item["hi"]) - 1e-12)).unwrap();
        let found = sequence(&pattern_results(&tests).unwrap(), p(number(&item["pretest"])), &thresholds).unwrap();
        let close = |value: f64, expected: &Value| {
            let expected = expected.as_f64().unwrap();
            assert!((value - expected).abs() < 1e-12, "{id}: got {value}, expected {expected}");
        };
        close(found.expected_tests, &item["expected_tests"]);
        close(found.undecided.get(), &item["end_states"]["undecided"]["p"]);
        let (low, high) = (&item["end_states"]["below_lo"], &item["end_states"]["above_hi"]);
        for (share, condition, end) in
            [(found.reassured, found.condition_if_reassured, low), (found.treated, found.condition_if_treated, high)]
        {
            close(share.get(), &end["p"]);
            match condition {
                Some(condition) => close(condition.get(), &end["p_diseased_in_state"]),
                None => assert!(end["p_diseased_in_state"].is_null(), "{id}"),
            }
        }
        let needed: Vec<f64> = found.steps.iter().map(|step| step.needed.get()).chain([0.0]).collect();
        for stop in item["stop_after"].as_array().unwrap() {
            let after = stop["after_test"].as_u64().unwrap() as usize;
            let before = if after == 0 { 1.0 } else { needed[after - 1] };
            let ended = if after == tests.len() { found.undecided.get() } else { 0.0 };
            close(before - needed[after] - ended, &stop["p"]);
        }
    }
}

#[test]
fn an_order_says_why_and_what_cannot_be() {
    let test = PlannedTest { position: 0, one_attempt: false, irritation: 0.0, bits: 0.1, keep_last: false };
    let once = PlannedTest { one_attempt: true, position: 1, ..test };
    let sore = PlannedTest { irritation: 3.0, bits: 0.4, ..test };
    let best = best_order(&[sore, test, once], &OrderWeights::default(), &[]).unwrap();
    assert_eq!(best.order.last(), Some(&0), "the irritating one comes last: {best:?}");
    let place = best.order.iter().position(|it| *it == 2).unwrap();
    assert!(best.reasons[place].contains(&PlaceReason::OneAttempt));
    assert!(best.reasons.last().unwrap().contains(&PlaceReason::Irritating));

    // The better test first, even if it stresses more: then it comes first.
    let eager = OrderWeights { informative_early: 50.0, one_attempt: 0.0, ..OrderWeights::default() };
    assert_eq!(best_order(&[test, sore, once], &eager, &[]).unwrap().order[0], 1);

    let circle = best_order(&[test; 4], &OrderWeights::default(), &[(0, 1), (1, 2), (2, 0)]);
    assert_eq!(circle, Err(OrderError::Contradiction(vec![0, 1, 2])));
    assert_eq!(best_order(&[test], &OrderWeights::default(), &[(0, 3)]), Err(OrderError::Unknown(3)));
    assert_eq!(best_order(&[], &OrderWeights::default(), &[]), Err(OrderError::Tests(0)));
    assert!(matches!(
        best_order(&[PlannedTest { bits: f64::NAN, ..test }], &eager, &[]),
        Err(OrderError::Number { .. })
    ));
    let negative = OrderWeights { turning: -1.0, ..eager };
    assert!(matches!(best_order(&[test], &negative, &[]), Err(OrderError::Weight { .. })));
    assert_eq!(order_cost(&[test; 2], &eager, &[0, 0]), Err(OrderError::NoOrder(2, 2)));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]
    #[test]
    fn no_order_that_keeps_the_wishes_is_better(
        values in prop::collection::vec((0u32..4, any::<bool>(), 0u8..4, 0.0..1.0f64, any::<bool>()), 1..=MAX_PLANNED),
        weights in (0.0..3.0f64, 0.0..3.0f64, 0.0..3.0f64, 0.0..3.0f64), shuffle in prop::collection::vec(0.0..1.0f64, MAX_PLANNED), size in 1usize..=MAX_PLANNED,
    ) {
        let tests: Vec<PlannedTest> = values.iter().take(size).map(|(position, one_attempt, irritation, bits, keep_last)| PlannedTest {
            position: *position, one_attempt: *one_attempt, irritation: f64::from(*irritation), bits: *bits, keep_last: *keep_last && *one_attempt,
        }).collect();
        let weights = OrderWeights { turning: weights.0, one_attempt: weights.1, irritating_late: weights.2, informative_early: weights.3 };
        let before: Vec<(usize, usize)> = (1..tests.len()).filter(|it| it % 3 == 0 && (!tests[it - 1].keep_last || tests[*it].keep_last)).map(|it| (it - 1, it)).collect();
        let best = best_order(&tests, &weights, &before).unwrap();
        let again = order_cost(&tests, &weights, &best.order).unwrap();
        prop_assert!((again.total - best.cost.total).abs() < 1e-9);
        prop_assert!(best.bound <= best.cost.total + 1e-9);
        let at = |test: usize| best.order.iter().position(|it| *it == test).unwrap();
        prop_assert!(before.iter().all(|(first, second)| at(*first) < at(*second)));
        let last = best.order.iter().position(|it| tests[*it].keep_last).unwrap_or(tests.len());
        prop_assert!(best.order[last..].iter().all(|it| tests[*it].keep_last));
        // Another order that keeps them, by chance: never better than the bound, nor than the best.
        let mut other: Vec<usize> = (0..tests.len()).collect();
        other.sort_by(|a, b| tests[*a].keep_last.cmp(&tests[*b].keep_last).then(shuffle[*a].total_cmp(&shuffle[*b])));
        if before.iter().all(|(first, second)| other.iter().position(|it| it == first) < other.iter().position(|it| it == second)) {
            let cost = order_cost(&tests, &weights, &other).unwrap().total;
            prop_assert!(cost >= best.bound - 1e-9);
            prop_assert!(!best.exact || cost >= best.cost.total - 1e-9);
        }
    }
}
