//! The order of an examination, and what becomes of patients who are examined in it.

use crate::common::json;
use proptest::prelude::*;
use pruvex_core::catalogue::{Caution, CautionKind, CautionScope, Joint, Position, Region, ScreeningAnswer, name_key};
use pruvex_core::combine::{TestAccuracy, decision_changes, expected_information, pattern_results, sequence};
use pruvex_core::likelihood::{Finding, FoundResult, Thresholds, Zone, post_test};
use pruvex_core::plan::{
    ActionBand, ExaminationEnd, ExaminationPlan, ExaminationPlanInput, FitReason, FitState, MAX_PLANNED, OrderError,
    OrderWeights, PatientFit, PlaceReason, PlanAction, PlanQuestion, PlannedTest, QuestionState, ScreenedTest,
    StandingResult, TestLeft, action_shares, best_order, examination_end, examination_fit, order_cost, own_order,
    question_standing,
};
use pruvex_core::pooling::Summary;
use pruvex_core::{Estimate, Level, Probability, Ratio, TestId};
use serde_json::Value;

fn number(item: &Value) -> f64 {
    item.as_str().map_or_else(|| item.as_f64().unwrap(), |text| text.parse().unwrap())
}

fn p(value: f64) -> Probability {
    Probability::new(value).unwrap()
}

#[test]
fn the_best_order_equals_the_reference() {
    for item in json("plan_order.json").as_array().unwrap() {
        let (id, expected) = (item["id"].as_str().unwrap(), &item["expected"]);
        // Of equally good orders the first by the names: tests are numbered by their names.
        let listed = item["tests"].as_array().unwrap();
        let mut named: Vec<&Value> = listed.iter().collect();
        named.sort_by_key(|test| test["id"].as_str().unwrap());
        let place = |name: &Value| named.iter().position(|test| test["id"] == *name).unwrap();
        let mut positions: Vec<&str> = Vec::new();
        let tests: Vec<PlannedTest> = named
            .iter()
            .map(|test| {
                let position = test["position"].as_str().unwrap();
                if !positions.contains(&position) {
                    positions.push(position);
                }
                let accuracy =
                    TestAccuracy { sensitivity: p(number(&test["sens"])), specificity: p(number(&test["spec"])) };
                let bits = expected_information(p(number(&item["pretest"])), accuracy);
                assert!((bits - test["bits"].as_f64().unwrap()).abs() < 1e-12, "{id}");
                PlannedTest {
                    position: positions.iter().position(|it| *it == position).unwrap() as u32,
                    one_attempt: test["tries"] == 1,
                    irritation: number(&test["irritation"]),
                    bits,
                    keep_last: test["keep_last"] == true,
                    frame: false,
                }
            })
            .collect();
        let weights = OrderWeights {
            turning: number(&item["c_pos"]),
            one_attempt: number(&item["w1"]),
            irritating_late: number(&item["w2"]),
            informative_early: number(&item["w3"]),
        };
        let before: Vec<(usize, usize)> =
            item["before"].as_array().unwrap().iter().map(|pair| (place(&pair[0]), place(&pair[1]))).collect();
        let as_listed: Vec<usize> = listed.iter().map(|test| place(&test["id"])).collect();
        let listed_cost = order_cost(&tests, &weights, &as_listed).unwrap();
        if expected["status"] == "infeasible" {
            assert!(matches!(best_order(&tests, &weights, &before), Err(OrderError::Contradiction(_))), "{id}");
            continue;
        }
        assert!((listed_cost.total - expected["cost_of_listed_order"].as_f64().unwrap()).abs() < 1e-9, "{id}");
        let best = best_order(&tests, &weights, &before).unwrap();
        assert!((best.cost.total - expected["optimal_cost"].as_f64().unwrap()).abs() < 1e-9, "{id}: {best:?}");
        let order: Vec<usize> = expected["optimal_order"].as_array().unwrap().iter().map(place).collect();
        assert_eq!(best.order, order, "{id}");
        assert_eq!(best.cost.changes as u64, expected["position_changes"].as_u64().unwrap(), "{id}");
        let parts = [best.cost.turning, best.cost.one_attempt, best.cost.irritating_late, best.cost.informative_early];
        for (part, name) in parts.into_iter().zip(["position", "tries", "irritation", "bits"]) {
            assert!((part - expected["parts"][name].as_f64().unwrap()).abs() < 1e-9, "{id} {name}");
        }
        assert!(best.exact && best.bound == best.cost.total);
    }
}

