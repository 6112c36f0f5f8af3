//! Routes against a real PostgreSQL: what a client may count on, and every way to be refused.

use crate::support::Server;
use pruvex_store::{ConnectionTrait, Connections, TransactionTrait};
use rocket::futures::future::{join, join_all};
use rocket::http::{ContentType, Header, Status};
use serde_json::{Value, json};

fn sheet(name: &str) -> Value {
    json!({
        "name": name, "aliases": [format!("{name} (old name)")], "region": "hand_wrist", "purpose": "strength",
        "condition": "Thumb weakness", "positive_finding": "Weaker than the other side",
        "cautions": [{ "text": "Stop on pain", "kind": "stop_rule" }],
        "variants": [{ "name": "As taught", "patient_position": "Sitting",
            "steps": [{ "text": format!("Ask to lift the thumb for {name}") }, { "text": "Resist" }],
            "targets": [{ "structure": "Short thumb abductor", "role": "contracted" }] }]
    })
}

/// A result of a study of its own.
fn result(tp: Value, fp: Value, fn_: Value, tn: Value) -> Value {
    json!({ "study": { "reference": "Sample report", "population": "Adults" },
        "result": { "reference_standard": "Follow-up", "tp": tp, "fp": fp, "fn": fn_, "tn": tn } })
}

#[rocket::async_test]
async fn a_sheet_is_written_found_and_never_overwritten_unseen() {
    let server = Server::start().await;
    let (status, created) = server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    assert_eq!(status, Status::Created);
    let path = format!("/api/v1/tests/{}", created["id"].as_str().unwrap());

    for search in ["thumb%20LI", "old%20name", "Thumb"] {
        let (_, rows) = server.get(&format!("/api/v1/tests?search={search}&region=hand_wrist")).await;
        assert_eq!(rows.as_array().unwrap().len(), 1, "{search}");
        assert_eq!(rows[0]["evidence"], "not_studied");
        assert_eq!(rows[0]["summary"], Value::Null);
    }
    let (_, none) = server.get("/api/v1/tests?search=elbow").await;
    assert_eq!(none, json!([]));

    let mut mine = sheet("Thumb lift, resisted");
    let (status, saved) = server.put(&path, "\"1\"", &mine).await;
    assert_eq!((status, &saved["version"]), (Status::Ok, &json!(2)));

    mine["positive_finding"] = json!("Stronger");
    let (status, problem) = server.put(&path, "\"1\"", &mine).await;
    assert_eq!((status, &problem["code"]), (Status::PreconditionFailed, &json!("changed_meanwhile")));
    assert_eq!(problem["current_version"], 2);
    let (status, problem) = server.send_json(server.client.put(&path), &mine).await;
    assert_eq!((status, &problem["code"]), (Status::PreconditionRequired, &json!("if_match_missing")));
    let (status, _) = server.put(&path, "\"two\"", &mine).await;
    assert_eq!(status, Status::BadRequest);
    let (_, kept) = server.get(&path).await;
    assert_eq!(
        (&kept["positive_finding"], &kept["name"]),
        (&json!("Weaker than the other side"), &json!("Thumb lift, resisted"))
    );
    server.end().await;
}

#[rocket::async_test]
async fn every_fault_of_a_sheet_is_named_and_names_are_unique() {
    let server = Server::start().await;
    let (_, first) = server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    let bad = json!({ "name": " ", "region": "wing", "purpose": "", "condition": "", "positive_finding": "",
        "variants": [{ "name": "A", "steps": [{ "text": "x".repeat(10_001) }] }] });
    let (status, problem) = server.post("/api/v1/tests", &bad).await;
    assert_eq!(status, Status::UnprocessableEntity);
    let fields: Vec<&str> =
        problem["errors"].as_array().unwrap().iter().map(|e| e["field"].as_str().unwrap()).collect();
    for field in ["name", "region", "purpose", "condition", "positive_finding", "variants[0].steps[0].text"] {
        assert!(fields.contains(&field), "{field} is not among {fields:?}");
    }
    assert!(problem["errors"].as_array().unwrap().iter().all(|e| !e["remedy"].as_str().unwrap().is_empty()));

    let mut twin = sheet("Other name");
    twin["aliases"] = json!(["  thumb   LIFT "]);
    let (status, problem) = server.post("/api/v1/tests", &twin).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!("aliases[0]")));
    assert_eq!(problem["errors"][0]["code"], "duplicate");
    let (_, rows) = server.get("/api/v1/tests").await;
    assert_eq!(rows.as_array().unwrap().len(), 1, "a refused sheet must leave nothing behind");
    let (_, conditions) = server.get("/api/v1/conditions").await;
    let named = conditions.as_array().unwrap().iter().filter(|it| it["name"] == "Thumb weakness");
    assert_eq!(named.map(|it| it["tests"].as_u64().unwrap()).collect::<Vec<_>>(), [1]);

    // Odd but legitimate texts come back as they were.
    let mut odd = sheet("Quote \" ' <b>bold</b> ; DROP TABLE test; --");
    odd["aliases"] = json!(["سؤال المريض"]);
    odd["positive_finding"] = json!(format!("{}\nb", "ä".repeat(9_998)));
    let (status, stored) = server.post("/api/v1/tests", &odd).await;
    assert_eq!(status, Status::Created);
    for field in ["name", "aliases", "positive_finding"] {
        assert_eq!(stored[field], odd[field]);
    }
    assert_ne!(stored["id"], first["id"]);
    server.end().await;
}

#[rocket::async_test]
async fn levels_of_a_finding_are_kept_with_the_result_and_answered_over_the_studies_that_share_them() {
    let server = Server::start().await;
    let (_, test) = server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    let test = test["id"].as_str().unwrap();
    let (results, levels) = (format!("/api/v1/tests/{test}/results"), format!("/api/v1/tests/{test}/levels"));
    let level = |name: &str, with: u32, without: u32| json!({ "name": name, "with": with, "without": without });
    let body = |reference: &str, levels: Value| json!({ "study": { "reference": reference }, "result": { "tp": 42, "fp": 15, "fn": 18, "tn": 75, "levels": levels } });
    let three = json!([level("none", 6, 45), level("some", 12, 30), level("much", 42, 15)]);
    assert_eq!(server.get(&levels).await.1["levels"], json!([]));
    let (status, problem) =
        server.post(&results, &body("A", json!([level("no", 18, 75), level("much", 42, 15)]))).await;
    assert_eq!(status, Status::Created, "{problem}");
    let (status, problem) =
        server.post(&results, &body("B", json!([level("none", 6, 45), level("much", 41, 15)]))).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!("result.levels")));
    for reference in ["C", "D"] {
        let (status, stored) = server.post(&results, &body(reference, three.clone())).await;
        assert_eq!((status, &stored["levels"]), (Status::Created, &three));
        assert_eq!(stored["by_level"]["cuts"][1]["from"], "much");
    }
    let (_, answer) = server.get(&format!("{levels}?pre_test=0.4")).await;
    assert_eq!((&answer["studies"], &answer["apart"], &answer["sample"]), (&json!(2), &json!(1), &json!(false)));
    let much = &answer["levels"][2];
    assert_eq!((&much["name"], &much["with"]), (&json!("much"), &json!(84)));
    let number = |value: &Value| value["estimate"].as_f64().unwrap();
    let odds = 0.4 / 0.6 * number(&much["ratio"]);
    assert!((number(&much["after"]) - odds / (1.0 + odds)).abs() < 1e-9, "{answer}");
    assert_eq!(server.get(&format!("{levels}?pre_test=1")).await.0, Status::BadRequest);
    server.end().await;
}

