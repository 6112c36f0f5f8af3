//! Migrations with data in them, and from two servers at once.

#![allow(clippy::unwrap_used, reason = "a failed step is a failed test")]

mod support;

use pruvex_store::{ConnectionTrait, Migrator, catalogue, connect, migrate, vocabulary};
use pruvex_testkit::TestDatabase;
use sea_orm_migration::MigratorTrait;
use support::{ACT, database, sheet};

#[tokio::test]
async fn the_schema_goes_up_down_and_up_with_data_in_it() {
    let (database, db) = database().await;
    let record = catalogue::create_test(&db, &sheet("Thumb lift", &["Lift"]), false, ACT).await.unwrap();
    migrate(&database.url).await.unwrap();
    assert_eq!(catalogue::get_test(&db, record.id).await.unwrap(), record, "a second run changes nothing");
    Migrator::down(&db, None).await.unwrap();
    migrate(&database.url).await.unwrap();
    assert!(catalogue::is_empty(&db).await.unwrap());
    database.drop().await.unwrap();
}

#[tokio::test]
async fn sheets_of_plain_texts_become_structured_ones() {
    let database = TestDatabase::create().await.unwrap();
    let db = connect(&database.url).await.unwrap();
    Migrator::up(&db, Some(3)).await.unwrap();
    db.execute_unprepared(
        "INSERT INTO condition VALUES ('01900000-0000-7000-8000-000000000001', 'hand_wrist', 'Weakness', 'weakness', '', null);
         INSERT INTO test (id, region, purpose, condition_id, target_structures, patient_position, steps, positive_finding, cautions,
             pitfalls, sample, created_at, updated_at, status)
         VALUES ('01900000-0000-7000-8000-000000000002', 'hand_wrist', 'strength', '01900000-0000-7000-8000-000000000001',
             '[\"Abductor\"]', 'Sitting', '[\"One\", \"Two\"]', 'Weaker', '[\"Stop on pain\"]', '[]', false, now(), now(), 'draft');
         INSERT INTO test_name VALUES ('thumb lift', '01900000-0000-7000-8000-000000000002', 0, 'Thumb lift');
         INSERT INTO revision VALUES ('test', '01900000-0000-7000-8000-000000000002', 1, 'created', '', '{\"name\": \"Thumb lift\",
             \"aliases\": [], \"region\": \"hand_wrist\", \"purpose\": \"strength\", \"condition\": \"Weakness\",
             \"target_structures\": [\"Abductor\"], \"patient_position\": \"Sitting\", \"steps\": [\"One\", \"Two\"],
             \"positive_finding\": \"Weaker\", \"cautions\": [\"Stop on pain\"], \"pitfalls\": []}', null, now());",
    )
    .await
    .unwrap();
    migrate(&database.url).await.unwrap();
    let sheet = catalogue::list_tests(&db).await.unwrap().remove(0).sheet;
    let variant = sheet.baseline().unwrap();
    let steps: Vec<&str> = variant.steps.iter().map(|step| step.text.as_str()).collect();
    assert_eq!((steps, variant.patient_position.as_str()), (vec!["One", "Two"], "Sitting"));
    assert_eq!((variant.targets[0].structure.as_str(), sheet.cautions[0].text.as_str()), ("Abductor", "Stop on pain"));
    assert_eq!(catalogue::find_tests(&db, "thumb", None, true).await.unwrap().len(), 1);
    let structures = vocabulary::list_structures(&db, None).await.unwrap();
    assert!(structures.len() > 100, "the vocabulary begins with a starting set");
    database.drop().await.unwrap();
}

#[tokio::test]
async fn two_servers_may_migrate_an_empty_database_at_once() {
    let database = TestDatabase::create().await.unwrap();
    let (a, b) = tokio::join!(migrate(&database.url), migrate(&database.url));
    a.unwrap();
    b.unwrap();
    database.drop().await.unwrap();
}
