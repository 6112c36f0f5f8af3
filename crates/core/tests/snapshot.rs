//! Frozen pools: confirmed whatever happens to their form, never when a figure changed; and what later evidence does to them.

use proptest::prelude::*;
use pruvex_core::accuracy::{Counts, RawCounts, ReferenceRange};
use pruvex_core::evidence::{
    FrozenCorrection, Happened, NotConfirmed, Selection, Side, Snapshot, SnapshotResult, SnapshotTest, StandingResult,
    WhyOut, differences, side,
};
use pruvex_core::pooling::{
    IntervalChoice, IntervalMethod, ModelChoice, PoolError, PoolOptions, correct_summary, pool,
};
use pruvex_core::{Estimate, Probability, ResultId, TestId};
use serde_json::{Map, Value, json};
use uuid::Uuid;

fn raw([tp, fp, fn_, tn]: [u32; 4]) -> RawCounts {
    let [tp, fp, fn_, tn] = [tp, fp, fn_, tn].map(|cell| Some(f64::from(cell)));
    RawCounts { tp, fp, fn_, tn }
}

/// A pool frozen as it should be.
fn frozen(tables: &[[u32; 4]], model: ModelChoice, interval: Option<IntervalMethod>) -> Snapshot {
    let counts: Vec<Counts> = tables.iter().map(|cells| Counts::check(raw(*cells)).unwrap()).collect();
    let asked = interval.map_or(IntervalChoice::Wald, IntervalChoice::from);
    let answer = pool(&counts, PoolOptions { model, interval: asked, ..PoolOptions::default() }).unwrap();
    let result = |(nth, cells): (usize, &[u32; 4])| SnapshotResult {
        id: ResultId(Uuid::from_u128(nth as u128 + 1)),
        version: 1,
        test: TestId(Uuid::from_u128(99)),
        report: format!("Report {nth} “ä”"),
        out: None,
        counts: raw(*cells),
    };
    Snapshot {
        format: Snapshot::FORMAT.to_owned(),
        engine: Snapshot::engine(),
        frozen_at: "2026-11-26T10:00:00Z".to_owned(),
        title: "Wrist module".to_owned(),
        note: String::new(),
        sample: true,
        condition: "Weak thumb".to_owned(),
        tests: vec![SnapshotTest { id: TestId(Uuid::from_u128(99)), name: "Thumb lift".to_owned() }],
        selection: Selection::default(),
        model,
        interval,
        results: tables.iter().enumerate().map(result).collect(),
        answer: json!(answer),
        reference: None,
    }
}

/// The same JSON with the members of every object the other way round.
fn reversed(value: &Value) -> Value {
    match value {
        Value::Object(members) => {
            let turned: Map<String, Value> =
                members.iter().rev().map(|(name, it)| (name.clone(), reversed(it))).collect();
            Value::Object(turned)
        }
        Value::Array(entries) => Value::Array(entries.iter().map(reversed).collect()),
        scalar => scalar.clone(),
    }
}

const TABLES: [[u32; 4]; 5] = [[40, 6, 10, 44], [30, 9, 20, 61], [45, 4, 15, 36], [25, 8, 5, 32], [50, 2, 5, 48]];

