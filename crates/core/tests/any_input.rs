//! Whatever is asked, the answer is a number in its range or a reason: never a panic, never a NaN.

use proptest::prelude::*;
use pruvex_core::accuracy::{Counts, Fact, Figure, Rounded, Total, rebuild};
use pruvex_core::agreement::{
    Measurements, Precision, RatingCounts, Reported, ReportedKind, bland_altman, pool_reported, repeatability,
    several_rater_agreement, tabulate,
};
use pruvex_core::catalogue::{Purpose, Region};
use pruvex_core::likelihood::{
    Finding, FoundResult, Thresholds, chain, net_benefit, people_for_accuracy, people_for_proportion,
    subjects_for_kappa, treatment_threshold,
};
use pruvex_core::pooling::{
    Correction, PoolOptions, TauMethod, deeks_regression, heterogeneity, pool, roc_space, small_study_effects,
    threshold_correlation,
};
use pruvex_core::{Estimate, Level, Probability, Ratio};

/// Numbers as they come from people and files: sensible, extreme, and none at all.
fn any_number() -> impl Strategy<Value = f64> {
    prop_oneof![3 => -2.0..2.0f64, 1 => any::<f64>(), 1 => prop_oneof![Just(0.0), Just(1.0), Just(f64::NAN), Just(f64::INFINITY)]]
}

fn share() -> impl Strategy<Value = Probability> {
    prop_oneof![4 => 0.0..=1.0f64, 1 => Just(0.0), 1 => Just(1.0), 1 => 0.0..1e-12f64]
        .prop_map(|p| Probability::new(p).unwrap())
}

fn studies() -> impl Strategy<Value = Vec<Counts>> {
    let cell = || prop_oneof![3 => 0..40u32, 1 => Just(0u32), 1 => 0..100_000u32].prop_map(f64::from);
    prop::collection::vec((cell(), cell(), cell(), cell()), 1..16)
        .prop_map(|rows| rows.into_iter().map(|(a, b, c, d)| Counts::full(a, b, c, d + 1.0).unwrap()).collect())
}

