//! Conditions: several of one test, how common one is with and without symptoms, and where teaching about tests disagrees.

use crate::support::Server;
use rocket::http::Status;
use serde_json::{Value, json};

fn sheet(name: &str, others: &[&str]) -> Value {
    json!({ "name": name, "region": "pelvis", "purpose": "functional_task", "condition": "Sore joint", "other_conditions": others,
        "positive_finding": "Hard", "variants": [{ "name": "As taught", "steps": [{ "text": "Lift" }] }] })
}

fn result(reference: &str, condition: &str, cells: [u32; 4]) -> Value {
    let [tp, fp, fn_, tn] = cells;
    json!({ "study": { "reference": reference }, "result": { "condition": condition, "reference_standard": "Follow-up",
        "tp": tp, "fp": fp, "fn": fn_, "tn": tn } })
}

#[rocket::async_test]
async fn a_test_of_several_conditions_answers_for_each() {
    let server = Server::start().await;
    let (_, test) = server.post("/api/v1/tests", &sheet("Leg lift", &["Weak trunk"])).await;
    let path = format!("/api/v1/tests/{}", test["id"].as_str().unwrap());
    for (reference, condition, cells) in
        [("A 2001", "", [30, 5, 10, 40]), ("B 2002", "", [20, 8, 9, 30]), ("A 2001b", "weak TRUNK", [9, 20, 15, 40])]
    {
        let (status, saved) = server.post(&format!("{path}/results"), &result(reference, condition, cells)).await;
        assert_eq!((status, &saved["left_out"]), (Status::Created, &Value::Null), "{saved}");
    }
    let pooled = async |query: &str| {
        let (_, answer) = server.get(&format!("{path}/pooled{query}")).await;
        (answer["pooled"]["k"].clone(), answer["pooled"]["diseased"].clone())
    };
    assert_eq!(pooled("").await, (json!(2), json!(69)));
    assert_eq!(pooled("?condition=sore%20joint").await, (json!(2), json!(69)));
    assert_eq!(pooled("?condition=Weak%20trunk").await, (json!(1), json!(24)));
    let (status, problem) = server.get(&format!("{path}/pooled?condition=Elbow")).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::BadRequest, &json!("condition")), "{problem}");
    let (_, results) = server.get(&format!("{path}/results?condition=Weak%20trunk")).await;
    let out: Vec<&Value> = results.as_array().unwrap().iter().map(|it| &it["left_out"]["code"]).collect();
    assert_eq!(out, [&json!("other_condition"), &json!("other_condition"), &Value::Null]);

    let rows = async |query: &str| {
        let (_, rows) = server.get(&format!("/api/v1/tests?region=pelvis{query}")).await;
        let row = |it: &Value| (it["condition"].clone(), it["studies"].clone(), it["leading"].clone());
        rows.as_array().unwrap().iter().map(row).collect::<Vec<_>>()
    };
    let (sore, weak) = ((json!("Sore joint"), json!(2), json!(true)), (json!("Weak trunk"), json!(1), json!(false)));
    assert_eq!(rows("").await, std::slice::from_ref(&sore));
    assert_eq!(rows("&condition=weak%20trunk").await, std::slice::from_ref(&weak));
    assert_eq!(rows("&asked=Weak%20trunk").await, std::slice::from_ref(&weak));
    assert_eq!(rows("&asked=Unheard").await, std::slice::from_ref(&sore));
    assert_eq!(rows("&each_condition=true&sort=evidence").await, [sore, weak]);
    let ask = json!({ "region": "pelvis", "condition": "Weak trunk", "pre_test": 0.3,
        "findings": [{ "test": test["id"], "positive": true }] });
    let (status, patient) = server.post("/api/v1/likelihood/patient", &ask).await;
    assert_eq!((status, patient["tests"].as_array().unwrap().len()), (Status::Ok, 1), "{patient}");
    assert_ne!(patient["chain"]["steps"][0]["after"], Value::Null);

    // The sheet follows a new name of a condition that it names among others, and so do list and count.
    let (_, conditions) = server.get("/api/v1/conditions").await;
    let condition = conditions.as_array().unwrap().iter().find(|it| it["name"] == "Weak trunk").unwrap();
    assert_eq!(condition["tests"], 1);
    let renamed = json!({ "region": "pelvis", "name": "Poor trunk support", "pre_test": 0.2 });
    let address = format!("/api/v1/conditions/{}", condition["id"].as_str().unwrap());
    assert_eq!(server.put(&address, "\"1\"", &renamed).await.0, Status::Ok);
    let (_, now) = server.get(&path).await;
    assert_eq!((&now["other_conditions"], &now["version"]), (&json!(["Poor trunk support"]), &json!(1)));
    assert_eq!(rows("&condition=Poor%20trunk%20support").await[0].1, 1);
    server.end().await;
}

