//! HTTP/1.1, as much as the routes need (RFC 9112): one request a connection, with limits on all that it may send.

use std::io::{self, BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::time::Duration;

/// The most bytes of a request's head.
const MOST_HEAD: u64 = 16 * 1024;
/// The most bytes of its body.
const MOST_BODY: u64 = 100_000;
/// How long the other side may say nothing.
const PATIENCE: Duration = Duration::from_secs(10);

/// A request.
#[derive(Debug)]
pub struct Request {
    /// Its method, as in `GET`.
    pub method: String,
    /// Its path, without a query.
    pub path: String,
    /// Its body.
    pub body: String,
}

/// Why a request is not read.
#[derive(Debug)]
pub enum RequestError {
    /// What came is no request that is taken: a status, and why.
    Bad(u16, &'static str),
    /// The connection broke.
    Io(io::Error),
}

impl From<io::Error> for RequestError {
    fn from(error: io::Error) -> Self {
        Self::Io(error)
    }
}

/// Reads a request.
///
/// # Errors
/// It is none, is too large, or the connection broke.
pub fn read(stream: &TcpStream) -> Result<Request, RequestError> {
    stream.set_read_timeout(Some(PATIENCE))?;
    stream.set_write_timeout(Some(PATIENCE))?;
    let mut head = BufReader::new(stream).take(MOST_HEAD);
    let mut line = String::new();
    let mut next = |line: &mut String| -> Result<(), RequestError> {
        line.clear();
        head.read_line(line)?;
        if line.ends_with('\n') {
            Ok(())
        } else {
            Err(RequestError::Bad(
                431,
                "the request's head is too long or broke off",
            ))
        }
    };
    next(&mut line)?;
    let mut words = line.split_whitespace();
    let (Some(method), Some(target), Some("HTTP/1.1" | "HTTP/1.0")) =
        (words.next(), words.next(), words.next())
    else {
        return Err(RequestError::Bad(400, "this is no HTTP/1.1"));
    };
    let method = method.to_owned();
    let path = target
        .split(['?', '#'])
        .next()
        .unwrap_or_default()
        .to_owned();
    let mut length = 0;
    loop {
        next(&mut line)?;
        let Some((name, value)) = line.trim_end().split_once(':') else {
            break;
        };
        if name.eq_ignore_ascii_case("transfer-encoding") {
            return Err(RequestError::Bad(
                501,
                "only bodies with a length are taken",
            ));
        }
        if name.eq_ignore_ascii_case("content-length") {
            length = value
                .trim()
                .parse::<u64>()
                .map_err(|_| RequestError::Bad(400, "the length is no number"))?;
        }
    }
    if length > MOST_BODY {
        // What was sent is read, so that the other side comes to read the answer.
        io::copy(
            &mut head.into_inner().take(length.min(MOST_BODY * 10)),
            &mut io::sink(),
        )?;
        return Err(RequestError::Bad(413, "the body is too large"));
    }
    let mut body = Vec::new();
    head.into_inner().take(length).read_to_end(&mut body)?;
    let body =
        String::from_utf8(body).map_err(|_| RequestError::Bad(400, "the body is not UTF-8"))?;
    Ok(Request { method, path, body })
}

/// Writes an answer with JSON, and ends the connection.
///
/// # Errors
/// The connection broke.
pub fn write(mut stream: &TcpStream, status: u16, body: &str) -> io::Result<()> {
    let head = "content-type: application/json\r\nconnection: close";
    let length = body.len();
    write!(
        stream,
        "HTTP/1.1 {status} -\r\n{head}\r\ncontent-length: {length}\r\n\r\n{body}"
    )
}
