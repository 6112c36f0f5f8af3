//! The server as a process: it says where it listens, refuses what it cannot do, and stops when told to.

use std::io::{BufRead, BufReader, Read, Write};
use std::net::{TcpListener, TcpStream};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

fn serve(arguments: &[&str]) -> Child {
    Command::new(env!("CARGO_BIN_EXE_pruvex"))
        .arg("serve")
        .args(arguments)
        .env("DATABASE_URL", "postgres://nobody@127.0.0.1:1/none")
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap()
}

fn get(address: &str, path: &str) -> String {
    let mut stream = TcpStream::connect(address).unwrap();
    write!(stream, "GET {path} HTTP/1.1\r\nHost: {address}\r\nConnection: close\r\n\r\n").unwrap();
    let mut answer = Vec::new();
    stream.read_to_end(&mut answer).unwrap();
    String::from_utf8_lossy(&answer).into_owned()
}

#[test]
fn it_listens_on_loopback_logs_by_line_and_stops_quickly() {
    let mut server = serve(&["--port", "0"]);
    let mut line = String::new();
    BufReader::new(server.stdout.take().unwrap()).read_line(&mut line).unwrap();
    let address = line.trim().strip_prefix("listening on http://").unwrap().to_owned();
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

#[test]
fn a_taken_port_is_told_with_its_remedy() {
    let taken = TcpListener::bind("127.0.0.1:0").unwrap();
    let port = taken.local_addr().unwrap().port().to_string();
    let output = serve(&["--port", &port]).wait_with_output().unwrap();
    assert!(!output.status.success());
    let said = String::from_utf8_lossy(&output.stderr).into_owned();
    assert!(said.contains(&format!("port {port}")) && said.contains("--port"), "{said}");
}
