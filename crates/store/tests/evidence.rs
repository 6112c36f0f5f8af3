//! Results and their studies: versions, deletion and restoring, who counts once, and the database's own guards.

use crate::support::{ACT, database, result, sheet, study};
use pruvex_core::accuracy::{Counts, RawCounts};
use pruvex_core::catalogue::Step;
use pruvex_core::evidence::{AccuracyResult, Agreement, AgreementInput, FiguresInput, WhyOut, left_out};
use pruvex_core::people::Role;
use pruvex_core::{ResultId, StudyId, TestId};
use pruvex_store::catalogue::{create_test, step_test};
use pruvex_store::evidence::{
    OfStudy, ResultCandidate, Seen, create_agreement, create_result, get_studies, list_candidates, list_results,
    set_agreement_deleted, set_result_deleted, studies_published_as, update_result, update_study,
};
use pruvex_store::history::{Act, Kind, list_revisions};
use pruvex_store::people::create_account;
use pruvex_store::{ConnectionTrait, DatabaseConnection, StoreError, TransactionTrait};

async fn known(db: &DatabaseConnection, id: StudyId) -> OfStudy {
    let record = get_studies(db, [id]).await.unwrap().remove(&id).unwrap();
    OfStudy::Known { id, version: record.version, study: record.study }
}

#[tokio::test]
async fn what_somebody_entered_waits_for_another_persons_sign_off_and_a_correction_waits_again() {
    let (database, db) = database().await;
    let person = async |login: &str, role| create_account(&db, login, login, role, None).await.unwrap().id;
    let (author, reader) = (person("author", Role::Author).await, person("reader", Role::SecondReader).await);
    let by = |action: &'static str, who| Act::of(action, Some(who));
    let test = create_test(&db, &sheet("Thumb lift", &[]), false, by("created", author)).await.unwrap().id;
    let brought = create_result(&db, test, &OfStudy::New(study("Brought")), &result(), ACT).await.unwrap();
    let own = OfStudy::New(study("Typed"));
    let typed = create_result(&db, test, &own, &result(), by("created", author)).await.unwrap();
    let seen = async || -> Vec<ResultId> {
        let seen = list_results(&db, &[test], Seen::SignedOff).await.unwrap();
        assert_eq!(list_candidates(&db, Some(&[test]), Seen::SignedOff).await.unwrap().len(), seen.len());
        seen.into_iter().map(|it| it.id).collect()
    };
    assert_eq!(seen().await, [brought.id], "what nobody here entered");
    let sign_off = async |version: i32| {
        let transaction = db.begin().await.unwrap();
        step_test(&transaction, test, version, Step::Submit, by("submit", author)).await.unwrap();
        step_test(&transaction, test, version + 1, Step::SignOff, by("sign_off", reader)).await.unwrap();
        transaction.commit().await.unwrap();
    };
    sign_off(1).await;
    assert_eq!(seen().await, [brought.id, typed.id]);
    let fewer = RawCounts { tn: Some(9.0), fp: Some(1.0), ..RawCounts::default() };
    let corrected = AccuracyResult { counts: Counts::check(fewer).unwrap(), ..result() };
    update_result(&db, typed.id, 1, None, &corrected, by("edited", author)).await.unwrap();
    assert_eq!(seen().await, [brought.id], "what was signed off was another text");
    sign_off(3).await;
    assert_eq!(seen().await, [brought.id, typed.id], "handed in again as it stood");
    database.drop().await.unwrap();
}

