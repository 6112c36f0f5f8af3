//! Names, conditions and searches as PostgreSQL keeps them.

use crate::support::{ACT, database, sheet};
use pruvex_core::Probability;
use pruvex_core::catalogue::{Condition, Region};
use pruvex_store::catalogue::{create_test, find_tests, get_test, list_tests, update_test};
use pruvex_store::condition::{list_conditions, list_must_not_miss, put_condition};
use pruvex_store::history::{Kind, changed_since, newest_change};
use pruvex_store::{ConnectionTrait, StoreError, TransactionTrait};

#[tokio::test]
async fn renaming_frees_the_old_names_and_keeps_the_order_of_aliases() {
    let (database, db) = database().await;
    let first = create_test(&db, &sheet("Thumb lift", &["Lift", "Raise"]), false, ACT).await.unwrap();
    let changed = update_test(&db, first.id, 1, &sheet("Thumb press", &["Raise", "Lift"]), ACT).await.unwrap();
    assert_eq!(get_test(&db, first.id).await.unwrap(), changed);
    assert_eq!(changed.sheet.aliases, ["Raise", "Lift"]);
    create_test(&db, &sheet("Thumb lift", &[]), false, ACT).await.unwrap();
    let taken = update_test(&db, first.id, 2, &sheet("THUMB LIFT", &[]), ACT).await.unwrap_err();
    assert!(matches!(&taken, StoreError::Fields(errors) if errors[0].field == "name"), "{taken}");
    database.drop().await.unwrap();
}

#[tokio::test]
async fn searches_find_parts_of_names_and_take_no_pattern() {
    let (database, db) = database().await;
    let wrist = create_test(&db, &sheet("Wrist 100% flexion", &["Under_score"]), false, ACT).await.unwrap();
    let thumb = create_test(&db, &sheet("Thumb lift", &["Ünder Daumen"]), false, ACT).await.unwrap();
    for (text, expected) in [
        ("FLEX", 1),
        ("100%", 1),
        ("%", 1),
        ("_", 1),
        ("r_s", 1),
        ("'; --", 0),
        ("ÜNDER DAUMEN", 1),
        ("  thumb   LIFT ", 1),
        ("", 2),
    ] {
        assert_eq!(find_tests(&db, text, None, true).await.unwrap().len(), expected, "{text:?}");
    }
    // Typed nearly right; and words of the sheet in another of their forms, the name's own match first.
    assert_eq!(find_tests(&db, "wrist flecsion", None, true).await.unwrap(), [wrist.id]);
    assert_eq!(find_tests(&db, "thumm lifft", None, true).await.unwrap(), [thumb.id]);
    let mut weak = sheet("Grip", &[]);
    weak.positive_finding = "The flexions tire the wrist; lifting the thumb does not".to_owned();
    let weak = create_test(&db, &weak, false, ACT).await.unwrap();
    assert_eq!(find_tests(&db, "flexion", None, true).await.unwrap(), [wrist.id, weak.id]);
    assert_eq!(find_tests(&db, "tired", None, true).await.unwrap(), [weak.id]);
    database.drop().await.unwrap();
}

#[tokio::test]
async fn changes_become_visible_in_the_order_of_their_numbers() {
    let (database, db) = database().await;
    let before = newest_change(&db).await.unwrap();
    let transaction = db.begin().await.unwrap();
    let lift = create_test(&transaction, &sheet("Thumb lift", &[]), false, ACT).await.unwrap();
    let (other, twin) = (db.clone(), sheet("Grip", &[]));
    let second = tokio::spawn(async move { create_test(&other, &twin, false, ACT).await.unwrap() });
    tokio::time::sleep(std::time::Duration::from_millis(200)).await;
    assert!(!second.is_finished(), "who comes second waits: its smaller number must not appear later");
    assert_eq!(newest_change(&db).await.unwrap(), before, "nobody sees what is not committed");
    transaction.commit().await.unwrap();
    let (grip, between) = (second.await.unwrap(), newest_change(&db).await.unwrap());
    let mut changed = changed_since(&db, before.seq).await.unwrap();
    changed.retain(|(kind, _)| *kind == Kind::Test);
    changed.sort_by_key(|(_, id)| *id);
    let mut expected = vec![(Kind::Test, lift.id.0), (Kind::Test, grip.id.0)];
    expected.sort_by_key(|(_, id)| *id);
    assert_eq!(changed, expected);
    list_tests(&db).await.unwrap();
    assert_eq!(newest_change(&db).await.unwrap(), between, "reading changes nothing");
    update_test(&db, lift.id, 1, &sheet("Thumb press", &[]), ACT).await.unwrap();
    assert_eq!(changed_since(&db, between.seq).await.unwrap(), [(Kind::Test, lift.id.0)]);
    database.drop().await.unwrap();
}

