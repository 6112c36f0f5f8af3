//! Bundles in and out: whole or not at all, and nothing lost on the way.

#![allow(clippy::unwrap_used, reason = "a failed step is a failed test")]

mod support;

use std::collections::HashSet;

use pruvex_core::catalogue::{Region, Status, Step, Structure, StructureInput, Tissue};
use pruvex_core::evidence::Study;
use pruvex_formats::{Bundle, BundleStudy, BundleTest, read_bundle, write_bundle};
use pruvex_store::catalogue::{TestRecord, get_test, list_tests, named_tests, step_test};
use pruvex_store::condition::list_conditions;
use pruvex_store::evidence::{create_study, get_reference, list_agreements, list_studies};
use pruvex_store::exchange::{Fate, Meeting, export, import};
use pruvex_store::history::{Act, Kind, list_revisions};
use pruvex_store::vocabulary::list_structures;
use pruvex_store::{ConnectionTrait, StoreError};
use support::{ACT, database, sheet, study};

fn bundle(tests: Vec<BundleTest>) -> Bundle {
    Bundle {
        title: "Thumb module".to_owned(),
        sample: false,
        conditions: vec![],
        structures: vec![],
        references: vec![],
        tests,
    }
}

fn demo(name: &str) -> Bundle {
    read_bundle(&std::fs::read(format!("../../demo/{name}.json")).unwrap()).unwrap()
}

async fn find_test(db: &impl ConnectionTrait, name: &str) -> TestRecord {
    named_tests(db, std::iter::once(name)).await.unwrap().into_values().next().unwrap()
}

#[tokio::test]
async fn a_module_goes_out_and_comes_in_elsewhere_with_every_word() {
    let (database, db) = database().await;
    let (elsewhere, other) = support::database().await;
    for module in ["hand_wrist", "neck", "pelvis"] {
        let given = demo(module);
        import(&db, &given, &Meeting::Refuse, ACT, false).await.unwrap();
        let region = given.tests[0].sheet.region;
        let out = export(&db, Some(region), &given.title).await.unwrap();
        assert!(out.sample && out.tests.len() == given.tests.len());
        let read = read_bundle(write_bundle(&out).unwrap().as_bytes()).unwrap();
        assert_eq!(read, out);
        import(&other, &read, &Meeting::Refuse, ACT, false).await.unwrap();
        for test in &given.tests {
            let there = find_test(&other, &test.sheet.name).await;
            assert_eq!(there.sheet, test.sheet);
            let studies = list_studies(&other, &[there.id]).await.unwrap();
            assert_eq!(studies.len(), test.studies.len());
            for (it, expected) in studies.into_iter().zip(&test.studies) {
                let work = get_reference(&other, it.study.reference_id.unwrap()).await.unwrap();
                let listed = &given.references[expected.work.unwrap()];
                assert_eq!((&work.reference, work.sample), (&listed.reference, listed.sample));
                assert_eq!(Study { reference_id: None, ..it.study }, expected.study, "{}", test.sheet.name);
                assert!(it.sample);
            }
            let agreements = list_agreements(&other, &[there.id]).await.unwrap();
            assert_eq!(agreements.len(), test.agreements.len());
            for (it, expected) in agreements.into_iter().zip(&test.agreements) {
                assert_eq!(it.agreement.written().reference_id.is_some(), expected.work.is_some());
                assert_eq!(it.agreement.published_as(None), expected.agreement, "{}", test.sheet.name);
                assert!(it.sample);
            }
        }
    }
    let again = import(&other, &demo("neck"), &Meeting::Refuse, ACT, false).await.unwrap();
    assert_eq!((again.studies(), again.agreements()), (0, 0), "nothing comes in twice");
    let whole = export(&db, None, "All").await.unwrap();
    assert_eq!((whole.tests.len(), whole.references.len()), (19, 51));
    assert_eq!((whole.tests.len(), whole.conditions.len()), (19, list_conditions(&db).await.unwrap().len()));
    database.drop().await.unwrap();
    elsewhere.drop().await.unwrap();
}

#[tokio::test]
async fn tests_that_are_there_are_kept_replaced_or_refused_as_asked() {
    let (database, db) = database().await;
    let test = |name: &str, finding: &str, studies: &[&str]| {
        let mut sheet = sheet(name, &[]);
        sheet.positive_finding = finding.to_owned();
        let studies =
            studies.iter().map(|reference| BundleStudy { study: study(reference), sample: false, work: None });
        BundleTest { sheet, sample: false, studies: studies.collect(), agreements: vec![] }
    };
    let first = bundle(vec![test("Thumb lift", "Weaker", &["A"]), test("Thumb press", "Weaker", &[])]);
    let imported = import(&db, &first, &Meeting::Refuse, ACT, false).await.unwrap();
    assert_eq!(imported.tests.iter().map(|test| test.fate).collect::<Vec<_>>(), [Fate::New, Fate::New]);

    let second = bundle(vec![test("Thumb lift", "Gives way", &["A", "B"]), test("Thumb press", "Gives way", &[])]);
    let refused = import(&db, &second, &Meeting::Refuse, ACT, false).await.unwrap_err();
    let StoreError::Fields(errors) = refused else { panic!("{refused}") };
    assert_eq!(
        errors.iter().map(|error| error.field.as_str()).collect::<Vec<_>>(),
        ["tests[0].sheet.name", "tests[1].sheet.name"]
    );

    let preview = import(&db, &second, &Meeting::Refuse, ACT, true).await.unwrap();
    assert!(preview.tests.iter().all(|test| test.fate == Fate::Changed && !test.written));
    let finding = async |name: &str| find_test(&db, name).await.sheet.positive_finding;
    assert_eq!(finding("Thumb lift").await, "Weaker");

    let kept = import(&db, &second, &Meeting::Keep, ACT, false).await.unwrap();
    assert_eq!((kept.tests[0].studies, kept.tests[0].known_studies, kept.tests[0].written), (1, 1, false));
    assert_eq!(finding("Thumb lift").await, "Weaker");
    let again = import(&db, &second, &Meeting::Keep, ACT, false).await.unwrap();
    assert_eq!((again.studies(), again.tests[0].known_studies), (0, 2), "studies do not come in twice");

    let chosen = Meeting::Chosen(HashSet::from(["thumb press".to_owned()]));
    import(&db, &second, &chosen, ACT, false).await.unwrap();
    assert_eq!((finding("Thumb lift").await, finding("Thumb press").await), ("Weaker".into(), "Gives way".into()));
    import(&db, &second, &Meeting::Replace, ACT, false).await.unwrap();
    let lift = find_test(&db, "thumb LIFT").await;
    assert_eq!((lift.sheet.positive_finding.as_str(), lift.version), ("Gives way", 2));
    let history = list_revisions(&db, Kind::Test, lift.id).await.unwrap();
    assert_eq!(history[1].content["positive_finding"], "Weaker", "the history keeps both");
    database.drop().await.unwrap();
}

