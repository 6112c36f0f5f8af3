//! Prevalence with and without symptoms: the same model as accuracy, and what it makes of a true positive.

use proptest::prelude::*;
use pruvex_core::accuracy::{Counts, ProportionMethod, RawCounts, proportion_interval};
use pruvex_core::catalogue::{Condition, ConditionInput, PrevalenceReport, Symptoms};
use pruvex_core::evidence::{Activity, CareSetting, Incidental, PooledPrevalence, PrevalenceOf, pool_prevalence};
use pruvex_core::pooling::{PoolError, PoolOptions, Pooled, pool};
use pruvex_core::{Level, Probability};

fn report(source: &str, symptoms: Symptoms, people: f64, with: f64) -> PrevalenceReport {
    let (people, with_condition) = (Some(people), Some(with));
    PrevalenceReport {
        symptoms: Some(symptoms),
        people,
        with_condition,
        source: source.to_owned(),
        ..PrevalenceReport::default()
    }
}

fn as_usual(tables: &[Counts]) -> Result<Pooled, PoolError> {
    pool(tables, PoolOptions::default())
}

fn pooled(reports: &[PrevalenceReport]) -> PooledPrevalence {
    pool_prevalence(reports, PrevalenceOf::default(), as_usual).unwrap()
}

/// Made up.
fn three() -> Vec<PrevalenceReport> {
    use Symptoms::{With, Without};
    vec![
        report("A", With, 150.0, 96.0),
        report("A", Without, 120.0, 18.0),
        report("B", With, 118.0, 70.0),
        report("b ", Without, 64.0, 15.0),
        report("C", Without, 95.0, 17.0),
    ]
}

#[test]
fn reports_are_pooled_as_tables_of_accuracy_are() {
    let answer = pooled(&three());
    let one = Counts::check(RawCounts { tp: None, fp: Some(17.0), fn_: None, tn: Some(78.0) }).unwrap();
    let full = |tp, fp, fn_, tn| Counts::full(tp, fp, fn_, tn).unwrap();
    let same = as_usual(&[full(96.0, 18.0, 54.0, 102.0), full(70.0, 15.0, 48.0, 49.0), one]).unwrap().summary;
    assert_eq!((answer.sources, answer.people_with, answer.people_without), (3, 268, 279));
    assert_eq!((answer.with_symptoms, answer.ratio), (same.sensitivity, same.lr_positive));
    let (without, specificity) = (answer.without_symptoms.unwrap(), same.specificity.unwrap());
    let turned = [specificity.estimate, specificity.upper, specificity.lower].map(|it| 1.0 - it.get());
    for (found, expected) in [without.estimate, without.lower, without.upper].into_iter().zip(turned) {
        assert!((found.get() - expected).abs() < 1e-12);
    }
    let (chance, ratio) = (answer.by_chance.unwrap(), answer.ratio.unwrap());
    for (found, of) in [(chance.estimate, ratio.estimate), (chance.lower, ratio.upper), (chance.upper, ratio.lower)] {
        assert!((found.get() - 1.0 / of.get()).abs() < 1e-12);
    }
    assert_eq!(answer.incidental, Incidental::Possible);
    let wilson = proportion_interval(96, 150, Level::default(), ProportionMethod::default());
    assert_eq!((answer.shares.len(), answer.shares[0]), (5, wilson));
    // One source: closed forms of two proportions, 30 of 50 and 1 of 100.
    let alone = pooled(&[report("A", Symptoms::With, 50.0, 30.0), report("A", Symptoms::Without, 100.0, 1.0)]);
    assert!((alone.ratio.unwrap().estimate.get() - 60.0).abs() < 1e-9);
    assert_eq!(alone.incidental, Incidental::Uncommon, "{alone:?}");
    // As common without symptoms as with: every true positive may be incidental, and no more than every one.
    let even = pooled(&[report("A", Symptoms::With, 50.0, 10.0), report("A", Symptoms::Without, 50.0, 20.0)]);
    assert_eq!(even.by_chance.unwrap().estimate, Probability::ONE);
    let known = pooled(&[report("A", Symptoms::With, 50.0, 10.0)]);
    assert_eq!((known.incidental, known.without_symptoms, known.by_chance), (Incidental::NotKnown, None, None));
    assert_eq!(pooled(&[]).sources, 0);
}

