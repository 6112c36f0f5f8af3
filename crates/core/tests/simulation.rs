//! Does the method keep its promises? Coverage and bias over simulated reviews, and an answer for whatever data come.
//!
//! Slow, hence ignored: `cargo test --release -p pruvex-core simulation -- --ignored --nocapture`. What it printed last
//! stands in docs/methods/simulation.md.
#![allow(
    clippy::unwrap_used,
    clippy::print_stdout,
    reason = "a failed step is a failed test, and its table is the result"
)]

use pruvex_core::accuracy::{Counts, RawCounts};
use pruvex_core::pooling::{
    IntervalChoice, ModelChoice, PoolOptions, Pooled, compare_levels, heterogeneity, leave_one_out, pool, roc_space,
    small_study_effects,
};
use pruvex_core::{Estimate, Level};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use rand_distr::{Binomial, Distribution, StandardNormal};
use rayon::prelude::*;

const SEED: u64 = 20_261_125;
const REVIEWS: usize = 1_000;

fn expit(x: f64) -> f64 {
    1.0 / (1.0 + (-x).exp())
}

/// A world of studies: mean logits, standard deviations between studies, their correlation, smallest and largest arm.
struct World {
    mu: [f64; 2],
    tau: [f64; 2],
    rho: f64,
    arms: [u64; 2],
}

impl World {
    fn study(&self, rng: &mut ChaCha8Rng) -> Counts {
        let [a, b]: [f64; 2] = [rng.sample(StandardNormal), rng.sample(StandardNormal)];
        let effects = [self.tau[0] * a, self.tau[1] * (self.rho * a + (1.0 - self.rho * self.rho).sqrt() * b)];
        let [(tp, fn_), (tn, fp)] = [0, 1].map(|arm| {
            let n = rng.random_range(self.arms[0]..=self.arms[1]);
            let correct = Binomial::new(n, expit(self.mu[arm] + effects[arm])).unwrap().sample(rng);
            (correct as f64, (n - correct) as f64)
        });
        Counts::full(tp, fp, fn_, tn).unwrap()
    }

    fn review(&self, k: usize, rng: &mut ChaCha8Rng) -> Vec<Counts> {
        (0..k).map(|_| self.study(rng)).collect()
    }
}

fn covers(estimate: Estimate<f64>, truth: f64) -> f64 {
    f64::from(u8::from(estimate.lower <= truth && truth <= estimate.upper))
}

/// Coverage of Se, Sp, LR+ and LR-, then bias of both mean logits.
fn figures(pooled: &Pooled, world: &World) -> [f64; 6] {
    let [se, sp] = world.mu.map(expit);
    let s = &pooled.summary;
    let plain = |e: Estimate<f64>, truth: f64| covers(e, truth);
    let share = |e: Option<Estimate<pruvex_core::Probability>>| {
        let e = e.unwrap();
        Estimate { estimate: e.estimate.get(), lower: e.lower.get(), upper: e.upper.get() }
    };
    let ratio = |e: Option<Estimate<pruvex_core::Ratio>>| {
        let e = e.unwrap();
        Estimate { estimate: e.estimate.get(), lower: e.lower.get(), upper: e.upper.get() }
    };
    [
        plain(share(s.sensitivity), se),
        plain(share(s.specificity), sp),
        plain(ratio(s.lr_positive), se / (1.0 - sp)),
        plain(ratio(s.lr_negative), (1.0 - se) / sp),
        pooled.mu.sens.map_or(0.0, |mu| mu - world.mu[0]),
        pooled.mu.spec.map_or(0.0, |mu| mu - world.mu[1]),
    ]
}

#[test]
#[ignore = "minutes of computing; see the top of the file"]
fn intervals_cover_about_as_often_as_they_say() {
    let world = World { mu: [1.1, 1.7], tau: [0.5, 0.7], rho: -0.4, arms: [20, 120] };
    println!("model, intervals, k: coverage of Se, Sp, LR+, LR-; bias of logit Se, logit Sp");
    let exact = PoolOptions::classical();
    let profile = PoolOptions { interval: IntervalChoice::Profile, ..exact };
    let normal = PoolOptions { model: ModelChoice::NormalReml, ..exact };
    let mut by_name = Vec::new();
    for (name, options) in [("exact, Wald", exact), ("exact, profile", profile), ("normal REML, Wald", normal)] {
        for k in [5, 10, 20] {
            let mut rng = ChaCha8Rng::seed_from_u64(SEED);
            let mut sums = [0.0; 6];
            for _ in 0..REVIEWS {
                let pooled = pool(&world.review(k, &mut rng), options).unwrap();
                for (sum, figure) in sums.iter_mut().zip(figures(&pooled, &world)) {
                    *sum += figure / REVIEWS as f64;
                }
            }
            println!("{name}, k = {k}: {:.3?}; {:+.3?}", &sums[..4], &sums[4..]);
            by_name.push((name, k, sums));
        }
    }
    for (name, k, sums) in by_name {
        let least = match (name, k) {
            ("exact, profile", 5) => 0.90,
            ("exact, profile", _) => 0.92,
            (_, 5) => 0.82,
            _ => 0.87,
        };
        assert!(sums[..4].iter().all(|coverage| *coverage > least), "{name}, k = {k}: {sums:?}");
        // The approximation pulls proportions towards one half; the exact likelihood must not.
        assert!(!name.starts_with("exact") || sums[4].abs().max(sums[5].abs()) < 0.06, "{name}, k = {k}: {sums:?}");
    }
}

