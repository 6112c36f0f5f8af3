//! Double extractions over the API: nobody sees what the other reads, what differs is settled with a reason, nothing is lost.

use crate::support::Server;
use rocket::http::Status;
use serde_json::{Value, json};

fn faults(problem: &Value) -> Vec<&str> {
    problem["errors"].as_array().unwrap().iter().map(|error| error["field"].as_str().unwrap()).collect()
}

fn path(of: &Value) -> String {
    format!("/api/v1/extractions/{}", of["id"].as_str().unwrap())
}

/// What is read, with this many true positives in this design.
fn read(tp: f64, design: &str) -> Value {
    json!({ "study": { "setup": { "design": design, "people": 60 } },
        "result": { "tp": tp, "fp": 1, "fn": 5, "tn": 24, "page": "Table 2", "note": format!("read {tp}") } })
}

fn own(content: &Value, hand_in: bool) -> Value {
    json!({ "hand_in": hand_in, "content": content })
}

async fn thumb_lift(server: &Server) -> (Value, String) {
    let sheet = json!({ "name": "Thumb lift", "region": "hand_wrist", "purpose": "strength", "condition": "Weak thumb",
        "positive_finding": "Weaker than the other side" });
    let (_, test) = server.post("/api/v1/tests", &sheet).await;
    let results = format!("/api/v1/tests/{}/results", test["id"].as_str().unwrap());
    (test, results)
}

/// A result of a report on the list, as an author put it there.
async fn listed(server: &Server, test: &Value) -> Value {
    let reference = json!({ "kind": "journal_article", "title": "Lifting thumbs", "authors": [{ "family": "Maddern" }],
        "year": 2016 });
    let (status, reference) = server.post("/api/v1/references", &reference).await;
    assert_eq!(status, Status::Created, "{reference}");
    let report = json!({ "test_id": test["id"], "reference_id": reference["id"], "asked": "All people" });
    let (status, listed) = server.post("/api/v1/extractions", &json!({ "report": report })).await;
    assert_eq!((status, &listed["progress"]), (Status::Created, &json!("unread")), "{listed}");
    listed
}

