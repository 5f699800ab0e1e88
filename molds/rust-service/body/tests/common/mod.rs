//! Starts the service on a free port of this machine, and asks it.

use std::io::{Read, Write};
use std::net::TcpStream;

use {= crate =}::{Config, Format, Level, Running, start};

/// A service that listens.
pub fn started() -> Running {
    let config = Config {
        host: "127.0.0.1".into(),
        port: 0,
        log_level: Level::Error,
        log_format: Format::Json,
        // {= if stored =}
        database: ":memory:".into(),
        // {= end =}
    };
    start(&config).expect("it starts")
}

/// Asks it; gives the status and the body of the answer.
pub fn ask(service: &Running, method: &str, path: &str, body: &str) -> (u16, String) {
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
