//! Plans of examinations: written, put in order, signed off, read by learners, handed on.

use crate::support::Server;
use rocket::http::{ContentType, Header, Status};
use serde_json::{Value, json};

const PLANS: &str = "/api/v1/plans";

async fn test(server: &Server, name: &str, position: &str, burden: Value) -> Value {
    let sheet = json!({ "name": name, "region": "pelvis", "purpose": "pain_provocation", "condition": "Sore joint", "positive_finding": "Pain",
        "burden": burden, "variants": [{ "name": "As taught", "position": position, "steps": [{ "text": "Push" }] },
            { "name": "Seated", "position": "sitting", "steps": [{ "text": "Push" }] }] });
    let (status, saved) = server.post("/api/v1/tests", &sheet).await;
    assert_eq!(status, Status::Created, "{saved}");
    saved
}

async fn result(server: &Server, test: &Value, [tp, fp, fn_, tn]: [u32; 4]) {
    let body = json!({ "study": { "reference": format!("Alder {tp} {tn}") },
        "result": { "reference_standard": "Block", "tp": tp, "fp": fp, "fn": fn_, "tn": tn } });
    let (status, saved) = server.post(&format!("/api/v1/tests/{}/results", id(test)), &body).await;
    assert_eq!(status, Status::Created, "{saved}");
}

fn id(record: &Value) -> &str {
    record["id"].as_str().unwrap()
}

fn question(pre_test: f64) -> Value {
    json!({ "condition": "Sore joint", "pre_test": pre_test, "reassure_below": 0.1, "treat_above": 0.7 })
}

async fn step(server: &Server, role: &str, path: &str, version: i64, step: &str) -> (Status, Value) {
    server.enter(role).await;
    let request = server.client.post(format!("{path}/steps")).header(Header::new("If-Match", format!("\"{version}\"")));
    server.send_json(request, &json!({ "step": step })).await
}

#[rocket::async_test]
async fn the_order_is_proposed_with_reasons_and_an_own_one_is_priced() {
    let server = Server::start().await;
    let sore = test(&server, "Spread", "lying_face_up", json!({ "irritation": 3, "minutes": 2 })).await;
    let once = test(&server, "Squeeze", "side_lying", json!({ "tries": 1, "minutes": 1 })).await;
    let mild = test(&server, "Raise", "lying_face_up", json!({ "tries": 3 })).await;
    result(&server, &sore, [40, 10, 10, 40]).await;
    result(&server, &mild, [45, 5, 5, 45]).await;
    let ask = json!({ "region": "pelvis", "questions": [question(0.3)],
        "tests": [{ "test": id(&sore) }, { "test": id(&once), "after": [id(&mild)] }, { "test": id(&mild), "optional": true }] });
    let (status, answer) = server.post("/api/v1/plans/order", &ask).await;
    assert_eq!(status, Status::Ok, "{answer}");
    // The irritating one before the one with one valid attempt is the dearest.
    assert_eq!(answer["proposed"]["order"], json!([2, 1, 0]));
    assert_eq!(answer["proposed"]["reasons"][1], json!([{ "code": "after", "test": 2 }, { "code": "one_attempt" }]));
    assert_eq!((&answer["own"]["broken"], &answer["own"]["cost"]["changes"]), (&json!([[2, 1]]), &json!(2)));
    assert_eq!((&answer["own"]["cost"]["one_attempt"], &answer["minutes"]), (&json!(3.0), &json!(3.0)));
    // From 30 %: 80 of 100 with it and 20 of 100 without it are positive, which leads from 30 to 63 and to 9.7 %: 62 of 100 are reassured.
    let worth = &answer["tests"][0]["worth"][0];
    let (alone, adds) = (worth["alone"].as_f64().unwrap(), worth["adds"].as_f64().unwrap());
    assert!((alone - 0.62).abs() < 1e-9 && (adds - 0.62).abs() < 1e-9, "{worth}");
    assert_eq!(answer["questions"][0]["tests"], 1, "an optional test is not counted on, one without figures cannot be");
    assert!(answer["tests"][2]["worth"][0]["adds"].is_null() && answer["tests"][1]["worth"][0]["alone"].is_null());
    assert!((answer["questions"][0]["sequence"]["reassured"].as_f64().unwrap() - 0.62).abs() < 1e-9);
    // Seated, the first and the last lie apart.
    let mut seated = ask.clone();
    seated["tests"][0]["variant"] = json!("Seated");
    let (_, answer) = server.post("/api/v1/plans/order", &seated).await;
    assert_eq!((&answer["tests"][0]["position"], &answer["own"]["cost"]["changes"]), (&json!("sitting"), &json!(2)));
    for (changed, field) in [
        (json!({ "tests": [] }), "tests"),
        (json!({ "questions": [] }), "questions"),
        (json!({ "region": "tail" }), "region"),
        (
            json!({ "tests": [{ "test": id(&sore), "after": [id(&once)] }, { "test": id(&once), "after": [id(&sore)] }] }),
            "tests[0].after",
        ),
    ] {
        let mut asked = ask.clone();
        asked.as_object_mut().unwrap().extend(changed.as_object().unwrap().clone());
        let (status, problem) = server.post("/api/v1/plans/order", &asked).await;
        assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!(field)), "{problem}");
    }
    // A reader who sees no drafts is told of tests without names, not refused.
    server.enter("learner").await;
    let (status, answer) = server.post("/api/v1/plans/order", &ask).await;
    assert_eq!((status, &answer["tests"][0]["name"]), (Status::Ok, &Value::Null), "{answer}");
}

