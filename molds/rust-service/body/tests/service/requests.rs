//! What every request passes, and what the service does when it is stopped.

use std::time::Duration;

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::TcpStream;
use tokio::time::sleep;

use crate::client::Client;

/// Sends these bytes; gives the status and the head of the answer, and what its body says.
async fn send(client: &Client, bytes: &[u8]) -> (u16, String, Value) {
    let mut stream = TcpStream::connect(client.address)
        .await
        .expect("it listens");
    stream.write_all(bytes).await.expect("it reads");
    let mut answer = Vec::new();
    // An answer may end with a reset where not all was read.
    let _ = stream.read_to_end(&mut answer).await;
    let answer = String::from_utf8_lossy(&answer);
    let (head, body) = answer.split_once("\r\n\r\n").unwrap_or((&answer, ""));
    let status = head
        .split(' ')
        .nth(1)
        .and_then(|status| status.parse().ok());
    let body = serde_json::from_str(body).unwrap_or_default();
    (status.unwrap_or(0), head.to_lowercase(), body)
}

#[tokio::test]
async fn it_says_how_it_is() {
    {= client =}
    assert_eq!(
        client.get("/health").await,
        (StatusCode::OK, json!({"status": "running"}))
    );
    assert_eq!(
        client.get("/ready").await,
        (StatusCode::OK, json!({"status": "ready"}))
    );
    client.stop().await;
}

#[tokio::test]
async fn problems_have_one_shape() {
    {= client =}
    let (status, answer) = client.get("/nowhere").await;
    assert_eq!(
        (status, answer["error"].is_string()),
        (StatusCode::NOT_FOUND, true)
    );
    let (status, answer) = client.ask(Method::DELETE, "/notes", None).await;
    assert_eq!(
        (status, answer["error"].is_string()),
        (StatusCode::METHOD_NOT_ALLOWED, true)
    );
    let post = "POST /notes HTTP/1.1\r\nHost: x\r\nConnection: close\r\n";
    let json = "Content-Type: application/json\r\n";
    for (rest, expected) in [
        (
            "Content-Length: 14\r\n\r\n{\"text\": \"a\"} ".to_owned(),
            415,
        ),
        (
            "Content-Type: text/plain\r\nContent-Length: 14\r\n\r\n{\"text\": \"a\"} ".to_owned(),
            415,
        ),
        (format!("{json}Content-Length: 9\r\n\r\n{{\"text\" 5"), 400),
        (format!("{json}Content-Length: 2000000\r\n\r\n"), 413),
        (
            format!(
                "{json}Transfer-Encoding: chunked\r\n\r\n110000\r\n{}",
                " ".repeat(0x11_0000)
            ),
            413,
        ),
    ] {
        let (status, head, answer) = send(&client, format!("{post}{rest}").as_bytes()).await;
        assert_eq!(status, expected, "{head}");
        assert!(answer["error"].is_string(), "{head}: {answer}");
    }
    client.stop().await;
}

#[tokio::test]
async fn ids_follow_a_request() {
    {= client =}
    for (given, is_kept) in [("harbour-7.a_b", true), ("a b", false), ("<script>", false)] {
        let request = format!(
            "GET /health HTTP/1.1\r\nHost: x\r\nConnection: close\r\nX-Request-ID: {given}\r\n\r\n"
        );
        let (_, head, _) = send(&client, request.as_bytes()).await;
        let kept = format!("x-request-id: {given}\r\n");
        assert_eq!(format!("{head}\r\n").contains(&kept), is_kept, "{head}");
        assert!(head.contains("x-request-id: "), "{head}");
    }
    client.stop().await;
}

#[tokio::test]
async fn a_stop_waits_for_answers_alone() {
    {= client =}
    let mut idle = TcpStream::connect(client.address)
        .await
        .expect("it listens");
    idle.write_all(b"GET /health HTTP/1.1\r\nHost: x\r\n\r\n")
        .await
        .expect("it reads");
    sleep(Duration::from_millis(100)).await;
    client.stop().await;
    let mut answer = String::new();
    idle.read_to_string(&mut answer)
        .await
        .expect("it was answered");
    assert!(answer.starts_with("HTTP/1.1 200 "), "{answer}");
}
