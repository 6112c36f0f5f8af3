//! Uncertain pre-test probabilities, thresholds of action, net benefit, and the size of a study.

use proptest::prelude::*;
use pruvex_core::accuracy::{Counts, ProportionMethod, proportion_interval};
use pruvex_core::likelihood::{
    Finding, FoundResult, Thresholds, Zone, chain, net_benefit, net_benefit_curve, people_for_accuracy,
    people_for_proportion, post_test, post_test_interval, post_test_uncertain, subjects_for_kappa, supported_accuracy,
    treatment_threshold,
};
use pruvex_core::pooling::{PoolOptions, Pooled, Summary, pool};
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
fn the_useful_ranges_end_where_a_result_just_reaches_a_threshold() {
    let thresholds = Thresholds::new(p(0.08), p(0.7)).unwrap();
    let whole = thresholds.useful_ranges(r(20.0), r(0.02));
    let [[low, high]] = whole[..] else { panic!("a strong test has one range: {whole:?}") };
    assert!((post_test(low, r(20.0)).unwrap().get() - 0.08).abs() < 1e-12);
    assert!((post_test(high, r(0.02)).unwrap().get() - 0.7).abs() < 1e-12);
    // At 30 % neither result of a weak test leads anywhere.
    let weak = thresholds.useful_ranges(r(2.0), r(0.5));
    assert_eq!(weak.len(), 2);
    assert!(weak[0][1] < p(0.3) && p(0.3) < weak[1][0]);
    assert_eq!(thresholds.useful_ranges(r(0.5), r(2.0)), weak, "a test that turns things around is read the other way");
    assert!(thresholds.useful_ranges(r(1.0), r(1.0)).is_empty(), "a test that tells nothing");
    let perfect = thresholds.useful_ranges(r(f64::INFINITY), r(0.0));
    assert_eq!(perfect, [[p(0.0), p(1.0)]]);
    let never = Thresholds::new(p(0.0), p(1.0)).unwrap();
    assert!(never.useful_ranges(r(f64::INFINITY), r(0.0)).is_empty(), "nothing is beyond certainty");
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
    // The smallest from which every larger one fits, too: each size is tried.
    for (expected, wanted) in [(0.8, 0.15), (0.85, 0.1), (0.5, 0.2), (0.97, 0.05), (1.0, 0.1), (0.0, 0.3), (0.8, 0.1)] {
        let n = people_for_proportion(p(expected), wanted, Level::default()).unwrap();
        let width = |n: u64| {
            let x = (expected * n as f64).round() as u64;
            let ci = proportion_interval(x, n, Level::default(), ProportionMethod::Wilson).unwrap();
            ci.upper.get() - ci.lower.get()
        };
        assert!(width(n - 1) > wanted, "{expected} {wanted}: {n}");
        assert!((n..n + 5_000).all(|n| width(n) <= wanted), "{expected} {wanted}: {n}");
    }
    assert!(width(n) <= 0.1 && width(n - 10) > 0.1, "{n}");
    assert!((230..=260).contains(&n), "the normal formula says 246: {n}");
    let both = |prevalence, unusable| people_for_accuracy(p(0.8), p(0.8), 0.1, prevalence, unusable, Level::default());
    let size = both(p(0.25), p(0.0)).unwrap();
    assert_eq!((size.with_condition, size.without_condition, size.examined), (n, n, 4 * n));
    assert_eq!(both(p(0.25), p(0.2)).unwrap().examined, 5 * n, "one in five is lost");
    assert_eq!(people_for_proportion(p(0.8), 0.0, Level::default()), None);
    assert_eq!(people_for_proportion(p(0.5), 1e-6, Level::default()), None);
    assert_eq!((both(p(0.0), p(0.0)), both(p(0.25), p(1.0))), (None, None));
    // Independent ratings (kappa 0) have variance 1/n whatever the prevalence.
    assert_eq!(subjects_for_kappa(0.0, p(0.3), 0.4, Level::default()), Some(97));
    assert!(
        subjects_for_kappa(0.6, p(0.1), 0.3, Level::default()) > subjects_for_kappa(0.6, p(0.5), 0.3, Level::default())
    );
    assert_eq!(subjects_for_kappa(1.0, p(0.3), 0.4, Level::default()), None);
}

