//! How a study was done: every field within what is possible.

use pruvex_core::evidence::{Design, Study, StudyInput, StudySetup};

fn faults(setup: StudySetup) -> Vec<String> {
    let input = StudyInput { reference: "Sample report".to_owned(), setup, ..StudyInput::default() };
    Study::check(&input).map_or_else(|errors| errors.into_iter().map(|error| error.field).collect(), |_| Vec::new())
}

#[test]
fn what_is_not_reported_stays_empty() {
    assert!(StudySetup::default().is_empty());
    assert_eq!(serde_json::to_value(StudySetup::default()).unwrap(), serde_json::json!({}));
    assert!(faults(StudySetup::default()).is_empty());
    let given = serde_json::json!({ "design": "two_groups", "women": 61.5, "country": "Vessmark (made up)" });
    let setup: StudySetup = serde_json::from_value(given.clone()).unwrap();
    assert_eq!((setup.design, setup.is_empty()), (Some(Design::TwoGroups), false));
    assert_eq!(serde_json::to_value(&setup).unwrap(), given);
    for unknown in [serde_json::json!({ "design": "cohort" }), serde_json::json!({ "sex": 1 })] {
        assert!(serde_json::from_value::<StudySetup>(unknown).is_err());
    }
}

#[test]
fn impossible_numbers_and_orders_are_named() {
    let none = StudySetup::default;
    for (setup, field) in [
        (StudySetup { women: Some(101.0), ..none() }, "setup.women"),
        (StudySetup { women: Some(f64::NAN), ..none() }, "setup.women"),
        (StudySetup { age: Some(-1.0), ..none() }, "setup.age"),
        (StudySetup { people: Some(60.5), ..none() }, "setup.people"),
        (StudySetup { people: Some(0.0), ..none() }, "setup.people"),
        (StudySetup { first_year: Some(19.0), ..none() }, "setup.first_year"),
        (StudySetup { first_year: Some(2012.0), last_year: Some(2010.0), ..none() }, "setup.last_year"),
        (StudySetup { youngest: Some(50.0), age: Some(45.0), ..none() }, "setup.age"),
        (StudySetup { age: Some(45.0), oldest: Some(40.0), ..none() }, "setup.oldest"),
        (StudySetup { youngest: Some(45.0), oldest: Some(40.0), ..none() }, "setup.oldest"),
        (StudySetup { country: "x".repeat(101), ..none() }, "setup.country"),
    ] {
        let found = faults(setup.clone());
        assert!(found.iter().all(|it| it == field) && !found.is_empty(), "{setup:?}: {found:?}");
    }
}
