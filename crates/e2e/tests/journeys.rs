//! Whole tasks in the real interface.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a failed step is a failed test")]

mod support;

use serde_json::{Value, json};
use support::Journey;

const ROW: &str = "[data-test=ladder-row]";
const NAME: &str = "[data-test=ladder-row] .test-link";

/// An author does the whole main job once: reads the ladder, asks another question, writes a test, enters studies,
/// and reads what a result means.
#[tokio::test]
async fn from_the_ladder_to_a_new_test_and_its_answer() {
    let journey = Journey::start().await;
    read_the_ladder(&journey).await;
    write_a_test(&journey).await;
    enter_studies(&journey).await;
    journey.end().await;
}

async fn read_the_ladder(journey: &Journey) {
    journey.open("/").await;
    journey.until(ROW, |rows| rows.len() == 6).await;
    let names = journey.texts(NAME).await;
    assert_eq!(names[5], "Square wrist ratio");
    journey.until_says(ROW, "not studied").await;
    journey.until(&format!("{ROW} .sample-mark"), |marks| marks.len() == 5).await;
    journey.until_says("[role=note]", "not a diagnosis").await;

    // The same figures as the API's, in the words of the screen.
    let rows = journey.api("GET", "/api/v1/tests?region=hand_wrist", json!({}), Value::Null).await;
    let first = &rows[0]["summary"];
    let question = json!({ "pre_test": 0.35, "tests": [{ "key": "a", "lr_positive": first["lr_positive"] }] });
    let answers = journey.api("POST", "/api/v1/likelihood/answers", json!({}), question).await;
    let expected = (100.0 * answers[0]["after_positive"]["estimate"].as_f64().unwrap()).round();
    journey.until(&format!("{ROW} .raises b"), |cells| cells[0] == format!("{expected}\u{202f}%")).await;

    journey.fill("[data-test=search] input", "tap TEST").await;
    journey.until_address("search=tap").await;
    journey.until(NAME, |names| names == ["Nerve tapping at the wrist crease"]).await;
    journey.open("/catalogue?sort=name&reverse=true&pretest=20").await;
    journey.until(NAME, |names| names.first().is_some_and(|name| name.starts_with("Wrist flexion"))).await;
    let before = journey.text(&format!("{ROW} .raises b")).await;
    journey.fill("[data-test=pretest]", "60").await;
    journey.until_address("pretest=60").await;
    journey.until(&format!("{ROW} .raises b"), |cells| cells[0] != before).await;
    journey.until_says(".crowd", "600 have the condition").await;
}

async fn write_a_test(journey: &Journey) {
    journey.click("[data-test=new-test]").await;
    journey.click("[data-test=save-sheet]").await;
    journey.until_says("[data-test=form-failure]", "fields need attention").await;
    journey.until_says("[data-test=name]", "This field is empty").await;
    journey.fill("[data-test=name] input", "Nerve tapping AT the wrist crease").await;
    journey.fill("[data-test=finding] textarea", "Weaker than the other side").await;
    choose_purpose(journey).await;
    journey.click("[data-test=save-sheet]").await;
    journey.until_says("[data-test=name]", "Another test already has this name").await;
    journey.fill("[data-test=name] input", "Thumb lift against resistance").await;
    journey.click("[data-test=save-sheet]").await;
    journey.until_says("h1", "Thumb lift against resistance").await;
    journey.until_address("pretest=60").await;
    journey.until_says(".studies", "Unknown is not the same as useless").await;
}

async fn choose_purpose(journey: &Journey) {
    journey.click("[data-test=purpose] .v-field").await;
    journey.click(".v-overlay-container .v-list-item:nth-of-type(3)").await;
}

async fn type_cells(journey: &Journey, cells: [(&str, &str); 4]) {
    for (cell, value) in cells {
        journey.fill(&format!("[data-test=cell-{cell}]"), value).await;
    }
}

