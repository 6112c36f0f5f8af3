//! The whole database into a file and back.

use std::process::{Command, Output};

use pruvex_testkit::TestDatabase;

use super::http::{address_of, send, serve, until_ready};

fn pruvex(url: &str, arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_pruvex")).args(arguments).env("DATABASE_URL", url).output().unwrap()
}

fn said(output: &Output) -> String {
    format!("{}{}", String::from_utf8_lossy(&output.stdout), String::from_utf8_lossy(&output.stderr))
}

#[tokio::test]
async fn a_backup_brings_everything_back_and_never_half() {
    let (from, to) = (TestDatabase::create().await.unwrap(), TestDatabase::create().await.unwrap());
    let folder = std::env::temp_dir().join(format!("pruvex-backup-{}", std::process::id()));
    std::fs::create_dir_all(&folder).unwrap();
    let path = |name: &str| folder.join(name).to_str().unwrap().to_owned();
    let (file, torn, exported, again) = (path("a.backup"), path("torn.backup"), path("a.json"), path("b.json"));
    assert!(pruvex(&from.url, &["import", "../../demo/neck.json"]).status.success());
    assert!(pruvex(&from.url, &["export", "--region", "neck", &exported]).status.success());
    let backup = pruvex(&from.url, &["backup", &file]);
    assert!(backup.status.success() && said(&backup).contains("read it back whole"), "{}", said(&backup));
    let mode = std::os::unix::fs::PermissionsExt::mode(&std::fs::metadata(&file).unwrap().permissions());
    assert_eq!(mode & 0o777, 0o600, "it holds hashes of passwords");

    let bytes = std::fs::read(&file).unwrap();
    std::fs::write(&torn, &bytes[..bytes.len() / 2]).unwrap();
    let refused = pruvex(&to.url, &["restore", &torn]);
    assert!(!refused.status.success() && said(&refused).contains("not a whole backup"), "{}", said(&refused));

    let restored = pruvex(&to.url, &["restore", &file]);
    assert!(said(&restored).contains("6 tests and 19 studies"), "{}", said(&restored));
    assert!(pruvex(&to.url, &["export", "--region", "neck", &again]).status.success());
    assert_eq!(std::fs::read_to_string(&exported).unwrap(), std::fs::read_to_string(&again).unwrap());

    let guarded = pruvex(&to.url, &["restore", &file]);
    assert!(!guarded.status.success() && said(&guarded).contains("not empty"), "{}", said(&guarded));
    assert!(pruvex(&to.url, &["import", "../../demo/pelvis.json"]).status.success());
    let replaced = pruvex(&to.url, &["restore", "--replace", &file]);
    assert!(said(&replaced).contains("6 tests and 19 studies"), "{}", said(&replaced));

    let missing = pruvex(&to.url, &["restore", &path("none.backup")]);
    assert!(!missing.status.success() && said(&missing).contains("cannot be read"), "{}", said(&missing));
    std::fs::remove_dir_all(&folder).unwrap();
    from.drop().await.unwrap();
    to.drop().await.unwrap();
}

#[tokio::test]
async fn a_running_server_follows_a_restore() {
    let database = TestDatabase::create().await.unwrap();
    let file = std::env::temp_dir().join(format!("pruvex-followed-{}.backup", std::process::id()));
    let file = file.to_str().unwrap();
    assert!(pruvex(&database.url, &["import", "../../demo/pelvis.json"]).status.success());
    assert!(pruvex(&database.url, &["backup", file]).status.success());
    let mut server = serve(&database.url, &["--port", "0", "--demo"]);
    let address = address_of(&mut server);
    until_ready(&address);
    let enter = || {
        let json = "Content-Type: application/json\r\n";
        let entered = send(&address, "POST /api/v1/session/demo", json, r#"{"role":"author"}"#);
        let cookie = entered.lines().find_map(|line| line.strip_prefix("set-cookie: ")?.split(';').next());
        format!("Cookie: {}\r\n", cookie.unwrap_or_else(|| panic!("{entered}")))
    };
    let listed = |cookie: &str, region: &str| {
        let answer = send(&address, &format!("GET /api/v1/tests?region={region}"), cookie, "");
        let (_, body) = answer.split_once("\r\n\r\n").unwrap();
        let list: serde_json::Value = serde_json::from_str(body).unwrap_or_else(|_| panic!("{answer}"));
        list.as_array().unwrap().len()
    };
    let before = enter();
    // What came after the backup is known to the server, and makes its history the longer one.
    assert!(pruvex(&database.url, &["import", "../../demo/neck.json"]).status.success());
    assert_eq!(
        (listed(&before, "pelvis"), listed(&before, "neck")),
        (7, 6),
        "with the archived sheet of the demonstration"
    );
    assert!(pruvex(&database.url, &["restore", "--replace", file]).status.success());
    // Who signed in after the backup did so in a history that is no longer this one.
    let after = enter();
    assert_eq!((listed(&after, "pelvis"), listed(&after, "neck")), (6, 0), "no ghosts");
    assert!(pruvex(&database.url, &["import", "../../demo/hand_wrist.json"]).status.success());
    assert_eq!((listed(&after, "neck"), listed(&after, "hand_wrist")), (0, 8), "what came afterwards is there");
    server.kill().unwrap();
    server.wait().unwrap();
    std::fs::remove_file(file).unwrap();
    database.drop().await.unwrap();
}

#[tokio::test]
async fn a_password_of_odd_characters_reaches_the_tools() {
    let database = TestDatabase::create().await.unwrap();
    let db = pruvex_store::connect(&database.url, pruvex_store::Connections::Reading).await.unwrap();
    let role = format!("odd_{}", std::process::id());
    let make = format!("CREATE ROLE {role} LOGIN SUPERUSER PASSWORD 'p@ss:w/rd %41'");
    pruvex_store::ConnectionTrait::execute_unprepared(&db, &make).await.unwrap();
    let (_, place) = database.url.rsplit_once('@').unwrap();
    let url = format!("postgres://{role}:p%40ss%3Aw%2Frd%20%2541@{place}");
    let file = std::env::temp_dir().join(format!("{role}.backup"));
    let import = pruvex(&url, &["import", "../../demo/neck.json"]);
    assert!(import.status.success(), "{}", said(&import));
    let backup = pruvex(&url, &["backup", file.to_str().unwrap()]);
    assert!(backup.status.success(), "{}", said(&backup));
    let away = url.replace("%40ss", "ss");
    let refused = pruvex(&away, &["backup", file.to_str().unwrap()]);
    assert!(!refused.status.success() && !said(&refused).contains("rd %41"), "{}", said(&refused));
    std::fs::remove_file(&file).unwrap();
    let drop = format!("REASSIGN OWNED BY {role} TO CURRENT_USER; DROP OWNED BY {role}; DROP ROLE {role}");
    pruvex_store::ConnectionTrait::execute_unprepared(&db, &drop).await.unwrap();
    database.drop().await.unwrap();
}
