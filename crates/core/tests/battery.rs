//! Batteries: bounds that hold whatever the dependence, claims checked against them, and intervals.

use crate::common::{assert_close, json};
use proptest::prelude::*;
use pruvex_core::accuracy::Rounded;
use pruvex_core::combine::{
    BatteryDependence, BatteryTest, Claim, ClaimFault, CombineError, FigureCheck, LatentCorrelation, NeededDependence,
    SingleRange, TestAccuracy, at_least, battery, check_claims, count_results_latent, covariance_bounds,
    each_test_left_out, needed_dependence, rule_bounds, rules_by_correlation, two_dependent_tests,
};
use pruvex_core::{Estimate, Probability, Ratio};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use rand_distr::StandardNormal;
use serde_json::Value;

fn p(value: f64) -> Probability {
    Probability::new(value).unwrap()
}

fn texts(item: &Value, name: &str) -> Vec<String> {
    serde_json::from_value(item[name].clone()).unwrap()
}

fn single(sensitivity: f64, specificity: f64) -> TestAccuracy {
    TestAccuracy { sensitivity: p(sensitivity), specificity: p(specificity) }
}

fn same(value: f64, expected: &Value, what: &str) {
    let expected = expected.as_f64().unwrap();
    assert!((value - expected).abs() < 1e-12, "{what}: got {value}, expected {expected}");
}

#[test]
fn bounds_and_claims_equal_the_reference() {
    for item in json("claims.json").as_array().unwrap() {
        let id = item["id"].as_str().unwrap();
        let (sens, spec) = (texts(item, "sens"), texts(item, "spec"));
        let number = |text: &String| text.parse::<f64>().unwrap();
        let tests: Vec<TestAccuracy> = sens.iter().zip(&spec).map(|(se, sp)| single(number(se), number(sp))).collect();
        let printed = |text: &String| Rounded::parse(text, false).unwrap().window().map(|end| end.clamp(0.0, 1.0));
        let points: Vec<SingleRange> = tests
            .iter()
            .map(|it| SingleRange { sensitivity: [it.sensitivity.get(); 2], specificity: [it.specificity.get(); 2] })
            .collect();
        let rounded: Vec<SingleRange> = sens
            .iter()
            .zip(&spec)
            .map(|(se, sp)| SingleRange { sensitivity: printed(se), specificity: printed(sp) })
            .collect();
        for rule in item["rules"].as_array().unwrap() {
            let k = rule["k"].as_u64().unwrap() as usize;
            let bounds = rule_bounds(&tests, k).unwrap();
            same(bounds.sensitivity[0].get(), &rule["sens_lo"], id);
            same(bounds.sensitivity[1].get(), &rule["sens_hi"], id);
            same(bounds.specificity[0].get(), &rule["spec_lo"], id);
            same(bounds.specificity[1].get(), &rule["spec_hi"], id);
            assert_eq!(bounds.both_can_rise, rule["both_can_rise_over_best_single"], "{id} {k}");
            let any_figure = Rounded::parse("0.5", false);
            let claim = Claim { k, sensitivity: any_figure, specificity: any_figure };
            let wide = check_claims(&rounded, &[claim]).unwrap().claims[0];
            for (figure, ends) in
                [(wide.sensitivity, ["sens_lo", "sens_hi"]), (wide.specificity, ["spec_lo", "spec_hi"])]
            {
                for (bound, end) in figure.unwrap().possible.iter().zip(ends) {
                    same(bound.get(), &rule[format!("{end}_singles_rounded")], id);
                }
            }
        }
        let written: Vec<(Claim, &Value)> = item["claims"]
            .as_array()
            .unwrap()
            .iter()
            .map(|claim| {
                let figure =
                    |name: &str| claim[name].as_str().map(|text| Rounded::parse(text, claim["scale"] == 100).unwrap());
                let k = claim["k"].as_u64().unwrap() as usize;
                (Claim { k, sensitivity: figure("sens"), specificity: figure("spec") }, claim)
            })
            .collect();
        let claims: Vec<Claim> = written.iter().map(|(claim, _)| *claim).collect();
        let exactly = check_claims(&points, &claims).unwrap();
        let within = check_claims(&rounded, &claims).unwrap();
        for (((_, expected), check), wide) in written.iter().zip(&exactly.claims).zip(&within.claims) {
            assert_eq!(check.possible, expected["possible"], "{id}");
            assert_eq!(wide.possible, expected["possible_if_singles_rounded"], "{id}");
            let half_even = |it: Option<FigureCheck>| it.is_some_and(|it| it.only_half_even);
            let up = check.possible && !half_even(check.sensitivity) && !half_even(check.specificity);
            assert_eq!(up, expected["possible_half_up"], "{id}");
            let why = |name: &str, it: Option<FigureCheck>| match it.and_then(|it| it.fault) {
                Some(ClaimFault::TooHigh) => Some(format!("{name}_above_upper_bound")),
                Some(ClaimFault::TooLow) => Some(format!("{name}_below_lower_bound")),
                None => None,
            };
            let faults: Vec<String> =
                [why("sens", check.sensitivity), why("spec", check.specificity)].into_iter().flatten().collect();
            assert_eq!(faults, texts(expected, "why"), "{id}");
        }
        if claims.is_empty() {
            assert!(exactly.together_possible, "{id}");
            continue;
        }
        for (slack, name) in [(exactly.sensitivity_slack, "sens"), (exactly.specificity_slack, "spec")] {
            // None where no such figure is claimed: nothing contradicts itself then.
            let expected = item[format!("{name}_joint_min_slack")].as_f64().unwrap_or(0.0);
            assert!((slack - expected).abs() < 1e-11, "{id} {name}: got {slack}, expected {expected}");
        }
        assert_eq!(exactly.together_possible, item["all_claims_together_possible"], "{id}");
    }
}