#[rocket::async_test]
async fn results_are_added_corrected_deleted_and_restored() {
    let server = Server::start().await;
    let (_, test) = server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    let test = test["id"].as_str().unwrap();
    let (results, pooled) = (format!("/api/v1/tests/{test}/results"), format!("/api/v1/tests/{test}/pooled"));

    let (_, empty) = server.get(&pooled).await;
    assert_eq!((&empty["evidence"], &empty["pooled"]), (&json!("not_studied"), &Value::Null));

    let (status, problem) = server.post(&results, &result(json!(-1), json!(2.5), json!(1e12), Value::Null)).await;
    assert_eq!(status, Status::UnprocessableEntity);
    let fields: Vec<&str> =
        problem["errors"].as_array().unwrap().iter().map(|e| e["field"].as_str().unwrap()).collect();
    assert_eq!(fields, ["result.tp", "result.fp", "result.fn", "result.tn"]);
    let (status, problem) = server.post(&results, &result(json!(0), json!(0), json!(0), json!(0))).await;
    assert_eq!((status, &problem["errors"][0]["code"]), (Status::UnprocessableEntity, &json!("empty_table")));

    let (status, added) = server.post(&results, &result(json!(20), json!(0), json!(5), json!(24))).await;
    assert_eq!(status, Status::Created);
    assert_eq!(added["accuracy"]["lr_positive"]["estimate"], "infinity");
    let (status, _) = server.post(&results, &result(json!(20), Value::Null, json!(5), Value::Null)).await;
    assert_eq!(status, Status::Created, "a one-armed result is a result");
    // The list reads again what changed, and says the same.
    let rows = async || server.get("/api/v1/tests").await.1[0]["studies"].clone();
    assert_eq!(rows().await, 2);
    let (_, two) = server.get(&pooled).await;
    assert_eq!((&two["pooled"]["k"], &two["pooled"]["reason"]), (&json!(2), &json!("no_finite_maximum")));
    assert_eq!(two["sample"], false);

    let path = format!("/api/v1/results/{}", added["id"].as_str().unwrap());
    let (status, fixed) = server.put(&path, "\"1\"", &result(json!(20), json!(3), json!(5), json!(21))).await;
    assert_eq!((status, &fixed["version"]), (Status::Ok, &json!(2)));
    let (status, _) = server.delete(&path, "\"1\"").await;
    assert_eq!(status, Status::PreconditionFailed);
    let (status, deleted) = server.delete(&path, "\"2\"").await;
    assert_eq!((status, &deleted["version"]), (Status::Ok, &json!(3)));
    let (_, left) = server.get(&results).await;
    assert_eq!((left.as_array().unwrap().len(), rows().await), (1, json!(1)));
    let (status, _) = server.put(&path, "\"3\"", &result(json!(1), json!(1), json!(1), json!(1))).await;
    assert_eq!(status, Status::NotFound, "a deleted result is not edited");
    let request = server.client.post(format!("{path}/restore")).header(Header::new("If-Match", "\"3\""));
    let (status, restored) = server.send(request).await;
    assert_eq!((status, &restored["counts"]), (Status::Ok, &json!({ "tp": 20, "fp": 3, "fn": 5, "tn": 21 })));

    // Who did what, beside what it said before.
    let (_, changes) = server.get(&format!("{results}/history")).await;
    let changes = changes.as_array().unwrap();
    let edited =
        |kind: &str| changes.iter().filter(|it| it["kind"] == kind).map(|it| &it["action"]).collect::<Vec<_>>();
    // The correction gave the first result a new study, which went and came with it.
    assert_eq!(edited("result"), ["restored", "deleted", "edited", "created", "created"]);
    assert_eq!(edited("study"), ["restored", "deleted", "created", "created"]);
    let edited = changes.iter().find(|it| it["kind"] == "result" && it["action"] == "edited").unwrap();
    assert_eq!((&edited["version"], edited["by"].is_string()), (&json!(2), true));
    assert_eq!((&edited["before"]["counts"]["fp"], &edited["content"]["counts"]["fp"]), (&json!(0), &json!(3)));
    assert_eq!(changes.last().unwrap()["before"], Value::Null);
    server.end().await;
}

#[rocket::async_test]
async fn the_tables_behind_a_rounded_report_are_found_or_the_conflict_is_named() {
    let server = Server::start().await;
    let ask = async |statements: &[(&str, &str)]| {
        let statements: Vec<Value> =
            statements.iter().map(|(name, value)| json!({ "name": name, "value": value })).collect();
        server.post("/api/v1/rebuilds", &json!({ "statements": statements })).await
    };
    let (status, one) = ask(&[("N", "60"), ("sens", "0,78"), ("spec", "84 %"), ("ppv", "0.75")]).await;
    assert_eq!((status, &one["outcome"]), (Status::Ok, &json!("unique")), "{one}");
    assert_eq!([&one["table"]["tp"], &one["table"]["fp"], &one["table"]["fn"], &one["table"]["tn"]], [18, 6, 5, 31]);
    let (_, none) = ask(&[("lr+", "3.0"), ("n", "7"), ("sens", "0.123")]).await;
    assert_eq!((&none["outcome"], &none["facts"]), (&json!("contradiction"), &json!([1, 2])));
    let (status, problem) = ask(&[("n", "sixty"), ("youden", "0.4"), ("sens_ci", "0.5")]).await;
    let fields: Vec<&Value> = problem["errors"].as_array().unwrap().iter().map(|error| &error["field"]).collect();
    assert_eq!(status, Status::UnprocessableEntity);
    assert_eq!(fields, ["statements[0].value", "statements[1].name", "statements[2].value"]);
    let (status, problem) = ask(&[("ppv", "0.5")]).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!("statements")));
    assert!(problem["errors"][0]["message"].as_str().unwrap().starts_with("Give the number of people"), "{problem}");
    let (_, problem) = ask(&[("n", "70000"), ("sens", "0.5")]).await;
    assert!(problem["errors"][0]["remedy"].as_str().unwrap().starts_with("Enter the counts"), "{problem}");
    server.end().await;
}

#[rocket::async_test]
async fn two_editors_at_the_same_moment_cannot_both_win() {
    let server = Server::start().await;
    let (_, test) = server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    let path = format!("/api/v1/tests/{}", test["id"].as_str().unwrap());
    let (mut a, mut b) = (sheet("Thumb lift"), sheet("Thumb lift"));
    a["positive_finding"] = json!("Lying");
    b["positive_finding"] = json!("Standing");
    let (first, second) = rocket::tokio::join!(server.put(&path, "\"1\"", &a), server.put(&path, "\"1\"", &b));
    let mut statuses = [first.0.code, second.0.code];
    statuses.sort_unstable();
    assert_eq!(statuses, [200, 412]);
    server.end().await;
}

