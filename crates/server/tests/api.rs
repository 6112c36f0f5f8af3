//! Routes against a real PostgreSQL: what a client may count on, and every way to be refused.
#![allow(clippy::unwrap_used, reason = "a failed step is a failed test")]

mod support;

use rocket::http::{ContentType, Header, Status};
use serde_json::{Value, json};
use support::Server;

fn sheet(name: &str) -> Value {
    json!({
        "name": name, "aliases": [format!("{name} (old name)")], "region": "hand_wrist", "purpose": "strength",
        "condition": "Thumb weakness", "target_structures": ["Short thumb abductor (contracted)"],
        "patient_position": "Sitting", "steps": ["Ask to lift the thumb", "Resist"],
        "positive_finding": "Weaker than the other side", "cautions": ["Stop on pain"], "pitfalls": []
    })
}

fn study(tp: Value, fp: Value, fn_: Value, tn: Value) -> Value {
    json!({ "reference": "Sample report", "population": "Adults", "reference_standard": "Follow-up",
        "tp": tp, "fp": fp, "fn": fn_, "tn": tn })
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

    mine["patient_position"] = json!("Standing");
    let (status, problem) = server.put(&path, "\"1\"", &mine).await;
    assert_eq!((status, &problem["code"]), (Status::PreconditionFailed, &json!("changed_meanwhile")));
    assert_eq!(problem["current_version"], 2);
    let (status, problem) = server.send_json(server.client.put(&path), &mine).await;
    assert_eq!((status, &problem["code"]), (Status::PreconditionRequired, &json!("if_match_missing")));
    let (status, _) = server.put(&path, "\"two\"", &mine).await;
    assert_eq!(status, Status::BadRequest);
    let (_, kept) = server.get(&path).await;
    assert_eq!((&kept["patient_position"], &kept["name"]), (&json!("Sitting"), &json!("Thumb lift, resisted")));
    server.end().await;
}

