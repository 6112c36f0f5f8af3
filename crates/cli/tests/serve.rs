//! The server as a process: it says where it listens, refuses what it cannot do, and stops when told to.

use std::io::Read;
use std::net::TcpListener;
use std::process::Command;
use std::time::{Duration, Instant};

use pruvex_testkit::TestDatabase;

use super::http::{address_of, send, serve, until_ready};

const NO_DATABASE: &str = "postgres://nobody@127.0.0.1:1/none";

fn get(address: &str, path: &str) -> String {
    send(address, &format!("GET {path}"), "", "")
}

#[test]
fn it_listens_on_loopback_logs_by_line_and_stops_quickly() {
    let mut server = serve(NO_DATABASE, &["--port", "0"]);
    let address = address_of(&mut server);
    assert!(address.starts_with("127.0.0.1:"));
    assert!(get(&address, "/healthz").ends_with("ok"));
    let document = get(&address, "/api/openapi.json");
    assert!(document.contains("/api/v1/tests/{id}/pooled"));
    assert!(get(&address, "/readyz").starts_with("HTTP/1.1 503"), "its database is away");

    let start = Instant::now();
    assert!(Command::new("kill").args(["-TERM", &server.id().to_string()]).status().unwrap().success());
    assert!(server.wait().unwrap().success());
    assert!(start.elapsed() < Duration::from_secs(5));
    let mut log = String::new();
    server.stderr.take().unwrap().read_to_string(&mut log).unwrap();
    let entry: serde_json::Value = log
        .lines()
        .map(|line| serde_json::from_str(line).unwrap())
        .find(|entry: &serde_json::Value| entry["path"] == "/healthz")
        .unwrap();
    assert_eq!((&entry["status"], &entry["method"]), (&200.into(), &"GET".into()));
    assert!(entry["request_id"].as_str().is_some_and(|id| id.len() == 36));
}

#[tokio::test]
async fn a_refusal_arrives_at_a_client_that_sends_all_before_it_reads() {
    let database = TestDatabase::create().await.unwrap();
    let mut server = serve(&database.url, &["--port", "0"]);
    let address = address_of(&mut server);
    until_ready(&address);
    let json = "Content-Type: application/json\r\n";
    let answer = send(&address, "POST /api/v1/session", json, &format!("{{\"login\": \"{}\"}}", "x".repeat(8 << 20)));
    assert!(answer.starts_with("HTTP/1.1 413") && answer.contains("body_too_large"), "{answer}");
    server.kill().unwrap();
    server.wait().unwrap();
    database.drop().await.unwrap();
}

#[test]
fn a_taken_port_is_told_with_its_remedy() {
    let taken = TcpListener::bind("127.0.0.1:0").unwrap();
    let port = taken.local_addr().unwrap().port().to_string();
    let output = serve(NO_DATABASE, &["--port", &port]).wait_with_output().unwrap();
    assert!(!output.status.success());
    let said = String::from_utf8_lossy(&output.stderr).into_owned();
    assert!(said.contains(&format!("port {port}")) && said.contains("--port"), "{said}");
}
