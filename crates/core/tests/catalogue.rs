//! Sheets, conditions and studies are checked as wholes: every fault is told, nothing valid is refused.

use proptest::prelude::*;
use pruvex_core::catalogue::{
    Burden, Condition, ConditionInput, ConflictTopic, Criterion, JointRange, Motion, Pitfall, ProcedureStep, Purpose,
    Region, Sheet, SheetInput, Structure, StructureInput, TeachingClaim, TeachingConflict, TeachingConflictInput,
    Tissue, Variant, Verdict, name_key,
};
use pruvex_core::evidence::{AccuracyInput, AccuracyResult, Study, StudyInput};
use pruvex_core::{FieldError, FieldErrorCode, TestId};

fn sheet() -> SheetInput {
    let text = str::to_owned;
    SheetInput {
        name: text("  Thumb lift "),
        aliases: vec![text("Lift of the thumb"), text("   ")],
        region: text("hand_wrist"),
        purpose: text("strength"),
        condition: text("Thumb weakness"),
        variants: vec![variant(&["One\r\nline", ""])],
        positive_finding: text("Weaker than the other side"),
        ..SheetInput::default()
    }
}

fn variant(steps: &[&str]) -> Variant {
    let step = |text: &&str| ProcedureStep { text: (*text).to_owned(), ..ProcedureStep::default() };
    Variant { name: "As taught".to_owned(), steps: steps.iter().map(step).collect(), ..Variant::default() }
}

fn fields(errors: &[FieldError]) -> Vec<(&str, FieldErrorCode)> {
    errors.iter().map(|error| (error.field.as_str(), error.code)).collect()
}

#[test]
fn texts_are_trimmed_and_empty_lines_dropped() {
    let checked = Sheet::check(&sheet()).unwrap();
    assert_eq!(
        (checked.name.as_str(), checked.region, checked.purpose),
        ("Thumb lift", Region::HandWrist, Purpose::Strength)
    );
    assert_eq!(checked.aliases, ["Lift of the thumb"]);
    let steps = &checked.baseline().unwrap().steps;
    assert_eq!(steps.iter().map(|step| step.text.as_str()).collect::<Vec<_>>(), ["One\nline"]);
    assert_eq!(checked.names().collect::<Vec<_>>(), ["Thumb lift", "Lift of the thumb"]);
}

#[test]
fn all_faults_are_told_at_once() {
    let bad = SheetInput {
        name: "x".repeat(161),
        aliases: vec!["X".repeat(161), "twin".to_owned(), "TWIN ".to_owned()],
        region: "wing".to_owned(),
        variants: vec![
            Variant {
                joints: vec![JointRange { from: Some(90.0), to: Some(30.0), ..JointRange::default() }],
                ..variant(&["x"; 101])
            },
            Variant {
                criteria: vec![Criterion { text: "Pain".to_owned(), value: Some(f64::NAN), ..Criterion::default() }],
                ..variant(&[])
            },
        ],
        pitfalls: vec![Pitfall { text: "a\0b".to_owned(), ..Pitfall::default() }],
        burden: Burden { irritation: Some(4.0), ..Burden::default() },
        ..SheetInput::default()
    };
    let errors = Sheet::check(&bad).unwrap_err();
    let found = fields(&errors);
    for expected in [
        ("name", FieldErrorCode::TooLong),
        ("aliases[0]", FieldErrorCode::TooLong),
        ("aliases[2]", FieldErrorCode::Duplicate),
        ("region", FieldErrorCode::Unknown),
        ("purpose", FieldErrorCode::Missing),
        ("condition", FieldErrorCode::Missing),
        ("positive_finding", FieldErrorCode::Missing),
        ("variants[0].steps", FieldErrorCode::TooLong),
        ("variants[0].joints[0].joint", FieldErrorCode::Missing),
        ("variants[0].joints[0].to", FieldErrorCode::Invalid),
        ("variants[1].criteria[0].outcome", FieldErrorCode::Missing),
        ("variants[1].criteria[0].value", FieldErrorCode::Invalid),
        ("variants[1]", FieldErrorCode::Duplicate),
        ("pitfalls[0].text", FieldErrorCode::ForbiddenCharacter),
        ("burden.irritation", FieldErrorCode::Invalid),
    ] {
        assert!(found.contains(&expected), "{expected:?} is not among {found:?}");
    }
    assert!(errors.iter().all(|e| e.value.chars().count() <= 81), "values are shortened in messages");
}

