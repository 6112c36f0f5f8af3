//! Plans of examinations on a real database: their way to their readers, into files and out of them, and what an undone import does to them.

use crate::support::{ACT, database, sheet};
use pruvex_core::TestId;
use pruvex_core::catalogue::{Region, Status, Step, name_key};
use pruvex_core::people::Role;
use pruvex_core::plan::{ExaminationPlan, ExaminationPlanInput};
use pruvex_formats::{BundlePlan, read_bundle, write_bundle};
use pruvex_store::catalogue::{create_test, list_tests, step_test};
use pruvex_store::exchange::{Imported, Meeting, export, import, list_past_imports, take_back};
use pruvex_store::history::{Act, Kind, list_revisions};
use pruvex_store::landing::Landing;
use pruvex_store::people::create_account;
use pruvex_store::plan::{
    PlanReader, create_plan, follow_condition_in_plans, get_plan, list_plan_summaries, list_plans, step_plan,
    update_plan,
};
use pruvex_store::{DatabaseConnection, StoreError, TransactionTrait};
use serde_json::json;
use uuid::Uuid;

fn plan(title: &str, region: &str, condition: &str, tests: &[TestId]) -> ExaminationPlan {
    let tests: Vec<_> =
        tests.iter().enumerate().map(|(nth, id)| json!({ "test": id, "after": &tests[..nth] })).collect();
    let input = json!({ "title": title, "region": region, "tests": tests,
        "questions": [{ "condition": condition, "pre_test": 0.3, "reassure_below": 0.1, "treat_above": 0.7 }] });
    let input: ExaminationPlanInput = serde_json::from_value(input).unwrap();
    ExaminationPlan::check(&input).unwrap()
}

fn fields(error: StoreError) -> Vec<String> {
    match error {
        StoreError::Fields(errors) => errors.into_iter().map(|error| error.field).collect(),
        other => panic!("{other}"),
    }
}

async fn bring(db: &DatabaseConnection, bytes: &[u8], act: Act<'_>) -> Result<Imported, StoreError> {
    let bundle = read_bundle(bytes).unwrap();
    let landing = Landing { id: Uuid::now_v7(), name: "module.json" };
    let transaction = db.begin().await.unwrap();
    Ok(import(transaction, &bundle, &Meeting::Keep, act, Some(landing), &|_, _, _| true).await?.unwrap())
}

fn demo(name: &str) -> Vec<u8> {
    std::fs::read(format!("../../demo/{name}.json")).unwrap()
}

