//! Own estimates beside Bayes' rule, and drills: repeatable, with one right answer that stands on the sheet.

use std::collections::HashSet;

use proptest::prelude::*;
use pruvex_core::catalogue::{Finding, FindingCode, Sheet, SheetInput};
use pruvex_core::teach::{
    Drill, DrillOption, DrillQuestion, DrillSheet, NoDrill, OwnEstimate, ScreeningDecision, Skill, drill, updating,
};
use pruvex_core::{Probability, Ratio, TestId};
use serde_json::{Value, json};
use uuid::Uuid;

use crate::common::json as reference;

fn estimate(pre_test: f64, ratio: f64, given: f64) -> OwnEstimate {
    let p = |p| Probability::new(p).unwrap();
    OwnEstimate { pre_test: p(pre_test), ratio: Ratio::new(ratio).unwrap(), given: p(given) }
}

#[test]
fn own_estimates_meet_the_reference_values() {
    let items = reference("scoring.json");
    let compared: Vec<&Value> = items.as_array().unwrap().iter().filter(|it| it["type"] == "agreement").collect();
    assert_eq!(compared.len(), 3);
    for item in compared {
        let (id, expected) = (&item["id"], &item["expected"]);
        let all = |name: &str| -> Vec<f64> {
            item[name].as_array().unwrap().iter().map(|it| it.as_str().unwrap().parse().unwrap()).collect()
        };
        let (pre_test, ratios, given) = (all("pretest"), all("lr"), all("estimate"));
        let estimates: Vec<OwnEstimate> =
            (0..given.len()).map(|nth| estimate(pre_test[nth], ratios[nth], given[nth])).collect();
        let of = updating(&estimates).unwrap();
        for (name, value) in [
            ("mean_log_odds_error", Some(of.mean_error)),
            ("mean_abs_log_odds_error", Some(of.mean_absolute_error)),
            ("rmse_log_odds", Some(of.root_mean_square_error)),
            ("mean_abs_probability_error", Some(of.mean_absolute_probability_error)),
            ("update_slope", of.line.map(|it| it.slope)),
            ("error_slope_on_log_lr", of.line.map(|it| it.slope - 1.0)),
            ("error_slope_se", of.line.and_then(|it| it.slope_se)),
            ("error_intercept", of.line.map(|it| it.intercept)),
            ("update_ratio_through_origin", of.through_origin),
        ] {
            match (value, expected[name].as_f64()) {
                (Some(value), Some(expected)) => assert!((value - expected).abs() < 1e-10, "{id} {name} {value}"),
                (value, expected) => assert_eq!(value, expected, "{id} {name}"),
            }
        }
    }
}

#[test]
fn what_has_no_finite_error_is_left_out() {
    assert_eq!(updating(&[]), None);
    assert_eq!(updating(&[estimate(0.3, f64::INFINITY, 0.9), estimate(1.0, 4.0, 1.0), estimate(0.2, 0.0, 0.0)]), None);
    let of = updating(&[estimate(0.3, 1.0, 1.0), estimate(0.3, f64::INFINITY, 0.5)]).unwrap();
    assert_eq!((of.n, of.line, of.through_origin), (1, None, None));
    assert!(of.mean_error.is_finite());
    let two = updating(&[estimate(0.5, 2.0, 0.6), estimate(0.5, 8.0, 0.8)]).unwrap();
    assert!(two.line.is_some_and(|it| it.slope_se.is_none() && it.slope < 1.0), "conservative: {two:?}");
}