#[test]
fn stopping_at_thresholds_equals_the_reference() {
    for item in json("sequence.json").as_array().unwrap() {
        let id = item["id"].as_str().unwrap();
        let column = |name: &str| item[name].as_array().unwrap().iter().map(number).collect::<Vec<f64>>();
        let accuracy = |(se, sp): (f64, f64)| TestAccuracy { sensitivity: p(se), specificity: p(sp) };
        let tests: Vec<TestAccuracy> = column("sens").into_iter().zip(column("spec")).map(accuracy).collect();
        // There a threshold that is just reached stops; it matters only at 0 and 1.
        let thresholds = Thresholds::new(p(number(&item["lo"]) + 1e-12), p(number(&item["hi"]) - 1e-12)).unwrap();
        let found = sequence(&pattern_results(&tests).unwrap(), p(number(&item["pretest"])), &thresholds).unwrap();
        let close = |value: f64, expected: &Value| {
            let expected = expected.as_f64().unwrap();
            assert!((value - expected).abs() < 1e-12, "{id}: got {value}, expected {expected}");
        };
        close(found.expected_tests, &item["expected_tests"]);
        close(found.undecided.get(), &item["end_states"]["undecided"]["p"]);
        let (low, high) = (&item["end_states"]["below_lo"], &item["end_states"]["above_hi"]);
        for (share, condition, end) in
            [(found.reassured, found.condition_if_reassured, low), (found.treated, found.condition_if_treated, high)]
        {
            close(share.get(), &end["p"]);
            match condition {
                Some(condition) => close(condition.get(), &end["p_diseased_in_state"]),
                None => assert!(end["p_diseased_in_state"].is_null(), "{id}"),
            }
        }
        let needed: Vec<f64> = found.steps.iter().map(|step| step.needed.get()).chain([0.0]).collect();
        for stop in item["stop_after"].as_array().unwrap() {
            let after = stop["after_test"].as_u64().unwrap() as usize;
            let before = if after == 0 { 1.0 } else { needed[after - 1] };
            let ended = if after == tests.len() { found.undecided.get() } else { 0.0 };
            close(before - needed[after] - ended, &stop["p"]);
        }
    }
}

#[test]
fn an_order_says_why_and_what_cannot_be() {
    let test =
        PlannedTest { position: 0, one_attempt: false, irritation: 0.0, bits: 0.1, keep_last: false, frame: false };
    let once = PlannedTest { one_attempt: true, position: 1, ..test };
    let sore = PlannedTest { irritation: 3.0, bits: 0.4, ..test };
    let best = best_order(&[sore, test, once], &OrderWeights::default(), &[]).unwrap();
    assert_eq!(best.order.last(), Some(&0), "the irritating one comes last: {best:?}");
    let place = best.order.iter().position(|it| *it == 2).unwrap();
    assert!(best.reasons[place].contains(&PlaceReason::OneAttempt));
    assert!(best.reasons.last().unwrap().contains(&PlaceReason::Irritating));

    // The better test first, even if it stresses more: then it comes first.
    let eager = OrderWeights { informative_early: 50.0, one_attempt: 0.0, ..OrderWeights::default() };
    assert_eq!(best_order(&[test, sore, once], &eager, &[]).unwrap().order[0], 1);

    // An order of one's own: what speaks for it, and which wishes it does not keep.
    let last = PlannedTest { keep_last: true, ..test };
    let own = own_order(&[last, test, once], &OrderWeights::default(), &[(2, 1)], &[0, 1, 2]).unwrap();
    assert_eq!((own.cost.changes, own.broken), (1, vec![[2, 1], [1, 0]]));
    assert!(own.reasons[0].contains(&PlaceReason::KeptLast) && own.reasons[1].contains(&PlaceReason::SamePosition));
    assert_eq!(own_order(&[test], &eager, &[(0, 2)], &[0]), Err(OrderError::Unknown(2)));

    let circle = best_order(&[test; 4], &OrderWeights::default(), &[(0, 1), (1, 2), (2, 0)]);
    assert_eq!(circle, Err(OrderError::Contradiction(vec![0, 1, 2])));
    assert_eq!(best_order(&[test], &OrderWeights::default(), &[(0, 3)]), Err(OrderError::Unknown(3)));
    assert_eq!(best_order(&[], &OrderWeights::default(), &[]), Err(OrderError::Tests(0)));
    assert!(matches!(
        best_order(&[PlannedTest { bits: f64::NAN, ..test }], &eager, &[]),
        Err(OrderError::Number { .. })
    ));
    let negative = OrderWeights { turning: -1.0, ..eager };
    assert!(matches!(best_order(&[test], &negative, &[]), Err(OrderError::Weight { .. })));
    assert_eq!(order_cost(&[test; 2], &eager, &[0, 0]), Err(OrderError::NoOrder(2, 2)));
}

#[test]
fn the_basic_examination_comes_first_as_far_as_wishes_let_it() {
    let special =
        PlannedTest { position: 0, one_attempt: false, irritation: 0.0, bits: 0.9, keep_last: false, frame: false };
    let frame = PlannedTest { bits: 0.0, position: 1, frame: true, ..special };
    let order = |tests: &[PlannedTest], before: &[(usize, usize)]| {
        best_order(tests, &OrderWeights::default(), before).map(|it| it.order)
    };
    assert_eq!(order(&[special, special, frame], &[]), Ok(vec![2, 0, 1]));
    // After the one that it is asked to follow, before all others; and kept for last where that is wished.
    assert_eq!(order(&[special, special, frame], &[(0, 2)]), Ok(vec![0, 2, 1]));
    assert_eq!(order(&[special, PlannedTest { keep_last: true, ..frame }], &[]), Ok(vec![0, 1]));
    // Wishes that leave no place for both: the first one's counts.
    let crossed = order(&[special, special, frame, frame], &[(0, 3), (1, 2)]).unwrap();
    let at = |test: usize| crossed.iter().position(|it| *it == test).unwrap();
    assert!(at(0) < at(3) && at(1) < at(2) && at(2) < at(0), "{crossed:?}");
    let own = own_order(&[special, special, frame], &OrderWeights::default(), &[], &[0, 1, 2]).unwrap();
    assert_eq!(own.broken, [[2, 0]]);
    // Wishes that run in a circle are told without what merely follows from them.
    let circle = order(&[special, special, frame], &[(0, 1), (1, 0)]);
    assert_eq!(circle, Err(OrderError::Contradiction(vec![0, 1])));
}

