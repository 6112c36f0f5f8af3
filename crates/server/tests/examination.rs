//! Examinations: begun by a plan, saved after every entry, finished, private to their owner, shared, deleted and written out.

use crate::support::Server;
use rocket::http::{ContentType, Header, Status};
use serde_json::{Value, json};

const ALL: &str = "/api/v1/examinations";

fn id(record: &Value) -> &str {
    record["id"].as_str().unwrap()
}

fn tag(record: &Value) -> String {
    format!("\"{}\"", record["version"])
}

fn fields(refused: &Value) -> Vec<&str> {
    refused["errors"].as_array().unwrap().iter().map(|it| it["field"].as_str().unwrap()).collect()
}

/// Two tests: one whose sheet asks before, reads an inability and names a pitfall and a repeat, and one of three levels.
async fn made(server: &Server) -> (Value, Value, Value) {
    let sheet = |name: &str, more: Value| {
        let mut sheet = json!({ "name": name, "region": "pelvis", "purpose": "pain_provocation", "condition": "Sore joint",
            "positive_finding": "Pain" });
        sheet.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        sheet
    };
    let push = sheet(
        "Push",
        json!({
        "cautions": [{ "text": "New hip", "kind": "contraindication", "screening": "A new hip?", "unsafe_answers": ["yes"], "scope": "test" }],
        "pitfalls": [{ "text": "Thick swelling", "patient_side": true, "bias": "towards_negative" }],
        "repeats": [{ "when": "after_days", "days": 14, "reason": "Comes and goes" }],
        "variants": [{ "name": "As taught", "steps": [{ "text": "Push" }],
            "inability": [{ "reason": "weakness", "outcome": "positive", "note": "Too weak" }] }] }),
    );
    let lift = sheet(
        "Lift",
        json!({ "variants": [{ "name": "As taught", "steps": [{ "text": "Lift" }],
        "grading": { "name": "Effort", "levels": [{ "name": "easy", "outcome": "negative" }, { "name": "hard", "outcome": "positive" }] } }] }),
    );
    let (mut tests, mut planned) = (Vec::new(), Vec::new());
    for sheet in [push, lift] {
        let (status, saved) = server.post("/api/v1/tests", &sheet).await;
        assert_eq!(status, Status::Created, "{saved}");
        let body = json!({ "study": { "reference": "Alder" },
            "result": { "reference_standard": "Block", "tp": 40, "fp": 10, "fn": 10, "tn": 40 } });
        let (status, result) = server.post(&format!("/api/v1/tests/{}/results", id(&saved)), &body).await;
        assert_eq!(status, Status::Created, "{result}");
        planned.push(json!({ "test": id(&saved) }));
        tests.push(saved);
    }
    let condition = json!({ "region": "pelvis", "name": "Broken ring", "pre_test": 0.01, "must_not_miss": true });
    let (status, saved) = server.post("/api/v1/conditions", &condition).await;
    assert_eq!(status, Status::Created, "{saved}");
    let question = json!({ "condition": "Sore joint", "pre_test": 0.3, "reassure_below": 0.05, "treat_above": 0.9 });
    let (status, plan) = server
        .post(
            "/api/v1/plans",
            &json!({ "title": "Standard", "region": "pelvis", "questions": [question], "tests": planned }),
        )
        .await;
    assert_eq!(status, Status::Created, "{plan}");
    let lift = tests.pop().unwrap();
    (plan, tests.pop().unwrap(), lift)
}