/// A test by its two shares, each with an interval.
fn accuracy(se: [f64; 3], sp: [f64; 3]) -> Summary {
    let share =
        |[lower, estimate, upper]: [f64; 3]| Estimate { estimate: p(estimate), lower: p(lower), upper: p(upper) };
    let ratio = |with: f64, without: f64| if without > 0.0 { with / without } else { f64::INFINITY };
    Summary {
        sensitivity: Some(share(se)),
        specificity: Some(share(sp)),
        lr_positive: Some(lr(ratio(se[1], 1.0 - sp[1]), ratio(se[0], 1.0 - sp[0]), ratio(se[2], 1.0 - sp[2]))),
        lr_negative: Some(lr(ratio(1.0 - se[1], sp[1]), ratio(1.0 - se[2], sp[2]), ratio(1.0 - se[0], sp[0]))),
        dor: None,
    }
}

#[test]
fn a_chain_multiplies_ratios_and_says_what_dependence_would_make_of_it() {
    let first = accuracy([0.7, 0.8, 0.87], [0.8, 0.9, 0.95]);
    let second = accuracy([0.5, 0.6, 0.7], [0.7, 0.8, 0.9]);
    let findings = [
        Finding { summary: first, result: FoundResult::Positive },
        Finding { summary: second, result: FoundResult::Negative },
    ];
    let of = |correlation| chain(exactly(0.3), &findings, correlation, Level::default()).unwrap();
    let found = of(0.0);
    // 8 and 0.5.
    let odds = 0.3 / 0.7 * 8.0 * 0.5;
    assert!((found.end.estimate.get() - odds / (1.0 + odds)).abs() < 1e-12);
    assert_eq!(found.steps[0].after, post_test_interval(p(0.3), found.steps[0].lr.unwrap()), "as the sheet says it");
    let none = found.dependence.unwrap();
    assert!((none.dependent.unwrap().get() - none.independent.get()).abs() < 1e-9, "uncorrelated is independent");
    assert_eq!(none.crowd.with_condition, 300);
    assert_eq!((none.crowd.true_positive, none.crowd.false_positive), (96, 56), "0.8 * 0.4 of 300, 0.1 * 0.8 of 700");
    // Two positives that know of each other tell less than two that do not.
    let both = findings.map(|it| Finding { result: FoundResult::Positive, ..it });
    let at = |correlation| chain(exactly(0.3), &both, correlation, Level::default()).unwrap().dependence.unwrap();
    assert!(
        at(0.6).dependent.unwrap() < at(0.3).dependent.unwrap() && at(0.3).dependent.unwrap() < at(0.6).independent
    );

    assert!(chain(exactly(0.3), &findings, 1.0, Level::default()).is_err());
    assert!(chain(exactly(0.3), &[findings[0]; 13], 0.0, Level::default()).is_err());
    let unknown = Finding { summary: Summary::default(), result: FoundResult::Positive };
    let skipped = chain(exactly(0.3), &[unknown, findings[0]], 0.0, Level::default()).unwrap();
    assert_eq!((skipped.steps[0].after, skipped.dependence), (None, None), "not estimable moves nothing");
    assert_eq!(chain(exactly(0.3), &[], 0.5, Level::default()).unwrap().end, exactly(0.3));
}

#[test]
fn an_empty_cell_is_no_certainty() {
    // 0 of 22 false positives.
    let perfect = Finding { summary: accuracy([0.3, 0.4, 0.5], [0.85, 1.0, 1.0]), result: FoundResult::Positive };
    let weak = Finding { summary: accuracy([0.5, 0.6, 0.7], [0.5, 0.6, 0.7]), result: FoundResult::Negative };
    let found = chain(exactly(0.35), &[perfect, weak], 0.5, Level::default()).unwrap();
    assert_eq!(found.steps[0].after.unwrap().estimate.get(), 1.0);
    let bound = found.steps[0].after.unwrap().lower;
    assert!(found.end.estimate < bound, "a negative result after it still counts: {:?}", found.end);
    let thresholds = Thresholds::new(p(0.08), p(0.9)).unwrap();
    assert!(!thresholds.crossing(p(0.35), found.steps[0].after.unwrap()).crosses, "the data do not lead there");
    assert_eq!(supported_accuracy(&perfect.summary).unwrap().specificity, p(0.85));
    let curve = net_benefit_curve(p(0.35), p(0.4), p(0.85), None, Level::default());
    assert_eq!((curve.len(), curve[19].threshold), (99, p(0.2)));
    assert!((curve[19].by_test - (0.4 * 0.35 - 0.15 * 0.65 * 0.25)).abs() < 1e-12);
}

