//! Who may do what, and how people come in and go.

use crate::support::{LOCAL, Server};
use pruvex_core::people::Role;
use pruvex_store::people as store;
use pruvex_testkit::Moment;
use rocket::http::{ContentType, Header, Method, Status};
use serde_json::{Value, json};

/// Who may reach each route: everybody, or the roles that are named by their first letters (Administrator, Author as W for
/// writer, Second reader, Learner).
const TABLE: [(Method, &str, &str); 148] = [
    (Method::Get, "/session", "everybody"),
    (Method::Post, "/session", "everybody"),
    (Method::Post, "/session/demo", "everybody"),
    (Method::Delete, "/session", "everybody"),
    (Method::Put, "/session/password", "AWSL"),
    (Method::Put, "/session/account", "AWSL"),
    (Method::Post, "/session/second-step", "AWSL"),
    (Method::Put, "/session/second-step", "AWSL"),
    (Method::Post, "/session/second-step/end", "AWSL"),
    (Method::Delete, "/accounts/<id>/second-step", "A"),
    (Method::Post, "/accounts/<id>/reset", "A"),
    (Method::Post, "/reset/offer", "everybody"),
    (Method::Post, "/reset", "everybody"),
    (Method::Delete, "/session/others", "AWSL"),
    (Method::Get, "/invitations", "A"),
    (Method::Post, "/invitations", "A"),
    (Method::Post, "/join/offer", "everybody"),
    (Method::Post, "/join", "everybody"),
    (Method::Delete, "/invitations/<id>", "A"),
    (Method::Get, "/settings", "AWS"),
    (Method::Put, "/settings", "A"),
    (Method::Get, "/accounts", "A"),
    (Method::Put, "/accounts/<id>", "A"),
    (Method::Get, "/regions", "AWSL"),
    (Method::Get, "/conditions", "AWSL"),
    (Method::Get, "/tests", "AWSL"),
    (Method::Post, "/tests", "AW"),
    (Method::Get, "/tests/<id>", "AWSL"),
    (Method::Put, "/tests/<id>", "AW"),
    (Method::Post, "/tests/<id>/steps", "AWS"),
    (Method::Get, "/tests/<id>/history", "AWS"),
    (Method::Get, "/tests/<id>/results/history", "AWS"),
    (Method::Get, "/vocabulary/history", "AWS"),
    (Method::Post, "/tests/<id>/restore", "AW"),
    (Method::Get, "/tests/<id>/pooled", "AWSL"),
    (Method::Get, "/tests/<id>/sheet.pdf", "AWSL"),
    (Method::Get, "/tests/<id>/levels", "AWSL"),
    (Method::Get, "/tests/<id>/results", "AWSL"),
    (Method::Post, "/tests/<id>/results", "AWS"),
    (Method::Post, "/tests/<id>/results/effect", "AWS"),
    (Method::Get, "/tests/<id>/findings", "AWS"),
    (Method::Get, "/mail", "A"),
    (Method::Get, "/conditions/<id>/prevalence", "AWSL"),
    (Method::Get, "/teaching-conflicts", "AWSL"),
    (Method::Post, "/teaching-conflicts", "AW"),
    (Method::Put, "/teaching-conflicts/<id>", "AW"),
    (Method::Delete, "/teaching-conflicts/<id>", "AW"),
    (Method::Post, "/teaching-conflicts/<id>/restore", "AW"),
    (Method::Get, "/plans", "AWSL"),
    (Method::Post, "/plans", "AW"),
    (Method::Post, "/plans/order", "AWSL"),
    (Method::Get, "/plans/<id>", "AWSL"),
    (Method::Put, "/plans/<id>", "AW"),
    (Method::Post, "/plans/<id>/steps", "AWS"),
    (Method::Get, "/plans/<id>/history", "AWS"),
    (Method::Post, "/plans/<id>/fit", "AWSL"),
    (Method::Get, "/plans/tests", "AWSL"),
    (Method::Post, "/plans/<id>/standing", "AWSL"),
    (Method::Get, "/plans/<id>/plan.pdf", "AWSL"),
    (Method::Get, "/examinations", "AWSL"),
    (Method::Get, "/examinations.csv", "AWSL"),
    (Method::Post, "/examinations", "AWSL"),
    (Method::Get, "/examinations/<id>", "AWSL"),
    (Method::Put, "/examinations/<id>", "AWSL"),
    (Method::Post, "/examinations/<id>/finish", "AWSL"),
    (Method::Get, "/examinations/own", "AWSL"),
    (Method::Post, "/examinations/own/results", "AWS"),
    (Method::Get, "/examinations/waiting", "AWSL"),
    (Method::Put, "/examinations/<id>/reference", "AWSL"),
    (Method::Put, "/examinations/<id>/sharing", "AW"),
    (Method::Delete, "/examinations/<id>", "AWSL"),
    (Method::Post, "/examinations/<id>/restore", "AWSL"),
    (Method::Get, "/examinations/<id>/examination.pdf", "AWSL"),
    (Method::Post, "/conditions", "AW"),
    (Method::Put, "/conditions/<id>", "AW"),
    (Method::Get, "/tests.csv", "AWSL"),
    (Method::Get, "/results/table/<format>", "AWS"),
    (Method::Get, "/table-imports/template", "AWS"),
    (Method::Post, "/table-imports/columns", "AWS"),
    (Method::Post, "/table-imports/rows", "AWS"),
    (Method::Post, "/table-imports", "AWS"),
    (Method::Get, "/imports", "AWS"),
    (Method::Post, "/imports/<id>/taking-back", "AWS"),
    (Method::Get, "/imports/<id>", "AWS"),
    (Method::Delete, "/imports/<id>", "AWS"),
    (Method::Post, "/reference-imports", "AWS"),
    (Method::Get, "/bundle", "AWS"),
    (Method::Post, "/bundle-imports", "AW"),
    (Method::Post, "/checks", "AW"),
    (Method::Post, "/readings", "AWSL"),
    (Method::Get, "/structures", "AWSL"),
    (Method::Post, "/structures", "AW"),
    (Method::Put, "/structures/<id>", "AW"),
    (Method::Get, "/structures/<id>/tests", "AWSL"),
    (Method::Get, "/unsaved/<what>/<id>", "AWS"),
    (Method::Put, "/unsaved/<what>/<id>", "AWS"),
    (Method::Delete, "/unsaved/<what>/<id>", "AWS"),
    (Method::Put, "/studies/<id>", "AWS"),
    (Method::Get, "/studies", "AWS"),
    (Method::Get, "/appraisals", "AWSL"),
    (Method::Post, "/appraisals/<aspect>", "AWS"),
    (Method::Put, "/studies/<id>/appraisals/<aspect>", "AWS"),
    (Method::Get, "/extractions", "AWS"),
    (Method::Post, "/extractions", "AWS"),
    (Method::Get, "/extractions/agreement", "AWS"),
    (Method::Get, "/extractions/<id>", "AWS"),
    (Method::Delete, "/extractions/<id>", "AWS"),
    (Method::Put, "/extractions/<id>/mine", "AWS"),
    (Method::Delete, "/extractions/<id>/mine", "AWS"),
    (Method::Post, "/extractions/<id>/settlement", "AWS"),
    (Method::Put, "/results/<id>", "AWS"),
    (Method::Delete, "/results/<id>", "AWS"),
    (Method::Post, "/results/<id>/restore", "AWS"),
    (Method::Get, "/tests/<id>/agreements", "AWSL"),
    (Method::Post, "/tests/<id>/agreements", "AWS"),
    (Method::Put, "/agreements/<id>", "AWS"),
    (Method::Delete, "/agreements/<id>", "AWS"),
    (Method::Post, "/agreements/<id>/restore", "AWS"),
    (Method::Post, "/agreements/answer", "AWSL"),
    (Method::Get, "/references", "AWSL"),
    (Method::Get, "/references/<id>", "AWSL"),
    (Method::Get, "/references/<id>/tests", "AWSL"),
    (Method::Get, "/works", "AWS"),
    (Method::Post, "/references/alike", "AWS"),
    (Method::Post, "/references", "AWS"),
    (Method::Put, "/references/<id>", "AWS"),
    (Method::Delete, "/references/<id>", "AWS"),
    (Method::Post, "/references/<id>/restore", "AWS"),
    (Method::Get, "/references/export", "AWS"),
    (Method::Post, "/accuracy", "AWSL"),
    (Method::Post, "/rebuilds", "AWSL"),
    (Method::Post, "/combine/battery", "AWSL"),
    (Method::Post, "/combine/claims", "AWSL"),
    (Method::Post, "/likelihood/answers", "AWSL"),
    (Method::Post, "/likelihood/patient", "AWSL"),
    (Method::Post, "/likelihood/background", "AWSL"),
    (Method::Post, "/likelihood/threshold", "AWSL"),
    (Method::Post, "/likelihood/study-size", "AWSL"),
    (Method::Get, "/likelihood/ladder/<format>", "AWSL"),
    (Method::Post, "/pools/answer", "AWSL"),
    (Method::Post, "/pools/sensitivity", "AWSL"),
    (Method::Post, "/pools/reference", "AWSL"),
    (Method::Get, "/pools/figure/<format>", "AWSL"),
    (Method::Post, "/snapshots", "AWS"),
    (Method::Get, "/snapshots", "AWSL"),
    (Method::Get, "/snapshots/<id>", "AWSL"),
    (Method::Get, "/snapshots/<id>/file", "AWSL"),
    (Method::Get, "/snapshots/<id>/difference", "AWSL"),
];