#[tokio::test]
async fn every_change_raises_the_version_and_stale_ones_are_refused() {
    let (database, db) = database().await;
    let test = create_test(&db, &sheet("Thumb lift", &[]), false, ACT).await.unwrap().id;
    let first = create_result(&db, test, &OfStudy::New(study("First")), &result(), ACT).await.unwrap();
    let second = create_result(&db, test, &OfStudy::New(study("Second")), &result(), ACT).await.unwrap();
    let raw = RawCounts { tn: Some(9.0), fp: Some(1.0), ..RawCounts::default() };
    let one_armed = AccuracyResult { counts: Counts::check(raw).unwrap(), ..result() };
    let saved = update_result(&db, first.id, 1, None, &one_armed, ACT).await.unwrap();
    assert_eq!((saved.version, saved.study_id, &saved.result), (2, first.study_id, &one_armed));
    let stale = update_result(&db, first.id, 1, None, &result(), ACT).await.unwrap_err();
    assert!(matches!(stale, StoreError::Conflict { what: "result", current: 2 }));
    assert!(matches!(set_result_deleted(&db, first.id, 1, true, ACT).await, Err(StoreError::Conflict { .. })));

    let deleted = set_result_deleted(&db, first.id, 2, true, ACT).await.unwrap();
    assert_eq!(list_results(&db, &[test], Seen::All).await.unwrap(), std::slice::from_ref(&second));
    assert!(matches!(set_result_deleted(&db, first.id, 3, true, ACT).await, Err(StoreError::NotFound { .. })));
    assert!(matches!(set_result_deleted(&db, second.id, 1, false, ACT).await, Err(StoreError::NotFound { .. })));
    let restored = set_result_deleted(&db, first.id, deleted.version, false, ACT).await.unwrap();
    assert_eq!((restored.version, &restored.result), (4, &one_armed));
    let order: Vec<_> = list_results(&db, &[test], Seen::All).await.unwrap().into_iter().map(|it| it.id).collect();
    assert_eq!(order, [first.id, second.id], "a restored result stands where it stood");
    database.drop().await.unwrap();
}

#[tokio::test]
async fn a_study_comes_and_goes_with_its_results() {
    let (database, db) = database().await;
    let test = create_test(&db, &sheet("Thumb lift", &[]), false, ACT).await.unwrap().id;
    let first = create_result(&db, test, &OfStudy::New(study("First")), &result(), ACT).await.unwrap();
    let of = known(&db, first.study_id).await;
    let rows = ["40", "9", "6", "45"].map(str::to_owned);
    let rows = rows.chunks(2).map(<[String]>::to_vec).collect();
    let figures = FiguresInput::Table { rows, weights: Default::default() };
    let agreement = Agreement::check(&AgreementInput { figures, ..AgreementInput::default() }).unwrap();
    let rated = create_agreement(&db, test, &of, &agreement, ACT).await.unwrap();
    assert_eq!(rated.study_id, first.study_id);
    let live = async || studies_published_as(&db, Err(" first ")).await.unwrap().len();
    set_result_deleted(&db, first.id, 1, true, ACT).await.unwrap();
    assert_eq!(live().await, 1, "an agreement result is of it still");
    set_agreement_deleted(&db, rated.id, 1, true, ACT).await.unwrap();
    assert_eq!(live().await, 0);
    let actions = list_revisions(&db, Kind::Study, first.study_id).await.unwrap().len();
    set_result_deleted(&db, first.id, 2, false, ACT).await.unwrap();
    assert_eq!((live().await, actions), (1, 2));

    // Words of a study that was changed meanwhile do not overwrite it.
    let corrected = pruvex_core::evidence::Study { population: "Adults".to_owned(), ..study("First") };
    update_study(&db, first.study_id, 3, &corrected, ACT).await.unwrap();
    let stale = create_result(&db, test, &of, &result(), ACT).await.unwrap_err();
    assert!(matches!(stale, StoreError::Conflict { what: "study", current: 4 }), "{stale}");
    // A result that moves to another study leaves nothing behind.
    let moved = update_result(&db, first.id, 3, Some(&OfStudy::New(study("Second"))), &result(), ACT).await.unwrap();
    assert_ne!(moved.study_id, first.study_id);
    assert_eq!((live().await, list_results(&db, &[test], Seen::All).await.unwrap().len()), (0, 1));
    database.drop().await.unwrap();
}

