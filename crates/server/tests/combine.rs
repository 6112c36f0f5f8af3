//! Several tests read together: what a battery is worth, what studies of it found, and what is claimed of one.

use crate::support::Server;
use rocket::http::Status;
use serde_json::{Value, json};

async fn test(server: &Server, name: &str) -> String {
    let sheet = json!({ "name": name, "region": "pelvis", "purpose": "pain_provocation", "condition": "Sore joint", "positive_finding": "Pain",
        "variants": [{ "name": "As taught", "steps": [{ "text": "Push" }], "targets": [{ "structure": "Joint capsule", "role": "compressed" }] }] });
    let (status, saved) = server.post("/api/v1/tests", &sheet).await;
    assert_eq!(status, Status::Created, "{saved}");
    saved["id"].as_str().unwrap().to_owned()
}

async fn result(server: &Server, test: &str, reference: &str, cells: [u32; 4], more: Value) {
    let [tp, fp, fn_, tn] = cells;
    let mut result = json!({ "reference_standard": "Block", "tp": tp, "fp": fp, "fn": fn_, "tn": tn });
    result.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
    let body = json!({ "study": { "reference": reference }, "result": result });
    let (status, saved) = server.post(&format!("/api/v1/tests/{test}/results"), &body).await;
    assert_eq!(status, Status::Created, "{saved}");
}

#[rocket::async_test]
async fn a_battery_is_calculated_and_studies_of_the_very_rule_outrank_it() {
    let server = Server::start().await;
    let (one, two, three) = (test(&server, "Push").await, test(&server, "Pull").await, test(&server, "Press").await);
    let unstudied = test(&server, "Look").await;
    for (id, cells) in [(&one, [40, 10, 10, 40]), (&two, [35, 15, 15, 35]), (&three, [30, 5, 20, 45])] {
        result(&server, id, &format!("Alder {id}"), cells, json!({})).await;
    }
    result(&server, &one, "Birch", [5, 20, 20, 5], json!({ "variant": "Seated" })).await;
    let together = |others: &[&String], rule: Value| json!({ "together": { "tests": others, "rule": rule } });
    // The very rule, entered at another test of it; the same tests by another rule; other tests.
    result(&server, &two, "Cedar", [45, 4, 5, 46], together(&[&one, &three], json!({ "at_least": 2 }))).await;
    result(&server, &one, "Dogwood", [20, 1, 30, 49], together(&[&two, &three], json!("all"))).await;
    result(&server, &one, "Elm", [40, 8, 10, 42], together(&[&two], json!("any"))).await;
    result(
        &server,
        &one,
        "Fir",
        [40, 8, 10, 42],
        json!({ "condition": "Another one", "together": { "tests": [two], "rule": "any" } }),
    )
    .await;

    let narrowed = json!({ "only": { "variant": [""] }, "from": null, "until": null, "off": [] });
    let ask = json!({ "region": "pelvis", "condition": "Sore joint", "pre_test": 0.3, "at_least": 2,
        "tests": [{ "test": one, "selection": narrowed }, { "test": two }, { "test": three }],
        "dependence": { "kind": "correlation", "with": 0.4, "without": 0.2 } });
    let (status, answer) = server.post("/api/v1/combine/battery", &ask).await;
    assert_eq!(status, Status::Ok, "{answer}");
    assert_eq!(
        (&answer["tests"][0]["studies"], &answer["tests"][0]["sensitivity"]["estimate"]),
        (&json!(1), &json!(0.8))
    );
    assert_eq!(answer["tests"][0]["facets"][0]["facet"], "variant");
    assert_eq!((&answer["published"]["studies"], &answer["published"]["reports"]), (&json!(1), &json!(["Cedar"])));
    assert_eq!(answer["published"]["summary"]["sensitivity"]["estimate"], 0.9);
    let similar: Vec<(&Value, &Value)> =
        answer["similar"].as_array().unwrap().iter().map(|it| (&it["report"], &it["same_tests"])).collect();
    assert_eq!(similar, [(&json!("Dogwood"), &json!(true)), (&json!("Elm"), &json!(false))]);
    // Independent tests of 80, 70 and 60 %: two of three find 0.788, none is positive in 0.024.
    let rule = &answer["independent"]["rules"][1]["sensitivity"];
    assert!((rule["estimate"].as_f64().unwrap() - 0.788).abs() < 1e-12, "{rule}");
    let none = &answer["independent"]["counts"][0];
    assert!((none["diseased"].as_f64().unwrap() - 0.024).abs() < 1e-12 && none["after"]["upper"].as_f64() < Some(0.3));
    let dependent = answer["dependent"]["rules"][1]["sensitivity"]["estimate"].as_f64().unwrap();
    assert!(dependent < 0.788 && dependent > answer["bounds"][1]["sensitivity"][0].as_f64().unwrap());
    assert_eq!(answer["shared"].as_array().unwrap().len(), 3);
    assert_eq!(answer["shared"][0]["purpose"], "pain_provocation");
    assert_eq!((answer["without"].as_array().unwrap().len(), &answer["covariances"]), (3, &Value::Null));

    let refused = async |changed: Value, field: &str, said: &str| {
        let mut asked = ask.clone();
        asked.as_object_mut().unwrap().extend(changed.as_object().unwrap().clone());
        let (status, problem) = server.post("/api/v1/combine/battery", &asked).await;
        assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!(field)), "{problem}");
        assert!(problem["errors"][0]["message"].as_str().unwrap().contains(said), "{problem}");
    };
    refused(json!({ "tests": [{ "test": one }] }), "tests", "1 test is chosen").await;
    refused(json!({ "tests": [{ "test": one }, { "test": one }] }), "tests.1.test", "given twice").await;
    refused(json!({ "tests": [{ "test": one }, { "test": unstudied }] }), "tests.1", "Look has no sensitivity").await;
    refused(json!({ "condition": "Another one" }), "tests.0.test", "No test for this condition").await;
    refused(json!({ "at_least": 4 }), "at_least", "asks for 1 to 3").await;
    refused(
        json!({ "dependence": { "kind": "correlation", "with": 1.2, "without": 0 } }),
        "dependence",
        "between 0 and 0.99",
    )
    .await;
    refused(json!({ "dependence": { "kind": "covariance", "with": 0.1, "without": 0 } }), "dependence", "3 tests")
        .await;

    // A reader who sees no drafts has none of these tests.
    server.enter("learner").await;
    refused(json!({}), "tests.0.test", "No test for this condition").await;
}