/// What one's own records say becomes a result only with its appraisal, stays out of the pools, and is brought up to date.
async fn local_figures(server: &Server, push: &Value) {
    let enter = format!("{ALL}/own/results");
    let mut body =
        json!({ "test": id(push), "condition": "sore joint", "region": "pelvis", "reference_standard": "Operation" });
    let refused = async |body: &Value| {
        let (status, refused) = server.post(&enter, body).await;
        assert_eq!(status, Status::UnprocessableEntity, "{refused}");
        fields(&refused).join(" ")
    };
    assert_eq!(refused(&body).await, "study");
    body["study"] = json!({ "reference": "Own records", "setup": { "source": "published" } });
    assert_eq!(refused(&body).await, "appraisal");
    let risk = json!({ "risk": "high", "reason": "Not blind" });
    body["appraisal"] = json!({ "domains": { "index_test": risk } });
    assert_eq!(refused(&body).await, "appraisal");
    let other = json!({ "test": id(push), "condition": "Broken ring" });
    assert_eq!(refused(&other).await, "test", "nothing was found out about it");
    body["appraisal"] = json!({ "domains": { "patient_selection": risk, "index_test": risk, "reference_standard": risk,
        "flow_timing": risk } });
    let results = format!("/api/v1/tests/{}/results", id(push));
    let pooled = format!("/api/v1/tests/{}/pooled", id(push));
    let before = server.get(&pooled).await;
    let (status, entered) = server.post(&enter, &body).await;
    assert_eq!(status, Status::Created, "{entered}");
    assert_eq!(entered["study"]["setup"]["source"], "own_records", "whatever was sent");
    assert_eq!(entered["left_out"]["code"], "own_records");
    let cells = ["tp", "fp", "fn", "tn"].map(|cell| entered["counts"][cell].clone());
    assert_eq!((cells, &entered["negative_unverified"]), ([json!(2), json!(1), json!(0), json!(1)], &json!(2)));
    assert_eq!(server.get(&pooled).await, before, "the pooled answer of the sheet stays");

    let pool = |only: Value| json!({ "tests": [id(push)], "selection": { "only": only } });
    let (_, unasked) = server.post("/api/v1/pools/answer", &pool(json!({}))).await;
    let (_, asked) =
        server.post("/api/v1/pools/answer", &pool(json!({ "source": ["published", "own_records"] }))).await;
    let out = |answer: &Value| answer["rows"].as_array().unwrap().iter().filter(|it| it["out"].is_object()).count();
    assert_eq!((out(&unasked), out(&asked)), (1, 0), "{unasked}");

    // Entered again, the same result is brought up to date; an ordinary form cannot make it a published one.
    body["reference_standard"] = json!("Operation or course");
    let (_, again) = server.post(&enter, &body).await;
    assert_eq!(
        (&again["id"], &again["reference_standard"]),
        (&entered["id"], &json!("Operation or course")),
        "{again}"
    );
    let own = server.get(&format!("{ALL}/own?condition=Sore%20joint")).await.1;
    assert_eq!(own["local"]["results"], json!([{ "test": id(push), "result": id(&entered) }]));
    let study = &own["local"]["study"];
    let path = format!("/api/v1/studies/{}", id(study));
    let (status, kept) = server.put(&path, &tag(study), &json!({ "reference": "Own records" })).await;
    assert_eq!((status, fields(&kept)), (Status::UnprocessableEntity, vec!["setup.source"]));
    let unappraised = json!({ "study": { "reference": "Mine", "setup": { "source": "own_records" } }, "result": { "tp": 1, "fn": 1 } });
    let (status, unappraised) = server.post(&results, &unappraised).await;
    assert_eq!((status, fields(&unappraised)), (Status::UnprocessableEntity, vec!["study.setup.source"]));
}

