//! Models that are asked for, levels of a covariate, and heterogeneity.

use crate::common::{assert_close, counts_of, json};
use proptest::prelude::*;
use pruvex_core::Level;
use pruvex_core::accuracy::{Counts, RawCounts};
use pruvex_core::pooling::{
    Boundary, ComparisonError, Model, ModelChoice, PoolOptions, Pooled, Reason, Warning, compare_levels, heterogeneity,
    leave_one_out, pool, roc_space,
};

fn full(tables: &[[u32; 4]]) -> Vec<Counts> {
    tables.iter().map(|t| t.map(f64::from)).map(|[a, b, c, d]| Counts::full(a, b, c, d).unwrap()).collect()
}

fn pooled_with(studies: &[Counts], model: ModelChoice) -> Pooled {
    pool(studies, PoolOptions { model, ..PoolOptions::classical() }).unwrap()
}

#[test]
fn the_normal_approximation_equals_the_reference() {
    for item in json("bivariate.json").as_array().unwrap() {
        let studies = counts_of(item);
        for (choice, name) in [(ModelChoice::NormalReml, "lmm_reml"), (ModelChoice::NormalMl, "lmm_ml")] {
            let (id, expected) = (format!("{} {name}", item["id"]), &item[name]);
            let result = pooled_with(&studies, choice);
            let value = |name: &str| expected[name].as_f64().unwrap();
            assert!((result.log_likelihood.unwrap() - value("loglik")).abs() < 1e-6, "{id}: {result:?}");
            let pairs = [(result.mu.sens, "mu_sens"), (result.mu.spec, "mu_spec")];
            for (got, name) in pairs {
                assert_close(got.unwrap(), value(name), 1e-4, &format!("{id} {name}"));
            }
            for (got, name) in [(result.tau2.sens, "tau2_sens"), (result.tau2.spec, "tau2_spec")] {
                assert!((got.unwrap() - value(name)).abs() < 1e-4 * (0.01 + value(name)), "{id} {name}: {got:?}");
            }
            match expected["rho"].as_f64() {
                Some(rho) => assert!((result.rho.unwrap() - rho).abs() < 1e-4, "{id}: {:?}", result.rho),
                None => assert_eq!(result.rho, None, "{id}"),
            }
            let cov = result.cov_mu.unwrap().both().unwrap();
            for (i, j) in [(0, 0), (0, 1), (1, 1)] {
                let scale = (cov[i][i] * cov[j][j]).sqrt();
                assert!((cov[i][j] - expected["cov_mu"][i][j].as_f64().unwrap()).abs() < 1e-4 * scale, "{id} {i}{j}");
            }
            let corrected = result.warnings.iter().find_map(|w| match w {
                Warning::HalfAdded { studies } => Some(*studies as u64),
                _ => None,
            });
            assert_eq!(corrected.unwrap_or(0), expected["studies_corrected"].as_u64().unwrap(), "{id}");
            let lambda = roc_space(&result, &studies).unwrap().hsroc.map(|hsroc| hsroc.lambda);
            match expected["derived"]["hsroc"]["Lambda"].as_f64() {
                Some(expected) => assert_close(lambda.unwrap(), expected, 1e-3, &id),
                None => assert_eq!(lambda, None, "{id}"),
            }
        }
    }
}

