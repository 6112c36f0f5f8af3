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
    IntervalMethod, ModelChoice, PoolOptions, Pooled, compare_levels, heterogeneity, leave_one_out, pool, roc_space,
    small_study_effects,
};
use pruvex_core::{Estimate, Level};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use rand_distr::{Binomial, Distribution, StandardNormal};

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
    let exact = PoolOptions::default();
    let profile = PoolOptions { interval: IntervalMethod::Profile, ..exact };
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
        let pooled = pool(&studies, PoolOptions::default()).unwrap();
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
        assert_eq!(leave_one_out(&studies, PoolOptions::default()).unwrap().len(), studies.len());
        for model in [ModelChoice::Bivariate, ModelChoice::NormalReml, ModelChoice::NormalMl] {
            let answer = pool(&studies, PoolOptions { model, ..PoolOptions::default() });
            assert!(answer.is_ok_and(|pooled| pooled.converged), "{model:?}: {studies:?}");
        }
    }
    println!(
        "of {REVIEWS}: {not_converged} not converged, {limited} at the limit of quadrature, {boundary} at a boundary; {models:#?}"
    );
    assert_eq!(not_converged, 0);
}