#[rocket::async_test]
async fn a_plan_is_signed_off_read_by_learners_and_says_which_sheets_changed() {
    let server = Server::start().await;
    let (one, two) = (
        test(&server, "Spread", "lying_face_up", json!({})).await,
        test(&server, "Squeeze", "side_lying", json!({})).await,
    );
    let input = json!({ "title": "Standard", "region": "pelvis", "questions": [question(0.3)],
        "tests": [{ "test": id(&one), "variant": "seated" }, { "test": id(&two), "after": [id(&one)], "reason": "Then" }] });
    let (status, made) = server.post(PLANS, &input).await;
    assert_eq!((status, &made["status"], &made["version"]), (Status::Created, &json!("draft"), &json!(1)), "{made}");
    let path = format!("{PLANS}/{}", id(&made));
    for (changed, field) in [
        (json!({ "title": "STANDARD" }), "title"),
        (json!({ "title": "B", "tests": [{ "test": id(&made) }] }), "tests[0].test"),
        (json!({ "title": "B", "tests": [{ "test": id(&one), "variant": "Standing" }] }), "tests[0].variant"),
        (
            json!({ "title": "B", "questions": [{ "condition": "Nothing", "pre_test": 0.3, "reassure_below": 0.1, "treat_above": 0.7 }] }),
            "questions[0].condition",
        ),
    ] {
        let mut asked = input.clone();
        asked.as_object_mut().unwrap().extend(changed.as_object().unwrap().clone());
        let (status, problem) = server.post(PLANS, &asked).await;
        assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!(field)), "{problem}");
    }
    // Learners see neither a draft nor what waits for the second reader.
    server.enter("learner").await;
    assert_eq!((server.get(&path).await.0, server.get(PLANS).await.1), (Status::NotFound, json!([])));
    // A plan of sheets that nobody signed off cannot be signed off.
    let (_, waiting) = step(&server, "author", &path, 1, "submit").await;
    assert_eq!(waiting["status"], "in_review");
    let (status, refused) = step(&server, "second_reader", &path, 2, "sign_off").await;
    assert_eq!(
        (status, &refused["errors"][0]["field"]),
        (Status::UnprocessableEntity, &json!("tests[0].test")),
        "{refused}"
    );
    for sheet in [&one, &two] {
        let path = format!("/api/v1/tests/{}", id(sheet));
        step(&server, "author", &path, 1, "submit").await;
        assert_eq!(step(&server, "second_reader", &path, 2, "sign_off").await.0, Status::Ok);
    }
    let (status, signed) = step(&server, "second_reader", &path, 2, "sign_off").await;
    assert_eq!(
        (status, &signed["published_version"], &signed["changed_sheets"]),
        (Status::Ok, &json!(3), &json!([])),
        "{signed}"
    );

    // What is written since waits for the next sign-off; who was slower is told.
    server.enter("author").await;
    let mut changed = input.clone();
    changed["title"] = json!("Longer");
    assert_eq!(server.put(&path, "\"2\"", &changed).await.0, Status::PreconditionFailed);
    let (status, edited) = server.put(&path, "\"3\"", &changed).await;
    assert_eq!((status, &edited["status"]), (Status::Ok, &json!("draft")), "{edited}");
    let (_, history) = server.get(&format!("{path}/history")).await;
    let acts: Vec<&str> = history.as_array().unwrap().iter().map(|it| it["action"].as_str().unwrap()).collect();
    assert_eq!(acts, ["edited", "sign_off", "submit", "created"]);
    // A condition that is renamed is asked about by its new name, also in what learners see.
    let (_, conditions) = server.get("/api/v1/conditions").await;
    let condition = conditions.as_array().unwrap().iter().find(|it| it["name"] == "Sore joint").unwrap();
    let renamed = json!({ "region": "pelvis", "name": "Sore ring" });
    let (status, answer) = server.put(&format!("/api/v1/conditions/{}", id(condition)), "\"1\"", &renamed).await;
    assert_eq!(status, Status::Ok, "{answer}");
    server.enter("learner").await;
    let (_, seen) = server.get(&path).await;
    assert_eq!(
        (&seen["title"], &seen["version"], &seen["status"]),
        (&json!("Standard"), &json!(3), &json!("published"))
    );
    assert_eq!((&seen["questions"][0]["condition"], &seen["next_steps"]), (&json!("Sore ring"), &json!([])));
    let listed = async |query: &str| server.get(&format!("{PLANS}?{query}")).await.1.as_array().unwrap().len();
    assert_eq!(
        (listed("search=sore%20standard").await, listed("search=longer").await, listed("region=neck").await),
        (1, 0, 0)
    );

    // A sheet that is archived: the plan that names it says so.
    assert_eq!(step(&server, "author", &format!("/api/v1/tests/{}", id(&two)), 3, "retire").await.0, Status::Ok);
    server.enter("learner").await;
    let (_, seen) = server.get(&path).await;
    assert_eq!(seen["changed_sheets"], json!([{ "test": id(&two), "name": "Squeeze", "change": "archived" }]));
    server.enter("author").await;
    let (status, file) = server.get("/api/v1/bundle?region=pelvis").await;
    assert_eq!((status, &file["plans"]), (Status::Ok, &Value::Null), "a plan goes with all of its tests or not at all");
    assert_eq!(step(&server, "author", &format!("/api/v1/tests/{}", id(&two)), 4, "revive").await.0, Status::Ok);
    let (_, file) = server.get("/api/v1/bundle?region=pelvis").await;
    let plan = &file["plans"][0];
    assert_eq!(
        (&plan["plan"]["title"], &plan["tests"][1]),
        (&json!("Longer"), &json!({ "name": "Squeeze", "after": ["Spread"] })),
        "{plan}"
    );
    assert!(plan["plan"]["tests"][0]["test"].is_null());
}

