//! Two readers: how what they read is compared and settled, and how well they agree.

use std::collections::BTreeMap;

use proptest::prelude::*;
use pruvex_core::Level;
use pruvex_core::TestId;
use pruvex_core::evidence::{
    AccuracyInput, CareSetting, Design, Extraction, ExtractionInput, FieldPair, StudyInput, StudySetup, Together,
    compare, reader_agreement, settle,
};
use uuid::Uuid;

fn input() -> ExtractionInput {
    let [tp, fp, fn_, tn] = [20.0, 4.0, 5.0, 24.0].map(Some);
    let setup = StudySetup { design: Some(Design::OneGroup), people: Some(53.0), ..StudySetup::default() };
    ExtractionInput {
        study: StudyInput { reference: "Sample report".to_owned(), setup, ..StudyInput::default() },
        result: AccuracyInput {
            tp,
            fp,
            fn_,
            tn,
            criterion: "Pain in the thumb.".to_owned(),
            ..AccuracyInput::default()
        },
    }
}

fn read(change: impl Fn(&mut ExtractionInput)) -> Extraction {
    let mut input = input();
    change(&mut input);
    Extraction::check(&input).unwrap()
}

fn differing(pairs: &[FieldPair]) -> Vec<&str> {
    pairs.iter().filter(|pair| !pair.same).map(|pair| pair.field).collect()
}

#[test]
fn faults_are_told_where_they_stand() {
    let mut wrong = input();
    wrong.result.tp = Some(-1.0);
    wrong.study.reference = String::new();
    let fields = |input| -> Vec<String> {
        Extraction::check(&input).unwrap_err().into_iter().map(|error: pruvex_core::FieldError| error.field).collect()
    };
    assert_eq!(fields(wrong), ["study.reference", "result.tp"]);
    let mut many = input();
    many.result.tp = Some(21.0);
    assert_eq!(fields(many), ["study.setup.people"], "the cells hold more than were examined");
    assert_eq!(Extraction::check(&read(|_| {}).written()).unwrap(), read(|_| {}));
}

#[test]
fn what_says_the_same_is_the_same() {
    let [a, b] = [1, 2].map(|id| TestId(Uuid::from_u128(id)));
    let together = |tests| Some(Together { tests, rule: pruvex_core::evidence::Rule::All });
    let first = read(|it| it.result.together = together(vec![a, b]));
    let second = read(|it| {
        it.result.together = together(vec![b, a]);
        "pain  in the Thumb".clone_into(&mut it.result.criterion);
        "My own note".clone_into(&mut it.result.note);
        it.result.preferred = true;
    });
    assert_eq!(differing(&compare(&first, &second)), Vec::<&str>::new());
    let third = read(|it| {
        it.result.fp = Some(3.0);
        it.study.setup.design = None;
        "Pain in the wrist".clone_into(&mut it.result.criterion);
    });
    let expected = ["study.setup.design", "result.fp", "result.criterion", "result.together"];
    assert_eq!(differing(&compare(&first, &third)), expected);
}

#[test]
fn numbers_and_choices_are_settled_with_a_reason() {
    let first = read(|_| {});
    let second = read(|it| {
        it.result.fp = Some(3.0);
        it.study.setup.design = Some(Design::TwoGroups);
        "Pain in the wrist".clone_into(&mut it.result.criterion);
    });
    let fields = |reasons: &[(&str, &str)], settled: &Extraction| {
        let reasons: BTreeMap<String, String> =
            reasons.iter().map(|(field, reason)| ((*field).to_owned(), (*reason).to_owned())).collect();
        match settle(&first, &second, settled, &reasons) {
            Ok(decisions) => Ok(decisions.into_iter().map(|it| (it.field, it.reason)).collect::<Vec<_>>()),
            Err(errors) => Err(errors.into_iter().map(|error| error.field).collect::<Vec<_>>()),
        }
    };
    let missing = ["reasons.study.setup.design", "reasons.result.fp"].map(str::to_owned).to_vec();
    assert_eq!(fields(&[("result.fp", " ")], &first), Err(missing));
    let given = [("study.setup.design", "Methods, p. 2"), ("result.fp", "Table 2")];
    let decided = fields(&given, &first).unwrap();
    // The words of the criterion differ too: which ones were taken is kept, without a reason.
    assert_eq!(decided.last().unwrap(), &("result.criterion".to_owned(), String::new()));
    assert_eq!(decided.len(), 3);
    // What both read may still be wrong; changing it needs a reason as well.
    let corrected = read(|it| it.result.tn = Some(22.0));
    assert_eq!(fields(&given, &corrected), Err(vec!["reasons.result.tn".to_owned()]));
    assert_eq!(fields(&[("result.colour", "x")], &first).unwrap_err()[0], "reasons.result.colour");
}