/// Sheets of one region: of each so much as a drill needs.
fn sheets(count: usize) -> Vec<Sheet> {
    let biases = ["towards_positive", "towards_negative", "invalid"];
    let motions = ["flexion", "abduction", "internal_rotation", "pronation"];
    let sheet = |nth: usize| {
        let pitfall = |part: usize| {
            json!({ "text": format!("Mistake {nth}.{part}"), "cue": format!("Seen {nth}.{}", part / 2),
                "remedy": if part == 1 { String::new() } else { format!("Mend {nth}.{part}") },
                "bias": biases[(nth + part) % 3] })
        };
        let step = |part: usize| {
            json!({ "text": format!("Step {nth}.{part}"), "joint": "shoulder", "mode": "resisted",
                "motion": motions[(nth + part) % 4] })
        };
        let caution = |kind: &str, scope: &str, answer: &str| {
            json!({ "text": format!("Caution {nth} {kind}"), "kind": kind, "scope": scope,
                "screening": format!("Asked {nth} {kind}?"), "unsafe_answers": [answer], "instead": "Something else" })
        };
        let input = json!({ "name": format!("Test {nth}"), "region": "shoulder", "purpose": "pain_provocation",
            "condition": "Tear", "positive_finding": "Pain", "pitfalls": (0..3).map(pitfall).collect::<Vec<_>>(),
            "variants": [{ "name": "As taught", "steps": (0..4).map(step).collect::<Vec<_>>() }],
            "interpretation": { "measures": [{ "name": "Gap", "unit": "mm", "low": 0, "high": 40, "resolution": 1 },
                    { "name": "End", "choices": ["firm", "soft"] }],
                "rows": [{ "conditions": [{ "measure": "Gap", "comparison": "less_than", "value": 5 + nth }], "reading": "Normal" },
                    { "conditions": [{ "measure": "Gap", "comparison": "at_least", "value": 5 + nth },
                        { "measure": "End", "choices": ["firm"] }], "reading": "Torn", "grade": "partial" },
                    { "conditions": [{ "measure": "Gap", "comparison": "at_least", "value": 5 + nth },
                        { "measure": "End", "choices": ["soft"] }], "reading": "Torn", "grade": "complete" }] },
            "cautions": [caution("contraindication", "test", "no"), caution("precaution", "test", "yes"),
                { "text": "Fever", "kind": "contraindication", "scope": "examination", "screening": format!("Fever {nth}?"),
                    "unsafe_answers": ["yes"], "instead": "Refer", "within_hours": 0 }] });
        let input: SheetInput = serde_json::from_value(input).unwrap();
        Sheet::check(&input).unwrap()
    };
    (0..count).map(sheet).collect()
}

fn known<'a>(sheets: &'a [Sheet], findings: &'a [Finding]) -> Vec<DrillSheet<'a>> {
    let of = |(nth, sheet): (u128, &'a Sheet)| DrillSheet {
        test: TestId(Uuid::from_u128(nth)),
        version: 3,
        sheet,
        findings,
    };
    (0..).zip(sheets).map(of).collect()
}

fn finding(code: FindingCode) -> Finding {
    Finding { code, field: String::new(), message: String::new(), remedy: String::new() }
}

fn text(option: &DrillOption) -> &str {
    match option {
        DrillOption::Text { text } => text,
        other => panic!("{other:?}"),
    }
}