#[rocket::async_test]
async fn broken_requests_get_a_problem_document() {
    let server = Server::start().await;
    let unknown = "/api/v1/tests/01920000-0000-7000-8000-000000000000";
    for path in [
        unknown,
        "/api/v1/tests/not-an-id",
        &format!("{unknown}/results"),
        &format!("{unknown}/pooled"),
        "/api/v1/wings",
        "/api/nothing",
    ] {
        let (status, problem) = server.get(path).await;
        assert_eq!((status, &problem["status"]), (Status::NotFound, &json!(404)), "{path}");
        assert!(
            problem["request_id"].as_str().unwrap().len() > 30 && problem["type"].as_str().unwrap().starts_with("urn:")
        );
    }
    for (query, field) in
        [("region=wing", "region"), ("sort=size", "sort"), ("reverse=maybe", "reverse"), ("search=%00", "search")]
    {
        let (status, problem) = server.get(&format!("/api/v1/tests?{query}")).await;
        assert_eq!((status, &problem["errors"][0]["field"]), (Status::BadRequest, &json!(field)), "{query}");
    }
    let body = |text: &str| server.client.post("/api/v1/accuracy").header(ContentType::JSON).body(text);
    let (status, problem) = server.send(body("{\"tp\": 3,")).await;
    assert_eq!((status, &problem["code"]), (Status::BadRequest, &json!("body_malformed")));
    assert!(problem["detail"].as_str().unwrap().contains("line 1"));
    let (status, problem) = server.send(body("{\"tp\": \"three\"}")).await;
    assert_eq!(status, Status::BadRequest);
    assert_eq!((&problem["errors"][0]["field"], &problem["errors"][0]["code"]), (&json!("tp"), &json!("invalid")));
    let (status, _) = server.send(server.client.post("/api/v1/accuracy").body("{}")).await;
    assert_eq!(status, Status::UnsupportedMediaType);
    let (status, problem) = server.send(body(&format!("{{\"tp\": {}1}}", " ".repeat(3 << 20)))).await;
    assert_eq!((status, &problem["code"]), (Status::PayloadTooLarge, &json!("body_too_large")));
    // A character that no text of the database can hold, wherever it comes.
    let id = "01900000-0000-7000-8000-000000000000";
    let mut holds = sheet("Thumb \0 lift");
    holds["cautions"] = json!([{ "text": "nul \0 inside" }]);
    let kept = json!({ "version": null, "content": { "steps": ["\0"] } });
    let read = json!({ "report": { "test_id": id, "reference_id": id, "asked": "\0" } });
    for (request, body, fields) in [
        (
            server.client.post("/api/v1/tests"),
            holds,
            vec!["aliases[0]", "cautions[0].text", "name", "variants[0].steps[0].text"],
        ),
        (server.client.put(format!("/api/v1/unsaved/sheet/{id}")), kept, vec!["content.steps[0]"]),
        (server.client.post("/api/v1/extractions"), read, vec!["report.asked"]),
    ] {
        let (status, problem) = server.send_json(request, &body).await;
        let mut named: Vec<_> =
            problem["errors"].as_array().unwrap().iter().map(|error| error["field"].clone()).collect();
        named.sort_by_key(ToString::to_string);
        assert_eq!((status, named), (Status::BadRequest, fields.into_iter().map(Value::from).collect()), "{problem}");
    }
    let (status, problem) = server.get("/api/v1/studies?reference=%00").await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::BadRequest, &json!("reference")));
    let question = json!({ "pre_test": 1.2, "tests": [] });
    let (status, problem) = server.post("/api/v1/likelihood/answers", &question).await;
    assert_eq!(status, Status::BadRequest);
    assert!(problem["detail"].as_str().unwrap().contains("between 0 and 1"));
    server.end().await;
}

#[rocket::async_test]
async fn answers_come_from_the_core() {
    let server = Server::start().await;
    let (_, accuracy) = server.post("/api/v1/accuracy", &json!({ "tp": 90, "fp": 10, "fn": 10, "tn": 90 })).await;
    assert!((accuracy["lr_positive"]["lower"].as_f64().unwrap() - 5.139_139_983).abs() < 1e-8);
    let (_, test) = server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    let results = format!("/api/v1/tests/{}/results", test["id"].as_str().unwrap());
    let add = async |cells: Value| {
        let body = json!({ "study": { "reference": format!("Sample report of {cells}") }, "result": cells });
        assert_eq!(server.post(&results, &body).await.0, Status::Created);
    };
    let read = async || {
        let (_, rows) = server.get("/api/v1/tests").await;
        json!({ "test": rows[0]["id"], "figures": rows[0]["figures"] })
    };
    let answer = async |pre_test: f64, asked: &Value| {
        let ask = json!({ "pre_test": pre_test, "tests": [asked] });
        let (status, answers) = server.post("/api/v1/likelihood/answers", &ask).await;
        assert_eq!(status, Status::Ok, "{answers}");
        answers[0].clone()
    };
    let unstudied = answer(0.25, &read().await).await;
    assert_eq!([&unstudied["after_positive"], &unstudied["frequencies"]], [&Value::Null, &Value::Null]);
    add(json!({ "tp": 90, "fp": 10, "fn": 10, "tn": 90 })).await;
    let asked = read().await;
    // Odds of 1:3 and a ratio of 9 make odds of 3:1; a ratio of 1/9 makes 1:27.
    let found = answer(0.25, &asked).await;
    for (result, expected) in [("after_positive", 0.75), ("after_negative", 1.0 / 28.0)] {
        assert!((found[result]["estimate"].as_f64().unwrap() - expected).abs() < 1e-12, "{found}");
    }
    assert_eq!((&found["changed"], &found["test"]), (&json!(false), &test["id"]));
    for certain in [0.0, 1.0] {
        assert_eq!(answer(certain, &asked).await["after_positive"]["estimate"], json!(certain));
    }
    // Figures that are others by now, and a test that is none: the page is told to read again.
    add(json!({ "tp": 40, "fp": 30, "fn": 10, "tn": 70 })).await;
    let late = answer(0.25, &asked).await;
    assert_eq!(late["changed"], json!(true));
    assert!(late["after_positive"]["estimate"].as_f64().unwrap() < 0.75, "by the figures of now: {late}");
    let gone = json!({ "test": "01920000-0000-7000-8000-000000000000", "figures": asked["figures"] });
    let none = answer(0.25, &gone).await;
    assert_eq!((&none["changed"], &none["after_positive"]), (&json!(true), &Value::Null));
    server.end().await;
}