#[rocket::async_test]
async fn two_people_read_a_report_blind_and_settle_it() {
    let server = Server::start().await;
    let (test, results) = thumb_lift(&server).await;
    let listed = listed(&server, &test).await;
    let (one, mine) = (path(&listed), format!("{}/mine", path(&listed)));
    let reference = format!("/api/v1/references/{}", listed["reference_id"].as_str().unwrap());
    assert_eq!(faults(&server.delete(&reference, "\"1\"").await.1), ["extractions"], "it is still to be read");

    // A draft may be wrong; what is handed in may not.
    let (status, kept) = server.put(&mine, "\"0\"", &own(&read(-1.0, "one_group"), false)).await;
    assert_eq!((status, &kept["mine"]["version"]), (Status::Ok, &json!(1)), "{kept}");
    assert_eq!(server.put(&mine, "\"0\"", &own(&read(21.0, "one_group"), false)).await.0, Status::PreconditionFailed);
    let (_, problem) = server.put(&mine, "\"1\"", &own(&read(-1.0, "one_group"), true)).await;
    assert_eq!(faults(&problem), ["result.tp"]);
    let (status, kept) = server.put(&mine, "\"1\"", &own(&read(20.0, "one_group"), true)).await;
    assert_eq!((status, &kept["progress"], &kept["compared"]), (Status::Ok, &json!("once"), &Value::Null));
    let settlement = format!("{one}/settlement");
    let body = json!({ "settled": read(20.0, "one_group"), "reasons": {} });
    assert_eq!(faults(&server.post(&settlement, &body).await.1), ["extraction"], "one is not two");

    // The second reader sees that it was read and by whom, and nothing of what was read.
    server.enter("second_reader").await;
    let (_, seen) = server.get(&one).await;
    assert_eq!((&seen["mine"], &seen["compared"]), (&Value::Null, &Value::Null));
    assert_eq!(seen["readers"][0], json!({ "name": kept["readers"][0]["name"], "you": false, "done": true }));
    assert!(!seen.to_string().contains("read 20") && !seen.to_string().contains("one_group"), "{seen}");
    let (_, board) = server.get("/api/v1/extractions?next=true").await;
    assert_eq!((&board["found"], &board["rows"][0]["progress"]), (&json!(1), &json!("once")), "{board}");
    assert!(!board.to_string().contains("read 20"));
    assert_eq!(server.put(&mine, "\"0\"", &own(&read(18.0, "two_groups"), false)).await.0, Status::Ok);
    server.enter("administrator").await;
    let third = server.put(&mine, "\"0\"", &own(&read(19.0, "one_group"), false)).await.1;
    assert_eq!(faults(&third), ["extraction"], "a third reader has no place");
    assert_eq!(faults(&server.delete(&one, "\"0\"").await.1), ["extraction"], "it is being read");
    server.enter("second_reader").await;
    let (_, both) = server.put(&mine, "\"1\"", &own(&read(18.0, "two_groups"), true)).await;
    let differing: Vec<&str> = both["compared"]["fields"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|it| it["same"] == false)
        .map(|it| it["field"].as_str().unwrap())
        .collect();
    assert_eq!(differing, ["study.setup.design", "result.tp"]);
    assert_eq!(both["compared"]["first"]["study"]["reference"], listed["reference"], "the report is that of the list");
    assert_eq!(faults(&server.put(&mine, "\"2\"", &own(&read(20.0, "one_group"), true)).await.1), ["extraction"]);
    assert_eq!(faults(&server.delete(&mine, "\"2\"").await.1), ["extraction"], "both are in");
    let (_, agreement) = server.get("/api/v1/extractions/agreement?region=hand_wrist").await;
    assert_eq!((&agreement["n"], &agreement["same"], &agreement["compared"]), (&json!(1), &json!(4), &json!(6)));

    let (status, problem) = server.post(&settlement, &body).await;
    assert_eq!(status, Status::UnprocessableEntity);
    assert_eq!(faults(&problem), ["reasons.study.setup.design", "reasons.result.tp"]);
    assert_eq!(server.get(&results).await.1, json!([]), "what is not settled is on no sheet");
    let reasons = json!({ "study.setup.design": "Methods, p. 2", "result.tp": "Misread by the second reader" });
    let (status, settled) =
        server.post(&settlement, &json!({ "settled": read(20.0, "one_group"), "reasons": reasons })).await;
    assert_eq!((status, &settled["progress"]), (Status::Ok, &json!("settled")), "{settled}");
    assert_eq!(settled["settled"]["decisions"][1]["reason"], "Misread by the second reader");
    let (_, on_sheet) = server.get(&results).await;
    assert_eq!(
        (&on_sheet[0]["counts"]["tp"], &on_sheet[0]["study"]["setup"]["design"]),
        (&json!(20), &json!("one_group"))
    );
    assert_eq!(on_sheet[0]["study"]["reference_id"], listed["reference_id"]);
    let double = &on_sheet[0]["trace"]["double"];
    assert_eq!((&double["id"], &double["settled_by"]), (&listed["id"], &settled["settled"]["by"]));
    assert_eq!(double["readers"].as_array().unwrap().len(), 2);
    assert_eq!(faults(&server.post(&settlement, &body).await.1), ["extraction"], "settled once");
    // When the result is deleted, what two people read and decided can still be looked up.
    let result = format!("/api/v1/results/{}", on_sheet[0]["id"].as_str().unwrap());
    let version = format!("\"{}\"", on_sheet[0]["version"]);
    let (status, deleted) = server.delete(&result, &version).await;
    assert_eq!(status, Status::Ok, "{deleted}");
    let (status, kept) = server.get(&one).await;
    assert_eq!((status, &kept["progress"], &kept["result"]), (Status::Ok, &json!("settled"), &Value::Null), "{kept}");
    assert_eq!(kept["settled"]["decisions"], settled["settled"]["decisions"]);
    assert_eq!(faults(&server.post(&settlement, &body).await.1), ["extraction"], "it is not settled anew");
    server.enter("learner").await;
    server.end().await;
}

