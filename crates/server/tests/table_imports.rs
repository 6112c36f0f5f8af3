//! Tables over the API: looked at, compared, taken in whole or not at all, stopped.

use std::time::Duration;

use crate::support::Server;
use pruvex_formats::RESULT_COLUMNS;
use rocket::http::Status;
use serde_json::{Value, json};

const COLUMNS: &str = "A:test,B:reference,C:tp,D:fp,E:fn,F:tn,G:people,H:doi,I:region,J:together,K:criterion";

async fn sheets(server: &Server) -> String {
    let sheet = json!({ "name": "Thumb lift", "region": "hand_wrist", "purpose": "strength", "condition": "Weak thumb",
        "positive_finding": "Weaker than the other side", "aliases": ["Lift"] });
    let (_, test) = server.post("/api/v1/tests", &sheet).await;
    let mut other = sheet.clone();
    (other["name"], other["aliases"]) = (json!("Thumb press"), json!([]));
    assert_eq!(server.post("/api/v1/tests", &other).await.0, Status::Created);
    format!("/api/v1/tests/{}/results", test["id"].as_str().unwrap())
}

async fn begin(server: &Server, query: &str, file: &str) -> (Status, Value) {
    server.send(server.client.post(format!("/api/v1/table-imports?{query}")).body(file)).await
}

/// Begins it, and waits for its end.
async fn import(server: &Server, query: &str, file: &str) -> Value {
    let (status, view) = begin(server, query, file).await;
    assert_eq!(status, Status::Accepted, "{view}");
    server.until_ended(view).await
}

#[rocket::async_test]
async fn a_table_is_looked_at_compared_and_taken_in_once() {
    let server = Server::start().await;
    let results = sheets(&server).await;
    let work = json!({ "kind": "journal_article", "title": "Lifting thumbs", "year": 2016, "doi": "10.5555/lift" });
    let (_, work) = server.post("/api/v1/references", &work).await;
    let file = "Which test;Citation;TP;FP;FN;TN;n;DOI;Joint;Others;Cut-off\n\
        Lift;Made-up 2016;20;5;5;30;60;https://doi.org/10.5555/LIFT;hand wrist;;\n\
        Thumb lift;Made-up 2016;15;2;10;33;;;;Thumb press (all);stricter\n\
        Thumb press;Made-up 2017;;4;;16;;;;;\n";
    let request = || server.client.post("/api/v1/table-imports/columns").body(file);
    let (status, view) = server.send(request()).await;
    let fields = |view: &Value| {
        let columns = view["columns"].as_array().unwrap().iter();
        columns.map(|it| it["field"].as_str().unwrap_or("-").to_owned()).collect::<Vec<_>>().join(" ")
    };
    assert_eq!((status, &view["rows"], &view["header_row"]), (Status::Ok, &json!(3), &json!(1)), "{view}");
    assert_eq!(fields(&view), "- reference tp fp fn tn people doi region - criterion");

    let seen = import(&server, &format!("preview=true&columns={COLUMNS}"), file).await;
    let counts = |view: &Value| {
        let of = &view["imported"];
        ["studies", "known_studies", "results", "known_results"].map(|name| of[name].as_u64().unwrap())
    };
    assert_eq!((seen["state"].as_str(), counts(&seen)), (Some("done"), [2, 0, 3, 0]), "{seen}");
    let row = &seen["imported"]["rows"][0];
    assert_eq!((&row["test"], &row["sensitivity"]), (&json!("Thumb lift"), &json!(0.8)));
    assert_eq!(server.get(&results).await.1, json!([]), "nothing was changed");

    let done = import(&server, &format!("columns={COLUMNS}"), file).await;
    assert_eq!((done["state"].as_str(), counts(&done)), (Some("done"), [2, 0, 3, 0]), "{done}");
    let (_, found) = server.get(&results).await;
    let both = found.as_array().unwrap();
    assert_eq!((both.len(), &both[0]["study"]["id"]), (2, &both[1]["study"]["id"]), "of the same people");
    assert_eq!(both[0]["study"]["reference_id"], work["id"], "{found}");
    assert_eq!(both[1]["together"]["rule"], "all");
    assert_eq!(both[0]["trace"]["entered_by"].as_str().map(str::is_empty), Some(false), "{}", both[0]["trace"]);

    let again = import(&server, &format!("columns={COLUMNS}"), file).await;
    assert_eq!(counts(&again), [0, 2, 0, 3], "what is on record stays as it is");
    let other = file.replace("Made-up 2017;;4", "Made-up 2016;;4").replace(";60;", ";61;");
    let other = import(&server, &format!("preview=true&columns={COLUMNS}"), &other).await;
    assert_eq!((counts(&other), &other["imported"]["alike"]), ([1, 0, 3, 0], &json!([2])), "perhaps the same people");

    assert_eq!(
        fields(&server.send(request()).await.1),
        "test reference tp fp fn tn people doi region together criterion"
    );
    let own = format!("/api/v1/imports/{}", done["id"].as_str().unwrap());
    server.enter("second_reader").await;
    assert_eq!(server.get(&own).await.0, Status::NotFound, "it is another one's");
    assert_eq!(fields(&server.send(request()).await.1), "- reference tp fp fn tn people doi region - criterion");
    // What is found in made-up people is made up, whatever the table says.
    let people = "test,reference,tp,fp,fn,tn,people,doi,region,together,criterion,sample\n";
    let row = |criterion: &str, sample: &str| format!("Lift,Made-up 2018,9,1,1,9,,,,,{criterion},{sample}\n");
    let sample = format!("columns={COLUMNS},L:sample_data");
    assert_eq!(import(&server, &sample, &format!("{people}{}", row("", "yes"))).await["imported"]["sample"], true);
    assert_eq!(import(&server, &sample, &format!("{people}{}", row("later", ""))).await["state"], "done");
    let (_, found) = server.get(&results).await;
    let later = found.as_array().unwrap().iter().find(|it| it["criterion"] == "later").unwrap();
    assert_eq!((&later["sample"], &later["study"]["results"]), (&json!(true), &json!(2)), "{later}");
    // What was taken out can be taken in: all of it is there.
    let table = server.client.get("/api/v1/results/table/csv").dispatch().await.into_string().await.unwrap();
    let letter = |place: usize| match place {
        0..26 => format!("{}", (b'A' + place as u8) as char),
        _ => format!("A{}", (b'A' + place as u8 - 26) as char),
    };
    let all = RESULT_COLUMNS.iter().enumerate().map(|(place, (name, _))| format!("{}:{name}", letter(place)));
    let same = import(&server, &format!("columns={}", all.collect::<Vec<_>>().join(",")), &table).await;
    assert_eq!(counts(&same), [0, 3, 0, 5], "{same}");
    server.end().await;
}