#[tokio::test]
async fn a_plan_is_kept_in_every_version_and_learners_read_what_was_signed_off() {
    let (database, db) = database().await;
    let [author, reader] = ["author", "reader"].map(str::to_owned);
    let author = create_account(&db, &author, "A. Author", Role::Author, None).await.unwrap().id;
    let reader = create_account(&db, &reader, "R. Reader", Role::SecondReader, None).await.unwrap().id;
    let (written, signed) = (Act::of("edited", Some(author)), Act::of("sign_off", Some(reader)));
    let mut ids = Vec::new();
    for name in ["Thumb lift", "Thumb press"] {
        ids.push(create_test(&db, &sheet(name, &[]), false, ACT).await.unwrap().id);
    }
    let first = plan("Standard", "hand_wrist", "Thumb weakness", &ids);
    let made = create_plan(&db, &first, false, Act::of("created", Some(author))).await.unwrap();
    assert_eq!((made.status, made.published_version, made.sheets.len()), (Status::Draft, None, 0));
    let seen = async || get_plan(&db, PlanReader::Taught, made.id).await.map(|it| it.plan.title);
    assert!(matches!(seen().await, Err(StoreError::NotFound { .. })));
    let again = create_plan(&db, &plan("STANDARD", "hand_wrist", "Thumb weakness", &ids), false, ACT).await;
    assert_eq!(fields(again.unwrap_err()), ["title"]);
    let elsewhere =
        create_plan(&db, &plan("Standard", "neck", "Thumb weakness", &[TestId::default()]), false, ACT).await;
    assert_eq!(fields(elsewhere.unwrap_err()), ["tests[0].test", "questions[0].condition"]);

    // Who wrote it does not sign it off, and not before its sheets are published.
    let waiting = step_plan(&db, made.id, 1, Step::Submit, written).await.unwrap();
    let own = step_plan(&db, made.id, waiting.version, Step::SignOff, Act::of("sign_off", Some(author))).await;
    assert_eq!(fields(own.unwrap_err()), ["step"]);
    let early = step_plan(&db, made.id, waiting.version, Step::SignOff, signed).await;
    assert_eq!(fields(early.unwrap_err()), ["tests[0].test", "tests[1].test"]);
    for id in &ids {
        step_test(&db, *id, 1, Step::Submit, ACT).await.unwrap();
        step_test(&db, *id, 2, Step::SignOff, signed).await.unwrap();
    }
    let published = step_plan(&db, made.id, waiting.version, Step::SignOff, signed).await.unwrap();
    assert_eq!((published.status, published.published_version), (Status::Published, Some(3)));
    assert!(ids.iter().all(|id| published.sheets[id] == 3), "{:?}", published.sheets);

    // A later text waits; who was slower is told; the earlier one is still read, and comes back as a new version.
    let longer = plan("Longer", "hand_wrist", "Thumb weakness", &ids[..1]);
    let stale = update_plan(&db, made.id, 2, &longer, written).await;
    assert!(matches!(stale, Err(StoreError::Conflict { current: 3, .. })));
    let edited = update_plan(&db, made.id, 3, &longer, written).await.unwrap();
    assert_eq!((edited.status, edited.plan.tests.len()), (Status::Draft, 1));
    assert_eq!(seen().await.unwrap(), "Standard");
    follow_condition_in_plans(&db, Region::HandWrist, "THUMB weakness", "Weak thumb").await.unwrap();
    let [draft, taught] = [PlanReader::Drafts, PlanReader::Taught];
    for (reader, title) in [(draft, "Longer"), (taught, "Standard")] {
        let read = list_plans(&db, reader, Some(Region::HandWrist)).await.unwrap().swap_remove(0).plan;
        assert_eq!((read.title.as_str(), read.questions[0].condition.as_str()), (title, "Weak thumb"));
    }
    // Lists say the same without reading plans whole.
    for (reader, title, version, tests) in [(draft, "Longer", 4, 1), (taught, "Standard", 3, 2)] {
        let listed = list_plan_summaries(&db, reader, Some(Region::HandWrist)).await.unwrap().swap_remove(0);
        assert_eq!((listed.title.as_str(), listed.version, listed.tests), (title, version, tests));
        assert_eq!((listed.conditions, listed.published_version), (vec!["Weak thumb".to_owned()], Some(3)));
        assert!(list_plan_summaries(&db, reader, Some(Region::Knee)).await.unwrap().is_empty());
    }
    let history = list_revisions(&db, Kind::Plan, made.id).await.unwrap();
    assert_eq!(history.iter().map(|it| it.version).collect::<Vec<_>>(), [4, 3, 2, 1]);
    assert_eq!(history[1].content["title"], "Standard");
    assert!(matches!(step_plan(&db, made.id, 4, Step::Revive, written).await, Err(StoreError::Fields(_))));
    step_plan(&db, made.id, 4, Step::Retire, written).await.unwrap();
    assert!(seen().await.is_err() && list_plans(&db, PlanReader::Taught, None).await.unwrap().is_empty());
    assert!(list_plan_summaries(&db, PlanReader::Taught, None).await.unwrap().is_empty());
    assert_eq!(list_plans(&db, PlanReader::Drafts, None).await.unwrap().len(), 1);
    assert!(list_plans(&db, PlanReader::Drafts, Some(Region::Neck)).await.unwrap().is_empty());
    database.drop().await.unwrap();
}