#[test]
fn an_alias_must_not_repeat_the_name() {
    let repeated = SheetInput { aliases: vec!["THUMB   lift".to_owned()], ..sheet() };
    assert_eq!(fields(&Sheet::check(&repeated).unwrap_err()), [("aliases[0]", FieldErrorCode::Duplicate)]);
}

#[test]
fn limits_are_exact() {
    let at = |length: usize| SheetInput { positive_finding: "ä".repeat(length), ..sheet() };
    assert!(Sheet::check(&at(10_000)).is_ok());
    assert_eq!(fields(&Sheet::check(&at(10_001)).unwrap_err()), [("positive_finding", FieldErrorCode::TooLong)]);
}

#[test]
fn codes_of_regions_and_purposes_come_back() {
    for region in Region::ALL {
        assert_eq!(Region::from_code(region.code()), Some(region));
        assert_eq!(serde_json::to_value(region).unwrap(), region.code());
    }
    assert!(Region::ALL.windows(2).all(|pair| pair[0] < pair[1]), "head to foot");
    let purpose: Purpose = serde_json::from_str("\"nerve_tension\"").unwrap();
    assert_eq!(Purpose::from_code(purpose.code()), Some(purpose));
    assert_eq!(Purpose::from_code("guess"), None);
}

#[test]
fn every_motion_undoes_the_one_that_undoes_it() {
    for code in [
        "flexion",
        "external_rotation",
        "rotation_towards",
        "pronation",
        "inversion",
        "compression",
        "forward_tilt",
        "varus",
        "horizontal_abduction",
        "medial_glide",
        "inferior_glide",
    ] {
        let motion: Motion = serde_json::from_value(code.into()).unwrap();
        assert_ne!(motion.opposite(), motion, "{code}");
        assert_eq!(motion.opposite().opposite(), motion, "{code}");
        assert_eq!(motion.has_a_side(), motion.opposite().has_a_side(), "{code}");
    }
}

#[test]
fn only_a_muscle_has_actions() {
    let action = serde_json::from_value(serde_json::json!({ "joint": "thumb_base", "motion": "abduction" })).unwrap();
    let input = |tissue| StructureInput {
        region: "hand_wrist".to_owned(),
        name: " Short thumb abductor ".to_owned(),
        other_names: vec!["Abductor".to_owned(), "abductor".to_owned()],
        tissue,
        actions: vec![action],
        ..StructureInput::default()
    };
    let errors = Structure::check(&input(Some(Tissue::Nerve))).unwrap_err();
    assert_eq!(fields(&errors), [("other_names[1]", FieldErrorCode::Duplicate), ("actions", FieldErrorCode::Invalid)]);
    assert!(Structure::check(&input(None)).is_err());
    let muscle = StructureInput { other_names: Vec::new(), ..input(Some(Tissue::Muscle)) };
    assert_eq!(Structure::check(&muscle).unwrap().name, "Short thumb abductor");
}

#[test]
fn a_condition_s_pre_test_probability_is_a_probability() {
    let condition = |pre_test| ConditionInput {
        prevalence: Vec::new(),
        region: "knee".to_owned(),
        name: "Sample".to_owned(),
        setting: String::new(),
        pre_test,
        must_not_miss: false,
    };
    assert_eq!(Condition::check(&condition(Some(0.35))).unwrap().pre_test.unwrap().get(), 0.35);
    assert_eq!(Condition::check(&condition(None)).unwrap().pre_test, None);
    let errors = Condition::check(&condition(Some(35.0))).unwrap_err();
    assert_eq!(fields(&errors), [("pre_test", FieldErrorCode::Invalid)]);
    assert!(errors[0].remedy.contains("0.35"));
}