/// What the sheet says, found again by the place that the drill names.
fn stands_on_its_sheet(made: &Drill, sheets: &[Sheet]) {
    let sheet = sheets.iter().find(|it| it.name == made.name).unwrap();
    let written = serde_json::to_value(sheet).unwrap();
    let pointer = format!("/{}", made.place.replace(['[', '.'], "/").replace(']', ""));
    let part = written.pointer(&pointer).unwrap_or_else(|| panic!("{pointer}"));
    let right = &made.options[made.right[0]];
    match &made.question {
        DrillQuestion::WhichMistake { cue } => {
            assert_eq!((json!(cue), text(right)), (part["cue"].clone(), part["text"].as_str().unwrap()));
            // Nothing else on any sheet is seen in this way.
            for wrong in made.options.iter().filter(|it| *it != right) {
                let same = sheets.iter().flat_map(|it| &it.pitfalls).find(|it| it.text == text(wrong)).unwrap();
                assert_ne!(&same.cue, cue);
            }
        }
        DrillQuestion::WhichWay { .. } => assert_eq!(serde_json::to_value(right).unwrap()["bias"], part["bias"]),
        DrillQuestion::WhatToDo { .. } => assert_eq!(text(right), part["remedy"]),
        DrillQuestion::WhichPush { effort, .. } => {
            let push = &serde_json::to_value(right).unwrap()["motion"];
            assert_eq!(*push, part["motion"]);
            let other_way = DrillOption::Motion { motion: *effort };
            assert!(made.options.contains(&other_way) && *right != other_way);
        }
        DrillQuestion::WhichReading { found } => {
            let values = found.iter().map(|it| (it.measure.clone(), it.value.clone().unwrap())).collect();
            let rows = sheet.interpretation.read(&values).unwrap().rows;
            assert_eq!(made.place, format!("interpretation.rows[{}]", rows[0]));
            let grade = part["grade"].as_str().unwrap();
            let reading = part["reading"].as_str().unwrap();
            assert_eq!(text(right), if grade.is_empty() { reading.to_owned() } else { format!("{reading} ({grade})") });
        }
        DrillQuestion::WhetherToExamine { answer, .. } => {
            let holds = part["unsafe_answers"].as_array().unwrap().contains(&json!(answer));
            let open = json!(answer) == "unknown";
            let careful = part["kind"] == "precaution";
            let expected = match (holds, careful) {
                (true, false) if part["scope"] == "examination" => ScreeningDecision::Stop,
                (true, false) => ScreeningDecision::SomethingElse,
                (true, true) => ScreeningDecision::WithCare,
                (false, true) if open => ScreeningDecision::WithCare,
                (false, false) if open => ScreeningDecision::FindOut,
                (false, _) => ScreeningDecision::Examine,
            };
            assert_eq!(*right, DrillOption::Decision { decision: expected });
        }
        DrillQuestion::WhichOrder => {
            let steps: Vec<&str> = part.as_array().unwrap().iter().map(|it| it["text"].as_str().unwrap()).collect();
            assert_eq!(made.right.iter().map(|nth| text(&made.options[*nth])).collect::<Vec<_>>(), steps);
            assert!(!made.right.is_sorted(), "it is not in order already");
        }
        DrillQuestion::WhichStep { steps } => {
            assert_eq!(text(right), part["text"]);
            assert_eq!(steps.iter().filter(|it| it.is_empty()).count(), 1);
            assert!(made.options.iter().all(|it| !steps.iter().any(|step| step == text(it))));
        }
    }
}

proptest! {
    #[test]
    fn a_drill_is_repeatable_and_has_one_right_answer(seed: u64, count in 2_usize..5, skill in 0_usize..5) {
        let (sheets, skill) = (sheets(count), Skill::ALL[skill]);
        let missing = [finding(FindingCode::NoDeadline)];
        let known = known(&sheets, &missing);
        let made = drill(&known, skill, seed).unwrap();
        prop_assert_eq!(&made, &drill(&known, skill, seed).unwrap());
        prop_assert_eq!((made.skill, made.version), (skill, 3));
        let distinct: HashSet<&DrillOption> = made.options.iter().collect();
        prop_assert!(distinct.len() == made.options.len() && made.options.len() >= 2);
        let all = made.question == DrillQuestion::WhichOrder;
        prop_assert_eq!(made.right.len(), if all { made.options.len() } else { 1 });
        stands_on_its_sheet(&made, &sheets);
    }
}

#[test]
fn other_seeds_ask_other_things_and_contradictions_ask_nothing() {
    let sheets = sheets(3);
    let sound = known(&sheets, &[]);
    for skill in Skill::ALL {
        let asked: HashSet<String> =
            (0..60).map(|seed| format!("{:?}", drill(&sound, skill, seed).unwrap().question)).collect();
        assert!(asked.len() > 5, "{skill:?}: {}", asked.len());
        let contradicted = [finding(FindingCode::BiasAgainstEffect)];
        assert_eq!(drill(&known(&sheets, &contradicted), skill, 1), Err(NoDrill::NoSheet));
        assert_eq!(drill(&[], skill, 1), Err(NoDrill::NoSheet));
        let bare: SheetInput = serde_json::from_value(json!({ "name": "Bare", "region": "hip", "purpose": "laxity",
            "condition": "Tear", "positive_finding": "Gap" }))
        .unwrap();
        let bare = [Sheet::check(&bare).unwrap()];
        let refused = drill(&known(&bare, &[]), skill, 1).unwrap_err();
        assert_eq!(refused, NoDrill::TooLittle(skill));
        assert!(refused.to_string().contains("it takes"), "{refused}");
    }
}