#[test]
fn everything_that_is_wrong_with_a_plan_is_said_at_once() {
    let id = |n: u128| TestId(uuid::Uuid::from_u128(n));
    let plan = serde_json::json!({ "title": " Standard ", "region": "knee", "setting": "sports",
        "questions": [{ "condition": "Torn", "pre_test": 0.3, "reassure_below": 0.1, "treat_above": 0.7 }],
        "tests": [{ "test": id(1), "after": [id(2), id(2)] }, { "test": id(2), "variant": "Seated", "reason": "Mild" }],
    });
    let check = |changed: serde_json::Value| {
        let mut input = plan.clone();
        input.as_object_mut().unwrap().extend(changed.as_object().unwrap().clone());
        let input: ExaminationPlanInput = serde_json::from_value(input).unwrap();
        let faults = |found: Vec<pruvex_core::FieldError>| found.into_iter().map(|it| it.field).collect::<Vec<_>>();
        ExaminationPlan::check(&input).map_err(faults)
    };
    let checked = check(serde_json::json!({})).unwrap();
    assert_eq!((checked.title.as_str(), checked.before()), ("Standard", vec![(1, 0)]));
    // What was checked reads as what was written.
    let again: ExaminationPlanInput = serde_json::from_value(serde_json::to_value(&checked).unwrap()).unwrap();
    assert_eq!(ExaminationPlan::check(&again).unwrap(), checked);
    let renamed = {
        let mut it = checked.clone();
        it.rename_condition("TORN", "Ruptured").then_some(it.questions[0].condition.clone())
    };
    assert_eq!(renamed.as_deref(), Some("Ruptured"));
    assert_eq!(checked.with_tests(|it| (it == id(1)).then_some(id(9))), Err(id(2)));

    let asked = |low: f64, high: f64| serde_json::json!({ "condition": "Torn", "pre_test": 0.3, "reassure_below": low, "treat_above": high });
    let with_actions = |between: serde_json::Value, above: &str| {
        let mut question = asked(0.1, 0.7);
        question["between"] = between;
        question["above"] = serde_json::json!(above);
        serde_json::json!({ "questions": [question] })
    };
    for (changed, fields) in [
        (
            serde_json::json!({ "title": "", "region": "", "questions": [], "tests": [] }),
            vec!["title", "region", "questions", "tests"],
        ),
        (serde_json::json!({ "questions": [asked(0.8, 0.7)] }), vec!["questions[0].reassure_below"]),
        (
            serde_json::json!({ "questions": [asked(-0.1, 1.2)] }),
            vec!["questions[0].reassure_below", "questions[0].treat_above"],
        ),
        (serde_json::json!({ "questions": [asked(0.1, 0.7), asked(0.1, 0.7)] }), vec!["questions[1].condition"]),
        (
            serde_json::json!({ "questions": [{ "condition": "Torn" }] }),
            vec!["questions[0].pre_test", "questions[0].reassure_below", "questions[0].treat_above"],
        ),
        (serde_json::json!({ "questions": vec![asked(0.1, 0.7); 7] }), vec!["questions"]),
        (
            with_actions(
                serde_json::json!([{ "action": "image", "from": 0.05 }, { "action": "image", "from": 0.3 }, {}, { "action": "reassure", "from": 0.2 }]),
                "refer",
            ),
            vec![
                "questions[0].between[0].from",
                "questions[0].between[1].action",
                "questions[0].between[2].action",
                "questions[0].between[2].from",
                "questions[0].between[3].action",
                "questions[0].between[3].from",
            ],
        ),
        (
            with_actions(serde_json::json!([{ "action": "treat", "from": 2 }]), "reassure"),
            vec!["questions[0].above", "questions[0].between[0].from"],
        ),
        (
            serde_json::json!({ "tests": [{ "test": id(1) }, { "test": id(1) }, {}] }),
            vec!["tests[1].test", "tests[2].test"],
        ),
        (
            serde_json::json!({ "tests": [{ "test": id(1), "after": [id(1), id(3)] }] }),
            vec!["tests[0].after", "tests[0].after"],
        ),
        (
            serde_json::json!({ "tests": [{ "test": id(1), "after": [id(2)] }, { "test": id(2), "after": [id(1)] }] }),
            vec!["tests[0].after"],
        ),
        (
            serde_json::json!({ "tests": [{ "test": id(1), "keep_last": true }, { "test": id(2), "after": [id(1)] }] }),
            vec!["tests[0].after"],
        ),
        (
            serde_json::json!({ "tests": (0..41).map(|n| serde_json::json!({ "test": id(n) })).collect::<Vec<_>>() }),
            vec!["tests"],
        ),
        (
            serde_json::json!({ "weights": { "turning": -1, "one_attempt": 1, "irritating_late": 1, "informative_early": 1 } }),
            vec!["weights"],
        ),
    ] {
        assert_eq!(check(changed.clone()).unwrap_err(), fields, "{changed}");
    }
}

