//! What attempts show by the rules of their sheets, when an examination may be finished, and what is due of it.

use chrono::NaiveDate;
use proptest::prelude::*;
use pruvex_core::catalogue::{
    Bias, GradeLevel, Inability, InabilityReason, Outcome, Pitfall, Region, Repeat, RepeatWhen, Sheet, SheetInput,
    Variant,
};
use pruvex_core::examination::{
    Attempt, AttemptRules, AttemptShown, AttemptSide, ClosedExamination, Conclusion, ExaminationConduct, Holds, LABELS,
    ReadingCause, ReferenceFound, ReferenceResult, RepeatDue, StandardKind, TestConduct, TestReading, UnreadableReason,
    UrgentFound, check_reference, clinic_prevalence, examination_label, holds, may_finish, own_records,
    suggested_repeats,
};
use pruvex_core::plan::{ExaminationPlan, ExaminationPlanInput, ExaminationTestInput, PlanAction, PlanQuestionInput};
use pruvex_core::{Estimate, Probability, Ratio, TestId};
use uuid::Uuid;

use AttemptShown::{Equivocal, Level, Negative, NotInterpretable, Positive, Unable};
use AttemptSide::{Affected, Both, Sound};

fn attempt(side: AttemptSide, shown: AttemptShown) -> Attempt {
    Attempt { side: Some(side), shown: Some(shown), ..Attempt::default() }
}

fn rules() -> AttemptRules {
    let level =
        |name: &str, outcome| GradeLevel { name: name.to_owned(), outcome: Some(outcome), ..GradeLevel::default() };
    let unable =
        |reason, outcome| Inability { reason: Some(reason), outcome: Some(outcome), note: "Too weak".to_owned() };
    AttemptRules {
        inability: vec![
            unable(InabilityReason::Weakness, Outcome::Positive),
            unable(InabilityReason::Fear, Outcome::Negative),
        ],
        levels: vec![level("Easy", Outcome::Negative), level("Hard", Outcome::Positive)],
        spoiling: vec!["Thick swelling".to_owned()],
    }
}

#[test]
fn an_attempt_is_read_by_the_sheet_and_unable_is_never_negative() {
    let rules = rules();
    let level = |name: &str| Attempt { level: name.to_owned(), ..attempt(Affected, Level) };
    let unable = |reason| Attempt { unable: Some(reason), ..attempt(Affected, Unable) };
    let outcome = |of: &Attempt| rules.read(of).outcome;
    assert_eq!(outcome(&level(" hard ")), Outcome::Positive, "names are compared as everywhere");
    assert_eq!(rules.read(&level("Gone")).cause, Some(ReadingCause::LevelGone));
    assert_eq!(outcome(&unable(InabilityReason::Weakness)), Outcome::Positive);
    assert_eq!(outcome(&unable(InabilityReason::Fear)), Outcome::NotInterpretable);
    let silent = rules.read(&unable(InabilityReason::Pain));
    assert_eq!((silent.outcome, silent.cause), (Outcome::NotInterpretable, Some(ReadingCause::NoRule)));

    let swollen = |shown| Attempt { pitfalls: vec!["thick  swelling".to_owned()], ..attempt(Affected, shown) };
    let pitfall = "Thick swelling".to_owned();
    let spoilt = rules.read(&swollen(Negative));
    assert_eq!(spoilt.outcome, Outcome::NotInterpretable);
    assert_eq!(spoilt.cause, Some(ReadingCause::Pitfall { pitfall: pitfall.clone() }));
    assert_eq!(outcome(&swollen(Positive)), Outcome::Positive, "it pushes the other way");
    let easy = Attempt { level: "Easy".to_owned(), shown: Some(Level), ..swollen(Level) };
    assert_eq!(outcome(&easy), Outcome::NotInterpretable, "a level that is read as negative is spoilt, too");
    let overruled = rules.read(&Attempt { overruled: "Felt it well".to_owned(), ..swollen(Negative) });
    assert_eq!((overruled.outcome, overruled.cause), (Outcome::Negative, Some(ReadingCause::Overruled { pitfall })));
}