/// Of people with the condition only, sensitivity alone is entered.
async fn one_arm(server: &Server, plan: &Value, push: &Value) {
    server.enter("second_reader").await;
    let (_, begun) = server.post(ALL, &json!({ "plan": id(plan) })).await;
    let path = format!("{ALL}/{}", id(&begun));
    let input = json!({ "conduct": { "conclusion": { "undecided": true },
        "tests": [{ "test": id(push), "attempts": [{ "side": "affected", "shown": "positive" }] }] } });
    let (_, saved) = server.put(&path, &tag(&begun), &input).await;
    let finish = server.client.post(format!("{path}/finish")).header(Header::new("If-Match", tag(&saved)));
    let (_, done) = server.send(finish).await;
    let found = json!({ "results": [{ "condition": "Sore joint", "found": "present", "by": "operation" }] });
    assert_eq!(server.put(&format!("{path}/reference"), &tag(&done), &found).await.0, Status::Ok);
    let risk = json!({ "risk": "unclear" });
    let body = json!({ "test": id(push), "condition": "Sore joint", "study": { "reference": "Another's records" },
        "appraisal": { "domains": { "patient_selection": risk, "index_test": risk, "reference_standard": risk, "flow_timing": risk } } });
    let (status, entered) = server.post(&format!("{ALL}/own/results"), &body).await;
    assert_eq!(status, Status::Created, "{entered}");
    assert_eq!((&entered["counts"]["tp"], &entered["counts"]["tn"]), (&json!(1), &Value::Null));
    assert_ne!(entered["study"]["reference"], "Own records", "each has their own study");
    // A share over everybody's records waits for three examiners.
    let asked = format!("{ALL}/own?condition=Sore%20joint");
    let clinic = || server.get(&asked);
    assert_eq!(clinic().await.1["clinic"], Value::Null);
    server.enter("administrator").await;
    let (_, begun) = server.post(ALL, &json!({ "plan": id(plan) })).await;
    let path = format!("{ALL}/{}", id(&begun));
    let undecided = json!({ "conduct": { "conclusion": { "undecided": true } } });
    let (_, saved) = server.put(&path, &tag(&begun), &undecided).await;
    let finish = server.client.post(format!("{path}/finish")).header(Header::new("If-Match", tag(&saved)));
    let (_, done) = server.send(finish).await;
    let absent = json!({ "results": [{ "condition": "Sore joint", "found": "absent", "by": "course" }] });
    assert_eq!(server.put(&format!("{path}/reference"), &tag(&done), &absent).await.0, Status::Ok);
    // Of the author two and two, of the second reader one, of the administrator none of one.
    let (_, own) = clinic().await;
    assert_eq!((&own["closed"], &own["clinic"]["records"]), (&json!(1), &json!(6)));
    assert_eq!(own["clinic"]["share"]["estimate"], 0.5);
}