#[test]
fn a_claim_that_cannot_be_says_what_would_have_to_be_true() {
    let tests = [(0.88, 0.60), (0.73, 0.72)].map(|(se, sp)| SingleRange { sensitivity: [se; 2], specificity: [sp; 2] });
    let claim = |k, sens| Claim { k, sensitivity: Rounded::parse(sens, true), specificity: None };
    let all = check_claims(&tests, &[claim(2, "85")]).unwrap().claims[0].sensitivity.unwrap();
    // The weaker test would have to find at least 84.5 % itself.
    assert!((all.shift.unwrap() - 0.115).abs() < 1e-9 && all.fault == Some(ClaimFault::TooHigh));
    let any = check_claims(&tests, &[claim(1, "80")]).unwrap().claims[0].sensitivity.unwrap();
    assert!((any.shift.unwrap() + 0.075).abs() < 1e-9 && any.fault == Some(ClaimFault::TooLow));
    // More than everybody is found by no test at all.
    assert_eq!(check_claims(&tests, &[claim(1, "116")]).unwrap().claims[0].sensitivity.unwrap().shift, None);
    assert_eq!(check_claims(&tests, &[claim(3, "80")]), Err(CombineError::Rule { k: 3, n: 2 }));
    let upside_down = SingleRange { sensitivity: [0.8, 0.7], specificity: [0.5; 2] };
    assert_eq!(check_claims(&[upside_down], &[]), Err(CombineError::Range(0.8, 0.7)));
}

#[test]
fn a_possible_claim_says_how_the_tests_would_have_to_depend() {
    let tests = [single(0.8, 0.9), single(0.7, 0.85)];
    let along = rules_by_correlation(&tests).unwrap();
    let needed =
        |k, claimed| needed_dependence(&along, k, Rounded::parse(claimed, true).unwrap(), |it| it.sensitivity).unwrap();
    // Independent tests find 94 %; the two ends of dependence 80 % and 100 %.
    assert!(matches!(needed(1, "94"), NeededDependence::Correlation { from, to } if from == 0.0 && to < 0.2));
    let NeededDependence::Correlation { from, to } = needed(1, "87") else { panic!("a correlation") };
    let at = |r| {
        let correlation = LatentCorrelation { diseased: r, non_diseased: r };
        1.0 - count_results_latent(&tests, correlation).unwrap()[0].diseased.get()
    };
    assert!((at(from) - 0.875).abs() < 1e-3 && (at(to) - 0.865).abs() < 1e-3, "{from} to {to}");
    assert_eq!(needed(1, "99"), NeededDependence::Otherwise);
    assert!(needed_dependence(&along, 3, Rounded::parse("9", true).unwrap(), |it| it.sensitivity).is_err());
}

#[test]
fn two_of_three_raise_both_until_they_depend_too_much() {
    let tests = [single(0.8, 0.8); 3];
    let at = rules_by_correlation(&tests).unwrap();
    let raised: Vec<bool> = at.iter().map(|it| it.raises_both[1]).collect();
    assert!(raised[0] && at.iter().all(|it| !it.raises_both[0] && !it.raises_both[2]));
    // The gain shrinks with the dependence, to nothing when all are one test.
    assert!(at.windows(2).all(|pair| pair[1].rules[1].sensitivity <= pair[0].rules[1].sensitivity));
    let unequal = rules_by_correlation(&[single(0.9, 0.8), single(0.7, 0.9), single(0.7, 0.8)]).unwrap();
    let until = unequal.iter().position(|it| !it.raises_both[1]);
    assert!(until.is_none_or(|until| unequal[until..].iter().all(|it| !it.raises_both[1])));
}