#[test]
fn a_model_that_is_asked_for_is_fitted_or_the_step_down_is_explained() {
    let three = full(&[[20, 4, 5, 24], [31, 9, 12, 40], [14, 2, 9, 30]]);
    let asked = pooled_with(&three, ModelChoice::Bivariate);
    assert_eq!((asked.model, asked.reason), (Model::Bivariate, Reason::Requested));
    assert!(asked.warnings.contains(&Warning::FewStudies { both_arms: 3 }));
    let perfect = pooled_with(&full(&[[20, 0, 5, 24], [31, 0, 12, 40], [14, 0, 9, 30]]), ModelChoice::Bivariate);
    assert_eq!((perfect.model, perfect.reason), (Model::Independent, Reason::NoFiniteMaximum));
    let four = full(&[[20, 4, 5, 24], [31, 9, 12, 40], [14, 2, 9, 30], [40, 12, 11, 50]]);
    let apart = pooled_with(&four, ModelChoice::Independent);
    assert_eq!((apart.model, apart.reason, apart.ladder.len()), (Model::Independent, Reason::Requested, 1));
    let fixed = pooled_with(&four, ModelChoice::Fixed);
    assert_eq!((fixed.model, fixed.tau2.sens), (Model::Fixed, Some(0.0)));
    assert_close(fixed.summary.sensitivity.unwrap().estimate.get(), 105.0 / 142.0, 1e-9, "people counted together");
    assert!(fixed.log_likelihood <= apart.log_likelihood);
    for result in [asked, perfect, apart, fixed, pooled_with(&four, ModelChoice::NormalReml)] {
        assert!(result.converged && result.method.contains("likelihood"), "{}", result.method);
    }
    // One arm only, and studies that differ by nothing.
    let one_arm: Vec<Counts> = [12.0, 25.0, 9.0]
        .map(|tp| Counts::check(RawCounts { tp: Some(tp), fn_: Some(6.0), ..RawCounts::default() }).unwrap())
        .to_vec();
    let result = pooled_with(&one_arm, ModelChoice::NormalReml);
    assert!(
        result.summary.sensitivity.is_some()
            && result.summary.specificity.is_none()
            && result.cov_mu.unwrap().both().is_none()
    );
    let same = pooled_with(&full(&[[40, 10, 10, 90]; 5]), ModelChoice::NormalReml);
    assert_eq!(same.boundary, Boundary::BothVariancesZero);
}

#[test]
fn levels_without_spread_compare_as_two_proportions_do() {
    // Within a level every study has the same shares, so no variance is left and everything has a closed form.
    let tables = [[40, 10, 10, 90], [80, 20, 20, 180], [20, 5, 5, 45], [60, 30, 40, 70], [120, 60, 80, 140]];
    let result = compare_levels(&full(&tables), &[0, 0, 0, 1, 1], Level::default()).unwrap();
    assert_eq!(result.boundary, Boundary::BothVariancesZero);
    let [first, second] = [result.levels[0], result.levels[1]];
    assert_close(first.summary.sensitivity.unwrap().estimate.get(), 0.8, 1e-7, "first level");
    assert_close(second.summary.specificity.unwrap().estimate.get(), 0.7, 1e-7, "second level");
    assert_eq!((first.k, first.diseased, second.k, second.non_diseased), (3, 175, 2, 300));
    let contrast = result.contrasts[0];
    let z = 1.959_963_984_540_054;
    // Simel's log interval of a ratio of proportions, 180/300 against 140/175.
    let relative = contrast.relative_sensitivity.unwrap();
    let half = z * (1.0_f64 / 180.0 - 1.0 / 300.0 + 1.0 / 140.0 - 1.0 / 175.0).sqrt();
    assert_close(relative.estimate.get(), 0.75, 1e-7, "relative sensitivity");
    assert_close(relative.upper.get(), 0.75 * half.exp(), 1e-6, "its upper bound");
    // Wald's interval of a difference, 210/300 against 315/350.
    let difference = contrast.specificity_difference.unwrap();
    let half = z * (0.7_f64 * 0.3 / 300.0 + 0.9 * 0.1 / 350.0).sqrt();
    assert_close(difference.estimate, -0.2, 1e-6, "difference");
    assert_close(difference.lower, -0.2 - half, 1e-6, "its lower bound");
    // Each group's likelihood-ratio statistic when the other model has no variance left either: a deviance, which the variance of
    // the model without levels can only lessen.
    let log = |y: f64, n: f64| y * (y / n).ln() + (n - y) * ((n - y) / n).ln();
    let deviance = 2.0 * (log(140.0, 175.0) + log(180.0, 300.0) - log(320.0, 475.0));
    let statistic = result.test_sensitivity.unwrap().statistic;
    assert!(statistic > 5.0 && statistic < deviance + 1e-6, "{statistic} {deviance}");
    assert_eq!((result.test.df, result.test_sensitivity.unwrap().df), (2, 1));
    assert!(result.test.p < result.test_sensitivity.unwrap().p);
}

