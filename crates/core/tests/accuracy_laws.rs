//! Laws of the single-study intervals over their whole domain: order, symmetry, monotonicity, and true coverage.

use proptest::prelude::*;
use pruvex_core::accuracy::{
    Counts, Methods, ProportionMethod, RatioMethod, proportion_interval, score_ratio_interval, study_accuracy,
};
use pruvex_core::{Estimate, Level, Ratio};
use statrs::distribution::{Binomial, Discrete};

const METHODS: [ProportionMethod; 4] = [
    ProportionMethod::Wilson,
    ProportionMethod::ClopperPearson,
    ProportionMethod::AgrestiCoull,
    ProportionMethod::Jeffreys,
];

/// Exact coverage of a proportion interval at the true value `p`: no simulation, a sum over all outcomes.
fn coverage(method: ProportionMethod, n: u64, p: f64) -> f64 {
    let binomial = Binomial::new(p, n).unwrap();
    (0..=n)
        .filter(|x| {
            let ci = proportion_interval(*x, n, Level::default(), method).unwrap();
            ci.lower.get() <= p && p <= ci.upper.get()
        })
        .map(|x| binomial.pmf(x))
        .sum()
}

#[test]
fn proportion_intervals_cover_as_they_should() {
    for n in [8, 25, 60] {
        let grid: Vec<f64> = (1..40).map(|i| f64::from(i) / 40.0).collect();
        for method in METHODS {
            let covers: Vec<f64> = grid.iter().map(|p| coverage(method, n, *p)).collect();
            let mean = covers.iter().sum::<f64>() / covers.len() as f64;
            assert!((0.94..1.0).contains(&mean), "{method:?} at n = {n} covers {mean} on average");
            if method == ProportionMethod::ClopperPearson {
                assert!(covers.iter().all(|c| *c >= 0.95 - 1e-12), "the exact interval never covers less: {covers:?}");
            }
        }
    }
}

#[test]
fn the_score_interval_of_a_ratio_covers_as_it_should() {
    for (n1, p1, n0, p0) in [(20, 0.7, 25, 0.2), (15, 0.5, 40, 0.5), (30, 0.9, 12, 0.1)] {
        let (b1, b0) = (Binomial::new(p1, n1).unwrap(), Binomial::new(p0, n0).unwrap());
        let truth = p1 / p0;
        let mut covered = 0.0;
        for x1 in 0..=n1 {
            for x0 in 0..=n0 {
                // 0/0 says nothing: every ratio stays possible.
                let covers = score_ratio_interval((x1, n1), (x0, n0), Level::default())
                    .is_none_or(|ci| ci.lower.get() <= truth && truth <= ci.upper.get());
                if covers {
                    covered += b1.pmf(x1) * b0.pmf(x0);
                }
            }
        }
        assert!((0.935..0.985).contains(&covered), "ratio of {p1} and {p0}: {covered}");
    }
}

fn cell() -> impl Strategy<Value = u32> {
    prop_oneof![2 => 0..40u32, 1 => Just(0u32), 1 => 0..1_000_000u32]
}

fn table() -> impl Strategy<Value = Counts> {
    [cell(), cell(), cell(), cell()].prop_filter("a patient", |cells| cells.iter().any(|c| *c > 0)).prop_map(|cells| {
        let [tp, fp, fn_, tn] = cells.map(f64::from);
        Counts::full(tp, fp, fn_, tn).unwrap()
    })
}

fn methods() -> impl Strategy<Value = Methods> {
    let level = prop_oneof![Just(0.95), Just(0.5), Just(0.999), 0.01..0.999f64];
    (level, 0..4usize, any::<bool>()).prop_map(|(level, method, score)| Methods {
        level: Level::new(level).unwrap(),
        proportion: METHODS[method],
        ratio: if score { RatioMethod::Score } else { RatioMethod::Log },
    })
}

fn inverse(lr: Option<Estimate<Ratio>>) -> Option<[f64; 3]> {
    lr.map(|lr| [lr.estimate, lr.upper, lr.lower].map(|r| 1.0 / r.get()))
}

