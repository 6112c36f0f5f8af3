//! Uncertain pre-test probabilities, thresholds of action, net benefit, and the size of a study.

#![allow(clippy::unwrap_used, reason = "a failed step is a failed test")]

use proptest::prelude::*;
use pruvex_core::accuracy::{ProportionMethod, proportion_interval};
use pruvex_core::likelihood::{
    Thresholds, Zone, net_benefit, people_for_accuracy, people_for_proportion, post_test, post_test_interval,
    post_test_uncertain, subjects_for_kappa, treatment_threshold,
};
use pruvex_core::{Estimate, Level, Probability, Ratio};

fn p(value: f64) -> Probability {
    Probability::new(value).unwrap()
}

fn r(value: f64) -> Ratio {
    Ratio::new(value).unwrap()
}

fn lr(estimate: f64, lower: f64, upper: f64) -> Estimate<Ratio> {
    Estimate { estimate: r(estimate), lower: r(lower), upper: r(upper) }
}

fn exactly(value: f64) -> Estimate<Probability> {
    Estimate { estimate: p(value), lower: p(value), upper: p(value) }
}

#[test]
fn a_certain_pre_test_probability_gives_the_plain_interval() {
    // Symmetric on the log scale, so that both ways must agree.
    let ratio = lr(4.0, 2.0, 8.0);
    let plain = post_test_interval(p(0.3), ratio).unwrap();
    let uncertain = post_test_uncertain(exactly(0.3), ratio, Level::default()).unwrap();
    assert!((plain.lower.get() - uncertain.lower.get()).abs() < 1e-12);
    assert!((plain.upper.get() - uncertain.upper.get()).abs() < 1e-12);
}

#[test]
fn uncertainty_adds_on_the_logit_scale() {
    let pre = Estimate { estimate: p(0.3), lower: p(0.2), upper: p(0.42) };
    let post = post_test_uncertain(pre, lr(4.0, 2.0, 8.0), Level::default()).unwrap();
    let logit = |p: Probability| (p.get() / (1.0 - p.get())).ln();
    let half = (logit(post.upper) - logit(post.lower)) / 2.0;
    let (a, b) = ((logit(pre.upper) - logit(pre.lower)) / 2.0, 4.0_f64.ln() / 2.0);
    assert!((half - a.hypot(b)).abs() < 1e-12);
    let open = post_test_uncertain(pre, lr(f64::INFINITY, 3.0, f64::INFINITY), Level::default()).unwrap();
    assert_eq!((open.lower, open.upper.get()), (post_test(p(0.2), r(3.0)).unwrap(), 1.0));
}

#[test]
fn thresholds_come_from_harm_and_benefit() {
    assert!((treatment_threshold(9.0, 1.0).unwrap().get() - 0.1).abs() < 1e-15);
    for (benefit, harm) in [(0.0, 1.0), (1.0, 0.0), (-1.0, 1.0), (f64::NAN, 1.0), (f64::INFINITY, 1.0)] {
        assert_eq!(treatment_threshold(benefit, harm), None);
    }
    assert!(Thresholds::new(p(0.7), p(0.1)).unwrap_err().to_string().contains("must not exceed"));
    let wire = r#"{"reassure_below": 0.7, "treat_above": 0.1}"#;
    assert!(serde_json::from_str::<Thresholds>(wire).is_err(), "also when deserialised");
}

#[test]
fn a_result_crosses_or_its_interval_does_not() {
    let thresholds = Thresholds::new(p(0.08), p(0.7)).unwrap();
    let after = |estimate, lower, upper| Estimate { estimate: p(estimate), lower: p(lower), upper: p(upper) };
    let firm = thresholds.crossing(p(0.35), after(0.82, 0.74, 0.88));
    assert_eq!((firm.from, firm.to, firm.crosses, firm.whole_interval), (Zone::Between, Zone::Treat, true, true));
    let loose = thresholds.crossing(p(0.35), after(0.74, 0.63, 0.82));
    assert!(loose.crosses && !loose.whole_interval);
    assert!(!thresholds.crossing(p(0.35), after(0.6, 0.5, 0.7)).crosses);
    assert_eq!(thresholds.zone(p(0.08)), Zone::Between, "at a threshold nothing is decided");
}