#[rocket::async_test]
async fn levels_are_found_in_one_patient() {
    let server = Server::start().await;
    let (_, test) = server.post("/api/v1/tests", &sheet("Leg lift", &[])).await;
    let path = format!("/api/v1/tests/{}", test["id"].as_str().unwrap());
    let mut given = result("A 2001", "", [38, 5, 11, 32]);
    given["result"]["levels"] = json!([{ "name": "easy", "with": 11, "without": 32 }, { "name": "hard", "with": 26, "without": 4 },
        { "name": "cannot", "with": 12, "without": 1 }]);
    assert_eq!(server.post(&format!("{path}/results"), &given).await.0, Status::Created);
    let ask = async |found: Value| {
        let asked = json!({ "region": "pelvis", "condition": "Sore joint", "pre_test": 0.3, "findings": [found] });
        server.post("/api/v1/likelihood/patient", &asked).await
    };
    let (status, answer) = ask(json!({ "test": test["id"], "level": "Hard" })).await;
    assert_eq!(status, Status::Ok, "{answer}");
    // (26/49) / (4/37), by hand.
    let ratio = answer["chain"]["steps"][0]["lr"]["estimate"].as_f64().unwrap();
    assert!((ratio - 26.0 * 37.0 / (49.0 * 4.0)).abs() < 1e-9, "{ratio}");
    let levels: Vec<&Value> = answer["tests"][0]["levels"].as_array().unwrap().iter().map(|it| &it["name"]).collect();
    assert_eq!(levels, [&json!("easy"), &json!("hard"), &json!("cannot")]);
    assert_eq!((&answer["tests"][0]["level_studies"], &answer["findings"][0]["level"]), (&json!(1), &json!("Hard")));
    for (found, field) in [
        (json!({ "test": test["id"], "level": "middling" }), "findings.0.level"),
        (json!({ "test": test["id"], "level": "hard", "positive": true }), "findings.0.positive"),
        (json!({ "test": test["id"] }), "findings.0.positive"),
    ] {
        let (status, problem) = ask(found).await;
        assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!(field)), "{problem}");
    }
    let (_, rows) = server.get("/api/v1/tests?region=pelvis").await;
    assert_eq!(rows[0]["levels"].as_array().unwrap().len(), 3);
    server.end().await;
}