fn screened(cautions: Vec<Caution>) -> ScreenedTest {
    let (region, joints, variant) = (Region::Neck, vec![Joint::CervicalSpine], "As taught".to_owned());
    let (position, equipment) = (Some(Position::Sitting), vec!["Ruler".to_owned()]);
    ScreenedTest { region, joints, variant, position, equipment, irritation: Some(2.0), minutes: Some(3.0), cautions }
}

fn caution(text: &str, screening: &str, unsafe_answers: &[ScreeningAnswer], scope: CautionScope) -> Caution {
    let kind = Some(CautionKind::Contraindication);
    let (text, screening, unsafe_answers) = (text.to_owned(), screening.to_owned(), unsafe_answers.to_vec());
    Caution {
        text,
        kind,
        screening,
        unsafe_answers,
        scope: Some(scope),
        instead: "Leave it out.".to_owned(),
        ..Caution::default()
    }
}

fn answered(answers: &[(&str, ScreeningAnswer)]) -> PatientFit {
    PatientFit {
        answers: answers.iter().map(|(asked, answer)| (name_key(asked), *answer)).collect(),
        ..PatientFit::default()
    }
}

#[test]
fn an_unsafe_answer_takes_out_what_it_reaches_and_an_open_one_keeps_it_locked() {
    use ScreeningAnswer::{No, Unknown, Yes};
    let shelf = caution("Stiff shoulder", "Can you reach a shelf?", &[No], CautionScope::Test);
    let fall = caution("Fall", "Any accident?", &[Yes, Unknown], CautionScope::Region);
    let fall_again = Caution {
        scope: None,
        text: "Accident not imaged".to_owned(),
        ..caution("", "Any accident? ", &[Yes], CautionScope::Test)
    };
    let clumsy =
        Caution { within_hours: Some(0.0), ..caution("Clumsy hands", "Clumsy?", &[Yes], CautionScope::Examination) };
    let wound = caution("Open wound", "Look at the palm.", &[], CautionScope::Test);
    let mild = Caution { kind: Some(CautionKind::Precaution), unsafe_answers: Vec::new(), ..shelf.clone() };
    let watched = Caution { kind: Some(CautionKind::StopRule), ..fall.clone() };
    let elsewhere = Caution { variant: "Seated".to_owned(), ..fall.clone() };
    let other = ScreenedTest { region: Region::Shoulder, joints: vec![Joint::Shoulder], ..screened(vec![shelf, mild]) };
    let tests =
        [screened(vec![fall, clumsy, watched]), screened(vec![fall_again, elsewhere]), screened(vec![wound]), other];
    let states =
        |patient: &PatientFit| examination_fit(&tests, patient).tests.iter().map(|it| it.state).collect::<Vec<_>>();

    // Nothing is answered: everything waits, and each question is asked once, that of the widest reach first.
    let open = examination_fit(&tests, &PatientFit::default());
    let questions: Vec<&str> = open.questions.iter().map(|it| it.question.as_str()).collect();
    assert_eq!(questions, ["Clumsy?", "Any accident?", "Open wound", "Can you reach a shelf?"]);
    assert_eq!((open.questions[1].about.len(), &open.questions[1].tests), (2, &vec![0, 1, 2]));
    assert_eq!((open.questions[2].help.as_str(), &open.questions[2].unsafe_answers), ("Look at the palm.", &vec![Yes]));
    assert!(open.tests.iter().all(|it| it.state == FitState::Locked) && open.stop.is_none());

    let safe = [("Clumsy?", No), ("any accident?", No), ("Open wound", No), ("Can you reach a shelf?", Yes)];
    assert_eq!(states(&answered(&safe)), [FitState::Ready, FitState::Ready, FitState::Ready, FitState::WithCare]);
    // The unsafe answer may be "no"; a region's caution reaches its region; unknown is unsafe where the sheet says so, and open elsewhere.
    let with = |changed: &[(&str, ScreeningAnswer)]| answered(&[&safe, changed].concat());
    assert_eq!(states(&with(&[("Can you reach a shelf?", No)]))[3], FitState::NotNow);
    assert_eq!(
        states(&with(&[("Any accident?", Yes)])),
        [FitState::NotNow, FitState::NotNow, FitState::NotNow, FitState::WithCare]
    );
    assert_eq!(states(&with(&[("Any accident?", Unknown)]))[..2], [FitState::NotNow; 2]);
    let locked = examination_fit(&tests, &with(&[("Clumsy?", Unknown)]));
    assert!(
        locked.tests[2].reasons.contains(&FitReason::Open { question: "Clumsy?".to_owned() }) && locked.stop.is_none()
    );
    let stopped = examination_fit(&tests, &with(&[("Clumsy?", Yes)]));
    assert!(stopped.tests.iter().all(|it| it.state == FitState::NotNow));
    assert_eq!(
        stopped.stop.map(|it| (it.caution, it.within_hours, it.of)),
        Some(("Clumsy hands".to_owned(), Some(0.0), 0))
    );

    // What cannot be taken, is not at hand, irritates too much, or finds no time.
    let plain = [screened(Vec::new()), screened(Vec::new())];
    let reasons = |patient: PatientFit| {
        examination_fit(&plain, &patient).tests.into_iter().map(|it| it.reasons).collect::<Vec<_>>()
    };
    let none = PatientFit::default();
    let first = |patient: PatientFit| reasons(patient).swap_remove(0);
    assert_eq!(
        first(PatientFit { cannot_take: vec![Position::Sitting], ..none.clone() }),
        [FitReason::Position { position: Position::Sitting }]
    );
    assert_eq!(
        first(PatientFit { lacking: vec!["RULER".to_owned()], ..none.clone() }),
        [FitReason::Equipment { name: "Ruler".to_owned() }]
    );
    assert_eq!(first(PatientFit { irritable: Some(2), ..none.clone() }), [FitReason::Irritation]);
    assert!(first(PatientFit { irritable: Some(1), ..none.clone() }).is_empty());
    assert_eq!(reasons(PatientFit { minutes: Some(4.0), ..none.clone() }), [vec![], vec![FitReason::Minutes]]);
    assert!(examination_fit(&[], &none).tests.is_empty());
}

