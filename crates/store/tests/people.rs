//! Accounts, invitations, sessions and throttling as time passes; the clock is turned by changing the rows.

use crate::support::database;
use pruvex_core::people::Role;
use pruvex_store::people::{
    create_account, create_invitation, create_session, end_session, find_invitation, find_login, find_session,
    forget_attempts, has_accounts, list_accounts, list_attempts, list_invitations, note_attempt, revoke_invitation,
    set_password, update_account, use_invitation,
};
use pruvex_store::{ConnectionTrait, StoreError};

#[tokio::test]
async fn a_session_ends_for_idleness_for_age_and_with_the_account() {
    let (database, db) = database().await;
    let admin = create_account(&db, "Admin", "A", Role::Administrator, Some("hash".to_owned())).await.unwrap();
    let person = create_account(&db, "M.Keller", "M. Keller", Role::Author, Some("hash".to_owned())).await.unwrap();
    let turn = async |sql: &str| db.execute_unprepared(sql).await.unwrap();
    let (one, two) = ([1; 32], [2; 32]);
    create_session(&db, one, person.id).await.unwrap();
    create_session(&db, two, person.id).await.unwrap();
    assert_eq!(find_session(&db, one).await.unwrap().unwrap().login, "m.keller");
    assert!(find_session(&db, [3; 32]).await.unwrap().is_none());

    // Six idle days are forgiven and begin anew with the request; eight are not.
    turn("UPDATE session SET last_seen_at = now() - interval '6 days'").await;
    assert!(find_session(&db, one).await.unwrap().is_some());
    turn("UPDATE session SET last_seen_at = last_seen_at - interval '2 days'").await;
    assert!(find_session(&db, one).await.unwrap().is_some());
    assert!(find_session(&db, two).await.unwrap().is_none());
    turn("UPDATE session SET last_seen_at = now(), expires_at = now() - interval '1 second'").await;
    assert!(find_session(&db, one).await.unwrap().is_none());

    create_session(&db, one, person.id).await.unwrap();
    end_session(&db, one).await.unwrap();
    assert!(find_session(&db, one).await.unwrap().is_none());
    create_session(&db, one, person.id).await.unwrap();
    create_session(&db, two, person.id).await.unwrap();
    set_password(&db, person.id, "other".to_owned(), two).await.unwrap();
    assert!(find_session(&db, one).await.unwrap().is_none(), "a new password ends the other sessions");
    assert!(find_session(&db, two).await.unwrap().is_some());
    let ended = update_account(&db, person.id, 1, Role::Author, true).await.unwrap();
    assert!(ended.disabled_at.is_some() && find_session(&db, two).await.unwrap().is_none());
    assert!(find_login(&db, "m.keller").await.unwrap().is_none());
    let last = update_account(&db, admin.id, 1, Role::Learner, false).await.unwrap_err();
    assert!(matches!(&last, StoreError::Fields(errors) if errors[0].field == "role"), "{last}");
    database.drop().await.unwrap();
}

#[tokio::test]
async fn an_invitation_serves_once_and_for_a_week() {
    let (database, db) = database().await;
    assert!(!has_accounts(&db).await.unwrap());
    let open = create_invitation(&db, [7; 32], Role::Learner, "group 4", None).await.unwrap();
    assert_eq!(find_invitation(&db, [7; 32]).await.unwrap().unwrap(), open);
    assert!(use_invitation(&db, open.id).await.unwrap());
    assert!(!use_invitation(&db, open.id).await.unwrap(), "twice is once too often");
    assert!(find_invitation(&db, [7; 32]).await.unwrap().is_none());

    let second = create_invitation(&db, [8; 32], Role::Author, "", None).await.unwrap();
    let third = create_invitation(&db, [9; 32], Role::Author, "", None).await.unwrap();
    let listed: Vec<_> = list_invitations(&db).await.unwrap().into_iter().map(|it| it.id).collect();
    assert_eq!(listed, [third.id, second.id]);
    revoke_invitation(&db, second.id).await.unwrap();
    assert!(matches!(revoke_invitation(&db, second.id).await, Err(StoreError::NotFound { .. })));
    db.execute_unprepared("UPDATE invitation SET expires_at = now() - interval '1 second'").await.unwrap();
    assert!(list_invitations(&db).await.unwrap().is_empty() && !use_invitation(&db, third.id).await.unwrap());
    database.drop().await.unwrap();
}

#[tokio::test]
async fn failures_count_for_a_quarter_of_an_hour_by_login_and_by_address() {
    let (database, db) = database().await;
    for (login, address) in [("Keller", "a"), ("keller ", "a"), ("other", "a"), ("keller", "b")] {
        note_attempt(&db, login, address).await.unwrap();
    }
    let counted = async |login: &str, address: &str| {
        let attempts = list_attempts(&db, login, address, 9).await.unwrap();
        [attempts.iter().filter(|attempt| attempt.same_login).count(), attempts.len()]
    };
    assert_eq!(counted("KELLER", "a").await, [2, 3]);
    assert_eq!(counted("keller", "b").await, [1, 1]);
    forget_attempts(&db, "keller", "a").await.unwrap();
    assert_eq!(counted("keller", "a").await, [0, 1]);
    db.execute_unprepared("UPDATE sign_in_failure SET at = now() - interval '16 minutes'").await.unwrap();
    assert_eq!(counted("other", "a").await, [0, 0]);
    database.drop().await.unwrap();
}

#[tokio::test]
async fn a_sign_in_name_is_one_person_whatever_its_case() {
    let (database, db) = database().await;
    let first = create_account(&db, "M.Keller", "M. Keller", Role::Author, None).await.unwrap();
    let twin = create_account(&db, " m.KELLER", "Other", Role::Author, None).await.unwrap_err();
    assert!(matches!(&twin, StoreError::Fields(errors) if errors[0].field == "login"), "{twin}");
    let (found, hash) = find_login(&db, " M.KELLER ").await.unwrap().unwrap();
    assert_eq!((found.id, hash), (first.id, None));
    assert!(!has_accounts(&db).await.unwrap(), "an account of the demonstration is nobody to sign in as");
    let stale = update_account(&db, first.id, 9, Role::Author, false).await.unwrap_err();
    assert!(matches!(stale, StoreError::Conflict { current: 1, .. }), "{stale}");
    create_account(&db, "a.first", "A. First", Role::Learner, None).await.unwrap();
    let names: Vec<String> = list_accounts(&db).await.unwrap().into_iter().map(|account| account.name).collect();
    assert_eq!(names, ["A. First", "M. Keller"]);
    database.drop().await.unwrap();
}