#[tokio::test]
async fn plans_go_into_a_file_with_their_tests_and_come_out_of_it_once() {
    let (database, db) = database().await;
    let nobody = Act::of("imported", None);
    assert_eq!(bring(&db, &demo("hand_wrist"), nobody).await.unwrap().plans, 1);
    assert_eq!(bring(&db, &demo("hand_wrist"), nobody).await.unwrap().plans, 0, "its title is there already");
    let shown = list_plans(&db, PlanReader::Taught, None).await.unwrap();
    assert_eq!((shown.len(), shown[0].sample, shown[0].status), (1, true, Status::Published));
    let out = export(&db, Some(Region::HandWrist), "Hand").await.unwrap();
    let given = read_bundle(&demo("hand_wrist")).unwrap();
    assert_eq!(out.plans, given.plans);
    assert!(out.sample && export(&db, Some(Region::Neck), "Neck").await.unwrap().plans.is_empty());
    // What a person brings is a draft; wishes point to the tests of this catalogue.
    let (other, elsewhere) = crate::support::database().await;
    let person = create_account(&elsewhere, "person", "A. Person", Role::Author, None).await.unwrap().id;
    bring(&elsewhere, write_bundle(&out).unwrap().as_bytes(), Act::of("imported", Some(person))).await.unwrap();
    let brought = list_plans(&elsewhere, PlanReader::Drafts, None).await.unwrap().swap_remove(0);
    assert_eq!((brought.status, brought.sample), (Status::Draft, true));
    let tests = list_tests(&elsewhere).await.unwrap();
    let name = |id: TestId| tests.iter().find(|it| it.id == id).map(|it| it.sheet.name.clone()).unwrap();
    let names: Vec<String> = brought.plan.tests.iter().map(|it| name(it.test)).collect();
    assert_eq!(names, given.plans[0].names);
    let waiting = brought.plan.tests.iter().find(|it| !it.after.is_empty()).unwrap();
    assert_eq!(name(waiting.after[0]), "Two points at the fingertip");
    // A test that neither the file nor the catalogue has is refused, and nothing comes in.
    let mut wrong = given.clone();
    let BundlePlan { plan, names, .. } = &mut wrong.plans[0];
    plan.title = "Another one".to_owned();
    names[2] = "Nothing like it".to_owned();
    let refused = bring(&elsewhere, write_bundle(&wrong).unwrap().as_bytes(), nobody).await;
    assert_eq!(fields(refused.unwrap_err()), ["plans[0].tests[2].name"]);
    assert_eq!(list_plans(&elsewhere, PlanReader::Drafts, None).await.unwrap().len(), 1);
    other.drop().await.unwrap();
    database.drop().await.unwrap();
}

#[tokio::test]
async fn an_import_is_not_taken_back_while_a_plan_names_its_tests() {
    let (database, db) = database().await;
    let person = create_account(&db, "person", "A. Person", Role::Author, None).await.unwrap().id;
    bring(&db, &demo("pelvis"), Act::of("imported", Some(person))).await.unwrap();
    let past = list_past_imports(&db).await.unwrap().swap_remove(0);
    assert_eq!(past.brought.plans, 1);
    let back = async || {
        let transaction = db.begin().await.unwrap();
        let answer = take_back(&transaction, past.id, person).await;
        if answer.is_ok() {
            transaction.commit().await.unwrap();
        }
        answer
    };
    let test = list_tests(&db).await.unwrap().swap_remove(0);
    let mine = plan("Mine", "pelvis", &test.sheet.condition, &[test.id]);
    let mine = create_plan(&db, &mine, false, Act::of("created", Some(person))).await.unwrap();
    let Err(StoreError::Fields(reasons)) = back().await else { panic!("it was taken back") };
    assert!(
        reasons.iter().any(|it| it.value == "Mine" && it.message.contains("names a test or a condition")),
        "{reasons:?}"
    );
    // A plan of its own goes with it, as long as nobody changed it.
    let brought = list_plans(&db, PlanReader::Drafts, None).await.unwrap();
    let brought = brought.into_iter().find(|it| it.id != mine.id).unwrap();
    use pruvex_store::ConnectionTrait;
    db.execute_unprepared(&format!("DELETE FROM examination_plan WHERE id = '{}'", mine.id)).await.unwrap();
    back().await.unwrap();
    assert!(list_plans(&db, PlanReader::Drafts, None).await.unwrap().is_empty());
    let last = list_revisions(&db, Kind::Plan, brought.id).await.unwrap().swap_remove(0);
    assert_eq!(
        (last.action.as_str(), name_key(last.content["title"].as_str().unwrap())),
        ("taken_back", name_key(&brought.plan.title))
    );
    database.drop().await.unwrap();
}
