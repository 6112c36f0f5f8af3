//! Double extractions in the database: two places and no third, however many begin at once; all of a settlement or nothing.

use std::collections::BTreeMap;

use crate::support::{ACT, database, result, sheet, study};
use pruvex_core::TestId;
use pruvex_core::catalogue::{Region, Sheet};
use pruvex_core::evidence::{
    Appraisal, AppraisalInput, Aspect, Domain, DomainAppraisal, Extraction, ExtractionInput, Judgement, Study,
    StudySetup,
};
use pruvex_core::people::Role;
use pruvex_store::catalogue::create_test;
use pruvex_store::evidence::{
    BoardQuery, BoardRow, DoubleExtraction, NewDoubleExtraction, OfStudy, Progress, Seen, Settlement,
    ask_second_reading, create_double_extraction, create_result, get_double_extraction, give_up_extraction, list_board,
    list_both, list_results, put_appraisal, put_extraction, set_result_deleted, settle_double_extraction,
};
use pruvex_store::people::create_account;
use pruvex_store::{DatabaseConnection, StoreError, TransactionTrait};
use uuid::Uuid;

fn read(people: Option<f64>) -> Extraction {
    let setup = StudySetup { people, ..StudySetup::default() };
    Extraction { study: Study { setup, ..study("Sample report") }, result: result() }
}

async fn readers<const N: usize>(db: &DatabaseConnection) -> [Uuid; N] {
    let mut ids = [Uuid::nil(); N];
    for (number, id) in ids.iter_mut().enumerate() {
        let login = format!("reader{number}");
        *id = create_account(db, &login, &format!("Reader {number}"), Role::SecondReader, None).await.unwrap().id;
    }
    ids
}

async fn listed(db: &DatabaseConnection) -> (TestId, DoubleExtraction) {
    let test = create_test(db, &sheet("Thumb lift", &[]), false, ACT).await.unwrap().id;
    let (reference, asked) = ("Sample report", "All people");
    let new = NewDoubleExtraction { test_id: test, reference_id: None, reference, asked, sample: true };
    (test, create_double_extraction(db, new, None).await.unwrap())
}

/// One reader's text in a transaction of its own, as a request has it.
async fn put(
    db: &DatabaseConnection,
    id: Uuid,
    reader: Uuid,
    version: i32,
    read: &ExtractionInput,
    hand_in: bool,
) -> Result<DoubleExtraction, StoreError> {
    let transaction = db.begin().await?;
    let saved = put_extraction(&transaction, id, reader, version, read, hand_in).await?;
    transaction.commit().await?;
    Ok(saved)
}

#[tokio::test]
async fn two_places_stay_two_when_many_begin_at_once() {
    let (database, db) = database().await;
    let (_, double) = listed(&db).await;
    let accounts = readers::<5>(&db).await;
    let (draft, other) = (ExtractionInput::default(), read(None).written());
    let tries = accounts.map(|reader| put(&db, double.id, reader, 0, &draft, false));
    let [a, b, c, d, e] = tries;
    let (a, b, c, d, e) = tokio::join!(a, b, c, d, e);
    let answers = [a, b, c, d, e];
    assert_eq!(answers.iter().filter(|it| it.is_ok()).count(), 2);
    for refused in answers.iter().filter_map(|it| it.as_ref().err()) {
        assert!(matches!(refused, StoreError::Fields(errors) if errors[0].field == "extraction"), "{refused}");
    }
    let there = get_double_extraction(&db, double.id).await.unwrap();
    let [first, second] = [0, 1].map(|place| there.readings[place].account.unwrap());
    // The same reader twice at once, from two windows: one text is kept, the other is told.
    let (one, two) =
        tokio::join!(put(&db, double.id, first, 1, &draft, false), put(&db, double.id, first, 1, &other, false));
    let lost = [one, two].into_iter().filter_map(Result::err).collect::<Vec<_>>();
    assert!(matches!(lost.as_slice(), [StoreError::Conflict { what: "extraction", current: 2 }]), "{lost:?}");
    // A place that is given up is free for somebody else.
    give_up_extraction(&db, double.id, second, 1).await.unwrap();
    let third = accounts.into_iter().find(|it| ![first, second].contains(it)).unwrap();
    assert!(put(&db, double.id, third, 0, &draft, false).await.is_ok());
    let missing = give_up_extraction(&db, double.id, second, 1).await;
    assert!(matches!(missing, Err(StoreError::NotFound { what: "extraction", .. })));
    database.drop().await.unwrap();
}