#[rocket::async_test]
async fn a_plan_is_made_to_fit_a_patient_and_offers_what_passes_the_same_screening() {
    let server = Server::start().await;
    let sheet = |name: &str, cautions: Value, alternatives: Value| {
        json!({ "name": name, "region": "pelvis", "purpose": "pain_provocation", "condition": "Sore joint", "positive_finding": "Pain",
            "cautions": cautions, "alternatives": alternatives, "burden": { "irritation": 2, "minutes": 3 },
            "variants": [{ "name": "As taught", "position": "lying_face_up", "equipment": [{ "name": "Belt" }],
                "steps": [{ "text": "Push", "joint": "hip", "motion": "flexion", "mode": "passive" }] }] })
    };
    let made = async |body: Value| {
        let (status, saved) = server.post("/api/v1/tests", &body).await;
        assert_eq!(status, Status::Created, "{saved}");
        saved
    };
    let asked = |text: &str, question: &str, answers: &[&str], scope: &str, joint: Option<&str>| {
        json!({ "text": text, "kind": "contraindication", "screening": question, "unsafe_answers": answers, "scope": scope, "joint": joint,
            "instead": "Refer.", "within_hours": 24 })
    };
    let push = made(sheet(
        "Push",
        json!([asked("New hip", "Can you climb stairs?", &["no"], "joint", Some("hip"))]),
        json!([{ "situation": "A large limb.", "instead": "Pull, with a belt." }]),
    ))
    .await;
    let turn =
        made(sheet("Turn", json!([asked("Fever", "Any fever?", &["yes", "unknown"], "examination", None)]), json!([])))
            .await;
    let pull =
        made(sheet("Pull", json!([asked("Sore skin", "Is the skin sore?", &["yes"], "test", None)]), json!([]))).await;
    let input = json!({ "title": "Standard", "region": "pelvis", "questions": [question(0.3)],
        "tests": [{ "test": id(&push) }, { "test": id(&turn) }, { "test": id(&pull), "optional": true }] });
    let (_, plan) = server.post(PLANS, &input).await;
    let path = format!("{PLANS}/{}/fit", id(&plan));
    let (status, open) = server.post(&path, &json!({})).await;
    assert_eq!(status, Status::Ok, "{open}");
    let questions: Vec<&str> =
        open["questions"].as_array().unwrap().iter().map(|it| it["question"].as_str().unwrap()).collect();
    assert_eq!(questions, ["Any fever?", "Can you climb stairs?"], "what nobody needs yet is not asked");
    assert_eq!(
        (&open["anything"], &open["tests"][2]["left_out"], &open["equipment"]),
        (&json!(false), &json!(true), &json!(["Belt"]))
    );
    assert_eq!(open["situations"][0]["tests"], json!([0]));
    let key = |words: &str| {
        let found = open["questions"].as_array().unwrap().iter().find(|it| it["question"] == words);
        found.unwrap()["key"].as_str().unwrap().to_owned()
    };
    // "No" is the unsafe answer here; it reaches the other test of the hip, and the alternative is asked about.
    let said = |stairs: &str, fever: &str| json!({ "answers": { key("Can you climb stairs?"): stairs, key("Any fever?"): fever, "gone": "yes" } });
    let (_, answer) = server.post(&path, &said("no", "no")).await;
    assert_eq!(
        (&answer["tests"][0]["state"], &answer["tests"][1]["state"]),
        (&json!("not_now"), &json!("not_now")),
        "{answer}"
    );
    assert_eq!(answer["tests"][0]["reasons"][0]["within_hours"], 24.0);
    let other = &answer["tests"][0]["alternatives"][0];
    assert_eq!(
        (&other["test"]["name"], &other["test"]["fit"]["state"]),
        (&json!("Pull"), &json!("not_now")),
        "{other}"
    );
    assert_eq!(answer["questions"].as_array().unwrap().len(), 3, "the alternative's own question is asked now");
    let (_, answer) = server.post(&path, &said("yes", "no")).await;
    assert_eq!((&answer["tests"][0]["state"], &answer["anything"]), (&json!("ready"), &json!(true)));
    // The numbers of tests count what was screened; a left-out test is among it, since a red flag is one whether it is done or not.
    assert_eq!(answer["screened"], json!([id(&push), id(&turn), id(&pull)]));
    // A situation that holds brings the advice without taking the test out; a whole-examination answer stops everything.
    let mut large = said("yes", "no");
    large["situations"] = json!([open["situations"][0]["key"]]);
    let (_, answer) = server.post(&path, &large).await;
    assert_eq!(
        (&answer["tests"][0]["state"], &answer["tests"][0]["alternatives"][0]["instead"]),
        (&json!("ready"), &json!("Pull, with a belt."))
    );
    let (_, answer) = server.post(&path, &said("yes", "unknown")).await;
    assert_eq!(
        (&answer["stop"]["caution"], &answer["stop"]["within_hours"], &answer["anything"]),
        (&json!("Fever"), &json!(24.0), &json!(false))
    );
    for (more, reason) in [
        (json!({ "irritable": 2 }), "irritation"),
        (json!({ "cannot_take": ["lying_face_up"] }), "position"),
        (json!({ "lacking": ["belt"] }), "equipment"),
        (json!({ "minutes": 2 }), "minutes"),
    ] {
        let mut asked = said("yes", "no");
        asked.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        let (_, answer) = server.post(&path, &asked).await;
        assert_eq!(answer["tests"][1]["reasons"][0]["code"], reason, "{answer}");
    }
    for (wrong, field) in [(json!({ "irritable": 4 }), "irritable"), (json!({ "minutes": -1 }), "minutes")] {
        let (status, problem) = server.post(&path, &wrong).await;
        assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!(field)), "{problem}");
    }
    let paper = format!("{PLANS}/{}/plan.pdf", id(&plan));
    let response = server.client.get(paper.as_str()).dispatch().await;
    assert_eq!((response.status(), response.content_type()), (Status::Ok, Some(ContentType::PDF)));
    assert_eq!(response.headers().get_one("Content-Disposition"), Some("inline; filename=\"standard.pdf\""));
    assert!(response.into_bytes().await.unwrap().starts_with(b"%PDF"));
    server.enter("learner").await;
    assert_eq!(server.get(&paper).await.0, Status::NotFound);
    assert_eq!(server.post(&path, &json!({})).await.0, Status::NotFound, "a draft is for nobody to follow");
}