#[rocket::async_test]
async fn what_does_not_fit_what_is_on_record_is_told_by_its_cell_and_nothing_comes_in() {
    let server = Server::start().await;
    let results = sheets(&server).await;
    let file = "test,reference,tp,fp,fn,tn,people,doi,region,together,criterion\n\
        Thumb lift,Good,20,5,5,30,,,,,\n\
        Thumb lfit,A,20,5,5,30,,,,,\n\
        Lift,B,20,5,5,30,,10.5555/none,neck,Lift (any),\n\
        Lift,C,20,-5,5,30,,,,Toe lift (at least 2),\n";
    let view = import(&server, &format!("columns={COLUMNS}"), file).await;
    let faults: Vec<&str> = view["faults"].as_array().unwrap().iter().map(|it| it["field"].as_str().unwrap()).collect();
    assert_eq!(view["state"], "refused");
    assert_eq!(faults, ["A3 (test)", "H4 (doi)", "I4 (region)", "J4 (together)", "D5 (fp)", "J5 (together)"]);
    assert_eq!(view["fault_count"], 6);
    assert_eq!(server.get(&results).await.1, json!([]));
    // What is wrong is put right without touching the file.
    let right = r#"[{"field":"test","was":"Thumb lfit","becomes":"Thumb lift"},{"cell":"H4","becomes":""},{"cell":"I4","becomes":""},
        {"cell":"J4","becomes":""},{"cell":"D5","becomes":"5"},{"cell":"J5","becomes":""}]"#;
    let changes = rocket::http::RawStr::new(right).percent_encode();
    let view = import(&server, &format!("columns={COLUMNS}&preview=true&changes={changes}"), file).await;
    assert_eq!((view["state"].as_str(), &view["imported"]["results"]), (Some("done"), &json!(4)), "{view}");
    let (status, problem) = begin(&server, &format!("columns={COLUMNS}&changes=nonsense"), file).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::BadRequest, &json!("changes")));
    let (status, problem) = begin(&server, "columns=A:test,A:nonsense", file).await;
    assert_eq!((status, &problem["errors"][0]["value"]), (Status::BadRequest, &json!("A:nonsense")));
    let (status, problem) = server.send(server.client.post("/api/v1/table-imports/columns").body("\n")).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!("file")));
    server.end().await;
}