#[test]
fn only_pitfalls_of_the_patient_that_push_towards_negative_spoil_a_negative() {
    let pitfall = |text: &str, patient_side, bias| Pitfall {
        text: text.to_owned(),
        patient_side,
        bias: Some(bias),
        ..Pitfall::default()
    };
    let input = SheetInput {
        name: "Push".to_owned(),
        region: "pelvis".to_owned(),
        purpose: "pain_provocation".to_owned(),
        condition: "Sore joint".to_owned(),
        positive_finding: "Pain".to_owned(),
        variants: ["As taught", "Seated"].map(|name| Variant { name: name.to_owned(), ..Variant::default() }).to_vec(),
        pitfalls: vec![
            pitfall("Guarding", true, Bias::TowardsNegative),
            pitfall("Tender skin", true, Bias::TowardsPositive),
            pitfall("Pushed askew", false, Bias::TowardsNegative),
            Pitfall { negative_stands: true, ..pitfall("Stout", true, Bias::TowardsNegative) },
        ],
        ..SheetInput::default()
    };
    let sheet = Sheet::check(&input).unwrap();
    assert_eq!(AttemptRules::of(&sheet, "seated").spoiling, ["Guarding"]);
    assert_eq!(sheet.variant("SEATED").map(|it| it.name.as_str()), Some("Seated"));
    assert_eq!(sheet.variant("Gone").map(|it| it.name.as_str()), Some("As taught"));
}

fn read(attempts: &[Attempt]) -> TestReading {
    rules().read_all(attempts)
}

#[test]
fn the_last_attempt_that_can_be_read_counts_and_repeats_are_flagged() {
    let guarded = Attempt { unreadable: Some(UnreadableReason::Guarding), ..attempt(Affected, NotInterpretable) };
    let of =
        read(&[attempt(Sound, Negative), attempt(Affected, Negative), guarded.clone(), attempt(Affected, Positive)]);
    assert_eq!((of.outcome, of.counts, of.after_repeats), (Some(Outcome::Positive), Some(3), true));
    let of = read(&[guarded.clone(), attempt(Affected, Positive), guarded.clone()]);
    assert_eq!((of.outcome, of.counts, of.after_repeats), (Some(Outcome::Positive), Some(1), false));
    let of = read(&[attempt(Sound, Positive), attempt(Both, Positive)]);
    assert!(of.sound_side_too && !of.after_repeats);
    assert_eq!(read(&[attempt(Sound, Positive)]).outcome, None, "the sound side is for comparison");
    assert_eq!(read(&[guarded]).outcome, Some(Outcome::NotInterpretable), "never negative");
    let hard = Attempt { level: "hard".to_owned(), ..attempt(Affected, Level) };
    assert_eq!(read(&[attempt(Affected, Equivocal), hard]).level.as_deref(), Some("Hard"));
}

fn any_attempt() -> impl Strategy<Value = Attempt> {
    let shown = prop::sample::select(vec![Positive, Equivocal, Negative, Level, NotInterpretable, Unable]);
    let level = prop::sample::select(vec!["", "Easy", "Hard", "Gone"]);
    let unable = prop::sample::select(vec![InabilityReason::Weakness, InabilityReason::Fear, InabilityReason::Pain]);
    let side = prop::sample::select(vec![Sound, Affected, Both]);
    (side, shown, level, unable, any::<bool>(), any::<bool>()).prop_map(|(side, shown, level, unable, seen, over)| {
        Attempt {
            level: level.to_owned(),
            unable: Some(unable),
            pitfalls: if seen { vec!["Thick swelling".to_owned()] } else { Vec::new() },
            overruled: if over { "Sure".to_owned() } else { String::new() },
            ..attempt(side, shown)
        }
    })
}

proptest! {
    /// Against a plain re-reading: what could not be done, could not be read or is spoilt never counts as negative, sound sides never count, and what counts is the last.
    #[test]
    fn nothing_that_tells_nothing_counts_as_negative(attempts in prop::collection::vec(any_attempt(), 0..8)) {
        let of = read(&attempts);
        let plain = |it: &Attempt| match it.shown.unwrap() {
            Positive => Outcome::Positive,
            Equivocal => Outcome::Equivocal,
            Level if it.level == "Hard" => Outcome::Positive,
            Unable if it.unable == Some(InabilityReason::Weakness) => Outcome::Positive,
            Negative | Level if it.shown == Some(Negative) || it.level == "Easy" => {
                if it.pitfalls.is_empty() || !it.overruled.is_empty() { Outcome::Negative } else { Outcome::NotInterpretable }
            }
            _ => Outcome::NotInterpretable,
        };
        let counting: Vec<(usize, Outcome)> = attempts.iter().enumerate()
            .filter(|(_, it)| it.side != Some(Sound)).map(|(place, it)| (place, plain(it))).collect();
        let last = counting.iter().rev().find(|(_, outcome)| *outcome != Outcome::NotInterpretable);
        prop_assert_eq!(of.counts, last.map(|it| it.0));
        let none = (!counting.is_empty()).then_some(Outcome::NotInterpretable);
        prop_assert_eq!(of.outcome, last.map(|it| it.1).or(none));
        prop_assert_eq!(of.attempts.len(), attempts.len());
        prop_assert!(!of.after_repeats || of.outcome == Some(Outcome::Positive));
    }

    #[test]
    fn every_label_is_a_word_and_a_number_and_comes_once(drawn in any::<u64>(), step in 1..LABELS) {
        let label = examination_label(drawn);
        let (word, number) = label.split_once(' ').unwrap();
        prop_assert!(word.chars().all(|it| it.is_ascii_lowercase()) && number.parse::<u32>().is_ok_and(|n| n >= 1));
        prop_assert_ne!(&label, &examination_label(drawn % LABELS + step));
    }
}