#[rocket::async_test]
async fn the_demo_comes_in_whole_or_not_at_all() {
    let server = Server::start().await;
    let bytes = std::fs::read("../../demo/hand_wrist.json").unwrap();
    let mut bundle: Value = serde_json::from_slice(&bytes).unwrap();
    let preview = server.import("preview=true", &bundle).await["bundle"].take();
    assert_eq!((&preview["tests"][0]["fate"], &preview["tests"][7]["results"]), (&json!("new"), &json!(2)));
    assert_eq!(server.get("/api/v1/tests").await.1, json!([]), "a preview must change nothing");
    let imported = server.import("", &bundle).await;
    assert_eq!((&imported["state"], imported["bundle"]["tests"].as_array().unwrap().len()), (&json!("done"), 8));

    let (_, rows) = server.get("/api/v1/tests?region=hand_wrist&sort=lr_positive").await;
    let rows = rows.as_array().unwrap();
    assert_eq!(rows.len(), 8);
    assert!(rows.iter().all(|row| row["sample"] == true), "without studies, too");
    assert!(rows.iter().all(|row| row["status"] == "draft"), "what a person brings in is not signed off");
    assert_eq!(rows[7]["evidence"], "nothing_usable", "unknown comes last");
    // One small study with a perfect specificity must not lead the list with its infinite ratio.
    let infinite = rows.iter().position(|row| row["summary"]["lr_positive"]["estimate"] == "infinity").unwrap();
    assert!(infinite > 3, "{infinite}");
    let (_, reversed) = server.get("/api/v1/tests?sort=lr_positive&reverse=true").await;
    assert_eq!((&reversed[0]["name"], &reversed[7]["name"]), (&rows[6]["name"], &rows[7]["name"]));
    let (_, by_evidence) = server.get("/api/v1/tests?sort=evidence").await;
    assert_eq!(by_evidence[0]["studies"], 8);

    // The same again changes nothing; another text is refused unless it is chosen, and never mixed.
    let same = server.import("", &bundle).await["bundle"].take();
    assert!(same["tests"].as_array().unwrap().iter().all(|test| test["fate"] == "same" && test["results"] == 0));
    bundle["tests"][0]["sheet"]["positive_finding"] = json!("Tingling within 30 seconds.");
    bundle["tests"][1]["sheet"]["positive_finding"] = json!("Tingling at all.");
    let refused = server.import("", &bundle).await;
    assert_eq!((&refused["state"], &refused["faults"][0]["field"]), (&json!("refused"), &json!("tests[0].sheet.name")));
    let chosen = server.import("replace=Wrist%20flexion,%20held", &bundle).await["bundle"].take();
    assert_eq!(
        [&chosen["tests"][0]["written"], &chosen["tests"][1]["written"], &chosen["tests"][1]["fate"]],
        [&json!(true), &json!(false), &json!("changed")]
    );
    bundle["tests"][2]["sheet"]["region"] = json!("wing");
    bundle["tests"][3]["results"][0]["result"]["tp"] = json!(1.5);
    let refused = server.import("changed=replace", &bundle).await;
    let fields: Vec<&Value> = refused["faults"].as_array().unwrap().iter().map(|error| &error["field"]).collect();
    assert_eq!(fields, [&json!("tests[2].sheet.region"), &json!("tests[3].results[0].result.tp")]);
    assert_eq!((&refused["state"], &refused["fault_count"]), (&json!("refused"), &json!(2)));
    let (_, kept) = server.get("/api/v1/tests?search=carpal%20compression").await;
    assert_ne!(kept[0]["positive_finding"], "Tingling at all.");

    // What goes out comes in again as the same.
    let (_, exported) = server.get("/api/v1/bundle?region=hand_wrist").await;
    let round = server.import("", &exported).await["bundle"].take();
    assert!(
        round["tests"].as_array().unwrap().iter().all(|test| test["fate"] == "same" && test["results"] == 0),
        "{round}"
    );
    let csv = server.client.get("/api/v1/tests.csv?region=hand_wrist&sort=name").dispatch().await;
    let csv = csv.into_string().await.unwrap();
    assert_eq!((csv.lines().count(), csv.lines().next().unwrap().starts_with("name,aliases,region")), (9, true));

    // Each that brought something can be undone by who brought it, or an administrator; the list follows.
    let (_, past) = server.get("/api/v1/imports").await;
    let path = |at: usize| format!("/api/v1/imports/{}/taking-back", past[at]["id"].as_str().unwrap());
    assert_eq!(past.as_array().unwrap().len(), 2, "{past}");
    assert_eq!((&past[0]["brought"]["changed"], &past[1]["brought"]["tests"]), (&json!(1), &json!(8)));
    assert_eq!(past[1]["may_take_back"], json!(true));
    server.enter("second_reader").await;
    assert_eq!(server.get("/api/v1/imports").await.1[0]["may_take_back"], json!(false));
    assert_eq!(server.post(&path(0), &json!({})).await.0, Status::Forbidden);
    server.enter("author").await;
    let (status, refused) = server.post(&path(1), &json!({})).await;
    assert_eq!((status, &refused["errors"][0]["value"]), (Status::UnprocessableEntity, &json!("Wrist flexion, held")));
    assert_eq!(server.post(&path(0), &json!({})).await.0, Status::NoContent);
    server.enter("administrator").await;
    // What changed it is undone, so that it is as it came.
    assert_eq!(server.post(&path(1), &json!({})).await.0, Status::NoContent);
    assert_eq!(server.post(&path(1), &json!({})).await.0, Status::UnprocessableEntity, "it is gone");
    assert_eq!(server.get("/api/v1/tests").await.1, json!([]));
    let mut one = exported["tests"][0].clone();
    for list in ["results", "agreements", "extractions"] {
        one[list] = json!([]);
    }
    let mut own = exported.clone();
    (own["tests"], own["studies"], own["references"]) = (json!([one]), json!([]), json!([]));
    own["teaching_conflicts"] = json!([]);
    own["plans"] = json!([]);
    let own = server.import("name=Own%20sheets.json", &own).await;
    assert_eq!(own["state"], "done", "{own}");
    assert_eq!(server.get("/api/v1/tests").await.1.as_array().unwrap().len(), 1);
    let (_, past) = server.get("/api/v1/imports").await;
    assert_eq!(past[0]["name"], "Own sheets.json");
    let path = format!("/api/v1/imports/{}/taking-back", past[0]["id"].as_str().unwrap());
    assert_eq!(server.post(&path, &json!({})).await.0, Status::NoContent);
    assert_eq!(server.get("/api/v1/tests").await.1, json!([]));
    server.end().await;
}

