//! Whole tasks in the real interface.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a failed step is a failed test")]

mod support;

use fantoccini::Locator;
use pruvex_testkit::Moment;
use rust_xlsxwriter::Workbook;
use serde_json::{Value, json};
use support::Journey;

const ROW: &str = "[data-test=ladder-row]";
const NAME: &str = "[data-test=ladder-row] .test-link";

/// Keys as WebDriver writes them.
const ENTER: &str = "\u{e007}";
const ESCAPE: &str = "\u{e00c}";
const TAB: &str = "\u{e004}";
const DOWN: &str = "\u{e015}";

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
    journey.until(ROW, |rows| rows.len() == 8).await;
    let names = journey.texts(NAME).await;
    assert_eq!(names[7], "Square wrist ratio");
    journey.until_says(ROW, "looked for, nothing usable").await;
    journey.until(&format!("{ROW} .sample-mark"), |marks| marks.len() == 8).await;
    journey.until_says("[role=note]", "not a diagnosis").await;

    // The same figures as the API's, in the words of the screen.
    let rows = journey.api("GET", "/api/v1/tests?region=hand_wrist", json!({}), Value::Null).await;
    let first = json!({ "test": rows[0]["id"], "figures": rows[0]["figures"] });
    let question = json!({ "pre_test": 0.35, "tests": [first] });
    let answers = journey.api("POST", "/api/v1/likelihood/answers", json!({}), question).await;
    let expected = (100.0 * answers[0]["after_positive"]["estimate"].as_f64().unwrap()).round();
    journey.until(&format!("{ROW} .raises b"), |cells| cells.first() == Some(&format!("{expected}\u{202f}%"))).await;

    journey.fill("[data-test=search] input", "tap TEST").await;
    journey.until_address("search=tap").await;
    journey.until(NAME, |names| names == ["Nerve tapping at the wrist crease"]).await;
    journey.open("/catalogue?sort=name&reverse=true&pretest=20").await;
    journey.until(NAME, |names| names.first().is_some_and(|name| name.starts_with("Wrist flexion"))).await;
    let before = journey.text(&format!("{ROW} .raises b")).await;
    journey.fill("[data-test=pretest]", "60").await;
    journey.until_address("pretest=60").await;
    journey.until(&format!("{ROW} .raises b"), |cells| cells.first().is_some_and(|now| *now != before)).await;
    journey.until_says(".crowd", "600 have the condition").await;
}

async fn write_a_test(journey: &Journey) {
    journey.click("[data-test=new-test]").await;
    journey.click("[data-test=save-sheet]").await;
    journey.until_says("[data-test=form-failure]", "fields need attention").await;
    journey.until_says("[data-test=name]", "This field is empty").await;
    journey.fill("[data-test=name] input", "Nerve tapping AT the wrist crease").await;
    journey.fill("[data-test=positive_finding] textarea", "Weaker than the other side").await;
    choose_purpose(journey).await;
    journey.click("[data-test=save-sheet]").await;
    journey.until_says("[data-test=name]", "Another test already has this name").await;
    journey.fill("[data-test=name] input", "Thumb lift against resistance").await;
    journey.click("[data-test=save-sheet]").await;
    journey.until_says("h1", "Thumb lift against resistance").await;
    journey.until_address("pretest=60").await;
    journey.until_says(".results", "Unknown accuracy does not mean poor accuracy").await;
}

async fn choose_purpose(journey: &Journey) {
    journey.click("[data-test=purpose] .v-field").await;
    journey.click(".v-overlay-container .v-list-item:nth-of-type(3)").await;
    // Nobody presses a button while the list still stands over the form.
    journey.until(".v-overlay-container .v-list-item", <[String]>::is_empty).await;
}

async fn type_cells(journey: &Journey, cells: [(&str, &str); 4]) {
    for (cell, value) in cells {
        journey.fill(&format!("[data-test=cell-{cell}]"), value).await;
    }
}

async fn enter_studies(journey: &Journey) {
    journey.click("[data-test=add-result]").await;
    type_cells(journey, [("tp", "-3"), ("fp", "0"), ("fn", "5"), ("tn", "24")]).await;
    journey.until_says("#count-faults", "not a number of people").await;
    journey.fill("[data-test=cell-tp]", "20").await;
    // 20/25 and 24/24: the live answer says what zero false positives still allow.
    journey.until_says("[data-test=live]", "14\u{202f}% false positives are still compatible").await;
    journey.until_says("[data-test=live] [data-test=measure-sensitivity]", "80\u{202f}%").await;
    journey.click("[data-test=save-result]").await;
    journey.until_says("[data-test=result-dialog]", "This field is empty").await;
    journey.fill("[data-test=reference] textarea", "First report").await;
    journey.click("[data-test=save-result]").await;
    journey.until_says("[data-test=pooled]", "The only study").await;

    journey.click("[data-test=add-result]").await;
    journey.fill("[data-test=reference] textarea", "Second report").await;
    type_cells(journey, [("tp", "31"), ("fp", "9"), ("fn", "12"), ("tn", "40")]).await;
    journey.click("[data-test=save-result]").await;
    journey.until_says("[data-test=pooled]", "fewer than four studies report both groups").await;
    journey.until("[data-test=result-row]", |rows| rows.len() == 2).await;
    // Nothing of the new studies is made up; what is said beside them of the demonstration's reports of prevalence is.
    journey.until(".sample-mark:not([data-test=incidental] *)", <[String]>::is_empty).await;
    journey.until("[data-test=incidental] .sample-mark", |marks| marks.len() == 1).await;

    journey.click("[data-test=result-row]:nth-child(2) [data-test=edit-result]").await;
    journey.fill("[data-test=cell-fp]", "1").await;
    journey.click("[data-test=save-result]").await;
    journey.until_says("[data-test=result-row]:nth-child(2)", "40 of 41").await;
    journey.click("[data-test=undo]").await;
    journey.until_says("[data-test=result-row]:nth-child(2)", "40 of 49").await;

    let with_both = until_answer_is_the_api_s(journey).await;
    journey.click("[data-test=result-row]:nth-child(1) [data-test=remove-result]").await;
    journey.until("[data-test=result-row]", |rows| rows.len() == 1).await;
    let with_one = until_answer_is_the_api_s(journey).await;
    assert!((with_both - with_one).abs() > 1.0, "the deleted study mattered");
    journey.click("[data-test=undo]").await;
    journey.until("[data-test=result-row]", |rows| rows.len() == 2).await;
    assert_eq!(until_answer_is_the_api_s(journey).await, with_both);
}

/// Waits until the sheet shows what the API answers for its studies now, at the pre-test probability of 60 %; in per cent.
async fn until_answer_is_the_api_s(journey: &Journey) -> f64 {
    let address = journey.browser.current_url().await.unwrap();
    let pooled = journey.api("GET", &format!("/api/v1{}/pooled", address.path()), json!({}), Value::Null).await;
    let test = address.path().rsplit('/').next().unwrap();
    let question = json!({ "pre_test": 0.6, "tests": [{ "test": test, "figures": pooled["figures"] }] });
    let answers = journey.api("POST", "/api/v1/likelihood/answers", json!({}), question).await;
    let expected = 100.0 * answers[0]["after_positive"]["estimate"].as_f64().unwrap();
    let shown = |text: &String| text.trim_end_matches('%').trim().parse::<f64>().ok();
    journey
        .until("[data-test=after-positive]", |now| {
            now.first().and_then(shown).is_some_and(|shown| (shown - expected).abs() < 0.51)
        })
        .await;
    expected
}

/// Two people edit one sheet: the second is told, keeps every word, compares, and decides.
#[tokio::test]
async fn a_conflict_keeps_both_texts() {
    let journey = Journey::start().await;
    journey.open("/catalogue?search=square").await;
    journey.click(NAME).await;
    journey.click("[data-test=edit-sheet]").await;
    journey.fill("[data-test=positive_finding] textarea", "Mine: 0.72 or more").await;

    let rows = journey.api("GET", "/api/v1/tests?search=square", json!({}), Value::Null).await;
    let path = format!("/api/v1/tests/{}", rows[0]["id"].as_str().unwrap());
    let mut theirs = journey.api("GET", &path, json!({}), Value::Null).await;
    for field in ["id", "version", "sample", "status", "published_version", "next_steps", "derived"] {
        theirs.as_object_mut().unwrap().remove(field);
    }
    theirs["positive_finding"] = json!("Theirs: 0.70 or more");
    theirs["variants"][0]["patient_position"] = json!("Theirs: standing");
    journey.api("PUT", &path, json!({ "If-Match": "\"1\"" }), theirs).await;

    journey.click("[data-test=save-sheet]").await;
    journey.until_says("[data-test=conflict]", "Mine: 0.72 or more").await;
    journey.until_says("[data-test=conflict]", "Theirs: 0.70 or more").await;
    // The position, which only they changed, is taken; the finding, which both changed, is asked for.
    journey.until("[data-test=contested-them]", |fields| fields.len() == 1).await;
    journey.until_says("[data-test=contested-open]", "1 field is left to choose").await;
    journey.click("[data-test='take-me-positive_finding']").await;
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
    journey.fill("[data-test=positive_finding] textarea", "Any").await;
    choose_purpose(&journey).await;
    journey.database.pause().await.unwrap();
    journey.click("[data-test=save-sheet]").await;
    // The banner may come from the autosave: only the form's own words say that this save was refused.
    journey.until_says("[data-test=form-failure]", "The database does not answer").await;
    journey.until_says(".outage", "The database does not answer").await;
    let name = journey.browser.execute("return document.querySelector('[data-test=name] input').value", vec![]).await;
    assert_eq!(name.unwrap(), "Written during an outage");
    journey.database.resume().await.unwrap();
    journey.until(".outage", <[String]>::is_empty).await;
    journey.click("[data-test=save-sheet]").await;
    journey.until_says("h1", "Written during an outage").await;
    journey.end().await;
}

/// A colleague looks a test up without touching the mouse.
#[tokio::test]
async fn the_keyboard_is_enough() {
    let journey = Journey::start().await;
    journey.open("/catalogue").await;
    journey.until(NAME, |names| names.len() == 8).await;
    journey.press("?").await;
    journey.until_says(".v-dialog", "Keyboard shortcuts").await;
    journey.until_says("[data-test=guide-page]", "The work goes in five steps").await;
    journey.press(ESCAPE).await;
    journey.until(".v-dialog.v-overlay--active", <[String]>::is_empty).await;

    journey.press("p").await;
    journey.press("12").await;
    journey.until_address("pretest=12").await;
    journey.blur().await;
    journey.press("/").await;
    journey.press("median perc").await;
    journey.until(NAME, |names| names == ["Nerve tapping at the wrist crease"]).await;
    journey.fill("[data-test=search] input", "s").await;
    journey.until(NAME, |names| names.len() > 2).await;
    let names = journey.texts(NAME).await;
    // Into the list with the tabulator, down by arrow, open with Enter.
    journey.browser.execute("document.querySelector('.test-link').focus()", vec![]).await.unwrap();
    journey.press(DOWN).await;
    journey.until_says("tr.picked .test-link", &names[1]).await;
    journey.press(ENTER).await;
    journey.until_says("h1", &names[1]).await;
    journey.until_address("pretest=12").await;
    journey.press("a").await;
    journey.until_says("[data-test=result-dialog]", "Add a result").await;
    journey.press(ESCAPE).await;
    journey.click("[data-test=cancel-result]").await;
    journey.until(".v-dialog.v-overlay--active", <[String]>::is_empty).await;
    journey.press("e").await;
    journey.until_address("/edit").await;
    journey.end().await;
}

