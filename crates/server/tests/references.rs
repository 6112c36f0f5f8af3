//! References over the API: looked up, entered once, exchanged.

use crate::support::Server;
use rocket::http::{ContentType, Status};
use serde_json::{Value, json};

fn faults(problem: &Value) -> Vec<&str> {
    problem["errors"].as_array().unwrap().iter().map(|error| error["field"].as_str().unwrap()).collect()
}

#[rocket::async_test]
async fn an_identifier_is_looked_up_and_every_failure_says_what_to_do() {
    let server = Server::start_with_registry(Some(pruvex_standins::start_registry().await.unwrap())).await;
    server.enter("author").await;
    let work = async |identifier: &str| server.get(&format!("/api/v1/works?identifier={identifier}")).await;
    let (status, found) = work("https://doi.org/10.5555/FENWATER.2024.001").await;
    assert_eq!((status, &found["year"], &found["pmid"]), (Status::Ok, &json!(2024), &json!("99001901")), "{found}");
    assert_eq!(work("99001901").await.1, found, "the same work by its other number");
    for (identifier, status, code) in [
        ("10.5555/nobody.1", Status::NotFound, "work_unknown"),
        ("10.5555/down.1", Status::BadGateway, "registry_failed"),
        ("10.5555/garbled.1", Status::BadGateway, "registry_failed"),
        ("10.5555/slow.1", Status::BadGateway, "registry_failed"),
        ("fenwater", Status::BadRequest, "query_invalid"),
        ("", Status::BadRequest, "query_invalid"),
    ] {
        let (answered, problem) = work(identifier).await;
        assert_eq!((answered, &problem["code"]), (status, &json!(code)), "{identifier}: {problem}");
    }
    server.end().await;

    let alone = Server::start().await;
    let (status, problem) = alone.get("/api/v1/works?identifier=99001901").await;
    assert_eq!((status, &problem["code"]), (Status::ServiceUnavailable, &json!("no_registry")));
    alone.end().await;
}

#[rocket::async_test]
async fn one_work_is_entered_once_and_every_change_can_be_taken_back() {
    let server = Server::start().await;
    let input = json!({ "title": "Held flexion in 90 hands", "authors": [{ "family": "Quellan", "given": "A." }],
        "year": 2019, "doi": "https://doi.org/10.5555/AB.1", "container": "Sample Journal", "volume": "7", "pages": "481\u{2013}5" });
    let (status, added) = server.post("/api/v1/references", &input).await;
    assert_eq!((status, &added["version"]), (Status::Created, &json!(1)), "{added}");
    assert_eq!((&added["doi"], &added["sample"]), (&json!("10.5555/ab.1"), &json!(true)), "an example is made up");
    assert!(
        added["citation"]
            .as_str()
            .unwrap()
            .starts_with("Quellan A. Held flexion in 90 hands. Sample Journal. 2019;7:481-"),
        "{added}"
    );
    let path = format!("/api/v1/references/{}", added["id"].as_str().unwrap());

    let (status, problem) = server.post("/api/v1/references", &input).await;
    assert_eq!((status, faults(&problem)), (Status::UnprocessableEntity, vec!["doi"]));
    assert!(problem["detail"].as_str().unwrap().contains("Quellan 2019 has this DOI already"), "{problem}");
    let near = json!({ "title": "Held flexion in 90  hands!", "authors": [{ "family": "Quellan" }], "year": 2020 });
    let (_, alike) = server.post("/api/v1/references/alike", &near).await;
    assert_eq!((&alike[0]["id"], &alike[0]["likeness"]["because"]), (&added["id"], &json!("similar_title")));
    let itself = format!("/api/v1/references/alike?except={}", added["id"].as_str().unwrap());
    assert_eq!(server.post(&itself, &input).await.1, json!([]), "nobody is told that a reference is like itself");

    let mut corrected = input.clone();
    corrected["year"] = json!(2020);
    assert_eq!(server.put(&path, "\"1\"", &corrected).await.0, Status::Ok);
    assert_eq!(server.put(&path, "\"1\"", &input).await.0, Status::PreconditionFailed);
    assert_eq!(server.delete(&path, "\"2\"").await.0, Status::Ok);
    assert_eq!(server.get(&path).await.0, Status::NotFound);
    // Its number is free again, until somebody else has it.
    let (status, second) = server.post("/api/v1/references", &input).await;
    assert_eq!(status, Status::Created);
    let restore = server.client.post(format!("{path}/restore")).header(rocket::http::Header::new("If-Match", "\"3\""));
    let (status, problem) = server.send(restore).await;
    assert_eq!((status, faults(&problem)), (Status::UnprocessableEntity, vec!["doi"]));
    let other = format!("/api/v1/references/{}", second["id"].as_str().unwrap());
    assert_eq!(server.delete(&other, "\"1\"").await.0, Status::Ok);
    let restore = server.client.post(format!("{path}/restore")).header(rocket::http::Header::new("If-Match", "\"3\""));
    assert_eq!(server.send(restore).await.1["year"], json!(2020));
    server.end().await;
}

