//! The whole service, asked over HTTP on a free port of this machine.

mod common;
use common::{ask, started};

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
