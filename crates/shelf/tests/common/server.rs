//! A server on this machine that responds as told, well or badly.
#![allow(dead_code, clippy::unwrap_used)]

use std::io::{Read, Write};
use std::net::TcpListener;
use std::sync::{Arc, Mutex};
use std::thread;

/// A server, for as long as the test runs.
pub struct Server {
    pub url: String,
    /// The requests with their headers, in lower case.
    pub asked: Arc<Mutex<Vec<String>>>,
}

impl Server {
    /// Responds to each request with the bytes that `answer` returns for its number and text, and
    /// closes the connection. Without bytes it keeps the connection open and silent.
    pub fn start(answer: impl Fn(usize, &str) -> Vec<u8> + Send + 'static) -> Self {
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let url = format!("http://{}/", listener.local_addr().unwrap());
        let asked: Arc<Mutex<Vec<String>>> = Arc::default();
        let all = Arc::clone(&asked);
        thread::spawn(move || {
            let mut hanging = Vec::new();
            for stream in listener.incoming() {
                let mut stream = stream.unwrap();
                let mut request = Vec::new();
                let mut piece = [0; 4096];
                while !request.windows(4).any(|end| end == b"\r\n\r\n") {
                    match stream.read(&mut piece) {
                        Ok(length @ 1..) => request.extend_from_slice(&piece[..length]),
                        _ => break,
                    }
                }
                let request = String::from_utf8_lossy(&request).to_lowercase();
                let number = all.lock().unwrap().len();
                all.lock().unwrap().push(request.clone());
                let bytes = answer(number, &request);
                if bytes.is_empty() {
                    hanging.push(stream);
                } else {
                    // The client may be gone.
                    let _ = stream.write_all(&bytes);
                }
            }
        });
        Self { url, asked }
    }

    pub fn asked(&self) -> Vec<String> {
        self.asked.lock().unwrap().clone()
    }
}

/// An answer with this status and further headers, each with its line end.
pub fn answer(status: &str, headers: &str, body: impl AsRef<[u8]>) -> Vec<u8> {
    let body = body.as_ref();
    let length = if headers.contains("Content-Length") {
        String::new()
    } else {
        format!("Content-Length: {}\r\n", body.len())
    };
    let head = format!("HTTP/1.1 {status}\r\nConnection: close\r\n{length}{headers}\r\n");
    [head.as_bytes(), body].concat()
}

/// Returns the path of a request.
pub fn path(request: &str) -> &str {
    request.split_whitespace().nth(1).unwrap_or_default()
}
