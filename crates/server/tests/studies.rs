//! Studies over the API: how they were done, their several results, and who is counted once.

use crate::support::Server;
use rocket::http::Status;
use serde_json::{Value, json};

fn faults(problem: &Value) -> Vec<&str> {
    problem["errors"].as_array().unwrap().iter().map(|error| error["field"].as_str().unwrap()).collect()
}

async fn thumb_lift(server: &Server) -> (Value, String) {
    let sheet = json!({ "name": "Thumb lift", "region": "hand_wrist", "purpose": "strength", "condition": "Weak thumb",
        "positive_finding": "Weaker than the other side" });
    let (_, test) = server.post("/api/v1/tests", &sheet).await;
    let results = format!("/api/v1/tests/{}/results", test["id"].as_str().unwrap());
    (test, results)
}

#[rocket::async_test]
async fn a_study_keeps_what_its_report_says_of_how_it_was_done() {
    let server = Server::start().await;
    let (_, results) = thumb_lift(&server).await;
    let body = |setup: &Value, unit: &str| {
        json!({ "study": { "reference": "Sample report", "setup": setup },
            "result": { "unit": unit, "tp": 20, "fp": 1, "fn": 5, "tn": 24 } })
    };
    let wrong = json!({ "women": 120, "first_year": 2012, "last_year": 2010 });
    let mut both = body(&wrong, "person");
    both["result"]["tp"] = json!(1.5);
    let (status, problem) = server.post(&results, &both).await;
    assert_eq!(status, Status::UnprocessableEntity);
    assert_eq!(faults(&problem), ["study.setup.women", "study.setup.last_year", "result.tp"], "{problem}");
    assert!(problem["errors"].as_array().unwrap().iter().all(|error| !error["remedy"].as_str().unwrap().is_empty()));
    assert_eq!(server.post(&results, &body(&json!({ "design": "guess" }), "person")).await.0, Status::BadRequest);
    let (_, problem) = server.post(&results, &body(&json!({ "people": 27 }), "person")).await;
    assert_eq!(faults(&problem), ["study.setup.people"]);
    assert_eq!(server.get(&results).await.1, json!([]), "what is refused leaves no study behind");

    let told = json!({ "design": "one_group", "setting": "primary_care", "country": "Vessmark (made up)",
        "people": 27.0, "women": 61.5, "state": "awake" });
    let (status, added) = server.post(&results, &body(&told, "side")).await;
    assert_eq!((status, &added["study"]["setup"]), (Status::Created, &told), "fifty cells are the sides of 27 people");
    let study = &added["study"];
    let path = format!("/api/v1/studies/{}", study["id"].as_str().unwrap());
    let says = |people: u32| json!({ "reference": "Sample report", "setup": { "people": people } });
    let (_, problem) = server.put(&path, "\"1\"", &says(24)).await;
    assert_eq!(faults(&problem), ["setup.people"], "its result holds more");
    let (status, corrected) = server.put(&path, "\"1\"", &says(50)).await;
    assert_eq!((status, &corrected["setup"]), (Status::Ok, &json!({ "people": 50.0 })), "what is left out is gone");
    assert_eq!(server.put(&path, "\"1\"", &says(60)).await.0, Status::PreconditionFailed);
    let (_, changes) = server.get(&format!("{results}/history")).await;
    assert_eq!((&changes[0]["kind"], &changes[0]["before"]["setup"]), (&json!("study"), &told), "{changes}");
    server.end().await;
}