#[rocket::async_test]
async fn an_examination_is_read_by_its_sheets_and_keeps_what_it_came_to() {
    let server = Server::start().await;
    let (plan, push, lift) = made(&server).await;
    let (status, begun) = server.post(ALL, &json!({ "plan": id(&plan) })).await;
    assert_eq!((status, &begun["version"], &begun["own"]), (Status::Created, &json!(1), &json!(true)), "{begun}");
    let path = format!("{ALL}/{}", id(&begun));
    let question = &begun["stands"]["fit"]["questions"][0];
    assert_eq!(
        (&question["question"], &begun["stands"]["fit"]["tests"][0]["state"]),
        (&json!("A new hip?"), &json!("locked"))
    );

    // What the patient could not do is read by the sheet; a level by its place; 4 then 4 again, as each test has 80 % and 80 %.
    let patient = json!({ "answers": { question["key"].as_str().unwrap(): "no" } });
    let unable = json!({ "side": "affected", "shown": "unable", "unable": "weakness" });
    let level = json!({ "side": "both", "shown": "level", "level": "hard" });
    let of = |test: &Value, attempts: Value| json!({ "test": id(test), "attempts": attempts });
    let conduct = |push_attempts: Value| json!({ "tests": [of(&push, push_attempts), of(&lift, json!([level]))] });
    let input = json!({ "patient": patient, "conduct": conduct(json!([unable])) });
    let (status, saved) = server.put(&path, &tag(&begun), &input).await;
    assert_eq!(status, Status::Ok, "{saved}");
    let readings = &saved["stands"]["readings"];
    assert_eq!(
        (&readings[0]["outcome"], &readings[0]["attempts"][0]["cause"]["note"]),
        (&json!("positive"), &json!("Too weak"))
    );
    assert_eq!((&readings[1]["outcome"], &readings[1]["level"]), (&json!("positive"), &json!("hard")));
    let now = saved["stands"]["standing"]["questions"][0]["now"]["estimate"].as_f64().unwrap();
    let odds = 0.3 / 0.7 * 16.0;
    assert!((now - odds / (1.0 + odds)).abs() < 0.01, "{now}");

    // Who sends the same once more, since the answer was lost on its way, is answered; the slower device is told, and nothing of what it sent is kept.
    let (status, again) = server.put(&path, &tag(&begun), &input).await;
    assert_eq!((status, &again["version"], &again["conduct"]), (Status::Ok, &json!(2), &saved["conduct"]), "{again}");
    let (status, refused) = server.put(&path, &tag(&begun), &json!({ "conduct": {} })).await;
    assert_eq!(
        (status, &refused["code"], &refused["current_version"]),
        (Status::PreconditionFailed, &json!("changed_meanwhile"), &json!(2))
    );
    let unknown = json!({ "conduct": { "tests": [{ "test": id(&plan), "attempts": [{ "side": "both" }] }] } });
    let (status, refused) = server.put(&path, &tag(&saved), &unknown).await;
    assert_eq!(
        (status, fields(&refused)),
        (Status::UnprocessableEntity, vec!["tests[0].attempts[0].shown", "tests[0].test"])
    );

    // Swelling pushes towards negative: a negative tells nothing then, and its sheet says that it is done again.
    let swollen = json!({ "side": "affected", "shown": "negative", "pitfalls": ["Thick swelling"] });
    let mut input = json!({ "patient": patient, "conduct": conduct(json!([swollen])) });
    let (_, spoilt) = server.put(&path, &tag(&saved), &input).await;
    assert_eq!(spoilt["stands"]["readings"][0]["outcome"], "not_interpretable", "{spoilt}");
    let now = spoilt["stands"]["standing"]["questions"][0]["now"]["estimate"].as_f64().unwrap();
    let odds = 0.3 / 0.7 * 4.0;
    assert!((now - odds / (1.0 + odds)).abs() < 0.01, "never as negative: {now}");
    let repeat = &spoilt["stands"]["repeats"][0];
    assert_eq!((&repeat["test"], &repeat["reason"]), (&json!(id(&push)), &json!("Comes and goes")));

    // Not finished without a conclusion, nor in reassurance past what must not be missed.
    let finish =
        |record: &Value| server.client.post(format!("{path}/finish")).header(Header::new("If-Match", tag(record)));
    let (status, refused) = server.send(finish(&spoilt)).await;
    assert_eq!((status, fields(&refused)), (Status::UnprocessableEntity, vec!["conclusion.text"]));
    input["conduct"]["conclusion"] = json!({ "text": "Nothing to fear", "action": "reassure" });
    let (_, hasty) = server.put(&path, &tag(&spoilt), &input).await;
    let (_, refused) = server.send(finish(&hasty)).await;
    assert_eq!(fields(&refused), ["conclusion.action"]);
    input["conduct"]["asked"] = json!(["broken RING"]);
    input["conduct"]["repeats"] = json!([{ "test": id(&push), "on": "2020-01-02", "trigger": "Again" }]);
    let (_, asked) = server.put(&path, &tag(&hasty), &input).await;
    let (status, paper) = server.send(server.client.get(format!("{path}/examination.pdf"))).await;
    assert_eq!(status, Status::NotFound, "no paper of what goes on: {paper}");
    let (status, done) = server.send(finish(&asked)).await;
    assert_eq!((status, &done["stands"], &done["due"]), (Status::Ok, &Value::Null, &json!("2020-01-02")), "{done}");
    let outcome = &done["outcome"];
    assert_eq!(outcome["screening"], json!([{ "question": "A new hip?", "answer": "no" }]));
    assert_eq!(
        (&outcome["tests"][1]["sheet"], &outcome["questions"][0]["steps"][0]["studies"]),
        (&json!(1), &json!(1))
    );
    assert_eq!(outcome["must_not_miss"], json!([{ "condition": "Broken ring", "asked": true }]));

    // Findings are locked then, the conclusion is not; what became of the plan and its sheets changes nothing any more.
    let mut other = input.clone();
    other["conduct"]["tests"] = json!([]);
    let (status, refused) = server.put(&path, &tag(&done), &other).await;
    assert_eq!((status, fields(&refused)), (Status::UnprocessableEntity, vec!["conduct"]));
    input["conduct"]["repeats"][0]["done"] = json!(true);
    let (status, ticked) = server.put(&path, &tag(&done), &input).await;
    assert_eq!((status, &ticked["due"], &ticked["outcome"]), (Status::Ok, &Value::Null, outcome), "{ticked}");
    let (status, _) = server.send(finish(&ticked)).await;
    assert_eq!(status, Status::UnprocessableEntity);
    let paper = server.client.get(format!("{path}/examination.pdf")).dispatch().await;
    assert_eq!((paper.status(), paper.content_type()), (Status::Ok, Some(ContentType::PDF)));
    assert!(paper.into_bytes().await.unwrap().starts_with(b"%PDF"));
    let table = server.client.get(format!("{ALL}.csv?search=standard")).dispatch().await.into_string().await.unwrap();
    let lines: Vec<&str> = table.lines().collect();
    assert_eq!(lines.len(), 3, "{table}");
    assert!(
        lines[1].contains("Push,As taught,1,Not interpretable,,1,Negative") && lines[2].contains("hard"),
        "{table}"
    );
    let worth =
        lines[2].split_once("Sore joint: LR 4.0").and_then(|(_, rest)| rest.split_once(", figures ")).unwrap().0;
    assert!(worth.ends_with("studies 1"), "{table}");
}