/// Coverage of Se, Sp, LR+ and LR- and widths on the logit or log scale, summed over reviews.
#[derive(Debug, Clone, Copy, Default)]
struct Tally {
    reviews: f64,
    covered: [f64; 4],
    widths: [f64; 4],
    /// Answers that have no such interval, or one without an end: not covering, and without a width.
    without: f64,
}

impl Tally {
    fn of(pooled: Option<&Pooled>, world: &World) -> Self {
        let [se, sp] = world.mu;
        let [ln_se, ln_sp] = [se, sp].map(|x| expit(x).ln());
        let truth = [se, sp, ln_se - expit(-sp).ln(), expit(-se).ln() - ln_sp];
        let logit = |p: pruvex_core::Probability| (p.get() / (1.0 - p.get())).ln();
        let ends = |pooled: &Pooled| {
            let s = pooled.summary;
            let share = |e: Option<Estimate<pruvex_core::Probability>>| e.map(|e| [logit(e.lower), logit(e.upper)]);
            let ratio = |e: Option<Estimate<pruvex_core::Ratio>>| e.map(|e| [e.lower.get().ln(), e.upper.get().ln()]);
            [share(s.sensitivity), share(s.specificity), ratio(s.lr_positive), ratio(s.lr_negative)]
        };
        let ends = pooled.map(ends).unwrap_or_default();
        let mut tally = Self { reviews: 1.0, ..Self::default() };
        for (target, (ends, truth)) in ends.into_iter().zip(truth).enumerate() {
            match ends {
                Some([lower, upper]) if (upper - lower).is_finite() => {
                    tally.covered[target] = f64::from(u8::from(lower <= truth && truth <= upper));
                    tally.widths[target] = upper - lower;
                }
                Some([lower, upper]) => tally.covered[target] = f64::from(u8::from(lower <= truth && truth <= upper)),
                None => tally.without += 0.25,
            }
        }
        tally
    }

    fn and(self, other: Self) -> Self {
        Self {
            reviews: self.reviews + other.reviews,
            covered: std::array::from_fn(|it| self.covered[it] + other.covered[it]),
            widths: std::array::from_fn(|it| self.widths[it] + other.widths[it]),
            without: self.without + other.without,
        }
    }
}

const KINDS: [IntervalChoice; 4] =
    [IntervalChoice::Posterior, IntervalChoice::Profile, IntervalChoice::Sandwich, IntervalChoice::Wald];

/// Mean widths of the posterior interval on the logit and log scales, over scenarios and measures, by the number of studies: as they were when
/// docs/methods/simulation.md was written.
const WIDTHS: [(usize, f64); 5] = [(2, 3.212), (3, 2.466), (5, 1.716), (10, 1.083), (20, 0.709)];

