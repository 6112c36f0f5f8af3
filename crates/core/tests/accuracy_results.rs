//! Results of accuracy: what is refused, and which of several enter a pool.

use proptest::prelude::*;
use pruvex_core::accuracy::{Counts, Flow, RawCounts, Uninterpretable, UninterpretableAs};
use pruvex_core::evidence::{
    AccuracyInput, AccuracyResult, Candidate, Rule, Study, StudyInput, StudySetup, Together, Unit, WhyOut,
    counted_already, does_not_answer,
};
use pruvex_core::{StudyId, TestId};
use uuid::Uuid;

fn input() -> AccuracyInput {
    let [tp, fp, fn_, tn] = [20.0, 4.0, 5.0, 24.0].map(Some);
    AccuracyInput { tp, fp, fn_, tn, ..AccuracyInput::default() }
}

#[test]
fn the_cells_hold_no_more_than_were_examined() {
    let fits = |people, unit| {
        let setup = StudySetup { people: Some(people), ..StudySetup::default() };
        let study = StudyInput { reference: "Sample report".to_owned(), setup, ..StudyInput::default() };
        let result = AccuracyResult::check(&AccuracyInput { unit, ..input() }).unwrap();
        result.fits(&Study::check(&study).unwrap()).map_err(|error| error.field)
    };
    assert_eq!(fits(52.0, None), Err("setup.people".to_owned()));
    assert_eq!(fits(53.0, Some(Unit::Person)), Ok(()));
    // Both sides of 27 people are 54.
    assert_eq!(fits(27.0, Some(Unit::Side)), Ok(()));
    assert_eq!(fits(26.0, Some(Unit::Side)), Err("setup.people".to_owned()));
}

#[test]
fn people_outside_the_cells_are_numbers_told_in_pairs_and_were_examined_too() {
    let with = |unverified: [Option<f64>; 2], uninterpretable: [Option<f64>; 3]| {
        let ([positive_unverified, negative_unverified], [a, b, c]) = (unverified, uninterpretable);
        AccuracyResult::check(&AccuracyInput {
            positive_unverified,
            negative_unverified,
            uninterpretable_with: a,
            uninterpretable_without: b,
            uninterpretable_unverified: c,
            ..input()
        })
    };
    let faults = |found: Result<AccuracyResult, Vec<pruvex_core::FieldError>>| -> Vec<String> {
        found.unwrap_err().into_iter().map(|error| error.field).collect()
    };
    assert_eq!(faults(with([Some(3.0), None], [None; 3])), ["negative_unverified"]);
    assert_eq!(faults(with([None; 2], [None, Some(1.0), Some(1.0)])), ["uninterpretable_with"]);
    assert_eq!(faults(with([Some(-1.0), Some(1e9)], [None; 3])), ["positive_unverified", "negative_unverified"]);
    let whole = with([Some(1.0), Some(30.0)], [Some(4.0), Some(0.0), Some(2.0)]).unwrap();
    assert_eq!(AccuracyResult::check(&whole.written()).unwrap(), whole);
    assert_eq!((whole.flow.people(), whole.flow.uninterpretable()), (37, Some(6)));
    let fits = |people: f64| {
        let setup = StudySetup { people: Some(people), ..StudySetup::default() };
        let study = StudyInput { reference: "Sample report".to_owned(), setup, ..StudyInput::default() };
        whole.fits(&Study::check(&study).unwrap()).is_ok()
    };
    assert!(!fits(89.0) && fits(90.0), "53 in the cells and 37 beside them");
    let told = with([None; 2], [None; 3]).unwrap();
    let all = Uninterpretable::among([&whole, &told].map(|it| (&it.counts, &it.flow)));
    assert_eq!(all, Uninterpretable { tests: 6, of: 90, results: 1 }, "who says nothing is not counted");
}

#[test]
fn tests_that_could_not_be_interpreted_are_counted_as_one_says() {
    let cells = |counts: Counts, flow: &Flow, taken| flow.intention_to_diagnose(&counts, taken).cells();
    let counts = Counts::full(20.0, 4.0, 5.0, 24.0).unwrap();
    let flow = Flow::check([None, None, Some(3.0), Some(2.0), Some(9.0)]).unwrap();
    let some = |cells: [u32; 4]| cells.map(Some);
    assert_eq!(cells(counts, &flow, UninterpretableAs::LeftOut), some([20, 4, 5, 24]));
    assert_eq!(cells(counts, &flow, UninterpretableAs::Positive), some([23, 6, 5, 24]));
    assert_eq!(cells(counts, &flow, UninterpretableAs::Negative), some([20, 4, 8, 26]));
    let one_armed = Counts::check(RawCounts { tp: Some(9.0), fn_: Some(1.0), ..RawCounts::default() }).unwrap();
    assert_eq!(cells(one_armed, &flow, UninterpretableAs::Positive), [Some(12), None, Some(1), None]);
    // Cells hold no more than they can.
    let full = Counts::full(1e7, 0.0, 0.0, 1e7).unwrap();
    assert_eq!(cells(full, &flow, UninterpretableAs::Positive), some([10_000_000, 2, 0, 10_000_000]));
}

