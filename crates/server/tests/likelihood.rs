//! A patient's results over the API, what stands behind them, thresholds of action, study sizes and the ladder in print.

use crate::support::Server;
use pruvex_core::combine::TestAccuracy;
use pruvex_core::likelihood::{net_benefit, post_test};
use pruvex_core::{Probability, Ratio};
use rocket::http::{ContentType, Status};
use serde_json::{Value, json};

async fn test(server: &Server, name: &str, structure: &str, cells: [[u32; 4]; 2], setting: &str) -> String {
    let sheet = json!({ "name": name, "region": "hand_wrist", "purpose": "strength", "condition": "Weak thumb",
        "positive_finding": "Weaker than the other side",
        "variants": [{ "name": "Usual", "targets": [{ "structure": structure }] }] });
    let (status, made) = server.post("/api/v1/tests", &sheet).await;
    assert_eq!(status, Status::Created, "{made}");
    let id = made["id"].as_str().unwrap().to_owned();
    for (nth, [tp, fp, fn_, tn]) in cells.into_iter().enumerate() {
        let body = json!({ "study": { "reference": format!("{name}, report {nth}"), "setup": { "setting": setting } },
            "result": { "tp": tp, "fp": fp, "fn": fn_, "tn": tn } });
        let (status, added) = server.post(&format!("/api/v1/tests/{id}/results"), &body).await;
        assert_eq!(status, Status::Created, "{added}");
    }
    id
}

fn p(value: &Value) -> f64 {
    value.as_f64().unwrap_or_else(|| panic!("no number: {value}"))
}

