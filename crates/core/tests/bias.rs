//! What is computed of biases: a reference standard that errs, people who were not verified. Against reference values, and laws that hold for any table.

use crate::common::{assert_close, csv_rows, number};
use proptest::prelude::*;
use pruvex_core::accuracy::{
    CorrectedShare, Counts, Flow, ReferenceErrors, ReferenceRange, VerificationCounts, apparent_accuracy,
    correct_for_reference, correct_for_verification, correct_over_range, corrected_table,
};
use pruvex_core::{Count, Estimate, Level, Probability};

fn p(value: f64) -> Probability {
    Probability::new(value).unwrap()
}

fn same(value: Option<f64>, expected: &str, what: &str) {
    match (value, number(expected)) {
        (Some(value), Some(expected)) if expected.abs() < 1e-9 => assert!(value.abs() < 1e-9, "{what}: {value}"),
        (Some(value), Some(expected)) => assert_close(value, expected, 1e-9, what),
        (value, expected) => assert!(value.is_none() && expected.is_none(), "{what}: {value:?} {expected:?}"),
    }
}

/// Flags as they are written.
fn flags(flags: &impl serde::Serialize) -> Vec<String> {
    serde_json::from_value(serde_json::to_value(flags).unwrap()).unwrap()
}

fn expected_flags(text: &str) -> Vec<&str> {
    text.split(';').filter(|it| *it != "ok").collect()
}

#[test]
fn tables_against_an_erring_reference_are_corrected_as_in_the_reference_values() {
    for row in csv_rows("imperfect_reference.csv") {
        let of = |name: &str| row[name].parse::<f64>().unwrap();
        let id = &row["id"];
        let reference = ReferenceErrors { sensitivity: p(of("ref_sens")), specificity: p(of("ref_spec")) };
        let found = correct_for_reference(["tp", "fp", "fn", "tn"].map(of), reference);
        assert_eq!(flags(&found.flags), expected_flags(&row["flags"]), "{id}");
        same(found.prevalence, &row["corrected_prev"], &format!("{id} prevalence"));
        same(found.sensitivity, &row["corrected_sens"], &format!("{id} sensitivity"));
        same(found.specificity, &row["corrected_spec"], &format!("{id} specificity"));
        for (index, name) in ["corrected_tp", "corrected_fp", "corrected_fn", "corrected_tn"].into_iter().enumerate() {
            same(found.cells.map(|cells| cells[index]), &row[name], &format!("{id} {name}"));
        }
        let bounds = found.any_dependence;
        for (index, end) in ["lo", "hi"].into_iter().enumerate() {
            same(bounds.sensitivity.map(|it| it[index]), &row[&format!("sens_dep_{end}")], &format!("{id} sens {end}"));
            same(bounds.specificity.map(|it| it[index]), &row[&format!("spec_dep_{end}")], &format!("{id} spec {end}"));
        }
        let truth = [p(of("true_sens")), p(of("true_spec"))];
        let apparent = apparent_accuracy(truth, p(of("prevalence")), reference);
        same(apparent.sensitivity, &row["implied_sens"], &format!("{id} implied sensitivity"));
        same(apparent.specificity, &row["implied_spec"], &format!("{id} implied specificity"));
        for (index, end) in ["lo", "hi"].into_iter().enumerate() {
            let (sens, spec) = (apparent.sensitivity_range, apparent.specificity_range);
            same(sens.map(|it| it[index]), &row[&format!("implied_sens_{end}")], &format!("{id} implied sens {end}"));
            same(spec.map(|it| it[index]), &row[&format!("implied_spec_{end}")], &format!("{id} implied spec {end}"));
        }
    }
}

