//! Pooling against the reference fits, the ladder's rungs, and laws over random data.

use crate::common::{assert_close, counts_of, json};
use proptest::prelude::*;
use pruvex_core::accuracy::{Counts, RawCounts};
use pruvex_core::pooling::{
    Boundary, Effect, IntervalChoice, IntervalMethod, Model, ModelChoice, PoolError, PoolOptions, Pooled, Provenance,
    RatioWorking, Reason, ShareWorking, TauMethod, Warning, Workings, leave_one_out, methods_paragraph, pool,
    pool_effects, prediction, read, weights,
};

const MODELS: [ModelChoice; 6] = [
    ModelChoice::Auto,
    ModelChoice::Bivariate,
    ModelChoice::Independent,
    ModelChoice::Fixed,
    ModelChoice::NormalReml,
    ModelChoice::NormalMl,
];

const INTERVALS: [IntervalChoice; 5] = [
    IntervalChoice::Auto,
    IntervalChoice::Posterior,
    IntervalChoice::Profile,
    IntervalChoice::Wald,
    IntervalChoice::Sandwich,
];

fn full(tables: &[[u32; 4]]) -> Vec<Counts> {
    tables.iter().map(|t| t.map(f64::from)).map(|[a, b, c, d]| Counts::full(a, b, c, d).unwrap()).collect()
}

fn pooled(tables: &[[u32; 4]]) -> Pooled {
    pool(&full(tables), PoolOptions::classical()).unwrap()
}

#[test]
fn bivariate_fits_equal_the_reference() {
    let data = json("bivariate.json");
    let items = data.as_array().unwrap();
    assert_eq!(items.len(), 17);
    for item in items {
        let id = item["id"].as_str().unwrap();
        let result = pool(&counts_of(item), PoolOptions::classical()).unwrap();
        assert!(result.converged, "{id}: {:?}", result.stop);
        if item["k"].as_u64().unwrap() < 4 {
            assert_eq!(result.model, Model::Independent, "{id}");
            continue;
        }
        let expected = &item["glmm_ml"];
        let value = |name: &str| expected[name].as_f64();
        assert_eq!(result.model, Model::Bivariate, "{id}");
        let boundary = match expected["boundary"].as_str().unwrap() {
            "interior" => Boundary::None,
            "rho=-1" => Boundary::RhoMinusOne,
            "both_variances_zero" => Boundary::BothVariancesZero,
            "tau2_sens_zero" => Boundary::Tau2SensZero,
            other => panic!("{other}"),
        };
        assert_eq!(result.boundary, boundary, "{id}");
        let close = |name: &str, got: f64, expected: f64, tolerance| {
            assert_close(got, expected, tolerance, &format!("{id} {name}"));
        };
        let loglik = value("loglik_full").unwrap();
        assert!((result.log_likelihood.unwrap() - loglik).abs() < 1e-6, "{id}: {:?} {loglik}", result.log_likelihood);
        let pairs = [
            ("mu_sens", result.mu.sens),
            ("mu_spec", result.mu.spec),
            ("tau2_sens", result.tau2.sens),
            ("tau2_spec", result.tau2.spec),
        ];
        for (name, got) in pairs {
            close(name, got.unwrap(), value(name).unwrap(), 1e-4);
        }
        match value("rho") {
            Some(rho) => assert!((result.rho.unwrap() - rho).abs() < 1e-4, "{id}: {:?} {rho}", result.rho),
            None => assert_eq!(result.rho, None, "{id}"),
        }
        let cov = result.cov_mu.unwrap().both().unwrap();
        for (i, j) in [(0, 0), (1, 1)] {
            close("cov_mu", cov[i][j], expected["cov_mu"][i][j].as_f64().unwrap(), 1e-4);
        }
        let scale = (cov[0][0] * cov[1][1]).sqrt();
        assert!((cov[0][1] - expected["cov_mu"][0][1].as_f64().unwrap()).abs() < 1e-4 * scale, "{id} covariance");
        check_derived(id, &result, &expected["derived"]);
    }
}