/// A study is typed in from the sheet on without the mouse, in so few keys that slow typing (200 a minute) takes less than a minute; what
/// was typed survives the loss of the page.
#[tokio::test]
async fn a_study_is_entered_by_keyboard_in_a_minute() {
    let journey = Journey::start().await;
    journey.open("/catalogue?region=hand_wrist").await;
    journey.click(NAME).await;
    journey.until("[data-test=result-row]", |rows| !rows.is_empty()).await;
    let before = journey.texts("[data-test=result-row]").await.len();
    let mut keys = 0;
    let mut press = async |what: &str| {
        keys += what.chars().count();
        journey.press(what).await;
    };
    press("a").await;
    journey.until("[data-test=pick-reference] .v-field--focused", |found| found.len() == 1).await;
    press(TAB).await;
    press("Noakham and Tosk 2024, made up").await;
    press(&format!("{TAB}Adults with numb fingers{TAB}{TAB}")).await;
    press(&format!("34{TAB}5{TAB}6{TAB}40{TAB}{TAB}")).await;
    journey.until_says("[data-test=live] [data-test=measure-sensitivity]", "85\u{202f}%").await;
    press(&format!("Nerve conduction{TAB}Table 2")).await;
    journey.until_says("[data-test=result-kept]", "Kept as typed").await;
    // The page is lost, and the form comes back as it was left.
    journey.browser.refresh().await.unwrap();
    journey.until("[data-test=result-row]", |rows| rows.len() == before).await;
    press("a").await;
    journey.until_says("[data-test=result-resumed]", "was restored").await;
    journey.until_says("[data-test=live] [data-test=measure-sensitivity]", "85\u{202f}%").await;
    // From the list of references to the population, where Enter saves.
    journey.until("[data-test=pick-reference] .v-field--focused", |found| found.len() == 1).await;
    press(&format!("{TAB}{TAB}{ENTER}")).await;
    let fresh = |rows: &[String]| rows.len() == before + 1 && rows.iter().any(|row| row.contains("34 of 40"));
    journey.until("[data-test=result-row]", fresh).await;
    assert!(keys < 200, "{keys} keys");
    // The row may be there before the form is put away, which takes no keys for the page.
    journey.until(".v-dialog.v-overlay--active", |open| open.is_empty()).await;
    journey.press("a").await;
    journey.until("[data-test=cell-tp]", |found| found.len() == 1).await;
    assert_eq!(journey.texts("[data-test=result-resumed]").await, [""; 0], "what is saved is not left over");
    journey.end().await;
}

/// A link sent to a colleague opens the same question, on any screen, and the back button goes back.
#[tokio::test]
async fn the_address_carries_the_question() {
    let journey = Journey::start().await;
    journey.open("/catalogue?region=hand_wrist&pretest=8&sort=name").await;
    journey.until(NAME, |names| names.first().is_some_and(|name| name.starts_with("Carpal"))).await;
    journey.click(NAME).await;
    journey.until_says("[data-test=answer] h2", "starting from 8").await;
    let answer = journey.text("[data-test=after-negative]").await;
    journey.browser.refresh().await.unwrap();
    journey.until("[data-test=after-negative]", |now| now == [answer.as_str()]).await;
    journey.browser.back().await.unwrap();
    journey.until_address("sort=name").await;
    journey.until(NAME, |names| names.len() == 8).await;

    // A region without tests, a wrong address and an unknown test each say what is the matter.
    journey.open("/catalogue?region=knee").await;
    journey.until_says(".notice", "The catalogue holds no test for: Knee").await;
    journey.open("/catalogue?search=zzz").await;
    journey.until_says(".notice", "Nothing in the sheets of this region matches “zzz”").await;
    journey.open("/no/such/page").await;
    journey.until_says(".notice", "This page does not exist").await;
    journey.open("/tests/01920000-0000-7000-8000-000000000000").await;
    journey.until_says(".notice", "There is no test").await;
    // Nonsense in the address falls back to what is known.
    journey.open("/catalogue?region=wing&pretest=abc&sort=size").await;
    journey.until(NAME, |names| names.len() == 8).await;
    journey.end().await;
}

/// Long and odd texts neither break a page nor run as code, in light and dark, on a desk and on a tablet.
#[tokio::test]
async fn long_and_odd_texts_stay_on_the_page() {
    let journey = Journey::start().await;
    journey.open("/catalogue").await;
    let long = "Längeausgedehntesuntersuchungsverfahren".repeat(4);
    let sheet = json!({
        "name": long, "aliases": ["<img src=x onerror=alert(1)>"], "region": "hand_wrist", "purpose": "laxity",
        "condition": "Median-nerve compression at the wrist", "positive_finding": "y ".repeat(4_000),
        "variants": [{ "name": long, "patient_position": "x".repeat(10_000), "equipment": [{ "name": long }],
            "steps": [{ "text": "\"quoted\" & <b>bold</b>" }, { "text": "خطوة أولى", "hold_seconds": 30 }],
            "targets": [{ "structure": "العصب المتوسط", "role": "compressed" }] }],
        "interpretation": { "measures": [{ "name": long, "choices": [long, "no"] }],
            "rows": [{ "reading": long, "conditions": [] }] }
    });
    let created = journey.api("POST", "/api/v1/tests", json!({}), sheet).await;
    let id = created["id"].as_str().unwrap();
    for (width, height) in [(1280, 800), (820, 1100)] {
        journey.resize(width, height).await;
        for path in ["/catalogue".to_owned(), format!("/tests/{id}"), format!("/tests/{id}/edit")] {
            journey.open(&path).await;
            journey.until("h1", |titles| titles.len() == 1 && !titles[0].is_empty()).await;
            let overflow = "return document.documentElement.scrollWidth - document.documentElement.clientWidth";
            let overflow = journey.browser.execute(overflow, vec![]).await.unwrap();
            assert_eq!(overflow, json!(0), "{path} is wider than its window at {width}");
        }
    }
    journey.open(&format!("/tests/{id}")).await;
    journey.until_says(".sheet", "<b>bold</b>").await;
    journey.until_says(".sheet", "No caution has been entered yet. That does not mean that there is none.").await;
    assert_eq!(
        journey
            .browser
            .execute("return document.querySelectorAll('.sheet li b, h1 img').length", vec![])
            .await
            .unwrap(),
        json!(0)
    );

    let light = journey.background().await;
    journey.click("[data-test=theme]").await;
    journey.until(".v-application.v-theme--dark", |found| found.len() == 1).await;
    let dark = journey.background().await;
    assert_ne!(light, dark);
    journey.browser.refresh().await.unwrap();
    journey.until_says("h1", "Länge").await;
    assert_eq!(journey.background().await, dark, "the choice is remembered");
    journey.end().await;
}

/// Two people correct one study: the second keeps the typed figures and sees the saved ones.
#[tokio::test]
async fn a_study_changed_meanwhile_is_not_overwritten_unseen() {
    let journey = Journey::start().await;
    journey.open("/catalogue?search=tethered").await;
    journey.click(NAME).await;
    journey.click("[data-test=edit-result]").await;
    // One more and one less: as many as were examined.
    journey.fill("[data-test=cell-tp]", "13").await;
    journey.fill("[data-test=cell-fn]", "18").await;
    let rows = journey.api("GET", "/api/v1/tests?search=tethered", json!({}), Value::Null).await;
    let list = format!("/api/v1/tests/{}/results", rows[0]["id"].as_str().unwrap());
    let result = journey.api("GET", &list, json!({}), Value::Null).await[0].clone();
    let path = format!("/api/v1/results/{}", result["id"].as_str().unwrap());
    let theirs = json!({ "study_id": result["study"]["id"], "study_version": 1,
        "study": { "reference": "Changed by the other" }, "result": { "tp": 11, "fp": 1, "fn": 20, "tn": 21 } });
    journey.api("PUT", &path, json!({ "If-Match": "\"1\"" }), theirs).await;

    journey.click("[data-test=save-result]").await;
    journey.until_says("[data-test=result-dialog]", "Somebody else has changed this result or its study").await;
    journey.until_says("[data-test=result-dialog]", "Changed by the other · TP 11, FP 1").await;
    let kept = journey.browser.execute("return document.querySelector('[data-test=cell-tp]').value", vec![]).await;
    assert_eq!(kept.unwrap(), "13");
    journey.click("[data-test=save-result]").await;
    journey.until_says("[data-test=result-row]", "13 of").await;
    // A corrected sample study is still a sample study.
    journey.until_says("[data-test=result-row] .sample-mark", "sample data").await;
    journey.end().await;
}

/// An administrator invites an author, who joins, writes, loses the session in the middle, and goes on; a learner only reads.
#[tokio::test]
async fn people_join_work_and_lose_no_text_when_a_session_ends() {
    let journey = Journey::start_signed_out().await;
    journey.open("/people").await;
    journey.fill("[data-test=login] input", "nobody").await;
    journey.fill("[data-test=password] input", "not the password").await;
    journey.click("[data-test=sign-in]").await;
    journey.until_says("[data-test=sign-in-failure]", "Name or password is wrong").await;

    journey.click("[data-test=enter-administrator]").await;
    journey.until("[data-test=account-row]", |rows| rows.len() == 2).await;
    journey.fill("[data-test=invite-note] input", "Group 4").await;
    journey.click("[data-test=invite]").await;
    let link = journey.text("[data-test=invitation-link]").await;
    journey.click("[data-test=account]").await;
    journey.click("[data-test=sign-out]").await;
    journey.until("[data-test=sign-in]", |buttons| buttons.len() == 1).await;

    journey.browser.goto(&link).await.unwrap();
    journey.click("[data-test=join]").await;
    journey.until_says(".v-messages__message", "at least 12").await;
    journey.fill("[data-test=login] input", "m.keller").await;
    journey.fill("[data-test=name] input", "M. Keller").await;
    journey.fill("[data-test=password] input", "four words in a row").await;
    journey.click("[data-test=join]").await;
    journey.until(ROW, |rows| rows.len() == 8).await;

    // The session ends elsewhere while a sheet is being written.
    journey.click("[data-test=new-test]").await;
    journey.fill("[data-test=name] input", "Thumb lift").await;
    journey.api_status("DELETE", "/api/v1/session").await;
    // By keyboard: the autosave may have asked for the password already, and its dialog covers the button.
    journey.press("\u{e009}s\u{e000}").await;
    journey.until_says("#again-title", "Sign in again").await;
    journey.fill(".v-dialog [data-test=password] input", "four words in a row").await;
    journey.click(".v-dialog [data-test=sign-in]").await;
    journey.until("#again-title", |titles| titles.is_empty()).await;
    let typed = "return document.querySelector('[data-test=name] input').value";
    assert_eq!(journey.browser.execute(typed, vec![]).await.unwrap(), "Thumb lift");

    // A new name, and a forgotten password: an administrator passes a link on.
    journey.open("/catalogue").await;
    journey.click("[data-test=account]").await;
    journey.click("[data-test=profile]").await;
    journey.fill("[data-test=profile-name] input", "Mara Keller").await;
    journey.click("[data-test=save-profile]").await;
    journey.until_says(".v-snackbar", "were changed").await;
    journey.api_status("DELETE", "/api/v1/session").await;
    journey.open("/people").await;
    journey.click("[data-test=enter-administrator]").await;
    journey.until_says("[data-test=account-row]", "Mara Keller").await;
    journey.click("[data-test=make-reset]").await;
    let link = journey.text("[data-test=reset-link]").await;
    journey.api_status("DELETE", "/api/v1/session").await;
    journey.browser.goto(&link).await.unwrap();
    journey.until_says("h1", "New password for Mara Keller").await;
    journey.fill("[data-test=password] input", "five other words for it").await;
    journey.click("[data-test=set-password]").await;
    journey.until(ROW, |rows| rows.len() == 8).await;
    journey.browser.goto("about:blank").await.unwrap();
    journey.browser.goto(&link).await.unwrap();
    journey.until_says(".notice", "This link cannot be used").await;

    // Two-step sign-in: an app is given a key, and shows the code that is asked for from then on.
    journey.open("/catalogue").await;
    journey.click("[data-test=account]").await;
    journey.click("[data-test=second-step]").await;
    journey.fill("[data-test=second-step-password] input", "five other words for it").await;
    journey.click("[data-test=begin-second-step]").await;
    let key = journey.text("[data-test=second-step-secret]").await;
    journey.fill("[data-test=first-code] input", &Moment::now().code(&key, -1)).await;
    journey.click("[data-test=confirm-second-step]").await;
    journey.until("[data-test=recovery-codes] li", |codes| codes.len() == 8).await;
    journey.click("[data-test=codes-kept] input").await;
    journey.click("[data-test=second-step-done]").await;
    journey.api_status("DELETE", "/api/v1/session").await;
    journey.open("/catalogue").await;
    journey.fill("[data-test=login] input", "m.keller").await;
    journey.fill("[data-test=password] input", "five other words for it").await;
    journey.click("[data-test=sign-in]").await;
    journey.fill("[data-test=code] input", "000 000").await;
    journey.click("[data-test=sign-in]").await;
    journey.until_says("[data-test=sign-in-failure]", "The code is wrong").await;
    journey.fill("[data-test=code] input", &Moment::now().code(&key, 0)).await;
    journey.click("[data-test=sign-in]").await;
    journey.until(ROW, |rows| rows.len() == 8).await;

    journey.api_status("DELETE", "/api/v1/session").await;
    journey.open("/catalogue").await;
    journey.click("[data-test=enter-learner]").await;
    journey.until(ROW, |rows| rows.len() == 8).await;
    assert!(
        journey.texts("[data-test=new-test]").await.is_empty(),
        "a learner is offered nothing that would be refused"
    );
    journey.open("/tests/new").await;
    journey.until_says(".notice", "Your role does not include this page").await;
    journey.end().await;
}

