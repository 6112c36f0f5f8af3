//! Rebuilding tables from rounded reports: complete against the reference and against a plain loop.

use std::collections::BTreeSet;

use crate::common::json;
use proptest::prelude::*;
use pruvex_core::accuracy::{
    Fact, Figure, ProportionMethod, RebuildError, Rebuilt, RebuiltTable, Rounded, Total, rebuild,
};
use serde_json::Value;

const FIGURES: [(&str, Figure); 9] = [
    ("sens", Figure::Sensitivity),
    ("spec", Figure::Specificity),
    ("ppv", Figure::Ppv),
    ("npv", Figure::Npv),
    ("accuracy", Figure::Accuracy),
    ("prevalence", Figure::Prevalence),
    ("lr_pos", Figure::LrPositive),
    ("lr_neg", Figure::LrNegative),
    ("dor", Figure::Dor),
];
const TOTALS: [(&str, Total); 5] = [
    ("N", Total::N),
    ("diseased", Total::Diseased),
    ("nondiseased", Total::NonDiseased),
    ("test_pos", Total::TestPositive),
    ("test_neg", Total::TestNegative),
];

fn facts(reported: &Value) -> Vec<Fact> {
    let mut facts = Vec::new();
    let number = |value: &Value, scale: &Value| Rounded::parse(value.as_str().unwrap(), scale == 100).unwrap();
    for (name, figure) in FIGURES {
        if let Some(given) = reported.get(name) {
            facts.push(Fact::Figure { figure, value: number(&given["text"], &given["scale"]) });
        }
        if let Some(given) = reported.get(format!("{name}_ci")) {
            let method = match given["method"].as_str().unwrap() {
                "wilson" => ProportionMethod::Wilson,
                _ => ProportionMethod::ClopperPearson,
            };
            let bound = |index: usize| number(&given["text"][index], &given["scale"]);
            facts.push(Fact::Interval { figure, lower: bound(0), upper: bound(1), method });
        }
    }
    for (name, total) in TOTALS {
        if let Some(value) = reported.get(name) {
            facts.push(Fact::Total { total, value: value.as_u64().unwrap() as u32 });
        }
    }
    facts
}

fn found(rebuilt: Rebuilt) -> Vec<RebuiltTable> {
    match rebuilt {
        Rebuilt::Unique { table, .. } => vec![table],
        Rebuilt::Several { tables, .. } => tables,
        Rebuilt::Contradiction { .. } | Rebuilt::NotFound { .. } => Vec::new(),
    }
}

type Cells = (u32, u32, u32, u32, bool, bool);

#[test]
fn the_list_of_tables_is_complete() {
    let data = json("reconstruct.json");
    for item in data.as_array().unwrap() {
        let id = item["id"].as_str().unwrap();
        let limit = item["max_per_arm"].as_u64().unwrap_or(0) as u32;
        let tables = found(rebuild(&facts(&item["reported"]), limit).unwrap());
        let mine: BTreeSet<Cells> =
            tables.iter().map(|t| (t.tp, t.fp, t.fn_, t.tn, t.rules.half_up, t.rules.half_even)).collect();
        let cell = |table: &Value, name: &str| table[name].as_u64().unwrap() as u32;
        let expected: BTreeSet<Cells> = item["tables"]
            .as_array()
            .unwrap()
            .iter()
            .map(|t| {
                let flag = |name: &str| t[name].as_bool().unwrap();
                (cell(t, "tp"), cell(t, "fp"), cell(t, "fn"), cell(t, "tn"), flag("half_up"), flag("half_even"))
            })
            .collect();
        assert_eq!(mine, expected, "{id}");
        assert_eq!(mine.len(), tables.len(), "{id}: no table twice");
    }
}

fn figure(figure: Figure, text: &str) -> Fact {
    Fact::Figure { figure, value: Rounded::parse(text, false).unwrap() }
}

#[test]
fn a_contradiction_is_named_by_a_minimal_set() {
    // Sensitivity, specificity and the sizes agree; the predictive value cannot be.
    let report = [
        figure(Figure::Sensitivity, "0.80"),
        Fact::Total { total: Total::Diseased, value: 50 },
        figure(Figure::Specificity, "0.90"),
        Fact::Total { total: Total::NonDiseased, value: 50 },
        figure(Figure::Ppv, "0.40"),
        figure(Figure::Prevalence, "0.50"),
    ];
    let Rebuilt::Contradiction { facts } = rebuild(&report, 0).unwrap() else { panic!() };
    assert!(facts.contains(&4) && !facts.contains(&5), "{facts:?}");
    for left_out in &facts {
        let rest: Vec<Fact> = facts.iter().filter(|i| *i != left_out).map(|i| report[*i]).collect();
        if let Ok(rebuilt) = rebuild(&rest, 0) {
            assert!(!found(rebuilt).is_empty(), "without {left_out} the rest agrees");
        }
    }
    // 0.78 of 10 people is impossible whatever the rest.
    let impossible = [
        figure(Figure::Sensitivity, "0.78"),
        Fact::Total { total: Total::Diseased, value: 10 },
        figure(Figure::Accuracy, "0.8"),
        Fact::Total { total: Total::N, value: 30 },
    ];
    assert_eq!(rebuild(&impossible, 0).unwrap(), Rebuilt::Contradiction { facts: vec![0, 1] });
}

