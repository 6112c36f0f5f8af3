//! What learners see while a sheet is being changed, and what a history keeps.

use crate::support::{ACT, database, sheet};
use pruvex_core::catalogue::{Sheet, Status, Step};
use pruvex_core::people::Role;
use pruvex_store::catalogue::{
    create_test, find_tests, get_published_test, get_test, list_tests, page_tests, restore_test, step_test,
    taught_texts, update_test,
};
use pruvex_store::history::{Act, Kind, count, list_revisions};
use pruvex_store::people::create_account;
use pruvex_store::{DatabaseConnection, StoreError, TransactionTrait};
use uuid::Uuid;

fn finding(text: &str) -> Sheet {
    Sheet { positive_finding: text.to_owned(), ..sheet("Thumb lift", &["Lift"]) }
}

async fn person(db: &DatabaseConnection, login: &str) -> Uuid {
    create_account(db, login, login, Role::SecondReader, None).await.unwrap().id
}

#[tokio::test]
async fn learners_go_on_reading_what_was_signed_off() {
    let (database, db) = database().await;
    let id = create_test(&db, &finding("Weaker"), false, ACT).await.unwrap().id;
    assert!(matches!(get_published_test(&db, id).await, Err(StoreError::NotFound { .. })));
    step_test(&db, id, 1, Step::Submit, ACT).await.unwrap();
    let signed = step_test(&db, id, 2, Step::SignOff, Act::of("sign_off", None)).await.unwrap();
    assert_eq!((signed.status, signed.published_version), (Status::Published, Some(3)));
    assert!(taught_texts(&db, &list_tests(&db).await.unwrap()).await.unwrap().is_empty(), "nothing differs yet");

    let edited = update_test(&db, id, 3, &finding("Gives way"), ACT).await.unwrap();
    assert_eq!((edited.status, edited.published_version), (Status::Draft, Some(3)));
    let seen = get_published_test(&db, id).await.unwrap();
    assert_eq!((seen.sheet.positive_finding.as_str(), seen.version, seen.status), ("Weaker", 3, Status::Published));
    assert_eq!(taught_texts(&db, &list_tests(&db).await.unwrap()).await.unwrap()[&id], seen);
    assert_eq!(get_test(&db, id).await.unwrap().sheet.positive_finding, "Gives way");
    // Nor do they find it by words that are only drafted.
    let found = async |text: &str, drafts: bool| find_tests(&db, text, None, drafts).await.unwrap().len();
    assert_eq!([found("gives way", true).await, found("gives way", false).await], [1, 0]);
    assert_eq!(
        [found("weaker", true).await, found("weaker", false).await, found("thumm lifft", false).await],
        [0, 1, 1]
    );

    let retired = step_test(&db, id, 4, Step::Retire, ACT).await.unwrap();
    assert!(matches!(get_published_test(&db, id).await, Err(StoreError::NotFound { .. })));
    let revived = step_test(&db, id, retired.version, Step::Revive, ACT).await.unwrap();
    assert!(revived.is_taught(), "what was signed off before is seen again");
    let back = restore_test(&db, id, revived.version, 1, ACT).await.unwrap();
    assert_eq!(back.sheet.positive_finding, "Weaker");
    let versions: Vec<i32> = list_revisions(&db, Kind::Test, id).await.unwrap().iter().map(|it| it.version).collect();
    assert_eq!(versions, [7, 6, 5, 4, 3, 2, 1]);
    assert_eq!((count(&db, Kind::Test).await.unwrap(), count(&db, Kind::Study).await.unwrap()), (1, 0));
    database.drop().await.unwrap();
}

#[tokio::test]
async fn nobody_signs_off_what_they_wrote() {
    let (database, db) = database().await;
    let (writer, reader) = (person(&db, "writer").await, person(&db, "reader2").await);
    let by = |action: &'static str, account: Uuid| Act { action, comment: "", by: Some(account) };
    let id = create_test(&db, &finding("Weaker"), false, by("created", writer)).await.unwrap().id;
    step_test(&db, id, 1, Step::Submit, by("submit", reader)).await.unwrap();
    let refused = step_test(&db, id, 2, Step::SignOff, by("sign_off", writer)).await.unwrap_err();
    assert!(matches!(&refused, StoreError::Fields(errors) if errors[0].message.contains("yourself")), "{refused}");
    let stale = step_test(&db, id, 1, Step::SignOff, by("sign_off", reader)).await.unwrap_err();
    assert!(matches!(stale, StoreError::Conflict { current: 2, .. }), "{stale}");
    step_test(&db, id, 2, Step::SignOff, by("sign_off", reader)).await.unwrap();
    let history = list_revisions(&db, Kind::Test, id).await.unwrap();
    let told: Vec<(&str, Option<&str>)> = history.iter().map(|it| (it.action.as_str(), it.by.as_deref())).collect();
    assert_eq!(told, [("sign_off", Some("reader2")), ("submit", Some("reader2")), ("created", Some("writer"))]);
    database.drop().await.unwrap();
}

#[tokio::test]
async fn a_large_catalogue_is_read_in_portions_and_none_is_missed() {
    let (database, db) = database().await;
    for n in 0..260 {
        create_test(&db, &sheet(&format!("Test {n:03}"), &[]), false, ACT).await.unwrap();
    }
    let first = page_tests(&db, None).await.unwrap();
    let second = page_tests(&db, first.last().map(|test| test.id)).await.unwrap();
    let third = page_tests(&db, second.last().map(|test| test.id)).await.unwrap();
    assert_eq!((first.len(), second.len(), third.len()), (250, 10, 0));
    let names: Vec<String> = list_tests(&db).await.unwrap().into_iter().map(|test| test.sheet.name).collect();
    assert_eq!((names.len(), names[0].as_str(), names[259].as_str()), (260, "Test 000", "Test 259"));
    database.drop().await.unwrap();
}

#[tokio::test]
async fn two_who_change_the_same_tests_in_another_order_wait_and_do_not_block_each_other() {
    let (database, db) = database().await;
    let make = async |name: &str| create_test(&db, &sheet(name, &[]), false, ACT).await.unwrap().id;
    let (lift, press) = (make("Thumb lift").await, make("Thumb press").await);
    let both = |db: DatabaseConnection, order: [pruvex_core::TestId; 2]| async move {
        let transaction = db.begin().await.unwrap();
        for id in order {
            let record = get_test(&transaction, id).await.unwrap();
            update_test(&transaction, id, record.version, &record.sheet, ACT).await?;
            tokio::time::sleep(std::time::Duration::from_millis(100)).await;
        }
        transaction.commit().await.map_err(StoreError::from)
    };
    let (one, other) = tokio::join!(both(db.clone(), [lift, press]), both(db.clone(), [press, lift]));
    // Whoever came second read a version that is no longer the newest, and is told so.
    let conflict = |result: &Result<(), StoreError>| matches!(result, Err(StoreError::Conflict { .. }));
    assert!(one.is_ok() || other.is_ok(), "{one:?} {other:?}");
    assert!([one, other].iter().all(|result| result.is_ok() || conflict(result)));
    database.drop().await.unwrap();
}
