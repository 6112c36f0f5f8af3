//! Post-test probabilities against the reference values, and laws of natural frequencies.

use crate::common::{assert_close, csv_rows, number};
use proptest::prelude::*;
use pruvex_core::likelihood::{natural_frequencies, post_test, post_test_interval};
use pruvex_core::{Estimate, Probability, Ratio};

#[test]
fn bayes_equals_the_reference() {
    let rows = csv_rows("posttest.csv");
    assert_eq!(rows.len(), 12);
    for row in rows {
        let value = |column: &str| row[column].parse::<f64>().unwrap();
        let pre = Probability::new(value("pretest")).unwrap();
        for (lr, post) in [("lr", "post"), ("lr_lo", "post_lo"), ("lr_hi", "post_hi")] {
            let result = post_test(pre, Ratio::new(value(lr)).unwrap()).map(Probability::get);
            match (result, number(&row[post])) {
                (Some(result), Some(expected)) => {
                    assert_close(result, expected, 1e-12, &format!("{} {post}", row["id"]))
                }
                (None, None) => {}
                pair => panic!("{} {post}: {pair:?}", row["id"]),
            }
        }
    }
}

#[test]
fn certainty_meets_its_contradiction_with_none() {
    let p = |v| Probability::new(v).unwrap();
    let r = |v| Ratio::new(v).unwrap();
    assert_eq!(post_test(p(1.0), r(0.0)), None);
    assert_eq!(post_test(p(0.0), r(f64::INFINITY)), None);
    assert_eq!(post_test(p(0.0), r(f64::MAX)).unwrap().get(), 0.0);
}

proptest! {
    #[test]
    fn a_post_test_interval_is_ordered_and_within_bounds(
        pre in 0.0..=1.0f64, lower in 0.0..50.0f64, width in prop_oneof![0.0..50.0f64, Just(f64::INFINITY)],
        share in 0.0..=1.0f64,
    ) {
        let upper = lower + width;
        let point = if width.is_finite() { lower + share * width } else { upper };
        let ratio = |v| Ratio::new(v).unwrap();
        let lr = Estimate { estimate: ratio(point), lower: ratio(lower), upper: ratio(upper) };
        if let Some(post) = post_test_interval(Probability::new(pre).unwrap(), lr) {
            prop_assert!(post.lower <= post.estimate && post.estimate <= post.upper);
        }
    }

    #[test]
    fn natural_frequencies_add_up(p in 0.0..=1.0f64, se in 0.0..=1.0f64, sp in 0.0..=1.0f64) {
        let of = |v| Probability::new(v).unwrap();
        let f = natural_frequencies(1000, of(p), of(se), of(sp));
        prop_assert_eq!(f.with_condition + f.without_condition, 1000);
        prop_assert_eq!(f.true_positive + f.false_negative, f.with_condition);
        prop_assert_eq!(f.false_positive + f.true_negative, f.without_condition);
        prop_assert!((f64::from(f.true_positive) - 1000.0 * p * se).abs() <= 1.0);
    }

    #[test]
    fn more_evidence_or_a_higher_start_never_lowers_the_answer(
        p in 0.0..=1.0f64, q in 0.0..=1.0f64, a in 1e-6..1e6f64, b in 1e-6..1e6f64,
    ) {
        let at = |p: f64, lr: f64| post_test(Probability::new(p).unwrap(), Ratio::new(lr).unwrap()).unwrap().get();
        let (low, high) = (p.min(q), p.max(q));
        prop_assert!(at(low, a) <= at(high, a) + 1e-15);
        prop_assert!(at(p, a.min(b)) <= at(p, a.max(b)) + 1e-15);
        prop_assert!((at(p, 1.0) - p).abs() < 1e-15, "a ratio of 1 changes nothing");
    }

    #[test]
    fn independent_results_multiply(p in 0.01..0.99f64, a in 0.05..20.0f64, b in 0.05..20.0f64) {
        let after = |p: Probability, lr: f64| post_test(p, Ratio::new(lr).unwrap()).unwrap();
        let start = Probability::new(p).unwrap();
        let one_by_one = after(after(start, a), b).get();
        prop_assert!((one_by_one - after(start, a * b).get()).abs() < 1e-12);
        // A result and its opposite cancel.
        prop_assert!((after(after(start, a), 1.0 / a).get() - p).abs() < 1e-12);
    }

    #[test]
    fn a_certain_ratio_gives_an_interval_without_width(p in 0.0..=1.0f64, lr in 1e-3..1e3f64) {
        let ratio = Ratio::new(lr).unwrap();
        let exactly = Estimate { estimate: ratio, lower: ratio, upper: ratio };
        let post = post_test_interval(Probability::new(p).unwrap(), exactly).unwrap();
        prop_assert_eq!(post.lower, post.upper);
    }
}
