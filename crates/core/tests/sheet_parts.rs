//! What a sheet says beyond its steps: contacts, events, levels, inability, cautions and pitfalls; and what follows from it.

use proptest::prelude::*;
use pruvex_core::catalogue::{
    Bias, Comparison, Criterion, CriterionKind, Derived, Effect, FindingCode, Motion, Outcome, Purpose, Sheet,
    SheetInput, Vocabulary, audit,
};
use serde_json::{Value, json};

fn whole(variant: Value, rest: Value) -> Value {
    let mut sheet = json!({ "name": "Thumb lift", "region": "hand_wrist", "purpose": "strength", "condition": "Weak thumb",
        "positive_finding": "Weaker", "cautions": [{ "text": "With care" }], "variants": [{ "name": "As taught" }] });
    let put = |into: &mut Value, from: Value| {
        into.as_object_mut().unwrap().extend(from.as_object().unwrap().clone());
    };
    put(&mut sheet["variants"][0], variant);
    put(&mut sheet, rest);
    sheet
}

fn check(sheet: Value) -> Result<Sheet, Vec<String>> {
    Sheet::check(&serde_json::from_value::<SheetInput>(sheet).unwrap())
        .map_err(|errors| errors.into_iter().map(|error| error.field).collect())
}

#[test]
fn what_contradicts_itself_is_refused_in_its_place() {
    let contact = |more: Value| {
        let mut contact = json!({ "placement": "Back of the hand" });
        contact.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        json!({ "contacts": [{ "placement": "back of the HAND", "tasks": ["move"] }, contact] })
    };
    let levels = |levels: Value| json!({ "grading": { "name": "Effort", "levels": levels } });
    let level = |name: &str, outcome: &str, from: Value, to: Value| json!({ "name": name, "outcome": outcome, "from": from, "to": to });
    let step = |more: Value| {
        let mut step = json!({ "text": "Turn" });
        step.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        json!({ "steps": [step] })
    };
    let in_variant = [
        (step(json!({ "until": "click" })), "steps[0].reads"),
        (step(json!({ "reads": ["angle"] })), "steps[0].until"),
        (contact(json!({ "forbidden": true, "effect": "Adds pressure" })), "contacts[1].placement"),
        (contact(json!({ "placement": "Palm", "forbidden": true })), "contacts[1].effect"),
        (
            contact(json!({ "placement": "Palm", "forbidden": true, "effect": "x", "tasks": ["move"] })),
            "contacts[1].tasks",
        ),
        (
            contact(json!({ "placement": "Palm", "forbidden": true, "effect": "x", "locks": "wrist" })),
            "contacts[1].locks",
        ),
        (json!({ "relays": [{ "joint": "hip" }] }), "relays[0].check"),
        (json!({ "measuring": { "force": -1 } }), "measuring.force"),
        (json!({ "inability": [{ "reason": "pain", "outcome": "negative" }] }), "inability[0].outcome"),
        (
            json!({ "inability": [{ "reason": "pain", "outcome": "positive" }, { "reason": "pain", "outcome": "equivocal" }] }),
            "inability[1].reason",
        ),
        (levels(json!([level("easy", "negative", Value::Null, Value::Null)])), "grading.levels"),
        (
            levels(json!([
                level("a", "positive", Value::Null, Value::Null),
                level("b", "negative", Value::Null, Value::Null)
            ])),
            "grading.levels[1].outcome",
        ),
        (
            levels(json!([level("a", "negative", json!(0), json!(3)), level("b", "positive", json!(4), json!(9))])),
            "grading.levels[1].from",
        ),
        (
            levels(json!([
                {},
                level("a", "positive", Value::Null, Value::Null),
                {},
                level("b", "negative", Value::Null, Value::Null)
            ])),
            "grading.levels[3].outcome",
        ),
        (
            levels(json!([
                level("a", "not_interpretable", json!(3), json!(0)),
                level("b", "positive", json!(0), json!(1))
            ])),
            "grading.levels[0].outcome",
        ),
        (
            levels(json!([level("a", "negative", json!(3), json!(0)), level("b", "positive", json!(0), json!(1))])),
            "grading.levels[0].to",
        ),
    ];
    for (variant, field) in in_variant {
        let faults = check(whole(variant.clone(), json!({}))).unwrap_err();
        assert!(faults.contains(&format!("variants[0].{field}")), "{variant} {faults:?}");
    }
    let in_sheet = [
        (json!({ "cautions": [{ "text": "x", "unsafe_answers": ["yes"] }] }), "cautions[0].screening"),
        (
            json!({ "cautions": [{ "text": "x", "screening": "Fall?", "unsafe_answers": ["yes", "no"] }] }),
            "cautions[0].unsafe_answers",
        ),
        (json!({ "cautions": [{ "text": "x", "scope": "joint" }] }), "cautions[0].joint"),
        (json!({ "urgent": [{ "finding": "x", "action": "y", "within_hours": -1 }] }), "urgent[0].within_hours"),
        (json!({ "indications": [{ "text": "x" }] }), "indications[0].kind"),
        (json!({ "repeats": [{ "when": "after_days" }] }), "repeats[0].days"),
        (json!({ "searches": [{ "when": "2026-02-30", "place": "x", "unusable": "y" }] }), "searches[0].when"),
        (json!({ "searches": [{ "when": "2026", "place": "x" }] }), "searches[0].unusable"),
    ];
    for (rest, field) in in_sheet {
        let faults = check(whole(json!({}), rest.clone())).unwrap_err();
        assert_eq!(faults, [field], "{rest}");
    }
    // Small numbers may be the abnormal ones, and the last class has no end.
    let falling =
        json!([level("wide", "negative", json!(9), Value::Null), level("narrow", "positive", Value::Null, json!(9))]);
    assert!(check(whole(levels(falling), json!({}))).is_ok());
    for when in ["2026", "2026-11", "2024-02-29"] {
        let rest = json!({ "searches": [{ "when": when, "place": "x", "unusable": "y" }] });
        assert!(check(whole(json!({}), rest)).is_ok(), "{when}");
    }
}

