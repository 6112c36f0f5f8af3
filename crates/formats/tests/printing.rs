//! Sheets on paper: every one of the demo takes one or two pages and says what a teacher needs; no text breaks the page.

use lopdf::Document;
use proptest::prelude::*;
use pruvex_core::accuracy::Counts;
use pruvex_core::catalogue::{CautionScope, Position, ScreeningAnswer, Sheet, SheetInput, Status, TeachingConflict};
use pruvex_core::examination::{ExaminationConduct, ExaminationOutcome};
use pruvex_core::plan::{ExaminationPlan, ScreeningQuestion};
use pruvex_core::pooling::{PoolOptions, Pooled, pool};
use pruvex_core::{Estimate, Probability, Ratio};
use pruvex_formats::{
    Bundle, BundlePlan, ExaminationSheet, PlanSheet, PlannedOnPaper, TeachingSheet, examination_sheet, plan_sheet,
    read_bundle, teaching_sheet,
};
use serde_json::{Value, json};

fn demo(module: &str) -> Bundle {
    read_bundle(&std::fs::read(format!("../../demo/{module}.json")).unwrap()).unwrap()
}

fn print(sheet: &Sheet, pooled: Option<&Pooled>, sample: bool) -> Vec<u8> {
    let pre_test = Some(Probability::new(0.2).unwrap());
    let printed = "25 November 2026";
    let condition = &sheet.condition;
    teaching_sheet(&TeachingSheet {
        sheet,
        condition,
        conflicts: &[],
        version: 3,
        status: Status::Draft,
        sample,
        pooled,
        pre_test,
        printed,
    })
    .unwrap()
}

/// The words of a document with every run of spaces made one, and how many pages there are.
fn read(pdf: &[u8]) -> (String, usize) {
    let document = Document::load_mem(pdf).unwrap();
    let pages: Vec<u32> = document.get_pages().into_keys().collect();
    let text = document.extract_text(&pages).unwrap();
    (text.split_whitespace().collect::<Vec<_>>().join(" "), pages.len())
}

#[test]
fn the_sheets_of_the_demo_take_two_pages_at_most_and_say_it_all() {
    for module in ["hand_wrist", "neck", "pelvis"] {
        for test in demo(module).tests {
            let counts: Vec<Counts> = test.results.iter().map(|it| it.result.counts).collect();
            let pooled = pool(&counts, PoolOptions::default()).ok();
            let pdf = print(&test.sheet, pooled.as_ref(), true);
            let (text, pages) = read(&pdf);
            let name = &test.sheet.name;
            assert!((1..=2).contains(&pages), "{name}: {pages} pages");
            // Words may be broken at the end of a line: single ones are looked for.
            for part in ["SAMPLE", "version 3", "25 November 2026", "Cautions", "not a diagnosis", "Positive when"] {
                assert!(text.contains(part), "{name} lacks {part:?}: {text}");
            }
            match &pooled {
                Some(pooled) => {
                    let people = pooled.diseased + pooled.non_diseased;
                    let grouped = if people < 1_000 {
                        people.to_string()
                    } else {
                        format!("{} {:03}", people / 1_000, people % 1_000)
                    };
                    assert!(text.contains(&format!("{grouped} people")), "{name}: {grouped} in {text}");
                }
                None => assert!(text.contains("No study is entered")),
            }
        }
    }
}