async fn enter_studies(journey: &Journey) {
    journey.click("[data-test=add-study]").await;
    type_cells(journey, [("tp", "-3"), ("fp", "0"), ("fn", "5"), ("tn", "24")]).await;
    journey.until_says("#count-faults", "not a number of people").await;
    journey.fill("[data-test=cell-tp]", "20").await;
    // 20/25 and 24/24: the live answer says what zero false positives still allow.
    journey.until_says("[data-test=live]", "14\u{202f}% false positives are still compatible").await;
    journey.until_says("[data-test=live] [data-test=measure-sensitivity]", "80\u{202f}%").await;
    journey.click("[data-test=save-study]").await;
    journey.until_says("[data-test=study-dialog]", "This field is empty").await;
    journey.fill("[data-test=reference] textarea", "First report").await;
    journey.click("[data-test=save-study]").await;
    journey.until_says("[data-test=pooled]", "The one study").await;

    journey.click("[data-test=add-study]").await;
    journey.fill("[data-test=reference] textarea", "Second report").await;
    type_cells(journey, [("tp", "31"), ("fp", "9"), ("fn", "12"), ("tn", "40")]).await;
    journey.click("[data-test=save-study]").await;
    journey.until_says("[data-test=pooled]", "too few for a correlation").await;
    journey.until("[data-test=study-row]", |rows| rows.len() == 2).await;
    journey.until(".sample-mark", <[String]>::is_empty).await;

    journey.click("[data-test=study-row]:nth-child(2) [data-test=edit-study]").await;
    journey.fill("[data-test=cell-fp]", "1").await;
    journey.click("[data-test=save-study]").await;
    journey.until_says("[data-test=study-row]:nth-child(2)", "40 of 41").await;
    journey.click("[data-test=undo]").await;
    journey.until_says("[data-test=study-row]:nth-child(2)", "40 of 49").await;

    let answer = journey.text("[data-test=after-positive]").await;
    journey.click("[data-test=study-row]:nth-child(1) [data-test=remove-study]").await;
    journey.until("[data-test=study-row]", |rows| rows.len() == 1).await;
    journey.until("[data-test=after-positive]", |now| now != [answer.as_str()]).await;
    journey.click("[data-test=undo]").await;
    journey.until("[data-test=study-row]", |rows| rows.len() == 2).await;
    journey.until("[data-test=after-positive]", |now| now == [answer.as_str()]).await;
}

/// Two people edit one sheet: the second is told, keeps every word, compares, and decides.
#[tokio::test]
async fn a_conflict_keeps_both_texts() {
    let journey = Journey::start().await;
    journey.open("/catalogue?search=square").await;
    journey.click(NAME).await;
    journey.click("[data-test=edit-sheet]").await;
    journey.fill("[data-test=finding] textarea", "Mine: 0.72 or more").await;

    let rows = journey.api("GET", "/api/v1/tests?search=square", json!({}), Value::Null).await;
    let path = format!("/api/v1/tests/{}", rows[0]["id"].as_str().unwrap());
    let mut theirs = journey.api("GET", &path, json!({}), Value::Null).await;
    for field in ["id", "version", "sample"] {
        theirs.as_object_mut().unwrap().remove(field);
    }
    theirs["positive_finding"] = json!("Theirs: 0.70 or more");
    theirs["patient_position"] = json!("Theirs: standing");
    journey.api("PUT", &path, json!({ "If-Match": "\"1\"" }), theirs).await;

    journey.click("[data-test=save-sheet]").await;
    journey.until_says("[data-test=conflict]", "Mine: 0.72 or more").await;
    journey.until_says("[data-test=conflict]", "Theirs: 0.70 or more").await;
    // Take the position that was saved meanwhile, keep my finding.
    journey.until("[data-test=conflict] .field", |fields| fields.len() == 2).await;
    journey.click("[data-test=conflict] [data-test=take-patient_position]").await;
    journey.click("[data-test=settle]").await;
    journey.until_says(".sheet", "Mine: 0.72 or more").await;
    journey.until_says(".sheet", "Theirs: standing").await;
    let saved = journey.api("GET", &path, json!({}), Value::Null).await;
    assert_eq!(saved["version"], 3);
    journey.end().await;
}

/// The database goes away while somebody types: the page says so, loses nothing, and goes on by itself.
#[tokio::test]
async fn an_outage_loses_nothing() {
    let journey = Journey::start().await;
    journey.open("/tests/new").await;
    journey.fill("[data-test=name] input", "Written during an outage").await;
    journey.fill("[data-test=finding] textarea", "Any").await;
    choose_purpose(&journey).await;
    journey.database.pause().await.unwrap();
    journey.click("[data-test=save-sheet]").await;
    journey.until_says("[role=alert]", "The database does not answer").await;
    let name = journey.browser.execute("return document.querySelector('[data-test=name] input').value", vec![]).await;
    assert_eq!(name.unwrap(), "Written during an outage");
    journey.database.resume().await.unwrap();
    journey.until(".outage", <[String]>::is_empty).await;
    journey.click("[data-test=save-sheet]").await;
    journey.until_says("h1", "Written during an outage").await;
    journey.end().await;
}