/// Serialised, a NaN would be a `null` where the type promises a number.
fn sound<T: serde::Serialize + std::fmt::Debug>(value: &T) -> Result<(), TestCaseError> {
    prop_assert!(!format!("{value:?}").contains("NaN"), "{value:?}");
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn texts_are_read_or_refused(text in "\\PC{0,12}", percent in any::<bool>(), digits in "-?[0-9]{0,4}[.,]?[0-9]{0,4}%?") {
        let _ = (Rounded::parse(&text, percent), Region::from_code(&text), Purpose::from_code(&text));
        if let Some(value) = Rounded::parse(&digits, percent) {
            let facts = [Fact::Total { total: Total::N, value: 40 }, Fact::Figure { figure: Figure::Sensitivity, value }];
            let _ = rebuild(&facts, 60);
        }
    }

    #[test]
    fn ratings_and_measurements(
        counts in prop::collection::vec(prop::collection::vec(0..5u32, 3), 0..6),
        words in prop::collection::vec(prop::collection::vec("[ab1 ]{0,2}", 0..4), 0..6),
        values in prop::collection::vec(prop::collection::vec(any_number(), 2), 0..6),
    ) {
        if let Ok(counts) = RatingCounts::new(counts) {
            sound(&several_rater_agreement(&counts, Level::default()))?;
        }
        if let Ok((names, _)) = tabulate(&words) {
            prop_assert!(names.len() >= 2);
        }
        if let Ok(measurements) = Measurements::new(values) {
            sound(&repeatability(&measurements, Level::default()))?;
            sound(&bland_altman(&measurements, Level::default()))?;
        }
    }

    #[test]
    fn reports_of_reliability(
        reports in prop::collection::vec((any::<bool>(), any_number(), any_number(), any_number(), any::<bool>()), 0..6),
        level in 0.5..0.999f64,
    ) {
        let level = Level::new(level).unwrap();
        let read = |(icc, value, a, b, by_error): (bool, f64, f64, f64, bool)| {
            let kind = if icc { ReportedKind::Icc } else { ReportedKind::Kappa };
            let interval = Precision::Interval { lower: a, upper: b, level };
            Reported::new(kind, value, if by_error { Precision::StandardError(a) } else { interval }).ok()
        };
        let reports: Vec<Reported> = reports.into_iter().filter_map(read).collect();
        for report in &reports {
            let estimate = report.estimate(level);
            prop_assert!(estimate.lower <= estimate.estimate && estimate.estimate <= estimate.upper, "{estimate:?}");
        }
        for method in [TauMethod::Fixed, TauMethod::DerSimonianLaird, TauMethod::Reml, TauMethod::PauleMandel] {
            if let Ok(pooled) = pool_reported(&reports, method, level) {
                sound(&pooled)?;
            }
        }
    }

    #[test]
    fn what_stands_beside_a_pool(studies in studies()) {
        let pooled = pool(&studies, PoolOptions::classical()).unwrap();
        sound(&heterogeneity(&studies, &pooled))?;
        sound(&threshold_correlation(&studies, Correction::default()))?;
        for correction in [Correction::ZeroStudies, Correction::AllStudies] {
            sound(&deeks_regression(&studies, correction))?;
        }
        if let Ok(test) = small_study_effects(&studies, Correction::default()) {
            prop_assert!(test.k >= 10 && test.p.is_none_or(|p| (0.0..=1.0).contains(&p)));
        }
        if let Some(space) = roc_space(&pooled, &studies) {
            sound(&space)?;
            let lowest = studies.iter().filter_map(Counts::non_diseased).map(|arm| arm.correct as f64 / arm.n as f64).fold(1.0, f64::min);
            prop_assert!(space.curve.iter().all(|point| point.specificity.get() >= lowest - 1e-12));
        }
    }

    #[test]
    fn decisions_and_sizes(
        (pre, se, sp, a, b) in (share(), share(), share(), share(), share()),
        (benefit, harm, width, kappa) in (any_number(), any_number(), any_number(), any_number()),
        (plus, minus) in (0.0..50.0f64, 0.0..2.0f64),
    ) {
        if let Some(p) = treatment_threshold(benefit, harm) {
            prop_assert!((0.0..=1.0).contains(&p.get()) && benefit > 0.0 && harm > 0.0);
        }
        let (low, high) = if a <= b { (a, b) } else { (b, a) };
        let thresholds = Thresholds::new(low, high).unwrap();
        prop_assert!(low == high || Thresholds::new(high, low).is_err());
        let _ = thresholds.zone(pre);
        let useful = thresholds.useful_ranges(Ratio::new(plus).unwrap(), Ratio::new(minus).unwrap());
        prop_assert!(useful.len() <= 2 && useful.iter().all(|[from, to]| from < to), "{useful:?}");
        if let Some(benefits) = net_benefit(pre, se, sp, a) {
            // Treating by a test is worth at most what finding everybody would be.
            prop_assert!(benefits[0] <= pre.get() + 1e-12, "{benefits:?}");
            sound(&benefits)?;
        }
        if let Some(n) = people_for_proportion(se, width, Level::default()) {
            prop_assert!(n >= 1 && width > 0.0 && width < 1.0);
            let both = people_for_accuracy(se, sp, width, Probability::new(0.5).unwrap(), pre, Level::default());
            prop_assert!(both.is_none_or(|both| both.examined >= n.max(both.without_condition)));
        }
        let _ = subjects_for_kappa(kappa, pre, width, Level::default());
    }

    #[test]
    fn chains_of_results(
        tables in studies(), positives in prop::collection::vec(any::<bool>(), 0..6),
        (pre, low, high) in (share(), share(), share()), correlation in any_number(),
    ) {
        let sorted = { let mut of = [pre.get(), low.get(), high.get()]; of.sort_by(f64::total_cmp); of.map(|p| Probability::new(p).unwrap()) };
        let from = Estimate { estimate: sorted[1], lower: sorted[0], upper: sorted[2] };
        let findings: Vec<Finding> = tables
            .iter()
            .zip(&positives)
            .filter_map(|(counts, positive)| {
                let summary = pool(&[*counts], PoolOptions::classical()).ok()?.summary;
                let result = if *positive { FoundResult::Positive } else { FoundResult::Negative };
                Some(Finding { summary, result })
            })
            .collect();
        match chain(from, &findings, correlation, Level::default()) {
            Ok(found) => {
                sound(&found)?;
                prop_assert_eq!(found.steps.len(), findings.len());
                let Estimate { estimate, lower, upper } = found.end;
                prop_assert!(lower <= estimate && estimate <= upper, "{found:?}");
            }
            Err(_) => prop_assert!(findings.len() > 1 && !(0.0..=0.99).contains(&correlation)),
        }
    }
}
