//! Pools over the API: what is in and why the rest is out, what the answer depends on, and pools that are frozen.

use crate::support::Server;
use pruvex_core::evidence::{NotConfirmed, SnapshotFile};
use pruvex_core::pooling::ENGINE;
use rocket::http::{ContentType, Status};
use serde_json::{Value, json};

/// Cells (TP, FP, FN, TN), design and setting of six reports.
const REPORTS: [([u32; 4], &str, &str); 6] = [
    ([40, 6, 10, 44], "one_group", "primary_care"),
    ([30, 9, 20, 61], "one_group", "primary_care"),
    ([45, 4, 15, 36], "one_group", "specialist_clinic"),
    ([25, 8, 5, 32], "one_group", "specialist_clinic"),
    ([50, 2, 5, 48], "two_groups", "specialist_clinic"),
    ([28, 12, 12, 58], "one_group", "primary_care"),
];

async fn test(server: &Server, name: &str) -> String {
    let sheet = json!({ "name": name, "region": "hand_wrist", "purpose": "strength", "condition": "Weak thumb",
        "positive_finding": "Weaker than the other side" });
    server.post("/api/v1/tests", &sheet).await.1["id"].as_str().unwrap().to_owned()
}

async fn add(server: &Server, test: &str, report: &str, cells: [u32; 4], setup: Value) -> Value {
    let [tp, fp, fn_, tn] = cells;
    let body = json!({ "study": { "reference": report, "setup": setup },
        "result": { "tp": tp, "fp": fp, "fn": fn_, "tn": tn } });
    let (status, added) = server.post(&format!("/api/v1/tests/{test}/results"), &body).await;
    assert_eq!(status, Status::Created, "{added}");
    added
}

async fn filled(server: &Server) -> (String, Vec<Value>) {
    let test = test(server, "Thumb lift").await;
    let mut results = Vec::new();
    for (nth, (cells, design, setting)) in REPORTS.into_iter().enumerate() {
        let setup = json!({ "design": design, "setting": setting, "last_year": 2010 + nth });
        results.push(add(server, &test, &format!("Report {nth}"), cells, setup).await);
    }
    (test, results)
}

fn out(answer: &Value) -> Vec<&Value> {
    answer["rows"].as_array().unwrap().iter().map(|row| &row["out"]).collect()
}

/// What a pool depends on takes long where there are many results; whoever asks it of another choice ends the one before.
#[rocket::async_test]
async fn a_later_choice_ends_what_the_one_before_depends_on() {
    let server = Server::start().await;
    let studies: Vec<Value> =
        (0..150).map(|nth| json!({ "study": { "reference": format!("Report {nth}") } })).collect();
    let results: Vec<Value> = (0..150)
        .map(|nth| {
            json!({ "study": nth, "result": { "reference_standard": "Surgery",
                "tp": 20 + nth % 17, "fp": 3 + nth % 7, "fn": 4 + nth % 11, "tn": 30 + nth % 23 } })
        })
        .collect();
    let sheet = json!({ "name": "Thumb lift", "region": "hand_wrist", "purpose": "strength", "condition": "Weak thumb",
        "positive_finding": "Weaker" });
    let bundle = json!({ "format": "pruvex-bundle", "schema_version": 2, "title": "Many", "sample": true,
        "studies": studies, "tests": [{ "sheet": sheet, "results": results }] });
    assert_eq!(server.import("", &bundle).await["state"], "done");
    let test = server.get("/api/v1/tests?region=hand_wrist").await.1[0]["id"].clone();
    let [all, fixed] = ["auto", "fixed"].map(|model| json!({ "tests": [test], "model": model }));
    let ask = async |choice: &Value| server.post("/api/v1/pools/sensitivity", choice).await;
    let (one, other) = rocket::tokio::join!(ask(&all), ask(&all));
    // Which of two that come together is the later one is not ours to say.
    let (ended, answered) = if one.0 == Status::Conflict { (one, other) } else { (other, one) };
    assert_eq!((ended.0, &ended.1["code"]), (Status::Conflict, &json!("superseded")), "{}", ended.1);
    assert_eq!((answered.0, answered.1["without"].as_array().unwrap().len()), (Status::Ok, 150));
    assert_eq!(ask(&fixed).await.0, Status::Ok, "one that is done ends nothing");
    server.end().await;
}