#[rocket::async_test]
async fn a_test_without_a_sheet_gets_a_draft_with_the_table_and_words_are_compared_with_those_on_record() {
    let server = Server::start().await;
    let results = sheets(&server).await;
    let encoded = |value: &Value| rocket::http::RawStr::new(&value.to_string()).percent_encode().to_string();
    let columns = "A:test,B:reference,C:tp,D:fp,E:fn,F:tn,G:reference_standard,H:together";
    let first = "test,reference,tp,fp,fn,tn,reference_standard\nThumb lift,A,20,5,5,30,Nerve conduction study\n";
    assert_eq!(
        import(&server, "columns=A:test,B:reference,C:tp,D:fp,E:fn,F:tn,G:reference_standard", first).await["state"],
        "done"
    );
    let file = "test,reference,tp,fp,fn,tn,reference_standard,together\n\
        Thumb pinch,B,20,5,5,30,Nerve conduction studies,\n\
        Thumb lift,B,21,5,4,30,nerve conduction STUDY,Thumb pinch (any)\n";
    let view = import(&server, &format!("columns={columns}&preview=true"), file).await;
    let fields: Vec<&Value> = view["faults"].as_array().unwrap().iter().map(|it| &it["field"]).collect();
    assert_eq!(fields, [&json!("A2 (test)"), &json!("H3 (together)")]);
    let (status, rows) = server.send(server.client.post("/api/v1/table-imports/rows?rows=2,9").body(file)).await;
    assert_eq!((status, &rows["rows"][0]["row"], rows["rows"].as_array().unwrap().len()), (Status::Ok, &json!(2), 1));
    assert_eq!((&rows["rows"][0]["cells"][1], &rows["header"][0]), (&json!("B"), &json!("test")));

    let draft = json!([{ "name": "Thumb pinch", "region": "hand_wrist", "purpose": "strength", "condition": "Weak thumb",
        "positive_finding": "Weaker" }]);
    let with_draft = format!("columns={columns}&drafts={}", encoded(&draft));
    let seen = import(&server, &format!("{with_draft}&preview=true"), file).await;
    assert_eq!((&seen["state"], &seen["imported"]["drafts"]), (&json!("done"), &json!(["Thumb pinch"])), "{seen}");
    let standard = json!([{ "words": "Nerve conduction studies", "results": 1, "alike": ["Nerve conduction study"] }]);
    assert_eq!(seen["imported"]["new_standards"], standard);
    assert_eq!(server.get("/api/v1/tests").await.1.as_array().unwrap().len(), 2, "a preview writes no sheet");
    let mut wrong = draft.clone();
    wrong[0]["purpose"] = json!("magic");
    let (status, refused) = begin(&server, &format!("columns={columns}&drafts={}", encoded(&wrong)), file).await;
    assert_eq!((status, &refused["errors"][0]["field"]), (Status::BadRequest, &json!("drafts[0].purpose")));
    server.enter("second_reader").await;
    assert_eq!(begin(&server, &with_draft, file).await.0, Status::Forbidden, "who may not write sheets");
    server.enter("author").await;
    assert_eq!(import(&server, &with_draft, file).await["state"], "done");
    let (_, tests) = server.get("/api/v1/tests?search=thumb%20pinch").await;
    assert_eq!((&tests[0]["status"], &tests[0]["studies"]), (&json!("draft"), &json!(1)));
    // A sheet of this name that is there by now is taken, and the whole goes as one.
    let again = import(&server, &with_draft, file).await;
    assert_eq!((&again["imported"]["drafts"], &again["imported"]["known_results"]), (&json!([]), &json!(2)));
    let (_, past) = server.get("/api/v1/imports").await;
    let path = format!("/api/v1/imports/{}/taking-back", past[0]["id"].as_str().unwrap());
    assert_eq!(server.post(&path, &json!({})).await.0, Status::NoContent);
    assert_eq!(server.get("/api/v1/tests").await.1.as_array().unwrap().len(), 2);
    assert_eq!(server.get(&results).await.1.as_array().unwrap().len(), 1);
    server.end().await;
}

#[rocket::async_test]
async fn an_import_that_is_stopped_leaves_nothing_and_one_at_a_time_is_enough() {
    let server = Server::start().await;
    let results = sheets(&server).await;
    let mut file = "test,reference,tp,fp,fn,tn\n".to_owned();
    for number in 0..6_000 {
        file.push_str(&format!("Thumb lift,Made-up {number},20,5,5,30\n"));
    }
    let columns = "columns=A:test,B:reference,C:tp,D:fp,E:fn,F:tn";
    let (_, view) = begin(&server, columns, &file).await;
    let path = format!("/api/v1/imports/{}", view["id"].as_str().unwrap());
    let (status, problem) = begin(&server, columns, &file).await;
    assert_eq!((status, &problem["code"]), (Status::Conflict, &json!("import_running")), "{problem}");
    // As soon as it writes, it is stopped: in the middle.
    loop {
        let (_, view) = server.get(&path).await;
        if view["phase"] == "writing" && view["done"].as_u64() > Some(0) {
            assert_eq!(view["of"], 6_000);
            break;
        }
        assert!(["waiting", "busy"].contains(&view["state"].as_str().unwrap()), "{view}");
        rocket::tokio::time::sleep(Duration::from_millis(2)).await;
    }
    let (status, view) = server.send(server.client.delete(path.clone())).await;
    assert_eq!((status, &view["state"]), (Status::Ok, &json!("stopped")), "{view}");
    assert_eq!(server.get(&results).await.1, json!([]), "nothing of it is left");
    assert_eq!(server.get("/api/v1/studies?reference=Made-up%201").await.1, json!([]));
    let small = import(&server, columns, &file[..file.find("Made-up 3,").unwrap() - 11]).await;
    assert_eq!(small["state"], "done", "the next one begins: {small}");
    assert_eq!(server.send(server.client.delete(path)).await.1["state"], "stopped", "how it ended is still told");
    server.end().await;
}