#[rocket::async_test]
async fn every_route_is_open_to_its_roles_and_to_nobody_else() {
    let server = Server::start_signed_out().await;
    let routes = server.client.rocket().routes().filter(|route| route.uri.path().starts_with("/api/v1/"));
    let text = |method: Method, path: &str| format!("{method} {}", path.trim_start_matches("/api/v1"));
    let mut known: Vec<String> = routes.map(|route| text(route.method, route.uri.path())).collect();
    let mut listed: Vec<String> = TABLE.iter().map(|(method, path, _)| text(*method, path)).collect();
    known.sort();
    listed.sort();
    assert_eq!(known, listed, "every route must stand in the table");

    let ask = async |method: Method, path: &str| {
        let id = "01900000-0000-7000-8000-000000000000";
        let path = format!(
            "/api/v1{}",
            path.replace("<id>", id)
                .replace("<secret>", "none")
                .replace("<aspect>", "accuracy")
                .replace("<format>", "csv")
                .replace("<what>", "result")
        );
        let request =
            server.client.req(method, path).header(Header::new("If-Match", "\"1\"")).header(ContentType::JSON);
        server.send(request.body("{}")).await
    };
    for (method, path, roles) in TABLE {
        if roles == "everybody" {
            continue;
        }
        let (status, problem) = ask(method, path).await;
        assert_eq!((status, &problem["code"]), (Status::Unauthorized, &json!("not_signed_in")), "{method} {path}");
    }
    for (role, letter) in [("administrator", 'A'), ("author", 'W'), ("second_reader", 'S'), ("learner", 'L')] {
        server.enter(role).await;
        for (method, path, roles) in TABLE.into_iter().filter(|(_, _, roles)| *roles != "everybody") {
            let (status, problem) = ask(method, path).await;
            let refused = status == Status::Forbidden;
            assert_eq!(refused, !roles.contains(letter), "{role}: {method} {path} answered {status}");
            assert!(!refused || problem["code"] == "not_allowed", "{problem}");
            assert_ne!(status, Status::Unauthorized, "{role}: {method} {path}");
        }
    }
    server.end().await;
}