fn check_derived(id: &str, result: &Pooled, derived: &serde_json::Value) {
    let s = &result.summary;
    let ratio = |e: Option<pruvex_core::Estimate<pruvex_core::Ratio>>| {
        e.map(|e| [e.estimate.get(), e.lower.get(), e.upper.get()]).unwrap()
    };
    let share = |e: Option<pruvex_core::Estimate<pruvex_core::Probability>>| {
        e.map(|e| [e.estimate.get(), e.lower.get(), e.upper.get()]).unwrap()
    };
    let all = [
        ("sens", share(s.sensitivity)),
        ("spec", share(s.specificity)),
        ("lr_pos", ratio(s.lr_positive)),
        ("lr_neg", ratio(s.lr_negative)),
        ("dor", ratio(s.dor)),
    ];
    for (name, got) in all {
        let (point, bounds) = match derived[name].as_f64() {
            Some(point) => (point, &derived[format!("{name}_ci")]),
            None => (derived[name]["est"].as_f64().unwrap(), &derived[name]["ci"]),
        };
        let expected = [point, bounds[0].as_f64().unwrap(), bounds[1].as_f64().unwrap()];
        for (got, expected) in got.into_iter().zip(expected) {
            assert_close(got, expected, 1e-4, &format!("{id} {name}"));
        }
    }
}

#[test]
fn one_study_is_its_own_answer() {
    let result = pooled(&[[20, 0, 5, 24]]);
    assert_eq!((result.model, result.reason, result.k), (Model::SingleStudy, Reason::SingleStudy, 1));
    assert!(result.summary.lr_positive.unwrap().estimate.get().is_infinite());
    assert!(result.warnings.iter().any(|w| matches!(w, Warning::PerfectArm { n: 24, .. })));
}

#[test]
fn two_and_three_studies_are_pooled_arm_by_arm_with_a_warning() {
    let result = pooled(&[[20, 4, 5, 24], [31, 9, 12, 40], [14, 2, 9, 30]]);
    assert_eq!((result.model, result.reason), (Model::Independent, Reason::FewStudies));
    assert!(result.rho.is_none() && result.cov_mu.unwrap().both().unwrap()[0][1] == 0.0);
    assert!(result.warnings.contains(&Warning::FewStudies { both_arms: 3 }));
}

#[test]
fn an_arm_without_an_error_gets_a_one_sided_exact_interval() {
    let result = pooled(&[[20, 0, 5, 24], [31, 0, 12, 40], [14, 0, 9, 30], [9, 0, 3, 12]]);
    assert_eq!((result.model, result.reason), (Model::Independent, Reason::NoFiniteMaximum));
    let spec = result.summary.specificity.unwrap();
    // One-sided exact bound for 0 of 106: 1 - 0.05^(1/106).
    assert_close(spec.lower.get(), 0.05f64.powf(1.0 / 106.0), 1e-10, "exact bound");
    assert_eq!(spec.upper.get(), 1.0);
    let lr = result.summary.lr_positive.unwrap();
    assert!(lr.estimate.get().is_infinite() && lr.lower.get() > 10.0 && lr.lower.get().is_finite());
    assert!(result.warnings.contains(&Warning::CombinedEnds));
    let Workings { sensitivity, specificity, ratios } = result.workings;
    assert_eq!((sensitivity, specificity), (ShareWorking::Model, ShareWorking::PooledExact));
    assert_eq!(ratios, RatioWorking::CombinedEnds);
    let both = pooled(&[[20, 0, 0, 24], [31, 0, 0, 40]]);
    assert_eq!((both.model, both.reason), (Model::Fixed, Reason::NoFiniteMaximum));
}