/// A draft is handed in with a comment, signed off by a second reader, and then seen by learners; a later text waits, and an
/// earlier one comes back from the history.
#[tokio::test]
async fn a_sheet_goes_from_nothing_to_published_by_two_roles() {
    let journey = Journey::start().await;
    journey.open("/tests/new").await;
    journey.fill("[data-test=name] input", "Thumb lift").await;
    journey.fill("[data-test=positive_finding] textarea", "Weaker than the other side").await;
    choose_purpose(&journey).await;
    journey.click("[data-test=save-sheet]").await;
    journey.until_says("[data-test=status]", "Draft").await;
    let sheet = journey.browser.current_url().await.unwrap().path().to_owned();
    journey.click("[data-test=step-submit]").await;
    journey.fill("[data-test=step-comment] textarea", "First of the thumb module").await;
    journey.click("[data-test=take-step]").await;
    journey.until_says("[data-test=status]", "In review").await;
    assert!(journey.texts("[data-test=step-sign_off]").await.is_empty(), "nobody signs off alone");

    enter_as(&journey, "second_reader").await;
    journey.open(&sheet).await;
    journey.click("[data-test=step-sign_off]").await;
    journey.click("[data-test=take-step]").await;
    journey.until_says("[data-test=status]", "Published").await;

    enter_as(&journey, "author").await;
    // In its place on the page.
    journey.open(&sheet).await;
    journey.click("[data-test=edit-about]").await;
    journey.fill("[data-test=positive_finding] textarea", "Weaker, or not possible at all").await;
    journey.click("[data-test=save-sheet]").await;
    journey.until("[data-test=part-form]", <[String]>::is_empty).await;
    journey.until_says(".sheet", "Weaker, or not possible at all").await;
    journey.until_says("[data-test=review]", "Learners still see the version that was signed off").await;
    enter_as(&journey, "learner").await;
    journey.open(&sheet).await;
    journey.until_says("main", "Weaker than the other side").await;
    let pdf = journey.browser.execute("return document.querySelector('[data-test=pdf]').getAttribute('href')", vec![]);
    let pdf = pdf.await.unwrap();
    assert_eq!(journey.api_status("GET", pdf.as_str().unwrap()).await, 200);
    assert!(journey.texts("[data-test=edit-about]").await.is_empty());
    assert!(journey.texts("[data-test=review], [data-test=edit-sheet], [data-test=add-result]").await.is_empty());

    enter_as(&journey, "author").await;
    journey.open(&format!("{sheet}/history")).await;
    journey
        .until("[data-test=version]", |versions| {
            versions.len() == 4
                && versions[0].contains("not possible at all")
                && versions[2].contains("First of the thumb module")
        })
        .await;
    journey.click("[data-test=restore-1]").await;
    journey.until_says("[data-test=status]", "Draft").await;
    journey.until_says("main", "Weaker than the other side").await;
    journey.end().await;
}

async fn enter_as(journey: &Journey, role: &str) {
    journey.api_status("DELETE", "/api/v1/session").await;
    journey.open("/").await;
    journey.click(&format!("[data-test=enter-{role}]")).await;
    journey.until("[data-test=account]", |buttons| buttons.len() == 1).await;
}

/// A table with a gap is mended while the page says what is missing; what was typed is kept on the way.
#[tokio::test]
async fn a_gap_in_an_interpretation_table_is_found_and_mended() {
    let journey = Journey::start().await;
    journey.open("/catalogue?region=neck&findings=true&search=turned").await;
    journey.until_says(ROW, "2 warnings").await;
    journey.click(NAME).await;
    journey.until_says("[data-test=sheet-findings]", "2 warnings from the checks").await;
    journey.click("[data-test=edit-sheet]").await;
    journey.until_says("[data-test=table-verdict]", "No row applies to this: Turn to the painful side: 60 deg").await;
    journey.fill("[data-test='try-Turn to the painful side'] input", "60").await;
    journey.until_says("[data-test=try-answer]", "Still open: Turn to the sound side").await;
    journey.fill("[data-test='try-Turn to the sound side'] input", "80").await;
    journey.until_says("[data-test=try-answer]", "the table has a gap here").await;

    journey.click("[data-test=comparison-1] .v-field").await;
    journey.click(".v-overlay--active [aria-posinset='1']").await;
    journey.until_says("[data-test=table-verdict]", "Every combination has exactly one interpretation").await;
    journey.until_says("[data-test=try-answer]", "Turning is kept.").await;
    journey.until_says("[data-test=kept]", "Kept as typed").await;
    journey.click("[data-test=undo-typing]").await;
    journey.until_says("[data-test=table-verdict]", "No row applies to this").await;
    journey.press("\u{e009}\u{e008}z\u{e000}").await;
    journey.until_says("[data-test=table-verdict]", "Every combination has exactly one interpretation").await;

    // Somewhere else and back: it stands as it was left.
    journey.until_says("[data-test=kept]", "Kept as typed").await;
    let edit = journey.browser.current_url().await.unwrap().path().to_owned();
    journey.open("/catalogue").await;
    journey.open(&edit).await;
    journey.until_says("[data-test=resumed]", "was restored").await;
    journey.until_says("[data-test=table-verdict]", "Every combination has exactly one interpretation").await;
    journey.until_says("[data-test=findings]", "Hand laid on the head").await;
    journey.click("[data-test=save-sheet]").await;
    journey.until_says("[data-test=sheet-findings]", "1 warning from the checks").await;
    journey.open(&edit).await;
    journey.until_says("[data-test=table-verdict]", "Every combination has exactly one interpretation").await;
    journey.until("[data-test=resumed]", <[String]>::is_empty).await;
    journey.end().await;
}

/// A colleague remembers an old name, nearly, and never touches the mouse.
#[tokio::test]
async fn a_misspelt_alias_is_found_with_the_keyboard_alone() {
    let journey = Journey::start().await;
    journey.open("/catalogue").await;
    journey.until(NAME, |names| names.len() == 8).await;
    journey.press("/").await;
    journey.press("held palmer flection").await;
    journey.until(NAME, |names| names.first().is_some_and(|name| name == "Wrist flexion, held")).await;
    journey.press(ENTER).await;
    journey.press(ENTER).await;
    journey.until_says("h1", "Wrist flexion, held").await;
    // Two ways of doing it side by side, and which other tests load the same structure.
    journey.click("[data-test=compare]").await;
    journey.until_says("[data-test=comparison]", "One hand steadies the forearm").await;
    journey.open("/structures?region=hand_wrist").await;
    journey.until("[data-test=structure-row]", |rows| rows.len() > 15).await;
    journey.click("[data-test=structure-row] td:nth-of-type(3) button:not([disabled])").await;
    journey.until_says("[data-test=loading-tests]", "Thumb held up against a push").await;
    journey.end().await;
}

/// A file with faults brings nothing in and names each; the mended one says first what it would do.
#[tokio::test]
async fn a_bundle_with_errors_is_refused_whole_and_then_comes_in() {
    let journey = Journey::start().await;
    let mut bundle: Value = serde_json::from_slice(&std::fs::read("../../demo/pelvis.json").unwrap()).unwrap();
    let right = bundle.clone();
    bundle["tests"][0]["sheet"]["purpose"] = json!("magic");
    bundle["tests"][1]["sheet"]["variants"][0]["joints"] =
        json!([{ "joint": "hip", "motion": "flexion", "from": 90, "to": 10 }]);
    bundle["tests"][2]["results"][1]["result"]["tp"] = json!(-4);
    let folder = std::env::temp_dir().join(format!("pruvex-bundle-{}", std::process::id()));
    std::fs::create_dir_all(&folder).unwrap();
    let choose = async |bundle: &Value| {
        let file = folder.join("bundle.json");
        std::fs::write(&file, bundle.to_string()).unwrap();
        let input = journey.browser.find(Locator::Css("[data-test=bundle-file]")).await.unwrap();
        input.send_keys(file.to_str().unwrap()).await.unwrap();
    };
    journey.open("/exchange").await;
    journey.until("[data-test=bundle-file]", |inputs| inputs.len() == 1).await;
    choose(&bundle).await;
    journey.until_says("[data-test=bundle-failure]", "3 errors in the file").await;
    for place in ["tests[0].sheet.purpose", "tests[1].sheet.variants[0].joints[0].to", "tests[2].results[1].result.tp"]
    {
        journey.until_says("[data-test=bundle-faults]", place).await;
    }
    journey.open("/exchange").await;
    journey.until("[data-test=bundle-file]", |inputs| inputs.len() == 1).await;
    choose(&right).await;
    journey.until_says("[data-test=bundle-summary]", "6 new").await;
    let pelvis = journey.api("GET", "/api/v1/tests?region=pelvis", json!({}), Value::Null).await;
    assert_eq!(pelvis, json!([]), "a preview brings nothing in");
    journey.click("[data-test=bring-in]").await;
    journey.until_says(".v-snackbar", "Imported").await;
    journey.open("/catalogue?region=pelvis").await;
    journey.until(ROW, |rows| rows.len() == 6 && rows.iter().all(|row| row.contains("Draft"))).await;

    // It was the wrong file: what somebody has worked on since keeps it on record, and without that all of it goes as one.
    journey.open("/exchange").await;
    let tests = journey.api("GET", "/api/v1/tests?region=pelvis", json!({}), Value::Null).await;
    let path = format!("/api/v1/tests/{}", tests[0]["id"].as_str().unwrap());
    journey.api("POST", &format!("{path}/steps"), json!({ "If-Match": "\"1\"" }), json!({ "step": "submit" })).await;
    journey.click("[data-test=take-back]").await;
    journey.click("[data-test=take-back-now]").await;
    journey.until_says(".reasons", "It was changed since. (by Sample author)").await;
    journey.open("/catalogue").await;
    journey.until(ROW, |rows| !rows.is_empty()).await;
    journey.open("/exchange").await;
    journey.until("[data-test=bundle-file]", |inputs| inputs.len() == 1).await;
    let mut small = right.clone();
    let mut test = small["tests"][0].take();
    test["sheet"]["name"] = json!("Made up by mistake");
    test["sheet"]["aliases"] = json!([]);
    for list in ["results", "agreements", "extractions"] {
        test[list] = json!([]);
    }
    (small["tests"], small["studies"], small["references"]) = (json!([test]), json!([]), json!([]));
    choose(&small).await;
    journey.until_says("[data-test=bundle-summary]", "1 new").await;
    journey.click("[data-test=bring-in]").await;
    journey.until_says(".v-snackbar", "Imported").await;
    journey
        .until("[data-test=past-import]", |rows| rows[0].contains("bundle.json") && rows[0].contains("1 test"))
        .await;
    journey.click("[data-test=take-back]").await;
    journey.click("[data-test=take-back-now]").await;
    journey.until("[data-test=past-import]", |rows| rows[0].contains("undone by Sample author")).await;
    journey.open("/catalogue?region=pelvis").await;
    journey.until(ROW, |rows| rows.len() == 6).await;
    std::fs::remove_dir_all(&folder).unwrap();
    journey.end().await;
}