#[rocket::async_test]
async fn a_record_is_its_owners_until_an_author_shares_it_and_comes_back_after_it_was_deleted() {
    let server = Server::start().await;
    let (plan, ..) = made(&server).await;
    let concluded = json!({ "conduct": { "conclusion": { "undecided": true, "deadline": "2020-01-01" } } });
    let (_, begun) = server.post(ALL, &json!({ "plan": id(&plan) })).await;
    let path = format!("{ALL}/{}", id(&begun));
    let share = |record: &Value, confirmed: bool| {
        let request = server.client.put(format!("{path}/sharing")).header(Header::new("If-Match", tag(record)));
        (request, json!({ "shared": true, "identifies_nobody": confirmed }))
    };
    let (request, body) = share(&begun, true);
    assert_eq!(server.send_json(request, &body).await.0, Status::UnprocessableEntity, "not while it goes on");
    let (_, saved) = server.put(&path, &tag(&begun), &concluded).await;
    let finish = server.client.post(format!("{path}/finish")).header(Header::new("If-Match", tag(&saved)));
    let (status, done) = server.send(finish).await;
    assert_eq!((status, &done["may_share"]), (Status::Ok, &json!(true)), "{done}");

    let counted = async |query: &str| server.get(&format!("{ALL}?{query}")).await.1["total"].clone();
    for (query, count) in [
        ("state=due", 1),
        ("state=running", 0),
        ("search=STANDARD%20sore", 1),
        ("search=50%25", 0),
        ("region=neck", 0),
        ("state=shared", 0),
    ] {
        assert_eq!(counted(query).await, count, "{query}");
    }
    assert_eq!(counted(&format!("plan={}", id(&plan))).await, 1);
    assert_eq!(server.get(&format!("{ALL}?state=due")).await.1["rows"][0]["overdue"], true);
    assert_eq!(server.get(&format!("{ALL}?state=lost")).await.0, Status::BadRequest);

    // Nobody else sees it, whatever their role, nor can they change or delete it.
    server.enter("administrator").await;
    assert_eq!((server.get(&path).await.0, counted("state=shared").await), (Status::NotFound, json!(0)));
    assert_eq!(server.put(&path, &tag(&done), &concluded).await.0, Status::NotFound);
    assert_eq!(server.delete(&path, &tag(&done)).await.0, Status::NotFound);
    server.enter("author").await;
    let (request, body) = share(&done, false);
    let (status, refused) = server.send_json(request, &body).await;
    assert_eq!((status, fields(&refused)), (Status::UnprocessableEntity, vec!["identifies_nobody"]));
    let (request, body) = share(&done, true);
    let (status, shared) = server.send_json(request, &body).await;
    assert_eq!(status, Status::Ok, "{shared}");
    server.enter("learner").await;
    let (status, read) = server.get(&path).await;
    assert_eq!((status, &read["own"], &read["may_share"]), (Status::Ok, &json!(false), &json!(false)));
    assert_eq!((counted("state=shared").await, counted("").await), (json!(1), json!(0)));
    assert_eq!(server.put(&path, &tag(&shared), &concluded).await.0, Status::NotFound, "to read, not to write");

    // A draft is not theirs to examine by; deleting ends the sharing, and undo brings back the record only.
    let (status, refused) = server.post(ALL, &json!({ "plan": id(&plan) })).await;
    assert_eq!((status, fields(&refused)), (Status::UnprocessableEntity, vec!["plan"]));
    server.enter("author").await;
    let (status, gone) = server.delete(&path, &tag(&shared)).await;
    assert_eq!((status, server.get(&path).await.0), (Status::Ok, Status::NotFound));
    let restore = server.client.post(format!("{path}/restore")).header(Header::new("If-Match", tag(&gone)));
    let (status, back) = server.send(restore).await;
    assert_eq!((status, &back["shared_at"], counted("").await), (Status::Ok, &Value::Null, json!(1)), "{back}");
}

