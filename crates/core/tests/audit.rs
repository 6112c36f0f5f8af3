//! The checks find what a sheet forgot or contradicts, and nothing in a sheet that is right.

use std::collections::BTreeMap;
use std::sync::Arc;

use proptest::collection::vec;
use proptest::prelude::*;
use pruvex_core::catalogue::{
    Digest, Finding, FindingCode, Neighbours, Sheet, SheetInput, Structure, StructureInput, Vocabulary, audit,
};
use serde_json::{Value, json};

fn vocabulary() -> Vocabulary {
    let structure = |value: Value| Structure::check(&serde_json::from_value::<StructureInput>(value).unwrap()).unwrap();
    Vocabulary::new([
        structure(
            json!({ "region": "hand_wrist", "name": "Short thumb abductor", "other_names": ["Abductor of the thumb"],
            "tissue": "muscle", "actions": [{ "joint": "thumb_base", "motion": "abduction" }] }),
        ),
        structure(json!({ "region": "hand_wrist", "name": "Wrist ligament", "tissue": "ligament" })),
        structure(json!({ "region": "knee", "name": "Inner meniscus", "tissue": "cartilage" })),
    ])
}

/// A strength test in which nothing is forgotten.
fn whole() -> Value {
    json!({
        "name": "Thumb held up", "region": "hand_wrist", "purpose": "strength", "condition": "Thumb weakness",
        "positive_finding": "Gives way",
        "cautions": [{ "text": "Sharp pain", "kind": "stop_rule" }],
        "variants": [{
            "name": "As taught",
            "joints": [{ "joint": "thumb_base", "motion": "abduction", "from": 20, "to": 50 }],
            "phases": [{ "name": "Hold" }],
            "steps": [
                { "text": "Lift the thumb off the palm and keep it there", "mode": "active", "joint": "thumb_base", "motion": "abduction", "degrees": 40 },
                { "text": "Push it down towards the palm", "mode": "resisted", "joint": "thumb_base", "motion": "adduction", "phase": "Hold" }
            ],
            "targets": [{ "structure": "abductor of the THUMB", "role": "contracted", "phase": "hold" }],
            "criteria": [
                { "outcome": "positive", "kind": "threshold", "text": "Below", "comparison": "less_than", "value": 20, "unit": "N" },
                { "outcome": "negative", "kind": "sign", "text": "Holds" }
            ]
        }],
        "interpretation": {
            "measures": [{ "name": "Holds", "choices": ["yes", "no"] }],
            "rows": [
                { "reading": "strong", "conditions": [{ "measure": "Holds", "choices": ["yes"] }] },
                { "reading": "weak", "conditions": [{ "measure": "Holds", "choices": ["no"] }] }
            ]
        }
    })
}

fn sheet(value: &Value) -> Sheet {
    Sheet::check(&serde_json::from_value::<SheetInput>(value.clone()).unwrap()).unwrap()
}

/// The whole sheet with one place changed.
fn with(pointer: &str, value: Value) -> Value {
    let mut changed = whole();
    *changed.pointer_mut(pointer).unwrap() = value;
    changed
}

fn codes(findings: &[Finding]) -> Vec<(FindingCode, &str)> {
    findings.iter().map(|finding| (finding.code, finding.field.as_str())).collect()
}

#[test]
fn a_whole_sheet_has_no_finding() {
    assert_eq!(audit(&sheet(&whole()), &vocabulary()), []);
}