/// The rows of a workbook, as somebody made it for themselves; of each row but the first one cell is another, by its place.
fn extraction_sheet(rows: &[Option<(usize, &str)>]) -> Vec<u8> {
    let names =
        ["Index test", "Citation", "Design", "n", "Women %", "Hits", "FP", "FN", "TN", "Sens", "DOI", "Checked by"];
    let mut book = Workbook::new();
    let sheet = book.add_worksheet();
    sheet.write(0, 0, "Extraction sheet, made up").unwrap();
    for (column, name) in (0_u16..).zip(names) {
        sheet.write(2, column, name).unwrap();
    }
    for (place, other) in rows.iter().enumerate() {
        let row = 3 + place as u32;
        let own = format!("Made-up report {place}");
        let good = ["Wrist flexion, held", &own, "cross-sectional", "110", "61", "30", "12", "10", "58", "", "", "me"];
        for (column, value) in (0_u16..).zip(good) {
            let value = other.filter(|(at, _)| *at == usize::from(column)).map_or(value, |(_, other)| other);
            match value.parse::<f64>() {
                Ok(number) => drop(sheet.write(row, column, number).unwrap()),
                Err(_) => drop(sheet.write(row, column, value).unwrap()),
            }
        }
    }
    book.save_to_buffer().unwrap()
}

/// A workbook with ten different errors is refused with every one of them; corrected it comes in, and what was chosen is remembered.
#[tokio::test]
async fn a_workbook_with_ten_errors_is_refused_whole_and_then_comes_in() {
    let journey = Journey::start().await;
    let folder = std::env::temp_dir().join(format!("pruvex-table-{}", std::process::id()));
    std::fs::create_dir_all(&folder).unwrap();
    let choose = async |rows: &[Option<(usize, &str)>]| {
        let file = folder.join("extraction.xlsx");
        std::fs::write(&file, extraction_sheet(rows)).unwrap();
        let input = journey.browser.find(Locator::Css("[data-test=table-file]")).await.unwrap();
        input.send_keys(file.to_str().unwrap()).await.unwrap();
    };
    journey.open("/references").await;
    journey.click("[data-test=part-table-import]").await;
    journey.until("[data-test=table-file]", |inputs| inputs.len() == 1).await;
    let wrong = [
        (0, "Wrist flexoin, held"),
        (1, ""),
        (2, "survey"),
        (3, "90"),
        (4, "610"),
        (5, "thirty"),
        (6, "12.5"),
        (7, ""),
        (9, "0.87"),
        (10, "10.5555/nowhere"),
    ];
    let wrong: Vec<_> = std::iter::once(None).chain(wrong.map(Some)).collect();
    choose(&wrong).await;
    journey.until_says("[data-test=table-needed]", "the other cell of a group").await;
    journey.until_says("[data-test=left-out]", "Hits, Checked by").await;
    journey.click("[data-test=column-F] option[value=tp]").await;
    journey.click("[data-test=check-table]").await;
    journey.until_says("[data-test=table-refused]", "10 errors in the file").await;
    let places = journey.texts("[data-test=table-faults] code").await;
    let cells = ["A5", "B6", "C7", "D8", "E9", "F10", "G11", "H12", "J13", "K14"];
    assert!(
        places.len() == 10 && places.iter().zip(cells).all(|(place, cell)| place.starts_with(&format!("{cell} ("))),
        "{places:?}"
    );
    let faults = journey.texts("[data-test=table-faults] tbody tr").await.join("\n");
    for words in ["“survey”", "The cells hold 110, more than were examined. “90”", "The cells give 30 of 40. “0.87”"]
    {
        assert!(faults.contains(words), "{words}: {faults}");
    }
    // One is put right here, with a name that the catalogue has; the rest in the file.
    journey.until_says("[data-test=mend-suggestion]", "Wrist flexion, held").await;
    journey.click("[data-test=mend-suggestion]").await;
    journey.click("[data-test=apply-changes]").await;
    journey.until_says("[data-test=table-refused]", "9 errors in the file").await;
    journey
        .until_says("[data-test=table-changes]", "every “Wrist flexoin, held” is read as “Wrist flexion, held”")
        .await;
    // Corrected, it comes in whole.
    choose(&[None; 11]).await;
    journey.until_says("[data-test=table-needed]", "the other cell of a group").await;
    journey.click("[data-test=column-F] option[value=tp]").await;
    journey.click("[data-test=check-table]").await;
    journey.until_says("[data-test=table-summary]", "11 new results of 11 new studies, at 1 test").await;
    journey.click("[data-test=bring-table]").await;
    journey.until_says("[data-test=table-done]", "Imported: 11 results.").await;
    let tests = journey.api("GET", "/api/v1/tests?search=flexion", json!({}), Value::Null).await;
    let test = tests.as_array().unwrap().iter().find(|it| it["name"] == "Wrist flexion, held").unwrap();
    journey.open(&format!("/tests/{}", test["id"].as_str().unwrap())).await;
    journey
        .until("[data-test=result-row]", |rows| rows.iter().filter(|row| row.contains("Made-up report")).count() == 11)
        .await;
    // The same file again: its columns are known, and so is all that they hold.
    journey.open("/exchange/table").await;
    journey.until("[data-test=table-file]", |inputs| inputs.len() == 1).await;
    choose(&[None; 11]).await;
    journey.until_says("[data-test=table-columns]", "as last time").await;
    journey.until_says("[data-test=table-summary]", "Everything in this file is already in the catalogue").await;
    std::fs::remove_dir_all(&folder).unwrap();
    journey.assert_calm_console().await;
    journey.end().await;
}

/// An author looks works up, is told what is here already, and brings a file in.
#[tokio::test]
async fn a_work_is_looked_up_entered_once_and_more_come_from_a_file() {
    let journey = Journey::start().await;
    journey.open("/catalogue?region=hand_wrist").await;
    journey.click("[data-test=step-references]").await;
    journey.until_says("[data-test=reference-count]", "40 references").await;
    let look_up = async |identifier: &str| {
        journey.fill("[data-test=identifier] input", identifier).await;
        journey.press(ENTER).await;
    };
    journey.click("[data-test=add-reference]").await;
    look_up("10.5555/slow.1").await;
    journey.click("[data-test=stop-looking]").await;
    look_up("10.5555/down.1").await;
    journey.until_says("[data-test=looked-up]", "Try again, or type the reference in").await;
    look_up("10.5555/fenwater.2019.001").await;
    journey.until_says("[data-test=alike]", "same DOI").await;
    journey.click("[data-test=save-reference]").await;
    journey.until_says("[data-test=doi]", "has this DOI already").await;
    look_up("https://doi.org/10.5555/Fenwater.2024.001").await;
    journey.until("[data-test=alike] li", <[String]>::is_empty).await;
    journey.fill("[data-test=year] input", "20244").await;
    journey.click("[data-test=save-reference]").await;
    journey.until_says("[data-test=year]", "not a year").await;
    journey.fill("[data-test=year] input", "2024").await;
    journey.click("[data-test=save-reference]").await;
    journey.until("[data-test=references] li", |rows| rows[0].contains("Ambervale R, Tosk C. Held flexion")).await;
    journey.click("[data-test=undo]").await;
    journey.until_says("[data-test=reference-count]", "40 references").await;

    let folder = std::env::temp_dir().join(format!("pruvex-references-{}", std::process::id()));
    std::fs::create_dir_all(&folder).unwrap();
    let choose = async |text: &str| {
        let file = folder.join("references.ris");
        std::fs::write(&file, text).unwrap();
        let input = journey.browser.find(Locator::Css("[data-test=reference-file]")).await.unwrap();
        input.send_keys(file.to_str().unwrap()).await.unwrap();
    };
    let entry = |title: &str, more: &str| format!("TY  - JOUR\nAU  - Noakham, S.\nTI  - {title}\n{more}ER  - \n");
    let new = entry("Made-up notes on lifting", "PY  - 2024\n");
    let similar = entry("Made-up notes on  lifting.", "PY  - 2025\n");
    let known = entry("Another name", "DO  - 10.5555/fenwater.2019.001\n");
    journey.click("[data-test=bring-in]").await;
    journey.until("[data-test=reference-file]", |inputs| inputs.len() == 1).await;
    choose(&format!("{new}{}", entry("", "DO  - 12\n"))).await;
    journey.until_says("[data-test=import-failure]", "2 errors in the file").await;
    journey.until_says("[data-test=import-faults]", "entries[1].doi").await;
    choose(&format!("{new}{similar}{known}")).await;
    journey.until_says("[data-test=import-summary]", "1 new, 1 already in the catalogue, 1 possible duplicates").await;
    journey.click("[data-test=bring-references]").await;
    journey.until_says("[data-test=reference-count]", "41 references").await;
    journey.fill("[data-test=search-references] input", "noakham notes").await;
    journey.until_says("[data-test=reference-count]", "One reference").await;
    journey.until_address("search=noakham").await;
    journey.click("[data-test=remove-reference]").await;
    journey.until_says(".notice", "Nothing found").await;
    journey.click("[data-test=undo]").await;
    journey.until_says("[data-test=references]", "Made-up notes on lifting").await;

    // The study of a sheet points to it; from there on it cannot be deleted.
    journey.open("/catalogue?region=hand_wrist&search=square").await;
    journey.click(NAME).await;
    journey.click("[data-test=add-result]").await;
    journey.fill("[data-test=pick-reference] input", "notes lifting").await;
    journey
        .until(".v-overlay-container .v-list-item", |items| items.len() == 1 && items[0].contains("Noakham 2024"))
        .await;
    journey.click(".v-overlay-container .v-list-item").await;
    journey.until_says("[data-test=cited]", "Noakham S. Made-up notes on lifting").await;
    type_cells(&journey, [("tp", "20"), ("fp", "4"), ("fn", "5"), ("tn", "24")]).await;
    journey.click("[data-test=save-result]").await;
    journey.until_says("[data-test=result-row]", "Noakham 2024").await;
    journey.open("/references?search=noakham").await;
    journey.click("[data-test=reported]").await;
    journey.until_says("[data-test=references]", "Square wrist ratio").await;
    journey.click("[data-test=remove-reference]").await;
    journey.until_says(".v-snackbar", "1 study was published as this reference").await;
    std::fs::remove_dir_all(&folder).unwrap();
    journey.end().await;
}

