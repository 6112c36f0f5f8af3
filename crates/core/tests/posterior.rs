//! The posterior of the summary point: against reference values, and laws that hold for any studies.

use crate::common::{counts_of, json};
use proptest::prelude::*;
use pruvex_core::Level;
use pruvex_core::accuracy::{Counts, RawCounts};
use pruvex_core::pooling::{
    Fineness, IntervalMethod, ModelChoice, PoolError, PoolOptions, Posterior, PriorScales, Quantiles, pool, posterior,
};

fn of(studies: &[Counts], fineness: Fineness) -> Posterior {
    posterior(studies, Level::default(), PriorScales::default(), fineness)
}

fn measures(of: &Posterior) -> [(&'static str, Option<Quantiles>); 4] {
    [
        ("logit_sens", of.logit_sens),
        ("logit_spec", of.logit_spec),
        ("log_lr_pos", of.log_lr_pos),
        ("log_lr_neg", of.log_lr_neg),
    ]
}

/// The largest differences from the reference: of medians and bounds as shares of the interval's width, and of the posterior means.
fn differences(item: &serde_json::Value, fineness: Fineness) -> (f64, f64) {
    let found = of(&counts_of(item), fineness);
    let (mut bounds, mut means): (f64, f64) = (0.0, 0.0);
    for (name, it) in measures(&found) {
        let wanted = |part: &str| item[name][part].as_f64().unwrap();
        let width = wanted("upper") - wanted("lower");
        let it = it.unwrap();
        for (part, value) in [("median", it.median), ("lower", it.lower), ("upper", it.upper)] {
            bounds = bounds.max((value - wanted(part)).abs() / width);
        }
    }
    let mean = &found.mean;
    for (name, value) in [("tau_sens", mean.tau_sens), ("tau_spec", mean.tau_spec), ("rho", mean.rho)] {
        means = means.max((value.unwrap() - item["mean"][name].as_f64().unwrap()).abs());
    }
    (bounds, means)
}

#[test]
fn the_standard_meets_the_reference_values() {
    for item in json("posterior.json").as_array().unwrap() {
        let (bounds, means) = differences(item, Fineness::STANDARD);
        // Half a hundredth of the width is promised.
        assert!(bounds < 0.004 && means < 0.005, "{}: {bounds:.1e} of the width, means {means:.1e}", item["id"]);
    }
}

#[test]
fn fine_integration_meets_their_digits() {
    for item in json("posterior.json").as_array().unwrap() {
        if ["k2_apart_zero", "k3_no_false_positive", "k4_one_armed"].contains(&item["id"].as_str().unwrap()) {
            let (bounds, means) = differences(item, Fineness::FINE);
            assert!(bounds < 2e-5 && means < 2e-5, "{}: {bounds:.1e} of the width, means {means:.1e}", item["id"]);
        }
    }
}

/// An arm: right and wrong.
type ArmCells = Option<(f64, f64)>;

/// Of any size.
fn an_arm() -> impl Strategy<Value = ArmCells> {
    let count = prop_oneof![3 => (0..60u64).boxed(), 1 => Just(0).boxed(), 1 => (0..10_000_000u64).boxed()];
    let arm = (count.clone(), count).prop_map(|(right, wrong)| Some((right as f64, wrong as f64)));
    prop_oneof![6 => arm, 1 => Just(None)]
}

fn study((first, second): (ArmCells, ArmCells)) -> Option<Counts> {
    let [(tp, fn_), (tn, fp)] = [first, second].map(|arm| arm.map_or((None, None), |(a, b)| (Some(a), Some(b))));
    Counts::check(RawCounts { tp, fp, fn_, tn }).ok()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    #[test]
    fn any_studies_have_a_posterior_that_keeps_its_laws(
        arms in prop::collection::vec((an_arm(), an_arm()), 2..6), scale in 0.1..5.0f64, level in 0.5..0.98f64,
    ) {
        let studies: Vec<Counts> = arms.iter().filter_map(|arms| study(*arms)).collect();
        let (level, prior) = (Level::new(level).unwrap(), PriorScales::with_spread(scale).unwrap());
        let found = posterior(&studies, level, prior, Fineness::STANDARD);
        let all = |of: &Posterior| [of.logit_sens, of.logit_spec, of.log_lr_pos, of.log_lr_neg, of.log_dor];
        for it in all(&found).into_iter().flatten() {
            prop_assert!(it.lower <= it.median && it.median <= it.upper, "{it:?} of {studies:?}");
            prop_assert!(it.lower.is_finite() && it.upper.is_finite(), "{it:?}");
        }
        let reported = |arm: fn(&Counts) -> bool| studies.iter().any(arm);
        prop_assert_eq!(found.logit_sens.is_some(), reported(|it| it.diseased().is_some()));
        prop_assert_eq!(found.log_lr_pos.is_some(), found.logit_sens.is_some() && found.logit_spec.is_some());
        let mean = found.mean;
        for spread in [mean.tau_sens, mean.tau_spec].into_iter().flatten() {
            prop_assert!(spread > 0.0 && spread < 6.0 * scale);
        }
        prop_assert!(mean.rho.is_none_or(|rho| rho.abs() < 1.0));
        // The order of the studies does not matter.
        let mut turned = studies.clone();
        turned.reverse();
        prop_assert_eq!(posterior(&turned, level, prior, Fineness::STANDARD), found);
        // The groups exchanged exchange sensitivity and specificity. (Three hundredths of the width: for absurd data the standard is coarser.)
        let exchanged: Vec<Counts> = arms.iter().filter_map(|(first, second)| study((*second, *first))).collect();
        let exchanged = posterior(&exchanged, level, prior, Fineness::STANDARD);
        let near = |a: Option<Quantiles>, b: Option<Quantiles>| match (a, b) {
            (Some(a), Some(b)) => (a.lower - b.lower).abs().max((a.upper - b.upper).abs()) < 3e-2 * (a.upper - a.lower),
            (a, b) => a.is_none() && b.is_none(),
        };
        prop_assert!(near(found.logit_sens, exchanged.logit_spec) && near(found.logit_spec, exchanged.logit_sens));
        prop_assert!(near(found.log_dor, exchanged.log_dor), "{:?} {:?}", found.log_dor, exchanged.log_dor);
        // A higher level is never narrower.
        let wider = posterior(&studies, Level::new(0.99).unwrap(), prior, Fineness::STANDARD);
        for (at, higher) in all(&found).into_iter().flatten().zip(all(&wider).into_iter().flatten()) {
            prop_assert!(higher.lower <= at.lower + 1e-9 && at.upper <= higher.upper + 1e-9);
        }
    }
}

#[test]
fn more_people_of_the_same_share_never_widen() {
    let width = |times: f64| {
        let study = Counts::full(18.0 * times, 4.0 * times, 6.0 * times, 26.0 * times).unwrap();
        let it = of(&[study; 3], Fineness::STANDARD);
        [it.logit_sens, it.logit_spec, it.log_lr_pos, it.log_lr_neg].map(|it| it.map(|it| it.upper - it.lower).unwrap())
    };
    for times in [1.0, 3.0, 10.0, 100.0, 1_000.0, 1e5] {
        for (fewer, more) in width(times).into_iter().zip(width(times * 3.0)) {
            assert!(more <= fewer * 1.005, "{times}: {fewer} {more}");
        }
    }
}

#[test]
fn a_prior_scale_that_makes_no_sense_is_refused_in_words() {
    for scale in [0.0, -1.0, 100.0, f64::NAN] {
        let fault = PriorScales::with_spread(scale).unwrap_err();
        assert_eq!(fault.field, "prior_scale");
        assert!(fault.remedy.contains("from 0.1 to 5"), "{fault}");
    }
    let two = counts_of(&json("posterior.json")[0]);
    let options = PoolOptions { interval: IntervalMethod::Posterior, ..PoolOptions::default() };
    let pooled = pool(&two, options).unwrap();
    let working = pooled.posterior.unwrap();
    let widths: Vec<f64> = std::iter::once(&working.other_scales[0].summary)
        .chain([&pooled.summary, &working.other_scales[1].summary])
        .map(|it| it.sensitivity.map(|it| it.upper.get() - it.lower.get()).unwrap())
        .collect();
    assert!(widths.is_sorted(), "what a wider prior makes of two studies: {widths:?}");
    assert_eq!(pool(&[two[0]; 300], options), Err(PoolError::TooManyForPosterior(300)));
    let fixed = PoolOptions { model: ModelChoice::Fixed, ..options };
    assert_eq!(pool(&two, fixed), Err(PoolError::NoPosterior));
}