/// What a sheet says of contacts, steps, levels and cautions is on its paper, too; lines may be broken anywhere, so spaces are left out.
#[test]
fn paper_says_what_the_screen_says() {
    let sheet = serde_json::json!({ "name": "Thumb lift", "region": "hand_wrist", "purpose": "laxity", "basis": "strength", "condition": "Loose",
        "positive_finding": "Opens", "indications": [{ "kind": "mechanism", "text": "A fall on the thumb" }],
        "cautions": [{ "text": "Numb saddle", "screening": "Numb?", "unsafe_answers": ["yes", "unknown"], "scope": "examination",
            "instead": "Refer", "within_hours": 0 }],
        "urgent": [{ "finding": "White thumb", "action": "Refer", "within_hours": 48 }],
        "pitfalls": [{ "text": "Effusion", "effect": "hides_sign", "patient_side": true }],
        "repeats": [{ "when": "after_days", "days": 14 }],
        "searches": [{ "when": "2026-11", "place": "Two databases", "unusable": "No reference standard" }],
        "variants": [{ "name": "As taught", "stance": { "sides": "both_at_once", "one_leg": true, "fall_support": "Couch" },
            "contacts": [{ "with": "thumb", "placement": "On the nail.", "tasks": ["move", "palpate"], "locks": "wrist", "verified": "It stays" },
                { "placement": "Palm", "forbidden": true, "effect": "Adds pressure" }],
            "preparation": { "hand_hygiene": true, "question": "What do you feel?" },
            "relays": [{ "joint": "elbow", "check": "Bends freely" }],
            "measuring": { "axis": "Thumb base", "force": 20, "setup": [{ "name": "Couch", "value": 60, "unit": "cm" }] },
            "steps": [{ "text": "Hold", "mode": "resisted", "effort": "abduction", "until": "click", "reads": ["angle"] }],
            "criteria": [{ "outcome": "positive", "kind": "sign", "text": "Gap", "end_feel": "empty", "part_of_range": "last_third", "attempts": 2 }],
            "grading": { "name": "Gap", "unit": "mm", "levels": [{ "name": "none", "outcome": "negative", "to": 3 },
                { "name": "wide", "outcome": "positive", "from": 3 }] },
            "inability": [{ "reason": "fear", "outcome": "equivocal" }] }] });
    let sheet = Sheet::check(&serde_json::from_value::<SheetInput>(sheet).unwrap()).unwrap();
    let (text, _) = read(&print(&sheet, None, false));
    let bare = |text: &str| text.replace([' ', '-', '\u{ad}'], "");
    let text = bare(&text);
    for part in [
        "Basic examination: strength",
        "Mechanism of injury: A fall on the thumb",
        "Unsafe answer: yes or not known",
        "Refer at once",
        "the whole examination (red flag)",
        "within 2 days",
        "towards negative",
        "With this, a negative result is not interpretable",
        "after 14 days",
        "No reference standard",
        "both sides at once; standing on one leg",
        "Couch",
        "thumb: On the nail (moves or presses, palpates); locks the wrist; check of the lock: It stays",
        "Palm → Adds pressure",
        "clean them first",
        "elbow: Bends freely",
        "20 N",
        "Couch 60 cm",
        "patient tries abduction, examiner pushes into adduction",
        "until: a click; read: angle",
        "last third of the range; only after 2 attempts",
        "none, below 3 mm (negative)",
        "wide, 3 or more mm (positive)",
        "fear: equivocal",
    ] {
        assert!(text.contains(&bare(part)), "the paper lacks {part:?}: {text}");
    }
}

fn print_plan(of: &BundlePlan, tests: &[PlannedOnPaper], questions: &[ScreeningQuestion]) -> (String, usize) {
    let (plan, printed) = (&of.plan, "25 November 2026");
    let must_not_miss = &["Break of #the ring".to_owned()];
    let (version, status, sample) = (4, Status::Published, of.sample);
    let sheet = PlanSheet { plan, version, status, sample, tests, questions, must_not_miss, printed };
    let pdf = plan_sheet(&sheet).unwrap();
    assert!(pdf == plan_sheet(&sheet).unwrap(), "the same plan gives the same bytes");
    read(&pdf)
}

fn on_paper(name: &str, position: Option<Position>) -> PlannedOnPaper {
    let lr = |estimate: f64, lower: f64, upper: f64| {
        let [estimate, lower, upper] = [estimate, lower, upper].map(|it| Ratio::new(it).unwrap());
        Some(Estimate { estimate, lower, upper })
    };
    let ratios = vec![(0, [lr(3.4, 0.91, 12.0), None])];
    let [cares, stops] = ["Close to the groin.", "Pain down the leg."].map(|it| vec![it.to_owned()]);
    let (name, irritation, minutes) = (name.to_owned(), Some(3.0), Some(1.5));
    PlannedOnPaper { name, position, irritation, one_attempt: true, minutes, cares, stops, ratios }
}