#[rocket::async_test]
async fn an_examination_stands_where_its_results_lead_and_does_not_end_while_what_must_not_be_missed_is_unasked() {
    let server = Server::start().await;
    let condition = json!({ "region": "pelvis", "name": "Broken ring", "pre_test": 0.01, "must_not_miss": true });
    let (status, saved) = server.post("/api/v1/conditions", &condition).await;
    assert_eq!((status, &saved["must_not_miss"]), (Status::Created, &json!(true)), "{saved}");
    let spread = test(&server, "Spread", "lying_face_up", json!({ "minutes": 2 })).await;
    let raise = test(&server, "Raise", "lying_face_up", json!({})).await;
    let bare = test(&server, "Bare", "lying_face_up", json!({})).await;
    result(&server, &spread, [40, 10, 10, 40]).await;
    result(&server, &raise, [45, 5, 5, 45]).await;
    let mut asked = question(0.3);
    asked["between"] = json!([{ "action": "image", "from": 0.5 }]);
    asked["above"] = json!("refer");
    let plan = json!({ "title": "Standing", "region": "pelvis", "questions": [asked],
        "tests": [{ "test": id(&spread) }, { "test": id(&bare) }, { "test": id(&raise) }] });
    let (_, made) = server.post(PLANS, &plan).await;
    assert_eq!(made["questions"][0]["between"], json!([{ "action": "image", "from": 0.5 }]), "{made}");
    let path = format!("{PLANS}/{}/standing", id(&made));
    let stand = async |body: Value| server.post(&path, &body).await;
    let (status, begun) = stand(json!({})).await;
    assert_eq!((status, &begun["end"], &begun["next"]), (Status::Ok, &json!("open"), &json!(0)), "{begun}");
    let first = &begun["questions"][0];
    assert_eq!((&first["state"], &first["action"]), (&json!("open"), &Value::Null));
    assert_eq!((&first["open"][0]["test"], &first["open"][1]["test"]), (&json!(0), &json!(2)), "one has no figures");
    assert_eq!(begun["minutes"], json!([2.0, null, null]));
    assert_eq!(begun["must_not_miss"], json!([{ "condition": "Broken ring", "asked": false, "in_plan": false }]));
    // 30 % to 63 % by the first, which is imaging; the other one, positive as well, leads to 94 %.
    let found = |test: &Value, positive: bool| json!({ "test": id(test), "positive": positive });
    let (_, one) = stand(json!({ "findings": [found(&spread, true), found(&bare, true)] })).await;
    let stands = &one["questions"][0];
    assert_eq!(
        (&stands["action"], &stands["state"], &one["next"]),
        (&json!("image"), &json!("open"), &json!(2)),
        "{one}"
    );
    assert!((stands["now"]["estimate"].as_f64().unwrap() - 12.0 / 19.0).abs() < 1e-9);
    assert_eq!((&stands["steps"][0]["test"], stands["steps"].as_array().unwrap().len()), (&json!(0), 2));
    assert!(stands["steps"][1]["after"].is_null(), "a test without figures says nothing");
    let both = json!({ "findings": [found(&spread, true), found(&raise, true)] });
    let (_, two) = stand(both.clone()).await;
    assert_eq!((&two["questions"][0]["action"], &two["end"]), (&json!("refer"), &json!("must_not_miss")), "{two}");
    let mut asked = both;
    asked["asked"] = json!(["broken RING"]);
    let (_, two) = stand(asked).await;
    assert_eq!((&two["end"], &two["next"]), (&json!("finished"), &Value::Null), "{two}");
    // One that cannot be read leaves the rest open; without any other test nothing can change.
    let (_, left) = stand(json!({ "without": [id(&spread), id(&raise)] })).await;
    assert_eq!((&left["questions"][0]["state"], &left["end"]), (&json!("settled"), &json!("must_not_miss")), "{left}");
    for (body, field) in [
        (json!({ "findings": [found(&made, true)] }), "findings[0].test"),
        (json!({ "findings": [found(&raise, true), found(&raise, false)] }), "findings[1].test"),
        (json!({ "findings": [found(&raise, true)], "without": [id(&raise)] }), "findings[0].test"),
        (json!({ "findings": [{ "test": id(&raise) }] }), "findings[0].positive"),
        (json!({ "findings": [{ "test": id(&raise), "level": "Great pain" }] }), "findings[0].level"),
    ] {
        let (status, problem) = stand(body).await;
        assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!(field)), "{problem}");
    }
    // Its shares of actions, the present order.
    let order = json!({ "region": "pelvis", "questions": made["questions"], "tests": made["tests"] });
    let (_, answer) = server.post("/api/v1/plans/order", &order).await;
    let ends: Vec<&Value> = answer["questions"][0]["ends"].as_array().unwrap().iter().map(|it| &it["action"]).collect();
    assert_eq!(ends, [&json!("reassure"), &Value::Null, &json!("image"), &json!("refer")], "{answer}");
    assert_eq!(answer["questions"][0]["sequence"]["enough_negative"], 1);
}