async fn invited(server: &Server, role: Role) -> String {
    let db = pruvex_store::connect(server.database_url(), pruvex_store::Connections::Reading).await.unwrap();
    let secret = [7; 32].map(|byte: u8| byte + role as u8);
    let hash = <sha2::Sha256 as sha2::Digest>::digest(secret).into();
    store::create_invitation(&db, hash, role, "for a test", None).await.unwrap();
    use base64::Engine;
    base64::engine::general_purpose::URL_SAFE_NO_PAD.encode(secret)
}

fn person(secret: &str, login: &str) -> Value {
    json!({ "secret": secret, "login": login, "name": "M. Keller", "password": "four words in a row" })
}

#[rocket::async_test]
async fn people_join_once_sign_in_and_out_and_change_their_password() {
    let server = Server::start_signed_out().await;
    let secret = invited(&server, Role::Administrator).await;
    let offered = |secret: &str| json!({ "secret": secret });
    let (_, offer) = server.post("/api/v1/join/offer", &offered(&secret)).await;
    assert_eq!((&offer["role"], &offer["path"]), (&json!("administrator"), &Value::Null));
    let (status, problem) =
        server.post("/api/v1/join", &json!({ "secret": secret, "login": "k", "password": "short" })).await;
    let fields: Vec<&Value> = problem["errors"].as_array().unwrap().iter().map(|e| &e["field"]).collect();
    assert_eq!(
        (status, fields),
        (Status::UnprocessableEntity, vec![&json!("login"), &json!("name"), &json!("password")])
    );
    let (status, session) = server.post("/api/v1/join", &person(&secret, "M.Keller")).await;
    assert_eq!((status, &session["account"]["login"]), (Status::Ok, &json!("m.keller")));
    let (status, problem) = server.post("/api/v1/join", &person(&secret, "another")).await;
    assert_eq!((status, &problem["code"]), (Status::Gone, &json!("invitation_gone")));

    // The administrator invites; the link is told once; it can be taken back.
    let (_, made) = server.post("/api/v1/invitations", &json!({ "role": "learner", "note": "group 4" })).await;
    let link = made["path"].as_str().unwrap().strip_prefix("/join#").unwrap().to_owned();
    // What would be mailed can be looked at; a mistyped address makes no invitation.
    assert_eq!(server.get("/api/v1/mail").await.1, json!([]));
    let mailed = json!({ "role": "author", "note": "", "mail_to": "k@example.org" });
    let (_, sent) = server.post("/api/v1/invitations", &mailed).await;
    let (_, mail) = server.get("/api/v1/mail").await;
    assert_eq!((mail.as_array().unwrap().len(), &mail[0]["to"]), (1, &json!("k@example.org")));
    assert!(mail[0]["text"].as_str().unwrap().contains(sent["path"].as_str().unwrap()), "{mail}");
    let (status, problem) =
        server.post("/api/v1/invitations", &json!({ "role": "author", "mail_to": "k at home" })).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!("mail_to")));
    let sent = format!("/api/v1/invitations/{}", sent["id"].as_str().unwrap());
    assert_eq!(server.delete(&sent, "").await.0, Status::NoContent);
    let (_, open) = server.get("/api/v1/invitations").await;
    assert_eq!((open.as_array().unwrap().len(), &open[0]["path"]), (1, &Value::Null));
    let (status, _) = server.delete(&format!("/api/v1/invitations/{}", made["id"].as_str().unwrap()), "").await;
    assert_eq!(status, Status::NoContent);
    assert_eq!(server.post("/api/v1/join/offer", &offered(&link)).await.0, Status::Gone);

    // The last administrator cannot go; another can, and loses the session at once.
    let (_, accounts) = server.get("/api/v1/accounts").await;
    let own = format!("/api/v1/accounts/{}", accounts[0]["id"].as_str().unwrap());
    let (status, problem) = server.put(&own, "\"1\"", &json!({ "role": "learner", "disabled": false })).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!("role")));
    let change = json!({ "current": "four words in a row", "new": "five other words for it" });
    assert_eq!(server.send_json(server.client.put("/api/v1/session/password"), &change).await.0, Status::NoContent);
    assert_eq!(server.get("/api/v1/accounts").await.0, Status::Ok, "this session goes on");

    assert_eq!(server.send(server.client.delete("/api/v1/session")).await.0, Status::NoContent);
    assert_eq!(server.get("/api/v1/accounts").await.0, Status::Unauthorized);
    let sign_in = |login: &str, password: &str| json!({ "login": login, "password": password });
    let (status, problem) = server.post("/api/v1/session", &sign_in("m.keller", "four words in a row")).await;
    assert_eq!((status, &problem["code"]), (Status::Unauthorized, &json!("sign_in_failed")));
    let response = server.client.post("/api/v1/session").header(ContentType::JSON);
    let response = response.body(sign_in("M.KELLER", "five other words for it").to_string()).dispatch().await;
    let cookie = response.headers().get_one("Set-Cookie").unwrap().to_owned();
    drop(response);
    for part in ["HttpOnly", "SameSite=Strict", "Path=/"] {
        assert!(cookie.contains(part), "{cookie}");
    }
    let (_, session) = server.get("/api/v1/session").await;
    assert_eq!(session["account"]["rights"].as_array().unwrap().len(), 5);
    // Another place is told of this one, and can end it.
    assert_eq!(session["elsewhere"], json!([]));
    let first = server.client.cookies().get("pruvex_session").unwrap().value().to_owned();
    let (_, second) = server.post("/api/v1/session", &sign_in("m.keller", "five other words for it")).await;
    assert!(second["elsewhere"][0]["seen_at"].is_string() && second["elsewhere"][1].is_null(), "{second}");
    assert_eq!(server.send(server.client.delete("/api/v1/session/others")).await.0, Status::NoContent);
    assert_eq!(server.get("/api/v1/session").await.1["elsewhere"], json!([]));
    let request = server.client.get("/api/v1/accounts").cookie(("pruvex_session", first));
    assert_eq!(server.send(request).await.0, Status::Unauthorized);
    server.end().await;
}