#[test]
fn each_omission_and_contradiction_is_found_in_its_place() {
    use FindingCode as F;
    let step = "/variants/0/steps/1";
    let cases: Vec<(&str, Value, F, &str)> = vec![
        ("/cautions", json!([]), F::NoCaution, "cautions"),
        ("/purpose", json!("pain_provocation"), F::NoStopRule, ""),
        ("/variants/0/steps", json!([]), F::NoSteps, "variants"),
        ("/variants/0/criteria/1/outcome", json!("equivocal"), F::NoNegative, "variants[0].criteria"),
        ("/variants/0/criteria/0/unit", json!(""), F::NoComparison, "variants[0].criteria[0]"),
        ("/variants/0/criteria/0/value", Value::Null, F::NoComparison, "variants[0].criteria[0]"),
        ("/variants/0/steps/1/motion", json!("abduction"), F::ResistedDirection, "variants[0].targets[0]"),
        ("/variants/0/steps/1/joint", json!("wrist"), F::ResistedDirection, "variants[0].targets[0]"),
        ("/variants/0/steps/0/degrees", json!(70), F::AngleOutsideRange, "variants[0].steps[0]"),
        ("/variants/0/targets/0/structure", json!("Thumb thing"), F::UnknownStructure, "variants[0].targets[0]"),
        (
            "/variants/0/targets/0/structure",
            json!("Inner meniscus"),
            F::StructureOutsideRegion,
            "variants[0].targets[0]",
        ),
        ("/variants/0/targets/0/phase", json!("Squeeze"), F::UnknownPhase, "variants[0].targets[0]"),
        (
            "/interpretation/rows/1/conditions/0/choices",
            json!(["perhaps"]),
            F::UnreadableCondition,
            "interpretation.rows[1].conditions[0]",
        ),
        ("/interpretation/rows/1/conditions/0/choices", json!(["yes"]), F::InterpretationGap, "interpretation"),
        ("/interpretation/rows/1/conditions", json!([]), F::InterpretationOverlap, "interpretation"),
    ];
    assert!(whole().pointer(step).is_some());
    for (pointer, value, code, field) in cases {
        let mut changed = with(pointer, value);
        let mut expected = field;
        if code == F::NoStopRule {
            changed["cautions"][0]["kind"] = json!("precaution");
            expected = "cautions";
        }
        let findings = audit(&sheet(&changed), &vocabulary());
        assert!(codes(&findings).contains(&(code, expected)), "{pointer}: {findings:#?}");
        assert!(findings.iter().all(|finding| !finding.message.is_empty() && !finding.remedy.is_empty()));
    }
    let opposed = audit(&sheet(&with("/variants/0/steps/1/motion", json!("abduction"))), &vocabulary());
    assert!(opposed[0].message.contains("abduction of the thumb base"), "{}", opposed[0].message);
}

/// A passive turn said to load the ligament.
fn turning(name: &str, motion: &str) -> Value {
    let mut value = with(
        "/variants/0/steps",
        json!([
            { "text": format!("{name}: turn it as far as it goes"), "mode": "passive", "joint": "wrist", "motion": motion }
        ]),
    );
    value["name"] = json!(name);
    value["variants"][0]["targets"] = json!([{ "structure": "Wrist ligament", "role": "tension" }]);
    value
}

#[test]
fn opposite_turns_for_one_structure_contradict_within_a_sheet_and_across() {
    let mut both = turning("Wrist turned", "pronation");
    let back = json!({ "text": "Now the other way", "mode": "passive", "joint": "wrist", "motion": "supination" });
    both["variants"][0]["steps"].as_array_mut().unwrap().push(back.clone());
    assert_eq!(
        codes(&audit(&sheet(&both), &vocabulary())),
        [(FindingCode::ContradictoryDirection, "variants[0].targets[0]")]
    );
    // Told apart by phases, both may stand.
    both["variants"][0]["phases"] = json!([{ "name": "There" }, { "name": "Back" }]);
    both["variants"][0]["steps"][0]["phase"] = json!("There");
    both["variants"][0]["steps"][1]["phase"] = json!("Back");
    both["variants"][0]["targets"][0]["phase"] = json!("There");
    assert_eq!(codes(&audit(&sheet(&both), &vocabulary())), []);

    let (one, other) = (sheet(&turning("Palm down", "pronation")), sheet(&turning("Palm up", "supination")));
    let neighbours = Neighbours::new(vec![(1, Arc::new(Digest::of(&one))), (2, Arc::new(Digest::of(&other)))]);
    let findings = neighbours.compare(&Digest::of(&one), Some(1));
    assert_eq!(codes(&findings), [(FindingCode::ContradictsOtherTest, "variants[0].targets[0]")]);
    assert!(findings[0].message.contains("Palm up"), "{}", findings[0].message);
    let agreeing = sheet(&turning("Palm lowered", "pronation"));
    let alone = Neighbours::new(vec![(1, Arc::new(Digest::of(&one))), (3, Arc::new(Digest::of(&agreeing)))]);
    assert!(alone.compare(&Digest::of(&one), Some(1)).is_empty());
}

