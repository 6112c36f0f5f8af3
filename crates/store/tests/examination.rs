//! Examinations on a real database: their labels, their way through versions, whose they are, and what lists find of them.

use crate::support::database;
use chrono::NaiveDate;
use pruvex_core::catalogue::Region;
use pruvex_core::examination::{Conclusion, ExaminationConduct, ExaminationOutcome, RepeatDue, examination_label};
use pruvex_core::people::Role;
use pruvex_core::plan::{ExaminationEnd, ExaminationPlan, ExaminationPlanInput};
use pruvex_store::examination::{
    ExaminationRecord, ExaminationState, ExaminationsAsked, ExaminationsWaiting, NewExamination, count_waiting,
    create_examination, get_examination, has_examinations, hold_examination, list_examinations, read_examinations,
    save_examination, set_examination_deleted, set_examination_shared,
};
use pruvex_store::people::create_account;
use pruvex_store::{DatabaseConnection, StoreError, TransactionTrait};
use serde_json::json;
use uuid::Uuid;

fn new(owner: Uuid, region: &str, title: &str) -> NewExamination {
    let input = json!({ "title": title, "region": region, "tests": [{ "test": Uuid::from_u128(1) }],
        "questions": [{ "condition": "Sore joint", "pre_test": 0.3, "reassure_below": 0.1, "treat_above": 0.7 }] });
    let input: ExaminationPlanInput = serde_json::from_value(input).unwrap();
    let plan = ExaminationPlan::check(&input).unwrap();
    NewExamination { owner, plan_id: Uuid::from_u128(7), plan_version: 2, plan, sample: false, patient: json!({}) }
}

fn outcome() -> ExaminationOutcome {
    ExaminationOutcome {
        screening: Vec::new(),
        stop: None,
        tests: Vec::new(),
        questions: Vec::new(),
        must_not_miss: Vec::new(),
        end: ExaminationEnd::Open,
        sample: false,
        engine: "test".to_owned(),
    }
}

async fn owners(db: &DatabaseConnection) -> [Uuid; 2] {
    let mut ids = [Uuid::nil(); 2];
    for (id, login) in ids.iter_mut().zip(["one", "two"]) {
        *id = create_account(db, login, login, Role::Author, None).await.unwrap().id;
    }
    ids
}

/// Finishes one with this conclusion; something is due on that day of January.
async fn finished(db: &DatabaseConnection, of: &ExaminationRecord, text: &str, day: Option<u32>) -> ExaminationRecord {
    let on = day.and_then(|day| NaiveDate::from_ymd_opt(2027, 1, day));
    let conduct = ExaminationConduct {
        conclusion: Conclusion { text: text.to_owned(), ..Conclusion::default() },
        repeats: on.map(|on| RepeatDue { on: Some(on), ..RepeatDue::default() }).into_iter().collect(),
        ..ExaminationConduct::default()
    };
    let held = hold_examination(db, of.owner, of.id, of.version).await.unwrap();
    save_examination(db, &held, json!({ "irritable": 1 }), &conduct, Some(&outcome())).await.unwrap()
}

#[tokio::test]
async fn a_label_comes_once_to_each_owner_and_nobody_else_finds_the_record() {
    let (database, db) = database().await;
    let [one, two] = owners(&db).await;
    assert!(!has_examinations(&db, one).await.unwrap());
    let mut labels = Vec::new();
    for _ in 0..3 {
        labels.push(create_examination(&db, new(one, "pelvis", "Standard"), 42).await.unwrap().label);
    }
    assert_eq!(labels[0], examination_label(42));
    assert!(labels[0] != labels[1] && labels[1] != labels[2] && labels[0] != labels[2], "{labels:?}");
    let theirs = create_examination(&db, new(two, "pelvis", "Standard"), 42).await.unwrap();
    assert_eq!(theirs.label, labels[0], "another owner may have the same");
    // Two that are begun at once do not find the same one free.
    let begin = async || {
        let transaction = db.begin().await.unwrap();
        let label = create_examination(&transaction, new(one, "pelvis", "Standard"), 42).await.unwrap().label;
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
        transaction.commit().await.unwrap();
        label
    };
    let (a, b) = tokio::join!(begin(), begin());
    assert!(a != b && !labels.contains(&a) && !labels.contains(&b), "{a} {b} {labels:?}");

    let gone = |it: Result<ExaminationRecord, StoreError>| matches!(it, Err(StoreError::NotFound { .. }));
    assert!(gone(get_examination(&db, one, theirs.id).await));
    assert!(gone(hold_examination(&db, one, theirs.id, 1).await));
    assert!(gone(set_examination_shared(&db, one, theirs.id, 1, true).await));
    assert!(gone(set_examination_deleted(&db, one, theirs.id, 1, true).await));
    let shared = set_examination_shared(&db, two, theirs.id, 1, true).await.unwrap();
    assert_eq!(get_examination(&db, one, theirs.id).await.unwrap(), shared);
    assert!(gone(hold_examination(&db, one, theirs.id, 2).await), "shared to read, not to write");
    assert!(matches!(hold_examination(&db, two, theirs.id, 1).await, Err(StoreError::Conflict { current: 2, .. })));
    let deleted = set_examination_deleted(&db, two, theirs.id, 2, true).await.unwrap();
    assert!(gone(get_examination(&db, two, theirs.id).await) && has_examinations(&db, two).await.unwrap());
    assert!(gone(set_examination_deleted(&db, two, theirs.id, deleted.version, true).await), "not twice");
    let back = set_examination_deleted(&db, two, theirs.id, deleted.version, false).await.unwrap();
    assert_eq!((back.shared_at, back.version), (None, 4));
    database.drop().await.unwrap();
}

