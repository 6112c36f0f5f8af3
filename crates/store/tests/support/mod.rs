//! A migrated database of its own, and records to put in it.
#![allow(dead_code, reason = "each test file uses its part")]

use pruvex_core::catalogue::{Sheet, SheetInput};
use pruvex_core::evidence::{AccuracyInput, AccuracyResult, Study, StudySetup};
use pruvex_store::history::Act;
use pruvex_store::{Connections, DatabaseConnection, connect, migrate};
use pruvex_testkit::TestDatabase;

/// By nobody in particular.
pub const ACT: Act = Act { action: "created", comment: "", by: None };

pub async fn database() -> (TestDatabase, DatabaseConnection) {
    let database = TestDatabase::create().await.unwrap();
    migrate(&database.url).await.unwrap();
    let db = connect(&database.url, Connections::Reading).await.unwrap();
    (database, db)
}

pub fn sheet(name: &str, aliases: &[&str]) -> Sheet {
    let text = str::to_owned;
    let input = SheetInput {
        name: text(name),
        aliases: aliases.iter().map(|alias| text(alias)).collect(),
        region: text("hand_wrist"),
        purpose: text("strength"),
        condition: text("Thumb weakness"),
        positive_finding: text("Weaker"),
        ..SheetInput::default()
    };
    Sheet::check(&input).unwrap()
}

pub fn study(reference: &str) -> Study {
    Study {
        reference_id: None,
        reference: reference.to_owned(),
        setup: StudySetup::default(),
        population: String::new(),
        note: String::new(),
    }
}

pub fn result() -> AccuracyResult {
    let [tp, fp, fn_, tn] = [20.0, 4.0, 5.0, 24.0].map(Some);
    let page = "Table 2, page 5".to_owned();
    AccuracyResult::check(&AccuracyInput { page, tp, fp, fn_, tn, ..AccuracyInput::default() }).unwrap()
}
