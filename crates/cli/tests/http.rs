//! The server as a process, asked as any program asks it.

use std::io::{BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

pub fn serve(database_url: &str, arguments: &[&str]) -> Child {
    Command::new(env!("CARGO_BIN_EXE_pruvex"))
        .arg("serve")
        .args(arguments)
        .env("DATABASE_URL", database_url)
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap()
}

/// Where it says that it listens.
pub fn address_of(server: &mut Child) -> String {
    let mut line = String::new();
    BufReader::new(server.stdout.take().unwrap()).read_line(&mut line).unwrap();
    line.trim().strip_prefix("listening on http://").unwrap().to_owned()
}

/// Waits until it serves what its database holds.
pub fn until_ready(address: &str) {
    let start = Instant::now();
    while !send(address, "GET /readyz", "", "").starts_with("HTTP/1.1 200") {
        assert!(start.elapsed() < Duration::from_secs(60), "not ready");
        std::thread::sleep(Duration::from_millis(50));
    }
}

/// The whole answer, with its head.
pub fn send(address: &str, request: &str, head: &str, body: &str) -> String {
    let mut stream = TcpStream::connect(address).unwrap();
    let length = body.len();
    let head =
        format!("{request} HTTP/1.1\r\nHost: {address}\r\nConnection: close\r\nContent-Length: {length}\r\n{head}");
    write!(stream, "{head}\r\n{body}").unwrap();
    let mut answer = Vec::new();
    stream.read_to_end(&mut answer).unwrap();
    String::from_utf8_lossy(&answer).into_owned()
}