#[rocket::async_test]
async fn a_study_points_to_its_reference_and_keeps_it_from_being_deleted() {
    let server = Server::start().await;
    let sheet = json!({ "name": "Thumb lift", "region": "hand_wrist", "purpose": "strength", "condition": "Weak thumb",
        "positive_finding": "Weaker than the other side" });
    let (_, test) = server.post("/api/v1/tests", &sheet).await;
    let results = format!("/api/v1/tests/{}/results", test["id"].as_str().unwrap());
    let input = json!({ "title": "Held flexion", "authors": [{ "family": "Quellan" }], "year": 2019 });
    let (_, reference) = server.post("/api/v1/references", &input).await;
    let result = |reference_id: &Value| {
        json!({ "study": { "reference": "As typed", "reference_id": reference_id },
            "result": { "tp": 20, "fp": 1, "fn": 5, "tn": 24 } })
    };
    let (status, problem) = server.post(&results, &result(&test["id"])).await;
    assert_eq!((status, faults(&problem)), (Status::UnprocessableEntity, vec!["study.reference_id"]));
    let (status, added) = server.post(&results, &result(&reference["id"])).await;
    assert_eq!((status, &added["study"]["cited"]["label"]), (Status::Created, &json!("Quellan 2019")), "{added}");

    let path = format!("/api/v1/references/{}", reference["id"].as_str().unwrap());
    let (_, tests) = server.get(&format!("{path}/tests")).await;
    assert_eq!(tests, json!([{ "id": test["id"], "name": "Thumb lift" }]));
    assert_eq!(server.get(&path).await.1["studies"], json!(1));
    let (status, problem) = server.delete(&path, "\"1\"").await;
    assert_eq!((status, faults(&problem)), (Status::UnprocessableEntity, vec!["studies"]), "{problem}");
    let mut corrected = input.clone();
    corrected["year"] = json!(2020);
    server.put(&path, "\"1\"", &corrected).await;
    assert_eq!(
        server.get(&results).await.1[0]["study"]["cited"]["label"],
        json!("Quellan 2020"),
        "a correction shows at once"
    );
    server.enter("learner").await;
    assert_eq!(server.get(&format!("{path}/tests")).await.1, json!([]), "a draft's name is not told");

    server.enter("author").await;
    let result_path = format!("/api/v1/results/{}", added["id"].as_str().unwrap());
    assert_eq!(server.delete(&result_path, "\"1\"").await.0, Status::Ok);
    assert_eq!(server.delete(&path, "\"2\"").await.0, Status::Ok);
    let restore = server.client.post(format!("{result_path}/restore"));
    let restore = restore.header(rocket::http::Header::new("If-Match", "\"2\""));
    let (status, restored) = server.send(restore).await;
    assert_eq!(
        (status, &restored["study"]["reference"], &restored["study"]["cited"]),
        (Status::Ok, &json!("As typed"), &Value::Null)
    );
    server.end().await;
}