/// A further result of people who are on record counts nobody twice; their study is appraised, and all of it can be taken back.
#[tokio::test]
async fn the_same_people_count_once_and_their_study_is_appraised() {
    const ROWS: &str = "[data-test=result-row]";
    const THIRD: &str = "[data-test=result-row]:nth-child(3)";
    const LAST: &str = "[data-test=result-row]:last-child";
    let journey = Journey::start().await;
    journey.open("/catalogue?search=raised%20overhead&pretest=60").await;
    journey.click(NAME).await;
    journey.until_says(".results .count", "3 studies, 257 people").await;
    journey.click("[data-test=add-result]").await;
    journey.fill("[data-test=pick-reference] input", "two minutes overhead").await;
    journey.until(".v-overlay-container .v-list-item", |items| items.len() == 1).await;
    journey.click(".v-overlay-container .v-list-item").await;
    journey.until_says("[data-test=known-studies]", "Hands raised overhead").await;
    journey.click("[data-test=same-people]").await;
    journey.until_says("[data-test=of-study]", "One other result is of the same patients").await;
    type_cells(&journey, [("tp", "20"), ("fp", "1"), ("fn", "24"), ("tn", "32")]).await;
    journey.click("[data-test=result-details] summary").await;
    journey.fill("[data-test=criterion] input", "Tingling within one minute").await;
    journey.click("[data-test=save-result]").await;
    journey.until(ROWS, |rows| rows.len() == 4).await;
    journey.until_says(LAST, "Not pooled: another result of the same patients is").await;
    journey.until_says(".results .count", "3 studies, 257 people").await;
    let before = until_answer_is_the_api_s(&journey).await;
    journey.click("[data-test=prefer-result]").await;
    journey.until_says(THIRD, "Not pooled").await;
    let chosen = until_answer_is_the_api_s(&journey).await;
    assert!((before - chosen).abs() > 1.0, "another result of them is pooled");

    journey.click(&format!("{LAST} [data-test=appraise]")).await;
    journey.click("[data-test=test_read_blind] input[value=no]").await;
    journey.until_says("[data-test=index_test-risk]", "The answers suggest: high").await;
    journey.click("[data-test=index_test-risk] input[value=high]").await;
    journey.fill("[data-test=index_test-reason] textarea", " ").await;
    journey.click("[data-test=save-appraisal]").await;
    journey.until_says("[data-test=index_test-reason]", "No reason is given for a high risk or concern").await;
    journey.fill("[data-test=index_test-reason] textarea", "The scan hung in the room, page 3.").await;
    journey.click("[data-test=save-appraisal]").await;
    // The study has one appraisal: it shows at both of its results.
    for row in [LAST, THIRD] {
        journey
            .until(&format!("{row} [data-test=appraise]:has([aria-label*='Index test: high risk'])"), |marks| {
                marks.len() == 1
            })
            .await;
    }
    journey.click("[data-test=history]").await;
    journey.until_says("[data-test=change]:first-child", "The scan hung in the room, page 3.").await;
    journey.end().await;
}

/// From an identifier to a settled result: looked up, put on the list, rebuilt from rounded figures by one reader, read otherwise by
/// another who sees nothing of it, and settled with reasons.
#[tokio::test]
async fn two_people_read_a_report_and_settle_what_they_read() {
    const ITEM: &str = ".v-overlay-container .v-list-item";
    const NEXT: &str = "[data-test=extraction-next]";
    let journey = Journey::start().await;
    journey.open("/catalogue?region=hand_wrist").await;
    journey.click("[data-test=step-references]").await;
    journey.click("[data-test=part-extractions]").await;
    journey.until_says("[data-test=progress-twice]", "2 extracted twice").await;
    journey.click("[data-test=ask-extraction]").await;
    journey.click("[data-test=put-on-list]").await;
    journey.until_says("[data-test=ask-dialog]", "Choose a report").await;
    journey.click("[data-test=ask-new-report]").await;
    journey.fill("[data-test=identifier] input", "10.5555/fenwater.2024.001").await;
    journey.press(ENTER).await;
    journey.until_says("[data-test=looked-up]", "Filled in").await;
    journey.click("[data-test=save-reference]").await;
    journey.until("[data-test=reference-dialog]", <[String]>::is_empty).await;
    journey.fill("[data-test=pick-reference] input", "ambervale tosk").await;
    journey.until(ITEM, |items| items.len() == 1).await;
    journey.click(ITEM).await;
    journey.until_says("[data-test=ask-report]", "Held flexion").await;
    journey.fill("[data-test=ask-test] input", "square").await;
    journey.until(ITEM, |items| items.len() == 1).await;
    journey.click(ITEM).await;
    journey.until_says("[data-test=asked-test]", "Square wrist ratio").await;
    journey.click("[data-test=put-on-list]").await;
    journey.until("[data-test=ask-dialog]", <[String]>::is_empty).await;
    journey.fill("[data-test=search-extractions] input", "square").await;
    journey.until("[data-test=extraction-row]", |rows| rows.len() == 1 && rows[0].contains("not extracted")).await;

    // The first reader: what is rounded in the report is made into its table.
    journey.click(NEXT).await;
    journey.click("[data-test=rebuild] summary").await;
    for (figure, value) in [("n", "49"), ("diseased", "25"), ("sens", "80%"), ("spec", "100%")] {
        journey.fill(&format!("[data-test=printed-{figure}] input"), value).await;
    }
    journey.until_says("[data-test=rebuilt]", "One 2x2 table matches all these figures").await;
    journey.click("[data-test=use-table]").await;
    journey.until_says("[data-test=live]", "14\u{202f}% false positives are still compatible").await;
    journey.until_says("[data-test=kept]", "Draft kept").await;
    // Left and come back to: what was typed is here.
    journey.open("/extractions?region=hand_wrist&search=square").await;
    journey.click(NEXT).await;
    journey.until_says("[data-test=live] [data-test=measure-sensitivity]", "80\u{202f}%").await;
    journey.fill("[data-test=page] input", "Abstract").await;
    journey.click("[data-test=hand-in]").await;
    journey.until("[data-test=extraction-row]", |rows| rows.len() == 1 && rows[0].contains("extracted once")).await;

    // The second reads otherwise, and sees nothing of the first.
    enter_as(&journey, "second_reader").await;
    journey.open("/extractions?region=hand_wrist&search=square&next=true").await;
    journey.until_says(NEXT, "Extract").await;
    journey.click(NEXT).await;
    journey.until_says("form", "You see the other extraction only after both").await;
    let empty = "return document.querySelector('[data-test=cell-tp]').value";
    assert_eq!(journey.browser.execute(empty, vec![]).await.unwrap(), json!(""));
    type_cells(&journey, [("tp", "20"), ("fp", "1"), ("fn", "5"), ("tn", "23")]).await;
    journey.click("[data-test=hand-in]").await;
    journey.until_says(NEXT, "Adjudicate").await;
    journey.click(NEXT).await;
    journey.until_says("[data-test=same-of]", "Identical in 2 of 5 fields").await;
    journey.click("[data-test=settle]").await;
    journey.until_says("[data-test=open-differences]", "2 differences are open").await;
    for field in ["fp", "tn"] {
        journey.click(&format!("[data-test='settle-result.{field}'] [data-test=take-second]")).await;
    }
    journey.fill("[data-test='settle-result.fp'] [data-test=reason] input", "Table 2 counts one").await;
    journey.click("[data-test=settle]").await;
    journey.until_says("[data-test='settle-result.tn']", "Say in a few words why this stands").await;
    journey.fill("[data-test='settle-result.tn'] [data-test=reason] input", "As for the false positives").await;
    journey.click("[data-test=settle]").await;
    journey.until_says("[data-test=decisions]", "Adjudicated by Sample second reader").await;
    journey.until_says("[data-test=decisions]", "Table 2 counts one").await;

    // Traced from the sheet; a correction says beforehand what it changes there.
    journey.click("[data-test=to-sheet]").await;
    journey.until_says("[data-test=result-row]", "23 of 24").await;
    journey.until_says("[data-test=trace]", "Abstract · two extractors, adjudicated by Sample second reader").await;
    journey.click("[data-test=edit-result]").await;
    journey.fill("[data-test=cell-tp]", "10").await;
    journey.until_says("[data-test=effect]", "LR+ 19 → 16").await;
    journey.end().await;
}

/// How far examiners agree: pasted from a spreadsheet, mended where it cannot be read, corrected, taken out and brought back.
#[tokio::test]
async fn ratings_are_pasted_mended_saved_and_brought_back() {
    const ROWS: &str = "[data-test=agreement-row]";
    let journey = Journey::start().await;
    journey.open("/catalogue?region=neck&search=lifted").await;
    journey.click(NAME).await;
    journey.until_says("[data-test=agreement]", "No agreement result has been entered").await;
    journey.background().await;
    journey.press("r").await;
    journey.fill("[data-test=reference] textarea", "Quellan A. Sample notes on agreement. 2021.").await;
    journey.fill("[data-test=agreement-cells] textarea", "40;9\n6;4S").await;
    journey.until_says("[data-test=agreement-cells]", "Line 2, cell 2 (“4S”): This is not a number of people").await;
    journey.click("[data-test=save-agreement]").await;
    journey.until_says("[data-test=agreement-cells]", "Line 2, cell 2").await;
    journey.fill("[data-test=agreement-cells] textarea", "40;9\n6;45").await;
    journey.until_says("[data-test=agreement-live]", "Cohen’s kappa 0.70").await;
    journey.click("[data-test=save-agreement]").await;
    journey.until(ROWS, |rows| rows.len() == 1 && rows[0].contains("0.70 (0.56–0.84)")).await;
    journey.until_says(ROWS, "2 examiners, 100 people").await;

    journey.click("[data-test=edit-agreement]").await;
    journey.fill("[data-test=agreement-cells] textarea", "2 4\n5 97").await;
    journey.until_says("[data-test=agreement-live]", "One category is so common").await;
    journey.click("[data-test=save-agreement]").await;
    journey.until_says(ROWS, "One category is so common").await;
    journey.click("[data-test=remove-agreement]").await;
    journey.until(ROWS, <[String]>::is_empty).await;
    journey.click("[data-test=undo]").await;
    journey.until(ROWS, |rows| rows.len() == 1).await;
    journey.browser.execute("scrollTo(0, 0)", vec![]).await.unwrap();
    journey.click("[data-test=history]").await;
    journey.until_says("main", "Quellan A. Sample notes on agreement. 2021.").await;
    journey.end().await;
}

/// From a pool to a frozen one, and what later evidence does to it.
#[tokio::test]
async fn a_pool_is_narrowed_compared_frozen_and_outlived_by_evidence() {
    const COUNT: &str = "[data-test=pool-count]";
    const ITEM: &str = ".v-overlay-container .v-list-item";
    let journey = Journey::start().await;
    journey.open("/pooling?region=hand_wrist").await;
    journey.until("[data-test=pool-offer]", |offers| offers.len() > 3).await;
    journey.click("[data-test=pool-offer]").await;
    journey.until_says(COUNT, "8 of 8 results pooled").await;
    let rows = journey.api("GET", "/api/v1/tests?region=hand_wrist&sort=evidence", json!({}), Value::Null).await;
    let test = rows[0]["id"].as_str().unwrap().to_owned();
    let pool = json!({ "tests": [test] });
    let answer = async |more: Value| {
        let mut body = pool.clone();
        body.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        journey.api("POST", "/api/v1/pools/answer", json!({}), body).await
    };
    let shown = |of: &Value| format!("{}\u{202f}%", (of["estimate"].as_f64().unwrap() * 100.0).round());
    let all = answer(json!({})).await;
    journey.until_says("[data-test=measure-sensitivity]", &shown(&all["pooled"]["sensitivity"])).await;
    // The figures behind the picture are those of the results.
    let results = journey.api("GET", &format!("/api/v1/tests/{test}/results"), json!({}), Value::Null).await;
    journey.click("[data-test=roc-panel] summary").await;
    journey
        .until("[data-test=roc-panel] tbody tr", |lines| {
            lines.len() == 8
                && lines.iter().zip(results.as_array().unwrap()).all(|(line, result)| {
                    let counts = &result["counts"];
                    let n = |a: &str, b: &str| counts[a].as_u64().unwrap() + counts[b].as_u64().unwrap();
                    line.contains(&shown(&result["accuracy"]["sensitivity"]))
                        && line.contains(&format!("{} + {}", n("tp", "fn"), n("fp", "tn")))
                })
        })
        .await;

    // One study is dropped with the keyboard's key; everything answers anew, and the address says so.
    journey.browser.execute("document.querySelectorAll('[data-test=pool-switch]')[3].focus()", vec![]).await.unwrap();
    journey.press(" ").await;
    journey.until_says(COUNT, "7 of 8 results pooled").await;
    journey.until_address("&off=").await;
    let off = json!({ "selection": { "off": [all["rows"][3]["result"]] } });
    let fewer = answer(off).await;
    assert_ne!(shown(&fewer["pooled"]["sensitivity"]), shown(&all["pooled"]["sensitivity"]));
    journey.until_says("[data-test=measure-sensitivity]", &shown(&fewer["pooled"]["sensitivity"])).await;
    journey.until_says("[data-test=influence]", "LR+").await;

    // The classical answer stands beside it, and what the summary would be if the reference standard errs.
    journey.click("[data-test=classical]").await;
    let classical = shown(&fewer["pooled"]["classical"]["sensitivity"]);
    journey.until_says("[data-test=measure-sensitivity]", &classical).await;
    journey.until_says("[data-test=pooled]", "Maximum likelihood, Wald").await;
    journey.click("[data-test=reference-errors] summary").await;
    for (name, value) in [("sensitivity", "95"), ("specificity", "98")] {
        journey.fill(&format!("[data-test=reference-{name}-estimate] input"), value).await;
        journey.press(ENTER).await;
    }
    journey.until("[data-test=reference-table] tbody tr", |lines| lines.len() == 4).await;
    journey.until_address("reference_specificity=-98-").await;

    journey.click("[data-test=pool-by]").await;
    journey.until(ITEM, |items| items.iter().any(|item| item == "Setting")).await;
    let choose = "[...document.querySelectorAll(arguments[0])].find((it) => it.innerText.trim() === 'Setting').click()";
    journey.browser.execute(choose, vec![json!(ITEM)]).await.unwrap();
    journey.until_says("[data-test=compare]", "Comparison by setting").await;
    journey.until_says("[data-test=compare]", "If the values did not differ").await;
    journey.until("[data-test=pool-forest] .summary", |rows| !rows.is_empty()).await;
    journey.browser.refresh().await.unwrap();
    journey.until_says("[data-test=compare]", "Comparison by setting").await;
    journey.until_says(COUNT, "7 of 8").await;

    journey.click("[data-test=freeze]").await;
    journey.click("[data-test=freeze-save]").await;
    journey.until_says("[data-test=freeze-dialog]", "This field is empty").await;
    journey.fill("[data-test=freeze-name] input", "Wrist module").await;
    journey.click("[data-test=freeze-save]").await;
    journey.until_says("h1", "Wrist module").await;
    journey.until_says("[data-test=difference]", "the same choices give the same results today").await;
    let body =
        json!({ "study": { "reference": "A later report" }, "result": { "tp": 20, "fp": 30, "fn": 20, "tn": 10 } });
    let at = format!("/api/v1/tests/{test}/results");
    journey.api("POST", &at, json!({}), body).await;
    journey.browser.refresh().await.unwrap();
    journey.until_says("[data-test=stale-mark]", "stale").await;
    journey.until_says("[data-test=changes]", "A later report entered: 20 / 30 / 20 / 10").await;
    journey.until_says("[data-test=difference]", &shown(&fewer["pooled"]["sensitivity"])).await;
    journey.click("[data-test=pool-now]").await;
    journey.until_says(COUNT, "8 of 9 results pooled").await;
    let is_stale = |mark: &&String| mark.starts_with("stale");
    let marks = "[data-test=snapshots] [data-test=stale-mark]";
    journey.until(marks, |marks| marks.iter().filter(is_stale).count() == 1).await;
    journey.end().await;
}