#[tokio::test]
async fn one_fault_keeps_everything_out() {
    let (database, db) = database().await;
    let structure = StructureInput {
        region: "hand_wrist".to_owned(),
        name: "Sample pulley".to_owned(),
        tissue: Some(Tissue::Ligament),
        ..StructureInput::default()
    };
    let structure = Structure::check(&structure).unwrap();
    let known = list_structures(&db, None).await.unwrap().len();
    let test = |name: &str, alias: &str| BundleTest {
        sheet: sheet(name, &[alias]),
        sample: false,
        studies: vec![BundleStudy { study: study("A"), sample: false, work: None }],
        agreements: vec![],
    };
    let mut given = bundle(vec![test("Thumb lift", "Lift"), test("Thumb press", "Lift")]);
    given.structures = vec![structure];
    let refused = import(&db, &given, &Meeting::Replace, ACT, false).await.unwrap_err();
    assert!(
        matches!(&refused, StoreError::Fields(errors) if errors[0].field == "tests[1].sheet.aliases[0]"),
        "{refused}"
    );
    assert!(list_tests(&db).await.unwrap().is_empty());
    assert_eq!(list_structures(&db, None).await.unwrap().len(), known);

    given.tests.pop();
    let imported = import(&db, &given, &Meeting::Replace, ACT, false).await.unwrap();
    assert_eq!((imported.structures, imported.studies()), (1, 1));
    let again = import(&db, &given, &Meeting::Replace, ACT, false).await.unwrap();
    assert_eq!((again.structures, again.tests[0].fate), (0, Fate::Same));
    database.drop().await.unwrap();
}

#[tokio::test]
async fn what_a_person_brings_is_a_draft_and_what_is_retired_stays_in() {
    let (database, db) = database().await;
    let nobody = import(&db, &demo("neck"), &Meeting::Refuse, Act::of("imported", None), false).await.unwrap();
    assert_eq!(nobody.tests.len(), 5);
    let tests = list_tests(&db).await.unwrap();
    assert!(tests.iter().all(|test| test.sample && test.status == Status::Published && test.is_taught()));
    let retired = step_test(&db, tests[0].id, 1, Step::Retire, ACT).await.unwrap();
    assert!(!retired.is_taught());
    let out = export(&db, Some(Region::Neck), "Neck").await.unwrap();
    assert_eq!(out.tests.len(), 4, "retired sheets are left out");
    let none = export(&db, Some(Region::Knee), "Knee").await.unwrap();
    assert!(none.tests.is_empty() && !none.sample);
    // What is made up stays marked, and what is not does not become so.
    let own = bundle(vec![BundleTest {
        sheet: sheet("Thumb lift", &[]),
        sample: false,
        studies: vec![],
        agreements: vec![],
    }]);
    import(&db, &own, &Meeting::Refuse, ACT, false).await.unwrap();
    let lift = find_test(&db, "Thumb lift").await;
    assert!(!export(&db, Some(Region::HandWrist), "Hand").await.unwrap().sample);
    create_study(&db, lift.id, &study("Made up"), true, ACT).await.unwrap();
    create_study(&db, lift.id, &study("Ours"), false, ACT).await.unwrap();
    let out = export(&db, Some(Region::HandWrist), "Hand").await.unwrap();
    let read = read_bundle(write_bundle(&out).unwrap().as_bytes()).unwrap();
    let marks = |test: &BundleTest| (test.sample, test.studies.iter().map(|it| it.sample).collect::<Vec<_>>());
    assert_eq!((read.sample, marks(&read.tests[0])), (false, (false, vec![true, false])));
    let (_other, elsewhere) = support::database().await;
    import(&elsewhere, &read, &Meeting::Refuse, ACT, false).await.unwrap();
    let there = list_studies(&elsewhere, &[find_test(&elsewhere, "Thumb lift").await.id]).await.unwrap();
    assert_eq!(
        there.iter().map(|it| (it.study.reference.as_str(), it.sample)).collect::<Vec<_>>(),
        [("Made up", true), ("Ours", false)]
    );
    _other.drop().await.unwrap();
    assert_eq!(get_test(&db, lift.id).await.unwrap().status, Status::Draft);
    database.drop().await.unwrap();
}