fn plan() -> (ExaminationPlan, [TestId; 2]) {
    let ids = [1, 2].map(|n| TestId::from(Uuid::from_u128(n)));
    let question = PlanQuestionInput {
        condition: "Sore joint".to_owned(),
        pre_test: Some(0.3),
        reassure_below: Some(0.1),
        treat_above: Some(0.7),
        ..PlanQuestionInput::default()
    };
    let input = ExaminationPlanInput {
        title: "Standard".to_owned(),
        region: Region::Pelvis.code().to_owned(),
        questions: vec![question],
        tests: ids.map(|id| ExaminationTestInput { test: Some(id), ..ExaminationTestInput::default() }).to_vec(),
        ..ExaminationPlanInput::default()
    };
    (ExaminationPlan::check(&input).unwrap(), ids)
}

#[test]
fn bad_entries_name_their_fields() {
    let (plan, [first, _]) = plan();
    let of = |test: Option<TestId>, attempts: Vec<Attempt>| TestConduct { test, attempts, ..TestConduct::default() };
    let bad = ExaminationConduct {
        tests: vec![
            of(
                Some(first),
                vec![
                    Attempt { side: Some(Affected), ..Attempt::default() },
                    attempt(Affected, Level),
                    attempt(Affected, NotInterpretable),
                    Attempt { unreadable: Some(UnreadableReason::Other), ..attempt(Affected, NotInterpretable) },
                    Attempt { pain_ended: true, ..attempt(Affected, Unable) },
                    Attempt { held: Some(-1.0), ..attempt(Affected, Positive) },
                ],
            ),
            of(Some(first), Vec::new()),
            TestConduct { skipped: true, ..of(Some(TestId::from(Uuid::from_u128(9))), Vec::new()) },
            of(None, vec![attempt(Affected, Positive)]),
        ],
        urgent: vec![UrgentFound { action: "Refer".to_owned(), ..UrgentFound::default() }],
        repeats: vec![RepeatDue { keep_same: "Time of day".to_owned(), ..RepeatDue::default() }],
        ..ExaminationConduct::default()
    };
    let fields: Vec<String> = bad.check(&plan).unwrap_err().into_iter().map(|it| it.field).collect();
    let sorted = |mut it: Vec<String>| {
        it.sort();
        it
    };
    let within = |name: &str| format!("tests[0].attempts[{name}");
    let mut expected: Vec<String> =
        ["0].shown", "1].level", "2].unreadable", "3].note", "4].held", "4].unable", "5].held"].map(within).to_vec();
    expected.extend(
        ["repeats[0].on", "tests[1].test", "tests[2].reason", "tests[2].test", "tests[3].test", "urgent[0].finding"]
            .map(str::to_owned),
    );
    assert_eq!(sorted(fields), sorted(expected));
    let blank = ExaminationConduct { repeats: vec![RepeatDue::default()], ..ExaminationConduct::default() };
    assert_eq!(blank.check(&plan).unwrap(), ExaminationConduct::default(), "an empty line is none");
}