#[test]
fn what_was_frozen_is_confirmed_and_nothing_else() {
    let snapshot = frozen(&TABLES, ModelChoice::Auto, None);
    let hash = snapshot.hash();
    assert!(hash.len() == 64 && hash.chars().all(|c| c.is_ascii_hexdigit() && !c.is_ascii_uppercase()), "{hash}");
    snapshot.confirm(&hash).unwrap();
    let later = Snapshot { format: "pruvex-pool-snapshot/2".to_owned(), ..snapshot.clone() };
    assert!(matches!(later.confirm(&later.hash()), Err(NotConfirmed::Format(_))));
    // Every word is under the hash.
    for change in [
        |it: &mut Snapshot| it.title.push('!'),
        |it: &mut Snapshot| it.note.push('!'),
        |it: &mut Snapshot| it.sample = false,
        |it: &mut Snapshot| it.results[0].version = 2,
        |it: &mut Snapshot| it.results[0].report.clear(),
        |it: &mut Snapshot| it.selection.from = Some(2010),
        |it: &mut Snapshot| it.answer["k"] = json!(6),
    ] {
        let mut changed = snapshot.clone();
        change(&mut changed);
        assert!(matches!(changed.confirm(&hash), Err(NotConfirmed::Hash { .. })));
    }
    // Who makes a new hash over a changed figure is found by the computation; how long the search took is no figure.
    let mut changed = snapshot.clone();
    changed.answer["lr_positive"]["upper"] =
        json!(snapshot.answer["lr_positive"]["upper"].as_f64().unwrap() * 1.000_001);
    let Err(NotConfirmed::Differs(differing)) = changed.confirm(&changed.hash()) else { panic!("confirmed") };
    assert!(differing.len() == 1 && differing[0].starts_with("lr_positive.upper was "), "{differing:?}");
    let mut slower = snapshot.clone();
    slower.answer["iterations"] = json!(1_000);
    slower.answer["mu"]["sens"] = json!(snapshot.answer["mu"]["sens"].as_f64().unwrap() * (1.0 + 1e-12));
    slower.confirm(&slower.hash()).unwrap();
    let mut by_hand = snapshot;
    by_hand.results[2].counts.tp = Some(1.5);
    assert_eq!(by_hand.confirm(&by_hand.hash()), Err(NotConfirmed::Counts(ResultId(Uuid::from_u128(3)))));
    by_hand.results.iter_mut().for_each(|it| it.out = Some(WhyOut::SwitchedOff));
    assert_eq!(by_hand.confirm(&by_hand.hash()), Err(NotConfirmed::Pool(PoolError::NoStudies)));
}

#[test]
fn a_pool_keeps_the_intervals_it_was_frozen_with() {
    // Files from before there was a choice say nothing of it, and their hash holds.
    let before = frozen(&TABLES, ModelChoice::Auto, None);
    assert!(!json!(before).as_object().unwrap().contains_key("interval"));
    assert_eq!(before.pooled().unwrap().interval, IntervalMethod::Wald);
    for interval in [IntervalMethod::Posterior, IntervalMethod::Profile, IntervalMethod::Sandwich] {
        let snapshot = frozen(&TABLES, ModelChoice::Auto, Some(interval));
        snapshot.confirm(&snapshot.hash()).unwrap();
        assert_eq!(snapshot.pooled().unwrap().interval, interval);
        let read: Snapshot = serde_json::from_value(json!(snapshot)).unwrap();
        assert_eq!(read.hash(), snapshot.hash());
        let other = Snapshot { interval: Some(IntervalMethod::Wald), ..snapshot };
        assert!(matches!(other.confirm(&other.hash()), Err(NotConfirmed::Differs(_))), "{interval:?}");
    }
    let mut changed = frozen(&TABLES, ModelChoice::Auto, Some(IntervalMethod::Posterior));
    changed.answer["lr_positive"]["upper"] = json!(changed.answer["lr_positive"]["upper"].as_f64().unwrap() * 1.02);
    assert!(matches!(changed.confirm(&changed.hash()), Err(NotConfirmed::Differs(found)) if found.len() == 1));
}

#[test]
fn a_correction_frozen_beside_a_pool_is_computed_again_too() {
    let range = |estimate: f64| {
        let [lower, estimate, upper] =
            [estimate - 0.02, estimate, estimate + 0.02].map(|it| Probability::new(it).unwrap());
        Estimate::new(estimate, lower, upper).unwrap()
    };
    let mut snapshot = frozen(&TABLES, ModelChoice::Auto, Some(IntervalMethod::Posterior));
    assert!(!json!(snapshot).as_object().unwrap().contains_key("reference"), "files from before keep their hash");
    let errors = ReferenceRange { sensitivity: range(0.95), specificity: range(0.97) };
    let corrected = correct_summary(&snapshot.counts().unwrap(), &snapshot.pooled().unwrap().summary, errors).unwrap();
    snapshot.reference = Some(FrozenCorrection { errors, corrected: json!(corrected) });
    let read: Snapshot = serde_json::from_value(json!(snapshot)).unwrap();
    read.confirm(&snapshot.hash()).unwrap();
    snapshot.reference.as_mut().unwrap().corrected["likely"]["sensitivity"] = json!(0.99);
    let Err(NotConfirmed::Differs(differing)) = snapshot.confirm(&snapshot.hash()) else { panic!("confirmed") };
    assert!(differing.len() == 1 && differing[0].starts_with("reference.likely.sensitivity was "), "{differing:?}");
}