#[rocket::async_test]
async fn results_lead_from_before_testing_to_what_is_done() {
    let server = Server::start().await;
    let lift =
        test(&server, "Thumb lift", "Median nerve", [[40, 6, 10, 44], [30, 9, 20, 61]], "specialist_clinic").await;
    let press = test(&server, "Thumb press", "Median nerve", [[20, 0, 20, 22], [18, 0, 22, 30]], "primary_care").await;
    let (status, _) = server
        .post(
            "/api/v1/tests",
            &json!({ "name": "Thumb look", "region": "hand_wrist", "purpose": "observation",
                "condition": "Weak thumb", "positive_finding": "Thinner" }),
        )
        .await;
    assert_eq!(status, Status::Created);
    let ask = async |route: &str, more: Value| {
        let mut body = json!({ "region": "hand_wrist", "condition": "weak  THUMB", "pre_test": 0.3,
            "thresholds": { "reassure_below": 0.1, "treat_above": 0.6 } });
        body.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        server.post(&format!("/api/v1/likelihood/{route}"), &body).await
    };
    let patient = async |more: Value| ask("patient", more).await;
    let of = |answer: &Value, id: &str| {
        answer["tests"].as_array().unwrap().iter().find(|it| it["test"] == id).cloned().unwrap()
    };

    let (status, before) = patient(json!({ "focus": lift })).await;
    assert_eq!((status, &before["before"], &before["chain"]["steps"]), (Status::Ok, &json!("between"), &json!([])));
    let sheet = server.get(&format!("/api/v1/tests/{lift}/pooled")).await.1["pooled"].clone();
    let row = of(&before, &lift);
    assert_eq!((&row["lr_positive"], &row["lr_negative"]), (&sheet["lr_positive"], &sheet["lr_negative"]));
    let expected =
        post_test(Probability::new(0.3).unwrap(), Ratio::new(p(&sheet["lr_positive"]["estimate"])).unwrap()).unwrap();
    assert!((p(&row["after_positive"]["estimate"]) - expected.get()).abs() < 1e-12);
    assert_eq!(row["crossing_positive"]["to"], "treat");
    assert!(row["useful"].as_array().unwrap().len() <= 2 && p(&row["information"]) > 0.0);
    let shares = ["sensitivity", "specificity"].map(|it| Probability::new(p(&sheet[it]["estimate"])).unwrap());
    let accuracy = TestAccuracy { sensitivity: shares[0], specificity: shares[1] };
    let at = |percent: f64| {
        let (pre, threshold) = (Probability::new(0.3).unwrap(), Probability::new(percent / 100.0).unwrap());
        net_benefit(pre, accuracy.sensitivity, accuracy.specificity, threshold).unwrap()
    };
    let [by_test, treat_all] = at(20.0);
    let point = &before["benefit"][19];
    assert_eq!([p(&point["by_test"]), p(&point["treat_all"])], [by_test, treat_all], "the curve is the core's");
    // What has no false positive yet is not taken for certain.
    let perfect = of(&before, &press);
    assert!(p(&perfect["lr_positive"]["estimate"]) > 10.0 && p(&perfect["after_positive"]["estimate"]) < 0.99);
    assert!(p(&perfect["information"]) < 0.6, "{perfect}");

    let found = json!([{ "test": lift, "positive": true }, { "test": press, "positive": false }]);
    let (_, after) =
        patient(json!({ "findings": found, "correlation": 0.6, "range": [0.2, 0.4], "focus": press })).await;
    let steps = after["chain"]["steps"].as_array().unwrap();
    assert_eq!((steps.len(), after["crossings"].as_array().unwrap().len()), (2, 2));
    assert_eq!(after["chain"]["end"], steps[1]["after"]);
    assert_eq!(after["focus_at"], steps[0]["after"]["estimate"], "weighed before its own result");
    assert_eq!(after["shared"], json!([{ "tests": [0, 1], "structures": ["Median nerve"], "purpose": "strength" }]));
    let dependence = &after["chain"]["dependence"];
    assert!((p(&dependence["dependent"]) - p(&dependence["independent"])).abs() > 0.001, "{dependence}");

    let (status, behind) = ask("background", json!({ "findings": found, "pre_test": 0.02 })).await;
    assert_eq!(status, Status::Ok, "{behind}");
    let codes = |nth: usize| {
        let limits = behind["limits"][nth]["limits"].as_array().unwrap().iter();
        limits.map(|it| it["code"].as_str().unwrap().to_owned()).collect::<Vec<_>>()
    };
    assert_eq!(codes(0), ["few_studies", "not_appraised"]);
    assert!(codes(1).contains(&"no_errors".to_owned()), "{behind}");
    let settings: Vec<&str> =
        behind["spectrum"].as_array().unwrap().iter().map(|it| it["studied"]["setting"].as_str().unwrap()).collect();
    assert_eq!(settings, ["specialist_clinic", "primary_care"], "the least common first");
    assert!((p(&behind["spectrum"][0]["share"]) - 100.0 / 220.0).abs() < 1e-12);
    assert_eq!(p(&behind["other_spectrum"][1]), p(&behind["spectrum"][1]["share"]), "2 % is another world");
    let (status, cut) = ask("background", json!({ "focus": &lift[..8] })).await;
    let said = "At focus: this is no identifier, perhaps part of one. Nothing was changed.";
    assert_eq!((status, &cut["detail"]), (Status::BadRequest, &json!(said)));
    let (_, one) = ask("background", json!({ "focus": lift })).await;
    assert_eq!((one["spectrum"][0]["after"].as_array().unwrap().len(), &one["other_spectrum"]), (2, &Value::Null));

    // What cannot be answered names its field and changes nothing.
    let refused = async |more: Value, field: &str| {
        let (status, problem) = patient(more).await;
        assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!(field)), "{problem}");
    };
    refused(json!({ "range": [0.4, 0.5] }), "range").await;
    refused(json!({ "findings": [found[0], found[0]] }), "findings.1.test").await;
    refused(
        json!({ "findings": [{ "test": "01900000-0000-7000-8000-000000000000", "positive": true }] }),
        "findings.0.test",
    )
    .await;
    refused(json!({ "findings": found, "correlation": 1.0 }), "correlation").await;
    assert_eq!(
        patient(json!({ "thresholds": { "reassure_below": 0.5, "treat_above": 0.2 } })).await.0,
        Status::BadRequest
    );
    for edge in [0.0, 1.0] {
        let (status, answer) = patient(json!({ "pre_test": edge, "findings": found })).await;
        assert_eq!(
            (status, p(&answer["chain"]["end"]["estimate"])),
            (Status::Ok, edge),
            "nothing moves what is certain"
        );
    }
    // Learners see no drafts: for them there is nothing yet.
    server.enter("learner").await;
    let (status, nothing) = patient(json!({})).await;
    assert_eq!((status, &nothing["tests"]), (Status::Ok, &json!([])));
    server.end().await;
}