#[rocket::async_test]
async fn a_sheet_comes_on_paper_as_its_reader_may_see_it() {
    let server = Server::start().await;
    let (_, test) = server.post("/api/v1/tests", &sheet("Thumb lift (held), 30°")).await;
    let path = format!("/api/v1/tests/{}", test["id"].as_str().unwrap());
    server.post(&format!("{path}/results"), &result(json!(20), json!(3), json!(5), json!(24))).await;
    let pdf = async |query: &str| {
        let response = server.client.get(format!("{path}/sheet.pdf{query}")).dispatch().await;
        let name = response.headers().get_one("Content-Disposition").unwrap_or_default().to_owned();
        (response.status(), response.content_type(), name, response.into_bytes().await.unwrap())
    };
    let (status, kind, name, bytes) = pdf("?pre_test=0.25").await;
    assert_eq!((status, kind), (Status::Ok, Some(ContentType::PDF)));
    assert_eq!(name, "inline; filename=\"thumb-lift-held-30.pdf\"");
    assert!(bytes.starts_with(b"%PDF-"));
    // The question is part of what is printed.
    assert_ne!(pdf("").await.3, bytes);
    for wrong in ["0", "1", "-0.2", "NaN", "often"] {
        let (status, problem) = server.get(&format!("{path}/sheet.pdf?pre_test={wrong}")).await;
        assert_eq!((status, &problem["errors"][0]["field"]), (Status::BadRequest, &json!("pre_test")), "{wrong}");
    }
    // What is not signed off is not printed by learners; a later change is a draft, and they print what was signed off.
    let step = async |role: &str, step: &str, version: i32| {
        server.enter(role).await;
        let request = server.client.post(format!("{path}/steps"));
        let request = request.header(Header::new("If-Match", format!("\"{version}\"")));
        assert_eq!(server.send_json(request, &json!({ "step": step })).await.0, Status::Ok);
    };
    server.enter("learner").await;
    let (status, problem) = server.get(&format!("{path}/sheet.pdf")).await;
    assert_eq!((status, &problem["code"]), (Status::NotFound, &json!("not_found")));
    step("author", "submit", 1).await;
    step("second_reader", "sign_off", 2).await;
    server.enter("learner").await;
    let signed_off = pdf("").await.3;
    server.enter("author").await;
    assert_eq!(server.put(&path, "\"3\"", &sheet("Thumb lift, held longer")).await.0, Status::Ok);
    server.enter("learner").await;
    assert_eq!(pdf("").await.3, signed_off);
    server.end().await;
}

#[rocket::async_test]
async fn a_lost_database_is_told_and_recovered_from() {
    let server = Server::start().await;
    server.database.pause().await.unwrap();
    let (status, problem) = server.get("/api/v1/tests").await;
    assert_eq!((status, &problem["code"]), (Status::ServiceUnavailable, &json!("database_unavailable")), "{problem}");
    assert_eq!(server.get("/readyz").await.0, Status::ServiceUnavailable);
    assert_eq!(server.client.get("/healthz").dispatch().await.status(), Status::Ok);
    assert!(!problem.to_string().contains("postgres"), "nothing of the database may leak: {problem}");
    server.database.resume().await.unwrap();
    assert_eq!(server.get("/api/v1/tests").await.0, Status::Ok);
    server.end().await;
}

#[rocket::async_test]
async fn a_server_that_starts_before_its_database_waits_for_it() {
    let server = Server::start_with("postgres://pruvex:x@127.0.0.1:1/none").await;
    assert_eq!(server.get("/readyz").await.0, Status::ServiceUnavailable);
    let (status, problem) = server.get("/api/v1/tests").await;
    assert_eq!((status, &problem["code"]), (Status::ServiceUnavailable, &json!("database_unavailable")));
    assert_eq!(server.client.get("/catalogue").dispatch().await.status(), Status::Ok);
    server.end().await;
}

#[rocket::async_test]
async fn the_front_end_is_served_safely_and_cached_well() {
    let server = Server::start().await;
    let page = server.client.get("/tests/anything?pretest=20").dispatch().await;
    let header = |name: &str| page.headers().get_one(name).unwrap_or_default().to_owned();
    assert_eq!(page.status(), Status::Ok);
    assert_eq!(header("Cache-Control"), "no-cache");
    let policy = header("Content-Security-Policy");
    let scripts = policy.split(';').find(|part| part.trim().starts_with("script-src")).unwrap();
    assert_eq!(scripts.trim(), "script-src 'self'");
    for (name, value) in
        [("X-Content-Type-Options", "nosniff"), ("X-Frame-Options", "DENY"), ("Referrer-Policy", "no-referrer")]
    {
        assert_eq!(header(name), value, "{name}");
    }
    assert!(header("Permissions-Policy").contains("camera=()"), "{}", header("Permissions-Policy"));
    assert!(!header("X-Request-Id").is_empty() && !header("ETag").is_empty());
    let html = page.into_string().await.unwrap();
    let start = html.find("/assets/").unwrap();
    let asset = &html[start..start + html[start..].find('"').unwrap()];
    let script =
        server.client.get(asset.to_owned()).header(Header::new("Accept-Encoding", "gzip, br")).dispatch().await;
    assert!(script.headers().get_one("Cache-Control").unwrap().contains("immutable"));
    assert_eq!(script.headers().get_one("Content-Encoding"), Some("br"));
    drop(script);
    assert_eq!(server.client.get("/assets/gone.js").dispatch().await.status(), Status::NotFound);
    server.end().await;
}

#[rocket::async_test]
async fn lists_sort_by_what_the_data_support_and_unknown_comes_last() {
    let server = Server::start().await;
    let add = async |name: &str, tables: &[[u32; 4]]| {
        let (_, test) = server.post("/api/v1/tests", &sheet(name)).await;
        let path = format!("/api/v1/tests/{}/results", test["id"].as_str().unwrap());
        for [tp, fp, fn_, tn] in tables {
            let (status, _) = server.post(&path, &result(json!(tp), json!(fp), json!(fn_), json!(tn))).await;
            assert_eq!(status, Status::Created);
        }
    };
    add("Alpha", &[]).await;
    add("Bravo", &[[30, 10, 10, 40]]).await;
    add("Charlie", &[[38, 30, 2, 20], [40, 25, 1, 30]]).await;
    add("Delta", &[[5, 0, 15, 20]]).await;
    let order = async |query: &str| -> Vec<String> {
        let (_, rows) = server.get(&format!("/api/v1/tests?{query}")).await;
        rows.as_array().unwrap().iter().map(|row| row["name"].as_str().unwrap().to_owned()).collect()
    };
    assert_eq!(order("sort=name").await, ["Alpha", "Bravo", "Charlie", "Delta"]);
    assert_eq!(order("sort=name&reverse=true").await, ["Delta", "Charlie", "Bravo", "Alpha"]);
    assert_eq!(order("sort=evidence").await, ["Charlie", "Bravo", "Delta", "Alpha"]);
    assert_eq!(order("").await, order("sort=lr_positive&reverse=false").await);
    let by_lr_negative = order("sort=lr_negative").await;
    assert_eq!((by_lr_negative[0].as_str(), by_lr_negative[3].as_str()), ("Charlie", "Alpha"));
    for query in ["sort=lr_positive", "sort=lr_positive&reverse=true", "sort=lr_negative&reverse=true"] {
        assert_eq!(order(query).await[3], "Alpha", "{query}: what is unknown is never first");
    }
    server.end().await;
}

#[rocket::async_test]
async fn the_rail_counts_tests_and_conditions_carry_their_usual_probability() {
    let server = Server::start().await;
    server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    let mut knee = sheet("Knee bend");
    knee["region"] = json!("knee");
    server.post("/api/v1/tests", &knee).await;
    let (_, regions) = server.get("/api/v1/regions").await;
    let regions = regions.as_array().unwrap();
    assert_eq!(
        (regions.len(), &regions[0]["region"], &regions[8]["region"]),
        (9, &json!("neck"), &json!("ankle_foot"))
    );
    let tests = |code: &str| regions.iter().find(|region| region["region"] == code).unwrap()["tests"].clone();
    assert_eq!([tests("hand_wrist"), tests("knee"), tests("hip")], [json!(1), json!(1), json!(0)]);
    let (_, conditions) = server.get("/api/v1/conditions").await;
    let named: Vec<_> = conditions.as_array().unwrap().iter().filter(|it| it["name"] == "Thumb weakness").collect();
    assert_eq!(named.len(), 2, "the same name in two regions is two conditions");
    assert!(named[0]["pre_test"].is_null() && named[0]["tests"] == 1);
    let (_, rows) = server.get("/api/v1/tests?condition=thumb%20WEAKNESS&region=knee").await;
    assert_eq!((rows.as_array().unwrap().len(), &rows[0]["name"]), (1, &json!("Knee bend")));
    server.end().await;
}