#[rocket::async_test]
async fn access_that_was_ended_ends_at_once() {
    let server = Server::start_signed_out().await;
    let learner = invited(&server, Role::Learner).await;
    server.post("/api/v1/join", &person(&learner, "learner")).await;
    let theirs = server.client.cookies().get("pruvex_session").unwrap().value().to_owned();
    server.enter("administrator").await;
    let (_, accounts) = server.get("/api/v1/accounts").await;
    let found = accounts.as_array().unwrap().iter().find(|account| account["login"] == "learner").unwrap();
    let path = format!("/api/v1/accounts/{}", found["id"].as_str().unwrap());
    let (status, ended) = server.put(&path, "\"1\"", &json!({ "role": "learner", "disabled": true })).await;
    assert!(status == Status::Ok && ended["disabled_at"].is_string(), "{ended}");
    assert_eq!(
        server.put(&path, "\"1\"", &json!({ "role": "author", "disabled": false })).await.0,
        Status::PreconditionFailed
    );
    let request = server.client.get("/api/v1/tests").cookie(("pruvex_session", theirs));
    assert_eq!(server.send(request).await.0, Status::Unauthorized);
    let (status, _) =
        server.post("/api/v1/session", &json!({ "login": "learner", "password": "four words in a row" })).await;
    assert_eq!(status, Status::Unauthorized);
    server.end().await;
}

/// The sign-in name and the session of somebody who joined in a role.
async fn joined(server: &Server, role: Role, login: &str, name: &str) -> String {
    let secret = invited(server, role).await;
    let mut person = person(&secret, login);
    person["name"] = json!(name);
    let (status, session) = server.post("/api/v1/join", &person).await;
    assert_eq!(status, Status::Ok, "{session}");
    server.client.cookies().get("pruvex_session").unwrap().value().to_owned()
}

#[rocket::async_test]
async fn a_forgotten_password_is_set_anew_by_a_link_that_serves_once() {
    let server = Server::start_signed_out().await;
    let learner = joined(&server, Role::Learner, "learner", "A. Learner").await;
    let mail = json!({ "login": "learner", "name": "A. Learner", "mail": "l@example.org" });
    assert_eq!(server.put("/api/v1/session/account", "\"1\"", &mail).await.0, Status::Ok);
    joined(&server, Role::Administrator, "keeper", "A. Keeper").await;
    let (_, accounts) = server.get("/api/v1/accounts").await;
    let id = |login: &str| {
        let found = accounts.as_array().unwrap().iter().find(|account| account["login"] == login);
        found.unwrap()["id"].as_str().unwrap().to_owned()
    };
    let path = format!("/api/v1/accounts/{}/reset", id("learner"));
    let secret = |made: &Value| made["path"].as_str().unwrap().strip_prefix("/reset#").unwrap().to_owned();
    let (status, replaced) = server.post(&path, &json!({})).await;
    assert_eq!((status, &replaced["login"]), (Status::Ok, &json!("learner")));
    let (_, made) = server.post(&path, &json!({})).await;
    let sent = server.get("/api/v1/mail").await.1;
    assert_eq!((sent[0]["to"].as_str(), sent.as_array().unwrap().len()), (Some("l@example.org"), 2));
    assert!(sent[0]["text"].as_str().unwrap().contains(made["path"].as_str().unwrap()), "{sent}");
    let nobody = format!("/api/v1/accounts/{}/reset", uuid::Uuid::now_v7());
    assert_eq!(server.post(&nobody, &json!({})).await.0, Status::NotFound);

    let reset = |secret: &str, password: &str| json!({ "secret": secret, "password": password });
    let new = "five other words for it";
    for gone in [secret(&replaced), "no secret".to_owned(), String::new()] {
        let (status, problem) = server.post("/api/v1/reset", &reset(&gone, new)).await;
        assert_eq!((status, &problem["code"]), (Status::Gone, &json!("reset_gone")), "{gone}");
        assert_eq!(server.post("/api/v1/reset/offer", &json!({ "secret": gone })).await.0, Status::Gone);
    }
    let link = secret(&made);
    let (_, offer) = server.post("/api/v1/reset/offer", &json!({ "secret": link })).await;
    assert_eq!((&offer["name"], &offer["path"]), (&json!("A. Learner"), &Value::Null));
    // A weak password uses nothing up.
    let (status, problem) = server.post("/api/v1/reset", &reset(&link, "password1234")).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!("password")));
    let (status, session) = server.post("/api/v1/reset", &reset(&link, new)).await;
    assert_eq!((status, &session["account"]["login"]), (Status::Ok, &json!("learner")));
    assert_eq!(session["elsewhere"], json!([]), "whoever was signed in is not any more");
    let request = server.client.get("/api/v1/tests").cookie(("pruvex_session", learner));
    assert_eq!(server.send(request).await.0, Status::Unauthorized);
    assert_eq!(server.post("/api/v1/reset", &reset(&link, new)).await.0, Status::Gone, "it served");
    let sign_in = |password: &str| json!({ "login": "learner", "password": password });
    assert_eq!(server.post("/api/v1/session", &sign_in("four words in a row")).await.0, Status::Unauthorized);
    assert_eq!(server.post("/api/v1/session", &sign_in(new)).await.0, Status::Ok);

    // Too late, and for somebody whose access has ended meanwhile.
    server.post("/api/v1/session", &json!({ "login": "keeper", "password": "four words in a row" })).await;
    let (_, late) = server.post(&path, &json!({})).await;
    server.sql("UPDATE password_reset SET expires_at = now() - interval '1 second'").await;
    assert_eq!(server.post("/api/v1/reset", &reset(&secret(&late), new)).await.0, Status::Gone);
    let (_, ended) = server.post(&path, &json!({})).await;
    server.sql("UPDATE account SET disabled_at = now() WHERE login = 'learner'").await;
    assert_eq!(server.post("/api/v1/reset", &reset(&secret(&ended), new)).await.0, Status::Gone);
    assert_eq!(server.post(&path, &json!({})).await.0, Status::NotFound);
    server.end().await;
}