#[tokio::test]
async fn nobody_counts_twice_in_a_pool() {
    let (database, db) = database().await;
    let test = create_test(&db, &sheet("Thumb lift", &[]), false, ACT).await.unwrap().id;
    let first = create_result(&db, test, &OfStudy::New(study("First")), &result(), ACT).await.unwrap();
    let strict = AccuracyResult {
        criterion: "Much weaker".to_owned(),
        counts: Counts::full(9.0, 0.0, 16.0, 28.0).unwrap(),
        ..result()
    };
    let of = known(&db, first.study_id).await;
    let second = create_result(&db, test, &of, &strict, ACT).await.unwrap();
    assert_eq!(second.study_id, first.study_id);
    // Of each result its true positives, and why the pool of its test does not take it.
    let pool = async || {
        let all = list_candidates(&db, Some(&[test]), Seen::All).await.unwrap();
        let of_test: Vec<_> = all.iter().map(ResultCandidate::of_test).collect();
        let why = left_out(&of_test, "Thumb weakness", "Thumb weakness");
        all.iter().map(|it| it.counts.cells()[0].unwrap()).zip(why).collect::<Vec<_>>()
    };
    let same = Some(WhyOut::SamePeople);
    assert_eq!(pool().await, [(20, None), (9, same)]);
    let chosen = AccuracyResult { preferred: true, ..strict.clone() };
    update_result(&db, second.id, 1, None, &chosen, ACT).await.unwrap();
    assert_eq!(pool().await, [(20, same), (9, None)]);
    // Another choice takes the first one back; so does one that returns.
    let back = AccuracyResult { preferred: true, ..result() };
    update_result(&db, first.id, 1, None, &back, ACT).await.unwrap();
    assert_eq!(pool().await, [(20, None), (9, same)]);
    let other = list_results(&db, &[test], Seen::All).await.unwrap().pop().unwrap();
    assert_eq!((other.id, other.version, other.result.preferred), (second.id, 3, false));
    // About another condition, or with other tests, it is another question; a condition that is new is added.
    let elsewhere = AccuracyResult { condition: "Thumb stiffness".to_owned(), ..strict };
    let record = create_result(&db, test, &OfStudy::New(study("Third")), &elsewhere, ACT).await.unwrap();
    assert_eq!(record.result.condition, "Thumb stiffness");
    let own = AccuracyResult { condition: "thumb WEAKNESS".to_owned(), ..result() };
    let own = create_result(&db, test, &OfStudy::New(study("Fourth")), &own, ACT).await.unwrap();
    assert_eq!(own.result.condition, "", "that of the sheet is not repeated");
    assert_eq!(pool().await, [(20, None), (9, same), (9, Some(WhyOut::OtherCondition)), (20, None)]);
    database.drop().await.unwrap();
}

#[tokio::test]
async fn a_result_needs_its_test_and_the_database_guards_its_cells() {
    let (database, db) = database().await;
    let nobody =
        create_result(&db, TestId::default(), &OfStudy::New(study("Orphan")), &result(), ACT).await.unwrap_err();
    assert!(matches!(nobody, StoreError::NotFound { what: "test", .. }));
    let test = create_test(&db, &sheet("Thumb lift", &[]), false, ACT).await.unwrap().id;
    create_result(&db, test, &OfStudy::New(study("First")), &result(), ACT).await.unwrap();
    for change in ["tp = -1", "tp = NULL", "tp = 0, fp = 0, fn = 0, tn = 0", "unit = 'knee'", "study_id = NULL"] {
        assert!(db.execute_unprepared(&format!("UPDATE accuracy_result SET {change}")).await.is_err(), "{change}");
    }
    assert!(db.execute_unprepared("UPDATE study SET reference = ''").await.is_err());
    assert!(db.execute_unprepared("DELETE FROM test").await.is_err(), "a test with results is not removed");
    assert!(db.execute_unprepared("DELETE FROM study").await.is_err(), "nor is a study");
    database.drop().await.unwrap();
}