#[rocket::async_test]
async fn findings_are_locked_before_the_reference_result_and_many_of_them_judge_the_examiner() {
    let server = Server::start().await;
    let (plan, push, _) = made(&server).await;
    let mut last = Value::Null;
    // Three positive and three negative results; of the negative ones one is followed up.
    for (nth, shown) in ["positive", "positive", "positive", "negative", "negative", "negative"].iter().enumerate() {
        let (_, begun) = server.post(ALL, &json!({ "plan": id(&plan) })).await;
        let path = format!("{ALL}/{}", id(&begun));
        let input = json!({ "conduct": { "conclusion": { "undecided": true },
            "tests": [{ "test": id(&push), "attempts": [{ "side": "affected", "shown": shown }] }] } });
        let (_, saved) = server.put(&path, &tag(&begun), &input).await;
        let found =
            |found: &str| json!({ "results": [{ "condition": "sore JOINT", "found": found, "by": "operation" }] });
        let (status, early) = server.put(&format!("{path}/reference"), &tag(&saved), &found("present")).await;
        assert_eq!(
            (status, fields(&early)),
            (Status::UnprocessableEntity, vec!["results"]),
            "not before they are locked"
        );
        let finish = server.client.post(format!("{path}/finish")).header(Header::new("If-Match", tag(&saved)));
        let (_, done) = server.send(finish).await;
        last = done;
        if nth < 4 {
            let word = if nth < 2 { "present" } else { "absent" };
            let (status, closed) = server.put(&format!("{path}/reference"), &tag(&last), &found(word)).await;
            assert_eq!((status, &closed["reference"][0]["found"]), (Status::Ok, &json!(word)), "{closed}");
            // Entered twice it is refused, unless it says that it corrects the first.
            let mut again = found("unclear");
            let (status, twice) = server.put(&format!("{path}/reference"), &tag(&closed), &again).await;
            assert_eq!((status, &twice["errors"][0]["code"]), (Status::UnprocessableEntity, &json!("duplicate")));
            again["corrects"] = json!(true);
            again["results"][0]["found"] = json!(word);
            assert_eq!(server.put(&format!("{path}/reference"), &tag(&closed), &again).await.0, Status::Ok);
        }
    }
    assert_eq!(server.get(&format!("{ALL}?state=awaiting")).await.1["total"], 2);
    let bad = json!({ "results": [{ "condition": "Gone", "found": "present", "by": "other" }] });
    let (status, refused) = server.put(&format!("{ALL}/{}/reference", id(&last)), &tag(&last), &bad).await;
    assert_eq!(
        (status, fields(&refused)),
        (Status::UnprocessableEntity, vec!["results[0].condition", "results[0].note"])
    );

    let (status, own) = server.get(&format!("{ALL}/own?region=pelvis&condition=Sore%20joint")).await;
    assert_eq!((status, &own["finished"], &own["closed"]), (Status::Ok, &json!(6), &json!(4)), "{own}");
    assert_eq!((&own["prevalence"]["estimate"], &own["calibration"]["n"]), (&json!(0.5), &json!(4)));
    let test = &own["tests"][0];
    assert_eq!((&test["name"], &test["counts"]["negative_unverified"]), (&json!("Push"), &json!(2)));
    // 2 and 1 of the positive ones; 0 and 3 of the negative ones, of whom one was followed up.
    assert_eq!(test["accuracy"]["specificity"]["estimate"], 0.75);
    assert_eq!(test["holds_positive"], Value::Null, "one study expects nothing of the next");
    assert_eq!(server.get(&format!("{ALL}/waiting")).await.1, json!({ "overdue": 0, "due": 0, "awaiting": 2 }));
    local_figures(&server, &push).await;
    one_arm(&server, &plan, &push).await;
    server.enter("learner").await;
    let own = server.get(&format!("{ALL}/own?condition=Sore%20joint")).await.1;
    assert_eq!((&own["finished"], &own["local"]), (&json!(0), &Value::Null), "nobody else's count");
}
