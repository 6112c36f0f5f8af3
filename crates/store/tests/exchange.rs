//! Bundles in and out: whole or not at all, and nothing lost on the way.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::Mutex;

use crate::support::{ACT, database, result, sheet, study};
use pruvex_core::StudyId;
use pruvex_core::catalogue::{Region, Sheet, Status, Step, Structure, StructureInput, Tissue};
use pruvex_core::evidence::{AccuracyResult, Rule};
use pruvex_core::people::Role;
use pruvex_formats::{Bundle, BundleResult, BundleStudy, BundleTest, BundleTogether, read_bundle, write_bundle};
use pruvex_store::catalogue::{TestRecord, get_test, list_tests, named_tests, step_test};
use pruvex_store::condition::list_conditions;
use pruvex_store::evidence::{
    BoardQuery, NewResult, OfStudy, Progress, Seen, appraisals_of, create_result, create_results, create_studies,
    get_double_extraction, get_reference, get_studies, list_agreements, list_board, list_results, update_result,
};
use pruvex_store::exchange::{Fate, Imported, Meeting, export, import, list_past_imports, take_back};
use pruvex_store::history::{Act, Kind, list_revisions};
use pruvex_store::landing::Landing;
use pruvex_store::people::create_account;
use pruvex_store::progress::ImportPhase;
use pruvex_store::vocabulary::list_structures;
use pruvex_store::{ConnectionTrait, DatabaseConnection, DatabaseTransaction, StoreError, TransactionTrait};
use uuid::Uuid;

fn bundle(tests: Vec<BundleTest>) -> Bundle {
    Bundle {
        teaching_conflicts: Vec::new(),
        plans: Vec::new(),
        title: "Thumb module".to_owned(),
        sample: false,
        conditions: vec![],
        structures: vec![],
        references: vec![],
        studies: vec![],
        tests,
    }
}

/// A bundle of tests of which each result has a study of its own, under these names.
fn with_results(tests: Vec<(BundleTest, &[&str])>) -> Bundle {
    let mut bundle = bundle(vec![]);
    for (mut test, references) in tests {
        for reference in references {
            let of = BundleResult { study: bundle.studies.len(), result: result(), together: None, sample: false };
            test.results.push(of);
            bundle.studies.push(BundleStudy {
                study: study(reference),
                sample: false,
                work: None,
                appraisals: BTreeMap::new(),
            });
        }
        bundle.tests.push(test);
    }
    bundle
}

fn plain(sheet: Sheet) -> BundleTest {
    BundleTest { sheet, sample: false, results: vec![], agreements: vec![], extractions: vec![] }
}

fn demo(name: &str) -> Bundle {
    read_bundle(&std::fs::read(format!("../../demo/{name}.json")).unwrap()).unwrap()
}

async fn find_test(db: &impl ConnectionTrait, name: &str) -> TestRecord {
    named_tests(db, std::iter::once(name)).await.unwrap().into_values().next().unwrap()
}

fn landing() -> Landing<'static> {
    Landing { id: Uuid::now_v7(), name: "module.json" }
}

/// Imports it to the end.
async fn bring(
    db: &impl TransactionTrait<Transaction = DatabaseTransaction>,
    bundle: &Bundle,
    meeting: &Meeting,
    act: Act<'_>,
    preview: bool,
) -> Result<Imported, StoreError> {
    let landing = (!preview).then(landing);
    let imported = import(db.begin().await?, bundle, meeting, act, landing, &|_, _, _| true).await?;
    Ok(imported.unwrap())
}