#[tokio::test]
async fn a_patient_is_led_from_before_testing_to_what_is_done() {
    const STEP: &str = "[data-test=walk-found]";
    let journey = Journey::start().await;
    journey.open("/catalogue?region=hand_wrist").await;
    journey.click("[data-test=step-likelihood]").await;
    // The ladder: two tests side by side, with the next study's range.
    journey.until("[data-test=ratio-row]", |rows| rows.len() == 8).await;
    journey.click("[data-test=ladder-ahead] input").await;
    journey.until("[data-test=ratio-row]", |rows| rows.iter().any(|row| row.contains('⟨'))).await;
    journey.click("[data-test=pin]").await;
    journey.until_says("[data-test=pinned]", "LR+, prediction interval").await;
    journey.browser.refresh().await.unwrap();
    journey.until_says("[data-test=pinned]", "LR+, prediction interval").await;

    journey.click("[data-test=part-patient]").await;
    journey.until("[data-test=patient-test]", |tests| tests.len() == 8).await;
    journey.until_says("[data-test=thresholds]", "Without thresholds the page cannot say").await;
    journey.fill("[data-test=threshold-reassure]", "8").await;
    journey.fill("[data-test=threshold-act]", "75").await;
    journey.until_says("[data-test=lead]", "between the thresholds").await;
    journey.until_says("[data-test=question-more]", "reassure below 8.0").await;
    // The mark is moved with the keyboard, and everything answers anew.
    journey.browser.execute("document.querySelector('[data-test=walk-handle]').focus()", vec![]).await.unwrap();
    journey.press(&DOWN.repeat(5)).await;
    journey.until_address("pretest=30").await;
    journey.until_says("[data-test=walk-before]", "30").await;

    let rows = journey.api("GET", "/api/v1/tests?region=hand_wrist&search=carpal", json!({}), Value::Null).await;
    let press = async |name: &str, result: &str| {
        let press = "const [name, result] = arguments;
            [...document.querySelectorAll('[data-test=patient-test]')].find((row) => row.innerText.includes(name))
                .querySelector(`[data-test=found-${result}]`).click()";
        journey.browser.execute(press, vec![json!(name), json!(result)]).await.unwrap();
    };
    press("Carpal compression", "positive").await;
    let lr = rows[0]["summary"]["lr_positive"]["estimate"].as_f64().unwrap();
    let after = 100.0 * 0.3 * lr / (0.3 * lr + 0.7);
    journey.until(STEP, |steps| steps.len() == 1 && steps[0].contains(&format!("{after:.0}\u{202f}%"))).await;
    press("Wrist flexion", "positive").await;
    journey.until(STEP, |steps| steps.len() == 2 && steps[1].contains("treat or refer")).await;
    journey.until_says("[data-test=lead]", "lead to “treat or refer”").await;
    journey.until_says("[data-test=dependence]", "both load: Median nerve").await;
    journey.until_says("[data-test=walk-dependent]", "With moderate conditional dependence").await;
    journey.until_says("[data-test=guards]", "high risk of bias").await;
    journey.until("[data-test=spectrum] tbody tr", |lines| lines.len() > 2).await;
    // In a screening the same results are worth less, and the page says that these are other people.
    journey.fill("[data-test=pretest]", "2").await;
    journey.until_says("[data-test=guards]", "the prevalence in the studies was").await;
    journey.until_says("[data-test=spectrum]", "Usual for the condition").await;
    press("Carpal compression", "positive").await;
    journey.until(STEP, |steps| steps.len() == 1).await;
    journey.click("[data-test=clear-found]").await;
    journey.until("[data-test=walk-thought]", |thought| thought.len() == 2).await;
    journey.until_says("[data-test=useful]", "Only if the pre-test probability is").await;

    // The sheet leads here, too, to the test that it is about.
    let sheet = rows[0]["id"].as_str().unwrap();
    journey.open(&format!("/tests/{sheet}")).await;
    journey.click("[data-test=to-patient]").await;
    journey.until_address(&format!("look={sheet}")).await;
    journey.until_says("[data-test=test-worth]", "Carpal compression").await;
    journey.click("[data-test=part-study-size]").await;
    journey.until_says("[data-test=plan-answer]", "people to examine").await;
    let examined = journey.text("[data-test=plan-answer]").await;
    journey.fill("[data-test=plan-width] input", "5").await;
    journey.until("[data-test=plan-answer]", |said| said.iter().all(|it| *it != examined)).await;
    journey.end().await;
}

/// A teacher puts a battery together: studies of the very rule outrank the calculation, dependence changes it, a claim is refused, and a smaller
/// battery stands beside it.
#[tokio::test]
async fn a_battery_is_put_together_and_a_claim_is_refused() {
    let journey = Journey::start().await;
    journey.import("pelvis");
    journey.open("/catalogue?region=pelvis").await;
    journey.click("[data-test=step-plans]").await;
    journey.click("[data-test=part-battery]").await;
    journey.until("[data-test=battery-test]", |tests| tests.len() == 6).await;
    journey.until_says("[data-test=choose-tests]", "two to eight").await;
    let press = async |name: &str| {
        let press = "[...document.querySelectorAll('[data-test=battery-test]')].find((row) => row.innerText.includes(arguments[0]))
            .querySelector('input[type=checkbox]').click()";
        journey.browser.execute(press, vec![json!(name)]).await.unwrap();
    };
    for name in ["Pelvis spread", "Pelvis squeezed", "Push through", "Sacrum pressed"] {
        press(name).await;
    }
    journey.click("[data-test=rules] label:nth-of-type(3) input").await;
    journey.until_address("rule=3").await;
    journey.until_says("[data-test=rule-published]", "1 study of this very rule").await;
    journey.until_says("[data-test=rule-difference]", "Use the studies").await;
    journey.until_says("[data-test=battery-dependence]", "purpose of both").await;

    // The stairs end where the API says; with less dependence they end higher.
    let ids = "return new URL(location).searchParams.getAll('in')";
    let ids = journey.browser.execute(ids, vec![]).await.unwrap();
    let tests: Vec<Value> = ids.as_array().unwrap().iter().map(|id| json!({ "test": id })).collect();
    let condition =
        journey.api("GET", "/api/v1/tests?region=pelvis", json!({}), Value::Null).await[0]["condition"].clone();
    let asked = json!({ "region": "pelvis", "condition": condition, "pre_test": 0.3, "tests": tests, "at_least": 3,
        "dependence": { "kind": "correlation", "with": 0.5, "without": 0.5 } });
    let answer = journey.api("POST", "/api/v1/combine/battery", json!({}), asked).await;
    let end =
        format!("{:.0}\u{202f}%", 100.0 * answer["dependent"]["counts"][4]["after"]["estimate"].as_f64().unwrap());
    journey.click("[data-test=counts] summary").await;
    let stairs = "[data-test=count-table] tbody tr";
    journey.until(stairs, |steps| steps.last().is_some_and(|step| step.contains(&end))).await;
    journey.browser.execute("document.querySelector('[data-test=dependence-with]').focus()", vec![]).await.unwrap();
    journey.press(&"\u{e012}".repeat(5)).await;
    journey.until_address("depend=0").await;
    journey.until(stairs, |steps| steps.last().is_some_and(|step| !step.contains(&end))).await;

    // That all four are positive in nearly everybody cannot be: the weakest test alone finds fewer.
    journey.click("[data-test=rules] label:nth-of-type(4) input").await;
    journey.until_says("[data-test=claim]", "all positive").await;
    journey.fill("[data-test=claim-sensitivity] input", "99").await;
    journey.until_says("[data-test=claim-verdict]", "Impossible").await;
    journey.fill("[data-test=claim-sensitivity] input", "20").await;
    journey.until_says("[data-test=claim-verdict]", "Possible").await;
    journey.fill("[data-test=claim-sensitivity] input", "116").await;
    journey.until_says("[data-test=claim]", "a number from 0 to 100").await;
    journey.click("[data-test=rules] label:nth-of-type(3) input").await;

    journey.click("[data-test=keep-battery]").await;
    journey.until_says("[data-test=compared-batteries]", "Kept battery").await;
    press("Sacrum pressed").await;
    journey.until_says("[data-test=compared-batteries]", "at least 3 of 4 positive").await;
    journey.until_says("[data-test=compared-batteries]", "all positive").await;
    journey.browser.refresh().await.unwrap();
    journey.until_says("[data-test=compared-batteries]", "at least 3 of 4 positive").await;
    journey.assert_calm_console().await;
    journey.end().await;
}