proptest! {
    #[test]
    fn sides_are_worth_fewer_people_of_the_same_share(cells in prop::array::uniform4(0..5_000_u32), correlation in 0.0..=1.0f64) {
        let [tp, fp, fn_, tn] = cells.map(f64::from);
        let Ok(sides) = Counts::full(tp, fp, fn_, tn) else { return Ok(()) };
        let people = sides.as_independent(correlation);
        for (one, other) in sides.arms().into_iter().zip(people.arms()) {
            let (Some(one), Some(other)) = (one, other) else {
                prop_assert_eq!(one, other);
                continue;
            };
            let expected = one.n as f64 / (1.0 + correlation);
            // A cell that held somebody still does, which may leave two where one was due.
            prop_assert!((other.n as f64 - expected).abs() <= 1.5 && other.n <= one.n, "{:?} {:?}", one, other);
            prop_assert_eq!(one.correct == 0, other.correct == 0);
            prop_assert_eq!(one.correct == one.n, other.correct == other.n);
            let share = |arm: pruvex_core::accuracy::Arm| arm.correct as f64 / arm.n as f64;
            prop_assert!((share(one) - share(other)).abs() <= 1.0 / other.n as f64, "{:?} {:?}", one, other);
        }
        prop_assert_eq!(sides.as_independent(0.0), sides);
    }

    #[test]
    fn every_table_has_an_ordered_answer(counts in table(), methods in methods()) {
        let result = study_accuracy(&counts, methods);
        for e in [result.sensitivity, result.specificity, result.ppv, result.npv, result.accuracy, result.prevalence].into_iter().flatten() {
            prop_assert!(e.lower <= e.estimate && e.estimate <= e.upper, "{result:?}");
        }
        for e in [result.lr_positive, result.lr_negative, result.dor].into_iter().flatten() {
            prop_assert!(e.lower <= e.estimate && e.estimate <= e.upper, "{result:?}");
        }
        prop_assert!(!serde_json::to_string(&result).unwrap().contains("NaN"));
        let missing = result.lr_positive.is_none() || result.lr_negative.is_none();
        prop_assert!(!missing || !result.notes.is_empty(), "what is not estimable needs its reason");
    }

    #[test]
    fn exchanging_the_groups_exchanges_the_arms(counts in table()) {
        let (a, b) = (study_accuracy(&counts, Methods::default()), study_accuracy(&counts.swapped(), Methods::default()));
        prop_assert_eq!(a.sensitivity, b.specificity);
        prop_assert_eq!(a.specificity, b.sensitivity);
        // LR- of the mirrored study is 1 / LR+ of this one, with its bounds exchanged.
        if let (Some(mine), Some(theirs)) = (inverse(a.lr_positive), b.lr_negative) {
            for (x, y) in mine.into_iter().zip([theirs.estimate, theirs.lower, theirs.upper].map(Ratio::get)) {
                prop_assert!(x == y || (x - y).abs() <= 1e-8 * y.abs(), "{a:?} {b:?}");
            }
        }
    }

    #[test]
    fn a_higher_level_gives_a_wider_interval(x in 0..200u64, more in 0..200u64, method in 0..4usize) {
        prop_assume!(x + more > 0);
        let ci = |level: f64| proportion_interval(x, x + more, Level::new(level).unwrap(), METHODS[method]).unwrap();
        let (narrow, wide) = (ci(0.8), ci(0.99));
        prop_assert!(wide.lower <= narrow.lower && narrow.upper <= wide.upper);
    }

    #[test]
    fn one_more_success_never_lowers_a_bound(x in 0..150u64, more in 1..150u64, method in 0..4usize) {
        let n = x + more;
        let ci = |x| proportion_interval(x, n, Level::default(), METHODS[method]).unwrap();
        let (a, b) = (ci(x), ci(x + 1));
        prop_assert!(a.lower.get() <= b.lower.get() + 1e-12 && a.upper.get() <= b.upper.get() + 1e-12);
    }
}