#[tokio::test]
async fn a_bundle_can_be_stopped_at_every_step_and_leaves_nothing() {
    let (database, db) = database().await;
    let given = demo("hand_wrist");
    let structures = list_structures(&db, None).await.unwrap().len();
    let steps = Mutex::new(Vec::new());
    for most in 0.. {
        steps.lock().unwrap().clear();
        let step = |phase, done, of| {
            let mut told = steps.lock().unwrap();
            told.push((phase, done, of));
            told.len() <= most
        };
        let imported =
            import(db.begin().await.unwrap(), &given, &Meeting::Refuse, ACT, Some(landing()), &step).await.unwrap();
        if imported.is_some() {
            break;
        }
        assert_eq!(list_tests(&db).await.unwrap().len(), 0, "stopped at step {most}");
        assert!(list_structures(&db, None).await.unwrap().len() == structures, "not even what comes first is left");
    }
    let told = steps.into_inner().unwrap();
    let entries = given.tests.iter().map(|it| 1 + it.results.len() + it.agreements.len()).sum();
    assert_eq!(told.last(), Some(&(ImportPhase::Writing, entries, entries)));
    let written = told.iter().filter(|(phase, ..)| *phase == ImportPhase::Writing);
    assert!(written.clone().count() >= 4, "sheets, results, agreement results, the end: {told:?}");
    assert_eq!(list_tests(&db).await.unwrap().len(), given.tests.len());
    database.drop().await.unwrap();
}

#[tokio::test]
async fn a_module_goes_out_and_comes_in_elsewhere_with_every_word() {
    let (database, db) = database().await;
    let (elsewhere, other) = crate::support::database().await;
    let mut ids: HashMap<(&str, usize), StudyId> = HashMap::new();
    for module in ["hand_wrist", "neck", "pelvis"] {
        let given = demo(module);
        bring(&db, &given, &Meeting::Refuse, ACT, false).await.unwrap();
        let region = given.tests[0].sheet.region;
        let out = export(&db, Some(region), &given.title).await.unwrap();
        assert!(out.sample && out.tests.len() == given.tests.len());
        let read = read_bundle(write_bundle(&out).unwrap().as_bytes()).unwrap();
        assert_eq!(read, out);
        bring(&other, &read, &Meeting::Refuse, ACT, false).await.unwrap();
        for test in &given.tests {
            let there = find_test(&other, &test.sheet.name).await;
            assert_eq!(there.sheet, test.sheet);
            let results = list_results(&other, &[there.id], Seen::All).await.unwrap();
            let rated = list_agreements(&other, &[there.id], Seen::All).await.unwrap();
            assert_eq!((results.len(), rated.len()), (test.results.len(), test.agreements.len()));
            let expected = test.results.iter().map(|it| it.study).chain(test.agreements.iter().map(|it| it.study));
            let of = results.iter().map(|it| it.study_id).chain(rated.iter().map(|it| it.study_id));
            for (place, id) in expected.zip(of) {
                let expected = &given.studies[place];
                let study = get_studies(&other, [id]).await.unwrap().remove(&id).unwrap();
                assert!(study.sample);
                if let Some(work) = expected.work {
                    let stored = get_reference(&other, study.study.reference_id.unwrap()).await.unwrap();
                    let listed = &given.references[work];
                    assert_eq!((&stored.reference, stored.sample), (&listed.reference, listed.sample));
                }
                assert_eq!(study.study.published_as(None), expected.study, "{}", test.sheet.name);
                let appraised = appraisals_of(&other, &[id]).await.unwrap().remove(&id).unwrap_or_default();
                let appraised: BTreeMap<_, _> = appraised.into_iter().map(|it| (it.aspect, it.appraisal)).collect();
                assert_eq!(appraised, expected.appraisals, "{}", test.sheet.name);
                // What is of the same people stays so, across tests too.
                assert_eq!(*ids.entry((module, place)).or_insert(id), id);
            }
            for (it, expected) in results.into_iter().zip(&test.results) {
                let others = it.result.together.as_ref().map(|it| it.tests.len());
                assert_eq!(others, expected.together.as_ref().map(|it| it.tests.len()));
                assert_eq!(AccuracyResult { together: None, ..it.result }, expected.result, "{}", test.sheet.name);
                assert!(it.sample);
            }
            for (it, expected) in rated.into_iter().zip(&test.agreements) {
                assert_eq!((it.agreement, it.sample), (expected.agreement.clone(), true), "{}", test.sheet.name);
            }
        }
    }
    // What two people read comes along with who they were and how it was settled; what nobody has read stays on the list.
    let board = async || list_board(&other, &BoardQuery { limit: 500, ..BoardQuery::default() }).await.unwrap();
    let before = board().await;
    assert_eq!((before.counts, before.appraised), ([5, 55, 3, 16], 71));
    let settled = before.rows.iter().filter(|row| row.progress == Progress::Settled);
    for row in settled {
        let it = get_double_extraction(&other, row.id.unwrap()).await.unwrap();
        let expected = ["hand_wrist", "neck", "pelvis"].map(demo).into_iter().flat_map(|module| module.tests);
        let expected = expected
            .flat_map(|test| test.extractions)
            .find(|known| known.settled.as_ref().is_some_and(|known| known.at == it.settled.as_ref().unwrap().at));
        let expected = expected.unwrap();
        assert_eq!(it.settled.as_ref().unwrap().decisions, expected.settled.unwrap().decisions);
        let read: Vec<_> = it.readings.iter().map(|it| (it.reader.as_deref().unwrap(), &it.content.result)).collect();
        let written = expected.readings.iter().map(|it| (it.reader.as_str(), it.extraction.result.written()));
        assert_eq!(read, written.collect::<Vec<_>>().iter().map(|(name, it)| (*name, it)).collect::<Vec<_>>());
    }
    let again = bring(&other, &demo("neck"), &Meeting::Refuse, ACT, false).await.unwrap();
    assert_eq!(board().await.counts, before.counts, "nor is anything put on the list again");
    assert_eq!((again.studies, again.results(), again.agreements()), (0, 0, 0), "nothing comes in twice");
    let whole = export(&db, None, "All").await.unwrap();
    assert_eq!((whole.tests.len(), whole.references.len(), whole.studies.len()), (20, 51, ids.len()));
    assert_eq!((whole.tests.len(), whole.conditions.len()), (20, list_conditions(&db).await.unwrap().len()));
    database.drop().await.unwrap();
    elsewhere.drop().await.unwrap();
}