#[test]
fn an_examination_ends_only_with_a_conclusion_and_never_in_reassurance_past_what_must_not_be_missed() {
    let concluded = |action| ExaminationConduct {
        conclusion: Conclusion { text: "Clear".to_owned(), action, ..Conclusion::default() },
        ..ExaminationConduct::default()
    };
    let stopped = |of: &ExaminationConduct, stop: Option<&str>, unasked: &[String]| -> Vec<String> {
        may_finish(of, stop, unasked).err().unwrap_or_default().into_iter().map(|it| it.field).collect()
    };
    let fields = |of: &ExaminationConduct, unasked: &[String]| stopped(of, None, unasked);
    let unasked = ["Break".to_owned()];
    assert_eq!(fields(&ExaminationConduct::default(), &[]), ["conclusion.text"]);
    assert_eq!(fields(&concluded(Some(PlanAction::Reassure)), &unasked), ["conclusion.action"]);
    assert_eq!(fields(&concluded(Some(PlanAction::Reassure)), &[]), [""; 0]);
    assert_eq!(fields(&concluded(Some(PlanAction::Treat)), &unasked), [""; 0], "what is found may be treated");
    assert_eq!(fields(&concluded(Some(PlanAction::Refer)), &[]), ["conclusion.deadline"]);
    assert_eq!(stopped(&concluded(Some(PlanAction::Reassure)), Some("Fever"), &[]), ["conclusion.action"]);
    assert_eq!(stopped(&concluded(Some(PlanAction::RepeatLater)), Some("Fever"), &[]), [""; 0]);
    let mut urgent = concluded(None);
    urgent.urgent.push(UrgentFound { finding: "Cold hand".to_owned(), ..UrgentFound::default() });
    assert_eq!(fields(&urgent, &[]), ["urgent[0].done"]);
    urgent.urgent[0].done = Some(false);
    assert_eq!(fields(&urgent, &[]), [""; 0]);
}

#[test]
fn the_earliest_open_day_is_due_and_locked_findings_stay() {
    let day = |n| NaiveDate::from_ymd_opt(2027, 1, n);
    let due = |n, done| RepeatDue { on: day(n), done, ..RepeatDue::default() };
    let mut conduct =
        ExaminationConduct { repeats: vec![due(3, true), due(9, false)], ..ExaminationConduct::default() };
    assert_eq!(conduct.next_due(), day(9));
    conduct.conclusion = Conclusion { deadline: day(5), ..Conclusion::default() };
    assert_eq!(conduct.next_due(), day(5));
    conduct.conclusion.done = true;
    assert_eq!(conduct.next_due(), day(9));

    let (_, [first, _]) = plan();
    let mut other = conduct.clone();
    other.conclusion.text = "Better".to_owned();
    other.tests.push(TestConduct { test: Some(first), ..TestConduct::default() });
    let kept = conduct.with_conclusion_of(&other);
    assert_eq!((kept.conclusion.text.as_str(), kept.tests.len()), ("Better", 0));

    let repeats = [
        Repeat { when: Some(RepeatWhen::AfterDays), days: Some(14.0), ..Repeat::default() },
        Repeat { when: Some(RepeatWhen::SwellingGone), days: Some(f64::NAN), ..Repeat::default() },
    ];
    let of = |outcome| TestReading { outcome: Some(outcome), ..TestReading::default() };
    let today = day(1).unwrap();
    let suggested = suggested_repeats(first, &of(Outcome::Negative), &repeats, today);
    assert_eq!(suggested.iter().map(|it| it.on).collect::<Vec<_>>(), [day(15), None]);
    assert!(suggested_repeats(first, &of(Outcome::Positive), &repeats, today).is_empty());
}

fn closed(results: &[(TestId, Outcome)], after: f64, found: Option<ReferenceFound>) -> ClosedExamination {
    let reference = found.map(|found| ReferenceResult {
        condition: "sore  JOINT".to_owned(),
        found: Some(found),
        by: Some(StandardKind::Operation),
        ..ReferenceResult::default()
    });
    ClosedExamination {
        questions: vec![("Sore joint".to_owned(), Probability::new(after).unwrap())],
        tests: results.iter().map(|(test, outcome)| (*test, Some(*outcome))).collect(),
        reference: reference.into_iter().collect(),
    }
}