#[rocket::async_test]
async fn a_pool_says_what_is_in_and_answers_it() {
    let server = Server::start().await;
    let (test_id, results) = filled(&server).await;
    let ask = async |more: Value| {
        let mut body = json!({ "tests": [test_id] });
        body.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        server.post("/api/v1/pools/answer", &body).await
    };
    let (status, all) = ask(json!({})).await;
    assert_eq!((status, &all["pooled"]["k"], &all["condition"]), (Status::Ok, &json!(6), &json!("Weak thumb")));
    let sheet = server.get(&format!("/api/v1/tests/{test_id}/pooled")).await.1;
    assert_eq!(all["pooled"], sheet["pooled"], "the same results give the same answer as on the sheet");
    let facets: Vec<&str> = all["facets"].as_array().unwrap().iter().map(|it| it["facet"].as_str().unwrap()).collect();
    assert_eq!(facets, ["design", "setting"], "only what tells these apart");
    assert!(all["roc"]["prediction"]["outline"].as_array().unwrap().len() > 50);
    assert_eq!(all["reading"]["limits"][0], json!({ "code": "not_appraised", "results": 6, "of": 6 }));

    let one = json!({ "selection": { "only": { "design": ["one_group"] }, "from": 2011 } });
    let (_, some) = ask(one).await;
    let (years, design) = (json!({ "code": "years" }), json!({ "code": "facet", "facet": "design" }));
    assert_eq!(out(&some), [&years, &Value::Null, &Value::Null, &Value::Null, &design, &Value::Null]);
    let weights = some["rows"].as_array().unwrap().iter().filter_map(|row| row["weight"]["sensitivity"].as_f64());
    assert!((weights.sum::<f64>() - 1.0).abs() < 1e-9);

    let off = json!({ "selection": { "off": [results[0]["id"]] }, "by": "setting", "model": "independent" });
    let (_, compared) = ask(off).await;
    assert_eq!((out(&compared)[0], &compared["rows"][0]["level"]), (&json!({ "code": "switched_off" }), &json!(0)));
    let levels = compared["compared"]["levels"].as_array().unwrap();
    // A value keeps its place, and with it its shape and colour, though the other one has more results by now.
    assert_eq!((&levels[0]["value"], &levels[0]["pooled"]["k"]), (&json!("primary_care"), &json!(2)));
    assert_eq!((&levels[1]["value"], &levels[1]["pooled"]["k"]), (&json!("specialist_clinic"), &json!(3)));
    assert!(compared["compared"]["comparison"]["test"]["p"].as_f64().unwrap() < 0.5);
    assert_eq!(compared["compared"]["same_people"], json!([]));

    // Choices that leave nothing are an answer, a missing test and no test at all are not.
    let (status, nothing) = ask(json!({ "selection": { "only": { "design": [""] } }, "by": "stage" })).await;
    assert_eq!((status, &nothing["not_pooled"], &nothing["pooled"]), (Status::Ok, &json!("no_results"), &Value::Null));
    assert_eq!(nothing["compared"]["not_compared"], "one_level");
    let (status, problem) = server.post("/api/v1/pools/answer", &json!({ "tests": [] })).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!("tests")));
    let (_, tried) = server.post("/api/v1/pools/sensitivity", &json!({ "tests": [test_id] })).await;
    let without = tried["without"].as_array().unwrap();
    assert_eq!((without.len(), &without[4]["result"]), (6, &results[4]["id"]));
    assert!(without.iter().all(|it| it["cook_distance"].as_f64().unwrap() >= 0.0));
    assert_eq!(
        (tried["alternatives"].as_array().unwrap().len(), &tried["small_studies_untested"]),
        (4, &json!("too_few"))
    );
    assert_eq!(tried["without_high_risk"]["left_out"], 0);
    // Two sides of one person are worth less than two people.
    assert_eq!(tried["sides_as_people"], json!([]));
    let by_side = json!({ "study": { "reference": "Both hands" },
        "result": { "tp": 80, "fp": 12, "fn": 20, "tn": 88, "unit": "side" } });
    let (_, added) = server.post(&format!("/api/v1/tests/{test_id}/results"), &by_side).await;
    let (_, tried) = server.post("/api/v1/pools/sensitivity", &json!({ "tests": [test_id] })).await;
    let sides = tried["sides_as_people"].as_array().unwrap();
    let people = |of: &Value| of["pooled"]["diseased"].as_u64().unwrap();
    assert!(sides.len() == 3 && sides.iter().all(|it| it["results"] == 1), "{tried}");
    assert!(people(&sides[0]) > people(&sides[1]) && people(&sides[1]) > people(&sides[2]), "{tried}");
    let path = format!("/api/v1/results/{}", added["id"].as_str().unwrap());
    assert_eq!(server.delete(&path, "\"1\"").await.0, Status::Ok);
    // In print the figures are those of the screen; the picture is a picture.
    let figure = async |format: &str| {
        let pool = json!({ "tests": [test_id], "by": "setting" }).to_string().replace('"', "%22");
        let answer = server.client.get(format!("/api/v1/pools/figure/{format}?pool={pool}")).dispatch().await;
        (answer.status(), answer.content_type(), answer.into_bytes().await.unwrap())
    };
    let (_, kind, csv) = figure("csv").await;
    let csv = String::from_utf8(csv).unwrap();
    let summary = csv.lines().rfind(|line| line.starts_with("summary")).unwrap();
    assert_eq!((kind, csv.lines().count()), (Some(ContentType::CSV), 1 + 6 + 2 + 2));
    assert_eq!(summary.split(',').nth(7).unwrap(), all["pooled"]["sensitivity"]["estimate"].to_string());
    assert!(
        csv.contains("summary,primary care,") && csv.contains("result,specialist clinic,Report 4,50,2,5,48,"),
        "{csv}"
    );
    for (format, kind, start) in [
        ("pdf", ContentType::PDF, b"%PDF".as_slice()),
        ("svg", ContentType::SVG, b"<svg"),
        ("png", ContentType::PNG, b"\x89PNG"),
    ] {
        let (status, found, bytes) = figure(format).await;
        assert_eq!((status, found), (Status::Ok, Some(kind)));
        assert!(bytes.starts_with(start) && bytes.len() > 10_000, "{format}");
    }
    assert_eq!(figure("gif").await.0, Status::NotFound);
    assert_eq!(server.get("/api/v1/pools/figure/svg?pool=%7B").await.0, Status::BadRequest);
    // A sheet that learners do not see is no pool of theirs either.
    server.enter("learner").await;
    assert_eq!(ask(json!({})).await.0, Status::NotFound);
    server.end().await;
}