#[test]
fn levels_that_do_not_differ_add_nothing_and_the_first_may_be_any() {
    let tables = [[20, 4, 5, 24], [31, 9, 12, 40], [14, 2, 9, 30], [40, 12, 11, 50], [22, 8, 3, 35]];
    let twice = full(&[tables, tables].concat());
    let same = compare_levels(&twice, &[0, 0, 0, 0, 0, 1, 1, 1, 1, 1], Level::default()).unwrap();
    assert!(same.test.statistic < 1e-5 && same.test.p > 0.999, "{:?}", same.test);
    assert_close(same.contrasts[0].relative_sensitivity.unwrap().estimate.get(), 1.0, 1e-5, "same");
    let plain = pool(&twice, PoolOptions::classical()).unwrap();
    assert!((same.log_likelihood - plain.log_likelihood.unwrap()).abs() < 1e-5);

    let studies = full(&[&tables[..], &[[9, 9, 15, 31], [12, 6, 20, 44], [25, 11, 24, 40], [8, 2, 15, 19]]].concat());
    let (one, other) = ([0, 0, 0, 0, 0, 1, 1, 1, 1], [1, 1, 1, 1, 1, 0, 0, 0, 0]);
    let [one, other] = [one, other].map(|levels| compare_levels(&studies, &levels, Level::default()).unwrap());
    assert!((one.log_likelihood - other.log_likelihood).abs() < 1e-6 && (one.test.p - other.test.p).abs() < 1e-6);
    let [a, b] = [&one, &other].map(|c| c.contrasts[0].relative_sensitivity.unwrap());
    assert_close(a.estimate.get() * b.estimate.get(), 1.0, 1e-4, "inverse");
    assert_close(a.lower.get() * b.upper.get(), 1.0, 1e-3, "inverse bounds");
    assert!(
        one.test.p < 0.01
            && one.levels[0].summary.lr_positive.unwrap().estimate
                > one.levels[1].summary.lr_positive.unwrap().estimate
    );
}

#[test]
fn a_level_without_an_error_is_named_and_the_other_group_still_compared() {
    let studies = full(&[[20, 4, 5, 24], [31, 9, 12, 40], [14, 2, 9, 30], [9, 0, 15, 31], [12, 0, 20, 44]]);
    let result = compare_levels(&studies, &[0, 0, 0, 1, 1], Level::default()).unwrap();
    assert_eq!(result.not_compared.len(), 1);
    assert_eq!(result.not_compared[0].level, 1);
    let contrast = result.contrasts[0];
    assert!(contrast.relative_specificity.is_none() && contrast.relative_sensitivity.unwrap().estimate.get() < 0.7);
    assert_eq!(result.test.df, 1);
    let refused = |levels: &[usize]| compare_levels(&studies, levels, Level::default()).unwrap_err();
    assert_eq!(refused(&[0; 5]), ComparisonError::Levels(1));
    assert_eq!(refused(&[0, 1, 2, 3, usize::MAX]), ComparisonError::Levels(usize::MAX));
    assert_eq!(refused(&[0, 1]), ComparisonError::Lengths { studies: 5, levels: 2 });
    assert_eq!(
        compare_levels(&full(&[[9, 0, 0, 9], [8, 0, 0, 8]]), &[0, 1], Level::default()).unwrap_err(),
        ComparisonError::NoFiniteMaximum
    );
}