#[tokio::test]
async fn lists_find_by_state_region_plan_and_words_with_the_most_overdue_first() {
    let (database, db) = database().await;
    let [one, two] = owners(&db).await;
    let mut records = Vec::new();
    for (nth, (region, title)) in
        [("pelvis", "Standard"), ("pelvis", "Standard"), ("neck", "100 % sure"), ("neck", "100 of them")]
            .into_iter()
            .enumerate()
    {
        records.push(create_examination(&db, new(one, region, title), nth as u64).await.unwrap());
    }
    create_examination(&db, new(two, "pelvis", "Standard"), 9).await.unwrap();
    finished(&db, &records[0], "Late", Some(20)).await;
    let early = finished(&db, &records[1], "Éarly_one", Some(3)).await;
    assert_eq!((early.version, &early.patient), (2, &json!({ "irritable": 1 })));
    finished(&db, &records[2], "Nothing due", None).await;

    let titles = async |asked: ExaminationsAsked<'_>, offset: u64, limit: u64| {
        let (rows, total) = list_examinations(&db, one, &asked, offset, limit).await.unwrap();
        (rows.into_iter().map(|it| it.concluded).collect::<Vec<_>>(), total)
    };
    let day = |n| NaiveDate::from_ymd_opt(2027, 1, n).unwrap();
    let waiting = |overdue, due, awaiting| ExaminationsWaiting { overdue, due, awaiting };
    assert_eq!(count_waiting(&db, one, day(4), day(20)).await.unwrap(), waiting(1, 1, 3));
    assert_eq!(count_waiting(&db, one, day(3), day(10)).await.unwrap(), waiting(0, 1, 3));
    assert_eq!(count_waiting(&db, two, day(4), day(20)).await.unwrap(), waiting(0, 0, 0));
    let state = |state| ExaminationsAsked { state, ..ExaminationsAsked::default() };
    assert_eq!(titles(state(ExaminationState::Due), 0, 9).await, (vec!["Éarly_one".to_owned(), "Late".to_owned()], 2));
    assert_eq!(titles(state(ExaminationState::Running), 0, 9).await, (vec![String::new()], 1));
    assert_eq!(titles(state(ExaminationState::Shared), 0, 9).await.1, 0);
    // The newest first; past the end there is nothing, and still all are counted.
    let newest = titles(state(ExaminationState::All), 0, 2).await;
    assert_eq!(newest, (vec![String::new(), "Nothing due".to_owned()], 4));
    assert_eq!(titles(state(ExaminationState::All), 9, 2).await, (Vec::new(), 4));
    let of = ExaminationsAsked {
        region: Some(Region::Neck),
        plan: Some(Uuid::from_u128(7)),
        ..ExaminationsAsked::default()
    };
    assert_eq!(titles(of, 0, 9).await.1, 2);
    // What a search means by % and _ are these signs.
    for (words, count) in
        [(vec!["standard", "sore"], 2), (vec!["100 %"], 1), (vec!["éarly_"], 1), (vec!["y_l"], 0), (vec!["\\"], 0)]
    {
        let asked = ExaminationsAsked { words: &words, ..ExaminationsAsked::default() };
        assert_eq!(titles(asked, 0, 9).await.1, count, "{words:?}");
    }
    let whole = read_examinations(&db, one, &state(ExaminationState::Finished), 0, 2).await.unwrap();
    assert_eq!(whole.iter().map(|it| it.outcome.as_ref()).collect::<Vec<_>>(), [Some(&outcome()); 2]);
    database.drop().await.unwrap();
}