#[rocket::async_test]
async fn several_results_of_one_study_count_its_people_once() {
    let server = Server::start().await;
    let (test, results) = thumb_lift(&server).await;
    let (_, press) = server
        .post(
            "/api/v1/tests",
            &json!({ "name": "Thumb press", "region": "hand_wrist", "purpose": "strength",
            "condition": "Weak thumb", "positive_finding": "Weaker" }),
        )
        .await;
    let cells = json!({ "tp": 20, "fp": 1, "fn": 5, "tn": 24 });
    let (_, first) =
        server.post(&results, &json!({ "study": { "reference": "Sample report" }, "result": cells })).await;
    let (_, known) = server.get("/api/v1/studies?reference=sample%20REPORT").await;
    assert_eq!((&known[0]["id"], &known[0]["results"]), (&first["study"]["id"], &json!(1)));
    assert_eq!(known[0]["tests"], json!([{ "id": test["id"], "name": "Thumb lift" }]));
    assert_eq!(server.get("/api/v1/studies?reference=Another").await.1, json!([]));
    assert_eq!(server.get("/api/v1/studies").await.0, Status::BadRequest);

    // The same people by another criterion: their words may be completed on the way, at the version that was read.
    let of = |version: u32, result: &Value| {
        json!({ "study_id": known[0]["id"], "study_version": version,
            "study": { "reference": "Sample report", "population": "Adults" }, "result": result })
    };
    let strict = json!({ "criterion": "Much weaker", "page": "Table 3", "tp": 9, "fp": 0, "fn": 16, "tn": 25 });
    let (status, second) = server.post(&results, &of(1, &strict)).await;
    assert_eq!((status, &second["left_out"]["code"]), (Status::Created, &json!("same_people")), "{second}");
    assert_eq!((&second["study"]["version"], &second["study"]["results"]), (&json!(2), &json!(2)));
    let (status, problem) = server.post(&results, &of(1, &strict)).await;
    assert_eq!((status, &problem["current_version"]), (Status::PreconditionFailed, &json!(2)), "{problem}");
    let mut unread = of(2, &strict);
    unread["study_version"] = Value::Null;
    assert_eq!(faults(&server.post(&results, &unread).await.1), ["study_version"]);
    let pooled = async || {
        let (_, answer) = server.get(&format!("/api/v1/tests/{}/pooled", test["id"].as_str().unwrap())).await;
        (
            answer["pooled"]["k"].clone(),
            answer["pooled"]["diseased"].clone(),
            answer["pooled"]["sensitivity"]["estimate"].clone(),
        )
    };
    assert_eq!(pooled().await, (json!(1), json!(25), json!(0.8)));
    let mut chosen = strict.clone();
    chosen["preferred"] = json!(true);
    let path = format!("/api/v1/results/{}", second["id"].as_str().unwrap());
    let (_, chosen) = server.put(&path, "\"1\"", &json!({ "result": chosen })).await;
    assert_eq!((&chosen["left_out"], pooled().await), (&Value::Null, (json!(1), json!(25), json!(0.36))));
    // What a correction would change is told before, and changes nothing; what would be refused is refused here too.
    let effect = format!("{results}/effect");
    let worse = json!({ "result": { "tp": 10, "fp": 3, "fn": 15, "tn": 24, "preferred": true } });
    let correcting = format!("{effect}?correcting={}", first["id"].as_str().unwrap());
    let (status, would) = server.post(&correcting, &worse).await;
    let sensitivity = |answer: &Value| answer["pooled"]["sensitivity"]["estimate"].clone();
    assert_eq!(
        (status, sensitivity(&would["before"]), sensitivity(&would["after"])),
        (Status::Ok, json!(0.36), json!(0.4)),
        "{would}"
    );
    let shifts = |worth: &Value| (worth["before"]["shift"].clone(), worth["after"]["shift"].clone());
    assert_eq!(shifts(&would["positive"]), (json!("large"), json!("small")), "LR+ 18 and 3.6");
    assert_eq!(shifts(&would["negative"]), (json!("slight"), json!("slight")));
    assert_eq!(faults(&server.post(&correcting, &json!({ "result": { "tp": 1.5, "fn": 2 } })).await.1), ["result.tp"]);
    let other = json!({ "study": { "reference": "Another" }, "result": cells });
    let (_, would) = server.post(&effect, &other).await;
    assert_eq!((&would["before"]["pooled"]["k"], &would["after"]["pooled"]["k"]), (&json!(1), &json!(2)));
    assert_eq!(pooled().await, (json!(1), json!(25), json!(0.36)), "nothing was changed");
    assert_eq!(server.get("/api/v1/studies?reference=Another").await.1, json!([]));
    // As a table they are two rows of one study.
    let csv = server.client.get("/api/v1/results/table/csv?region=hand_wrist").dispatch().await;
    let csv = csv.into_string().await.unwrap();
    let rows: Vec<&str> = csv.lines().skip(1).collect();
    assert!(
        rows.len() == 2 && rows.iter().all(|row| row.starts_with("Thumb lift,hand_wrist,1,Sample report,")),
        "{csv}"
    );
    let book = server.client.get("/api/v1/results/table/xlsx").dispatch().await;
    let named = book.headers().get_one("Content-Disposition").unwrap().to_owned();
    assert_eq!(named, "attachment; filename=\"pruvex-results-all.xlsx\"");
    assert!(book.into_bytes().await.unwrap().starts_with(b"PK"), "a workbook is a ZIP archive");
    assert_eq!(server.get("/api/v1/results/table/ods").await.0, Status::NotFound);
    assert_eq!(server.get("/api/v1/results/table/csv?region=tail").await.0, Status::BadRequest);
    // The catalogue counts them once as well.
    let (_, rows) = server.get("/api/v1/tests?search=lift").await;
    assert_eq!((&rows[0]["studies"], &rows[0]["patients"]), (&json!(1), &json!(50)));

    // Of both tests together it is a result of its own.
    let mut together = strict.clone();
    together["together"] = json!({ "tests": [press["id"], test["condition"]], "rule": "any" });
    assert_eq!(server.post(&results, &of(2, &together)).await.0, Status::BadRequest);
    together["together"] = json!({ "tests": [first["id"]], "rule": "any" });
    assert_eq!(faults(&server.post(&results, &of(2, &together)).await.1), ["result.together.tests"]);
    together["together"] = json!({ "tests": [test["id"]], "rule": "any" });
    assert_eq!(faults(&server.post(&results, &of(2, &together)).await.1), ["result.together.tests"], "it is there");
    together["together"] = json!({ "tests": [press["id"]], "rule": { "at_least": 2 } });
    let (_, both) = server.post(&results, &of(2, &together)).await;
    assert_eq!(
        (&both["left_out"]["code"], &both["others"][0]["name"]),
        (&json!("together"), &json!("Thumb press")),
        "{both}"
    );
    server.end().await;
}