#[test]
fn a_plan_on_paper_asks_first_groups_by_position_and_has_boxes_for_both_sides() {
    let given = demo("pelvis").plans.swap_remove(0);
    let [up, side] = [Position::LyingFaceUp, Position::SideLying].map(Some);
    let tests: Vec<PlannedOnPaper> =
        given.names.iter().zip([up, up, side, None, up, up]).map(|(name, position)| on_paper(name, position)).collect();
    let question = |question: &str, scope, help: &str| ScreeningQuestion {
        question: question.to_owned(),
        about: vec!["A *fall*".to_owned()],
        help: help.to_owned(),
        unsafe_answers: vec![ScreeningAnswer::No],
        tests: vec![0, 2],
        scope,
        answer: None,
    };
    let questions =
        [question("Any fall?", CautionScope::Examination, ""), question("#Wound", CautionScope::Test, "Look.")];
    let (text, pages) = print_plan(&given, &tests, &questions);
    assert_eq!(pages, 1);
    let bare = |text: &str| text.replace([' ', '-', '\u{ad}', '\u{202f}'], "");
    let text = bare(&text);
    for part in [
        "Pelvic ring, standard examination",
        "sample data",
        "version 4, published",
        "Pelvis · specialist clinic · chronic · sound side first",
        "Sacroiliac-region pain: before testing 30 %, reassure below 10 %, examine again later from 25 %, send to imaging from 50 %, treat above 75 %.",
        "Not finished before asked about: Break of #the ring",
        "Any fall?",
        "stops the examination",
        "A *fall*",
        "#Wound Look.",
        "test 1, 3",
        "Lying face up",
        "Position not given",
        "one valid attempt · very irritating · 1.5 min",
        "LR+ 3.4 (0.91–12), LR− not estimable",
        "With care: Close to the groin.",
        "Stop: Pain down the leg.",
        "only where it is asked for",
        "right",
        "left",
        "not a diagnosis",
        "Conclusion:",
    ] {
        assert!(text.contains(&bare(part)), "the paper lacks {part:?}: {text}");
    }
    // A position that comes again has a heading of its own; a test that nobody may see keeps its place.
    assert_eq!(text.matches("Lyingfaceup").count(), 2);
    let hidden: Vec<PlannedOnPaper> = given.names.iter().map(|_| on_paper("", None)).collect();
    let (text, _) = print_plan(&given, &hidden, &[]);
    assert!(text.contains("A test that you cannot see") && !text.contains("First: ask"), "{text}");
}

#[test]
fn a_long_plan_takes_more_pages_and_no_text_breaks_it() {
    let mut given = demo("pelvis").plans.swap_remove(0);
    let test = given.plan.tests[0].clone();
    given.plan.note = "Line\n\n#set page(fill: red) $x$ *".repeat(30);
    given.plan.tests = vec![test; 40];
    let tests: Vec<PlannedOnPaper> =
        (0..40).map(|nth| on_paper(&format!("Test _{nth}_ [of] <many>"), Some(Position::ALL[nth % 8]))).collect();
    let (text, pages) = print_plan(&given, &tests, &[]);
    assert!(pages >= 2 && text.contains("Test _39_ [of] <many>") && text.contains("$x$"), "{pages} pages: {text}");
}