#[rocket::async_test]
async fn tests_are_compared_in_the_same_people() {
    let server = Server::start().await;
    let (lift, results) = filled(&server).await;
    let press = test(&server, "Thumb press").await;
    for result in &results[..4] {
        let of = json!({ "study_id": result["study"]["id"], "study_version": 1, "study": { "reference":
            result["study"]["reference"], "setup": result["study"]["setup"] },
            "result": { "tp": 20, "fp": 3, "fn": 20, "tn": 30 } });
        assert_eq!(server.post(&format!("/api/v1/tests/{press}/results"), &of).await.0, Status::Created);
    }
    let body = json!({ "tests": [lift, press], "by": "test" });
    let (_, answer) = server.post("/api/v1/pools/answer", &body).await;
    assert_eq!(answer["pooled"]["k"], 6, "in one pool no group of people counts twice");
    let levels = answer["compared"]["levels"].as_array().unwrap();
    assert_eq!((&levels[0]["pooled"]["k"], &levels[1]["pooled"]["k"]), (&json!(6), &json!(4)));
    assert_eq!(answer["compared"]["same_people"], json!([{ "levels": [0, 1], "pairs": 4 }]));
    let contrast = &answer["compared"]["comparison"]["contrasts"][0]["relative_sensitivity"];
    assert!(contrast["upper"].as_f64().unwrap() < 1.0, "the press misses more: {contrast}");
    server.end().await;
}