#[rocket::async_test]
async fn large_answers_are_compressed_and_small_ones_are_not() {
    let server = Server::start().await;
    let ask = async |path: &str, accept: &str| {
        let request = server.client.get(path.to_owned()).header(Header::new("Accept-Encoding", accept.to_owned()));
        let response = request.dispatch().await;
        let encoding = response.headers().get_one("Content-Encoding").map(str::to_owned);
        let kept = response.headers().get_one("Cache-Control").map(str::to_owned);
        (encoding, kept, response.into_bytes().await.unwrap())
    };
    let (encoding, kept, packed) = ask("/api/openapi.json", "br;q=0.5, gzip").await;
    assert_eq!((encoding.as_deref(), kept.as_deref()), (Some("gzip"), Some("no-store")));
    assert_eq!(packed[..2], [0x1f, 0x8b]);
    let (plain, _, text) = ask("/api/openapi.json", "gzip;q=0").await;
    assert!(plain.is_none() && text.len() > 3 * packed.len());
    assert!(ask("/api/v1/tests", "gzip").await.0.is_none());
    server.end().await;
}

#[rocket::async_test]
async fn methods_bodies_and_unknown_fields_are_refused_without_a_trace() {
    let server = Server::start().await;
    let response = server.client.delete("/api/v1/tests").dispatch().await;
    assert_eq!(response.status(), Status::MethodNotAllowed);
    assert_eq!(response.headers().get_one("Allow"), Some("GET, HEAD, POST"));
    drop(response);
    for (path, field) in [
        ("/api/v1/tests?status=nonsense", "status"),
        ("/api/v1/tests?colour=red", "colour"),
        ("/api/v1/tests?sort=", "sort"),
        ("/api/v1/tests?sort=name&sort=size", "sort"),
    ] {
        let (status, problem) = server.get(path).await;
        assert_eq!((status, &problem["errors"][0]["field"]), (Status::BadRequest, &json!(field)), "{problem}");
    }
    let mut list = sheet("Thumb lift");
    list["burden"] = json!([null, null]);
    let (status, problem) = server.post("/api/v1/tests", &list).await;
    assert_eq!(status, Status::BadRequest, "a list is no object: {problem}");
    let mut extra = sheet("Thumb lift");
    extra["sample"] = json!(true);
    let (status, problem) = server.post("/api/v1/tests", &extra).await;
    assert_eq!(status, Status::BadRequest, "the sample mark is not a client's to set");
    assert!(problem["detail"].as_str().unwrap().contains("sample"), "{problem}");
    let (status, _) = server.send_json(server.client.post("/api/v1/tests"), &json!("text")).await;
    assert_eq!(status, Status::BadRequest);
    let (status, problem) = server.post("/api/v1/accuracy", &json!({ "tp": 5, "fn": 2, "fp": 3 })).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!("tn")));
    let one = json!({ "test": "01920000-0000-7000-8000-000000000000", "figures": "" });
    let many = json!({ "pre_test": 0.2, "tests": vec![one; 5_001] });
    let (status, problem) = server.post("/api/v1/likelihood/answers", &many).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!("tests")));
    assert_eq!(server.get("/api/v1/tests").await.1, json!([]));
    server.end().await;
}

#[rocket::async_test]
async fn a_sheet_is_looked_over_counted_and_found_by_what_it_is() {
    let server = Server::start().await;
    let mut provoking = sheet("Thumb press");
    provoking["purpose"] = json!("pain_provocation");
    provoking["cautions"] = json!([{ "text": "With care" }]);
    provoking["burden"] = json!({ "irritation": 2 });
    provoking["variants"][0]["position"] = json!("sitting");
    provoking["variants"][0]["equipment"] = json!([{ "name": "Gauge" }]);
    provoking["variants"][0]["targets"][0]["structure"] = json!("Thumb thing");
    let check = async |body: Value| server.post("/api/v1/checks", &body).await.1;
    let found = check(json!({ "sheet": provoking })).await;
    let codes: Vec<&str> =
        found["findings"].as_array().unwrap().iter().map(|it| it["code"].as_str().unwrap()).collect();
    assert_eq!((codes, &found["errors"]), (vec!["no_stop_rule", "unknown_structure"], &json!([])));
    let refused = check(json!({ "sheet": { "name": "x" } })).await;
    assert!(refused["errors"].as_array().unwrap().len() > 3 && refused["findings"] == json!([]));

    let (_, stored) = server.post("/api/v1/tests", &provoking).await;
    let id = stored["id"].as_str().unwrap();
    let mut basic = sheet("Elbow lift");
    basic["basis"] = json!("strength");
    basic["searches"] = json!([{ "when": "2026-11", "place": "Two databases", "unusable": "No reference standard" }]);
    let (_, looked_for) = server.post("/api/v1/tests", &basic).await;
    let (_, pooled) = server.get(&format!("/api/v1/tests/{}/pooled", looked_for["id"].as_str().unwrap())).await;
    assert_eq!(pooled["evidence"], "nothing_usable", "somebody looked: not the same as not studied");
    let (_, findings) = server.get(&format!("/api/v1/tests/{id}/findings")).await;
    assert_eq!(findings.as_array().unwrap().len(), 2);
    assert_eq!(
        check(json!({ "test": id, "sheet": provoking })).await["findings"],
        findings,
        "a test is not its own twin"
    );
    let twin = check(json!({ "sheet": sheet("Thumb press") })).await;
    assert_eq!(twin["findings"][0]["code"], "name_of_other_test");
    for (query, expected) in [
        ("findings=true", 1),
        ("findings=false", 1),
        ("position=sitting", 1),
        ("position=standing", 0),
        ("kind=special", 1),
        ("kind=basic", 1),
        ("equipment=some", 1),
        ("equipment=none&purpose=strength", 1),
        ("irritation=2", 1),
        ("irritation=1", 0),
        ("evidence=not_studied&status=draft", 1),
        ("evidence=nothing_usable", 1),
        ("evidence=one_study", 0),
        ("search=thum%20pres", 1),
    ] {
        let (_, rows) = server.get(&format!("/api/v1/tests?{query}")).await;
        assert_eq!(rows.as_array().unwrap().len(), expected, "{query}");
    }
    for query in
        ["purpose=magic", "kind=x", "position=x", "irritation=9", "equipment=2", "evidence=x", "status=x", "findings=x"]
    {
        assert_eq!(server.get(&format!("/api/v1/tests?{query}")).await.0, Status::BadRequest, "{query}");
    }
    server.end().await;
}