#[test]
fn own_records_count_only_what_was_found_out_and_correct_for_the_rest() {
    use Outcome::{Equivocal, Negative, NotInterpretable, Positive};
    let (_, [first, second]) = plan();
    let (present, absent) = (Some(ReferenceFound::Present), Some(ReferenceFound::Absent));
    let many =
        |n: usize, outcome, after, found| vec![closed(&[(first, outcome), (second, Equivocal)], after, found); n];
    // Of 12 positive ones all were followed up, of 12 negative ones 6: 8, 4 and 1, 5.
    let records = [
        many(8, Positive, 0.8, present),
        many(4, Positive, 0.8, absent),
        many(1, Negative, 0.1, present),
        many(5, Negative, 0.1, absent),
        many(5, Negative, 0.1, None),
        many(1, Negative, 0.1, Some(ReferenceFound::Unclear)),
        many(2, NotInterpretable, 0.3, absent),
    ]
    .concat();
    let own = own_records(&records, "SORE joint");
    assert_eq!((own.finished, own.closed, own.tests.len()), (26, 20, 1), "equivocal results are no results");
    assert!((own.prevalence.unwrap().estimate.get() - 9.0 / 20.0).abs() < 1e-12);
    let calibration = own.calibration.unwrap();
    assert_eq!((calibration.n, calibration.events, calibration.bins[4].n), (20, 9, 12));
    let test = &own.tests[0];
    assert_eq!((test.counts.negative_unverified.get(), test.uninterpretable), (6, [0, 2, 0]));
    // Begg and Greenes: 12 negative ones stand for 2 with and 10 without it.
    let share = |of: Option<pruvex_core::accuracy::CorrectedShare>| of.unwrap().estimate.get();
    assert!((share(test.accuracy.sensitivity) - 8.0 / 10.0).abs() < 1e-12);
    assert!((share(test.accuracy.specificity) - 10.0 / 14.0).abs() < 1e-12);
    assert!((test.accuracy.naive_sensitivity.unwrap().get() - 8.0 / 9.0).abs() < 1e-12);
    assert!(test.lr_positive.is_some_and(|it| it.lower < it.estimate && it.estimate < it.upper));
    // Nobody with a negative result was followed up: the ratios of those who were cannot be had, and nothing breaks.
    let blind = own_records(&[many(3, Positive, 0.8, present), many(3, Negative, 0.1, None)].concat(), "Sore joint");
    assert!(blind.tests[0].accuracy.sensitivity.is_none());
    let none = own_records(&records, "Another");
    assert_eq!(
        (none.finished, none.closed, none.prevalence, none.calibration, none.tests.len()),
        (0, 0, None, None, 0)
    );
}

#[test]
fn a_share_of_all_records_waits_for_three_examiners() {
    let of = |examiner: u8, found| (examiner, closed(&[], 0.5, Some(found)).reference);
    let mut records =
        vec![of(1, ReferenceFound::Present), of(1, ReferenceFound::Absent), of(2, ReferenceFound::Absent)];
    records.push(of(3, ReferenceFound::Unclear));
    assert_eq!(clinic_prevalence(&records, "Sore joint"), None, "what did not tell is nobody's record");
    records.push(of(3, ReferenceFound::Absent));
    let clinic = clinic_prevalence(&records, "SORE joint").unwrap();
    assert_eq!((clinic.records, clinic.share.estimate.get()), (4, 0.25));
    assert_eq!(clinic_prevalence(&records, "Another"), None);
}

#[test]
fn reference_results_name_a_condition_of_the_plan_once_and_say_what_told() {
    let (plan, _) = plan();
    let of = |condition: &str, found, by| ReferenceResult {
        condition: condition.to_owned(),
        found,
        by,
        ..ReferenceResult::default()
    };
    let fields = |given: &[ReferenceResult]| -> Vec<String> {
        check_reference(given, &plan).err().unwrap_or_default().into_iter().map(|it| it.field).collect()
    };
    let (there, imaging) = (Some(ReferenceFound::Present), Some(StandardKind::Imaging));
    assert_eq!(fields(&[]), ["results"]);
    assert_eq!(fields(&[of("SORE JOINT", there, imaging)]), [""; 0]);
    assert_eq!(fields(&[of("Sore joint", None, None)]), ["results[0].found", "results[0].by"]);
    assert_eq!(fields(&[of("Sore joint", there, Some(StandardKind::Other))]), ["results[0].note"]);
    let twice = [of("Sore joint", there, imaging), of("sore joint", there, imaging), of("Gone", there, imaging)];
    assert_eq!(fields(&twice), ["results[1].condition", "results[2].condition"]);
}

#[test]
fn a_ratio_holds_inside_the_expected_range_and_not_when_its_whole_interval_lies_outside() {
    let of = |lower: f64, estimate: f64, upper: f64| {
        let [lower, estimate, upper] = [lower, estimate, upper].map(|it| Ratio::new(it).unwrap());
        Estimate { estimate, lower, upper }
    };
    let expected = of(2.0, 4.0, 8.0);
    assert_eq!(holds(of(0.5, 3.0, 20.0), expected), Holds::AsPublished);
    assert_eq!(holds(of(0.5, 1.0, 3.0), expected), Holds::Unsure);
    assert_eq!(holds(of(0.5, 1.0, 1.9), expected), Holds::Otherwise);
    assert_eq!(holds(of(9.0, f64::INFINITY, f64::INFINITY), expected), Holds::Otherwise);
}
