//! Migrations with data in them, and from two servers at once.
#![allow(clippy::unwrap_used, reason = "a failed step is a failed test")]

use pruvex_core::catalogue::{Sheet, SheetInput};
use pruvex_store::{Migrator, TransactionTrait, catalogue, connect, migrate};
use pruvex_testkit::TestDatabase;
use sea_orm_migration::MigratorTrait;

fn sheet() -> Sheet {
    let text = str::to_owned;
    let input = SheetInput {
        name: text("Thumb lift"),
        region: text("hand_wrist"),
        purpose: text("strength"),
        condition: text("Thumb weakness"),
        positive_finding: text("Weaker"),
        ..SheetInput::default()
    };
    Sheet::check(&input).unwrap()
}

#[tokio::test]
async fn the_schema_goes_up_down_and_up_with_data_in_it() {
    let database = TestDatabase::create().await.unwrap();
    migrate(&database.url).await.unwrap();
    let db = connect(&database.url).await.unwrap();
    let transaction = db.begin().await.unwrap();
    let record = catalogue::create_test(&transaction, &sheet(), false).await.unwrap();
    transaction.commit().await.unwrap();
    assert_eq!(catalogue::get_test(&db, record.id).await.unwrap(), record);
    migrate(&database.url).await.unwrap();
    assert_eq!(catalogue::get_test(&db, record.id).await.unwrap(), record, "a second run changes nothing");
    Migrator::down(&db, None).await.unwrap();
    migrate(&database.url).await.unwrap();
    assert!(catalogue::is_empty(&db).await.unwrap());
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