#[test]
fn only_reports_about_the_people_asked_about_count() {
    let mut reports = three();
    (reports[0].age_from, reports[0].age_to) = (Some(30.0), Some(60.0));
    reports[1].setting = Some(CareSetting::Community);
    reports[4].activity = Some(Activity::Workers);
    let count = |of: PrevalenceOf| {
        let found = pool_prevalence(&reports, of, as_usual).unwrap();
        assert_eq!(found.shares.iter().flatten().count(), 5 - found.apart);
        (found.sources, found.apart, found.people_with, found.people_without)
    };
    assert_eq!(count(PrevalenceOf { age: Some(60.0), ..Default::default() }), (1, 4, 150, 0));
    assert_eq!(count(PrevalenceOf { age: Some(61.0), ..Default::default() }), (0, 5, 0, 0));
    assert_eq!(count(PrevalenceOf { setting: Some(CareSetting::Community), ..Default::default() }), (1, 4, 0, 120));
    assert_eq!(count(PrevalenceOf { activity: Some(Activity::Workers), ..Default::default() }), (1, 4, 0, 95));
}

#[test]
fn reports_without_people_and_people_twice_are_refused() {
    let check = |prevalence: Vec<PrevalenceReport>| {
        let (region, name) = ("neck".to_owned(), "Stiff".to_owned());
        Condition::check(&ConditionInput { region, name, prevalence, ..Default::default() })
    };
    assert!(check(three()).is_ok());
    let faults = |changed: fn(&mut PrevalenceReport)| {
        let mut reports = vec![report("A", Symptoms::With, 50.0, 10.0)];
        changed(&mut reports[0]);
        let found = check(reports).unwrap_err();
        assert!(found.iter().all(|it| !it.remedy.is_empty()));
        found.into_iter().map(|it| it.field.replace("prevalence[0].", "")).collect::<Vec<_>>()
    };
    assert_eq!(faults(|it| it.people = None), ["people"]);
    assert_eq!(faults(|it| it.people = Some(0.0)), ["people"]);
    assert_eq!(faults(|it| it.people = Some(2.5)), ["people"]);
    assert_eq!(faults(|it| it.with_condition = Some(51.0)), ["with_condition"]);
    assert_eq!(faults(|it| it.symptoms = None), ["symptoms"]);
    assert_eq!(faults(|it| it.source.clear()), ["source"]);
    assert_eq!(faults(|it| (it.age_from, it.age_to) = (Some(60.0), Some(20.0))), ["age_to"]);
    // The same people twice; bands of age that touch are others.
    let mut bands = vec![report("A", Symptoms::Without, 50.0, 10.0), report("a", Symptoms::Without, 40.0, 5.0)];
    assert_eq!(check(bands.clone()).unwrap_err()[0].field, "prevalence[1].source");
    bands[0].age_to = Some(50.0);
    bands[1].age_from = Some(50.0);
    let condition = check(bands.clone()).unwrap();
    // What is known stays, what is new is added, and made-up reports stay marked.
    bands[0].sample = true;
    let known = check(bands[..1].to_vec()).unwrap();
    let whole = known.completed_by(&condition);
    assert_eq!(whole.prevalence.iter().map(|it| it.sample).collect::<Vec<_>>(), [true, false]);
    let mut edited = condition;
    edited.keep_sample_marks(&known);
    assert!(edited.prevalence.iter().all(|it| it.sample), "of one source");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn whatever_was_counted_the_answer_is_in_order(
        rows in prop::collection::vec((0..4usize, any::<bool>(), 1..5_000u32, 0.0..=1.0f64), 0..7),
    ) {
        let reports: Vec<PrevalenceReport> = rows
            .into_iter()
            .map(|(source, with, people, share)| {
                let symptoms = if with { Symptoms::With } else { Symptoms::Without };
                report(&source.to_string(), symptoms, f64::from(people), (f64::from(people) * share).floor())
            })
            .collect();
        let answer = pooled(&reports);
        for share in [answer.with_symptoms, answer.without_symptoms, answer.by_chance].into_iter().flatten() {
            prop_assert!(share.lower <= share.estimate && share.estimate <= share.upper, "{share:?}");
        }
        let counted = reports.iter().any(|it| it.symptoms == Some(Symptoms::Without));
        prop_assert_eq!(answer.incidental == Incidental::NotKnown, !counted);
    }
}