fn estimate(estimate: f64, half: f64) -> Estimate<Probability> {
    let logit = (estimate / (1.0 - estimate)).ln();
    let at = |x: f64| p(1.0 / (1.0 + (-x).exp()));
    Estimate::new(p(estimate), at(logit - half), at(logit + half)).unwrap()
}

#[test]
fn intervals_agree_with_drawing_the_accuracy_of_every_test() {
    let tests = [
        BatteryTest { sensitivity: estimate(0.8, 0.5), specificity: estimate(0.7, 0.4), correlation: -0.5 },
        BatteryTest { sensitivity: estimate(0.65, 0.3), specificity: estimate(0.9, 0.6), correlation: 0.3 },
        BatteryTest { sensitivity: estimate(0.7, 0.4), specificity: estimate(0.85, 0.3), correlation: 0.0 },
    ];
    for dependence in [
        BatteryDependence::Independent,
        BatteryDependence::Latent(LatentCorrelation { diseased: 0.4, non_diseased: 0.2 }),
    ] {
        let answer = battery(&tests, dependence).unwrap();
        let mut rng = ChaCha8Rng::seed_from_u64(20_261_130);
        let mut normal = || -> f64 { rng.sample(StandardNormal) };
        let mut draws: Vec<[f64; 4]> = Vec::new();
        for _ in 0..4_000 {
            let drawn: Vec<TestAccuracy> = tests
                .iter()
                .map(|test| {
                    let (z1, own) = (normal(), normal());
                    let z2 = test.correlation * z1 + (1.0 - test.correlation * test.correlation).sqrt() * own;
                    let at = |it: Estimate<Probability>, z: f64| {
                        let logit = |p: Probability| (p.get() / (1.0 - p.get())).ln();
                        let sd = (logit(it.upper) - logit(it.lower)) / (2.0 * 1.959_963_984_540_054);
                        p(1.0 / (1.0 + (-(logit(it.estimate) + sd * z)).exp()))
                    };
                    TestAccuracy { sensitivity: at(test.sensitivity, z1), specificity: at(test.specificity, z2) }
                })
                .collect();
            let tails = match dependence {
                BatteryDependence::Latent(correlation) => {
                    let counts = count_results_latent(&drawn, correlation).unwrap();
                    let se = counts[2].diseased.get() + counts[3].diseased.get();
                    [se, counts[0].non_diseased.get() + counts[1].non_diseased.get()]
                }
                _ => {
                    let rule = at_least(&drawn, 2).unwrap();
                    [rule.sensitivity.get(), rule.specificity.get()]
                }
            };
            draws.push([tails[0], tails[1], (tails[0] / (1.0 - tails[1])).ln(), ((1.0 - tails[0]) / tails[1]).ln()]);
        }
        let rule = answer.rules[1];
        let log = |it: Option<Estimate<Ratio>>| it.map(|it| [it.lower.get().ln(), it.upper.get().ln()]).unwrap();
        let ends = |it: Estimate<Probability>| [it.lower.get(), it.upper.get()];
        let answers = [ends(rule.sensitivity), ends(rule.specificity), log(rule.lr_positive), log(rule.lr_negative)];
        for (which, [lower, upper]) in answers.into_iter().enumerate() {
            let mut values: Vec<f64> = draws.iter().map(|draw| draw[which]).collect();
            values.sort_by(f64::total_cmp);
            let (low, high) = (values[100], values[3_899]);
            let width = high - low;
            assert!(
                (lower - low).abs() < 0.06 * width && (upper - high).abs() < 0.06 * width,
                "{which}: {lower} to {upper}, drawn {low} to {high}"
            );
        }
    }
}