#[test]
fn the_useful_range_ends_where_a_result_just_reaches_a_threshold() {
    let thresholds = Thresholds::new(p(0.08), p(0.7)).unwrap();
    let [low, high] = thresholds.useful_range(r(5.0), r(0.2)).unwrap();
    assert!((post_test(low, r(5.0)).unwrap().get() - 0.08).abs() < 1e-12);
    assert!((post_test(high, r(0.2)).unwrap().get() - 0.7).abs() < 1e-12);
    assert_eq!(thresholds.useful_range(r(0.5), r(2.0)), None, "a test that turns things around");
    let perfect = thresholds.useful_range(r(f64::INFINITY), r(0.0)).unwrap();
    assert_eq!(perfect.map(Probability::get), [0.0, 1.0]);
}

#[test]
fn net_benefit_of_a_perfect_test_is_the_prevalence() {
    let [by_test, treat_all] = net_benefit(p(0.3), p(1.0), p(1.0), p(0.2)).unwrap();
    assert!((by_test - 0.3).abs() < 1e-15 && (treat_all - (0.3 - 0.7 * 0.25)).abs() < 1e-15);
    assert_eq!(net_benefit(p(0.3), p(0.8), p(0.8), p(1.0)), None);
    // At a threshold equal to the prevalence treating everybody is worth nothing.
    assert!(net_benefit(p(0.3), p(0.8), p(0.8), p(0.3)).unwrap()[1].abs() < 1e-15);
}

#[test]
fn a_study_is_as_large_as_its_interval_is_narrow() {
    let n = people_for_proportion(p(0.8), 0.1, Level::default()).unwrap();
    let width = |n: u64| {
        let ci = proportion_interval((0.8 * n as f64).round() as u64, n, Level::default(), ProportionMethod::Wilson)
            .unwrap();
        ci.upper.get() - ci.lower.get()
    };
    assert!(width(n) <= 0.1 && width(n - 10) > 0.1, "{n}");
    assert!((230..=260).contains(&n), "the normal formula says 246: {n}");
    let both = people_for_accuracy(p(0.8), p(0.8), 0.1, p(0.25), Level::default()).unwrap();
    assert_eq!(both, 4 * n);
    assert_eq!(people_for_proportion(p(0.8), 0.0, Level::default()), None);
    assert_eq!(people_for_proportion(p(0.5), 1e-6, Level::default()), None);
    assert_eq!(people_for_accuracy(p(0.8), p(0.8), 0.1, p(0.0), Level::default()), None);
    // Independent ratings (kappa 0) have variance 1/n whatever the prevalence.
    assert_eq!(subjects_for_kappa(0.0, p(0.3), 0.4, Level::default()), Some(97));
    assert!(
        subjects_for_kappa(0.6, p(0.1), 0.3, Level::default()) > subjects_for_kappa(0.6, p(0.5), 0.3, Level::default())
    );
    assert_eq!(subjects_for_kappa(1.0, p(0.3), 0.4, Level::default()), None);
}

proptest! {
    #[test]
    fn intervals_are_ordered_whatever_is_uncertain(
        pre in [0.0..=1.0f64, 0.0..=1.0f64, 0.0..=1.0f64], ratios in [0.0..1e6f64, 0.0..1e6f64, 0.0..1e6f64],
    ) {
        let sorted = |mut values: [f64; 3]| { values.sort_by(f64::total_cmp); values };
        let ([a, b, c], [x, y, z]) = (sorted(pre), sorted(ratios));
        let pre = Estimate { estimate: p(b), lower: p(a), upper: p(c) };
        if let Some(post) = post_test_uncertain(pre, lr(y, x, z), Level::default()) {
            prop_assert!(post.lower <= post.estimate && post.estimate <= post.upper, "{post:?}");
        }
    }
}