#[test]
fn tests_read_together_are_several_and_their_rule_can_be_met() {
    let faults = |tests: Vec<TestId>, rule| {
        let together = Some(Together { tests, rule });
        AccuracyResult::check(&AccuracyInput { together, ..input() })
            .map(|result| result.together.is_some())
            .map_err(|errors| errors.into_iter().map(|error| error.field).collect::<Vec<_>>())
    };
    let [a, b] = [1, 2].map(|id| TestId(Uuid::from_u128(id)));
    assert_eq!(faults(vec![a, b], Rule::AtLeast(3)), Ok(true));
    assert_eq!(faults(vec![], Rule::Any), Ok(false), "nothing but this test is this test by itself");
    assert_eq!(faults(vec![a, b], Rule::AtLeast(4)), Err(vec!["together.rule".to_owned()]));
    assert_eq!(faults(vec![a], Rule::AtLeast(0)), Err(vec!["together.rule".to_owned()]));
    assert_eq!(faults(vec![a, b, a], Rule::All), Err(vec!["together.tests[2]".to_owned()]));
    let many = (0..21).map(|id| TestId(Uuid::from_u128(id))).collect();
    assert_eq!(faults(many, Rule::All), Err(vec!["together.tests".to_owned()]));
}

fn candidate(study: u128, group: &str) -> Candidate<'_> {
    let study = StudyId(Uuid::from_u128(study));
    Candidate { study, group, preferred: false }
}

#[test]
fn of_the_same_people_one_result_enters() {
    let one = candidate(1, "");
    assert_eq!(counted_already(&[one, candidate(2, ""), one]), [false, false, true], "the first is taken");
    let chosen = Candidate { preferred: true, ..one };
    assert_eq!(counted_already(&[one, chosen, one]), [true, false, true], "the chosen one is taken");
    let (acute, chronic, written) = (candidate(1, "acute"), candidate(1, "chronic"), candidate(1, " Acute "));
    assert_eq!(counted_already(&[acute, chronic, written]), [false, false, true], "two groups are different people");
    assert_eq!(
        counted_already(&[acute, one, chronic]),
        [false, true, false],
        "who is in no group may be in all of them"
    );
}

#[test]
fn a_result_answers_what_is_asked_of_its_condition_alone() {
    let why = |named, taught, asked| does_not_answer(named, taught, false, asked);
    let other = Some(WhyOut::OtherCondition);
    assert_eq!(why("", "Tear", "tear"), None, "it is about what its test is taught for");
    assert_eq!(why(" ", "Tear", "Capsulitis"), other);
    assert_eq!(why("Capsulitis", "Tear", " capsulitis"), None, "or about what it names");
    assert_eq!(why("Capsulitis", "Tear", "Tear"), other);
    assert_eq!(does_not_answer("", "Tear", true, "Tear"), Some(WhyOut::Together));
}

proptest! {
    /// No group of people counts twice, and nobody is lost who could be in.
    #[test]
    fn nobody_counts_twice(given in proptest::collection::vec((0u128..4, 0usize..4, any::<bool>()), 0..12)) {
        let groups = ["", "acute", "chronic", "Acute"];
        let all: Vec<Candidate<'_>> = given
            .iter()
            .map(|(study, group, preferred)| Candidate { preferred: *preferred, ..candidate(*study, groups[*group]) })
            .collect();
        let overlap = |a: &Candidate<'_>, b: &Candidate<'_>| {
            let (one, other) = (a.group.to_lowercase(), b.group.to_lowercase());
            a.study == b.study && (one.is_empty() || other.is_empty() || one == other)
        };
        let out = counted_already(&all);
        let kept: Vec<usize> = (0..all.len()).filter(|index| !out[*index]).collect();
        for (index, candidate) in all.iter().enumerate() {
            let others = kept.iter().filter(|other| **other != index && overlap(candidate, &all[**other])).count();
            prop_assert_eq!(out[index], others > 0, "{:?} of {:?}: {:?}", index, all, out);
        }
    }

    /// What is accepted is in its final form: checking it again changes nothing.
    #[test]
    fn a_checked_result_stays_as_it_is(
        words in proptest::array::uniform6("\\PC{0,12}"),
        cells in proptest::array::uniform4(0u32..500),
        side in any::<bool>(),
    ) {
        let [variant, criterion, stage, group, page, note] = words;
        let [tp, fp, fn_, tn] = cells.map(|cell| Some(f64::from(cell)));
        let unit = side.then_some(Unit::Side);
        let given = AccuracyInput { variant, criterion, stage, group, page, note, unit, tp, fp, fn_, tn, ..input() };
        if let Ok(checked) = AccuracyResult::check(&given) {
            prop_assert_eq!(AccuracyResult::check(&checked.written()), Ok(checked));
        }
    }
}