proptest! {
    /// More that speaks against a test never makes it fit better, and every question leads to a safe answer unless the sheets contradict each other.
    #[test]
    fn an_answer_that_is_not_known_never_clears_a_test(
        cautions in prop::collection::vec((0usize..4, 0usize..3, 0usize..4, 0usize..6), 1..8), answers in prop::collection::vec(0usize..3, 4),
    ) {
        let all = [ScreeningAnswer::Yes, ScreeningAnswer::No, ScreeningAnswer::Unknown];
        let scopes = [CautionScope::Test, CautionScope::Joint, CautionScope::Region, CautionScope::Examination];
        let kinds = [Some(CautionKind::Contraindication), Some(CautionKind::Precaution), Some(CautionKind::StopRule)];
        let unsafe_of = [&all[..1], &all[1..2], &all[2..], &[all[0], all[2]], &[all[1], all[2]], &[]];
        let tests: Vec<ScreenedTest> = cautions.iter().map(|(question, kind, scope, answers)| {
            let asked = caution("What it is about", &format!("Question {question}?"), unsafe_of[*answers], scopes[*scope]);
            screened(vec![Caution { kind: kinds[*kind], joint: Some(Joint::CervicalSpine), ..asked }])
        }).collect();
        let questions: Vec<String> = (0..4).map(|it| format!("Question {it}?")).collect();
        let of = |unknown: Option<usize>| {
            let said = answers.iter().enumerate().map(|(place, answer)| (questions[place].as_str(), if unknown == Some(place) { all[2] } else { all[*answer] }));
            examination_fit(&tests, &answered(&said.collect::<Vec<_>>()))
        };
        let known = of(None);
        prop_assert_eq!(known.tests.len(), tests.len());
        prop_assert!(known.tests.iter().all(|it| (it.state == FitState::Ready) == it.reasons.is_empty()));
        prop_assert_eq!(known.stop.is_some(), tests.iter().any(|it| {
            let it = &it.cautions[0];
            let answer = answers[questions.iter().position(|asked| *asked == it.screening).unwrap()];
            // Without unsafe answers the caution itself is asked, which nobody answered here.
            it.scope == Some(CautionScope::Examination) && it.kind == Some(CautionKind::Contraindication) && it.unsafe_answers.contains(&all[answer])
        }));
        for place in 0..4 {
            for (unknown, known) in of(Some(place)).tests.iter().zip(&known.tests) {
                let open = |it: &FitReason| matches!(it, FitReason::Open { .. });
                prop_assert!(unknown.state != FitState::Ready || known.state == FitState::Ready || !known.reasons.iter().any(open));
            }
        }
    }
}