/// A teacher writes the examination of a module: the order is proposed, one test is moved by hand and the page says what that costs; a second reader
/// signs the plan off, and learners see it as it was.
#[tokio::test]
async fn an_examination_is_planned_signed_off_and_read() {
    let journey = Journey::start().await;
    journey.import("pelvis");
    journey.open("/plan?region=pelvis").await;
    journey.until("[data-test=plan-row]", |plans| plans.len() == 1 && plans[0].contains("standard examination")).await;
    journey.click("[data-test=add-plan]").await;
    journey.fill("[data-test=plan-title] input", "Pelvis, module 3").await;
    for (nth, name) in ["Pelvis squeezed", "Pelvis spread", "Push through", "Sacrum pressed"].into_iter().enumerate() {
        journey.fill("[data-test=add-test] input", name).await;
        journey
            .until(".v-autocomplete__content .v-list-item", |found| found.len() == 1 && found[0].contains(name))
            .await;
        journey.press("\u{e007}").await;
        journey.until("[data-test=planned]", |tests| tests.len() == nth + 1).await;
    }
    // The two that lie face up stand together, the most informative first; what they add is said in patients.
    journey
        .until("[data-test=planned] b", |names| {
            names.len() == 4 && names[0].contains("Push through") && names[1].contains("Pelvis spread")
        })
        .await;
    journey.until_says("[data-test=order-cost]", "This is the proposed order").await;
    journey.until("[data-test=worth]", |worth| worth.len() == 4 && worth[0].contains("changes the decision in")).await;
    journey.click("[data-place='1'] .later").await;
    journey.until_says("[data-test=costs]", "turns the patient 3 times instead of 2").await;
    // What is typed is kept: a reload goes on with it, and with the order chosen by hand.
    journey.until_says("[data-test=kept]", "Kept").await;
    journey.browser.refresh().await.unwrap();
    journey.until_says("[data-test=resumed]", "Goes on").await;
    journey.until_says("[data-test=costs]", "turns the patient 3 times instead of 2").await;
    journey.click("[data-test=propose]").await;
    journey.until_says("[data-test=order-cost]", "This is the proposed order").await;
    // Thresholds that are crossed are refused where they stand.
    journey.fill("[data-test=question-reassure_below] input", "80").await;
    journey.click("[data-test=save-sheet]").await;
    journey.until_says("[data-test=question-reassure_below]", "would begin above treating").await;
    journey.fill("[data-test=question-reassure_below] input", "10").await;
    journey.click("[data-test=save-sheet]").await;
    journey.until_says("[data-test=status]", "Draft").await;
    journey.click("[data-test=step-submit]").await;
    journey.click("[data-test=take-step]").await;
    journey.until_says("[data-test=status]", "In review").await;
    let plan = journey.browser.current_url().await.unwrap().path().to_owned();
    enter_as(&journey, "second_reader").await;
    journey.open(&plan).await;
    journey.click("[data-test=step-sign_off]").await;
    journey.click("[data-test=take-step]").await;
    journey.until_says("[data-test=status]", "Published").await;
    enter_as(&journey, "learner").await;
    journey.open("/plan?region=pelvis").await;
    journey.until("[data-test=plan-row]", |plans| plans.len() == 2).await;
    journey.open(&plan).await;
    journey.until("[data-test=planned]", |tests| tests.len() == 4).await;
    journey.until_says("[data-test=outlook]", "Of 100 such patients").await;
    journey.assert_calm_console().await;
    journey.end().await;
}

/// A learner makes a published plan fit the patient: questions are asked once, the unsafe answer takes a test out and offers another one, and nothing is
/// left out unseen.
#[tokio::test]
async fn a_plan_is_made_to_fit_a_patient() {
    let journey = Journey::start().await;
    enter_as(&journey, "learner").await;
    journey.open("/plan?region=hand_wrist").await;
    journey.click("[data-test=plan-row] a").await;
    journey.until("[data-test=planned]", |tests| tests.len() == 7).await;
    journey.click("[data-test=fit-plan]").await;
    journey.until("[data-test=fit-question]", |asked| asked.len() == 4).await;
    journey.until("[data-test=fit-said]", |said| said.iter().filter(|it| it.starts_with("Locked")).count() == 4).await;
    let answer = async |question: &str, answer: &str| {
        let press = "[...document.querySelectorAll('[data-test=fit-question]')].find((asked) => asked.innerText.includes(arguments[0]))
            .querySelector(`input[value=${arguments[1]}]`).click()";
        journey.browser.execute(press, vec![json!(question), json!(answer)]).await.unwrap();
    };
    for (question, said) in [("three months", "no"), ("scar", "no"), ("Open wound", "no"), ("high shelf", "no")] {
        answer(question, said).await;
        journey.until_address(&format!(".{said}")).await;
    }
    journey.until("[data-test=fit-said]", |said| !said.iter().any(|it| it.starts_with("Locked"))).await;
    journey.until("[data-test=plan-tests] h3", |groups| groups.last().is_some_and(|it| it == "Not now")).await;
    journey.until_says(".not_now", "Hands raised overhead").await;
    journey.until_says("[data-test=alternative]", "Wrist flexion, held passes the same screening").await;
    // A reload still knows; another patient begins anew.
    journey.browser.refresh().await.unwrap();
    journey.until_says("[data-test=fit-unsafe]", "Painful or unstable shoulder").await;
    answer("high shelf", "yes").await;
    journey.until("[data-test=fit-unsafe]", |said| said.is_empty()).await;
    journey.click("[data-test=fit-clear]").await;
    journey.until("[data-test=fit-said]", |said| said.iter().filter(|it| it.starts_with("Locked")).count() == 4).await;
    // Results are tried: two negative ones decide, and yet it does not end before what must not be missed was asked about.
    journey.click("[data-test=try-results]").await;
    journey.until_says("[data-test=standing-end]", "Next: Two points at the fingertip").await;
    // Of what is locked no result is asked; without a patient all are open.
    journey.until("[data-test=plan-result]", |asked| asked.len() == 2).await;
    journey.click("[data-test=fit-plan]").await;
    journey.until("[data-test=plan-result]", |asked| asked.len() == 7).await;
    for place in [3, 4] {
        journey.click(&format!("[data-place='{place}'] [data-test=result-negative]")).await;
        journey.until(&format!("[data-place='{place}'] [data-test=result-said]"), |said| said.len() == 1).await;
    }
    journey.click("[data-place='2'] [data-test=result-unreadable]").await;
    journey.until_says("[data-test=standing-end]", "Not finished: a condition that must not be missed").await;
    journey.click("[data-test=must-not-miss] input").await;
    journey.until_says("[data-test=standing-end]", "Enough is known about every condition").await;
    journey.browser.refresh().await.unwrap();
    journey.until_says("[data-test=standing-end]", "Enough is known about every condition").await;
    journey.assert_calm_console().await;
    journey.end().await;
}

/// A learner examines by keyboard: a caution takes a test out, an urgent finding interrupts, a reload loses nothing, and the record is theirs alone, on paper too.
#[tokio::test]
async fn an_examination_is_carried_out_and_leaves_a_record() {
    let journey = Journey::start().await;
    enter_as(&journey, "learner").await;
    journey.open("/plan?region=hand_wrist").await;
    journey.click("[data-test=plan-row] a").await;
    journey.click("[data-test=examine]").await;
    journey.until("[data-test=examine-question]", |asked| asked.len() == 4).await;
    journey.until("[data-test=examine-step]", |steps| steps.len() == 9).await;
    // "No" to the high shelf takes the test out whose arms are raised.
    let all_no = "document.querySelectorAll('[data-test=answer-no]').forEach((it) => it.click())";
    journey.browser.execute(all_no, vec![]).await.unwrap();
    journey.until("[data-test=examine-step]", |steps| steps[6].contains("not now")).await;
    journey.until_says("[data-test=kept]", "Kept").await;
    journey.press("\u{e014}").await;
    journey.until_says("[data-test=examine-test] h2", "Two points at the fingertip").await;
    journey.press("3").await;
    journey
        .until("[data-test=attempt]", |made| {
            made.len() == 1 && made[0].contains("sound side") && made[0].contains("Negative")
        })
        .await;
    journey.press("1").await;
    journey.until_says("[data-test=test-reading]", "Positive").await;
    journey.until("[data-test=examine-step]", |steps| steps[1].contains("done")).await;
    let before = journey.text("[data-test=probability-row] b").await;
    assert_ne!(before, "35\u{202f}%");
    for _ in 0..4 {
        journey.press("\u{e014}").await;
    }
    journey.until_says("[data-test=examine-test] h2", "Wrist flexion, held").await;
    journey.click("[data-test=urgent-found]").await;
    journey.until_says("[data-test=urgent-alert]", "do not wait for another test").await;
    journey.click("[data-test=urgent-done]").await;
    journey.until("[data-test=urgent-alert]", <[String]>::is_empty).await;
    journey.press("a").await;
    journey.press("4").await;
    journey.press("1").await;
    journey.until_says("[data-test=attempt]", "Not interpretable: guarding").await;
    journey.until_says("[data-test=kept]", "Kept").await;
    journey.browser.refresh().await.unwrap();
    journey.until_says("[data-test=attempt]", "Not interpretable: guarding").await;
    assert_eq!(journey.text("[data-test=probability-row] b").await, before, "what tells nothing moves nothing");
    journey.press("\u{e014}").await;
    journey.click("[data-test=finish]").await;
    journey.until_says("[data-test=finish-faults]", "Nothing is concluded").await;
    journey.fill("[data-test=conclusion-text] textarea:not([aria-hidden])", "Not clear yet").await;
    journey.blur().await;
    journey.click("[data-test=take-repeat]").await;
    journey.until("[data-test=repeat]", |due| due.len() == 1).await;
    journey.click("[data-test=finish]").await;
    journey.until_says("[data-test=record-conclusion]", "Not clear yet").await;
    journey
        .until("[data-test=record-left]", |left| left.iter().any(|it| it.contains("Painful or unstable shoulder")))
        .await;
    journey.until("[data-test=share]", <[String]>::is_empty).await;
    let paper = "const done = arguments[0];
        fetch(document.querySelector('[data-test=examination-pdf]').href).then(async (it) => done([it.status, (await it.text()).slice(0, 5)]))";
    let paper = journey.browser.execute_async(paper, vec![]).await.unwrap();
    assert_eq!(paper, json!([200, "%PDF-"]));
    let record = journey.browser.current_url().await.unwrap().path().to_owned();
    journey.open("/plan/examinations?state=due").await;
    journey.until("[data-test=due]", |due| due.len() == 1 && due[0].starts_with("due")).await;
    enter_as(&journey, "author").await;
    journey.open(&record).await;
    journey.until_says("h2", "could not be read").await;
    journey.end().await;
}

/// The whole way: tests are put together and a claim of them is checked, the plan is carried out past a caution, its record goes to paper, the reference
/// result comes in, and what one's own records say becomes a local result that no pool takes unasked.
#[tokio::test]
async fn from_a_battery_to_a_record_and_a_local_result() {
    let journey = Journey::start().await;
    journey.import("pelvis");
    journey.open("/plan/battery?region=pelvis").await;
    journey.until("[data-test=battery-test]", |tests| tests.len() == 6).await;
    let two = "[...document.querySelectorAll('[data-test=battery-test] input[type=checkbox]')].slice(0, 2).forEach((it) => it.click())";
    journey.browser.execute(two, vec![]).await.unwrap();
    journey.click("[data-test=rules] label:nth-of-type(2) input").await;
    journey.fill("[data-test=claim-sensitivity] input", "100").await;
    journey.fill("[data-test=claim-specificity] input", "100").await;
    journey.until_says("[data-test=claim-verdict]", "Impossible").await;

    journey.open("/plan?region=pelvis").await;
    journey.click("[data-test=plan-row] a").await;
    journey.click("[data-test=examine]").await;
    journey.click("[data-test=answer-yes]").await;
    journey
        .until("[data-test=examine-step]", |steps| steps.iter().filter(|it| it.contains("not now")).count() == 5)
        .await;
    journey.click("[data-test=answer-no]").await;
    // One of them is done only where it is asked for.
    journey
        .until("[data-test=examine-step]", |steps| steps.iter().filter(|it| it.contains("not now")).count() == 1)
        .await;
    journey.press("\u{e014}").await;
    journey.until_says("[data-test=examine-test] h2", "Straight leg").await;
    journey.press("a").await;
    journey.press("1").await;
    journey.until_says("[data-test=test-reading]", "Positive").await;
    journey.click("[data-test=examine-step]:last-of-type").await;
    journey.fill("[data-test=conclusion-text] textarea:not([aria-hidden])", "Probably the joint").await;
    journey.blur().await;
    journey.click("[data-test=finish]").await;
    journey.until_says("[data-test=record-conclusion]", "Probably the joint").await;
    let paper = "const done = arguments[0];
        fetch(document.querySelector('[data-test=examination-pdf]').href).then(async (it) => done([it.status, (await it.text()).slice(0, 5)]))";
    assert_eq!(journey.browser.execute_async(paper, vec![]).await.unwrap(), json!([200, "%PDF-"]));

    journey.open("/plan/examinations").await;
    journey.until_says("[data-test=examinations-waiting]", "1 awaits a reference result").await;
    journey.click("[data-test=examination-row]:first-of-type h2 a").await;
    journey.click("[data-test=enter-reference]").await;
    journey.click("[data-test=found-present]").await;
    journey.click("[data-test=save-reference]").await;
    journey.until_says("[data-test=reference-fields]", "Say what told.").await;
    journey.click("[data-test=by-0]").await;
    journey.click(".v-overlay-container .v-list-item:nth-of-type(2)").await;
    journey.click("[data-test=save-reference]").await;
    journey.until_says("[data-test=reference-result]", "present, imaging").await;

    journey.open("/plan/in-your-hands?region=pelvis").await;
    journey.click("[data-test=enter-local]").await;
    journey.until_says("[data-test=local-counts]", "1 true positive").await;
    journey.click("[data-test=save-local]").await;
    journey.until_says("[data-test=local-dialog]", "in every domain").await;
    for domain in ["patient_selection", "index_test", "reference_standard", "flow_timing"] {
        journey.click(&format!("[data-test={domain}-risk] input[value=unclear]")).await;
    }
    journey.click("[data-test=save-local]").await;
    journey.until_says("[data-test=own-test]", "In the catalogue as a local result").await;
    journey.click("[data-test=own-test] h3 a").await;
    journey.until("[data-test=result-row]", |out| out.iter().any(|it| it.contains("only by choice"))).await;
    journey.assert_calm_console().await;
    journey.end().await;
}