#[rocket::async_test]
async fn a_second_step_is_asked_for_once_it_is_set_up_and_each_code_serves_once() {
    const PASSWORD: &str = "four words in a row";
    const STEP: &str = "/api/v1/session/second-step";
    let server = Server::start_signed_out().await;
    let elsewhere = joined(&server, Role::Author, "author", "A. Author").await;
    let sign_in = async |code: &str| {
        let typed = json!({ "login": "author", "password": PASSWORD, "code": code });
        let (status, answer) = server.post("/api/v1/session", &typed).await;
        (status, answer["code"].as_str().map(str::to_owned), answer)
    };
    let now = Moment::now();
    assert_eq!(sign_in("").await.0, Status::Ok);
    assert_eq!(server.post(STEP, &json!({ "password": "wrong" })).await.0, Status::Unauthorized);
    let (status, offer) = server.post(STEP, &json!({ "password": PASSWORD })).await;
    assert_eq!(status, Status::Ok, "{offer}");
    let key = offer["secret"].as_str().unwrap();
    assert!(offer["link"].as_str().unwrap().starts_with("otpauth://totp/Pruvex:author?secret="), "{offer}");
    assert!(offer["picture"].as_str().unwrap().starts_with("data:image/png;base64,"));
    // Nothing counts before a first code.
    assert_eq!(sign_in("").await.0, Status::Ok);
    assert_eq!(server.put(STEP, "", &json!({ "code": "000 000" })).await.1["code"], "code_wrong");
    let (status, made) = server.put(STEP, "", &json!({ "code": now.code(key, -1) })).await;
    assert_eq!((status, made["codes"].as_array().unwrap().len()), (Status::Ok, 8), "{made}");
    assert_eq!(
        server.put(STEP, "", &json!({ "code": now.code(key, 0) })).await.0,
        Status::UnprocessableEntity,
        "set up"
    );
    let request = server.client.get("/api/v1/tests").cookie(("pruvex_session", elsewhere));
    assert_eq!(server.send(request).await.0, Status::Unauthorized, "other sessions end");

    assert_eq!(sign_in("").await.1.as_deref(), Some("code_needed"));
    assert_eq!(sign_in(&now.code(key, -1)).await.1.as_deref(), Some("code_wrong"), "used when it was set up");
    assert_eq!(sign_in(&now.code(key, 20)).await.1.as_deref(), Some("code_wrong"));
    assert_eq!(sign_in(&now.code(key, 0)).await.0, Status::Ok);
    assert_eq!(sign_in(&now.code(key, 0)).await.1.as_deref(), Some("code_wrong"), "it served");
    let recovery = made["codes"][3].as_str().unwrap().to_uppercase();
    let (status, _, session) = sign_in(&recovery).await;
    assert_eq!((status, &session["recovery_codes"]), (Status::Ok, &json!(7)), "{session}");
    assert_eq!(sign_in(&recovery).await.1.as_deref(), Some("code_wrong"), "it served");
    // Guesses at codes are counted by account, and a right code does not help then.
    for _ in 0..4 {
        assert_eq!(sign_in("123456").await.0, Status::Unauthorized);
    }
    assert_eq!(sign_in(&now.code(key, 1)).await.1.as_deref(), Some("too_many_attempts"));
    server.sql("DELETE FROM sign_in_failure").await;

    // A link to a new password is no way around.
    joined(&server, Role::Administrator, "keeper", "A. Keeper").await;
    let (_, accounts) = server.get("/api/v1/accounts").await;
    let account = accounts.as_array().unwrap().iter().find(|it| it["login"] == "author").unwrap();
    assert_eq!(account["second_step"], json!(true));
    let path = format!("/api/v1/accounts/{}", account["id"].as_str().unwrap());
    let (_, made) = server.post(&format!("{path}/reset"), &json!({})).await;
    let secret = made["path"].as_str().unwrap().strip_prefix("/reset#").unwrap().to_owned();
    let reset = json!({ "secret": secret, "password": "five other words for it" });
    assert_eq!(server.post("/api/v1/reset", &reset).await.1["code"], "code_needed");

    // Required of a role: whoever has none sets it up before anything else, and cannot turn it off.
    let (_, settings) = server.get("/api/v1/settings").await;
    let required = json!({ "learners_see": settings["learners_see"], "second_step": ["author", "administrator"] });
    assert_eq!(server.put("/api/v1/settings", "\"1\"", &required).await.0, Status::Ok);
    assert_eq!(server.get("/api/v1/accounts").await.1["code"], "second_step_missing");
    assert_eq!(server.get("/api/v1/session").await.1["second_step_missing"], json!(true));
    let (_, offer) = server.post(STEP, &json!({ "password": PASSWORD })).await;
    let keepers = offer["secret"].as_str().unwrap();
    assert_eq!(server.put(STEP, "", &json!({ "code": Moment::now().code(keepers, 0) })).await.0, Status::Ok);
    assert_eq!(server.get("/api/v1/accounts").await.0, Status::Ok);
    let (status, refused) = server.post(&format!("{STEP}/end"), &json!({ "password": PASSWORD })).await;
    assert_eq!((status, &refused["errors"][0]["field"]), (Status::UnprocessableEntity, &json!("account")));
    // Device and codes lost: an administrator removes it, and it is set up anew.
    assert_eq!(server.delete(&format!("{path}/second-step"), "").await.0, Status::NoContent);
    let (status, _, session) = sign_in("").await;
    assert_eq!((status, &session["second_step_missing"]), (Status::Ok, &json!(true)));
    assert_eq!(server.get("/api/v1/tests").await.0, Status::Forbidden);
    server.end().await;
}

