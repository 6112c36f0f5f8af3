//! The posterior of the summary point: against reference values, and laws that hold for any studies.

use crate::common::{counts_of, json};
use proptest::prelude::*;
use pruvex_core::Level;
use pruvex_core::accuracy::{Counts, RawCounts};
use pruvex_core::pooling::{
    Fineness, IntervalChoice, IntervalMethod, ModelChoice, PoolError, PoolOptions, Posterior, PriorScales, Quantiles,
    RocPoint, RocRegion, compare_levels, other_scales, pool, posterior, posterior_levels, roc_space,
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
    let options = PoolOptions { interval: IntervalChoice::Posterior, ..PoolOptions::default() };
    let pooled = pool(&two, options).unwrap();
    let others = other_scales(&two, Level::default(), PriorScales::default());
    let widths: Vec<f64> = std::iter::once(&others[0].summary)
        .chain([&pooled.summary, &others[1].summary])
        .map(|it| it.sensitivity.map(|it| it.upper.get() - it.lower.get()).unwrap())
        .collect();
    assert!(widths.is_sorted(), "what a wider prior makes of two studies: {widths:?}");
    assert_eq!(pool(&[two[0]; 300], options), Err(PoolError::TooManyForPosterior(300)));
    let fixed = PoolOptions { model: ModelChoice::Fixed, ..options };
    assert_eq!(pool(&two, fixed), Err(PoolError::NoPosterior));
}

/// One and two normal logits with known spreads: what the posterior of huge studies comes to, summed over spreads and correlation.
struct Normals {
    /// Posterior weight, mean and covariance of a new study's logits.
    parts: Vec<(f64, [f64; 2], [[f64; 2]; 2])>,
}

impl Normals {
    fn of(y: &[[f64; 2]]) -> Self {
        let k = y.len() as f64;
        let inverse = |[[a, b], [_, d]]: [[f64; 2]; 2]| {
            let det = a * d - b * b;
            [[d / det, -b / det], [-b / det, a / det]]
        };
        let log_density = |[x, z]: [f64; 2], s: [[f64; 2]; 2]| {
            let p = inverse(s);
            let det = s[0][0] * s[1][1] - s[0][1] * s[0][1];
            -0.5 * (x * x * p[0][0] + 2.0 * x * z * p[0][1] + z * z * p[1][1]) - 0.5 * det.ln()
        };
        let mean = [0, 1].map(|arm| y.iter().map(|it| it[arm]).sum::<f64>() / k);
        let prior = 2.5_f64.powi(2);
        let mut parts = Vec::new();
        let spreads: Vec<f64> = (1..=60).map(|j| 0.08 * f64::from(j)).collect();
        for t1 in &spreads {
            for t2 in &spreads {
                for j in -9..=9 {
                    let rho = 0.1 * f64::from(j);
                    let s = [[t1 * t1, rho * t1 * t2], [rho * t1 * t2, t2 * t2]];
                    let p = inverse(s);
                    let cov =
                        inverse([[k * p[0][0] + 1.0 / prior, k * p[0][1]], [k * p[0][1], k * p[1][1] + 1.0 / prior]]);
                    let pull = [0, 1].map(|i| k * (p[i][0] * mean[0] + p[i][1] * mean[1]));
                    let m = [0, 1].map(|i| cov[i][0] * pull[0] + cov[i][1] * pull[1]);
                    // Likelihood times prior at the mode over the posterior's density there.
                    let log = y.iter().map(|it| log_density([it[0] - m[0], it[1] - m[1]], s)).sum::<f64>()
                        + log_density(m, [[prior, 0.0], [0.0, prior]])
                        - log_density([0.0, 0.0], cov)
                        - 0.5 * (t1 * t1 + t2 * t2) / 2.25
                        + (1.0 - rho * rho).ln();
                    let ahead = [0, 1].map(|i| [0, 1].map(|j| cov[i][j] + s[i][j]));
                    parts.push((log, m, ahead));
                }
            }
        }
        let top = parts.iter().map(|it| it.0).fold(f64::NEG_INFINITY, f64::max);
        parts.iter_mut().for_each(|it| it.0 = (it.0 - top).exp());
        parts.retain(|it| it.0 > 1e-5);
        let total: f64 = parts.iter().map(|it| it.0).sum();
        parts.iter_mut().for_each(|it| it.0 /= total);
        Self { parts }
    }

    /// How probable it is that a new study's logits are where `below` says: up to which value of the second, given the first.
    fn share(&self, below: impl Fn(f64) -> f64) -> f64 {
        let cdf = |x: f64| 0.5 * statrs::function::erf::erfc(-x / std::f64::consts::SQRT_2);
        let nodes: Vec<(f64, f64)> =
            (-16..=16).map(|j| 0.3 * f64::from(j)).map(|u| (u, (-0.5 * u * u).exp())).collect();
        let total: f64 = nodes.iter().map(|it| it.1).sum();
        let of = |(weight, m, s): &(f64, [f64; 2], [[f64; 2]; 2])| {
            let sd = s[0][0].sqrt();
            let own = (s[1][1] - s[0][1] * s[0][1] / s[0][0]).sqrt();
            let at = |(u, w): &(f64, f64)| w * cdf((below(m[0] + sd * u) - m[1] - s[0][1] / sd * u) / own);
            weight * nodes.iter().map(at).sum::<f64>() / total
        };
        self.parts.iter().map(of).sum()
    }
}