#[test]
fn studies_that_verify_some_people_only_are_corrected_as_in_the_reference_values() {
    for row in csv_rows("verification.csv") {
        let count = |name: &str| Count::new(row[name].parse().unwrap()).unwrap();
        let id = &row["id"];
        let counts = VerificationCounts {
            positive_with: count("pos_diseased"),
            positive_without: count("pos_nondiseased"),
            positive_unverified: count("pos_unverified"),
            negative_with: count("neg_diseased"),
            negative_without: count("neg_nondiseased"),
            negative_unverified: count("neg_unverified"),
        };
        let found = correct_for_verification(&counts, Level::default());
        assert_eq!(flags(&found.flags), expected_flags(&row["status"]), "{id}");
        assert_eq!(found.empty_cell.to_string(), row["zero_cell"], "{id}");
        for (value, name) in [
            (found.naive_sensitivity, "naive_sens"),
            (found.naive_specificity, "naive_spec"),
            (found.positives_verified, "verified_pos_share"),
            (found.negatives_verified, "verified_neg_share"),
            (found.sensitivity_range.map(|it| it[0]), "sens_noassume_lo"),
            (found.sensitivity_range.map(|it| it[1]), "sens_noassume_hi"),
            (found.specificity_range.map(|it| it[0]), "spec_noassume_lo"),
            (found.specificity_range.map(|it| it[1]), "spec_noassume_hi"),
        ] {
            same(value.map(Probability::get), &row[name], &format!("{id} {name}"));
        }
        let share = |of: Option<CorrectedShare>, name: &str| {
            let part = |end: &str| row[&format!("{name}{end}")].as_str();
            let interval = of.and_then(|it| it.interval);
            same(of.map(|it| it.estimate.get()), part(""), &format!("{id} {name}"));
            same(of.and_then(|it| it.logit_se), part("_logit_se"), &format!("{id} {name} se"));
            same(interval.map(|it| it.lower.get()), part("_lo"), &format!("{id} {name} lower"));
            same(interval.map(|it| it.upper.get()), part("_hi"), &format!("{id} {name} upper"));
        };
        share(found.sensitivity, "sens");
        share(found.specificity, "spec");
        share(found.sensitivity_half_added, "sens_cc");
        share(found.specificity_half_added, "spec_cc");
    }
}

#[test]
fn who_was_hardly_verified_and_a_share_of_nothing() {
    let of = |cells: [f64; 4], unverified: [f64; 2]| {
        let counts = Counts::full(cells[0], cells[1], cells[2], cells[3]).unwrap();
        let [positive, negative] = unverified.map(Some);
        (counts, Flow::check([positive, negative, None, None, None]).unwrap())
    };
    let (counts, flow) = of([40.0, 10.0, 2.0, 18.0], [0.0, 21.0]);
    assert!(flow.hardly_verified(&counts), "20 of 41 with a negative test");
    let (counts, flow) = of([40.0, 10.0, 2.0, 18.0], [900.0, 20.0]);
    assert!(!flow.hardly_verified(&counts), "half of them is not hardly any");
    // Nobody missed among those verified: they stand for the share, whoever was not verified.
    let (counts, flow) = of([40.0, 10.0, 0.0, 18.0], [0.0, 90.0]);
    let [diseased, others] = corrected_table(&flow.verification(&counts).unwrap()).unwrap().arms().map(Option::unwrap);
    assert_eq!((diseased.correct, diseased.n), (40, 40));
    assert_eq!((others.correct, others.n), (108, 118), "none of those verified had it, so that all are taken not to");
    // Of the negatives nobody: nothing can be corrected, and everybody verified asks for nothing.
    let (counts, flow) = of([40.0, 10.0, 0.0, 0.0], [0.0, 90.0]);
    assert_eq!(corrected_table(&flow.verification(&counts).unwrap()), None);
    let (counts, flow) = of([40.0, 10.0, 2.0, 18.0], [0.0, 0.0]);
    assert_eq!(flow.verification(&counts), None);
}