proptest! {
    /// An order of one's own is priced as the best one is, and says exactly which wishes it does not keep.
    #[test]
    fn an_own_order_tells_every_wish_that_it_breaks(
        values in prop::collection::vec((0u32..3, any::<[bool; 2]>(), 0u8..4, 0.0..1.0f64, any::<bool>(), 0.0..1.0f64), 1..9),
        wishes in prop::collection::vec((0usize..9, 0usize..9), 0..5),
    ) {
        let tests: Vec<PlannedTest> = values.iter().map(|(position, [one_attempt, frame], irritation, bits, keep_last, _)| PlannedTest {
            position: *position, one_attempt: *one_attempt, irritation: f64::from(*irritation), bits: *bits, keep_last: *keep_last, frame: *frame,
        }).collect();
        let n = tests.len();
        let before: Vec<(usize, usize)> = wishes.into_iter().filter(|(a, b)| a < b && *b < n).collect();
        let mut order: Vec<usize> = (0..n).collect();
        order.sort_by(|a, b| values[*a].5.total_cmp(&values[*b].5));
        let own = own_order(&tests, &OrderWeights::default(), &before, &order).unwrap();
        prop_assert_eq!(own.cost, order_cost(&tests, &OrderWeights::default(), &order).unwrap());
        prop_assert_eq!(own.reasons.len(), n);
        let at = |test: usize| order.iter().position(|it| *it == test).unwrap();
        for [first, second] in &own.broken {
            let frame = tests[*first].frame && !tests[*second].frame;
            let wished = before.contains(&(*first, *second)) || (tests[*second].keep_last && !tests[*first].keep_last) || frame;
            prop_assert!(wished && at(*first) > at(*second));
        }
        prop_assert!(before.iter().all(|(a, b)| at(*a) < at(*b) || own.broken.contains(&[*a, *b])));
        let late = order.windows(2).any(|pair| tests[pair[0]].keep_last && !tests[pair[1]].keep_last);
        prop_assert!(!late || own.broken.iter().any(|[first, second]| tests[*second].keep_last && !tests[*first].keep_last));
        // The best order breaks none, where one is possible.
        if let Ok(best) = best_order(&tests, &OrderWeights::default(), &before) {
            let read = own_order(&tests, &OrderWeights::default(), &before, &best.order).unwrap();
            prop_assert!(read.broken.is_empty());
            // The basic examination comes first, unless something else is wished.
            let excused = !before.is_empty() || tests.iter().any(|it| it.frame && it.keep_last);
            prop_assert!(excused || !best.order.windows(2).any(|pair| !tests[pair[0]].frame && tests[pair[1]].frame), "{best:?}");
            let special_follows = |place: usize| best.order[place..].iter().any(|it| !tests[*it].frame);
            for (place, reasons) in best.reasons.iter().enumerate() {
                prop_assert_eq!(reasons.contains(&PlaceReason::Frame), tests[best.order[place]].frame && special_follows(place));
            }
            prop_assert_eq!(read.reasons, best.reasons);
            prop_assert!(!own.broken.is_empty() || own.cost.total >= best.cost.total - 1e-9);
        }
    }
}

proptest! {
    #[test]
    fn a_test_changes_the_decision_where_its_result_leads_into_another_zone(
        singles in prop::collection::vec((0.0..=1.0f64, 0.0..=1.0f64), 1..=5), pre_test in 0.0..=1.0f64, ends in (0.0..=1.0f64, 0.0..=1.0f64),
    ) {
        let tests: Vec<TestAccuracy> = singles.iter().map(|(se, sp)| TestAccuracy { sensitivity: p(*se), specificity: p(*sp) }).collect();
        let (low, high) = (ends.0.min(ends.1), ends.0.max(ends.1));
        let thresholds = Thresholds::new(p(low), p(high)).unwrap();
        let found = decision_changes(&pattern_results(&tests).unwrap(), p(pre_test), |p| thresholds.zone(p)).unwrap();
        // The same by following every beginning of results with its two chances.
        let zone = |[with, without]: [f64; 2]| thresholds.zone(p((with / (with + without)).min(1.0)));
        let mut beginnings = vec![[pre_test, 1.0 - pre_test]];
        for (place, (se, sp)) in singles.iter().enumerate() {
            let mut changed = 0.0;
            let mut next = Vec::new();
            for [with, without] in beginnings {
                for after in [[with * se, without * (1.0 - sp)], [with * (1.0 - se), without * sp]] {
                    let chance = after[0] + after[1];
                    // What lies on a threshold is decided by rounding.
                    let near = |it: [f64; 2]| [low, high].iter().any(|end| (it[0] / (it[0] + it[1]) - end).abs() < 1e-9);
                    prop_assume!(chance <= 0.0 || !(near(after) || near([with, without])));
                    if chance > 0.0 {
                        changed += if zone(after) == zone([with, without]) { 0.0 } else { chance };
                        next.push(after);
                    }
                }
            }
            beginnings = next;
            prop_assert!((found[place].get() - changed).abs() < 1e-9, "{place}: {found:?} {changed}");
        }
        prop_assert!(decision_changes(&[], p(pre_test), |p| thresholds.zone(p)).is_none());
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]
    #[test]
    fn no_order_that_keeps_the_wishes_is_better(
        values in prop::collection::vec((0u32..4, any::<bool>(), 0u8..4, 0.0..1.0f64, any::<bool>()), 1..=MAX_PLANNED),
        weights in (0.0..3.0f64, 0.0..3.0f64, 0.0..3.0f64, 0.0..3.0f64), shuffle in prop::collection::vec(0.0..1.0f64, MAX_PLANNED), size in 1usize..=MAX_PLANNED,
    ) {
        let tests: Vec<PlannedTest> = values.iter().take(size).map(|(position, one_attempt, irritation, bits, keep_last)| PlannedTest {
            position: *position, one_attempt: *one_attempt, irritation: f64::from(*irritation), bits: *bits, keep_last: *keep_last && *one_attempt,
            frame: false,
        }).collect();
        let weights = OrderWeights { turning: weights.0, one_attempt: weights.1, irritating_late: weights.2, informative_early: weights.3 };
        let before: Vec<(usize, usize)> = (1..tests.len()).filter(|it| it % 3 == 0 && (!tests[it - 1].keep_last || tests[*it].keep_last)).map(|it| (it - 1, it)).collect();
        let best = best_order(&tests, &weights, &before).unwrap();
        let again = order_cost(&tests, &weights, &best.order).unwrap();
        prop_assert!((again.total - best.cost.total).abs() < 1e-9);
        prop_assert!(best.bound <= best.cost.total + 1e-9);
        let at = |test: usize| best.order.iter().position(|it| *it == test).unwrap();
        prop_assert!(before.iter().all(|(first, second)| at(*first) < at(*second)));
        let last = best.order.iter().position(|it| tests[*it].keep_last).unwrap_or(tests.len());
        prop_assert!(best.order[last..].iter().all(|it| tests[*it].keep_last));
        // Another order that keeps them, by chance: never better than the bound, nor than the best.
        let mut other: Vec<usize> = (0..tests.len()).collect();
        other.sort_by(|a, b| tests[*a].keep_last.cmp(&tests[*b].keep_last).then(shuffle[*a].total_cmp(&shuffle[*b])));
        if before.iter().all(|(first, second)| other.iter().position(|it| it == first) < other.iter().position(|it| it == second)) {
            let cost = order_cost(&tests, &weights, &other).unwrap().total;
            prop_assert!(cost >= best.bound - 1e-9);
            prop_assert!(!best.exact || cost >= best.cost.total - 1e-9);
        }
    }
}