#[test]
fn a_result_joins_the_faults_of_its_words_and_its_cells() {
    let (page, tp, fp) = ("\0".to_owned(), Some(3.5), Some(1.0));
    let errors = AccuracyResult::check(&AccuracyInput { page, tp, fp, ..AccuracyInput::default() }).unwrap_err();
    let found = fields(&errors);
    assert!(found.contains(&("page", FieldErrorCode::ForbiddenCharacter)));
    assert!(found.contains(&("tp", FieldErrorCode::NotACount)));
    assert!(found.contains(&("fn", FieldErrorCode::Missing)) && found.contains(&("tn", FieldErrorCode::Missing)));
    let one_armed = AccuracyInput { tn: Some(9.0), fp: Some(1.0), ..AccuracyInput::default() };
    let result = AccuracyResult::check(&one_armed).unwrap();
    assert!(result.counts.diseased().is_none() && result.counts.non_diseased().is_some());
    let nowhere = StudyInput { reference: " ".to_owned(), ..StudyInput::default() };
    assert_eq!(fields(&Study::check(&nowhere).unwrap_err()), [("reference", FieldErrorCode::Missing)]);
}

proptest! {
    #[test]
    fn a_name_key_ignores_case_and_spacing_only(words in prop::collection::vec("[a-zA-Zäöü0-9-]{1,8}", 1..5), spaces in 1..4usize) {
        let (tight, loose) = (words.join(" "), format!(" {} ", words.join(&" ".repeat(spaces))));
        prop_assert_eq!(name_key(&tight), name_key(&loose.to_uppercase()).as_str().to_owned());
        prop_assert_eq!(name_key(&name_key(&tight)), name_key(&tight));
        prop_assert_ne!(name_key(&tight), name_key(&format!("{tight} reversed")));
    }

    #[test]
    fn no_text_makes_a_check_panic(name in ".{0,200}", step in "(?s).{0,300}", cells in [any::<f64>(), any::<f64>(), any::<f64>(), any::<f64>()]) {
        let _ = Sheet::check(&SheetInput { name, variants: vec![variant(&[&step])], ..SheetInput::default() });
        let [tp, fp, fn_, tn] = cells.map(Some);
        let _ = AccuracyResult::check(&AccuracyInput { note: step.clone(), tp, fp, fn_, tn, ..AccuracyInput::default() });
        let _ = Study::check(&StudyInput { reference: step, ..StudyInput::default() });
    }
}

#[test]
fn a_conflict_needs_two_claims_and_a_verdict_its_reason() {
    let claim = |claim: &str, source: &str| TeachingClaim {
        claim: claim.to_owned(),
        source: source.to_owned(),
        evidence: String::new(),
    };
    let test = TestId(uuid::Uuid::from_u128(7));
    let whole = TeachingConflictInput {
        region: "neck".to_owned(),
        tests: vec![test, test],
        topic: Some(ConflictTopic::Angle),
        question: "How far?".to_owned(),
        claims: vec![claim("20 degrees", "School A"), claim("", ""), claim("30 degrees", "School B")],
        ..TeachingConflictInput::default()
    };
    let checked = TeachingConflict::check(&whole).unwrap();
    assert_eq!((checked.tests.as_slice(), checked.claims.len(), checked.verdict), (&[test][..], 2, Verdict::Open));
    let faults = |change: &dyn Fn(&mut TeachingConflictInput)| {
        let mut changed = whole.clone();
        change(&mut changed);
        let errors = TeachingConflict::check(&changed).unwrap_err();
        assert!(errors.iter().all(|error| !error.remedy.is_empty()));
        errors.into_iter().map(|error| error.field).collect::<Vec<_>>()
    };
    assert_eq!(faults(&|it| it.claims.truncate(1)), ["claims"]);
    assert_eq!(faults(&|it| it.claims[0].source.clear()), ["claims[0].source"]);
    assert_eq!(faults(&|it| (it.region, it.topic, it.question) = Default::default()), ["region", "topic", "question"]);
    assert_eq!(faults(&|it| it.verdict = Verdict::Neither), ["reason"]);
    assert_eq!(faults(&|it| it.verdict = Verdict::Favours), ["reason", "favours"]);
    assert_eq!(faults(&|it| it.favours = Some(0)), ["favours"], "only a verdict for a claim names it");
    for (favours, right) in [(None, false), (Some(1), true), (Some(2), false), (Some(u8::MAX), false)] {
        let decided = TeachingConflictInput {
            verdict: Verdict::Favours,
            favours,
            reason: "Measured.".to_owned(),
            ..whole.clone()
        };
        assert_eq!(TeachingConflict::check(&decided).is_ok(), right, "{favours:?}");
    }
}