#[test]
fn what_was_forgotten_or_contradicts_is_pointed_out() {
    use FindingCode as F;
    let resisted = |effort: &str, push: &str| json!({ "steps": [{ "text": "Hold", "mode": "resisted", "motion": push, "effort": effort }] });
    let locked = |step: Value| json!({ "contacts": [{ "placement": "Wrist", "locks": "wrist", "verified": "No tendon moves" }], "steps": [step] });
    let disease = |variant: &str| {
        json!({ "indications": [{ "kind": "disease", "text": "Rheumatism" }],
        "cautions": [{ "text": "rheumatism", "kind": "contraindication", "variant": variant }] })
    };
    let pitfall = |effect: &str, bias: &str| json!({ "pitfalls": [{ "text": "x", "effect": effect, "bias": bias }] });
    let cases = [
        (resisted("abduction", "abduction"), json!({}), F::EffortAgainstPush, true),
        (resisted("abduction", "adduction"), json!({}), F::EffortAgainstPush, false),
        (
            json!({ "steps": [{ "text": "Lift", "mode": "active", "effort": "abduction" }] }),
            json!({}),
            F::EffortAgainstPush,
            true,
        ),
        (
            locked(json!({ "text": "Bend", "mode": "passive", "joint": "wrist", "motion": "flexion" })),
            json!({}),
            F::LockedJointMoved,
            true,
        ),
        (
            locked(json!({ "text": "Hold", "mode": "resisted", "joint": "wrist", "motion": "flexion" })),
            json!({}),
            F::LockedJointMoved,
            false,
        ),
        (json!({ "contacts": [{ "placement": "Wrist", "locks": "wrist" }] }), json!({}), F::LockNotVerified, true),
        (json!({ "position": "standing", "stance": { "one_leg": true } }), json!({}), F::NoFallSupport, true),
        (
            json!({ "position": "standing", "stance": { "one_leg": true, "fall_support": "Couch" } }),
            json!({}),
            F::NoFallSupport,
            false,
        ),
        (json!({ "position": "lying_face_up", "stance": { "one_leg": true } }), json!({}), F::NoFallSupport, false),
        (
            json!({}),
            json!({ "cautions": [{ "text": "x", "scope": "examination", "within_hours": 0 }] }),
            F::NoRedFlagAction,
            true,
        ),
        (
            json!({}),
            json!({ "cautions": [{ "text": "x", "scope": "examination", "instead": "Refer" }] }),
            F::NoDeadline,
            true,
        ),
        (json!({}), json!({ "urgent": [{ "finding": "x", "action": "Refer" }] }), F::NoDeadline, true),
        (
            json!({}),
            json!({ "urgent": [{ "finding": "x", "action": "Refer", "within_hours": 24 }] }),
            F::NoDeadline,
            false,
        ),
        (json!({}), json!({ "cautions": [{ "text": "x", "variant": "Other" }] }), F::UnknownVariant, true),
        (json!({}), json!({ "cautions": [{ "text": "x", "variant": "as TAUGHT" }] }), F::UnknownVariant, false),
        (json!({ "targets": [{ "structure": "x", "condition": "Other" }] }), json!({}), F::UnknownCondition, true),
        (
            json!({ "targets": [{ "structure": "x", "condition": "OTHER" }] }),
            json!({ "other_conditions": ["Other"], "interpretation": { "rows": [{ "reading": "x", "condition": "other" }] } }),
            F::UnknownCondition,
            false,
        ),
        (
            json!({}),
            json!({ "interpretation": { "rows": [{ "reading": "x", "condition": "Other" }] } }),
            F::UnknownCondition,
            true,
        ),
        (json!({}), disease(""), F::IndicationContradicted, true),
        (json!({}), pitfall("hides_sign", "towards_positive"), F::BiasAgainstEffect, true),
        (json!({}), pitfall("hides_sign", "towards_negative"), F::BiasAgainstEffect, false),
        (json!({}), pitfall("more_pain", "towards_negative"), F::BiasAgainstEffect, false),
    ];
    for (mut variant, rest, code, found) in cases {
        variant["criteria"] = json!([{ "outcome": "positive", "kind": "sign", "text": "Gives way" }, { "outcome": "negative", "text": "Holds" }]);
        let sheet = check(whole(variant.clone(), rest.clone())).unwrap();
        let findings = audit(&sheet, &Vocabulary::default());
        assert_eq!(findings.iter().any(|finding| finding.code == code), found, "{variant} {rest}: {findings:#?}");
    }
    // The same disease may speak for one way of doing it and against another.
    let mut apart = whole(json!({}), disease("Pushed"));
    apart["indications"][0]["variant"] = json!("As taught");
    apart["variants"].as_array_mut().unwrap().push(json!({ "name": "Pushed" }));
    let findings = audit(&check(apart).unwrap(), &Vocabulary::default());
    assert!(findings.iter().all(|finding| finding.code != F::IndicationContradicted));
    // Of two opposite stresses one loads a ligament.
    let step = |motion: &str| json!({ "text": motion, "mode": "passive", "joint": "wrist", "motion": motion });
    let both = json!({ "steps": [step("varus"), step("valgus")], "targets": [{ "structure": "Ligament", "role": "tension" }] });
    let findings = audit(&check(whole(both, json!({}))).unwrap(), &Vocabulary::default());
    assert!(
        findings.iter().any(|it| it.code == F::ContradictoryDirection && it.message.contains("varus")),
        "{findings:#?}"
    );
}

