//! Names, conditions and searches as PostgreSQL keeps them.

#![allow(clippy::unwrap_used, reason = "a failed step is a failed test")]

mod support;

use pruvex_core::Probability;
use pruvex_core::catalogue::{Condition, Region};
use pruvex_store::catalogue::{
    TestFilter, count_by_region, create_test, get_test, list_conditions, list_tests, put_condition, update_test,
};
use pruvex_store::{ConnectionTrait, StoreError};
use support::{database, sheet};

fn search(text: &str) -> TestFilter {
    TestFilter { search: Some(text.to_owned()), ..TestFilter::default() }
}

#[tokio::test]
async fn renaming_frees_the_old_names_and_keeps_the_order_of_aliases() {
    let (database, db) = database().await;
    let first = create_test(&db, &sheet("Thumb lift", &["Lift", "Raise"]), false).await.unwrap();
    let changed = update_test(&db, first.id, 1, &sheet("Thumb press", &["Raise", "Lift"])).await.unwrap();
    assert_eq!(get_test(&db, first.id).await.unwrap(), changed);
    assert_eq!(changed.sheet.aliases, ["Raise", "Lift"]);
    create_test(&db, &sheet("Thumb lift", &[]), false).await.unwrap();
    let taken = update_test(&db, first.id, 2, &sheet("THUMB LIFT", &[])).await.unwrap_err();
    assert!(matches!(&taken, StoreError::Fields(errors) if errors[0].field == "name"), "{taken}");
    database.drop().await.unwrap();
}

#[tokio::test]
async fn searches_find_parts_of_names_and_take_no_pattern() {
    let (database, db) = database().await;
    create_test(&db, &sheet("Wrist 100% flexion", &["Under_score"]), false).await.unwrap();
    create_test(&db, &sheet("Thumb lift", &["Ünder Daumen"]), false).await.unwrap();
    for (text, expected) in [
        ("FLEX", 1),
        ("100%", 1),
        ("%", 1),
        ("_", 1),
        ("r_s", 1),
        ("'; --", 0),
        ("ÜNDER", 1),
        ("  thumb   LIFT ", 1),
        ("", 2),
    ] {
        assert_eq!(list_tests(&db, &search(text)).await.unwrap().len(), expected, "{text:?}");
    }
    let elsewhere = TestFilter { region: Some(Region::Knee), ..TestFilter::default() };
    assert!(list_tests(&db, &elsewhere).await.unwrap().is_empty());
    assert_eq!(count_by_region(&db).await.unwrap().get(&Region::HandWrist), Some(&2));
    let condition = TestFilter { condition: Some("thumb  WEAKNESS".to_owned()), ..TestFilter::default() };
    assert_eq!(list_tests(&db, &condition).await.unwrap().len(), 2);
    database.drop().await.unwrap();
}

#[tokio::test]
async fn a_condition_is_completed_and_never_emptied() {
    let (database, db) = database().await;
    let condition = |setting: &str, pre_test: Option<f64>| Condition {
        region: Region::HandWrist,
        name: "Thumb weakness".to_owned(),
        setting: setting.to_owned(),
        pre_test: pre_test.map(|p| Probability::new(p).unwrap()),
    };
    let bare = put_condition(&db, &condition("", None)).await.unwrap();
    let full = put_condition(&db, &condition("Clinic", Some(0.3))).await.unwrap();
    // A test that merely names the condition must not wipe what is known of it.
    create_test(&db, &sheet("Thumb lift", &[]), false).await.unwrap();
    let kept = list_conditions(&db).await.unwrap();
    assert_eq!((kept.len(), kept[0].id, bare), (1, full, full));
    assert_eq!(kept[0].condition, condition("Clinic", Some(0.3)));
    database.drop().await.unwrap();
}

#[tokio::test]
async fn a_row_damaged_by_hand_is_an_error_and_no_panic() {
    let (database, db) = database().await;
    let record = create_test(&db, &sheet("Thumb lift", &[]), false).await.unwrap();
    db.execute_unprepared("UPDATE test SET purpose = 'magic'").await.unwrap();
    let error = get_test(&db, record.id).await.unwrap_err();
    assert!(matches!(&error, StoreError::Damaged { what: "test", .. }), "{error}");
    db.execute_unprepared("DELETE FROM test_name").await.unwrap();
    assert!(matches!(get_test(&db, record.id).await, Err(StoreError::Damaged { .. })));
    database.drop().await.unwrap();
}