#[test]
fn net_benefit_is_as_uncertain_as_sensitivity_and_specificity_are_together() {
    let tables = [[40.0, 12.0, 14.0, 70.0], [33.0, 9.0, 21.0, 52.0], [51.0, 25.0, 9.0, 61.0], [22.0, 6.0, 12.0, 48.0]];
    let studies = tables.map(|[tp, fp, fn_, tn]| Counts::full(tp, fp, fn_, tn).unwrap());
    let pooled = pool(&studies, PoolOptions::default()).unwrap();
    let [se, sp] = [pooled.summary.sensitivity.unwrap(), pooled.summary.specificity.unwrap()];
    let curve = |pooled: &Pooled, level: f64| {
        let joint = pooled.joint_shape().unwrap();
        net_benefit_curve(p(0.3), se.estimate, sp.estimate, Some(&joint), Level::new(level).unwrap())
    };
    let (wide, narrow) = (curve(&pooled, 0.95), curve(&pooled, 0.5));
    for (wide, narrow) in wide.iter().zip(&narrow) {
        let [[low, high], [inner_low, inner_high]] = [wide.interval.unwrap(), narrow.interval.unwrap()];
        assert!(low < inner_low && inner_low <= wide.by_test && wide.by_test <= inner_high && inner_high < high);
        // Never beyond what both bounds together would make of it, and next to a threshold of 0 the sensitivity's own bounds.
        let at = |se, sp| net_benefit(p(0.3), se, sp, wide.threshold).unwrap()[0];
        let slack = 0.02 * (high - low);
        assert!(at(se.lower, sp.lower) < low + slack && high - slack < at(se.upper, sp.upper), "{wide:?}");
    }
    let [low, high] = wide[0].interval.unwrap();
    let own = (se.upper.get() - se.lower.get()) * 0.3;
    assert!(((high - low) / own - 1.0).abs() < 0.05, "{low} {high} {own}");
    // Of a fit the logits are normal: at a threshold where both count alike, against a plain sum.
    let classical = pool(&studies, PoolOptions::classical()).unwrap();
    let [low, high] = curve(&classical, 0.95)[49].interval.unwrap();
    let (mu, cov) =
        ([classical.mu.sens.unwrap(), classical.mu.spec.unwrap()], classical.cov_mu.unwrap().both().unwrap());
    let (sd, r) = ([cov[0][0].sqrt(), cov[1][1].sqrt()], cov[0][1] / (cov[0][0] * cov[1][1]).sqrt());
    let expit = |x: f64| 1.0 / (1.0 + (-x).exp());
    let (mut all, mut below, mut above) = (0.0, 0.0, 0.0);
    for i in -60..=60 {
        for j in -60..=60 {
            let [u, v] = [i, j].map(|it| 0.07 * f64::from(it));
            let weight = (-0.5 * (u * u + v * v)).exp();
            let [se, sp] = [mu[0] + sd[0] * u, mu[1] + sd[1] * (r * u + (1.0 - r * r).max(0.0).sqrt() * v)].map(expit);
            let benefit = net_benefit(p(0.3), p(se), p(sp), p(0.5)).unwrap()[0];
            all += weight;
            below += if benefit < low { weight } else { 0.0 };
            above += if benefit > high { weight } else { 0.0 };
        }
    }
    assert!(
        (below / all - 0.025).abs() < 0.004 && (above / all - 0.025).abs() < 0.004,
        "{} {}",
        below / all,
        above / all
    );
}

proptest! {
    #[test]
    fn inside_the_useful_ranges_a_result_changes_what_is_done_and_outside_none_does(
        (a, b, pre) in (0.01..0.99f64, 0.01..0.99f64, 0.001..0.999f64), (plus, minus) in (0.02..40.0f64, 0.02..40.0f64),
    ) {
        let thresholds = Thresholds::new(p(a.min(b)), p(a.max(b))).unwrap();
        let ranges = thresholds.useful_ranges(r(plus), r(minus));
        // Just at an end rounding decides.
        prop_assume!([a, b].into_iter().chain(ranges.iter().flatten().map(|it| it.get())).all(|end| (end - pre).abs() > 1e-9));
        let zone = |ratio| thresholds.zone(post_test(p(pre), r(ratio)).unwrap());
        let here = thresholds.zone(p(pre));
        let changes = zone(plus) != here || zone(minus) != here;
        let inside = ranges.iter().any(|[from, to]| from.get() < pre && pre < to.get());
        prop_assert_eq!(inside, changes, "{:?} at {}", ranges, pre);
    }

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