#[test]
fn a_new_study_is_expected_where_a_plain_sum_over_all_spreads_expects_it() {
    let sets: [&[[f64; 2]]; 2] =
        [&[[0.4, 1.9], [1.3, 2.4], [0.9, 1.2], [2.0, 0.3]], &[[1.0, 2.0], [1.2, 1.5], [0.7, 2.6]]];
    for y in sets {
        let n = 2_000_000.0;
        let right = |x: f64| (n / (1.0 + (-x).exp())).round();
        let of_study = |it: &[f64; 2]| study((arm(right(it[0]), n), arm(right(it[1]), n))).unwrap();
        let found = of(&y.iter().map(of_study).collect::<Vec<Counts>>(), Fineness::STANDARD);
        let plain = Normals::of(y);
        let ln_expit = |x: f64| -(-x).exp().ln_1p();
        let logit_of = |log_odds_less_one: f64| {
            if log_odds_less_one > 0.0 { log_odds_less_one.exp_m1().ln() } else { f64::NEG_INFINITY }
        };
        let Quantiles { median, lower, upper } = found.ahead.logit_spec.unwrap();
        for (value, share) in [(lower, 0.025), (median, 0.5), (upper, 0.975)] {
            assert!((plain.share(|_| value) - share).abs() < 0.004, "specificity {value}: {}", plain.share(|_| value));
        }
        // ln LR+ <= c where the logit of specificity is up to ln(e^(c - ln Se) - 1).
        let Quantiles { median, lower, upper } = found.ahead.log_lr_pos.unwrap();
        for (value, share) in [(lower, 0.025), (median, 0.5), (upper, 0.975)] {
            let is = plain.share(|x| logit_of(value - ln_expit(x)));
            assert!((is - share).abs() < if share == 0.5 { 0.015 } else { 0.004 }, "LR+ {value}: {is}");
        }
        // ln LR- >= c where the logit of specificity is up to -ln(e^(c - ln(1 - Se)) - 1), which is the other way round.
        let Quantiles { median, lower, upper } = found.ahead.log_lr_neg.unwrap();
        for (value, share) in [(lower, 0.025), (median, 0.5), (upper, 0.975)] {
            let is = 1.0 - plain.share(|x| -logit_of(value - ln_expit(-x)));
            assert!((is - share).abs() < if share == 0.5 { 0.015 } else { 0.004 }, "LR- {value}: {is}");
        }
        // Regions hold the summary, and a new study's is the larger one.
        let [mean, ahead] = [found.mean_shape.unwrap(), found.ahead_shape.unwrap()];
        for (narrow, wide) in [(mean.sens, ahead.sens), (mean.spec, ahead.spec)] {
            assert!(narrow.is_sorted() && wide.is_sorted() && wide[2] < narrow[2] && narrow[6] < wide[6]);
        }
    }
}

fn arm(right: f64, n: f64) -> ArmCells {
    Some((right, n - right))
}

#[test]
fn in_roc_space_a_posterior_has_its_own_regions() {
    for item in json("posterior.json").as_array().unwrap() {
        let studies = counts_of(item);
        let pooled = pool(&studies, PoolOptions::default()).unwrap();
        let space = roc_space(&pooled, &studies).unwrap();
        let ends = |region: &RocRegion, of: fn(&RocPoint) -> f64| {
            let all: Vec<f64> = region.outline.iter().map(of).collect();
            [all.iter().copied().fold(f64::INFINITY, f64::min), all.into_iter().fold(0.0, f64::max)]
        };
        // Two dimensions at once are wider than one.
        for (of, one) in [
            (|it: &RocPoint| it.sensitivity.get()) as fn(&RocPoint) -> f64,
            (|it: &RocPoint| it.specificity.get()) as fn(&RocPoint) -> f64,
        ]
        .into_iter()
        .zip([pooled.summary.sensitivity, pooled.summary.specificity])
        {
            let (one, [low, high]) = (one.unwrap(), ends(&space.confidence, of));
            assert!(low < one.lower.get() && one.upper.get() < high, "{}: {one:?} {low} {high}", item["id"]);
            let [lower, higher] = ends(&space.prediction, of);
            assert!(lower <= low && high <= higher, "{}", item["id"]);
        }
        assert_eq!(
            space.hsroc.is_some(),
            studies.iter().filter(|it| it.has_both_arms()).count() >= 4,
            "{}",
            item["id"]
        );
    }
}