#[test]
fn the_force_that_is_not_written_follows_from_the_other() {
    let steps = json!({ "steps": [
        { "text": "Hold", "mode": "resisted", "effort": "abduction" },
        { "text": "Hold", "mode": "resisted", "motion": "flexion" },
        { "text": "Lift", "mode": "active", "motion": "flexion" },
    ] });
    let derived = Derived::of(&check(whole(steps, json!({}))).unwrap());
    let forces: Vec<_> = derived.steps[0].iter().map(|step| (step.effort, step.push)).collect();
    assert_eq!(
        forces,
        [
            (Some(Motion::Abduction), Some(Motion::Adduction)),
            (Some(Motion::Extension), Some(Motion::Flexion)),
            (None, None),
        ]
    );
}

#[test]
fn a_pitfall_of_the_patient_that_hides_a_sign_spoils_a_negative_result_unless_its_author_says_otherwise() {
    let pitfall = |more: Value| {
        let mut pitfall = json!({ "text": "Effusion", "effect": "hides_sign", "patient_side": true });
        pitfall.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        pitfall
    };
    let rest = json!({ "pitfalls": [pitfall(json!({})), pitfall(json!({ "negative_stands": true })), pitfall(json!({ "patient_side": false })),
        pitfall(json!({ "effect": "fakes_sign" })), pitfall(json!({ "effect": null, "bias": "towards_negative" })), pitfall(json!({ "bias": "invalid" }))] });
    let criteria = json!({ "criteria": [{ "outcome": "positive", "kind": "sign", "text": "Opens" }] });
    let derived = Derived::of(&check(whole(criteria, rest)).unwrap());
    let of: Vec<_> = derived.pitfalls.iter().map(|it| (it.direction, it.follows, it.spoils_negative)).collect();
    let (up, down) = (Some(Bias::TowardsPositive), Some(Bias::TowardsNegative));
    assert_eq!(
        of,
        [
            (down, true, true),
            (down, true, false),
            (down, true, false),
            (up, true, false),
            (down, false, true),
            (Some(Bias::Invalid), false, false)
        ]
    );
}