#[rocket::async_test]
async fn people_change_how_they_are_called_and_nobody_takes_the_name_of_another() {
    let server = Server::start_signed_out().await;
    joined(&server, Role::Author, "first", "A. First").await;
    joined(&server, Role::SecondReader, "second", "A. Second").await;
    let change = |login: &str, name: &str, mail: &str| json!({ "login": login, "name": name, "mail": mail });
    let path = "/api/v1/session/account";
    let (status, problem) = server.put(path, "\"1\"", &change("a b", " ", "nowhere")).await;
    let fields: Vec<&Value> = problem["errors"].as_array().unwrap().iter().map(|error| &error["field"]).collect();
    assert_eq!((status, fields), (Status::UnprocessableEntity, vec![&json!("login"), &json!("name"), &json!("mail")]));
    for (login, name, field) in [("FIRST", "A. Second", "login"), ("second", "a.  first", "name")] {
        let (status, problem) = server.put(path, "\"1\"", &change(login, name, "")).await;
        assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!(field)), "{problem}");
    }
    let (status, saved) = server.put(path, "\"1\"", &change("Second.New", "A. Second", " s@example.org ")).await;
    assert_eq!((status, &saved["login"], &saved["mail"]), (Status::Ok, &json!("second.new"), &json!("s@example.org")));
    assert_eq!(server.put(path, "\"1\"", &change("second", "A. Second", "")).await.0, Status::PreconditionFailed);
    let (_, session) = server.get("/api/v1/session").await;
    assert_eq!(session["account"]["login"], "second.new", "the session goes on");
    let again = json!({ "login": "second.new", "password": "four words in a row" });
    assert_eq!(server.post("/api/v1/session", &again).await.0, Status::Ok);
    server.enter("author").await;
    let (status, problem) = server.put(path, "\"1\"", &change("sample-author", "Somebody", "")).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!("name")), "{problem}");
    server.end().await;
}

#[rocket::async_test]
async fn guessing_is_slowed_and_other_sites_are_refused() {
    let server = Server::start_signed_out().await;
    let secret = invited(&server, Role::Author).await;
    server.post("/api/v1/join", &person(&secret, "author")).await;
    let guess = |password: &str| json!({ "login": "author", "password": password });
    let from = |place: &str| server.client.post("/api/v1/session").remote(place.parse().unwrap());
    for _ in 0..5 {
        assert_eq!(server.send_json(from(LOCAL), &guess("wrong")).await.0, Status::Unauthorized);
    }
    let (status, problem) = server.send_json(from(LOCAL), &guess("four words in a row")).await;
    assert_eq!((status, &problem["code"]), (Status::TooManyRequests, &json!("too_many_attempts")));
    assert!(problem["detail"].as_str().unwrap().contains("in 15 minutes"), "{problem}");
    // Somebody at another place is not locked out by it.
    assert_eq!(server.send_json(from("10.1.2.3:99"), &guess("four words in a row")).await.0, Status::Ok);

    let forged = |origin: &str| {
        let request = server.client.post("/api/v1/tests").header(Header::new("Origin", origin.to_owned()));
        request.header(Header::new("Host", "pruvex.example"))
    };
    let (status, problem) = server.send_json(forged("https://elsewhere.example"), &json!({})).await;
    assert_eq!((status, &problem["code"]), (Status::Forbidden, &json!("cross_site")));
    assert_eq!(server.send_json(forged("https://pruvex.example"), &json!({})).await.0, Status::UnprocessableEntity);
    // The demonstration's doors open to this machine only.
    // Under a name of it, and by no proxy.
    let enter = async |from: &str, host: &str, more: Option<(&'static str, &'static str)>| {
        let mut request = server.client.post("/api/v1/session/demo").remote(from.parse().unwrap());
        request.add_header(Header::new("Host", host.to_owned()));
        request.add_header(Header::new("Origin", format!("http://{host}")));
        more.into_iter().for_each(|(name, value)| request.add_header(Header::new(name, value)));
        server.send_json(request, &json!({ "role": "author" })).await.0
    };
    assert_eq!(enter("10.1.2.3:99", LOCAL, None).await, Status::NotFound);
    assert_eq!(enter(LOCAL, "rebound.example:8460", None).await, Status::NotFound);
    assert_eq!(enter(LOCAL, LOCAL, Some(("X-Forwarded-For", "10.1.2.3"))).await, Status::NotFound);
    for host in [LOCAL, "localhost:8460", "LOCALHOST", "[::1]:8460"] {
        assert_eq!(enter(LOCAL, host, None).await, Status::Ok, "{host}");
    }
    server.end().await;
}