/// Cohen's own 2x2 arithmetic by hand: of 10 double extractions, designs read one group / two groups as 5, 1, 2, 2:
/// po 0.7, pe 0.6·0.7 + 0.4·0.3 = 0.54, kappa 0.16 / 0.46.
#[test]
fn readers_agree_as_any_two_raters() {
    let pair = |first, second| {
        compare(&read(|it| it.study.setup.design = Some(first)), &read(|it| it.study.setup.design = Some(second)))
    };
    use Design::{OneGroup, TwoGroups};
    let mut pairs = vec![pair(OneGroup, OneGroup); 5];
    pairs.push(pair(OneGroup, TwoGroups));
    pairs.extend(vec![pair(TwoGroups, OneGroup); 2]);
    pairs.extend(vec![pair(TwoGroups, TwoGroups); 2]);
    let agreement = reader_agreement(&pairs, Level::default());
    let of = |field: &str| agreement.fields.iter().find(|it| it.field == field).unwrap();
    let design = of("study.setup.design");
    let kappa = design.choices.as_ref().unwrap().kappa.unwrap();
    assert!((kappa.value.estimate - 0.16 / 0.46).abs() < 1e-12, "{kappa:?}");
    assert_eq!((design.n, design.same), (10, 7));
    // Nobody ever said anything about the setting: no kappa, and no figure made of it.
    assert!(of("study.setup.setting").choices.is_none());
    // Design, people and four cells were said by both each time.
    assert_eq!((agreement.n, agreement.compared, agreement.same), (10, 60, 57));
    let nobody = reader_agreement(&[], Level::default());
    assert!(nobody.share.is_none() && nobody.fields.iter().all(|it| it.share.is_none() && it.choices.is_none()));
}

proptest! {
    /// Whoever is called the first reader, the same fields differ, the settled text of either needs reasons for exactly the numbers and
    /// choices among them, and agreement is the same.
    #[test]
    fn the_order_of_the_readers_makes_no_difference(
        people in proptest::option::of(60_u32..90), age in proptest::option::of(20_u32..60), cells in proptest::array::uniform4(0_u32..9),
        setting in proptest::option::of(prop_oneof![Just(CareSetting::Sports), Just(CareSetting::Emergency)]),
    ) {
        let first = read(|_| {});
        let second = read(|it| {
            it.study.setup.people = people.map(f64::from);
            it.study.setup.age = age.map(f64::from);
            it.study.setup.setting = setting;
            let [tp, fp, fn_, tn] = cells.map(|cell| Some(f64::from(cell) + 1.0));
            it.result = AccuracyInput { tp, fp, fn_, tn, ..it.result.clone() };
        });
        let (there, back) = (compare(&first, &second), compare(&second, &first));
        prop_assert_eq!(differing(&there), differing(&back));
        let refused = settle(&first, &second, &second, &BTreeMap::new()).err().unwrap_or_default();
        let refused: Vec<&str> = refused.iter().map(|error| error.field.trim_start_matches("reasons.")).collect();
        prop_assert_eq!(refused, differing(&there));
        let (one, other) = (reader_agreement(&[there], Level::default()), reader_agreement(&[back], Level::default()));
        prop_assert_eq!((one.compared, one.same), (other.compared, other.same));
    }
}
