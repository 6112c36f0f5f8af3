//! Importing from the command line: a preview, once, and never half.

use std::process::{Command, Output};

use pruvex_testkit::TestDatabase;

const DEMO: &str = "../../demo/hand_wrist.json";

fn import(url: &str, arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_pruvex")).arg("import").args(arguments).env("DATABASE_URL", url).output().unwrap()
}

fn said(output: &Output) -> String {
    format!("{}{}", String::from_utf8_lossy(&output.stdout), String::from_utf8_lossy(&output.stderr))
}

#[tokio::test]
async fn a_bundle_is_previewed_imported_and_not_imported_twice() {
    let database = TestDatabase::create().await.unwrap();
    let preview = import(&database.url, &[DEMO, "--preview"]);
    assert!(preview.status.success() && said(&preview).contains("Would import"), "{}", said(&preview));
    let first = import(&database.url, &[DEMO, "--if-empty"]);
    assert!(
        said(&first)
            .contains("8 tests (8 new, 0 changed, 0 the same), 32 studies with 32 results of accuracy and 7 of agreement, all of it sample data"),
        "{}",
        said(&first)
    );
    let again = import(&database.url, &[DEMO, "--if-empty"]);
    assert!(again.status.success() && said(&again).contains("nothing was imported"), "{}", said(&again));
    let same = import(&database.url, &[DEMO]);
    assert!(said(&same).contains("(0 new, 0 changed, 8 the same), 0 studies"), "{}", said(&same));
    // Another text under a name that is there: refused, kept or replaced, as asked.
    let changed = std::fs::read_to_string(DEMO).unwrap().replace("0.70 or more", "0.72 or more");
    let file = std::env::temp_dir().join(format!("pruvex-changed-{}.json", std::process::id()));
    std::fs::write(&file, changed).unwrap();
    let file = file.to_str().unwrap();
    let refused = import(&database.url, &[file]);
    let words = said(&refused);
    assert!(!refused.status.success() && words.contains("tests[5].sheet.name"), "{words}");
    assert!(words.contains("nothing was changed"), "{words}");
    for (way, after) in [("keep", "1 changed"), ("replace", "1 changed"), ("refuse", "0 changed")] {
        assert!(said(&import(&database.url, &[file, "--changed", way])).contains(after), "{way}");
    }
    std::fs::remove_file(file).unwrap();
    database.drop().await.unwrap();
}

#[tokio::test]
async fn a_broken_bundle_lists_its_faults_and_touches_nothing() {
    let database = TestDatabase::create().await.unwrap();
    let text = std::fs::read_to_string(DEMO).unwrap().replace("\"pain_provocation\"", "\"pain\"");
    let file = std::env::temp_dir().join(format!("pruvex-broken-{}.json", std::process::id()));
    std::fs::write(&file, text).unwrap();
    let output = import(&database.url, &[file.to_str().unwrap()]);
    std::fs::remove_file(&file).unwrap();
    assert!(!output.status.success());
    for path in ["tests[0].sheet.purpose", "tests[1].sheet.purpose", "tests[3].sheet.purpose"] {
        assert!(said(&output).contains(path), "{}", said(&output));
    }
    assert!(said(&import(&database.url, &[DEMO, "--preview"])).contains("Would import"), "nothing came in before");
    database.drop().await.unwrap();
}

#[test]
fn an_unreachable_database_and_a_missing_file_are_told() {
    let away = import("postgres://nobody@127.0.0.1:1/none", &[DEMO]);
    assert!(!away.status.success() && said(&away).contains("cannot be reached"), "{}", said(&away));
    let missing = import("postgres://nobody@127.0.0.1:1/none", &["no/such.json"]);
    assert!(said(&missing).contains("no/such.json cannot be read"), "{}", said(&missing));
}