#[test]
fn twins_are_pointed_out_and_modified_forms_are_not() {
    let named = |name: &str, aliases: Value| {
        let mut value = whole();
        value["name"] = json!(name);
        value["aliases"] = aliases;
        value["variants"][0]["steps"] =
            json!([{ "text": format!("Something particular to the {name} and nothing else at all") }]);
        sheet(&value)
    };
    let there = named("Wrist flexion, held", json!(["Held palmar flexion"]));
    let neighbours = Neighbours::new(vec![(7, Arc::new(Digest::of(&there)))]);
    let found = |name: &str, aliases: Value| {
        let findings = neighbours.compare(&Digest::of(&named(name, aliases)), None);
        findings.into_iter().map(|finding| (finding.code, finding.field)).collect::<Vec<_>>()
    };
    assert_eq!(found("held palmar FLEXION", json!([])), [(FindingCode::NameOfOtherTest, "name".to_owned())]);
    assert_eq!(
        found("Other", json!(["Wrist flexion,  held"])),
        [(FindingCode::NameOfOtherTest, "aliases[0]".to_owned())]
    );
    assert_eq!(found("Held wrist flexions", json!([])), [(FindingCode::NearDuplicate, "name".to_owned())]);
    assert_eq!(found("Wrist flexion, held, reversed", json!([])), []);
    assert_eq!(found("Wrist extension, loose", json!([])), []);
    // The same steps under another name.
    let mut copied = sheet(&whole());
    copied.name = "Something else".to_owned();
    let original = Neighbours::new(vec![(1, Arc::new(Digest::of(&sheet(&whole()))))]);
    assert_eq!(
        codes(&original.compare(&Digest::of(&copied), None)),
        [(FindingCode::NearDuplicate, "variants[0].steps")]
    );
    assert!(original.compare(&Digest::of(&sheet(&whole())), Some(1)).is_empty(), "a test is not its own twin");
}

/// A sheet of few words, so that many of them are neighbours.
fn small(names: &[usize], push: bool, copied: bool) -> Sheet {
    let words = ["wrist", "flexion", "held", "thumb", "lift"];
    let mut value = whole();
    value["name"] = json!(names.iter().map(|index| words[*index]).collect::<Vec<_>>().join(" "));
    value["variants"][0]["steps"][0]["text"] = json!(if copied { "Lift it off and keep it there" } else { "Rest" });
    value["variants"][0]["joints"] = json!([]);
    value["variants"][0]["steps"][1]["joint"] = json!("forearm");
    value["variants"][0]["steps"][1]["motion"] = json!(if push { "pronation" } else { "supination" });
    sheet(&value)
}

proptest! {
    /// When tests are changed or come, the index is as if it were made anew, and only those that are told need to be compared again.
    #[test]
    fn what_is_not_touched_compares_as_before(
        all in vec((vec(0..5usize, 1..4), any::<bool>(), any::<bool>()), 2..12),
        new in vec((0..14u128, (vec(0..5usize, 1..4), any::<bool>(), any::<bool>())), 1..4),
    ) {
        let digest = |(names, push, copied): &(Vec<usize>, bool, bool)| Arc::new(Digest::of(&small(names, *push, *copied)));
        let mut tests: Vec<(u128, Arc<Digest>)> = (0..).zip(all.iter().map(digest)).collect();
        let before = Neighbours::new(tests.clone());
        let changed: BTreeMap<u128, Arc<Digest>> = new.iter().map(|(key, new)| (*key, digest(new))).collect();
        let mut after = Neighbours::new(tests.clone());
        let touched = after.replace(changed.clone().into_iter().collect());
        tests.retain(|(key, _)| !changed.contains_key(key));
        tests.extend(changed);
        tests.sort_by_key(|(key, _)| *key);
        let anew = Neighbours::new(tests.clone());
        for (key, _) in tests {
            prop_assert_eq!(after.compare_stored(key), anew.compare_stored(key), "{}", key);
            if !touched.contains(&key) {
                prop_assert_eq!(before.compare_stored(key), anew.compare_stored(key), "{}", key);
            }
        }
    }
}

#[test]
fn a_word_that_very_many_share_ceases_to_tell_and_begins_again() {
    let digest = |name: &str| {
        let mut value = whole();
        (value["name"], value["aliases"]) = (json!(name), json!([]));
        value["variants"][0]["steps"] = json!([{ "text": name }]);
        Arc::new(Digest::of(&sheet(&value)))
    };
    let letters =
        |n: u128| (0..3).map(|at| char::from(b'a' + u8::try_from(n / 7_u128.pow(at) % 7).unwrap())).collect::<String>();
    let name = |n: u128| {
        if n < 2 { format!("zzyzx lift{}", ["", "s"][n as usize]) } else { format!("zzyzx qq{}", letters(n)) }
    };
    // The first two are alike by the letters of their names, as long as the word that they share tells anything.
    let mut all = Neighbours::new((0..400).map(|n| (n, digest(&name(n)))));
    let twin = |all: &Neighbours| all.compare_stored(0).iter().any(|it| it.code == FindingCode::NearDuplicate);
    assert!(twin(&all));
    let touched = all.replace(vec![(400, digest(&name(400)))]);
    assert!(!twin(&all) && touched.contains(&0), "one more than tells anything");
    let touched = all.replace(vec![(400, digest("another"))]);
    assert!(twin(&all) && touched.contains(&0));
}