#[tokio::test]
async fn a_condition_is_completed_and_never_emptied() {
    let (database, db) = database().await;
    let condition = |setting: &str, pre_test: Option<f64>| Condition {
        prevalence: Vec::new(),
        region: Region::HandWrist,
        name: "Thumb weakness".to_owned(),
        setting: setting.to_owned(),
        pre_test: pre_test.map(|p| Probability::new(p).unwrap()),
        must_not_miss: pre_test.is_none(),
    };
    let (bare, _) = put_condition(&db, &condition("", None), ACT).await.unwrap();
    let (full, completed) = put_condition(&db, &condition("Clinic", Some(0.3)), ACT).await.unwrap();
    assert!(completed);
    // A test that merely names the condition must not wipe what is known of it.
    create_test(&db, &sheet("Thumb lift", &[]), false, ACT).await.unwrap();
    let conditions = list_conditions(&db).await.unwrap();
    let kept: Vec<_> = conditions.iter().filter(|kept| kept.condition.name == "Thumb weakness").collect();
    assert_eq!((kept.len(), kept[0].id, bare), (1, full, full));
    // Whoever says that it must not be missed is heard.
    let whole = Condition { must_not_miss: true, ..condition("Clinic", Some(0.3)) };
    assert_eq!(kept[0].condition, whole);
    assert_eq!(list_must_not_miss(&db, Region::HandWrist).await.unwrap(), ["Thumb weakness"]);
    assert!(list_must_not_miss(&db, Region::Pelvis).await.unwrap().is_empty());
    assert_eq!(kept[0].version, 2, "whoever read it before it was completed is told so");
    // What is known, perhaps corrected here by hand, is not overwritten by what a file says.
    assert_eq!(put_condition(&db, &condition("Elsewhere", Some(0.9)), ACT).await.unwrap(), (full, false));
    let conditions = list_conditions(&db).await.unwrap();
    let kept = conditions.iter().find(|kept| kept.id == full).unwrap();
    assert_eq!((kept.version, &kept.condition), (2, &whole));
    database.drop().await.unwrap();
}

#[tokio::test]
async fn a_row_damaged_by_hand_is_an_error_and_no_panic() {
    let (database, db) = database().await;
    let record = create_test(&db, &sheet("Thumb lift", &[]), false, ACT).await.unwrap();
    db.execute_unprepared("UPDATE test SET sheet = jsonb_set(sheet, '{purpose}', '\"magic\"')").await.unwrap();
    let error = get_test(&db, record.id).await.unwrap_err();
    assert!(matches!(&error, StoreError::Damaged { what: "test", .. }), "{error}");
    db.execute_unprepared("UPDATE test SET sheet = '[]'").await.unwrap();
    assert!(matches!(get_test(&db, record.id).await, Err(StoreError::Damaged { .. })));
    database.drop().await.unwrap();
}

#[tokio::test]
async fn whoever_waits_too_long_for_others_who_write_is_told_so() {
    let (database, db) = database().await;
    let import = db.begin().await.unwrap();
    import.execute_unprepared("SELECT pg_advisory_xact_lock(7201126)").await.unwrap();
    let edit = db.begin().await.unwrap();
    edit.execute_unprepared("SET LOCAL lock_timeout = '50ms'").await.unwrap();
    let refused = create_test(&edit, &sheet("Thumb lift", &[]), false, ACT).await;
    assert!(matches!(refused, Err(StoreError::Busy)), "{refused:?}");
    drop((edit, import));
    create_test(&db, &sheet("Thumb lift", &[]), false, ACT).await.unwrap();
    database.drop().await.unwrap();
}