#[test]
fn the_same_sheet_gives_the_same_bytes_and_figures_as_the_core() {
    let test = demo("hand_wrist").tests.into_iter().find(|test| test.results.len() > 3).unwrap();
    let counts: Vec<Counts> = test.results.iter().map(|it| it.result.counts).collect();
    let pooled = pool(&counts, PoolOptions::default()).unwrap();
    let pdf = print(&test.sheet, Some(&pooled), true);
    assert!(pdf == print(&test.sheet, Some(&pooled), true));
    let (text, _) = read(&pdf);
    let lr = pooled.summary.lr_positive.unwrap().estimate.get();
    let odds = 0.25 * lr;
    let after = format!("{:.0}", 100.0 * odds / (1.0 + odds));
    assert!(text.contains("20 % →"), "{text}");
    assert!(text.contains(&after), "{after} in {text}");
    // Nothing made up, nothing marked as such.
    assert!(!read(&print(&test.sheet, Some(&pooled), false)).0.contains("SAMPLE"));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    /// What a person writes is text, never markup, and never stops the press.
    #[test]
    fn any_words_are_printed_as_they_are(words in "[#$*_@<>\\\\{}\\[\\]\"'`~=/a-z\\n\u{e9}\u{2265}\u{4e2d}\u{627}-]{1,400}") {
        let mut input = SheetInput {
            name: format!("#panic() {words}").chars().take(160).collect(),
            region: "hip".into(),
            purpose: "laxity".into(),
            condition: "$x".into(),
            positive_finding: words.clone(),
            sources: vec![words],
            ..SheetInput::default()
        };
        input.name = input.name.replace('\n', " ");
        if let Ok(sheet) = Sheet::check(&input) {
            let (text, _) = read(&print(&sheet, None, false));
            prop_assert!(text.contains("#panic()"), "{text}");
        }
    }
}

/// Which condition the figures are about, which of several a structure or a reading is about, and where teaching disagrees.
#[test]
fn paper_names_conditions_and_conflicting_teaching() {
    let sheet = serde_json::json!({ "name": "Leg lift", "region": "pelvis", "purpose": "functional_task", "condition": "Sore joint",
        "other_conditions": ["Weak trunk"], "positive_finding": "Hard",
        "variants": [{ "name": "As taught", "targets": [{ "structure": "Iliopsoas", "condition": "Weak trunk" }] }],
        "interpretation": { "measures": [{ "name": "Score" }], "rows": [{ "reading": "Gives way", "condition": "Sore joint",
            "conditions": [{ "measure": "Score", "comparison": "at_least", "value": 1 }] }] } });
    let sheet = Sheet::check(&serde_json::from_value::<SheetInput>(sheet).unwrap()).unwrap();
    let conflict = |verdict: &str, favours: Option<u8>, reason: &str| {
        let input = serde_json::json!({ "region": "pelvis", "topic": "angle", "question": format!("How high, {verdict}?"),
            "claims": [{ "claim": "20 cm", "source": "School A", "evidence": "One study" }, { "claim": "30 cm", "source": "School B" }],
            "verdict": verdict, "favours": favours, "reason": reason });
        TeachingConflict::check(&serde_json::from_value(input).unwrap()).unwrap()
    };
    let conflicts =
        [conflict("open", None, ""), conflict("favours", Some(1), "Measured"), conflict("neither", None, "Both")];
    let pdf = teaching_sheet(&TeachingSheet {
        sheet: &sheet,
        condition: "Weak trunk",
        conflicts: &conflicts,
        version: 1,
        status: Status::Published,
        sample: false,
        pooled: None,
        pre_test: None,
        printed: "25 November 2026",
    });
    let (text, _) = read(&pdf.unwrap());
    let bare = |text: &str| text.replace([' ', '-', '\u{ad}'], "");
    let text = bare(&text);
    for part in [
        "Also shows: Weak trunk. Figures: Weak trunk.",
        "Iliopsoas, for Weak trunk",
        "Gives way (for Sore joint)",
        "How high, open?",
        "20 cm (School A; One study)",
        "No verdict yet",
        "Taught here: 30 cm (School B)",
        "Reason: Measured",
        "None of these is taught here",
    ] {
        assert!(text.contains(&bare(part)), "{part} is not in {text}");
    }
}