/// A question with two actions between its thresholds, and referral above them.
fn question(pre_test: f64, [low, first, second, high]: [f64; 4]) -> PlanQuestion {
    let band = |action, from| ActionBand { action, from: p(from) };
    PlanQuestion {
        condition: "Torn".to_owned(),
        pre_test: p(pre_test),
        thresholds: Thresholds::new(p(low), p(high)).unwrap(),
        between: vec![band(PlanAction::RepeatLater, first), band(PlanAction::Image, second)],
        above: PlanAction::Refer,
    }
}

fn known((se, sp): (f64, f64)) -> (Summary, TestAccuracy) {
    let exactly = |it: f64| Estimate { estimate: p(it), lower: p(it), upper: p(it) };
    let ratio = |it: f64| Ratio::new(it).map(|it| Estimate { estimate: it, lower: it, upper: it }).ok();
    let summary = Summary {
        sensitivity: Some(exactly(se)),
        specificity: Some(exactly(sp)),
        lr_positive: ratio(se / (1.0 - sp)),
        lr_negative: ratio((1.0 - se) / sp),
        ..Summary::default()
    };
    (summary, TestAccuracy { sensitivity: p(se), specificity: p(sp) })
}

fn left(test: usize, of: (f64, f64)) -> TestLeft {
    TestLeft { test, accuracy: known(of).1, optional: false }
}

#[test]
fn an_examination_ends_only_when_every_question_is_answered_and_nothing_that_must_not_be_missed_is_unasked() {
    use QuestionState::{Decided, Open, Settled};
    assert_eq!(examination_end([Decided, Open], 1), ExaminationEnd::Open);
    assert_eq!(examination_end([Decided, Settled], 2), ExaminationEnd::MustNotMiss);
    assert_eq!(examination_end([Decided, Settled], 0), ExaminationEnd::Finished);
    assert_eq!(examination_end([], 1), ExaminationEnd::MustNotMiss);

    let asked = question(0.3, [0.1, 0.2, 0.5, 0.8]);
    let at = |share: f64| asked.action(p(share));
    assert_eq!([at(0.0), at(0.09)], [Some(PlanAction::Reassure); 2]);
    assert_eq!([at(0.1), at(0.2), at(0.5)], [None, Some(PlanAction::RepeatLater), Some(PlanAction::Image)]);
    assert_eq!(
        [at(0.8), at(0.81), at(1.0)],
        [Some(PlanAction::Image), Some(PlanAction::Refer), Some(PlanAction::Refer)]
    );

    // One that could not be read and has no figures moves nothing; one that is certain ends it.
    let (nothing, certain) = (Summary::default(), known((0.9, 1.0 - 1e-9)).0);
    let found = |summary| StandingResult { test: 4, finding: Finding { summary, result: FoundResult::Positive } };
    let stands = question_standing(&asked, &[found(nothing)], &[left(1, (0.5, 0.5))], Level::default());
    assert_eq!((stands.state, stands.now.estimate, stands.steps[0].test), (Settled, p(0.3), 4));
    assert!(stands.steps[0].step.after.is_none() && stands.steps[0].action == Some(PlanAction::RepeatLater));
    let stands = question_standing(&asked, &[found(certain)], &[left(1, (0.9, 0.9))], Level::default());
    assert_eq!((stands.state, stands.action, stands.whole_interval), (Decided, Some(PlanAction::Refer), true));
    assert!(stands.open[0].information < 1e-6, "{stands:?}");
    // Open as long as one test, or several together, can still change it.
    let weak = left(0, (0.55, 0.5));
    let optional = TestLeft { optional: true, ..left(0, (0.99, 0.99)) };
    for (open, state) in
        [(vec![], Settled), (vec![weak], Settled), (vec![weak; 9], Open), (vec![weak, optional], Settled)]
    {
        assert_eq!(question_standing(&asked, &[], &open, Level::default()).state, state, "{open:?}");
    }
    let mut wide = known((0.9, 0.9)).0;
    wide.lr_positive = Some(Estimate { lower: Ratio::new(1.0).unwrap(), ..wide.lr_positive.unwrap() });
    let stands = question_standing(&question(0.3, [0.1, 0.2, 0.5, 0.7]), &[found(wide)], &[], Level::default());
    assert_eq!((stands.action, stands.whole_interval), (Some(PlanAction::Refer), false));
}