#[rocket::async_test]
async fn a_frozen_pool_stays_and_says_how_today_differs() {
    let server = Server::start().await;
    let (test, results) = filled(&server).await;
    let pool = json!({ "tests": [test], "selection": { "only": { "design": ["one_group"] } } });
    let freeze = |title: &str, pool: &Value| json!({ "title": title, "note": "For the wrist module", "pool": pool });
    let (status, problem) = server.post("/api/v1/snapshots", &freeze("  ", &pool)).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!("title")));
    let empty = json!({ "tests": [test], "selection": { "from": 2030 } });
    assert_eq!(server.post("/api/v1/snapshots", &freeze("Nobody", &empty)).await.1["errors"][0]["field"], "pool");
    let (status, frozen) = server.post("/api/v1/snapshots", &freeze("Wrist module 2026", &pool)).await;
    assert_eq!((status, &frozen["snapshot"]["answer"]["k"]), (Status::Created, &json!(5)), "{frozen}");
    let path = format!("/api/v1/snapshots/{}", frozen["id"].as_str().unwrap());
    let list = async || server.get("/api/v1/snapshots?region=hand_wrist").await.1;
    assert_eq!((&list().await[0]["stale"], &list().await[0]["title"]), (&json!(false), &json!("Wrist module 2026")));
    assert_eq!(server.get("/api/v1/snapshots?region=moon").await.0, Status::BadRequest);

    // It computes again from its file; a changed figure is found by the hash, a forged hash by the computation.
    let (_, file) = server.get(&format!("{path}/file")).await;
    let mut file: SnapshotFile = serde_json::from_value(file).unwrap();
    file.snapshot.confirm(&file.hash).unwrap();
    file.snapshot.results[0].counts.tp = Some(41.0);
    assert!(matches!(file.snapshot.confirm(&file.hash), Err(NotConfirmed::Hash { .. })));
    let forged = file.snapshot.hash();
    let Err(NotConfirmed::Differs(differing)) = file.snapshot.confirm(&forged) else { panic!("confirmed") };
    assert!(differing.iter().any(|it| it.starts_with("classical.sensitivity.estimate was")), "{differing:?}");

    // Before anything is saved, an effect names the frozen pools that it would leave behind.
    let effect = format!("/api/v1/tests/{test}/results/effect");
    let report = |design: &str| {
        json!({ "study": { "reference": "Report 6", "setup": { "design": design } },
        "result": { "tp": 12, "fp": 1, "fn": 3, "tn": 14 } })
    };
    let (_, would) = server.post(&effect, &report("one_group")).await;
    assert_eq!(would["stale"], json!([{ "id": frozen["id"], "title": "Wrist module 2026" }]));
    assert_eq!(server.post(&effect, &report("two_groups")).await.1["stale"], json!([]), "it does not ask for that");
    let of_test = server.get(&format!("/api/v1/snapshots?test={test}")).await.1;
    assert_eq!((of_test.as_array().unwrap().len(), &of_test[0]["stale"]), (1, &json!(false)), "nothing was saved");
    let nobody = "/api/v1/snapshots?test=01900000-0000-7000-8000-000000000000";
    assert_eq!(server.get(nobody).await.1, json!([]));

    // Evidence goes on: one result is new, one is corrected, one is gone, and another one is not asked for.
    add(&server, &test, "Report 6", [12, 1, 3, 14], json!({ "design": "one_group" })).await;
    add(&server, &test, "Report 7", [12, 1, 3, 14], json!({ "design": "two_groups" })).await;
    let at = |nth: usize| format!("/api/v1/results/{}", results[nth]["id"].as_str().unwrap());
    let cells = json!({ "result": { "tp": 20, "fp": 9, "fn": 30, "tn": 61 } });
    assert_eq!(server.put(&at(1), "\"1\"", &cells).await.0, Status::Ok);
    assert_eq!(server.delete(&at(2), "\"1\"").await.0, Status::Ok);
    let (_, difference) = server.get(&format!("{path}/difference?lr_positive=2&lr_negative=0.05")).await;
    let found: Vec<(&str, &str)> = difference["differences"]
        .as_array()
        .unwrap()
        .iter()
        .map(|it| (it["report"].as_str().unwrap(), it["code"].as_str().unwrap()))
        .collect();
    assert_eq!(found, [("Report 1", "changed"), ("Report 2", "left"), ("Report 6", "entered")]);
    assert_eq!((&difference["now"]["k"], &difference["stale"]), (&json!(5), &json!(true)));
    assert_eq!(
        (&difference["lr_positive"]["before"], &difference["lr_positive"]["threshold"]),
        (&json!("above"), &json!(2.0))
    );
    assert_eq!(difference["lr_negative"]["now"], "above", "LR- is not below 0.05");
    for threshold in ["lr_positive=0", "lr_negative=-1", "lr_positive=many", "lr_positive=inf"] {
        let (status, problem) = server.get(&format!("{path}/difference?{threshold}")).await;
        let field = threshold.split('=').next().unwrap();
        assert_eq!((status, &problem["errors"][0]["field"]), (Status::BadRequest, &json!(field)), "{threshold}");
    }
    assert_eq!(list().await[0]["stale"], true);
    assert_eq!(server.get(&path).await.1, frozen, "what was frozen is as it was");
    // Not even who reaches the database changes it.
    let db = pruvex_store::connect(server.database_url(), pruvex_store::Connections::Reading).await.unwrap();
    let changed = pruvex_store::ConnectionTrait::execute_unprepared(&db, "UPDATE pool_snapshot SET hash = hash").await;
    assert!(changed.unwrap_err().to_string().contains("not changed"));
    server.enter("learner").await;
    assert_eq!(server.get(&path).await.0, Status::NotFound, "its sheet is no learner's yet");
    assert_eq!(list().await, json!([]));
    server.end().await;
}

