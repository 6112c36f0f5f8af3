//! A fit in ROC space, and small-study effects, against the reference values.

use crate::common::{assert_close, json};
use pruvex_core::accuracy::Counts;
use pruvex_core::pooling::{
    Correction, PoolOptions, RocRegion, SmallStudyError, deeks_regression, pool, roc_space, small_study_effects,
    threshold_correlation,
};
use pruvex_core::{Level, Probability};
use serde_json::Value;

fn column(item: &Value, name: &str) -> Vec<f64> {
    serde_json::from_value(item[name].clone()).unwrap()
}

fn studies(item: &Value) -> Vec<Counts> {
    let (tp, fp, fn_, tn) = (column(item, "tp"), column(item, "fp"), column(item, "fn"), column(item, "tn"));
    (0..tp.len()).map(|i| Counts::full(tp[i], fp[i], fn_[i], tn[i]).unwrap()).collect()
}

#[test]
fn regions_and_curve_parameters_equal_the_reference() {
    for item in json("bivariate.json").as_array().unwrap() {
        let (id, studies) = (item["id"].as_str().unwrap(), studies(item));
        let pooled = pool(&studies, PoolOptions::classical()).unwrap();
        let Some(space) = roc_space(&pooled, &studies) else {
            assert!(studies.len() < 4, "{id}");
            continue;
        };
        let derived = &item["glmm_ml"]["derived"];
        // Ends of axes and variances near a boundary are squares of small differences: an absolute floor fits them.
        let close = |what: &str, value: f64, expected: &Value| {
            let expected = expected.as_f64().unwrap();
            assert!((value - expected).abs() < 2e-4 * expected.abs().max(0.02), "{id} {what}: {value} {expected}");
        };
        for (region, name) in
            [(&space.confidence, "confidence_ellipse_logit"), (&space.prediction, "prediction_ellipse_logit")]
        {
            let expected = &derived[name]["chi2_2df"];
            let [longer, shorter] = region.ellipse.unwrap().semi_axes;
            close(name, longer, &expected["semi_major"]);
            close(name, shorter, &expected["semi_minor"]);
            let quarter = region.outline.len() / 4;
            for (i, corner) in expected["points_sens_spec_t_0_90_180_270"].as_array().unwrap().iter().enumerate() {
                let point = region.outline[i * quarter];
                close(name, point.sensitivity.get(), &corner[0]);
                close(name, point.specificity.get(), &corner[1]);
            }
        }
        assert_eq!(space.hsroc.is_some(), derived["hsroc"]["beta"].is_number(), "{id}");
        let Some(hsroc) = space.hsroc else { continue };
        let expected = &derived["hsroc"];
        close("Lambda", hsroc.lambda, &expected["Lambda"]);
        close("Theta", hsroc.theta, &expected["Theta"]);
        close("beta", hsroc.beta, &expected["beta"]);
        close("sigma2_alpha", hsroc.sigma2_alpha, &expected["sigma2_alpha"]);
        close("sigma2_theta", hsroc.sigma2_theta, &expected["sigma2_theta"]);
        for on_curve in expected["sroc"].as_array().unwrap() {
            let specificity = Probability::new(1.0 - on_curve["fpr"].as_f64().unwrap()).unwrap();
            close("curve", hsroc.sensitivity_at(specificity).unwrap().get(), &on_curve["sens"]);
        }
    }
}

#[test]
fn the_curve_stays_within_what_was_observed_and_wider_levels_give_wider_regions() {
    let data = json("bivariate.json");
    let studies = studies(&data[0]);
    let at = |level: f64| {
        let pooled =
            pool(&studies, PoolOptions { level: Level::new(level).unwrap(), ..PoolOptions::classical() }).unwrap();
        roc_space(&pooled, &studies).unwrap()
    };
    let (narrow, wide) = (at(0.8), at(0.95));
    let axes = |region: &RocRegion| region.ellipse.unwrap().semi_axes;
    assert!(axes(&wide.confidence)[0] > axes(&narrow.confidence)[0]);
    assert!(axes(&wide.prediction)[1] > axes(&wide.confidence)[1]);
    let observed: Vec<f64> =
        studies.iter().map(|s| s.non_diseased().unwrap()).map(|arm| arm.correct as f64 / arm.n as f64).collect();
    let (low, high) = observed.iter().fold((1.0_f64, 0.0_f64), |(l, h), v| (l.min(*v), h.max(*v)));
    assert!(wide.curve.iter().all(|p| p.specificity.get() >= low - 1e-12 && p.specificity.get() <= high + 1e-12));
    assert!(wide.curve.windows(2).all(|pair| pair[0].sensitivity >= pair[1].sensitivity), "the curve falls");
}

#[test]
fn small_study_measures_equal_the_reference() {
    for item in json("smallstudy.json").as_array().unwrap() {
        let id = item["id"].as_str().unwrap();
        let tables: Vec<[f64; 4]> = serde_json::from_value(item["tables_tp_fp_fn_tn"].clone()).unwrap();
        let studies: Vec<Counts> = tables.iter().map(|[a, b, c, d]| Counts::full(*a, *b, *c, *d).unwrap()).collect();
        for (name, correction) in
            [("correction_zero_study", Correction::ZeroStudies), ("correction_all_studies", Correction::AllStudies)]
        {
            let (deeks, spearman) = (&item[name]["deeks"], &item[name]["spearman"]);
            let what = |field: &str| format!("{id} {name} {field}");
            if let Some(test) = deeks_regression(&studies, correction).filter(|_| deeks["t"].is_number()) {
                for (field, value) in
                    [("slope", test.slope), ("intercept", test.intercept), ("se_slope", test.se_slope)]
                {
                    assert_close(value, deeks[field].as_f64().unwrap(), 1e-7, &what(field));
                }
                assert_close(test.p.unwrap(), deeks["p"].as_f64().unwrap(), 1e-7, &what("p"));
            } else {
                assert!(deeks["t"].is_null(), "{}", what("t"));
            }
            match threshold_correlation(&studies, correction) {
                Some(found) => {
                    let rho = spearman["rho"].as_f64().unwrap();
                    assert!((found.rho - rho).abs() < 1e-12, "{}: {} {rho}", what("rho"), found.rho);
                    if let (Some(p), Some(expected)) = (found.p, spearman["p_t_approx"].as_f64()) {
                        assert_close(p, expected, 1e-7, &what("Spearman p"));
                    }
                }
                None => assert!(spearman["rho"].is_null(), "{}", what("rho")),
            }
        }
    }
}

#[test]
fn the_small_study_test_is_guarded() {
    let same = vec![Counts::full(20.0, 4.0, 5.0, 24.0).unwrap(); 9];
    assert_eq!(small_study_effects(&same, Correction::default()), Err(SmallStudyError::TooFew(9)));
    let same = vec![same[0]; 12];
    assert_eq!(small_study_effects(&same, Correction::default()), Err(SmallStudyError::NoSpread));
    assert_eq!(threshold_correlation(&same, Correction::default()), None);
}