proptest! {
    #[test]
    fn what_is_done_in_the_end_sums_to_everybody_and_follows_the_results(
        singles in prop::collection::vec((0.0..=1.0f64, 0.0..=1.0f64), 1..=5), pre_test in 0.0..=1.0f64, mut ends in prop::array::uniform4(0.0..=1.0f64),
        results in prop::collection::vec(any::<bool>(), 5), made in 0..=5usize,
    ) {
        ends.sort_by(f64::total_cmp);
        prop_assume!(ends[1] < ends[2]);
        let asked = question(pre_test, ends);
        let tests: Vec<(Summary, TestAccuracy)> = singles.iter().map(|it| known(*it)).collect();
        let accuracy: Vec<TestAccuracy> = tests.iter().map(|it| it.1).collect();
        let patterns = pattern_results(&accuracy).unwrap();
        let shares = action_shares(&asked, &patterns).unwrap();
        let followed = sequence(&patterns, p(pre_test), &asked.thresholds).unwrap();
        prop_assert!((shares.iter().map(|it| it.share.get()).sum::<f64>() - 1.0).abs() < 1e-9, "{shares:?}");
        let between: f64 = shares[1..4].iter().map(|it| it.share.get()).sum();
        prop_assert!((between - followed.undecided.get()).abs() < 1e-9);
        prop_assert_eq!(shares.iter().map(|it| it.action).collect::<Vec<_>>(),
            vec![Some(PlanAction::Reassure), None, Some(PlanAction::RepeatLater), Some(PlanAction::Image), Some(PlanAction::Refer)]);
        // So many of one kind in a row are enough, and one fewer is not.
        for (enough, positive, zone) in [(followed.enough_negative, false, Zone::Reassure), (followed.enough_positive, true, Zone::Treat)] {
            let after = |made: usize| {
                let chances = singles[..made].iter().fold([pre_test, 1.0 - pre_test], |[with, without], (se, sp)| {
                    if positive { [with * se, without * (1.0 - sp)] } else { [with * (1.0 - se), without * sp] }
                });
                let all = chances[0] + chances[1];
                // What lies on a threshold is decided by rounding.
                (all > 1e-300).then(|| chances[0] / all)
            };
            let near = (0..=singles.len()).filter_map(after).any(|it| ends.iter().any(|end| (end - it).abs() < 1e-9));
            prop_assume!(!near);
            let first = (0..=singles.len()).find(|made| after(*made).is_some_and(|it| asked.thresholds.zone(p(it.min(1.0))) == zone));
            prop_assert_eq!(enough, first);
        }

        // Results one by one, as Bayes' rule has it; the rest is open.
        let made = made.min(singles.len());
        let found: Vec<StandingResult> = (0..made)
            .map(|test| StandingResult { test, finding: Finding {
                summary: tests[test].0, result: if results[test] { FoundResult::Positive } else { FoundResult::Negative } } })
            .collect();
        let open: Vec<TestLeft> = (made..singles.len()).map(|test| left(test, singles[test])).collect();
        let stands = question_standing(&asked, &found, &open, Level::default());
        let mut at = p(pre_test);
        for (step, result) in stands.steps.iter().zip(&found) {
            at = result.finding.lr().and_then(|lr| post_test(at, lr.estimate)).unwrap_or(at);
            let after = step.step.after.map_or(at, |after| after.estimate);
            prop_assert!((after.get() - at.get()).abs() < 1e-9, "{stands:?}");
        }
        prop_assert_eq!(stands.action, asked.action(stands.now.estimate));
        let crossed = asked.thresholds.zone(stands.now.estimate) != Zone::Between;
        prop_assert_eq!(stands.state == QuestionState::Decided, crossed);
        prop_assert_eq!(stands.open.iter().map(|it| it.test).collect::<Vec<_>>(), (made..singles.len()).collect::<Vec<_>>());
        for test in &stands.open {
            prop_assert!((0.0..=1.0).contains(&test.information));
            // One that can change what is done alone leaves the question open.
            prop_assert!(test.changes.get() < 1e-9 || stands.state != QuestionState::Settled, "{stands:?}");
        }
    }
}
