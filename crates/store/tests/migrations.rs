//! Migrations with data in them, and from two servers at once.

#![allow(clippy::unwrap_used, reason = "a failed step is a failed test")]

mod support;

use pruvex_store::{Migrator, catalogue, migrate};
use pruvex_testkit::TestDatabase;
use sea_orm_migration::MigratorTrait;
use support::{database, sheet};

#[tokio::test]
async fn the_schema_goes_up_down_and_up_with_data_in_it() {
    let (database, db) = database().await;
    let record = catalogue::create_test(&db, &sheet("Thumb lift", &["Lift"]), false).await.unwrap();
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