#[tokio::test]
async fn tests_that_are_there_are_kept_replaced_or_refused_as_asked() {
    let (database, db) = database().await;
    let test = |name: &str, finding: &str, studies: &'static [&'static str]| {
        let mut sheet = sheet(name, &[]);
        sheet.positive_finding = finding.to_owned();
        (plain(sheet), studies)
    };
    let first = with_results(vec![test("Thumb lift", "Weaker", &["A"]), test("Thumb press", "Weaker", &[])]);
    let imported = bring(&db, &first, &Meeting::Refuse, ACT, false).await.unwrap();
    assert_eq!(imported.tests.iter().map(|test| test.fate).collect::<Vec<_>>(), [Fate::New, Fate::New]);

    let second =
        with_results(vec![test("Thumb lift", "Gives way", &["A", "B"]), test("Thumb press", "Gives way", &[])]);
    let refused = bring(&db, &second, &Meeting::Refuse, ACT, false).await.unwrap_err();
    let StoreError::Fields(errors) = refused else { panic!("{refused}") };
    assert_eq!(
        errors.iter().map(|error| error.field.as_str()).collect::<Vec<_>>(),
        ["tests[0].sheet.name", "tests[1].sheet.name"]
    );

    let preview = bring(&db, &second, &Meeting::Refuse, ACT, true).await.unwrap();
    assert!(preview.tests.iter().all(|test| test.fate == Fate::Changed && !test.written));
    let finding = async |name: &str| find_test(&db, name).await.sheet.positive_finding;
    assert_eq!(finding("Thumb lift").await, "Weaker");

    let kept = bring(&db, &second, &Meeting::Keep, ACT, false).await.unwrap();
    assert_eq!((kept.tests[0].results, kept.tests[0].known_results, kept.tests[0].written), (1, 1, false));
    assert_eq!(finding("Thumb lift").await, "Weaker");
    // Which of several results of the same people was chosen here does not make it another one.
    let lift = find_test(&db, "Thumb lift").await.id;
    let there = list_results(&db, &[lift], Seen::All).await.unwrap().remove(0);
    let chosen = AccuracyResult { preferred: true, ..there.result };
    update_result(&db, there.id, 1, None, &chosen, ACT).await.unwrap();
    let again = bring(&db, &second, &Meeting::Keep, ACT, false).await.unwrap();
    assert_eq!((again.studies, again.tests[0].results, again.tests[0].known_results), (0, 0, 2), "nothing twice");

    let chosen = Meeting::Chosen(HashSet::from(["thumb press".to_owned()]));
    bring(&db, &second, &chosen, ACT, false).await.unwrap();
    assert_eq!((finding("Thumb lift").await, finding("Thumb press").await), ("Weaker".into(), "Gives way".into()));
    bring(&db, &second, &Meeting::Replace, ACT, false).await.unwrap();
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
    let test = |name: &str, alias: &str, of: &'static [&'static str]| (plain(sheet(name, &[alias])), of);
    let mut given = with_results(vec![test("Thumb lift", "Lift", &["A"]), test("Thumb press", "Lift", &[])]);
    given.structures = vec![structure];
    let refused = bring(&db, &given, &Meeting::Replace, ACT, false).await.unwrap_err();
    assert!(
        matches!(&refused, StoreError::Fields(errors) if errors[0].field == "tests[1].sheet.aliases[0]"),
        "{refused}"
    );
    assert!(list_tests(&db).await.unwrap().is_empty());
    assert_eq!(list_structures(&db, None).await.unwrap().len(), known);

    given.tests.pop();
    let unknown = BundleTogether { tests: vec!["LIFT".to_owned(), "Thumb press".to_owned()], rule: Rule::Any };
    given.tests[0].results[0].together = Some(unknown);
    let refused = bring(&db, &given, &Meeting::Replace, ACT, false).await.unwrap_err();
    let StoreError::Fields(errors) = refused else { panic!("{refused}") };
    assert_eq!((errors.len(), errors[0].field.as_str()), (1, "tests[0].results[0].together.tests[1]"));
    given.tests[0].results[0].together = None;
    let imported = bring(&db, &given, &Meeting::Replace, ACT, false).await.unwrap();
    assert_eq!((imported.structures, imported.studies, imported.results()), (1, 1, 1));
    let again = bring(&db, &given, &Meeting::Replace, ACT, false).await.unwrap();
    assert_eq!((again.structures, again.tests[0].fate), (0, Fate::Same));
    database.drop().await.unwrap();
}