#[test]
fn heterogeneity_follows_its_formulas() {
    let item = json("bivariate.json").as_array().unwrap()[0].clone();
    let studies = counts_of(&item);
    let pooled = pool(&studies, PoolOptions::classical()).unwrap();
    let measured = heterogeneity(&studies, &pooled);
    let (m, t2) = (pooled.mu.sens.unwrap(), pooled.tau2.sens.unwrap());
    let inverse = studies.iter().map(|s| 1.0 / s.diseased().unwrap().n as f64).sum::<f64>() / studies.len() as f64;
    // The mean of 1 / (p (1 - p)) over the studies' true proportions, by a plain sum over the normal distribution.
    let mean: f64 = (-800..=800)
        .map(|i| f64::from(i) * 0.01)
        .map(|z| {
            (1.0 / (1.0 + (-(m + t2.sqrt() * z)).exp()), (-0.5 * z * z).exp() / std::f64::consts::TAU.sqrt() * 0.01)
        })
        .map(|(p, weight)| weight / (p * (1.0 - p)))
        .sum();
    assert_close(measured.i2_sensitivity.unwrap(), t2 / (t2 + mean * inverse), 1e-6, "I2 of sensitivity");
    assert!((0.0..1.0).contains(&measured.i2_bivariate.unwrap()));
    assert!(measured.q_sensitivity.unwrap().p < 0.001 && measured.q_sensitivity.unwrap().df == 13);
    let reference = json("univariate.json");
    let given = reference.as_array().unwrap().iter().find(|item| item["id"] == "s_p_sim2_k8_iv").unwrap();
    let column = |name: &str| -> Vec<f64> { serde_json::from_value(given["raw"][name].clone()).unwrap() };
    let one_arm: Vec<Counts> = column("x")
        .into_iter()
        .zip(column("n"))
        .map(|(x, n)| Counts::check(RawCounts { tp: Some(x), fn_: Some(n - x), ..RawCounts::default() }).unwrap())
        .collect();
    let q = heterogeneity(&one_arm, &pool(&one_arm, PoolOptions::classical()).unwrap()).q_sensitivity.unwrap();
    assert_close(q.q, given["Q"].as_f64().unwrap(), 1e-8, "Cochran's Q");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn any_levels_get_an_answer_or_a_reason(
        tables in prop::collection::vec((0..25u32, 0..25u32, 0..25u32, 0..25u32), 2..10),
        levels in prop::collection::vec(0..3usize, 10),
    ) {
        let tables: Vec<[u32; 4]> = tables.into_iter().map(|(a, b, c, d)| [a, b, c, d + u32::from(a + b + c + d == 0)]).collect();
        let studies = full(&tables);
        match compare_levels(&studies, &levels[..studies.len()], Level::default()) {
            Ok(result) => {
                prop_assert!(!serde_json::to_string(&result).unwrap().contains("null,\"upper\""));
                prop_assert!(result.test.statistic.is_finite() && (0.0..=1.0).contains(&result.test.p));
                for r in result.contrasts.iter().filter_map(|c| c.relative_sensitivity) {
                    prop_assert!(r.lower <= r.estimate && r.estimate <= r.upper);
                }
            }
            Err(why) => prop_assert!(!why.to_string().is_empty()),
        }
    }

    #[test]
    fn leaving_one_out_from_the_full_answer_finds_what_a_whole_search_finds(
        tables in prop::collection::vec((0..40u32, 0..40u32, 0..40u32, 0..40u32), 5..9),
    ) {
        let tables: Vec<[u32; 4]> = tables.into_iter().map(|(a, b, c, d)| [a, b, c, d + 1]).collect();
        let studies = full(&tables);
        for left in leave_one_out(&studies, PoolOptions::classical()).unwrap() {
            let rest: Vec<Counts> = (0..studies.len()).filter(|i| *i != left.study).map(|i| studies[i]).collect();
            let alone = pool(&rest, PoolOptions::classical()).unwrap();
            prop_assert_eq!(left.model, alone.model);
            let width = |p: &Pooled| p.cov_mu.and_then(|cov| cov.variance(0)).map_or(0.0, f64::sqrt);
            if let (Some(a), Some(b)) = (left.summary.sensitivity, alone.summary.sensitivity) {
                let logit = |p: f64| (p / (1.0 - p)).ln();
                let apart = (logit(a.estimate.get()) - logit(b.estimate.get())).abs();
                prop_assert!(apart.is_nan() || apart < 1e-2 * width(&alone).max(0.1), "{left:?}\n{alone:?}");
            }
        }
    }
}