#[rocket::async_test]
async fn prevalence_is_pooled_and_said_beside_answers() {
    let server = Server::start().await;
    server.post("/api/v1/tests", &sheet("Leg lift", &[])).await;
    let (_, conditions) = server.get("/api/v1/conditions").await;
    let id =
        conditions.as_array().unwrap().iter().find(|it| it["name"] == "Sore joint").unwrap()["id"].as_str().unwrap();
    let (address, answer) = (format!("/api/v1/conditions/{id}"), format!("/api/v1/conditions/{id}/prevalence"));
    let (_, none) = server.get(&answer).await;
    assert_eq!((&none["incidental"], &none["sources"]), (&json!("not_known"), &json!(0)));
    let report = |symptoms: &str, people: u32, with: u32| json!({ "symptoms": symptoms, "people": people, "with_condition": with, "age_from": 40, "age_to": 60, "source": "A 2001" });
    let mut body = json!({ "region": "pelvis", "name": "Sore joint", "prevalence": [report("with", 50, 30), report("without", 100, 20)] });
    let (status, saved) = server.put(&address, "\"1\"", &body).await;
    assert_eq!((status, &saved["version"]), (Status::Ok, &json!(2)), "{saved}");
    let (_, pooled) = server.get(&answer).await;
    assert_eq!(pooled["incidental"], "possible");
    assert!((pooled["ratio"]["estimate"].as_f64().unwrap() - 3.0).abs() < 1e-9, "{pooled}");
    let (_, apart) = server.get(&format!("{answer}?age=70")).await;
    assert_eq!((&apart["sources"], &apart["apart"]), (&json!(0), &json!(2)));
    assert_eq!(server.get(&format!("{answer}?age=old")).await.0, Status::BadRequest);
    let ask = json!({ "region": "pelvis", "condition": "Sore joint", "pre_test": 0.3 });
    let (_, background) = server.post("/api/v1/likelihood/background", &ask).await;
    assert_eq!(background["prevalence"]["incidental"], "possible", "{background}");
    body["prevalence"][0]["people"] = Value::Null;
    let (status, problem) = server.put(&address, "\"2\"", &body).await;
    let field = &problem["errors"][0]["field"];
    assert_eq!((status, field), (Status::UnprocessableEntity, &json!("prevalence[0].people")));
    assert_eq!(server.put(&address, "\"1\"", &body).await.0, Status::UnprocessableEntity);
    server.end().await;
}

#[rocket::async_test]
async fn conflicting_teaching_is_filed_decided_and_taken_along() {
    let server = Server::start().await;
    let (_, test) = server.post("/api/v1/tests", &sheet("Leg lift", &[])).await;
    let list = "/api/v1/teaching-conflicts";
    let mut entry = json!({ "region": "pelvis", "tests": [test["id"]], "topic": "angle", "question": "How high?",
        "claims": [{ "claim": "20 cm", "source": "School A" }] });
    let (_, problem) = server.post(list, &entry).await;
    assert_eq!(problem["errors"][0]["field"], "claims", "{problem}");
    entry["claims"] = json!([{ "claim": "20 cm", "source": "School A" }, { "claim": "30 cm", "source": "School B", "evidence": "none" }]);
    let (status, filed) = server.post(list, &entry).await;
    assert_eq!((status, &filed["verdict"]), (Status::Created, &json!("open")), "{filed}");
    assert_eq!(filed["named_tests"][0]["name"], "Leg lift");
    let (_, problem) = server.post(list, &entry).await;
    assert_eq!(problem["errors"][0]["field"], "question", "asked already: {problem}");
    let path = format!("{list}/{}", filed["id"].as_str().unwrap());
    entry["verdict"] = json!("favours");
    let (_, problem) = server.put(&path, "\"1\"", &entry).await;
    let fields: Vec<&Value> = problem["errors"].as_array().unwrap().iter().map(|it| &it["field"]).collect();
    assert_eq!(fields, [&json!("reason"), &json!("favours")]);
    (entry["favours"], entry["reason"]) = (json!(1), json!("Measured."));
    assert_eq!(server.put(&path, "\"1\"", &entry).await.0, Status::Ok);
    assert_eq!(server.put(&path, "\"1\"", &entry).await.0, Status::PreconditionFailed);
    let of_test = format!("{list}?test={}", test["id"].as_str().unwrap());
    let count = async |path: &str| server.get(path).await.1.as_array().unwrap().len();
    assert_eq!((count(&of_test).await, count("/api/v1/teaching-conflicts?region=neck").await), (1, 0));
    assert_eq!(server.delete(&path, "\"2\"").await.0, Status::Ok);
    assert_eq!(count(list).await, 0);
    let restored = server
        .send(server.client.post(format!("{path}/restore")).header(rocket::http::Header::new("If-Match", "\"3\"")))
        .await;
    assert_eq!(restored.0, Status::Ok, "{}", restored.1);
    let (_, history) = server.get("/api/v1/vocabulary/history").await;
    let told = history.as_array().unwrap().iter().filter(|it| it["kind"] == "teaching_conflict").count();
    assert_eq!(told, 4);
    // Out and in again: nothing is lost, and nothing comes twice.
    let (_, conditions) = server.get("/api/v1/conditions").await;
    let sore = conditions.as_array().unwrap().iter().find(|it| it["name"] == "Sore joint").unwrap();
    let counted = json!({ "region": "pelvis", "name": "Sore joint",
        "prevalence": [{ "symptoms": "without", "people": 40, "with_condition": 3, "source": "A 2001", "setting": "sports" }] });
    let address = format!("/api/v1/conditions/{}", sore["id"].as_str().unwrap());
    assert_eq!(server.put(&address, "\"1\"", &counted).await.0, Status::Ok);
    let (_, bundle) = server.get("/api/v1/bundle").await;
    assert_eq!(bundle["teaching_conflicts"][0]["tests"], json!(["Leg lift"]), "{bundle}");
    let other = Server::start().await;
    let imported = other.import("", &bundle).await;
    assert_eq!(imported["bundle"]["teaching_conflicts"], 1, "{imported}");
    let (_, there) = other.get(list).await;
    assert_eq!((&there[0]["reason"], &there[0]["named_tests"][0]["name"]), (&json!("Measured."), &json!("Leg lift")));
    let (_, conditions) = other.get("/api/v1/conditions").await;
    let there = conditions.as_array().unwrap().iter().find(|it| it["name"] == "Sore joint").unwrap();
    assert_eq!(
        (&there["prevalence"][0]["people"], &there["prevalence"][0]["setting"]),
        (&json!(40.0), &json!("sports"))
    );
    let again = other.import("changed=keep", &bundle).await;
    assert_eq!(again["bundle"]["teaching_conflicts"], 0, "{again}");
    other.end().await;
    server.end().await;
}