#[tokio::test]
async fn what_a_person_brings_is_a_draft_and_what_is_retired_stays_in() {
    let (database, db) = database().await;
    let nobody = bring(&db, &demo("neck"), &Meeting::Refuse, Act::of("imported", None), false).await.unwrap();
    assert_eq!(nobody.tests.len(), 6);
    let tests = list_tests(&db).await.unwrap();
    assert!(tests.iter().all(|test| test.sample && test.status == Status::Published && test.is_taught()));
    let retired = step_test(&db, tests[0].id, 1, Step::Retire, ACT).await.unwrap();
    assert!(!retired.is_taught());
    let out = export(&db, Some(Region::Neck), "Neck").await.unwrap();
    assert_eq!(out.tests.len(), 5, "retired sheets are left out");
    let none = export(&db, Some(Region::Knee), "Knee").await.unwrap();
    assert!(none.tests.is_empty() && !none.sample);
    // What is made up stays marked, and what is not does not become so.
    let own = bundle(vec![plain(sheet("Thumb lift", &[]))]);
    bring(&db, &own, &Meeting::Refuse, ACT, false).await.unwrap();
    let lift = find_test(&db, "Thumb lift").await;
    assert!(!export(&db, Some(Region::HandWrist), "Hand").await.unwrap().sample);
    let (made_up, result) = (study("Made up"), result());
    let study_id = create_studies(&db, &[(&made_up, true)], ACT).await.unwrap()[0].id;
    let new = NewResult { test_id: lift.id, study_id, result: &result, sample: true };
    create_results(&db, &[new], ACT).await.unwrap();
    create_result(&db, lift.id, &OfStudy::New(study("Ours")), &result, ACT).await.unwrap();
    let out = export(&db, Some(Region::HandWrist), "Hand").await.unwrap();
    let read = read_bundle(write_bundle(&out).unwrap().as_bytes()).unwrap();
    let marks = |test: &BundleTest| (test.sample, test.results.iter().map(|it| it.sample).collect::<Vec<_>>());
    assert_eq!((read.sample, marks(&read.tests[0])), (false, (false, vec![true, false])));
    let (_other, elsewhere) = crate::support::database().await;
    bring(&elsewhere, &read, &Meeting::Refuse, ACT, false).await.unwrap();
    let there = list_results(&elsewhere, &[find_test(&elsewhere, "Thumb lift").await.id], Seen::All).await.unwrap();
    let of = get_studies(&elsewhere, there.iter().map(|it| it.study_id)).await.unwrap();
    let named = there.iter().map(|it| (&of[&it.study_id], it.sample));
    assert_eq!(
        named.map(|(of, sample)| (of.study.reference.as_str(), of.sample, sample)).collect::<Vec<_>>(),
        [("Made up", true, true), ("Ours", false, false)]
    );
    _other.drop().await.unwrap();
    assert_eq!(get_test(&db, lift.id).await.unwrap().status, Status::Draft);
    database.drop().await.unwrap();
}