#[rocket::async_test]
async fn the_vocabulary_grows_by_hand_and_says_which_tests_load_what() {
    let server = Server::start().await;
    server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    let (_, structures) = server.get("/api/v1/structures?region=hand_wrist").await;
    let abductor = structures.as_array().unwrap().iter().find(|it| it["name"] == "Abductor pollicis brevis").unwrap();
    assert_eq!(abductor["tests"], 1, "its sheet calls it by a plain name");
    let path = format!("/api/v1/structures/{}", abductor["id"].as_str().unwrap());
    let (_, tests) = server.get(&format!("{path}/tests")).await;
    assert_eq!((&tests[0]["name"], &tests[0]["role"]), (&json!("Thumb lift"), &json!("contracted")));
    // Whoever searches for an abbreviation finds the tests that load what it stands for.
    for search in ["APB", "apb", "abductor pollicis brevis"] {
        let (_, found) = server.get(&format!("/api/v1/tests?search={}", search.replace(' ', "%20"))).await;
        assert_eq!((found.as_array().unwrap().len(), &found[0]["name"]), (1, &json!("Thumb lift")), "{search}");
    }
    assert_eq!(server.get("/api/v1/tests?search=TFCC").await.1, json!([]));

    let mut changed = json!({ "region": "hand_wrist", "name": "Lifter of the thumb", "tissue": "muscle", "other_names": ["Short thumb abductor"],
        "actions": [{ "joint": "thumb_base", "motion": "abduction" }], "retired": false });
    let (status, saved) = server.put(&path, "\"1\"", &changed).await;
    assert_eq!((status, &saved["version"]), (Status::Ok, &json!(2)));
    let (_, changes) = server.get("/api/v1/vocabulary/history").await;
    // The starting set came with nobody's name and is no change; the condition came with the sheet.
    assert_eq!((changes.as_array().unwrap().len(), &changes[0]["kind"]), (2, &json!("structure")));
    assert_eq!(changes[0]["before"]["name"], "Abductor pollicis brevis");
    assert_eq!(server.put(&path, "\"1\"", &changed).await.0, Status::PreconditionFailed);
    let (_, tests) = server.get(&format!("{path}/tests")).await;
    assert_eq!(tests.as_array().unwrap().len(), 1, "found under another of its names");
    changed["name"] = json!("Second lifter");
    let (status, problem) = server.post("/api/v1/structures", &changed).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!("other_names[0]")));
    changed["other_names"] = json!([]);
    changed["tissue"] = json!("nerve");
    assert_eq!(server.post("/api/v1/structures", &changed).await.1["errors"][0]["field"], "actions");
    server.end().await;
}

#[rocket::async_test]
async fn conditions_are_added_completed_and_renamed_with_their_tests() {
    let server = Server::start().await;
    let (_, test) = server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    let path = format!("/api/v1/tests/{}", test["id"].as_str().unwrap());
    let (_, conditions) = server.get("/api/v1/conditions").await;
    let weak = conditions.as_array().unwrap().iter().find(|it| it["name"] == "Thumb weakness").unwrap();
    let at = format!("/api/v1/conditions/{}", weak["id"].as_str().unwrap());
    let mut changed =
        json!({ "region": "hand_wrist", "name": "Weak thumb", "setting": "Sample clinic", "pre_test": 0.3 });
    let (status, saved) = server.put(&at, "\"1\"", &changed).await;
    assert_eq!((status, &saved["version"], &saved["tests"]), (Status::Ok, &json!(2), &json!(1)));
    assert_eq!(server.get(&path).await.1["condition"], "Weak thumb", "its tests follow the name");
    assert_eq!(server.put(&at, "\"1\"", &changed).await.0, Status::PreconditionFailed);
    changed["region"] = json!("knee");
    assert_eq!(server.put(&at, "\"2\"", &changed).await.1["errors"][0]["field"], "region");
    changed["region"] = json!("hand_wrist");
    changed["pre_test"] = json!(30);
    assert_eq!(server.put(&at, "\"2\"", &changed).await.1["errors"][0]["field"], "pre_test");
    let twin = json!({ "region": "hand_wrist", "name": " weak  THUMB" });
    let (status, problem) = server.post("/api/v1/conditions", &twin).await;
    assert_eq!((status, &problem["errors"][0]["code"]), (Status::UnprocessableEntity, &json!("duplicate")));
    let fresh = json!({ "region": "knee", "name": "Weak thumb" });
    assert_eq!(server.post("/api/v1/conditions", &fresh).await.0, Status::Created);
    server.end().await;
}

#[rocket::async_test]
async fn what_is_not_saved_is_kept_for_its_writer_only() {
    let server = Server::start().await;
    let typed = json!({ "version": null, "content": { "name": "half a na", "anything": ["at all"] } });
    assert_eq!(server.get("/api/v1/unsaved/sheet/new").await.1, Value::Null);
    assert_eq!(server.send_json(server.client.put("/api/v1/unsaved/sheet/new"), &typed).await.0, Status::NoContent);
    let (_, kept) = server.get("/api/v1/unsaved/sheet/new").await;
    assert_eq!((&kept["content"], &kept["version"]), (&typed["content"], &Value::Null));
    server.enter("administrator").await;
    assert_eq!(server.get("/api/v1/unsaved/sheet/new").await.1, Value::Null);
    server.enter("author").await;
    assert_eq!(server.send(server.client.delete("/api/v1/unsaved/sheet/new")).await.0, Status::NoContent);
    assert_eq!(server.get("/api/v1/unsaved/sheet/new").await.1, Value::Null);
    assert_eq!(server.get("/api/v1/unsaved/sheet/old").await.0, Status::NotFound);
    let (_, sheet) = server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    let test = sheet["id"].clone();
    let body = json!({ "study": { "reference": "Sample report" }, "result": { "tp": 9, "fp": 1, "fn": 2, "tn": 8 } });
    let (_, result) = server.post(&format!("/api/v1/tests/{}/results", test.as_str().unwrap()), &body).await;
    let (_, reference) = server.post("/api/v1/references", &json!({ "kind": "book", "title": "Signs" })).await;
    server.enter("second_reader").await;
    let own = [
        ("result", &test),
        ("agreement", &test),
        ("accuracy-appraisal", &result["study"]["id"]),
        ("agreement-appraisal", &result["study"]["id"]),
        ("reference", &reference["id"]),
    ]
    .map(|(what, record)| (what, record.as_str().unwrap()));
    for (nth, (what, record)) in own.into_iter().enumerate() {
        let typed = json!({ "version": null, "content": nth });
        let keep = async |record: &str| {
            server.send_json(server.client.put(format!("/api/v1/unsaved/{what}/{record}")), &typed).await.0
        };
        assert_eq!(keep(record).await, Status::NoContent, "{what}");
        assert_eq!(
            keep("01900000-0000-7000-8000-000000000000").await,
            Status::NotFound,
            "{what}: there is no such record"
        );
    }
    for (nth, (what, record)) in own.into_iter().enumerate() {
        let (_, kept) = server.get(&format!("/api/v1/unsaved/{what}/{record}")).await;
        assert_eq!(kept["content"], nth, "{what}: who enters evidence keeps it, each form apart");
    }
    assert_eq!(server.get("/api/v1/unsaved/reference/new").await.1, Value::Null);
    assert_eq!(server.get("/api/v1/unsaved/agreement/new").await.0, Status::NotFound, "it belongs to a test");
    assert_eq!(server.get("/api/v1/unsaved/sheet/new").await.0, Status::Forbidden, "and writes no sheets");
    server.end().await;
}