proptest! {
    #[test]
    fn what_an_erring_reference_makes_of_a_test_is_undone(
        (s, c, prevalence) in (0.0..=1.0f64, 0.0..=1.0f64, 0.01..0.99f64), (r, q) in (0.55..=1.0f64, 0.55..=1.0f64),
    ) {
        let reference = ReferenceErrors { sensitivity: p(r), specificity: p(q) };
        let apparent = apparent_accuracy([p(s), p(c)], p(prevalence), reference);
        let called = prevalence * r + (1.0 - prevalence) * (1.0 - q);
        let (se, sp) = (apparent.sensitivity.unwrap(), apparent.specificity.unwrap());
        let table = [called * se, (1.0 - called) * (1.0 - sp), called * (1.0 - se), (1.0 - called) * sp];
        let back = correct_for_reference(table, reference);
        prop_assert!(back.flags.is_empty(), "{:?}", back);
        prop_assert!((back.sensitivity.unwrap() - s).abs() < 1e-6 && (back.specificity.unwrap() - c).abs() < 1e-6);
        prop_assert!((back.prevalence.unwrap() - prevalence).abs() < 1e-9);
        let [low, high] = back.any_dependence.sensitivity.unwrap();
        prop_assert!(low - 1e-9 <= s && s <= high + 1e-9);
    }

    #[test]
    fn a_range_of_errors_holds_what_every_error_in_it_gives(
        cells in prop::array::uniform4(1.0..200.0f64), ends in prop::array::uniform4(0.6..=1.0f64), at in prop::array::uniform2(0.0..=1.0f64),
    ) {
        let [a, b, c, d] = ends;
        let between = |low: f64, high: f64, at: f64| low + at * (high - low);
        let range = |a: f64, b: f64, at: f64| {
            let (low, high) = (a.min(b), a.max(b));
            Estimate::new(p(between(low, high, at).clamp(low, high)), p(low), p(high)).unwrap()
        };
        let range = ReferenceRange { sensitivity: range(a, b, at[0]), specificity: range(c, d, at[1]) };
        let found = correct_over_range(cells, range);
        let holds = |ends: Option<[f64; 2]>, value: Option<f64>| {
            ends.zip(value).is_none_or(|([low, high], value)| low - 1e-9 <= value && value <= high + 1e-9)
        };
        prop_assert!(holds(found.sensitivity, found.likely.sensitivity), "{:?}", found);
        prop_assert!(holds(found.specificity, found.likely.specificity), "{:?}", found);
        let ratio = |of: [pruvex_core::Ratio; 2]| of.map(pruvex_core::Ratio::get);
        prop_assert!(holds(found.lr_positive.map(ratio), found.likely.lr_positive.map(pruvex_core::Ratio::get)), "{:?}", found);
        prop_assert!(found.flags.is_empty() == found.sensitivity.is_some() || found.sensitivity.is_none());
    }

    #[test]
    fn any_table_and_any_reference_have_an_answer_in_words_or_numbers(
        cells in prop::array::uniform4(prop_oneof![Just(0.0), 0.0..1e9f64]), (r, q) in (0.0..=1.0f64, 0.0..=1.0f64),
    ) {
        let found = correct_for_reference(cells, ReferenceErrors { sensitivity: p(r), specificity: p(q) });
        let numbers = [found.prevalence, found.sensitivity, found.specificity];
        prop_assert!(numbers.into_iter().flatten().all(f64::is_finite), "{:?}", found);
        let of = found.any_dependence;
        for [low, high] in [of.sensitivity, of.specificity].into_iter().flatten() {
            prop_assert!((0.0..=1.0).contains(&low) && (0.0..=1.0).contains(&high), "{:?}", of);
        }
    }

    #[test]
    fn the_range_without_assumptions_holds_the_corrected_share(cells in prop::array::uniform6(prop_oneof![0..40_u32, 0..2_000_000_u32])) {
        let [a, b, c, d, e, f] = cells.map(|it| Count::new(f64::from(it)).unwrap());
        let counts = VerificationCounts {
            positive_with: a, positive_without: b, positive_unverified: c,
            negative_with: d, negative_without: e, negative_unverified: f,
        };
        let found = correct_for_verification(&counts, Level::default());
        for (share, range) in [(found.sensitivity, found.sensitivity_range), (found.specificity, found.specificity_range)] {
            if let (Some(share), Some([low, high])) = (share, range) {
                let share = share.estimate.get();
                prop_assert!(low.get() - 1e-9 <= share && share <= high.get() + 1e-9, "{:?} {:?}", counts, found);
            }
        }
        if found.flags.is_empty() {
            prop_assert!(found.sensitivity.unwrap().interval.is_some() && found.specificity.unwrap().interval.is_some());
        }
    }

    #[test]
    fn a_corrected_table_says_what_the_correction_says_and_is_worth_no_more(
        verified in prop::array::uniform4(5..400_u32), unverified in prop::array::uniform2(0..2_000_u32),
    ) {
        let [a, b, c, d, e, f] =
            [verified[0], verified[1], unverified[0], verified[2], verified[3], unverified[1]].map(|it| Count::new(f64::from(it)).unwrap());
        let counts = VerificationCounts {
            positive_with: a, positive_without: b, positive_unverified: c,
            negative_with: d, negative_without: e, negative_unverified: f,
        };
        let found = correct_for_verification(&counts, Level::default());
        let table = corrected_table(&counts).unwrap();
        let everybody = u64::from(verified.iter().chain(&unverified).sum::<u32>());
        for (arm, share) in table.arms().into_iter().zip([found.sensitivity, found.specificity]) {
            let (arm, share) = (arm.unwrap(), share.unwrap());
            let (n, right, p) = (arm.n as f64, arm.correct as f64, share.estimate.get());
            prop_assert!(arm.n <= everybody, "{:?}", table);
            // Whole people: the share by half a person, unless none or all would be right; the number by one half.
            let rounded = if arm.correct == 1 || arm.correct + 1 == arm.n { 1.0 } else { 0.51 };
            prop_assert!((right - n * p).abs() <= rounded, "{:?} {}", table, p);
            let worth = 1.0 / (share.logit_se.unwrap().powi(2) * p * (1.0 - p));
            prop_assert!((n - worth).abs() <= 0.51 || worth < 2.0, "{:?} {}", table, worth);
        }
        if unverified == [0, 0] {
            prop_assert_eq!(table, Counts::full(f64::from(verified[0]), f64::from(verified[1]), f64::from(verified[2]), f64::from(verified[3])).unwrap());
        }
    }
}