#[tokio::test]
async fn a_settlement_that_is_refused_leaves_nothing_behind() {
    let (database, db) = database().await;
    let (test, double) = listed(&db).await;
    let [first, second] = readers(&db).await;
    put(&db, double.id, first, 0, &read(Some(60.0)).written(), true).await.unwrap();
    let both = put(&db, double.id, second, 0, &read(Some(70.0)).written(), true).await.unwrap();
    assert!(both.both().is_some());
    assert_eq!(list_both(&db, Some(Region::HandWrist)).await.unwrap(), [(read(Some(60.0)), read(Some(70.0)))]);
    assert!(list_both(&db, Some(Region::Neck)).await.unwrap().is_empty());

    // 53 people stand in the cells.
    let settle = async |people: f64, reason: &str| {
        let settled = read(Some(people));
        let reasons = BTreeMap::from([("study.setup.people".to_owned(), reason.to_owned())]);
        let of = OfStudy::New(settled.study.clone());
        let settlement = Settlement { of: &of, settled: &settled, reasons: &reasons, result_version: None };
        let transaction = db.begin().await.unwrap();
        let done = settle_double_extraction(&transaction, double.id, &settlement, first).await?;
        transaction.commit().await.unwrap();
        Ok::<_, StoreError>(done)
    };
    for (people, reason, field) in [(60.0, "", "reasons.study.setup.people"), (50.0, "Table 1", "study.setup.people")] {
        let refused = settle(people, reason).await.unwrap_err();
        assert!(matches!(&refused, StoreError::Fields(errors) if errors[0].field == field), "{refused:?}");
    }
    assert!(list_results(&db, &[test], Seen::All).await.unwrap().is_empty());
    assert!(get_double_extraction(&db, double.id).await.unwrap().settled.is_none());
    let done = settle(60.0, "Table 1").await.unwrap();
    assert_eq!(done.settled.unwrap().by.as_deref(), Some("Reader 0"));
    let result = list_results(&db, &[test], Seen::All).await.unwrap().remove(0);
    let seen = list_results(&db, &[test], Seen::SignedOff).await.unwrap();
    assert_eq!(seen, std::slice::from_ref(&result), "two people have read it, and nobody signed the sheet off");
    assert_eq!(
        (result.id, result.sample),
        (done.result_id.unwrap(), true),
        "what is read off a made-up report is made up"
    );
    database.drop().await.unwrap();
}

#[tokio::test]
async fn the_board_counts_every_live_result_once() {
    let (database, db) = database().await;
    let (test, _) = listed(&db).await;
    let [first, second] = readers(&db).await;
    let mut results = Vec::new();
    for number in 0..4 {
        let of = OfStudy::New(study(&format!("Report {number} of 100%")));
        results.push(create_result(&db, test, &of, &result(), ACT).await.unwrap());
    }
    let again = ask_second_reading(&db, results[0].id, None).await.unwrap();
    put(&db, again.id, second, 0, &read(None).written(), true).await.unwrap();
    set_result_deleted(&db, results[1].id, 1, true, ACT).await.unwrap();
    let board = async |query: BoardQuery| list_board(&db, &BoardQuery { limit: 10, ..query }).await.unwrap();
    let all = board(BoardQuery::default()).await;
    assert_eq!((all.counts, all.found, all.appraised), ([1, 2, 1, 0], 4, 0));
    assert_eq!(all.rows[0].progress, Progress::Twice, "what waits to be settled comes first");
    assert_eq!(all.rows.last().unwrap().progress, Progress::Unread);
    let page = list_board(&db, &BoardQuery { offset: 1, limit: 2, ..BoardQuery::default() }).await.unwrap();
    assert_eq!((page.rows.as_slice(), page.found), (&all.rows[1..3], 4));
    let search = |text: &str| BoardQuery { search: Some(text.to_owned()), ..BoardQuery::default() };
    for (text, found) in [("REPORT 2", 1), ("100%", 3), ("report_", 0), ("thumb LIFT", 4), ("sample rep", 1)] {
        assert_eq!(board(search(text)).await.found, found, "{text}");
    }
    // Who has handed in, and waits, has nothing to do there.
    put(&db, all.rows.last().unwrap().id.unwrap(), first, 0, &read(None).written(), true).await.unwrap();
    for (reader, found) in [(first, 3), (second, 4)] {
        assert_eq!(board(BoardQuery { next_for: Some(reader), ..BoardQuery::default() }).await.found, found);
    }
    database.drop().await.unwrap();
}

