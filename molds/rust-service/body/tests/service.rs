//! The whole service, asked over HTTP on a free port of this machine.

use std::io::{Read, Write};
use std::net::TcpStream;

use {= crate =}::{Config, Level, Running, start};

fn started() -> Running {
    let config = Config {
        host: "127.0.0.1".into(),
        port: 0,
        log_level: Level::Error,
    };
    start(&config).expect("it starts")
}

fn ask(service: &Running, method: &str, path: &str, body: &str) -> (u16, String) {
    let mut stream = TcpStream::connect(service.address).expect("it listens");
    let head = format!("{method} {path} HTTP/1.1\r\nhost: localhost\r\nconnection: close");
    let length = body.len();
    write!(stream, "{head}\r\ncontent-length: {length}\r\n\r\n{body}").expect("it reads");
    let mut answer = String::new();
    stream.read_to_string(&mut answer).expect("it answers");
    let status = answer
        .split(' ')
        .nth(1)
        .and_then(|status| status.parse().ok());
    let body = answer.split("\r\n\r\n").nth(1).unwrap_or_default();
    (status.unwrap_or(0), body.to_owned())
}

#[test]
fn requests_are_answered() {
    let service = started();
    assert_eq!(
        ask(&service, "GET", "/health", ""),
        (200, r#"{"status": "ok"}"#.into())
    );
    let (status, made) = ask(&service, "POST", "/notes", "Buy \"paint\"\n");
    assert_eq!(
        (status, made.as_str()),
        (201, r#"{"number": 2, "text": "Buy \"paint\""}"#)
    );
    assert_eq!(ask(&service, "GET", "/notes/2", ""), (200, made));
    assert!(
        ask(&service, "GET", "/notes", "")
            .1
            .contains("The first note")
    );
    service.stop().expect("it stops");
}

#[test]
fn bad_requests_are_refused() {
    let service = started();
    let long = "x".repeat(200_000);
    for (method, path, body, expected) in [
        ("GET", "/nowhere", "", 404),
        ("GET", "/notes/99", "", 404),
        ("GET", "/notes/0", "", 404),
        ("DELETE", "/health", "", 405),
        ("POST", "/notes", " ", 400),
        ("POST", "/notes", &long[..5000], 400),
        ("POST", "/notes", &long, 413),
    ] {
        let (status, _) = ask(&service, method, path, body);
        assert_eq!(status, expected, "{method} {path}");
    }
    service.stop().expect("it stops");
}