#[rocket::async_test]
async fn a_study_is_appraised_domain_by_domain_with_reasons() {
    let server = Server::start().await;
    let (_, results) = thumb_lift(&server).await;
    let cells = json!({ "tp": 20, "fp": 1, "fn": 5, "tn": 24 });
    let (_, added) =
        server.post(&results, &json!({ "study": { "reference": "Sample report" }, "result": cells })).await;
    assert_eq!(added["study"]["appraisals"], json!([]));
    let (_, asked) = server.get("/api/v1/appraisals").await;
    assert_eq!((&asked[0]["aspect"], &asked[0]["domains"][3]["concern"]), (&json!("accuracy"), &json!(false)));
    assert_eq!(asked[1]["domains"][1]["questions"], json!(["representative_examiners", "same_training"]));

    let path = format!("/api/v1/studies/{}/appraisals/accuracy", added["study"]["id"].as_str().unwrap());
    let domains = |reason: &str| json!({ "domains": { "index_test": { "answers": { "test_read_blind": "no" }, "risk": "high", "reason": reason } } });
    let (_, suggested) = server.post("/api/v1/appraisals/accuracy", &domains("")).await;
    assert_eq!(suggested, json!({ "index_test": "high" }));
    assert_eq!(server.post("/api/v1/appraisals/luck", &domains("")).await.0, Status::NotFound);
    let (status, problem) = server.put(&path, "\"0\"", &domains(" ")).await;
    assert_eq!((status, faults(&problem)), (Status::UnprocessableEntity, vec!["domains.index_test.reason"]));
    let (status, first) = server.put(&path, "\"0\"", &domains("Read after the scan.")).await;
    assert_eq!((status, &first["version"], &first["overall"]), (Status::Ok, &json!(1), &json!("high")), "{first}");
    let (status, problem) = server.put(&path, "\"0\"", &domains("Somebody else.")).await;
    assert_eq!((status, &problem["current_version"]), (Status::PreconditionFailed, &json!(1)), "two began at once");
    assert_eq!(server.put(&path, "\"1\"", &json!({})).await.1["overall"], Value::Null);
    let (_, listed) = server.get(&results).await;
    assert_eq!(listed[0]["study"]["appraisals"][0]["version"], json!(2));
    let (_, changes) = server.get(&format!("{results}/history")).await;
    assert_eq!((&changes[0]["kind"], &changes[0]["study"]), (&json!("appraisal"), &json!("Sample report")));
    assert_eq!(changes[0]["before"]["domains"]["index_test"]["reason"], json!("Read after the scan."));
    assert_eq!(server.put(&path.replace("accuracy", "luck"), "\"0\"", &json!({})).await.0, Status::NotFound);
    server.end().await;
}