#[rocket::async_test]
async fn a_flood_of_guesses_has_no_more_tries_than_one_after_the_other() {
    let server = Server::start_signed_out().await;
    let secret = invited(&server, Role::Author).await;
    server.post("/api/v1/join", &person(&secret, "author")).await;
    let guess = |number: usize| {
        let request = server.client.post("/api/v1/session").remote(LOCAL.parse().unwrap()).header(ContentType::JSON);
        request.body(json!({ "login": "author", "password": format!("guess {number}") }).to_string()).dispatch()
    };
    let answers = rocket::futures::future::join_all((0..80).map(guess)).await;
    let answered = |status: Status| answers.iter().filter(|answer| answer.status() == status).collect::<Vec<_>>();
    assert_eq!(answered(Status::Unauthorized).len(), 5, "so many passwords were looked at");
    let mut others = answered(Status::TooManyRequests);
    others.extend(answered(Status::ServiceUnavailable));
    assert_eq!(others.len(), 75);
    for answer in others {
        let seconds: u64 = answer.headers().get_one("Retry-After").unwrap().parse().unwrap();
        assert!((1..=901).contains(&seconds), "{seconds}");
    }
    drop(answers);
    server.end().await;
}

fn sheet(name: &str) -> Value {
    json!({ "name": name, "region": "hand_wrist", "purpose": "strength", "condition": "Thumb weakness",
        "positive_finding": "Weaker than the other side" })
}

#[rocket::async_test]
async fn a_sheet_is_signed_off_by_another_and_learners_see_it_as_it_was_signed() {
    let server = Server::start().await;
    let (_, made) = server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    assert_eq!((&made["status"], &made["next_steps"]), (&json!("draft"), &json!(["submit", "retire"])));
    let path = format!("/api/v1/tests/{}", made["id"].as_str().unwrap());
    let step = async |version: u32, body: Value| {
        let request =
            server.client.post(format!("{path}/steps")).header(Header::new("If-Match", format!("\"{version}\"")));
        server.send_json(request, &body).await
    };
    server.enter("learner").await;
    assert_eq!(server.get(&path).await.0, Status::NotFound, "drafts are nothing to learn from");
    assert_eq!(server.get("/api/v1/tests").await.1, json!([]));
    assert_eq!(server.get("/api/v1/regions").await.1[3]["tests"], 0);
    assert_eq!(server.get(&format!("{path}/results")).await.0, Status::NotFound);

    server.enter("author").await;
    assert_eq!(step(1, json!({ "step": "sign_off" })).await.0, Status::Forbidden);
    let (_, handed_in) = step(1, json!({ "step": "submit", "comment": "please look at the cautions" })).await;
    assert_eq!((&handed_in["status"], &handed_in["version"]), (&json!("in_review"), &json!(2)));
    assert_eq!(step(1, json!({ "step": "withdraw" })).await.0, Status::PreconditionFailed);
    let (status, problem) = step(2, json!({ "step": "revive" })).await;
    assert_eq!((status, &problem["errors"][0]["field"]), (Status::UnprocessableEntity, &json!("step")));
    server.enter("second_reader").await;
    let (_, signed) = step(2, json!({ "step": "sign_off" })).await;
    assert_eq!((&signed["status"], &signed["published_version"]), (&json!("published"), &json!(3)));

    // What is written since waits: learners go on reading what was signed.
    server.enter("author").await;
    let (_, edited) = server.put(&path, "\"3\"", &sheet("Thumb lift, resisted")).await;
    assert_eq!((&edited["status"], &edited["published_version"]), (&json!("draft"), &json!(3)));
    server.enter("learner").await;
    let (_, seen) = server.get(&path).await;
    assert_eq!(
        (&seen["name"], &seen["status"], &seen["next_steps"]),
        (&json!("Thumb lift"), &json!("published"), &json!([]))
    );
    assert_eq!(server.get("/api/v1/tests").await.1[0]["name"], "Thumb lift");
    assert_eq!(server.get(&format!("{path}/history")).await.0, Status::Forbidden);

    server.enter("author").await;
    let (_, history) = server.get(&format!("{path}/history")).await;
    let acts: Vec<&str> = history.as_array().unwrap().iter().map(|r| r["action"].as_str().unwrap()).collect();
    assert_eq!(acts, ["edited", "sign_off", "submit", "created"]);
    assert_eq!(
        (&history[2]["comment"], &history[1]["by"]),
        (&json!("please look at the cautions"), &json!("Sample second reader"))
    );
    let restore = server.client.post(format!("{path}/restore")).header(Header::new("If-Match", "\"4\""));
    let (_, restored) = server.send_json(restore, &json!({ "version": 1 })).await;
    assert_eq!((&restored["name"], &restored["version"]), (&json!("Thumb lift"), &json!(5)));
    let restore = server.client.post(format!("{path}/restore")).header(Header::new("If-Match", "\"5\""));
    assert_eq!(server.send_json(restore, &json!({ "version": 77 })).await.0, Status::NotFound);
    let (_, retired) = step(5, json!({ "step": "retire" })).await;
    assert_eq!((&retired["status"], &retired["next_steps"]), (&json!("retired"), &json!(["revive"])));
    server.enter("learner").await;
    assert_eq!(server.get(&path).await.0, Status::NotFound);
    server.end().await;
}

