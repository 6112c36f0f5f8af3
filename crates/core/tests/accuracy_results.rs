//! Results of accuracy: what is refused, and which of several enter a pool.

use proptest::prelude::*;
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
