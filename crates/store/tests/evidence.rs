//! Studies: versions, deletion and restoring, and the database's own guards.

#![allow(clippy::unwrap_used, reason = "a failed step is a failed test")]

mod support;

use pruvex_core::accuracy::{Counts, RawCounts};
use pruvex_store::catalogue::create_test;
use pruvex_store::evidence::{create_study, delete_study, list_studies, restore_study, update_study};
use pruvex_store::{ConnectionTrait, StoreError};
use support::{ACT, database, sheet, study};

#[tokio::test]
async fn every_change_raises_the_version_and_stale_ones_are_refused() {
    let (database, db) = database().await;
    let test = create_test(&db, &sheet("Thumb lift", &[]), false, ACT).await.unwrap().id;
    let first = create_study(&db, test, &study("First"), true, ACT).await.unwrap();
    let second = create_study(&db, test, &study("Second"), false, ACT).await.unwrap();
    let raw = RawCounts { tn: Some(9.0), fp: Some(1.0), ..RawCounts::default() };
    let mut one_armed = study("First, corrected");
    one_armed.counts = Counts::check(raw).unwrap();
    let saved = update_study(&db, first.id, 1, &one_armed, ACT).await.unwrap();
    assert_eq!((saved.version, saved.sample, &saved.study), (2, true, &one_armed), "the sample mark stays");
    let stale = update_study(&db, first.id, 1, &study("Lost"), ACT).await.unwrap_err();
    assert!(matches!(stale, StoreError::Conflict { current: 2, .. }));
    assert!(matches!(delete_study(&db, first.id, 1, ACT).await, Err(StoreError::Conflict { .. })));

    let deleted = delete_study(&db, first.id, 2, ACT).await.unwrap();
    assert_eq!(list_studies(&db, &[test]).await.unwrap(), std::slice::from_ref(&second));
    assert!(matches!(delete_study(&db, first.id, 3, ACT).await, Err(StoreError::NotFound { .. })));
    assert!(matches!(restore_study(&db, second.id, 1, ACT).await, Err(StoreError::NotFound { .. })));
    let restored = restore_study(&db, first.id, deleted.version, ACT).await.unwrap();
    assert_eq!((restored.version, &restored.study), (4, &one_armed));
    let order: Vec<_> = list_studies(&db, &[test]).await.unwrap().into_iter().map(|s| s.id).collect();
    assert_eq!(order, [first.id, second.id], "a restored study stands where it stood");
    database.drop().await.unwrap();
}

#[tokio::test]
async fn a_study_needs_its_test_and_the_database_guards_its_cells() {
    let (database, db) = database().await;
    let nobody = create_study(&db, uuid::Uuid::nil(), &study("Orphan"), false, ACT).await.unwrap_err();
    assert!(matches!(nobody, StoreError::NotFound { what: "test", .. }));
    let test = create_test(&db, &sheet("Thumb lift", &[]), false, ACT).await.unwrap().id;
    create_study(&db, test, &study("First"), false, ACT).await.unwrap();
    for change in ["tp = -1", "tp = NULL", "tp = 0, fp = 0, fn = 0, tn = 0", "reference = ''"] {
        assert!(db.execute_unprepared(&format!("UPDATE study SET {change}")).await.is_err(), "{change}");
    }
    assert!(db.execute_unprepared("DELETE FROM test").await.is_err(), "a test with studies is not removed");
    database.drop().await.unwrap();
}
