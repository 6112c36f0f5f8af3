//! Agreement results over the API: answered while they are typed, kept with their versions, brought back.

use crate::support::Server;
use rocket::http::{Header, Status};
use serde_json::{Value, json};

fn fields(problem: &Value) -> Vec<&str> {
    problem["errors"].as_array().unwrap().iter().map(|error| error["field"].as_str().unwrap()).collect()
}

fn result(reference_id: &Value, rows: &Value) -> Value {
    json!({ "study": { "reference": "As typed", "reference_id": reference_id },
        "agreement": { "finding": "Weaker", "examiners": "Two surgeons", "figures": { "kind": "table", "rows": rows } } })
}

#[rocket::async_test]
async fn a_result_is_added_corrected_deleted_and_restored_at_its_version() {
    let server = Server::start().await;
    let sheet = json!({ "name": "Thumb lift", "region": "hand_wrist", "purpose": "strength", "condition": "Weak thumb",
        "positive_finding": "Weaker than the other side" });
    let (_, test) = server.post("/api/v1/tests", &sheet).await;
    let list = format!("/api/v1/tests/{}/agreements", test["id"].as_str().unwrap());
    let input = json!({ "title": "Two raters", "authors": [{ "family": "Quellan" }], "year": 2019 });
    let (_, reference) = server.post("/api/v1/references", &input).await;

    let cells = json!([["", "yes", "no"], ["yes", "40", "9"], ["no", "6", "45"]]);
    for (given, fault) in [
        (result(&test["id"], &cells), "study.reference_id"),
        (result(&Value::Null, &json!([["40", "x"], ["6", "45"]])), "agreement.figures.rows[0][1]"),
        (json!({ "agreement": { "figures": { "kind": "table", "rows": cells } } }), "study"),
    ] {
        let (status, problem) = server.post(&list, &given).await;
        assert_eq!((status, fields(&problem)), (Status::UnprocessableEntity, vec![fault]), "{problem}");
    }
    let nowhere = format!("/api/v1/tests/{}/agreements", reference["id"].as_str().unwrap());
    assert_eq!(server.post(&nowhere, &result(&Value::Null, &cells)).await.0, Status::NotFound);
    assert_eq!(server.get(&list).await.1, json!([]), "what is refused changes nothing");

    let (status, added) = server.post(&list, &result(&reference["id"], &cells)).await;
    assert_eq!((status, &added["study"]["cited"]["label"]), (Status::Created, &json!("Quellan 2019")), "{added}");
    let first = &added["answer"]["headline"];
    let kappa = first["estimate"]["estimate"].as_f64().unwrap();
    assert!((kappa - 0.699_519_230_769_231).abs() < 1e-9, "{first}");
    assert_eq!(
        (&first["size"]["word"], &added["answer"]["categories"]),
        (&json!("substantial"), &json!(["yes", "no"]))
    );
    let work = format!("/api/v1/references/{}", reference["id"].as_str().unwrap());
    assert_eq!(server.delete(&work, "\"1\"").await.0, Status::UnprocessableEntity, "a result stands on it");

    let path = format!("/api/v1/agreements/{}", added["id"].as_str().unwrap());
    let fewer = result(&reference["id"], &json!([["20", "4"], ["3", "22"]]));
    assert_eq!(server.put(&path, "\"1\"", &fewer).await.1["version"], json!(2));
    let (status, problem) = server.put(&path, "\"1\"", &result(&Value::Null, &cells)).await;
    assert_eq!((status, &problem["current_version"]), (Status::PreconditionFailed, &json!(2)));
    assert_eq!(server.delete(&path, "\"2\"").await.0, Status::Ok);
    assert_eq!(server.get(&list).await.1, json!([]));
    assert_eq!(server.delete(&work, "\"1\"").await.0, Status::Ok);
    let restore = server.client.post(format!("{path}/restore")).header(Header::new("If-Match", "\"3\""));
    let (status, back) = server.send(restore).await;
    assert_eq!(
        (status, &back["study"]["cited"], &back["study"]["reference"]),
        (Status::Ok, &Value::Null, &json!("As typed")),
        "{back}"
    );
    assert_eq!(back["answer"]["subjects"], json!(49));

    let changes = format!("/api/v1/tests/{}/results/history", test["id"].as_str().unwrap());
    let (_, changes) = server.get(&changes).await;
    let of = changes.as_array().unwrap().iter().filter(|it| it["kind"] == "agreement");
    let changes: Vec<_> = of.collect();
    let actions: Vec<_> = changes.iter().map(|it| it["action"].as_str().unwrap()).collect();
    assert_eq!(actions, ["restored", "deleted", "edited", "created"], "{changes:?}");
    assert_eq!(changes[2]["before"]["figures"]["rows"], cells);
    server.end().await;
}

#[rocket::async_test]
async fn figures_are_answered_while_they_are_typed() {
    let server = Server::start().await;
    let path = "/api/v1/agreements/answer";
    let rows = json!([["9", "2"], ["6", "1"], ["8", "4"], ["7,5", "1"]]);
    let (status, found) = server.post(path, &json!({ "kind": "measurements", "rows": rows, "unit": "mm" })).await;
    assert_eq!((status, &found["detail"]["kind"], &found["raters"]), (Status::Ok, &json!("measured"), &json!(2)));
    let (status, problem) =
        server.post(path, &json!({ "kind": "reported", "coefficient": "kappa", "value": 0.7 })).await;
    assert_eq!((status, fields(&problem)), (Status::UnprocessableEntity, vec!["figures.lower"]));
    for body in [json!({ "kind": "guess" }), json!({ "kind": "table", "rows": [[1, 2], [3, 4]] }), json!([])] {
        assert!(server.post(path, &body).await.0.code / 100 == 4, "{body}");
    }
    server.end().await;
}