#[test]
fn levels_of_one_kind_are_one_pool_s_and_far_apart_they_are_told_apart() {
    let full = |tables: &[[f64; 4]]| -> Vec<Counts> {
        tables.iter().map(|[tp, fp, fn_, tn]| Counts::full(*tp, *fp, *fn_, *tn).unwrap()).collect()
    };
    let near = |a: Quantiles, b: Quantiles, what: &str| {
        let width = b.upper - b.lower;
        for (a, b) in [(a.median, b.median), (a.lower, b.lower), (a.upper, b.upper)] {
            assert!((a - b).abs() < 0.01 * width, "{what}: {a} {b}, width {width}");
        }
    };
    let clinic =
        full(&[[40.0, 6.0, 10.0, 44.0], [45.0, 9.0, 15.0, 61.0], [35.0, 4.0, 15.0, 36.0], [25.0, 8.0, 9.0, 32.0]]);
    let levels = |groups: &[Vec<Counts>]| {
        posterior_levels(groups, Level::default(), PriorScales::default(), Fineness::STANDARD).unwrap()
    };
    // One level is a pool.
    let (one, plain) = (levels(std::slice::from_ref(&clinic)).levels[0], of(&clinic, Fineness::STANDARD));
    near(one.logit_sens, plain.logit_sens.unwrap(), "sensitivity");
    near(one.log_lr_pos, plain.log_lr_pos.unwrap(), "LR+");
    near(one.log_lr_neg, plain.log_lr_neg.unwrap(), "LR-");
    // The same studies twice, as two levels: they do not differ, and know more of the spreads than each by itself.
    let twice = levels(&[clinic.clone(), clinic.clone()]);
    near(twice.levels[0].logit_sens, twice.levels[1].logit_sens, "both");
    let contrast = twice.contrasts[0];
    for it in [contrast.log_relative_sens, contrast.log_relative_spec, contrast.difference_sens] {
        assert!(it.median.abs() < 0.02 * (it.upper - it.lower), "{it:?}");
        assert!((it.upper + it.lower).abs() < 0.05 * (it.upper - it.lower), "{it:?}");
    }
    let width = |it: Quantiles| it.upper - it.lower;
    assert!(width(twice.levels[0].logit_sens) < width(one.logit_sens));
    // In huge studies that differ by level alone: the difference of the means, within what the common spread leaves open.
    let n = 400_000.0;
    let expit = |x: f64| 1.0 / (1.0 + (-x).exp());
    let made = |shift: f64| -> Vec<Counts> {
        [-0.2, -0.1, 0.0, 0.1, 0.2]
            .map(|it| {
                let [tp, tn] = [0.2 + shift + it, 1.5 - it].map(|x| (n * expit(x)).round());
                Counts::full(tp, n - tn, n - tp, tn).unwrap()
            })
            .to_vec()
    };
    let apart = levels(&[made(0.0), made(1.2)]).contrasts[0];
    let truth = (expit(1.4) / expit(0.2)).ln();
    let found = apart.log_relative_sens;
    assert!(found.lower < truth && truth < found.upper && found.lower > 0.0, "{found:?} {truth}");
    assert!((found.median - truth).abs() < 0.02, "{found:?} {truth}");
    assert!((apart.difference_sens.median - (expit(1.4) - expit(0.2))).abs() < 0.01, "{apart:?}");
    // A level of one arm only has no posterior here.
    let alone = Counts::check(RawCounts { tp: Some(9.0), fn_: Some(3.0), ..RawCounts::default() }).unwrap();
    assert!(
        posterior_levels(&[clinic, vec![alone]], Level::default(), PriorScales::default(), Fineness::STANDARD)
            .is_none()
    );
}

#[test]
fn comparisons_take_the_posterior_and_keep_their_tests() {
    let tables = [
        [40.0, 6.0, 10.0, 44.0],
        [45.0, 9.0, 15.0, 61.0],
        [35.0, 4.0, 15.0, 36.0],
        [15.0, 8.0, 9.0, 32.0],
        [9.0, 8.0, 12.0, 30.0],
    ];
    let studies = tables.map(|[tp, fp, fn_, tn]| Counts::full(tp, fp, fn_, tn).unwrap());
    let levels = [0, 0, 1, 1, 1];
    let classical = compare_levels(&studies, &levels, Level::default()).unwrap();
    let found = classical.clone().by_posterior(&studies, &levels, PriorScales::default());
    assert_eq!((classical.interval, found.interval), (IntervalMethod::Wald, IntervalMethod::Posterior));
    assert_eq!((classical.test, classical.levels[1].k), (found.test, found.levels[1].k));
    let width = |it: Option<pruvex_core::Estimate<pruvex_core::Ratio>>| {
        it.map(|it| (it.upper.get() / it.lower.get()).ln()).unwrap()
    };
    for (a, b) in [
        (classical.contrasts[0].relative_sensitivity, found.contrasts[0].relative_sensitivity),
        (classical.levels[0].summary.lr_positive, found.levels[0].summary.lr_positive),
    ] {
        assert!(width(a) < width(b), "two and three studies leave more open than a curve's bend: {a:?} {b:?}");
    }
    let same = classical.clone().by_posterior(&studies, &[0, 0], PriorScales::default());
    assert_eq!(same, classical);
}