#[rocket::async_test]
async fn every_fault_of_a_sheet_is_named_and_names_are_unique() {
    let server = Server::start().await;
    let (_, first) = server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    let bad = json!({ "name": " ", "region": "wing", "purpose": "", "condition": "", "positive_finding": "",
        "steps": ["x".repeat(10_001)], "cautions": ["nul \0 inside"] });
    let (status, problem) = server.post("/api/v1/tests", &bad).await;
    assert_eq!(status, Status::UnprocessableEntity);
    let fields: Vec<&str> =
        problem["errors"].as_array().unwrap().iter().map(|e| e["field"].as_str().unwrap()).collect();
    for field in ["name", "region", "purpose", "condition", "positive_finding", "steps[0]", "cautions[0]"] {
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
    assert_eq!(conditions.as_array().unwrap().len(), 1);

    // Odd but legitimate texts come back as they were.
    let mut odd = sheet("Quote \" ' <b>bold</b> ; DROP TABLE test; --");
    odd["steps"] = json!(["سؤال المريض", "ä".repeat(10_000), "a\nb"]);
    let (status, stored) = server.post("/api/v1/tests", &odd).await;
    assert_eq!(status, Status::Created);
    assert_eq!((&stored["steps"], &stored["name"]), (&odd["steps"], &odd["name"]));
    assert_ne!(stored["id"], first["id"]);
    server.end().await;
}

#[rocket::async_test]
async fn studies_are_added_corrected_deleted_and_restored() {
    let server = Server::start().await;
    let (_, test) = server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    let test = test["id"].as_str().unwrap();
    let (studies, pooled) = (format!("/api/v1/tests/{test}/studies"), format!("/api/v1/tests/{test}/pooled"));

    let (_, empty) = server.get(&pooled).await;
    assert_eq!((&empty["evidence"], &empty["pooled"]), (&json!("not_studied"), &Value::Null));

    let (status, problem) = server.post(&studies, &study(json!(-1), json!(2.5), json!(1e12), Value::Null)).await;
    assert_eq!(status, Status::UnprocessableEntity);
    let fields: Vec<&str> =
        problem["errors"].as_array().unwrap().iter().map(|e| e["field"].as_str().unwrap()).collect();
    assert_eq!(fields, ["tp", "fp", "fn", "tn"]);
    let (status, problem) = server.post(&studies, &study(json!(0), json!(0), json!(0), json!(0))).await;
    assert_eq!((status, &problem["errors"][0]["code"]), (Status::UnprocessableEntity, &json!("empty_table")));

    let (status, added) = server.post(&studies, &study(json!(20), json!(0), json!(5), json!(24))).await;
    assert_eq!(status, Status::Created);
    assert_eq!(added["accuracy"]["lr_positive"]["estimate"], "infinity");
    let (status, _) = server.post(&studies, &study(json!(20), Value::Null, json!(5), Value::Null)).await;
    assert_eq!(status, Status::Created, "a one-armed study is a study");
    let (_, two) = server.get(&pooled).await;
    assert_eq!((&two["pooled"]["k"], &two["pooled"]["reason"]), (&json!(2), &json!("no_finite_maximum")));
    assert_eq!(two["sample"], false);

    let path = format!("/api/v1/studies/{}", added["id"].as_str().unwrap());
    let (status, fixed) = server.put(&path, "\"1\"", &study(json!(20), json!(3), json!(5), json!(21))).await;
    assert_eq!((status, &fixed["version"]), (Status::Ok, &json!(2)));
    let (status, _) = server.delete(&path, "\"1\"").await;
    assert_eq!(status, Status::PreconditionFailed);
    let (status, deleted) = server.delete(&path, "\"2\"").await;
    assert_eq!((status, &deleted["version"]), (Status::Ok, &json!(3)));
    let (_, left) = server.get(&studies).await;
    assert_eq!(left.as_array().unwrap().len(), 1);
    let (status, _) = server.put(&path, "\"3\"", &study(json!(1), json!(1), json!(1), json!(1))).await;
    assert_eq!(status, Status::NotFound, "a deleted study is not edited");
    let request = server.client.post(format!("{path}/restore")).header(Header::new("If-Match", "\"3\""));
    let (status, restored) = server.send(request).await;
    assert_eq!((status, &restored["counts"]), (Status::Ok, &json!({ "tp": 20, "fp": 3, "fn": 5, "tn": 21 })));
    server.end().await;
}

#[rocket::async_test]
async fn two_editors_at_the_same_moment_cannot_both_win() {
    let server = Server::start().await;
    let (_, test) = server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    let path = format!("/api/v1/tests/{}", test["id"].as_str().unwrap());
    let (mut a, mut b) = (sheet("Thumb lift"), sheet("Thumb lift"));
    a["patient_position"] = json!("Lying");
    b["patient_position"] = json!("Standing");
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
        &format!("{unknown}/studies"),
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
    assert!(problem["detail"].as_str().unwrap().contains("At tp"), "{problem}");
    let (status, _) = server.send(server.client.post("/api/v1/accuracy").body("{}")).await;
    assert_eq!(status, Status::UnsupportedMediaType);
    let (status, problem) = server.send(body(&format!("{{\"tp\": {}1}}", " ".repeat(3 << 20)))).await;
    assert_eq!((status, &problem["code"]), (Status::PayloadTooLarge, &json!("body_too_large")));
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
    let lr = json!({ "estimate": "infinity", "lower": 3.0, "upper": "infinity" });
    let ask = json!({ "pre_test": 0.25, "tests": [{ "key": "a", "lr_positive": lr }] });
    let (_, answers) = server.post("/api/v1/likelihood/answers", &ask).await;
    assert_eq!(answers[0]["after_positive"], json!({ "estimate": 1.0, "lower": 0.5, "upper": 1.0 }));
    assert_eq!((&answers[0]["after_negative"], &answers[0]["frequencies"]), (&Value::Null, &Value::Null));
    server.end().await;
}

#[rocket::async_test]
async fn the_demo_comes_in_whole_or_not_at_all() {
    let server = Server::start().await;
    let bytes = std::fs::read("../../demo/fenwater.json").unwrap();
    let bundle = pruvex_formats::read_bundle(&bytes).unwrap();
    let db = pruvex_store::connect(server.database_url()).await.unwrap();
    pruvex_store::exchange::import(&db, &bundle, true).await.unwrap();
    assert!(pruvex_store::catalogue::is_empty(&db).await.unwrap(), "a preview must change nothing");
    let counts = pruvex_store::exchange::import(&db, &bundle, false).await.unwrap();
    assert_eq!((counts.tests, counts.studies), (6, 25));

    let (_, rows) = server.get("/api/v1/tests?region=hand_wrist&sort=lr_positive").await;
    let rows = rows.as_array().unwrap();
    assert_eq!(rows.len(), 6);
    assert!(rows.iter().all(|row| row["sample"] == (row["studies"] != 0)));
    assert_eq!(rows[5]["evidence"], "not_studied", "unknown comes last");
    // One small study with a perfect specificity must not lead the list with its infinite ratio.
    assert_eq!(rows[4]["summary"]["lr_positive"]["estimate"], "infinity");
    let (_, reversed) = server.get("/api/v1/tests?sort=lr_positive&reverse=true").await;
    assert_eq!((&reversed[0]["name"], &reversed[5]["name"]), (&rows[4]["name"], &rows[5]["name"]));
    let (_, by_evidence) = server.get("/api/v1/tests?sort=evidence").await;
    assert_eq!(by_evidence[0]["studies"], 8);

    let again = pruvex_store::exchange::import(&db, &bundle, false).await.unwrap_err();
    let pruvex_store::StoreError::Fields(errors) = again else { panic!("{again}") };
    assert!(errors.len() > 6 && errors[0].field == "tests[0].name", "{errors:?}");
    let (_, after) = server.get("/api/v1/tests").await;
    assert_eq!(after.as_array().unwrap().len(), 6);
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
    for name in ["X-Content-Type-Options", "X-Frame-Options", "Referrer-Policy", "X-Request-Id", "ETag"] {
        assert!(!header(name).is_empty(), "{name}");
    }
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
        let path = format!("/api/v1/tests/{}/studies", test["id"].as_str().unwrap());
        for [tp, fp, fn_, tn] in tables {
            let (status, _) = server.post(&path, &study(json!(tp), json!(fp), json!(fn_), json!(tn))).await;
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
    assert_eq!(conditions.as_array().unwrap().len(), 2, "the same name in two regions is two conditions");
    assert!(conditions[0]["pre_test"].is_null());
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
    let (status, _) = server.send(server.client.delete("/api/v1/tests")).await;
    assert_eq!(status, Status::NotFound);
    let mut extra = sheet("Thumb lift");
    extra["sample"] = json!(true);
    let (status, problem) = server.post("/api/v1/tests", &extra).await;
    assert_eq!(status, Status::BadRequest, "the sample mark is not a client's to set");
    assert!(problem["detail"].as_str().unwrap().contains("sample"), "{problem}");
    let (status, _) = server.send_json(server.client.post("/api/v1/tests"), &json!("text")).await;
    assert_eq!(status, Status::BadRequest);
    let (status, problem) = server.post("/api/v1/accuracy", &json!({ "tp": 5, "fn": 2, "fp": 3 })).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!("tn")));
    let many: Vec<Value> = (0..5_001).map(|i| json!({ "key": i.to_string() })).collect();
    let (status, _) = server.post("/api/v1/likelihood/answers", &json!({ "pre_test": 0.2, "tests": many })).await;
    assert_eq!(status, Status::BadRequest);
    for pre_test in [0.0, 1.0] {
        let lr = json!({ "estimate": 3.0, "lower": 2.0, "upper": "infinity" });
        let ask = json!({ "pre_test": pre_test, "tests": [{ "key": "a", "lr_positive": lr }] });
        let (status, answers) = server.post("/api/v1/likelihood/answers", &ask).await;
        assert_eq!((status, &answers[0]["after_positive"]["estimate"]), (Status::Ok, &json!(pre_test)));
    }
    assert_eq!(server.get("/api/v1/tests").await.1, json!([]));
    server.end().await;
}