#[rocket::async_test]
async fn the_basic_examination_comes_first_and_figures_say_whether_they_are_of_such_people() {
    let server = Server::start().await;
    let special = test(&server, "Spread", "lying_face_up", json!({})).await;
    let (_, sheet) = server.get(&format!("/api/v1/tests/{}", id(&special))).await;
    let frame = json!({ "name": "Look", "region": "pelvis", "purpose": "pain_provocation", "condition": "Sore joint", "positive_finding": "Pain",
        "basis": "inspection", "indications": [{ "kind": "mechanism", "text": "A fall" }, { "kind": "complaint", "text": "Pain" }],
        "variants": [{ "name": "As taught", "position": "sitting", "steps": [{ "text": "Look" }], "targets": [{ "structure": "Ring", "role": "compressed" }] }] });
    let (status, frame) = server.post("/api/v1/tests", &frame).await;
    assert_eq!(status, Status::Created, "{frame}");
    let (_, offered) = server.get("/api/v1/plans/tests?region=pelvis").await;
    assert_eq!(
        offered,
        json!([
            { "test": id(&frame), "name": "Look", "basis": "inspection", "mechanisms": ["A fall"], "structures": ["Ring"] },
            { "test": id(&special), "name": sheet["name"], "basis": null, "mechanisms": [], "structures": [] },
        ])
    );
    assert_eq!(server.get("/api/v1/plans/tests?region=knee").await.1, json!([]));
    for (reference, setup, cells) in [
        ("A", json!({ "setting": "sports", "course": "acute" }), [40, 10, 10, 40]),
        ("B", json!({ "setting": "sports", "course": "mixed" }), [30, 12, 8, 33]),
        ("C", json!({}), [20, 5, 5, 20]),
    ] {
        let [tp, fp, fn_, tn] = cells;
        let body = json!({ "study": { "reference": reference, "setup": setup },
            "result": { "reference_standard": "Block", "tp": tp, "fp": fp, "fn": fn_, "tn": tn } });
        assert_eq!(server.post(&format!("/api/v1/tests/{}/results", id(&special)), &body).await.0, Status::Created);
    }
    let ask = async |more: Value| {
        let mut body = json!({ "region": "pelvis", "questions": [question(0.3)], "tests": [{ "test": id(&special) }, { "test": id(&frame) }] });
        body.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        let (status, answer) = server.post("/api/v1/plans/order", &body).await;
        assert_eq!(status, Status::Ok, "{answer}");
        answer
    };
    let answer = ask(json!({})).await;
    assert_eq!(
        (&answer["proposed"]["order"], &answer["own"]["broken"]),
        (&json!([1, 0]), &json!([[1, 0]])),
        "{answer}"
    );
    assert_eq!(answer["proposed"]["reasons"][0][0]["code"], "frame");
    assert!(answer["tests"][0]["worth"][0]["matching"].is_null(), "the plan says of nobody for whom it is");
    let answer = ask(json!({ "frame_anywhere": true })).await;
    assert_eq!((&answer["proposed"]["order"], &answer["own"]["broken"]), (&json!([0, 1]), &json!([])), "{answer}");
    for (more, matching) in [
        (json!({ "setting": "sports" }), 2),
        (json!({ "setting": "sports", "course": "acute" }), 1),
        (json!({ "state": "awake" }), 0),
    ] {
        let worth = &ask(more.clone()).await["tests"][0]["worth"][0];
        assert_eq!((&worth["studies"], &worth["matching"]), (&json!(3), &json!(matching)), "{more}");
    }
}