#[test]
fn a_record_on_paper_says_what_was_found_what_counted_and_what_was_left_out() {
    let plan: ExaminationPlan = demo("pelvis").plans.swap_remove(0).plan;
    let name = |nth: usize| plan.tests[nth].test;
    let lr = |estimate: f64| json!({ "estimate": estimate, "lower": estimate / 2.0, "upper": estimate * 2.0 });
    let conduct: ExaminationConduct = serde_json::from_value(json!({
        "affected_side": "left",
        "tests": [
            { "test": name(0), "attempts": [
                { "side": "sound", "shown": "positive" },
                { "side": "affected", "shown": "not_interpretable", "unreadable": "guarding" },
                { "side": "affected", "shown": "level", "level": "#hard", "pain": "familiar", "held": 12.0, "pain_ended": true,
                    "pitfalls": ["*Stiff*"], "overruled": "Felt well" }] },
            { "test": name(1), "skipped": true, "reason": "Asked to stop" },
            { "test": name(2), "attempts": [{ "side": "sound", "shown": "unable", "unable": "fear" }] }],
        "urgent": [{ "finding": "Cold _hand_", "action": "Send.", "done": false, "note": "Refused" }],
        "conclusion": { "undecided": true, "text": "Two\nlines", "action": "refer", "next": "colleague", "deadline": "2027-01-05" },
        "repeats": [{ "test": name(0), "on": "2027-02-01", "trigger": "Settled", "keep_same": "Hour" }],
    })).unwrap();
    let reading = |outcome: Value, attempts: Value| json!({ "outcome": outcome, "level": null, "counts": null, "after_repeats": true, "sound_side_too": true, "attempts": attempts });
    let read_as = |outcome: &str| json!({ "outcome": outcome, "cause": null });
    let test = |nth: usize, name_of: &str, fit: &str, reading: Value| {
        json!({ "test": name(nth), "name": name_of, "variant": "Seated", "sheet": 3, "fit": fit, "reasons": [{ "code": "irritation" }],
            "left_out": false, "reading": reading })
    };
    let attempts = json!([read_as("positive"), read_as("not_interpretable"), read_as("positive")]);
    let outcome: ExaminationOutcome = serde_json::from_value(json!({
        "screening": [{ "question": "Any fall?", "answer": "no" }, { "question": "Fever?", "answer": null }],
        "stop": "Fever",
        "tests": [
            test(0, "Leg", "ready", reading(json!("positive"), attempts)),
            test(1, "Spread", "ready", reading(Value::Null, json!([]))),
            test(2, "Thigh", "with_care", reading(Value::Null, json!([read_as("not_interpretable")]))),
            test(3, "Squeeze", "not_now", reading(Value::Null, json!([])))],
        "questions": [{ "condition": "Sore joint", "pre_test": 0.3, "after": { "estimate": 0.6, "lower": 0.4, "upper": 0.8 },
            "action": null, "steps": [{ "test": name(0), "ratio": lr(3.4), "after": null, "studies": 2 }] }],
        "must_not_miss": [{ "condition": "Break", "asked": true }, { "condition": "Clot", "asked": false }],
        "end": "must_not_miss", "sample": true, "engine": "engine 9",
    })).unwrap();
    let (finished, printed) = ("1 January 2027", "2 January 2027");
    let sheet = ExaminationSheet {
        label: "amber 17",
        plan: &plan,
        plan_version: 4,
        conduct: &conduct,
        outcome: &outcome,
        finished,
        sample: true,
        printed,
    };
    let pdf = examination_sheet(&sheet).unwrap();
    assert!(pdf == examination_sheet(&sheet).unwrap(), "the same record gives the same bytes");
    let (text, pages) = read(&pdf);
    // Where the letters change their weight, the reader of the file sees a space.
    let text = text.replace(" :", ":");
    assert_eq!(pages, 1);
    for said in [
        "amber 17",
        "sample data",
        "version 4",
        "finished 1 January 2027",
        "left side",
        "The examination was stopped: Fever",
        "Cold _hand_ Send. Not done. Refused",
        "Cannot be decided by this examination.",
        "refer, colleague, by 2027-01-05",
        "Leg: 2027-02-01, Settled Keep the same: Hour",
        "before 30",
        "undecided",
        "(asked about)",
        "(not asked about)",
        "sound side: Positive",
        "affected side: Not interpretable: guarding",
        "#hard",
        "familiar pain; pain ended the hold at 12 s; *Stiff*; counts because: Felt well",
        "positive only after repeats",
        "positive on the sound side, too",
        "LR 3.4",
        "Spread: Asked to stop",
        "Thigh: sound side only",
        "Squeeze: too irritating now",
        "Any fall? no",
        "Fever? not answered",
        "engine 9",
        "names no patient",
    ] {
        assert!(text.contains(said), "{said:?} is not in: {text}");
    }
}