#[rocket::async_test]
async fn a_claim_is_possible_loosely_or_not_at_all() {
    let server = Server::start().await;
    let written = |se: &str, sp: &str| json!({ "sensitivity": se, "specificity": sp });
    let estimated = json!({ "sensitivity": { "estimate": 0.73, "lower": 0.6, "upper": 0.86 }, "specificity": { "estimate": 0.72, "lower": 0.6, "upper": 0.8 } });
    let claim = |k: u32, se: Value| json!({ "at_least": k, "sensitivity": se });
    let ask = async |tests: Value, claims: Value| {
        server.post("/api/v1/combine/claims", &json!({ "tests": tests, "claims": claims })).await
    };
    let singles = json!([written("88", "60"), estimated]);
    let (status, answer) =
        ask(singles.clone(), json!([claim(2, json!("85")), claim(2, json!("95")), claim(1, json!("97"))])).await;
    assert_eq!(status, Status::Ok, "{answer}");
    let possible = |which: &str| {
        answer[which]["claims"].as_array().unwrap().iter().map(|it| it["possible"].clone()).collect::<Vec<_>>()
    };
    assert_eq!(possible("exactly"), [json!(false), json!(false), json!(true)]);
    assert_eq!(possible("loosely"), [json!(true), json!(false), json!(true)]);
    assert_eq!(answer["exactly"]["claims"][0]["sensitivity"]["fault"], "too_high");
    assert_eq!(answer["claims"][2]["needed_sensitivity"]["code"], "correlation");
    for (tests, claims, field) in [
        (singles.clone(), json!([claim(2, json!("116"))]), "claims.0.sensitivity"),
        (singles.clone(), json!([claim(2, json!("-3"))]), "claims.0.sensitivity"),
        (singles.clone(), json!([claim(3, json!("80"))]), "claims.0.at_least"),
        (singles, json!([]), "claims"),
        (json!([written("8o", "60"), written("1", "2")]), json!([claim(1, json!("80"))]), "tests.0.sensitivity"),
        (json!([written("80", "60")]), json!([claim(1, json!("80"))]), "tests"),
    ] {
        let (status, problem) = ask(tests, claims).await;
        assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!(field)), "{problem}");
    }
}
