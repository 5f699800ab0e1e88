//! Notes, asked over HTTP.

use reqwest::{Method, StatusCode};
use serde_json::json;

use crate::client::Client;

#[tokio::test]
async fn notes_are_kept() {
    {= client =}
    assert_eq!(client.get("/notes").await, (StatusCode::OK, json!([])));
    let mut ids = Vec::new();
    for text in ["Buy paint", " \u{dc}ber die Br\u{fc}cke "] {
        let asked = client.ask(Method::POST, "/notes", Some(json!({"text": text})));
        let (status, note) = asked.await;
        assert_eq!(status, StatusCode::CREATED);
        assert_eq!(note["text"], text.trim());
        ids.push(note["id"].as_i64().expect("a number"));
        let one = client.get(&format!("/notes/{}", note["id"])).await;
        assert_eq!(one, (StatusCode::OK, note));
    }
    let (_, all) = client.get("/notes").await;
    assert_eq!(all.as_array().map(Vec::len), Some(2));
    let (_, rest) = client
        .get(&format!("/notes?after={}&limit=5", ids[0]))
        .await;
    assert_eq!(rest, json!([all[1]]));
    client.stop().await;
}

#[tokio::test]
async fn what_is_not_a_note_is_refused() {
    {= client =}
    for body in [
        json!({}),
        json!({"text": " "}),
        json!({"text": 5}),
        json!({"text": "x".repeat(1001)}),
        json!({"text": "a\0"}),
        json!("a"),
    ] {
        let (status, answer) = client.ask(Method::POST, "/notes", Some(body.clone())).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{body}");
        assert!(answer["error"].is_string(), "{body}: {answer}");
    }
    for (path, expected) in [
        ("/notes/1", StatusCode::NOT_FOUND),
        ("/notes/0", StatusCode::NOT_FOUND),
        ("/notes/paint", StatusCode::NOT_FOUND),
        ("/notes/99999999999999999999", StatusCode::NOT_FOUND),
        ("/notes?limit=0", StatusCode::UNPROCESSABLE_ENTITY),
        ("/notes?limit=101", StatusCode::UNPROCESSABLE_ENTITY),
        ("/notes?after=-1", StatusCode::UNPROCESSABLE_ENTITY),
        ("/notes?after=x", StatusCode::UNPROCESSABLE_ENTITY),
    ] {
        let (status, answer) = client.get(path).await;
        assert_eq!(status, expected, "{path}");
        assert!(answer["error"].is_string(), "{path}: {answer}");
    }
    assert_eq!(client.get("/notes").await, (StatusCode::OK, json!([])));
    client.stop().await;
}