/// Takes the import of these turns back, or tells why not.
async fn taken_back(db: &DatabaseConnection, id: Uuid, by: Uuid) -> Result<(), Vec<(String, String)>> {
    let transaction = db.begin().await.unwrap();
    match take_back(&transaction, id, by).await {
        Ok(()) => {
            transaction.commit().await.unwrap();
            Ok(())
        }
        Err(StoreError::Fields(faults)) => Err(faults.into_iter().map(|it| (it.value, it.message)).collect()),
        Err(other) => panic!("{other}"),
    }
}

#[tokio::test]
async fn an_import_is_taken_back_as_one_while_nothing_was_built_on_it() {
    let (database, db) = database().await;
    let person = create_account(&db, "person", "A. Person", Role::Author, None).await.unwrap().id;
    bring(&db, &demo("hand_wrist"), &Meeting::Refuse, Act::of("imported", None), false).await.unwrap();
    let all = async || (export(&db, None, "All").await.unwrap(), list_structures(&db, None).await.unwrap());
    let states = async || {
        let tests = list_tests(&db).await.unwrap();
        tests
            .into_iter()
            .map(|it| (it.sheet.name.clone(), it.status, it.published_version == Some(it.version)))
            .collect::<Vec<_>>()
    };
    let (before, standing) = (all().await, states().await);
    // Another text of a sheet that is there, a condition that is completed, a structure, a sheet with a result, and two other modules.
    let mut again = demo("hand_wrist");
    again.tests[0].sheet.positive_finding = "Something else".to_owned();
    let structure = StructureInput {
        region: "hand_wrist".to_owned(),
        name: "Sample pulley".to_owned(),
        tissue: Some(Tissue::Ligament),
        ..StructureInput::default()
    };
    again.structures.push(Structure::check(&structure).unwrap());
    let mut fresh = with_results(vec![(plain(sheet("Thumb lift", &["Lift"])), &["A"])]);
    fresh.tests[0].results[0].study = again.studies.len();
    again.studies.append(&mut fresh.studies);
    again.tests.append(&mut fresh.tests);
    let act = Act::of("imported", Some(person));
    let turns = [again, demo("neck"), demo("pelvis")];
    for turn in &turns {
        bring(&db, turn, &Meeting::Replace, act, false).await.unwrap();
    }
    let past = list_past_imports(&db).await.unwrap();
    let [pelvis, neck, again, first] = past.as_slice() else { panic!("{past:?}") };
    let brought = again.brought;
    assert_eq!((brought.tests, brought.studies, brought.structures, brought.changed), (1, 1, 1, 1), "{brought:?}");
    assert_eq!((again.by.as_deref(), &first.by, again.name.as_str()), (Some("A. Person"), &None, "module.json"));
    for turn in [again, pelvis, neck] {
        taken_back(&db, turn.id, person).await.unwrap();
    }
    assert_eq!(all().await, before, "not a word is left, nor is one missing");
    assert_eq!(states().await, standing, "a text that was published is so again");
    let twice = taken_back(&db, again.id, person).await.unwrap_err();
    assert!(twice[0].1.contains("already"), "{twice:?}");
    let id = list_tests(&db).await.unwrap()[0].id;
    let told = list_revisions(&db, Kind::Test, id).await.unwrap();
    let acts: Vec<&str> = told.iter().map(|it| it.action.as_str()).collect();
    assert!([&["imported"] as &[&str], &["taken_back", "imported", "imported"]].contains(&acts.as_slice()), "{acts:?}");

    // Whatever was built on it since keeps it on record, and is named.
    let mut given = demo("neck");
    given.tests.push(plain(sheet("Thumb lift", &[])));
    bring(&db, &given, &Meeting::Refuse, act, false).await.unwrap();
    let import = list_past_imports(&db).await.unwrap().remove(0);
    let tests = list_tests(&db).await.unwrap();
    let test = tests.iter().find(|it| it.sheet.region == Region::Neck).unwrap();
    let results = list_results(&db, &[test.id], Seen::All).await.unwrap();
    let there = all().await;
    create_result(&db, test.id, &OfStudy::New(study("Ours")), &result(), ACT).await.unwrap();
    let edited = AccuracyResult { preferred: true, ..results[0].result.clone() };
    update_result(&db, results[0].id, 1, None, &edited, act).await.unwrap();
    let frozen = format!(
        "INSERT INTO pool_snapshot VALUES (gen_random_uuid(), 'neck', '{{\"title\": \"Ours\", \"tests\": [], \"results\": [{{\"id\": \"{}\"}}]}}', repeat('0', 64), NULL, now())",
        results[1].id.0
    );
    db.execute_unprepared(&frozen).await.unwrap();
    let typed = format!(
        "INSERT INTO unsaved (account_id, record_id, version, content, at, what) VALUES ('{person}', '{}', 1, '{{}}', now(), 'sheet')",
        test.id.0
    );
    db.execute_unprepared(&typed).await.unwrap();
    bring(&db, &bundle(vec![plain(sheet("Thumb press", &[]))]), &Meeting::Refuse, act, false).await.unwrap();
    let reasons = taken_back(&db, import.id, person).await.unwrap_err();
    let name = test.sheet.name.as_str();
    for (what, message) in [
        (name, "It was changed since. (by A. Person)"),
        (name, "A result of this test was entered since"),
        ("Ours", "This frozen pool rests on the import."),
        ("Thumb press", "This sheet's condition came with the import."),
        (name, "There are unsaved changes to it. (by A. Person)"),
    ] {
        assert!(reasons.iter().any(|(of, why)| of == what && why.contains(message)), "{what}: {message}: {reasons:?}");
    }
    let (now, _) = all().await;
    assert!(now.tests.len() == there.0.tests.len() + 1 && now.studies.len() == there.0.studies.len() + 1);
    database.drop().await.unwrap();
}