/// Groups without an error, without a correct result, with nobody, not reported, and ordinary ones.
fn degenerate_arm() -> impl Strategy<Value = (Option<f64>, Option<f64>)> {
    let people = || prop_oneof![1..30u32, Just(1u32), Just(9_999_999u32)].prop_map(f64::from);
    prop_oneof![
        people().prop_map(|n| (Some(n), Some(0.0))),
        people().prop_map(|n| (Some(0.0), Some(n))),
        Just((Some(0.0), Some(0.0))),
        Just((None, None)),
        (people(), people()).prop_map(|(a, b)| (Some(a), Some(b))),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn every_model_answers_for_degenerate_arms(
        same in any::<bool>(), arms in prop::collection::vec((degenerate_arm(), degenerate_arm()), 1..7), level in 0.5..0.999f64,
    ) {
        // Arms that are all of one kind are the hard case: half of the sets repeat the first study's.
        let first = arms[0];
        let studies: Vec<Counts> = arms
            .into_iter()
            .map(|arms| if same { first } else { arms })
            .filter_map(|((tp, fn_), (tn, fp))| Counts::check(RawCounts { tp, fp, fn_, tn }).ok())
            .collect();
        let level = pruvex_core::Level::new(level).unwrap();
        for model in MODELS {
            for interval in INTERVALS {
                // Whatever model is asked for, there is one posterior.
                let posterior = interval.method(model, studies.len()) == IntervalMethod::Posterior;
                if posterior && model != ModelChoice::Auto {
                    continue;
                }
                match pool(&studies, PoolOptions { model, interval, level, ..PoolOptions::classical() }) {
                    Ok(pooled) => {
                        let s = pooled.summary;
                        for e in [s.sensitivity, s.specificity].into_iter().flatten() {
                            prop_assert!(e.lower <= e.estimate && e.estimate <= e.upper);
                        }
                        let _ = (prediction(&studies, &pooled), weights(&studies, &pooled));
                    }
                    Err(PoolError::NoSandwich | PoolError::SandwichOfAnother) => {
                        prop_assert_eq!(interval, IntervalChoice::Sandwich);
                    }
                    Err(error) => prop_assert!(studies.is_empty() || error == PoolError::NotIdentified, "{error}"),
                }
            }
        }
    }
}

#[test]
fn an_arm_with_nobody_in_it_is_an_arm_that_is_not_reported() {
    let five = [[20, 4, 5, 24], [31, 9, 12, 40], [14, 2, 9, 30], [40, 12, 11, 50], [22, 8, 3, 35]];
    let with = |fp: Option<f64>| {
        let mut studies = full(&five);
        studies.extend(
            [6.0, 9.0].map(|tp| Counts::check(RawCounts { tp: Some(tp), fp, fn_: Some(2.0), tn: fp }).unwrap()),
        );
        let pooled = pool(&studies, PoolOptions::classical()).unwrap();
        let ahead = prediction(&studies, &pooled);
        let reading = read(&studies, &pooled, &ahead, Provenance::default());
        (pooled, ahead, reading)
    };
    assert_eq!(with(Some(0.0)), with(None));
}

#[test]
fn studies_of_one_arm_have_a_prediction_interval_of_it() {
    let studies: Vec<Counts> = [(20, 5), (31, 22), (14, 3), (9, 11)]
        .map(|(tp, fn_)| RawCounts { tp: Some(f64::from(tp)), fn_: Some(f64::from(fn_)), ..RawCounts::default() })
        .map(|raw| Counts::check(raw).unwrap())
        .to_vec();
    let pooled = pool(&studies, PoolOptions::classical()).unwrap();
    let variance = pooled.cov_mu.unwrap().variance(0).unwrap();
    let ahead = prediction(&studies, &pooled);
    let new = ahead.sensitivity.unwrap();
    // t(2) at 97.5 % is 4.30265...
    let half = 4.302_652_729_911_275 * (pooled.tau2.sens.unwrap() + variance).sqrt();
    let mu = pooled.mu.sens.unwrap();
    assert_close(new.lower.get(), 1.0 / (1.0 + (half - mu).exp()), 1e-9, "lower");
    assert_eq!((ahead.specificity, ahead.lr_positive, pooled.cov_mu.unwrap().both()), (None, None, None));
}

#[test]
fn arms_of_millions_are_answered() {
    let sets = [vec![[9_999_999, 4, 1, 24], [20, 4, 5, 24]], vec![[1_000_000, 0, 0, 1_000_000]; 8]];
    for (set, model) in sets.iter().flat_map(|set| MODELS.map(|model| (set, model))) {
        let pooled = pool(&full(set), PoolOptions { model, ..PoolOptions::classical() }).unwrap();
        assert!(pooled.summary.sensitivity.unwrap().estimate.get() > 0.5, "{model:?}");
    }
    // One-sided exact bound for 0 of 8 million.
    let spec = pooled(&[[1_000_000, 0, 0, 1_000_000]; 8]).summary.specificity.unwrap();
    assert_close(spec.lower.complement().get(), -(0.05f64.ln() / 8e6).exp_m1(), 1e-9, "exact bound");
}

#[test]
fn one_armed_studies_contribute_their_arm() {
    let mut studies = full(&[[20, 4, 5, 24], [31, 9, 12, 40], [14, 2, 9, 30], [40, 6, 11, 50], [22, 8, 3, 35]]);
    let before = pool(&studies, PoolOptions::classical()).unwrap();
    let raw = RawCounts { tp: Some(160.0), fn_: Some(40.0), ..RawCounts::default() };
    studies.push(Counts::check(raw).unwrap());
    let after = pool(&studies, PoolOptions::classical()).unwrap();
    assert_eq!(after.model, Model::Bivariate);
    assert!(after.cov_mu.unwrap().both().unwrap()[0][0] < before.cov_mu.unwrap().both().unwrap()[0][0]);
    assert!(after.warnings.contains(&Warning::OneArmedStudies { count: 1 }));
    let alone = pool(&studies[5..].repeat(4), PoolOptions::classical()).unwrap();
    assert_eq!(alone.reason, Reason::OneArmOnly);
    assert!(alone.summary.specificity.is_none() && alone.summary.lr_positive.is_none());
    assert!((alone.summary.sensitivity.unwrap().estimate.get() - 0.8).abs() < 1e-9);
}

#[test]
fn single_patients_per_study_do_not_identify_a_variance() {
    let tables: Vec<[u32; 4]> = (0..12)
        .map(|i| [u32::from(i % 3 > 0), u32::from(i % 4 == 0), u32::from(i % 3 == 0), u32::from(i % 4 > 0)])
        .collect();
    let result = pooled(&tables);
    assert!(result.converged, "{result:?}");
    assert!((result.summary.sensitivity.unwrap().estimate.get() - 8.0 / 12.0).abs() < 0.05, "{result:?}");
}

#[test]
fn all_or_nothing_studies_do_not_get_a_narrow_interval() {
    // Specificity is 0 or 100 % in every study: no variance between studies fits, and a binomial interval of
    // about ±4 % over 500 people would be absurd.
    let result = pooled(&[[20, 0, 5, 90], [31, 80, 12, 0], [14, 0, 9, 130], [9, 120, 3, 0], [22, 0, 9, 80]]);
    let spec = result.summary.specificity.unwrap();
    assert!(spec.upper.get() - spec.lower.get() > 0.6, "{result:?}");
}

fn tables(sizes: std::ops::Range<usize>) -> impl Strategy<Value = Vec<[u32; 4]>> {
    let cell = || prop_oneof![3 => 0..60u32, 1 => Just(0u32), 1 => 0..3u32, 1 => 0..5_000u32];
    prop::collection::vec([cell(), cell(), cell(), cell()], sizes)
        .prop_map(|tables| tables.into_iter().filter(|t| t.iter().any(|c| *c > 0)).collect::<Vec<_>>())
        .prop_filter("at least one study", |tables| !tables.is_empty())
}

/// In standard errors. Two runs place their quadrature nodes differently; where both have settled they must agree.
/// Where they have not, the answer says so itself.
fn tolerance(a: &Pooled, b: &Pooled) -> f64 {
    let limited = |p: &Pooled| p.warnings.iter().any(|w| matches!(w, Warning::QuadratureLimit { .. }));
    if limited(a) || limited(b) { 0.5 } else { 2e-3 }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 64, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn any_data_get_an_ordered_answer_with_a_reason(tables in tables(1..12)) {
        let result = pooled(&tables);
        let text = serde_json::to_string(&result).unwrap();
        prop_assert!(!text.contains("NaN"));
        prop_assert!(result.converged, "{result:?}");
        prop_assert!(result.ladder.last().unwrap().kept);
        let s = result.summary;
        for e in [s.sensitivity, s.specificity].into_iter().flatten() {
            prop_assert!(e.lower <= e.estimate && e.estimate <= e.upper);
        }
        for e in [s.lr_positive, s.lr_negative, s.dor].into_iter().flatten() {
            prop_assert!(e.lower <= e.estimate && e.estimate <= e.upper);
        }
    }

    #[test]
    fn exchanging_the_groups_exchanges_sensitivity_and_specificity(tables in tables(4..10)) {
        let result = pooled(&tables);
        let swapped: Vec<Counts> = full(&tables).iter().map(Counts::swapped).collect();
        let mirror = pool(&swapped, PoolOptions::classical()).unwrap();
        prop_assume!(result.reason != Reason::NotIdentified && mirror.reason != Reason::NotIdentified);
        let tolerance = tolerance(&result, &mirror);
        if let (Some(a), Some(b)) = (result.log_likelihood, mirror.log_likelihood) {
            prop_assert!((a - b).abs() < tolerance, "{a} {b}\n{result:?}\n{mirror:?}");
        }
        if let (Some(a), Some(b), Some(cov)) = (result.mu.sens, mirror.mu.spec, result.cov_mu.and_then(|cov| cov.both())) {
            prop_assert!((a - b).abs() <= tolerance * cov[0][0].sqrt(), "{a} {b}\n{result:?}\n{mirror:?}");
        }
    }

    #[test]
    fn the_order_of_studies_does_not_matter(tables in tables(4..9), turn in 1..8usize) {
        let mut turned = tables.clone();
        turned.rotate_left(turn % tables.len());
        prop_assert_eq!(pooled(&tables), pooled(&turned));
    }
}

#[test]
fn each_arm_by_itself_equals_the_univariate_reference() {
    let data = json("univariate.json");
    let mut compared = 0;
    for item in data.as_array().unwrap().iter().filter(|item| item["kind"] == "glmm_one_proportion") {
        let id = item["id"].as_str().unwrap();
        let column =
            |name: &str| -> Vec<f64> { item[name].as_array().unwrap().iter().map(|v| v.as_f64().unwrap()).collect() };
        // As sensitivities of one-armed studies: the other group plays no part.
        let studies: Vec<Counts> = column("x")
            .into_iter()
            .zip(column("n"))
            .map(|(x, n)| {
                let raw = RawCounts { tp: Some(x), fn_: Some(n - x), ..RawCounts::default() };
                Counts::check(raw).unwrap()
            })
            .collect();
        let result = pool(&studies, PoolOptions::classical()).unwrap();
        let expected = |name: &str| item[name].as_f64().unwrap();
        assert_close(result.mu.sens.unwrap(), expected("mu"), 1e-4, &format!("{id} mu"));
        assert!((result.tau2.sens.unwrap() - expected("tau2")).abs() < 1e-4 * (0.01 + expected("tau2")), "{id} tau2");
        assert!((result.log_likelihood.unwrap() - expected("loglik_full")).abs() < 1e-6, "{id} log-likelihood");
        let share = result.summary.sensitivity.unwrap();
        for (bound, index) in [(share.lower, 0), (share.upper, 1)] {
            assert_close(bound.get(), item["ci95"][index].as_f64().unwrap(), 1e-4, &format!("{id} interval"));
        }
        compared += 1;
    }
    assert!(compared >= 6);
}

#[test]
fn homogeneous_studies_are_pooled_as_one_and_a_limit_is_refused() {
    let result = pooled(&[[40, 10, 10, 90], [80, 20, 20, 180], [20, 5, 5, 45], [160, 40, 40, 360]]);
    assert_eq!(result.boundary, Boundary::BothVariancesZero);
    let se = result.summary.sensitivity.unwrap();
    assert_close(se.estimate.get(), 0.8, 1e-7, "pooled sensitivity");
    // The fixed-effect interval: logit 0.8 with 1/300 + 1/75 as variance.
    let half = 1.959_963_984_540_054 * (1.0_f64 / 300.0 + 1.0 / 75.0).sqrt();
    assert_close(se.lower.get(), 1.0 / (1.0 + (-(4.0_f64.ln() - half)).exp()), 1e-6, "lower bound");
    let many = full(&[[3, 1, 2, 4]]).repeat(PoolOptions::MAX_STUDIES + 1);
    assert!(pool(&many, PoolOptions::classical()).is_err() && pool(&[], PoolOptions::classical()).is_err());
}

#[test]
fn a_wider_level_widens_every_interval_and_moves_no_point() {
    let studies = full(&[[20, 4, 5, 24], [31, 9, 12, 40], [14, 2, 9, 30], [40, 12, 11, 50], [22, 8, 3, 35]]);
    let at = |level: f64| {
        let level = pruvex_core::Level::new(level).unwrap();
        pool(&studies, PoolOptions { level, ..PoolOptions::classical() }).unwrap()
    };
    let (narrow, wide) = (at(0.8), at(0.99));
    let (a, b) = (narrow.summary.lr_positive.unwrap(), wide.summary.lr_positive.unwrap());
    assert_eq!(a.estimate, b.estimate);
    assert!(b.lower < a.lower && a.upper < b.upper);
}

#[test]
fn profile_intervals_hold_the_point_and_say_that_they_are_used() {
    let by_profile = |studies: &[Counts]| {
        let options = PoolOptions { interval: IntervalChoice::Profile, ..PoolOptions::classical() };
        pool(studies, options).unwrap()
    };
    for item in json("bivariate.json").as_array().unwrap().iter().filter(|item| item["k"].as_u64().unwrap() <= 25) {
        let studies = counts_of(item);
        let (wald, profile) = (pool(&studies, PoolOptions::classical()).unwrap(), by_profile(&studies));
        assert_eq!(profile.interval, IntervalMethod::Profile, "{}", item["id"]);
        assert_eq!(profile.workings.ratios, RatioWorking::CombinedIntervals);
        let (a, b) = (wald.summary.sensitivity.unwrap(), profile.summary.sensitivity.unwrap());
        assert_eq!(a.estimate, b.estimate);
        assert!(b.lower < b.estimate && b.estimate < b.upper, "{}: {b:?}", item["id"]);
        let [c, d] = [wald, profile].map(|pooled| pooled.summary.lr_positive.unwrap());
        assert!(
            (c.estimate.get() / d.estimate.get() - 1.0).abs() < 1e-9 && d.lower < d.estimate && d.estimate < d.upper
        );
        let width = |e: pruvex_core::Estimate<pruvex_core::Ratio>| (e.upper.get() / e.lower.get()).ln();
        assert!((0.5..2.5).contains(&(width(d) / width(c))), "{}: {c:?} {d:?}", item["id"]);
        // They differ, but never wildly: both describe the same likelihood.
        let (wide, narrow) = (b.upper.get() - b.lower.get(), a.upper.get() - a.lower.get());
        assert!((0.8..3.0).contains(&(wide / narrow)), "{}: {a:?} {b:?}", item["id"]);
    }
    let single = by_profile(&full(&[[20, 4, 5, 24]]));
    assert_eq!(single.interval, IntervalMethod::Wald, "one study has no profile");
}

#[test]
fn few_studies_have_posterior_intervals_and_more_have_profile_ones_beside_the_classical_answer() {
    let study = [[20, 4, 5, 24], [31, 9, 12, 40], [14, 2, 9, 30]];
    let of = |k: usize, model: ModelChoice| {
        let tables: Vec<[u32; 4]> = (0..k).map(|nth| study[nth % 3].map(|cell| cell + nth as u32)).collect();
        let studies = full(&tables);
        (pool(&studies, PoolOptions { model, ..PoolOptions::default() }).unwrap(), studies)
    };
    let limit = IntervalChoice::POSTERIOR_UP_TO;
    for (k, model, method) in [
        (2, ModelChoice::Auto, IntervalMethod::Posterior),
        (limit, ModelChoice::Auto, IntervalMethod::Posterior),
        (limit + 1, ModelChoice::Auto, IntervalMethod::Profile),
        (5, ModelChoice::Bivariate, IntervalMethod::Posterior),
        (5, ModelChoice::Independent, IntervalMethod::Profile),
        (5, ModelChoice::NormalReml, IntervalMethod::Wald),
    ] {
        let (pooled, studies) = of(k, model);
        assert_eq!(pooled.interval, method, "{k} {model:?}");
        let wald = pool(&studies, PoolOptions { model, ..PoolOptions::classical() }).unwrap();
        let beside = if method == IntervalMethod::Wald { Some(pooled.summary) } else { pooled.classical };
        assert_eq!(beside, Some(wald.summary), "{k} {model:?}");
        let said = methods_paragraph(&pooled);
        let names = match method {
            IntervalMethod::Posterior => "posterior medians",
            IntervalMethod::Profile => "profile-likelihood intervals",
            _ => "Wald intervals",
        };
        assert!(said.contains(names) && said.contains(&format!("{k} studies")), "{said}");
        // Kept as JSON and read again it is the same answer.
        let read: Pooled = serde_json::from_str(&serde_json::to_string(&pooled).unwrap()).unwrap();
        assert_eq!(read, pooled);
    }
    // Without each study in turn it is the same method, though one fewer would have another.
    let (whole, studies) = of(limit + 1, ModelChoice::Auto);
    let width = |of: Option<pruvex_core::Estimate<pruvex_core::Ratio>>| {
        of.map(|it| (it.upper.get() / it.lower.get()).ln()).unwrap()
    };
    for rest in leave_one_out(&studies, PoolOptions::default()).unwrap() {
        let by_profile = PoolOptions { interval: IntervalChoice::Profile, ..PoolOptions::default() };
        let mut others = studies.clone();
        others.remove(rest.study);
        let alone = pool(&others, by_profile).unwrap();
        assert_close(width(rest.summary.lr_positive), width(alone.summary.lr_positive), 1e-3, "the rest");
        assert!(width(rest.summary.lr_positive) < 2.0 * width(whole.summary.lr_positive));
    }
}

#[test]
fn scatter_intervals_are_hartung_and_knapp_s_where_people_are_many() {
    let logits = [[0.4, 1.9], [1.3, 2.4], [0.9, 1.2], [2.0, 2.2]];
    let n = 2_000_000.0;
    let study = |[a, b]: [f64; 2]| {
        let [tp, tn] = [a, b].map(|x: f64| (n / (1.0 + (-x).exp())).round());
        Counts::check(RawCounts { tp: Some(tp), fp: Some(n - tn), fn_: Some(n - tp), tn: Some(tn) }).unwrap()
    };
    let studies: Vec<Counts> = logits.iter().map(|it| study(*it)).collect();
    let options = PoolOptions { interval: IntervalChoice::Sandwich, ..PoolOptions::default() };
    let pooled = pool(&studies, options).unwrap();
    assert_eq!((pooled.interval, pooled.model), (IntervalMethod::Sandwich, Model::Independent));
    let logit = |p: pruvex_core::Probability| (p.get() / (1.0 - p.get())).ln();
    for (arm, found) in [pooled.summary.sensitivity, pooled.summary.specificity].into_iter().enumerate() {
        let variance = |x: f64| (1.0 + x.exp()).powi(2) / (n * x.exp());
        let effects: Vec<Effect> = logits.iter().map(|it| Effect::new(it[arm], variance(it[arm])).unwrap()).collect();
        let known = pool_effects(&effects, TauMethod::Reml, pruvex_core::Level::default()).unwrap();
        let (found, known) = (found.unwrap(), known.hartung_knapp.unwrap());
        for (a, b) in [(found.estimate, known.estimate), (found.lower, known.lower), (found.upper, known.upper)] {
            assert!((logit(a) - b).abs() < 1e-3, "arm {arm}: {} {b}", logit(a));
        }
    }
    // Studies that agree by chance are no more certain than all their people together.
    let alike = full(&[[80, 10, 20, 90]; 3]);
    let pooled = pool(&alike, options).unwrap();
    let together = pool(&alike, PoolOptions { model: ModelChoice::Fixed, ..PoolOptions::classical() }).unwrap();
    for (a, b) in [
        (pooled.summary.sensitivity, together.summary.sensitivity),
        (pooled.summary.specificity, together.summary.specificity),
    ] {
        let (a, b) = (a.unwrap(), b.unwrap());
        assert!((a.lower.get() - b.lower.get()).abs() < 1e-6 && (a.upper.get() - b.upper.get()).abs() < 1e-6);
    }
    // No scatter is known of an arm that one study reports, or that has no error.
    let one = Counts::check(RawCounts { tp: Some(9.0), fp: None, fn_: Some(3.0), tn: None }).unwrap();
    for studies in [vec![alike[0], one], full(&[[20, 0, 5, 24], [30, 0, 7, 40]])] {
        assert_eq!(pool(&studies, options), Err(PoolError::NoSandwich));
    }
    let bivariate = PoolOptions { model: ModelChoice::Bivariate, ..options };
    assert_eq!(pool(&alike, bivariate), Err(PoolError::SandwichOfAnother));
}

#[test]
fn the_study_that_matters_has_the_largest_distance() {
    let studies =
        full(&[[20, 4, 5, 24], [31, 9, 12, 40], [24, 5, 9, 30], [40, 12, 15, 55], [22, 8, 8, 35], [5, 30, 45, 20]]);
    let left_out = leave_one_out(&studies, PoolOptions::classical()).unwrap();
    let distance = |i: usize| left_out[i].cook_distance.unwrap();
    assert!((0..5).all(|i| distance(i) < distance(5)), "{left_out:?}");
    let alone = pool(&studies[..5], PoolOptions::classical()).unwrap();
    let [a, b] = [left_out[5].summary, alone.summary].map(|summary| summary.lr_positive.unwrap());
    assert_close(a.lower.get(), b.lower.get(), 1e-6, "the rest by itself");
    assert!(leave_one_out(&studies[..1], PoolOptions::classical()).is_err());
}

#[test]
fn the_fit_is_deterministic() {
    let studies = [[20, 4, 5, 24], [31, 9, 12, 40], [14, 2, 9, 30], [40, 12, 11, 50], [22, 8, 3, 35]];
    assert_eq!(pooled(&studies), pooled(&studies));
}