#[test]
#[ignore = "minutes of computing; see the top of the file"]
fn with_few_studies_the_default_intervals_keep_their_promise() {
    const EACH: u64 = 600;
    println!("k, intervals: worst and mean coverage, mean width by Wald's, answers without");
    let mut faults = Vec::new();
    for (k, known) in WIDTHS {
        let mut worlds = Vec::new();
        for (se, sp) in [(0.75, 0.85), (0.55, 0.95)] {
            let mu = [se, sp].map(|p: f64| (p / (1.0 - p)).ln());
            for arms in [[10, 40], [20, 100]] {
                worlds.extend([0.0, 0.6, 1.0].map(|tau| World { mu, tau: [tau; 2], rho: -0.6, arms }));
            }
        }
        // By world, then kind of interval.
        let tallies: Vec<[Tally; 4]> = worlds
            .iter()
            .map(|world| {
                let review = |nth: u64| {
                    let mut rng = ChaCha8Rng::seed_from_u64(SEED + nth);
                    let studies = world.review(k, &mut rng);
                    KINDS.map(|interval| {
                        let options = PoolOptions { interval, ..PoolOptions::default() };
                        Tally::of(pool(&studies, options).ok().as_ref(), world)
                    })
                };
                let add = |a: [Tally; 4], b: [Tally; 4]| std::array::from_fn(|kind| a[kind].and(b[kind]));
                (0..EACH).into_par_iter().map(review).reduce(Default::default, add)
            })
            .collect();
        let mean_width = |kind: usize| {
            let of = |tally: &Tally| tally.widths.iter().sum::<f64>() / (4.0 * (tally.reviews - tally.without));
            tallies.iter().map(|of_world| of(&of_world[kind])).sum::<f64>() / tallies.len() as f64
        };
        for (kind, interval) in KINDS.into_iter().enumerate() {
            let covered: Vec<f64> = tallies
                .iter()
                .flat_map(|of_world| of_world[kind].covered.map(|it| it / of_world[kind].reviews))
                .collect();
            let (worst, mean) =
                (covered.iter().copied().fold(1.0, f64::min), covered.iter().sum::<f64>() / covered.len() as f64);
            let without: f64 = tallies.iter().map(|of_world| of_world[kind].without).sum();
            let times = mean_width(kind) / mean_width(3);
            println!(
                "k = {k}, {interval:?}: {:.1} / {:.1} %, {times:.2}, {without}; mean width {:.3}",
                100.0 * worst,
                100.0 * mean,
                mean_width(kind)
            );
            if interval == IntervalChoice::Posterior {
                // Two standard errors of a coverage: the worst of 48 is low by chance as well.
                let chance = 2.0 * (0.93 * 0.07 / EACH as f64).sqrt();
                if worst < 0.93 - chance || mean_width(kind) > 1.1 * known {
                    faults.push(format!("k = {k}: worst {worst}, width {} where {known} is known", mean_width(kind)));
                }
            }
        }
    }
    assert!(faults.is_empty(), "{faults:?}");
}

#[test]
#[ignore = "minutes of computing; see the top of the file"]
fn a_thousand_nasty_reviews_all_get_an_answer_with_its_reason() {
    let mut rng = ChaCha8Rng::seed_from_u64(SEED);
    let (mut not_converged, mut limited, mut boundary) = (0, 0, 0);
    let mut models = std::collections::BTreeMap::<String, usize>::new();
    for _ in 0..REVIEWS {
        let world = World {
            mu: [rng.random_range(-1.0..5.0), rng.random_range(-1.0..6.0)],
            tau: [rng.random_range(0.0..3.0), rng.random_range(0.0..3.0)],
            rho: rng.random_range(-1.0..=1.0),
            arms: if rng.random_bool(0.5) { [1, 12] } else { [5, 400] },
        };
        let k = rng.random_range(2..=8);
        let mut studies = world.review(k, &mut rng);
        if rng.random_bool(0.3) {
            let raw =
                RawCounts { tp: Some(f64::from(rng.random_range(1..9_u32))), fn_: Some(0.0), ..RawCounts::default() };
            studies.push(Counts::check(raw).unwrap());
        }
        let pooled = pool(&studies, PoolOptions::classical()).unwrap();
        let said = serde_json::to_string(&pooled).unwrap();
        assert!(!said.contains("NaN") && pooled.ladder.last().unwrap().kept, "{said}");
        let s = &pooled.summary;
        assert!(s.sensitivity.is_some() && s.specificity.is_some(), "{said}");
        assert!(s.sensitivity.unwrap().lower <= s.sensitivity.unwrap().upper, "{said}");
        not_converged += usize::from(!pooled.converged);
        limited += usize::from(said.contains("quadrature_limit"));
        boundary += usize::from(said.contains("at_boundary"));
        *models.entry(format!("{:?}, {:?}", pooled.model, pooled.reason)).or_default() += 1;
        // What hangs on the pool must answer too, or say why not.
        let levels: Vec<usize> = (0..studies.len()).map(|i| i % 2).collect();
        let _ = compare_levels(&studies, &levels, Level::default());
        let _ = (heterogeneity(&studies, &pooled), roc_space(&pooled, &studies));
        let _ = small_study_effects(&studies, Default::default());
        assert_eq!(leave_one_out(&studies, PoolOptions::classical()).unwrap().len(), studies.len());
        for model in [ModelChoice::Bivariate, ModelChoice::NormalReml, ModelChoice::NormalMl] {
            let answer = pool(&studies, PoolOptions { model, ..PoolOptions::classical() });
            assert!(answer.is_ok_and(|pooled| pooled.converged), "{model:?}: {studies:?}");
        }
    }
    println!(
        "of {REVIEWS}: {not_converged} not converged, {limited} at the limit of quadrature, {boundary} at a boundary; {models:#?}"
    );
    assert_eq!(not_converged, 0);
}
