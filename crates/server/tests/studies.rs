//! How a study was done, over the API.

#![allow(clippy::unwrap_used, reason = "a failed step is a failed test")]

mod support;

use rocket::http::Status;
use serde_json::{Value, json};
use support::Server;

#[rocket::async_test]
async fn a_study_keeps_what_its_report_says_of_how_it_was_done() {
    let server = Server::start().await;
    let sheet = json!({ "name": "Thumb lift", "region": "hand_wrist", "purpose": "strength", "condition": "Weak thumb",
        "positive_finding": "Weaker than the other side" });
    let (_, test) = server.post("/api/v1/tests", &sheet).await;
    let studies = format!("/api/v1/tests/{}/studies", test["id"].as_str().unwrap());
    let study =
        |setup: &Value| json!({ "reference": "Sample report", "setup": setup, "tp": 20, "fp": 1, "fn": 5, "tn": 24 });
    let (status, plain) = server.post(&studies, &json!({ "reference": "Older program", "tp": 20, "fn": 5 })).await;
    assert_eq!((status, &plain["setup"]), (Status::Created, &json!({})), "{plain}");

    let wrong = json!({ "people": 40, "women": 120, "first_year": 2012, "last_year": 2010 });
    let (status, problem) = server.post(&studies, &study(&wrong)).await;
    let faults = problem["errors"].as_array().unwrap();
    let fields: Vec<_> = faults.iter().map(|error| error["field"].as_str().unwrap()).collect();
    assert_eq!(status, Status::UnprocessableEntity);
    assert_eq!(fields, ["setup.women", "setup.last_year", "setup.people"], "{problem}");
    assert!(faults.iter().all(|error| !error["remedy"].as_str().unwrap().is_empty()));
    assert_eq!(server.post(&studies, &study(&json!({ "design": "guess" }))).await.0, Status::BadRequest);

    let told = json!({ "design": "one_group", "setting": "primary_care", "country": "Vessmark (made up)",
        "people": 27.0, "women": 61.5, "state": "awake", "unit": "side" });
    let (status, added) = server.post(&studies, &study(&told)).await;
    assert_eq!((status, &added["setup"]), (Status::Created, &told), "fifty cells are the sides of 27 people");
    let path = format!("/api/v1/studies/{}", added["id"].as_str().unwrap());
    let (status, corrected) = server.put(&path, "\"1\"", &study(&json!({ "people": 50 }))).await;
    assert_eq!((status, &corrected["setup"]), (Status::Ok, &json!({ "people": 50.0 })), "what is left out is gone");
    let (_, listed) = server.get(&studies).await;
    assert_eq!(listed[1]["setup"], json!({ "people": 50.0 }));
    let (_, changes) = server.get(&format!("{studies}/history")).await;
    assert_eq!((&changes[0]["before"]["setup"], &changes[0]["action"]), (&told, &json!("edited")), "{changes}");
    server.end().await;
}