#[rocket::async_test]
async fn a_file_comes_in_whole_or_not_at_all_and_goes_out_again() {
    let server = Server::start().await;
    let bring = async |query: &str, text: &str| {
        let request = server.client.post(format!("/api/v1/reference-imports{query}")).header(ContentType::Plain);
        let (status, begun) = server.send(request.body(text)).await;
        assert_eq!(status, Status::Accepted, "{begun}");
        server.until_ended(begun).await
    };
    let entry = |author: &str, title: &str, year: u16, doi: &str| {
        format!("TY  - JOUR\nAU  - {author}, A.\nTI  - {title}\nPY  - {year}\nJO  - Sample Journal\n{doi}ER  - \n\n")
    };
    let first = entry("Quellan", "Held flexion of the wrist in 90 hands", 2019, "DO  - 10.5555/ab.1\n");
    let second = entry("Tosk", "100% certain_signs", 2021, "");
    let twice = entry("Quellan", "Held flexion of the wrist in 90 hands!", 2020, "");
    let file = format!("{first}{second}{twice}{first}");
    let preview = bring("?preview=true", &file).await["reference_file"].take();
    let met: Vec<&str> =
        preview["references"].as_array().unwrap().iter().map(|one| one["encounter"].as_str().unwrap()).collect();
    assert_eq!((met, &preview["added"]), (vec!["new", "new", "similar", "known"], &json!(2)));
    assert_eq!(server.get("/api/v1/references").await.1["total"], json!(0), "a preview brings nothing in");
    let broken = format!("{file}TY  - JOUR\nAU  - Quellan, A.\nDO  - none\nER  - \n");
    let refused = bring("", &broken).await;
    let places: Vec<&Value> = refused["faults"].as_array().unwrap().iter().map(|fault| &fault["field"]).collect();
    assert_eq!(
        (&refused["state"], places),
        (&json!("refused"), vec![&json!("entries[4].title"), &json!("entries[4].doi")])
    );
    let many = bring("", &format!("[{}{{}}]", "{},".repeat(20_000))).await;
    assert_eq!((many["faults"].as_array().unwrap().len(), &many["fault_count"]), (500, &json!(10_000)));
    assert_eq!(bring("", &file).await["reference_file"]["added"], json!(2));
    assert_eq!(
        bring("?add=2", &file).await["reference_file"]["added"],
        json!(1),
        "what was chosen although it is similar"
    );

    let found = async |query: &str| server.get(&format!("/api/v1/references?{query}")).await.1;
    for (search, expected) in
        [("quellan%20WRIST", 2), ("tosk%202021", 1), ("100%25", 1), ("n_s", 1), ("10.5555/ab", 1), ("%25%25", 0)]
    {
        assert_eq!(found(&format!("search={search}")).await["total"], json!(expected), "{search}");
    }
    let listed = found("order=author&limit=2&offset=1&style=apa").await;
    let labels: Vec<&Value> = listed["references"].as_array().unwrap().iter().map(|one| &one["label"]).collect();
    assert_eq!((labels, &listed["total"]), (vec![&json!("Quellan 2020"), &json!("Tosk 2021")], &json!(3)));
    assert!(listed["references"][1]["citation"].as_str().unwrap().starts_with("Tosk, A. (2021)."), "{listed}");
    let (status, problem) = server.get("/api/v1/references?order=size&limit=2").await;
    assert_eq!((status, faults(&problem)), (Status::BadRequest, vec!["order"]));

    let out = server.client.get("/api/v1/references/export?format=bibtex&search=tosk").dispatch().await;
    let text = out.into_string().await.unwrap();
    assert!(text.contains("100\\% certain\\_signs") && !text.contains("Quellan"), "{text}");
    assert_eq!(bring("?preview=true", &text).await["reference_file"]["references"][0]["encounter"], json!("similar"));
    server.end().await;
}