#[rocket::async_test]
async fn learners_see_only_what_a_second_person_has_looked_at_where_that_is_settled_so() {
    let server = Server::start().await;
    let (_, made) = server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    let path = format!("/api/v1/tests/{}", made["id"].as_str().unwrap());
    let report = async |named: &str| {
        let body = json!({ "study": { "reference": named }, "result": { "tp": 20, "fp": 4, "fn": 8, "tn": 30 } });
        assert_eq!(server.post(&format!("{path}/results"), &body).await.0, Status::Created);
    };
    let step = async |version: u32, step: &str| {
        let at = Header::new("If-Match", format!("\"{version}\""));
        let request = server.client.post(format!("{path}/steps")).header(at);
        assert_eq!(server.send_json(request, &json!({ "step": step })).await.0, Status::Ok, "{step}");
    };
    report("Before the sign-off").await;
    let cells = json!([["", "yes", "no"], ["yes", "40", "9"], ["no", "6", "45"]]);
    let rated = json!({ "study": { "reference": "Before the sign-off, too" },
        "agreement": { "finding": "Weaker", "figures": { "kind": "table", "rows": cells } } });
    let agreements = format!("{path}/agreements");
    let (status, answer) = server.post(&agreements, &rated).await;
    assert_eq!(status, Status::Created, "{answer}");
    step(1, "submit").await;
    server.enter("second_reader").await;
    report("By who signs off").await;
    step(2, "sign_off").await;
    server.enter("author").await;
    report("After it").await;
    assert_eq!(server.post(&agreements, &rated).await.0, Status::Created);

    // Results, agreement results, the figures of the sheet, of the list, of a pool.
    let seen = async || {
        let (_, results) = server.get(&format!("{path}/results")).await;
        let (_, rated) = server.get(&agreements).await;
        let (_, pooled) = server.get(&format!("{path}/pooled")).await;
        let (_, rows) = server.get("/api/v1/tests").await;
        let (_, pool) = server.post("/api/v1/pools/answer", &json!({ "tests": [made["id"]] })).await;
        let told = json!([pooled["pooled"]["k"], rows[0]["studies"], pool["rows"].as_array().unwrap().len()]);
        (results.as_array().unwrap().len(), rated.as_array().unwrap().len(), told)
    };
    server.enter("learner").await;
    assert_eq!(seen().await, (3, 2, json!([3, 3, 3])));
    server.enter("administrator").await;
    let (_, settings) = server.get("/api/v1/settings").await;
    assert_eq!((&settings["learners_see"], &settings["version"]), (&json!("all_results"), &json!(1)));
    let signed_off = json!({ "learners_see": "signed_off" });
    assert_eq!(server.put("/api/v1/settings", "\"7\"", &signed_off).await.0, Status::PreconditionFailed);
    assert_eq!(server.put("/api/v1/settings", "\"1\"", &signed_off).await.0, Status::Ok);
    server.enter("learner").await;
    assert_eq!(seen().await, (1, 1, json!([1, 1, 1])));
    server.enter("author").await;
    assert_eq!(seen().await, (3, 2, json!([3, 3, 3])), "who reads drafts sees all");
    let (_, results) = server.get(&format!("{path}/results")).await;
    let marks: Vec<&Value> = results.as_array().unwrap().iter().map(|it| &it["learners_see"]).collect();
    assert_eq!(marks, [&json!(true), &json!(false), &json!(false)]);

    // Handed in again as it stands, and signed off again.
    step(3, "submit").await;
    server.enter("second_reader").await;
    step(4, "sign_off").await;
    server.enter("learner").await;
    assert_eq!(seen().await, (2, 2, json!([2, 2, 2])), "but not what the one who signs entered");
    server.end().await;
}

#[rocket::async_test]
async fn learners_see_figures_for_the_condition_that_was_signed_off() {
    let server = Server::start().await;
    let (_, made) = server.post("/api/v1/tests", &sheet("Thumb lift")).await;
    let path = format!("/api/v1/tests/{}", made["id"].as_str().unwrap());
    for (report, condition, tp) in [("First report", "", 20), ("Second report", "Thumb arthritis", 12)] {
        let body = json!({ "study": { "reference": report },
            "result": { "condition": condition, "tp": tp, "fp": 4, "fn": 8, "tn": 30 } });
        assert_eq!(server.post(&format!("{path}/results"), &body).await.0, Status::Created);
    }
    let step = async |version: &str, step: &str| {
        let request = server.client.post(format!("{path}/steps")).header(Header::new("If-Match", version.to_owned()));
        assert_eq!(server.send_json(request, &json!({ "step": step })).await.0, Status::Ok);
    };
    step("\"1\"", "submit").await;
    server.enter("second_reader").await;
    step("\"2\"", "sign_off").await;
    server.enter("author").await;
    let mut other = sheet("Thumb lift");
    other["condition"] = json!("Thumb arthritis");
    assert_eq!(server.put(&path, "\"3\"", &other).await.0, Status::Ok);

    let studies = async || {
        let (_, pooled) = server.get(&format!("{path}/pooled")).await;
        let (_, rows) = server.get("/api/v1/tests").await;
        assert_eq!(rows[0]["figures"], pooled["figures"], "list and sheet say the same");
        (rows[0]["condition"].clone(), rows[0]["studies"].clone(), pooled["pooled"]["diseased"].clone())
    };
    // The draft teaches another condition: the result that names none is about that now, and the other one, too.
    assert_eq!(studies().await, (json!("Thumb arthritis"), json!(2), json!(48)));
    server.enter("learner").await;
    assert_eq!(studies().await, (made["condition"].clone(), json!(1), json!(28)), "what was signed off");
    server.end().await;
}