/// An author whose sheet is contradicted: the checks begin an entry of the register, which stands on the sheet once it is filed; and the test is
/// found under its second condition.
#[tokio::test]
async fn a_contradiction_is_filed_and_stands_on_its_sheet() {
    let journey = Journey::start().await;
    let variant = |name: &str, motion: &str| {
        json!({ "name": name, "steps": [{ "text": "Turn", "joint": "cervical_spine", "motion": motion, "mode": "passive" }],
            "targets": [{ "structure": "Median nerve", "role": "tension" }] })
    };
    let sheet = json!({ "name": "Neck turned twice", "region": "neck", "purpose": "nerve_tension",
        "condition": "Nerve-root irritation in the neck", "other_conditions": ["Stiff neck"], "positive_finding": "Tingling",
        "variants": [variant("Left", "rotation_away"), variant("Right", "rotation_towards")] });
    let test = journey.api("POST", "/api/v1/tests", json!({}), sheet).await;
    let page = format!("/tests/{}?region=neck&condition=Stiff%20neck", test["id"].as_str().unwrap());
    journey.open(&page).await;
    journey.until_says("[data-test=figures-for]", "Stiff neck").await;
    journey.click("[data-test=sheet-findings] summary").await;
    journey.click("[data-test=file-conflict]").await;
    journey.until("[data-test=conflict-dialog]", |dialogs| dialogs.len() == 1).await;
    for (field, text) in [
        ("claim-0] textarea:not([aria-hidden])", "It is loaded when the neck turns away."),
        ("claim-source-0] input", "School A (made up)"),
        ("claim-1] textarea:not([aria-hidden])", "It is loaded when the neck turns towards it."),
        ("claim-source-1] input", "School B (made up)"),
    ] {
        journey.fill(&format!("[data-test={field}"), text).await;
    }
    journey.click("[data-test=conflict-topic] .v-field").await;
    journey.click(".v-overlay-container .v-list-item:nth-of-type(3)").await;
    journey.until(".v-overlay-container .v-list-item", <[String]>::is_empty).await;
    journey.click("[data-test=save-conflict]").await;
    journey.until("[data-test=conflict-dialog]", <[String]>::is_empty).await;
    journey.until("[data-test=conflict-entry]", |entries| entries.iter().any(|it| it.contains("turns away"))).await;
    journey.open(&page).await;
    journey.until_says("[data-test=sheet-conflicts]", "Open: no verdict yet").await;
    journey.open("/catalogue?region=neck&condition=Stiff%20neck").await;
    journey.until(NAME, |names| names.iter().any(|name| name.contains("Neck turned twice"))).await;
    journey.assert_calm_console().await;
    journey.end().await;
}

/// A colleague with a phone: the question opens from its line, everything else from one menu, and nothing has to be moved sideways.
#[tokio::test]
async fn a_phone_is_enough() {
    let journey = Journey::start().await;
    journey.resize(390, 844).await;
    journey.open("/catalogue?region=hand_wrist").await;
    journey.until(NAME, |names| names.len() == 8).await;
    journey.until_says("[data-test=first-visit]", "First visit, 1 of 4").await;
    journey.click("[data-test=visit-end]").await;
    journey.until("[data-test=first-visit]", <[String]>::is_empty).await;
    journey.click("[data-test=question-line]").await;
    journey.fill("[data-test=pretest]", "20").await;
    journey.until_says("[data-test=question-line]", "20").await;
    journey.click("[data-test=question-line]").await;
    journey.click(NAME).await;
    journey.until_says("h1", "Carpal compression").await;
    journey.until_says("[data-test=answer]", "starting from 20").await;
    journey.click("[data-test=to-patient]").await;
    journey.until("[data-test=first-visit]", <[String]>::is_empty).await;
    journey.click("[data-test=found-positive]").await;
    journey.until("[data-test=walk-found]", |steps| steps.len() == 1).await;
    journey.click("[data-test=account]").await;
    journey.click("[data-test=menu-structures]").await;
    journey.until("[data-test=structure-row]", |rows| rows.len() > 20).await;
    journey.end().await;
}

/// What assistive technology meets on every view, in light and dark, and on a phone; there nothing is wider than the page, on the narrowest
/// either.
#[tokio::test]
async fn no_view_has_a_serious_barrier() {
    let journey = Journey::start_signed_out().await;
    let axe = std::fs::read_to_string("../../web/node_modules/axe-core/axe.min.js").unwrap();
    let run = "const [source, done] = arguments;
        if (!window.axe) new Function(source)();
        axe.run(document, { resultTypes: ['violations'] }).then((found) => done(found.violations
            .filter((it) => ['serious', 'critical'].includes(it.impact))
            .map((it) => `${it.id}: ${it.nodes.map((node) => node.target.join(' ')).slice(0, 4).join(' | ')}`)), (e) => done([String(e)]))";
    let look = async |view: &str| {
        let found = journey.browser.execute_async(run, vec![json!(axe)]).await.unwrap();
        assert_eq!(found, json!([]), "{view}");
    };
    journey.open("/").await;
    journey.until("[data-test=sign-in]", |buttons| buttons.len() == 1).await;
    look("sign-in").await;
    enter_as(&journey, "administrator").await;
    let rows = journey.api("GET", "/api/v1/tests?search=turned,%20measured", json!({}), Value::Null).await;
    let sheet = format!("/tests/{}", rows[0]["id"].as_str().unwrap());
    let twice = journey.api("GET", "/api/v1/extractions?progress=twice", json!({}), Value::Null).await;
    let settling = format!("/extractions/{}", twice["rows"][0]["id"].as_str().unwrap());
    let rows = journey.api("GET", "/api/v1/tests?search=wrist%20flexion", json!({}), Value::Null).await;
    let pooled = rows[0]["id"].as_str().unwrap();
    let conditions = journey.api("GET", "/api/v1/conditions", json!({}), Value::Null).await;
    let counted = conditions.as_array().unwrap().iter().find(|it| it["prevalence"] != json!([])).unwrap();
    let prevalence = format!("/conditions/{}/prevalence", counted["id"].as_str().unwrap());
    let frozen = json!({ "title": "Frozen", "pool": { "tests": [pooled] } });
    let frozen = journey.api("POST", "/api/v1/snapshots", json!({}), frozen).await;
    let rows = journey.api("GET", "/api/v1/tests?region=hand_wrist", json!({}), Value::Null).await;
    let id = |nth: usize| rows[nth]["id"].as_str().unwrap();
    let battery = format!("/plan/battery?region=hand_wrist&in={}&in={}&against=1.{}.{}", id(0), id(1), id(1), id(2));
    let plans = journey.api("GET", "/api/v1/plans", json!({}), Value::Null).await;
    let plan = format!("/plan/{}", plans[0]["id"].as_str().unwrap());
    let begin = async || {
        let body = json!({ "plan": plans[0]["id"] });
        journey.api("POST", "/api/v1/examinations", json!({}), body).await["id"].as_str().unwrap().to_owned()
    };
    let (running, done) = (begin().await, begin().await);
    let concluded = json!({ "conduct": { "conclusion": { "undecided": true } } });
    journey.api("PUT", &format!("/api/v1/examinations/{done}"), json!({ "If-Match": "\"1\"" }), concluded).await;
    let finish = format!("/api/v1/examinations/{done}/finish");
    journey.api("POST", &finish, json!({ "If-Match": "\"2\"" }), Value::Null).await;
    let wider = "return document.documentElement.scrollWidth - innerWidth";
    for (kind, width) in [("light", 1280), ("dark", 1280), ("on a phone", 320)] {
        if kind == "dark" {
            journey.click("[data-test=theme]").await;
        }
        journey.resize(width, 800).await;
        for (path, ready) in [
            ("/catalogue?search=wrist", ROW),
            (sheet.as_str(), "[data-test=try-table]"),
            (&format!("{sheet}/edit"), "[data-test=findings]"),
            (&format!("{sheet}/history"), "[data-test=version]"),
            ("/structures?region=hand_wrist", "[data-test=structure-row]"),
            (&prevalence, "[data-test=by-chance]"),
            ("/conflicting-teaching?region=hand_wrist", "[data-test=conflict-entry]"),
            ("/exchange", "[data-test=bundle-file]"),
            ("/exchange/table", "[data-test=choose-table-file]"),
            ("/references", "[data-test=references]"),
            ("/extractions?region=hand_wrist", "[data-test=extractions]"),
            (&settling, "[data-test=compared]"),
            (&format!("/pooling?region=hand_wrist&tests={pooled}&by=setting"), "[data-test=influence]"),
            (&format!("/pooling/{}", frozen["id"].as_str().unwrap()), "[data-test=snapshot-results]"),
            ("/likelihood?region=hand_wrist&ahead=true", "[data-test=ratio-row]"),
            (&format!("/likelihood/patient?region=hand_wrist&reassure=8&act=75&look={pooled}"), "[data-test=guards]"),
            ("/likelihood/study-size", "[data-test=plan-answer]"),
            (&battery, "[data-test=compared-batteries]"),
            ("/plan?region=hand_wrist", "[data-test=plan-row]"),
            ("/plan/examinations", "[data-test=examination-row]"),
            ("/plan/in-your-hands?region=hand_wrist", "[data-test=own-none], [data-test=own-test]"),
            (&format!("/plan/examinations/{running}/examine"), "[data-test=examine-question]"),
            (&format!("/plan/examinations/{running}/examine?at={}", id(0)), "[data-test=examine-test] h2"),
            (&format!("/plan/examinations/{running}/examine?at=end"), "[data-test=plan-standing]"),
            (&format!("/plan/examinations/{done}"), "[data-test=record-left]"),
            (&format!("{plan}?fit=true&try=true"), "[data-test=result-said]"),
            (&format!("{plan}/edit"), "[data-test=order-cost]"),
            (&format!("{plan}/history"), "[data-test=change]"),
            ("/people", "[data-test=account-row]"),
            ("/guide/pooling", "[data-test=guide-page]"),
            ("/catalogue?search=zzz", ".notice"),
        ] {
            journey.open(path).await;
            journey.until(ready, |found| !found.is_empty()).await;
            look(&format!("{path}, {kind}")).await;
            assert_eq!(journey.browser.execute(wider, vec![]).await.unwrap(), json!(0), "{path}, {kind}");
        }
    }
    journey.end().await;
}