#[rocket::async_test]
async fn a_change_of_many_tests_keeps_nobody_waiting_and_a_single_one_is_seen_at_once() {
    let server = Server::start().await;
    let bring = async |from: usize| {
        let tests: Vec<Value> = (from..from + 320)
            .map(|number| {
                let mut made = sheet(&format!("Sample test {number}"));
                made["variants"] = json!([{ "name": "Only", "targets": [{ "structure": format!("Band {number}"), "role": "compressed" }] }]);
                json!({ "sheet": made })
            })
            .collect();
        let bundle = json!({ "format": "pruvex-bundle", "schema_version": 2, "title": "Sample", "sample": true, "tests": tests });
        let brought = server.import("", &bundle).await;
        assert_eq!(brought["state"], "done", "{brought}");
    };
    let listed = async |query: &str| {
        let answer = server.client.get(format!("/api/v1/tests?{query}")).dispatch().await;
        let behind = answer.headers().get_one("X-Behind") == Some("true");
        let rows: Vec<Value> = serde_json::from_str(&answer.into_string().await.unwrap()).unwrap();
        (rows, behind)
    };
    let caught_up = async || {
        while listed("").await.1 {
            rocket::tokio::time::sleep(std::time::Duration::from_millis(20)).await;
        }
    };
    bring(0).await;
    let (rows, behind) = listed("").await;
    assert_eq!((rows.len(), behind), (320, false), "there was no list to show meanwhile");
    bring(320).await;
    let (rows, behind) = listed("").await;
    assert_eq!((rows.len(), behind), (320, true), "the last whole list, while the new one is being read");
    caught_up().await;
    assert_eq!(listed("").await.0.len(), 640);

    // A single change is there with the next question: a sheet, a structure that one of them names, its name.
    let (_, made) = server.post("/api/v1/tests", &sheet("One more")).await;
    let (rows, behind) = listed("").await;
    assert!(!behind && rows.len() == 641 && rows.iter().any(|row| row["id"] == made["id"]));
    let findings = async || {
        listed("search=Sample%20test%207").await.0.iter().find(|row| row["name"] == "Sample test 7").unwrap()["findings"].as_u64().unwrap()
    };
    let unknown = findings().await;
    let band = json!({ "region": "hand_wrist", "name": "Band 7", "tissue": "ligament", "other_names": [] });
    let (status, structure) = server.post("/api/v1/structures", &band).await;
    assert_eq!(status, Status::Created, "{structure}");
    assert!(findings().await < unknown, "its target is in the vocabulary now");
    let mut renamed = band.clone();
    renamed["name"] = json!("Band seven");
    let path = format!("/api/v1/structures/{}", structure["id"].as_str().unwrap());
    assert_eq!(server.put(&path, "\"1\"", &renamed).await.0, Status::Ok);
    let (_, behind) = listed("").await;
    assert!(!behind && findings().await >= unknown - 1);

    // The condition of all of them.
    let (_, conditions) = server.get("/api/v1/conditions").await;
    let condition = conditions.as_array().unwrap().iter().find(|it| it["name"] == "Thumb weakness").unwrap();
    let path = format!("/api/v1/conditions/{}", condition["id"].as_str().unwrap());
    let new = json!({ "region": "hand_wrist", "name": "Weak thumb", "setting": "", "pre_test": null });
    let (status, saved) = server.put(&path, &format!("\"{}\"", condition["version"]), &new).await;
    assert_eq!((status, &saved["tests"]), (Status::Ok, &json!(641)), "{saved}");
    let (rows, behind) = listed("").await;
    assert!(behind && rows.iter().all(|row| row["condition"] == "Thumb weakness"));
    caught_up().await;
    assert!(listed("").await.0.iter().all(|row| row["condition"] == "Weak thumb"));
    server.end().await;
}

#[rocket::async_test]
async fn those_who_wait_to_save_keep_nobody_from_reading() {
    let server = Server::start().await;
    // The lock under which everything is changed, held as an import holds it.
    let db = pruvex_store::connect(server.database_url(), Connections::Imports).await.unwrap();
    let import = db.begin().await.unwrap();
    import.execute_unprepared("SELECT pg_advisory_xact_lock(7201126)").await.unwrap();
    let sheets: Vec<Value> = (0..12).map(|number| sheet(&format!("Waiting {number}"))).collect();
    let saving = join_all(sheets.iter().map(|sheet| server.post("/api/v1/tests", sheet)));
    let reading = async {
        for _ in 0..5 {
            assert_eq!(server.get("/api/v1/tests").await, (Status::Ok, json!([])));
            assert_eq!(server.client.get("/readyz").dispatch().await.status(), Status::Ok);
        }
        import.rollback().await.unwrap();
    };
    let (saved, ()) = join(saving, reading).await;
    assert!(saved.iter().all(|(status, _)| *status == Status::Created), "{saved:?}");
    server.end().await;
}

#[rocket::async_test]
async fn learners_see_results_without_the_notes_of_those_who_entered_them() {
    let server = Server::start().await;
    let (_, test) = server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    let path = format!("/api/v1/tests/{}", test["id"].as_str().unwrap());
    let study = json!({ "reference": "Sample report", "note": "asked the authors" });
    let result =
        json!({ "study": study, "result": { "tp": 9, "fp": 1, "fn": 2, "tn": 8, "note": "read off figure 2" } });
    assert_eq!(server.post(&format!("{path}/results"), &result).await.0, Status::Created);
    let figures = json!({ "kind": "table", "rows": [["4", "1"], ["2", "5"]] });
    let agreement = json!({ "between": "examiners", "figures": figures, "note": "two of three examiners" });
    let (status, saved) =
        server.post(&format!("{path}/agreements"), &json!({ "study": study, "agreement": agreement })).await;
    assert_eq!(status, Status::Created, "{saved}");
    let step = async |version: u32, step: &str| {
        let request =
            server.client.post(format!("{path}/steps")).header(Header::new("If-Match", format!("\"{version}\"")));
        assert_eq!(server.send_json(request, &json!({ "step": step })).await.0, Status::Ok);
    };
    step(1, "submit").await;
    server.enter("second_reader").await;
    step(2, "sign_off").await;
    let notes = async || {
        let mut all = server.get(&format!("{path}/results")).await.1.to_string();
        all += &server.get(&format!("{path}/agreements")).await.1.to_string();
        ["asked the authors", "read off figure 2", "two of three examiners"].map(|note| all.contains(note))
    };
    assert_eq!(notes().await, [true; 3]);
    server.enter("learner").await;
    assert_eq!(server.get(&format!("{path}/results")).await.1[0]["study"]["reference"], "Sample report");
    assert_eq!(notes().await, [false; 3]);
    server.end().await;
}