#[rocket::async_test]
async fn thresholds_and_study_sizes_come_from_what_is_at_stake() {
    let server = Server::start().await;
    let (_, threshold) = server.post("/api/v1/likelihood/threshold", &json!({ "benefit": 9, "harm": 1 })).await;
    assert!((p(&threshold["threshold"]) - 0.1).abs() < 1e-12);
    let (status, problem) = server.post("/api/v1/likelihood/threshold", &json!({ "benefit": 0, "harm": -1 })).await;
    assert_eq!((status, problem["errors"].as_array().unwrap().len()), (Status::UnprocessableEntity, 2));

    let plan = json!({
        "accuracy": { "sensitivity": 0.8, "specificity": 0.8, "prevalence": 0.25, "unusable": 0.2, "width": 0.1 },
        "agreement": { "kappa": 0.6, "positive": 0.3, "width": 0.2 },
    });
    let (_, sizes) = server.post("/api/v1/likelihood/study-size", &plan).await;
    let wanted = &sizes["accuracy"][0]["size"];
    assert_eq!(wanted["examined"], json!(wanted["with_condition"].as_u64().unwrap() * 5));
    assert_eq!(sizes["accuracy"].as_array().unwrap().len(), 5, "the width asked for is not said twice");
    assert!(sizes["agreement"][0]["size"].as_u64().unwrap() > 200);
    let hopeless = json!({ "accuracy": { "sensitivity": 0.5, "specificity": 0.5, "prevalence": 1e-6, "width": 0.01 } });
    let (_, none) = server.post("/api/v1/likelihood/study-size", &hopeless).await;
    assert_eq!((&none["accuracy"][0]["size"], &none["agreement"]), (&Value::Null, &json!([])));
    let bad = json!({ "accuracy": { "sensitivity": 0.8, "specificity": 0.8, "prevalence": 0, "unusable": 1, "width": 1 },
        "agreement": { "kappa": 1, "positive": 0, "width": 0 } });
    let (status, problem) = server.post("/api/v1/likelihood/study-size", &bad).await;
    let fields: Vec<&Value> = problem["errors"].as_array().unwrap().iter().map(|it| &it["field"]).collect();
    assert_eq!((status, fields.len()), (Status::UnprocessableEntity, 6), "{fields:?}");
    server.end().await;
}

#[rocket::async_test]
async fn the_ladder_is_printed_as_the_list_stands() {
    let server = Server::start().await;
    test(&server, "Thumb lift", "Median nerve", [[40, 6, 10, 44], [30, 9, 20, 61]], "primary_care").await;
    let print = async |format: &str| {
        let path = format!("/api/v1/likelihood/ladder/{format}?region=hand_wrist&ahead=true&group=region");
        let answer = server.client.get(path).dispatch().await;
        (answer.status(), answer.content_type(), answer.into_bytes().await.unwrap_or_default())
    };
    for (format, kind, start) in [
        ("pdf", ContentType::PDF, b"%PDF".as_slice()),
        ("svg", ContentType::SVG, b"<svg"),
        ("png", ContentType::PNG, b"\x89PNG"),
    ] {
        let (status, found, bytes) = print(format).await;
        assert_eq!((status, found), (Status::Ok, Some(kind)));
        assert!(bytes.starts_with(start) && bytes.len() > 8_000, "{format}: {}", bytes.len());
    }
    assert_eq!(print("csv").await.0, Status::NotFound);
    // More tests than a figure holds are refused in words; a bitmap of thousands of rows would take all memory.
    let sheet = |nth: u32| {
        json!({ "name": format!("Sign {nth}"), "region": "hand_wrist", "purpose": "strength",
        "condition": "Weak thumb", "positive_finding": "Weaker" })
    };
    let many: Vec<Value> = (0..200).map(|nth| json!({ "sheet": sheet(nth) })).collect();
    let bundle =
        json!({ "format": "pruvex-bundle", "schema_version": 2, "title": "Many", "sample": true, "tests": many });
    assert_eq!(server.import("", &bundle).await["state"], "done");
    let (status, problem) = server.get("/api/v1/likelihood/ladder/png").await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::BadRequest, &json!("region")), "{problem}");
    assert_eq!(problem["errors"][0]["message"], "201 tests are more than one figure holds; at most 200 do.");
    assert_eq!(server.get("/api/v1/likelihood/ladder/pdf?group=colour").await.0, Status::BadRequest);
    server.end().await;
}