const EFFECTS: [(Effect, Effect); 3] = [
    (Effect::MoreMotion, Effect::LessMotion),
    (Effect::MorePain, Effect::LessPain),
    (Effect::FakesSign, Effect::HidesSign),
];
const KINDS: [CriterionKind; 11] = [
    CriterionKind::Sign,
    CriterionKind::AnyPain,
    CriterionKind::FamiliarPain,
    CriterionKind::Apprehension,
    CriterionKind::Paraesthesia,
    CriterionKind::Threshold,
    CriterionKind::SideDifference,
    CriterionKind::ActivePassiveDifference,
    CriterionKind::Ratio,
    CriterionKind::Norm,
    CriterionKind::Graded,
];
const COMPARISONS: [Option<Comparison>; 5] =
    [None, Some(Comparison::AtLeast), Some(Comparison::MoreThan), Some(Comparison::AtMost), Some(Comparison::LessThan)];

fn criterion() -> impl Strategy<Value = Criterion> {
    let outcomes =
        [Outcome::Positive, Outcome::Positive, Outcome::Negative, Outcome::Equivocal, Outcome::NotInterpretable];
    let parts = (0..KINDS.len(), 0..COMPARISONS.len(), 0..outcomes.len(), 0..4_usize);
    parts.prop_map(move |(kind, comparison, outcome, unit)| Criterion {
        kind: Some(KINDS[kind]),
        comparison: COMPARISONS[comparison],
        outcome: Some(outcomes[outcome]),
        unit: ["", "deg", "mm", "s"][unit].to_owned(),
        ..Criterion::default()
    })
}

fn opposite(bias: Option<Bias>) -> Option<Bias> {
    bias.map(|bias| match bias {
        Bias::TowardsPositive => Bias::TowardsNegative,
        Bias::TowardsNegative => Bias::TowardsPositive,
        Bias::Invalid => Bias::Invalid,
    })
}

proptest! {
    /// Over all findings, effects and purposes: opposite effects push opposite ways; a comparison turned round turns them round; what is not
    /// positive plays no part; and one more finding can only take an answer away, never turn it.
    #[test]
    fn the_direction_of_a_bias_follows_from_effect_and_findings(
        criteria in proptest::collection::vec(criterion(), 0..5), extra in criterion(), purpose in 0..Purpose::ALL.len(), pair in 0..3_usize
    ) {
        let purpose = Purpose::ALL[purpose];
        let (more, less) = EFFECTS[pair];
        let bias = more.bias(purpose, &criteria);
        prop_assert_eq!(less.bias(purpose, &criteria), opposite(bias));
        let positive: Vec<Criterion> = criteria.iter().filter(|it| it.outcome == Some(Outcome::Positive)).cloned().collect();
        prop_assert_eq!(more.bias(purpose, &positive), bias);
        let turned: Vec<Criterion> = criteria.iter().cloned().map(|it| Criterion {
            comparison: it.comparison.map(|comparison| match comparison {
                Comparison::AtLeast => Comparison::AtMost,
                Comparison::AtMost => Comparison::AtLeast,
                Comparison::MoreThan => Comparison::LessThan,
                Comparison::LessThan => Comparison::MoreThan,
            }),
            ..it
        }).collect();
        let compared = positive.iter().all(|it| it.comparison.is_some() && (it.kind.is_some_and(CriterionKind::is_measured) || pair == 1));
        if compared && pair != 2 {
            prop_assert_eq!(more.bias(purpose, &turned), opposite(bias));
        }
        if pair == 2 {
            prop_assert_eq!(bias, (!positive.is_empty()).then_some(Bias::TowardsPositive));
        }
        let mut with = criteria.clone();
        with.push(extra);
        let then = more.bias(purpose, &with);
        prop_assert!(bias.is_none() || then == bias || then.is_none());
    }
}

#[test]
fn a_sheet_shows_several_conditions_and_follows_their_names() {
    let twice = json!({ "other_conditions": ["Stiff", "stiff ", "Loose"] });
    let mut sheet = whole(json!({}), twice);
    sheet["condition"] = json!("Loose");
    let faults = check(sheet.clone()).unwrap_err();
    assert_eq!(faults, ["other_conditions[1]", "other_conditions[2]"]);
    sheet["other_conditions"] = json!(["Stiff"]);
    sheet["variants"][0]["targets"] = json!([{ "structure": "x", "condition": "stiff" }]);
    sheet["interpretation"] = json!({ "rows": [{ "reading": "x", "condition": "Loose" }] });
    let mut sheet = check(sheet).unwrap();
    assert_eq!((sheet.shows("STIFF"), sheet.shows("Sore")), (Some("Stiff"), None));
    assert!(sheet.rename_condition("Stiff", "Frozen") && sheet.rename_condition("loose", "Lax"));
    assert!(!sheet.rename_condition("Sore", "Painful"));
    assert_eq!(sheet.conditions().collect::<Vec<_>>(), ["Lax", "Frozen"]);
    let named = [&sheet.variants[0].targets[0].condition, &sheet.interpretation.rows[0].condition];
    assert_eq!(named, ["Frozen", "Lax"]);
}