#[test]
fn as_few_statements_are_named_as_suffice() {
    let percent = |figure, text| Fact::Figure { figure, value: Rounded::parse(text, true).unwrap() };
    let total = |total, value| Fact::Total { total, value };
    let named = |report: &[Fact]| match rebuild(report, 0) {
        Ok(Rebuilt::Contradiction { facts }) => facts,
        other => panic!("{other:?}"),
    };
    // 85 % of three people: neither N nor anything else has to do with it.
    let three = [total(Total::N, 80), total(Total::Diseased, 3), percent(Figure::Sensitivity, "85")];
    assert_eq!(named(&three), [1, 2]);
    let more = [
        percent(Figure::Specificity, "90"),
        percent(Figure::Ppv, "60"),
        percent(Figure::Accuracy, "88"),
        percent(Figure::Prevalence, "4"),
    ];
    assert_eq!(named(&[&three[..], &more].concat()), [1, 2]);
    // Without any number of people: with a specificity of 80 % LR+ is at most 5, and a number is stated twice.
    let [se, sp] = [Figure::Sensitivity, Figure::Specificity].map(|figure| percent(figure, "80"));
    assert_eq!(named(&[percent(Figure::Npv, "90"), se, sp, figure(Figure::LrPositive, "9.0")]), [2, 3]);
    assert_eq!(named(&[se, total(Total::TestPositive, 30), sp, total(Total::TestPositive, 31)]), [1, 3]);
}

#[test]
fn without_the_number_of_people_the_answer_says_how_far_was_looked() {
    let report = [
        Fact::Figure { figure: Figure::Sensitivity, value: Rounded::parse("99.7", true).unwrap() },
        Fact::Figure { figure: Figure::Specificity, value: Rounded::parse("99.6", true).unwrap() },
    ];
    assert_eq!(rebuild(&report, 120), Ok(Rebuilt::NotFound { limit: 120 }));
    match rebuild(&report, 1_000).unwrap() {
        Rebuilt::Several { tables, limit, .. } => assert_eq!((tables.len(), limit), (945, Some(300))),
        other => panic!("{other:?}"),
    }
}

#[test]
fn bounds_in_the_wrong_order_are_refused() {
    let bound = |text| Rounded::parse(text, false).unwrap();
    let interval = |lower, upper| Fact::Interval {
        figure: Figure::Sensitivity,
        lower: bound(lower),
        upper: bound(upper),
        method: ProportionMethod::Wilson,
    };
    let n = Fact::Total { total: Total::N, value: 50 };
    assert_eq!(rebuild(&[n, interval("0.9", "0.5")], 0), Err(RebuildError::BoundsOrder { fact: 1 }));
    assert!(rebuild(&[n, interval("0.50", "0.5")], 0).is_ok());
}

#[test]
fn what_cannot_be_searched_is_refused_in_words() {
    assert_eq!(rebuild(&[figure(Figure::Sensitivity, "0.8")], 100), Err(RebuildError::TooOpen));
    let large = [figure(Figure::Sensitivity, "0.8"), Fact::Total { total: Total::N, value: 5_001 }];
    assert_eq!(rebuild(&large, 0), Err(RebuildError::TooLarge(5_001)));
    assert_eq!(rebuild(&[Fact::Total { total: Total::N, value: 400 }], 0), Err(RebuildError::TooMany));
    for text in ["", ".", "-0.5", "0,78", "1e3", "78 %", "0.7.8", "1234567890123456"] {
        assert_eq!(Rounded::parse(text, false), None, "{text:?}");
    }
}

#[test]
fn several_tables_tell_how_far_they_differ() {
    let report = [
        figure(Figure::Sensitivity, "0.78"),
        figure(Figure::Specificity, "0.83"),
        Fact::Total { total: Total::N, value: 60 },
    ];
    let Rebuilt::Several { tables, spread, limit: None } = rebuild(&report, 0).unwrap() else { panic!() };
    assert_eq!(tables.len(), 4);
    let [low, high] = spread.lr_positive.unwrap();
    assert!(low < high && low > 4.0 && high < 5.0, "{spread:?}");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn the_true_table_is_always_among_the_candidates(cells in [1..40u32, 1..40u32, 1..40u32, 1..40u32], decimals in 1..4usize, keep in prop::collection::vec(any::<bool>(), 9)) {
        let [tp, fp, fn_, tn] = cells;
        let (n1, n0) = (tp + fn_, fp + tn);
        let n = n1 + n0;
        let share = |num: u32, den: u32| f64::from(num) / f64::from(den);
        let values = [
            (Figure::Sensitivity, share(tp, n1)), (Figure::Specificity, share(tn, n0)), (Figure::Ppv, share(tp, tp + fp)),
            (Figure::Npv, share(tn, tn + fn_)), (Figure::Accuracy, share(tp + tn, n)), (Figure::LrPositive, share(tp, n1) / share(fp, n0)),
            (Figure::LrNegative, share(fn_, n1) / share(tn, n0)), (Figure::Prevalence, share(n1, n)),
            (Figure::Dor, f64::from(tp * tn) / f64::from(fp * fn_)),
        ];
        let mut report = vec![Fact::Total { total: Total::N, value: n }];
        for ((name, value), keep) in values.into_iter().zip(&keep) {
            if *keep {
                // Formatting rounds halves to even on the binary value; ties are rare and left to the reference.
                report.push(figure(name, &format!("{value:.decimals$}")));
            }
        }
        prop_assume!(report.len() > 3);
        let tie = values.iter().any(|(_, value)| (value * 10f64.powi(decimals as i32)).fract() == 0.5);
        prop_assume!(!tie);
        let tables = found(rebuild(&report, 0).unwrap());
        prop_assert!(tables.iter().any(|t| (t.tp, t.fp, t.fn_, t.tn) == (tp, fp, fn_, tn)), "{tables:?}");
    }
}