#[test]
fn a_name_is_asked_for_and_texts_are_checked() {
    let faults = |title: &str, note: &str| -> Vec<String> {
        Snapshot::check_words(title, note).err().into_iter().flatten().map(|it| it.field).collect()
    };
    assert_eq!(Snapshot::check_words("  Wrist ", " a\nb ").unwrap().0, "Wrist");
    assert_eq!(faults(" ", &"x".repeat(4_001)), ["title", "note"]);
    assert_eq!(faults(&"x".repeat(201), "a\u{0}b"), ["title", "note"]);
}

#[test]
fn later_evidence_enters_leaves_and_changes() {
    let mut snapshot = frozen(&TABLES, ModelChoice::Auto, None);
    snapshot.results[4].out = Some(WhyOut::SamePeople);
    let standing = |id: u128, cells: [u32; 4], out| StandingResult {
        id: ResultId(Uuid::from_u128(id)),
        report: format!("Report {}", id - 1),
        out,
        counts: Counts::check(raw(cells)).unwrap(),
    };
    let same = |nth: usize| standing(nth as u128 + 1, TABLES[nth], None);
    let out = |nth: usize| standing(nth as u128 + 1, TABLES[nth], Some(WhyOut::SamePeople));
    assert_eq!(differences(&snapshot, &[same(0), same(1), same(2), same(3), out(4)]), []);
    // Whatever happens to a result that was out does not matter until it is in.
    assert_eq!(differences(&snapshot, &[same(0), same(1), same(2), same(3)]), []);
    let years = Some(WhyOut::Years);
    let now = [
        standing(1, [41, 6, 10, 44], None),
        standing(2, TABLES[1], years),
        same(3),
        same(4),
        standing(7, [1, 2, 3, 4], None),
    ];
    let found: Vec<(u128, &str)> = differences(&snapshot, &now)
        .iter()
        .map(|it| {
            let code = match &it.happened {
                Happened::Changed { before, now } => {
                    assert_eq!((before.tp, now.cells()[0]), (Some(40.0), Some(41)));
                    "changed"
                }
                Happened::Left { why: Some(WhyOut::Years) } => "left by its year",
                Happened::Left { why: None } => "gone",
                Happened::Left { .. } => "left",
                Happened::Entered { .. } => "entered",
            };
            (it.result.0.as_u128(), code)
        })
        .collect();
    assert_eq!(found, [(1, "changed"), (2, "left by its year"), (3, "gone"), (5, "entered"), (7, "entered")]);
}

#[test]
fn an_interval_lies_on_one_side_or_across() {
    let answer = frozen(&TABLES, ModelChoice::Auto, None).pooled().unwrap();
    let lr = answer.summary.lr_positive.unwrap();
    assert_eq!([1.0, lr.estimate.get(), 100.0].map(|it| side(lr, it)), [Side::Above, Side::Across, Side::Below]);
    assert_eq!(side(lr, lr.upper.get()), Side::Across, "a bound that touches it does not clear it");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Through a file and back, in whatever order its members stand: the same hash, and confirmed.
    #[test]
    fn a_file_confirms_what_was_frozen(
        tables in prop::collection::vec(prop::array::uniform4(0_u32..80), 1..8),
        choice in 0_usize..3,
    ) {
        let tables: Vec<[u32; 4]> =
            tables.into_iter().filter(|cells| cells[0] + cells[2] > 0 && cells[1] + cells[3] > 0).collect();
        prop_assume!(!tables.is_empty());
        let model = [ModelChoice::Auto, ModelChoice::Independent, ModelChoice::Fixed][choice];
        let snapshot = frozen(&tables, model, None);
        let text = serde_json::to_string_pretty(&reversed(&json!(snapshot))).unwrap();
        let back: Snapshot = serde_json::from_str(&text).unwrap();
        prop_assert_eq!(back.hash(), snapshot.hash());
        prop_assert_eq!(back.confirm(&snapshot.hash()), Ok(()));
    }
}