#[rocket::async_test]
async fn a_result_on_record_is_read_again_and_corrected_at_its_version() {
    let server = Server::start().await;
    let (_, results) = thumb_lift(&server).await;
    let mut entered = read(20.0, "one_group");
    entered["study"]["reference"] = json!("Sample report");
    let (_, result) = server.post(&results, &entered).await;
    let again = json!({ "result": { "result_id": result["id"] } });
    let (status, asked) = server.post("/api/v1/extractions", &again).await;
    assert_eq!(
        (status, &asked["progress"], &asked["mine"]["content"]["result"]["tp"]),
        (Status::Created, &json!("once"), &json!(20.0)),
        "who entered it is the first reader"
    );
    assert_eq!(faults(&server.post("/api/v1/extractions", &again).await.1), ["result_id"]);

    server.enter("second_reader").await;
    let mine = format!("{}/mine", path(&asked));
    assert_eq!(server.get(&path(&asked)).await.1["result"], Value::Null, "not before both are in");
    // Given up, and begun again.
    server.put(&mine, "\"0\"", &own(&read(1.0, "one_group"), false)).await;
    assert_eq!(server.delete(&mine, "\"9\"").await.0, Status::PreconditionFailed);
    assert_eq!(server.delete(&mine, "\"1\"").await.1["mine"], Value::Null);
    let (_, both) = server.put(&mine, "\"0\"", &own(&read(19.0, "one_group"), true)).await;
    let on_record = &both["result"];

    // Corrected on its sheet meanwhile: nothing is settled over it unseen.
    let mut corrected = entered["result"].clone();
    corrected["tn"] = json!(25);
    let sheet = format!("/api/v1/results/{}", result["id"].as_str().unwrap());
    assert_eq!(server.put(&sheet, "\"1\"", &json!({ "result": corrected })).await.0, Status::Ok);
    let mut settled = read(19.0, "one_group");
    settled["study"]["reference"] = json!("Sample report");
    let settle = |version: &Value| {
        json!({ "study_id": on_record["study_id"], "study_version": on_record["study_version"],
            "result_version": version, "settled": settled, "reasons": { "result.tp": "Table 2" } })
    };
    let settlement = format!("{}/settlement", path(&asked));
    assert_eq!(server.post(&settlement, &settle(&on_record["version"])).await.0, Status::PreconditionFailed);
    assert_eq!(faults(&server.post(&settlement, &settle(&Value::Null)).await.1), ["result_version"]);
    let (status, done) = server.post(&settlement, &settle(&json!(2))).await;
    assert_eq!((status, &done["progress"]), (Status::Ok, &json!("settled")), "{done}");
    let (_, now) = server.get(&results).await;
    assert_eq!((&now[0]["id"], &now[0]["version"], &now[0]["counts"]["tp"]), (&result["id"], &json!(3), &json!(19)));
    let (_, history) = server.get(&format!("{results}/history")).await;
    assert_eq!(history[0]["action"], "settled", "{history}");

    // The board: what is settled, found by its words, and nothing else to do.
    let board = async |query: &str| server.get(&format!("/api/v1/extractions?{query}")).await.1;
    let all = board("search=SAMPLE%20rep&region=hand_wrist").await;
    assert_eq!((&all["counts"]["settled"], &all["rows"][0]["result_id"]), (&json!(1), &result["id"]), "{all}");
    for (query, found) in [
        ("search=other", 0),
        ("search=%25", 0),
        ("region=neck", 0),
        ("progress=once", 0),
        ("progress=settled", 1),
        ("appraised=true", 0),
        ("appraised=false&limit=1", 1),
        ("next=true", 0),
    ] {
        assert_eq!(board(query).await["found"], found, "{query}");
    }
    assert_eq!(server.get("/api/v1/extractions?progress=often").await.0, Status::BadRequest);
    server.end().await;
}

#[rocket::async_test]
async fn what_nobody_reads_comes_off_the_list() {
    let server = Server::start().await;
    let (test, results) = thumb_lift(&server).await;
    let listed = listed(&server, &test).await;
    assert_eq!(server.delete(&path(&listed), "\"0\"").await.0, Status::NoContent);
    assert_eq!(server.get(&path(&listed)).await.0, Status::NotFound);
    let mut entered = read(20.0, "one_group");
    entered["study"]["reference"] = json!("Sample report");
    let (_, result) = server.post(&results, &entered).await;
    let again = json!({ "result": { "result_id": result["id"] } });
    let (_, asked) = server.post("/api/v1/extractions", &again).await;
    assert_eq!(server.delete(&path(&asked), "\"0\"").await.0, Status::NoContent, "the result itself stays");
    assert_eq!(server.get(&results).await.1[0]["id"], result["id"]);
    assert_eq!(server.post("/api/v1/extractions", &again).await.0, Status::Created, "and can be asked for again");
    server.delete(&format!("/api/v1/results/{}", result["id"].as_str().unwrap()), "\"1\"").await;
    assert_eq!(server.get("/api/v1/extractions").await.1["found"], 0, "a deleted result is not read");
    let (_, kept) = server.get(&path(&asked)).await;
    assert_eq!(kept["code"], "not_found", "what was taken off the list stays off: {kept}");
    let gone = json!({ "report": { "test_id": result["id"], "reference_id": result["id"] } });
    assert_eq!(faults(&server.post("/api/v1/extractions", &gone).await.1), ["reference_id"]);
    server.end().await;
}
