//! Frozen pools: kept as they were, found by region and by test, and never changed.

use crate::support::database;
use pruvex_core::accuracy::{Counts, RawCounts};
use pruvex_core::catalogue::Region;
use pruvex_core::evidence::{Selection, Snapshot, SnapshotResult, SnapshotTest};
use pruvex_core::people::Role;
use pruvex_core::pooling::{ModelChoice, PoolOptions, pool};
use pruvex_core::{ResultId, TestId};
use pruvex_store::people::create_account;
use pruvex_store::pooling::{
    KeptAnswer, create_snapshot, drop_answers, get_snapshot, keep_answers, kept_answers, list_snapshots,
    list_snapshots_of,
};
use pruvex_store::{ConnectionTrait, StoreError};
use uuid::Uuid;

fn snapshot(title: &str, tests: &[TestId]) -> Snapshot {
    let cells = RawCounts { tp: Some(40.0), fp: Some(0.0), fn_: Some(10.0), tn: Some(50.0) };
    let counts = Counts::check(cells).unwrap();
    let result = |test: &TestId| SnapshotResult {
        id: ResultId(Uuid::now_v7()),
        version: 1,
        test: *test,
        report: "Report".to_owned(),
        out: None,
        counts: cells,
    };
    Snapshot {
        format: Snapshot::FORMAT.to_owned(),
        engine: Snapshot::engine(),
        frozen_at: "2026-11-26T10:00:00Z".to_owned(),
        title: title.to_owned(),
        note: String::new(),
        sample: true,
        condition: "Thumb weakness".to_owned(),
        tests: tests.iter().map(|id| SnapshotTest { id: *id, name: "Thumb lift".to_owned() }).collect(),
        selection: Selection::default(),
        model: ModelChoice::default(),
        interval: None,
        results: tests.iter().map(result).collect(),
        reference: None,
        answer: serde_json::to_value(pool(&vec![counts; tests.len()], PoolOptions::classical()).unwrap()).unwrap(),
    }
}

#[tokio::test]
async fn a_frozen_pool_is_found_by_region_and_by_test_and_stays_as_it_was() {
    let (database, db) = database().await;
    let person = create_account(&db, "M.Keller", "M. Keller", Role::Author, None).await.unwrap();
    let [lift, press] = [TestId(Uuid::now_v7()), TestId(Uuid::now_v7())];
    let first = snapshot("First", &[lift]);
    let kept = create_snapshot(&db, Region::HandWrist, &first, person.id).await.unwrap();
    assert_eq!((&kept.snapshot, &kept.hash, kept.by.as_deref()), (&first, &first.hash(), Some("M. Keller")));
    let read = get_snapshot(&db, kept.id).await.unwrap();
    assert_eq!(read, kept, "to the last digit");
    read.snapshot.confirm(&read.hash).unwrap();

    let both = create_snapshot(&db, Region::HandWrist, &snapshot("Both", &[press, lift]), person.id).await.unwrap();
    let neck =
        create_snapshot(&db, Region::Neck, &snapshot("Neck", &[TestId(Uuid::now_v7())]), person.id).await.unwrap();
    let titles = |records: Vec<pruvex_store::pooling::SnapshotRecord>| {
        records.into_iter().map(|it| it.snapshot.title).collect::<Vec<_>>()
    };
    assert_eq!(titles(list_snapshots(&db, Some(Region::HandWrist)).await.unwrap()), ["Both", "First"]);
    assert_eq!(titles(list_snapshots(&db, None).await.unwrap()), ["Neck", "Both", "First"], "the newest first");
    assert_eq!(titles(list_snapshots_of(&db, lift).await.unwrap()), ["Both", "First"]);
    assert_eq!(titles(list_snapshots_of(&db, press).await.unwrap()), ["Both"], "whichever of its tests it is");
    assert_eq!(titles(list_snapshots_of(&db, TestId(Uuid::now_v7())).await.unwrap()), [""; 0]);

    for sql in ["UPDATE pool_snapshot SET region = 'knee'", "DELETE FROM pool_snapshot"] {
        let refused = db.execute_unprepared(sql).await.unwrap_err();
        assert!(refused.to_string().contains("not changed"), "{sql}: {refused}");
    }
    let gone = get_snapshot(&db, Uuid::now_v7()).await.unwrap_err();
    assert!(matches!(gone, StoreError::NotFound { what: "frozen pool", .. }), "{gone}");
    assert_eq!(get_snapshot(&db, neck.id).await.unwrap().snapshot.tests, neck.snapshot.tests);
    assert_ne!(both.hash, kept.hash);
    database.drop().await.unwrap();
}

#[tokio::test]
async fn answers_at_hand_are_read_as_they_were_computed_and_replaced_by_another_engine_s() {
    let (database, db) = database().await;
    let counts = |tp: u32| Counts::full(f64::from(tp), 3.0, 5.0, 40.0).unwrap();
    let two = pool(&[counts(20), counts(31)], PoolOptions::default()).unwrap();
    let one = pool(&[counts(20)], PoolOptions::default()).unwrap();
    // A ratio without an upper end is kept, too.
    let endless = pool(&[Counts::full(20.0, 0.0, 5.0, 40.0).unwrap()], PoolOptions::default()).unwrap();
    let answers = [([1; 32], &two), ([2; 32], &one), ([3; 32], &endless)];
    keep_answers(&db, "first", answers.into_iter()).await.unwrap();
    let kept = |asked: u8, engine: &str, pooled: &pruvex_core::pooling::Pooled| KeptAnswer {
        asked: [asked; 32],
        engine: engine.to_owned(),
        pooled: pooled.clone(),
    };
    let first = [kept(1, "first", &two), kept(2, "first", &one), kept(3, "first", &endless)];
    assert_eq!(kept_answers(&db).await.unwrap(), first);
    keep_answers(&db, "second", [([2; 32], &two)].into_iter()).await.unwrap();
    drop_answers(&db, &[[1; 32], [9; 32]]).await.unwrap();
    assert_eq!(kept_answers(&db).await.unwrap(), [kept(2, "second", &two), kept(3, "first", &endless)]);
    // What a later version wrote otherwise is as if it were not there.
    db.execute_unprepared("UPDATE pooled_answer SET answer = '{\"later\": 1}' WHERE engine = 'first'").await.unwrap();
    assert_eq!(kept_answers(&db).await.unwrap(), [kept(2, "second", &two)]);
    database.drop().await.unwrap();
}