#[test]
fn a_battery_of_one_test_is_that_test_and_more_know_it_all_together() {
    let test = BatteryTest { sensitivity: estimate(0.8, 0.5), specificity: estimate(0.7, 0.4), correlation: 0.2 };
    let alone = battery(&[test], BatteryDependence::Independent).unwrap();
    assert_close(alone.rules[0].sensitivity.lower.get(), test.sensitivity.lower.get(), 1e-12, "lower");
    assert_close(alone.rules[0].specificity.upper.get(), test.specificity.upper.get(), 1e-12, "upper");
    assert!(each_test_left_out(&[test], 1, BatteryDependence::Independent).unwrap().is_empty());
    let without = each_test_left_out(&[test; 3], 3, BatteryDependence::Independent).unwrap();
    assert!(without.iter().all(|it| it.rule.k == 2));

    // One small study without a false positive: the ratio has no upper bound, its lower one is what the study supports.
    let perfect = BatteryTest { specificity: Estimate::new(p(1.0), p(0.85), p(1.0)).unwrap(), ..test };
    let both = battery(&[perfect, test], BatteryDependence::Independent).unwrap();
    let all = both.rules[1].lr_positive.unwrap();
    assert!(all.upper.get().is_infinite() && all.lower.get() > 1.0 && all.lower.get() < 20.0, "{all:?}");
    assert!(both.rules[1].specificity.upper.get() == 1.0 && both.rules[1].specificity.lower.get() > 0.85);

    // Two tests by covariance: as the closed form, at the estimates.
    let pair = [test, perfect];
    let [a, b] = pair.map(|it| it.accuracy());
    let most = covariance_bounds(a, b).diseased[1];
    let answer = battery(&pair, BatteryDependence::Covariance { diseased: most, non_diseased: 0.0 }).unwrap();
    let closed = two_dependent_tests(a, b, most, 0.0).unwrap();
    assert_close(answer.rules[0].sensitivity.estimate.get(), closed.any.sensitivity.get(), 1e-12, "any");
    let refused = battery(&pair, BatteryDependence::Covariance { diseased: 0.9, non_diseased: 0.0 });
    assert!(matches!(refused, Err(CombineError::Covariance(_))));
    let three = battery(&[test; 3], BatteryDependence::Covariance { diseased: 0.0, non_diseased: 0.0 });
    assert_eq!(three, Err(CombineError::CovarianceOf(3)));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(120))]
    #[test]
    fn whatever_the_dependence_a_rule_stays_within_its_bounds(
        values in prop::collection::vec((0.0..=1.0f64, 0.0..=1.0f64, 0.0..3.0f64, -0.9..0.9f64), 1..=6),
        ends in prop::collection::vec(0usize..4, 6), r in 0.0..0.99f64, k in 1usize..=6,
    ) {
        let k = k.min(values.len());
        let tests: Vec<BatteryTest> = values.iter().zip(&ends).map(|((se, sp, half, correlation), end)| {
            let around = |value: f64, at_end: bool| {
                let value = if at_end { value.round() } else { value };
                Estimate::new(p(value), p((value - half / 6.0).max(0.0)), p((value + half / 6.0).min(1.0))).unwrap()
            };
            BatteryTest { sensitivity: around(*se, end & 1 == 1), specificity: around(*sp, end & 2 == 2), correlation: *correlation }
        }).collect();
        let singles: Vec<TestAccuracy> = tests.iter().map(BatteryTest::accuracy).collect();
        let bounds = rule_bounds(&singles, k).unwrap();
        for dependence in [BatteryDependence::Independent, BatteryDependence::Latent(LatentCorrelation { diseased: r, non_diseased: r / 2.0 })] {
            let answer = battery(&tests, dependence).unwrap();
            let rule = answer.rules[k - 1];
            for (it, [least, most]) in [(rule.sensitivity, bounds.sensitivity), (rule.specificity, bounds.specificity)] {
                prop_assert!(it.lower <= it.estimate && it.estimate <= it.upper);
                prop_assert!(it.estimate.get() >= least.get() - 1e-9 && it.estimate.get() <= most.get() + 1e-9, "{it:?} {least:?} {most:?}");
            }
            for ratio in answer.counts.iter().filter_map(|it| it.lr).chain(rule.lr_positive).chain(rule.lr_negative) {
                prop_assert!(ratio.lower <= ratio.estimate && ratio.estimate <= ratio.upper);
            }
            let total: f64 = answer.counts.iter().map(|it| it.non_diseased.get()).sum();
            prop_assert!((total - 1.0).abs() < 1e-9);
        }
        // What dependence can do, a claim may say: as it is written, with all digits.
        let ranges: Vec<SingleRange> = singles.iter().map(|it| SingleRange { sensitivity: [it.sensitivity.get(); 2], specificity: [it.specificity.get(); 2] }).collect();
        let latent = battery(&tests, BatteryDependence::Latent(LatentCorrelation { diseased: r, non_diseased: r })).unwrap();
        let claims: Vec<Claim> = latent.rules.iter().map(|rule| {
            let written = |it: Probability| Rounded::parse(&format!("{:.3}", it.get()), false);
            Claim { k: rule.k, sensitivity: written(rule.sensitivity.estimate), specificity: written(rule.specificity.estimate) }
        }).collect();
        let checked = check_claims(&ranges, &claims).unwrap();
        prop_assert!(checked.together_possible && checked.claims.iter().all(|it| it.possible), "{checked:?}");
    }
}