/// Sets that are hard to pool get an answer in words, never a fault and never a number that is none.
#[rocket::async_test]
async fn odd_pools_are_answered_in_words() {
    let server = Server::start().await;
    let one_arm = |tp: u32, fn_: u32| json!({ "tp": tp, "fn": fn_ });
    let full = |tp: u32, fp: u32, fn_: u32, tn: u32| json!({ "tp": tp, "fp": fp, "fn": fn_, "tn": tn });
    let cases = [
        ("one", vec![full(20, 3, 5, 22)]),
        ("perfect", vec![full(20, 0, 5, 22), full(18, 0, 2, 30), full(9, 0, 3, 14), full(30, 0, 6, 41)]),
        ("one group", vec![one_arm(20, 5), one_arm(18, 9), one_arm(30, 2)]),
        ("identical", vec![full(20, 5, 5, 20); 6]),
        ("hopeless", vec![full(0, 5, 9, 20), full(0, 2, 12, 31), full(0, 9, 8, 14)]),
        ("tiny", vec![full(1, 0, 0, 1), full(0, 1, 1, 0), full(1, 1, 0, 0), full(0, 0, 1, 1)]),
        ("mixed", vec![full(20, 3, 5, 22), one_arm(18, 9), json!({ "fp": 4, "tn": 40 }), full(9, 9, 9, 9)]),
    ];
    let (mut read, mut warned) = (Vec::new(), Vec::new());
    for (name, cells) in cases {
        let test = test(&server, name).await;
        for (nth, cells) in cells.iter().enumerate() {
            let setting = ["primary_care", "emergency"][nth % 2];
            let body = json!({ "study": { "reference": format!("{name} {nth}"), "setup": { "setting": setting } }, "result": cells });
            assert_eq!(server.post(&format!("/api/v1/tests/{test}/results"), &body).await.0, Status::Created, "{name}");
        }
        for model in ["auto", "bivariate", "independent", "fixed", "normal_reml", "normal_ml"] {
            let body = json!({ "tests": [test], "model": model, "by": "setting" });
            let (status, answer) = server.post("/api/v1/pools/answer", &body).await;
            assert_eq!(status, Status::Ok, "{name} {model}: {answer}");
            assert_eq!(answer["pooled"].is_null(), !answer["not_pooled"].is_null(), "{name} {model}: {answer}");
            assert_eq!(answer["rows"].as_array().unwrap().len(), cells.len(), "{name} {model}");
            let compared = &answer["compared"];
            assert_eq!(compared["comparison"].is_null(), !compared["not_compared"].is_null(), "{name} {model}");
            for share in ["sensitivity", "specificity"] {
                let bounds =
                    ["lower", "estimate", "upper"].map(|it| answer["pooled"][share][it].as_f64().unwrap_or(0.5));
                assert!(bounds.is_sorted() && bounds[0] >= 0.0 && bounds[2] <= 1.0, "{name} {model}: {bounds:?}");
            }
            let (status, tried) = server.post("/api/v1/pools/sensitivity", &body).await;
            assert_eq!((status, tried["alternatives"].as_array().unwrap().len()), (Status::Ok, 4), "{name} {model}");
            if model == "auto" {
                let codes = |list: &Value| -> Vec<String> {
                    list.as_array().unwrap().iter().map(|it| it["code"].as_str().unwrap().to_owned()).collect()
                };
                let spread = answer["reading"]["spread"].as_str().unwrap().to_owned();
                read.push((name, spread, codes(&answer["reading"]["limits"]).contains(&"no_errors".to_owned())));
                warned.push((
                    name,
                    answer["pooled"]["model"].as_str().unwrap().to_owned(),
                    codes(&answer["pooled"]["warnings"]),
                ));
            }
        }
        let pool = json!({ "tests": [test], "by": "setting" }).to_string().replace('"', "%22");
        let figure = server.client.get(format!("/api/v1/pools/figure/svg?pool={pool}")).dispatch().await;
        assert_eq!(figure.status(), Status::Ok, "{name} can be drawn");
    }
    let spread: Vec<(&str, &str, bool)> =
        read.iter().map(|(name, spread, none)| (*name, spread.as_str(), *none)).collect();
    assert!(
        spread.contains(&("one", "not_known", false)) && spread.contains(&("identical", "none_estimated", false)),
        "{spread:?}"
    );
    assert!(
        spread.contains(&("perfect", "wide", true)) && spread.contains(&("one group", "not_known", false)),
        "{spread:?}"
    );
    let of = |name: &str| warned.iter().find(|(it, ..)| *it == name).unwrap();
    assert!(of("perfect").2.contains(&"perfect_arm".to_owned()), "{warned:?}");
    assert!(of("hopeless").2.contains(&"none_correct".to_owned()), "{warned:?}");
    assert!(of("one group").2.contains(&"no_arm".to_owned()), "{warned:?}");
    assert!(of("mixed").2.contains(&"one_armed_studies".to_owned()), "{warned:?}");
    assert_eq!((of("one").1.as_str(), of("identical").1.as_str()), ("single_study", "bivariate"));
    // A test that answers nothing of this condition is asked about another one.
    let (_, all) = server.get("/api/v1/tests?region=hand_wrist").await;
    let ids: Vec<&Value> = all.as_array().unwrap().iter().map(|it| &it["id"]).collect();
    let (_, other) = server.post("/api/v1/pools/answer", &json!({ "tests": ids, "condition": "Another one" })).await;
    assert!(
        other["not_pooled"] == "no_results" && out(&other).iter().all(|it| it["code"] == "other_condition"),
        "{other}"
    );
    server.end().await;
}