/// Every combination of filters must find what a plain look through the whole board finds, in the same order, page by page.
#[tokio::test]
async fn every_combination_of_filters_finds_what_a_look_through_the_board_finds() {
    let (database, db) = database().await;
    let [first, second] = readers(&db).await;
    let neck = Sheet { region: Region::Neck, ..sheet("Neck turn", &["Slow turn"]) };
    let thumb = create_test(&db, &sheet("Thumb lift", &["Lift"]), false, ACT).await.unwrap().id;
    let tests = [thumb, create_test(&db, &neck, false, ACT).await.unwrap().id];
    let mut results = Vec::new();
    for number in 0..6 {
        let of = OfStudy::New(study(&format!("Report {number}, {} people", ["few", "many"][number % 2])));
        results.push(create_result(&db, tests[number % 2], &of, &result(), ACT).await.unwrap());
    }
    for (number, test_id) in tests.into_iter().enumerate() {
        let (reference, asked) = (["To be read by many", "To be lifted"][number], "All people");
        let new = NewDoubleExtraction { test_id, reference_id: None, reference, asked, sample: false };
        create_double_extraction(&db, new, None).await.unwrap();
    }
    for result in &results[..3] {
        let again = ask_second_reading(&db, result.id, None).await.unwrap();
        put(&db, again.id, second, 0, &read(None).written(), result.id != results[2].id).await.unwrap();
    }
    let risk = Some(Judgement::Low);
    let domains = BTreeMap::from([(Domain::IndexTest, DomainAppraisal { risk, ..DomainAppraisal::default() })]);
    let appraisal = Appraisal::check(Aspect::Accuracy, &AppraisalInput { domains }).unwrap();
    for result in &results[1..4] {
        put_appraisal(&db, result.study_id, Aspect::Accuracy, 0, &appraisal, ACT).await.unwrap();
    }

    let all = list_board(&db, &BoardQuery { limit: 100, ..BoardQuery::default() }).await.unwrap().rows;
    assert_eq!(all.len(), 8);
    let names = ["thumb lift lift", "neck turn slow turn"];
    let mut tried = 0;
    for region in [None, Some(Region::HandWrist), Some(Region::Neck), Some(Region::Hip)] {
        for search in [None, Some("many"), Some("lift"), Some("TURN"), Some("report 3"), Some("zzz")] {
            for next_for in [None, Some(first), Some(second)] {
                let own = |row: &&BoardRow| {
                    let at = tests.iter().position(|id| *id == row.test_id).unwrap();
                    let there = region.is_none_or(|it| it == [Region::HandWrist, Region::Neck][at]);
                    let text = format!("{} {}", names[at], row.reference.to_lowercase());
                    let said = search.is_none_or(|it| text.contains(&it.to_lowercase()));
                    let handed_in = |who: Uuid| row.readers.iter().any(|it| it.account == Some(who) && it.done);
                    let others = |who: Uuid| {
                        row.id.map_or(0, |_| row.readers.iter().filter(|it| it.account != Some(who)).count())
                    };
                    let next = next_for.is_none_or(|who| {
                        row.progress == Progress::Twice
                            || row.progress != Progress::Settled
                                && !(row.id.is_some() && handed_in(who))
                                && others(who) < 2
                    });
                    there && said && next
                };
                for progress in
                    [None, Some(Progress::Unread), Some(Progress::Once), Some(Progress::Twice), Some(Progress::Settled)]
                {
                    for appraised in [None, Some(true), Some(false)] {
                        let text = search.map(str::to_owned);
                        let query =
                            BoardQuery { progress, appraised, region, search: text, next_for, offset: 1, limit: 2 };
                        let found = list_board(&db, &query).await.unwrap();
                        let wanted: Vec<&BoardRow> = all
                            .iter()
                            .filter(own)
                            .filter(|row| progress.is_none_or(|it| it == row.progress))
                            .filter(|row| appraised.is_none_or(|it| it == row.appraised))
                            .collect();
                        assert_eq!(found.found, wanted.len() as u64, "{query:?}");
                        let page: Vec<&BoardRow> = wanted.into_iter().skip(1).take(2).collect();
                        assert_eq!(found.rows.iter().collect::<Vec<_>>(), page, "{query:?}");
                        let counted = Progress::ALL
                            .map(|it| all.iter().filter(own).filter(|row| row.progress == it).count() as u64);
                        assert_eq!(found.counts, counted, "{query:?}");
                        tried += 1;
                    }
                }
            }
        }
    }
    assert_eq!(tried, 4 * 6 * 3 * 5 * 3);
    database.drop().await.unwrap();
}