#[rocket::async_test]
async fn an_import_is_not_undone_while_the_register_names_its_tests() {
    let server = Server::start().await;
    let entry = |question: &str, tests: Value| {
        json!({ "region": "pelvis", "tests": tests, "topic": "angle", "question": question,
            "claims": [{ "claim": "20 cm", "source": "School A" }, { "claim": "30 cm", "source": "School B" }] })
    };
    let mut own = entry("How high?", json!([]));
    own.as_object_mut().unwrap().remove("tests");
    let bundle = json!({ "format": "pruvex-bundle", "schema_version": 3, "title": "Module", "sample": false,
        "tests": [{ "sheet": sheet("Leg lift", &["Weak trunk"]) }],
        "teaching_conflicts": [{ "conflict": own, "tests": ["leg LIFT"] }] });
    let imported = server.import("name=module.json", &bundle).await;
    assert_eq!(imported["bundle"]["teaching_conflicts"], 1, "{imported}");
    let (_, tests) = server.get("/api/v1/tests").await;
    let list = "/api/v1/teaching-conflicts";
    let (_, other) = server.post(list, &entry("How fast?", json!([tests[0]["id"]]))).await;
    let (_, past) = server.get("/api/v1/imports").await;
    assert_eq!((&past[0]["brought"]["teaching_conflicts"], &past[0]["brought"]["conditions"]), (&json!(1), &json!(2)));
    let undo = format!("/api/v1/imports/{}/taking-back", past[0]["id"].as_str().unwrap());
    let (status, refused) = server.post(&undo, &json!({})).await;
    let value = &refused["errors"][0]["value"];
    assert_eq!((status, value), (Status::UnprocessableEntity, &json!("How fast?")), "{refused}");
    let path = format!("{list}/{}", other["id"].as_str().unwrap());
    assert_eq!(server.put(&path, "\"1\"", &entry("How fast?", json!([]))).await.0, Status::Ok);
    assert_eq!(server.post(&undo, &json!({})).await.0, Status::NoContent);
    let (_, left) = server.get(list).await;
    assert_eq!((left.as_array().unwrap().len(), &left[0]["question"]), (1, &json!("How fast?")));
    let wrong = entry("How long?", json!(["01900000-0000-7000-8000-000000000000"]));
    let (_, problem) = server.post(list, &wrong).await;
    assert_eq!(problem["errors"][0]["field"], "tests[0]", "{problem}");
    server.end().await;
}