/// What was computed is there at the next start; what an earlier engine computed is shown until it has been computed again.
#[rocket::async_test]
async fn answers_outlive_a_server_and_are_computed_again_by_a_new_engine() {
    let server = Server::start().await;
    let (_, results) = filled(&server).await;
    let db = pruvex_store::connect(server.database_url(), pruvex_store::Connections::Reading).await.unwrap();
    let kept = async || pruvex_store::pooling::kept_answers(&db).await.unwrap();
    let until = async |what: &str, wish: &dyn Fn(&[pruvex_store::pooling::KeptAnswer]) -> bool| {
        for _ in 0..200 {
            let kept = kept().await;
            if wish(&kept) {
                return kept;
            }
            rocket::tokio::time::sleep(std::time::Duration::from_millis(50)).await;
        }
        panic!("{what}: {:?}", kept().await)
    };
    // Every state that the catalogue was asked for in between left its answer.
    server.get("/api/v1/tests").await;
    server.delete(&format!("/api/v1/results/{}", results[5]["id"].as_str().unwrap()), "\"1\"").await;
    server.get("/api/v1/tests").await;
    // A busy server may have been asked, by itself, for a state before these, too.
    let last = |kept: &[pruvex_store::pooling::KeptAnswer]| kept.iter().any(|it| it.pooled.k == 5);
    let both = until("both states are kept", &|kept| kept.len() >= 2 && last(kept)).await;
    assert!(both.iter().all(|it| it.engine == ENGINE), "{both:?}");

    // The answer at hand is the answer: here it is marked by a number of studies that nobody would compute.
    let mark = "UPDATE pooled_answer SET answer = jsonb_set(answer::jsonb, '{k}', '99')::text";
    pruvex_store::ConnectionTrait::execute_unprepared(&db, mark).await.unwrap();
    let second = server.another().await;
    until("what nobody asks for any more is let go", &|kept| kept.len() == 1).await;
    second.enter("author").await;
    let (_, rows) = second.get("/api/v1/tests").await;
    assert_eq!((&rows[0]["studies"], &rows[0]["standing"]), (&json!(99), &json!("current")));

    let older = "UPDATE pooled_answer SET engine = 'an earlier one'";
    pruvex_store::ConnectionTrait::execute_unprepared(&db, older).await.unwrap();
    let third = server.another().await;
    until("it is computed again", &|kept| kept[0].engine == ENGINE && kept[0].pooled.k == 5).await;
    third.enter("author").await;
    let mut listed = Value::Null;
    for _ in 0..200 {
        listed = third.get("/api/v1/tests").await.1;
        if listed[0]["standing"] == "current" {
            break;
        }
        rocket::tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    assert_eq!((&listed[0]["studies"], &listed[0]["standing"]), (&json!(5), &json!("current")));
    let said = third.client.get("/api/v1/tests").dispatch().await.headers().get_one("X-Computing").map(str::to_owned);
    assert_eq!(said.as_deref(), Some("0/0"));
    for more in [second, third] {
        more.end().await;
    }
    server.end().await;
}

/// People who are in none of the four cells: kept with the result, corrected or counted in the sensitivity analysis, pointed out, and never dropped.
#[rocket::async_test]
async fn people_outside_the_cells_are_kept_corrected_and_pointed_out() {
    let server = Server::start().await;
    let (test, results) = filled(&server).await;
    let path = format!("/api/v1/results/{}", results[0]["id"].as_str().unwrap());
    let told = |more: Value| {
        let mut result = json!({ "tp": 40, "fp": 6, "fn": 10, "tn": 44 });
        result.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        json!({ "result": result })
    };
    let (status, problem) = server.put(&path, "\"1\"", &told(json!({ "negative_unverified": 90 }))).await;
    assert_eq!(
        (status, &problem["errors"][0]["field"]),
        (Status::UnprocessableEntity, &json!("result.positive_unverified"))
    );
    let unverified = json!({ "positive_unverified": 4, "negative_unverified": 90, "uninterpretable_with": 3,
        "uninterpretable_without": 2 });
    let (status, saved) = server.put(&path, "\"1\"", &told(unverified)).await;
    assert_eq!((status, &saved["negative_unverified"]), (Status::Ok, &json!(90)), "{saved}");
    let corrected = saved["verified"]["sensitivity"]["estimate"].as_f64().unwrap();
    assert!(corrected < 0.7, "{corrected} of 40 in 50, as most negatives were not looked at");
    assert_eq!(results[1]["verified"], Value::Null, "nothing is told of it");

    let pool = json!({ "tests": [test] });
    let (_, answer) = server.post("/api/v1/pools/answer", &pool).await;
    let limits = answer["reading"]["limits"].as_array().unwrap();
    let said = |code: &str| limits.iter().find(|it| it["code"] == code).cloned().unwrap_or_default();
    assert_eq!(said("negatives_unverified")["results"], 1, "{limits:?}");
    assert_eq!(said("uninterpretable"), json!({ "code": "uninterpretable", "tests": 5, "of": 199, "results": 1 }));
    let (_, sheet) = server.get(&format!("/api/v1/tests/{test}/pooled")).await;
    assert_eq!(sheet["uninterpretable"], json!({ "tests": 5, "of": 199, "results": 1 }));
    let (_, tried) = server.post("/api/v1/pools/sensitivity", &pool).await;
    let se = |of: &Value| of["pooled"]["sensitivity"]["estimate"].as_f64().unwrap();
    let taken: Vec<f64> = tried["uninterpretable_taken"].as_array().unwrap().iter().map(se).collect();
    assert_eq!(taken[0], se(&answer), "left out, as pooled");
    assert!(taken[1] > taken[0] && taken[2] < taken[0], "{taken:?}");
    let verified = &tried["corrected_verification"];
    assert_eq!((&verified["results"], &verified["not_corrected"]), (&json!(1), &json!(0)));
    assert!(se(verified) < se(&answer), "{verified}");
    // Where nobody tells of anybody, there is nothing to say.
    let without = json!({ "tests": [test], "selection": { "off": [results[0]["id"]] } });
    let (_, tried) = server.post("/api/v1/pools/sensitivity", &without).await;
    assert_eq!((&tried["uninterpretable_taken"], &tried["corrected_verification"]), (&json!([]), &Value::Null));
    // It leaves with the catalogue, and comes back.
    let (_, bundle) = server.get("/api/v1/bundle").await;
    let exported = &bundle["tests"][0]["results"][0]["result"];
    assert_eq!((&exported["negative_unverified"], &exported["uninterpretable_with"]), (&json!(90.0), &json!(3.0)));
    server.end().await;
}

/// What a reference standard that errs makes of a pool: corrected at the summary, or said to be impossible, and nothing else touched.
#[rocket::async_test]
async fn a_pool_is_corrected_for_a_reference_standard_that_errs() {
    let server = Server::start().await;
    let (test, results) = filled(&server).await;
    let pool = json!({ "tests": [test] });
    let ask = async |sensitivity: [f64; 3], specificity: [f64; 3]| {
        let range =
            |[lower, estimate, upper]: [f64; 3]| json!({ "lower": lower, "estimate": estimate, "upper": upper });
        let reference = json!({ "sensitivity": range(sensitivity), "specificity": range(specificity) });
        server.post("/api/v1/pools/reference", &json!({ "pool": pool, "reference": reference })).await
    };
    let (_, answer) = server.post("/api/v1/pools/answer", &pool).await;
    let summary = |name: &str| answer["pooled"][name]["estimate"].as_f64().unwrap();
    // A reference that never errs changes nothing.
    let (status, perfect) = ask([1.0; 3], [1.0; 3]).await;
    assert_eq!(status, Status::Ok, "{perfect}");
    let likely = &perfect["corrected"]["likely"];
    for name in ["sensitivity", "specificity"] {
        assert!((likely[name].as_f64().unwrap() - summary(name)).abs() < 1e-9, "{name}: {likely}");
    }
    let (_, erring) = ask([0.93, 0.95, 0.99], [0.95, 0.97, 1.0]).await;
    let corrected = &erring["corrected"];
    assert_eq!(corrected["likely"]["flags"], json!([]), "{erring}");
    assert!(corrected["likely"]["specificity"].as_f64().unwrap() > summary("specificity"), "{erring}");
    let [low, high] = [0, 1].map(|end| corrected["specificity"][end].as_f64().unwrap());
    assert!(low < high, "{erring}");
    let (_, impossible) = ask([0.55, 0.6, 0.7], [0.55, 0.6, 0.7]).await;
    assert!(impossible["corrected"]["flags"].as_array().unwrap().contains(&json!("spec_inadmissible")), "{impossible}");
    let (status, problem) = ask([0.9, 0.8, 0.95], [1.0; 3]).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::BadRequest, &json!("reference.sensitivity")));
    // One of its results by itself.
    let perfect = json!({ "lower": 1, "estimate": 1, "upper": 1 });
    let of_one = |result: &Value| json!({ "pool": pool, "result": result, "reference": { "sensitivity": perfect, "specificity": perfect } });
    let (_, one) = server.post("/api/v1/pools/reference", &of_one(&results[1]["id"])).await;
    let likely = &one["corrected"]["likely"];
    assert_eq!([&likely["sensitivity"], &likely["specificity"]], [&json!(30.0 / 50.0), &json!(61.0 / 70.0)], "{one}");
    let (_, problem) = server.post("/api/v1/pools/reference", &of_one(&json!(test))).await;
    assert_eq!(problem["errors"][0]["field"], "result", "{problem}");
    // Frozen beside the pool, and confirmed with it.
    let range = json!({ "lower": 0.95, "estimate": 0.97, "upper": 1 });
    let freeze = json!({ "title": "Wrist", "pool": pool, "reference": { "sensitivity": range, "specificity": range } });
    let (status, frozen) = server.post("/api/v1/snapshots", &freeze).await;
    assert_eq!(status, Status::Created, "{frozen}");
    let file = server.get(&format!("/api/v1/snapshots/{}/file", frozen["id"].as_str().unwrap())).await.1;
    let SnapshotFile { hash, snapshot } = serde_json::from_value(file).unwrap();
    snapshot.confirm(&hash).unwrap();
    let asked = json!({ "pool": pool, "reference": { "sensitivity": range, "specificity": range } });
    let (_, now) = server.post("/api/v1/pools/reference", &asked).await;
    assert_eq!(frozen["snapshot"]["reference"]["corrected"], now["corrected"]);
    assert_eq!(server.post("/api/v1/pools/answer", &pool).await.1, answer);
    server.end().await;
}
