//! Which function answers which request: add routes here.

use crate::json;
use crate::notes::{= if stored =}{NoteError, Notes}{= else =}Notes{= end =};
{= match web =}
{= case "std" =}

/// What a request gets: a status, and JSON.
#[derive(Debug, PartialEq, Eq)]
pub struct Answer {
    /// The status, by RFC 9110.
    pub status: u16,
    /// The JSON of the answer.
    pub body: String,
}

/// Answers a request.
pub fn answer(notes: &Notes, method: &str, path: &str, body: &str) -> Answer {
    let parts: Vec<&str> = path.trim_start_matches('/').split('/').collect();
    match (method, parts.as_slice()) {
        ("GET", ["health"]) => good(200, r#"{"status": "ok"}"#.into()),
        // {= if stored =}
        ("GET", ["notes"]) => match notes.all() {
            Ok(all) => good(200, all),
            Err(error) => failed(&error),
        },
        ("POST", ["notes"]) => match notes.add(body) {
            Ok(note) => good(201, note),
            Err(error) => failed(&error),
        },
        ("GET", ["notes", number]) => match notes.find(number) {
            Ok(Some(note)) => good(200, note),
            Ok(None) => refused(404, "there is no such note"),
            Err(error) => failed(&error),
        },
        // {= else =}
        ("GET", ["notes"]) => good(200, notes.all()),
        ("POST", ["notes"]) => match notes.add(body) {
            Ok(note) => good(201, note),
            Err(why) => refused(400, &why),
        },
        ("GET", ["notes", number]) => match notes.find(number) {
            Some(note) => good(200, note),
            None => refused(404, "there is no such note"),
        },
        // {= end =}
        // joint: routes (tinmold)
        (_, ["health"] | ["notes"] | ["notes", _]) => refused(405, "this path has no such method"),
        _ => refused(404, "there is nothing here"),
    }
}

fn good(status: u16, body: String) -> Answer {
    Answer { status, body }
}

// {= if stored =}
fn failed(error: &NoteError) -> Answer {
    match error {
        NoteError::Refused(why) => refused(400, why),
        NoteError::Broken(_) => {
            eprintln!("{error}");
            refused(500, "something went wrong; the log says what")
        }
    }
}

// {= end =}
/// An answer that says what is wrong.
pub fn refused(status: u16, why: &str) -> Answer {
    good(status, format!("{{\"error\": {}}}", json::text(why)))
}
{= case "axum" =}
use axum::Router;
use axum::extract::{DefaultBodyLimit, Path, State};
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use axum::routing::get;
use std::sync::Arc;
// {= if stored =}
use tokio::task::spawn_blocking;
// {= end =}

/// The most bytes that a request may send.
const MOST_BYTES: usize = 100_000;

/// All routes.
pub fn routes(notes: Notes) -> Router {
    Router::new()
        .route("/health", get(health))
        .route("/notes", get(all_notes).post(add_note))
        .route("/notes/{number}", get(show_note))
        // joint: routes (tinmold)
        .fallback(async || refused(StatusCode::NOT_FOUND, "there is nothing here"))
        .method_not_allowed_fallback(async || {
            refused(
                StatusCode::METHOD_NOT_ALLOWED,
                "this path has no such method",
            )
        })
        .layer(DefaultBodyLimit::max(MOST_BYTES))
        .with_state(Arc::new(notes))
}

async fn health() -> Response {
    good(StatusCode::OK, r#"{"status": "ok"}"#.into())
}

// {= if stored =}
async fn all_notes(State(notes): State<Arc<Notes>>) -> Response {
    match worked(move || notes.all()).await {
        Ok(all) => good(StatusCode::OK, all),
        Err(refusal) => refusal,
    }
}

async fn add_note(State(notes): State<Arc<Notes>>, body: String) -> Response {
    match worked(move || notes.add(&body)).await {
        Ok(note) => good(StatusCode::CREATED, note),
        Err(refusal) => refusal,
    }
}

async fn show_note(State(notes): State<Arc<Notes>>, Path(number): Path<String>) -> Response {
    match worked(move || notes.find(&number)).await {
        Ok(Some(note)) => good(StatusCode::OK, note),
        Ok(None) => refused(StatusCode::NOT_FOUND, "there is no such note"),
        Err(refusal) => refusal,
    }
}

/// Runs database work on a thread for blocking work.
async fn worked<T: Send + 'static>(
    work: impl FnOnce() -> Result<T, NoteError> + Send + 'static,
) -> Result<T, Response> {
    match spawn_blocking(work).await {
        Ok(Ok(done)) => Ok(done),
        Ok(Err(NoteError::Refused(why))) => Err(refused(StatusCode::BAD_REQUEST, &why)),
        other => {
            if let Ok(Err(error)) = other {
                eprintln!("{error}");
            }
            let why = "something went wrong; the log says what";
            Err(refused(StatusCode::INTERNAL_SERVER_ERROR, why))
        }
    }
}
// {= else =}
async fn all_notes(State(notes): State<Arc<Notes>>) -> Response {
    good(StatusCode::OK, notes.all())
}

async fn add_note(State(notes): State<Arc<Notes>>, body: String) -> Response {
    match notes.add(&body) {
        Ok(note) => good(StatusCode::CREATED, note),
        Err(why) => refused(StatusCode::BAD_REQUEST, &why),
    }
}

async fn show_note(State(notes): State<Arc<Notes>>, Path(number): Path<String>) -> Response {
    match notes.find(&number) {
        Some(note) => good(StatusCode::OK, note),
        None => refused(StatusCode::NOT_FOUND, "there is no such note"),
    }
}
// {= end =}

// joint: handlers (tinmold)

fn good(status: StatusCode, body: String) -> Response {
    (status, [(header::CONTENT_TYPE, "application/json")], body).into_response()
}

fn refused(status: StatusCode, why: &str) -> Response {
    good(status, format!("{{\"error\": {}}}", json::text(why)))
}
{= case "actix" =}
use actix_web::http::StatusCode;
{= if stored =}
use actix_web::web::{Data, Path, PayloadConfig, ServiceConfig, block, get, post, resource};
{= else =}
use actix_web::web::{Data, Path, PayloadConfig, ServiceConfig, get, post, resource};
{= end =}
use actix_web::{HttpResponse, Responder};

/// The most bytes that a request may send.
const MOST_BYTES: usize = 100_000;

/// All routes.
pub fn routes(config: &mut ServiceConfig) {
    config
        .app_data(PayloadConfig::new(MOST_BYTES))
        .service(
            resource("/health")
                .route(get().to(health))
                .default_service(other_method()),
        )
        .service(
            resource("/notes")
                .route(get().to(all_notes))
                .route(post().to(add_note))
                .default_service(other_method()),
        )
        .service(
            resource("/notes/{number}")
                .route(get().to(show_note))
                .default_service(other_method()),
        )
        // joint: routes (tinmold)
        .default_service(actix_web::web::to(async || {
            refused(StatusCode::NOT_FOUND, "there is nothing here")
        }));
}

fn other_method() -> actix_web::Route {
    actix_web::web::to(async || {
        refused(
            StatusCode::METHOD_NOT_ALLOWED,
            "this path has no such method",
        )
    })
}

async fn health() -> impl Responder {
    good(StatusCode::OK, r#"{"status": "ok"}"#.into())
}

// {= if stored =}
async fn all_notes(notes: Data<Notes>) -> impl Responder {
    match worked(move || notes.all()).await {
        Ok(all) => good(StatusCode::OK, all),
        Err(refusal) => refusal,
    }
}

async fn add_note(notes: Data<Notes>, body: String) -> impl Responder {
    match worked(move || notes.add(&body)).await {
        Ok(note) => good(StatusCode::CREATED, note),
        Err(refusal) => refusal,
    }
}

async fn show_note(notes: Data<Notes>, number: Path<String>) -> impl Responder {
    match worked(move || notes.find(&number)).await {
        Ok(Some(note)) => good(StatusCode::OK, note),
        Ok(None) => refused(StatusCode::NOT_FOUND, "there is no such note"),
        Err(refusal) => refusal,
    }
}

/// Runs database work on a thread for blocking work.
async fn worked<T: Send + 'static>(
    work: impl FnOnce() -> Result<T, NoteError> + Send + 'static,
) -> Result<T, HttpResponse> {
    match block(work).await {
        Ok(Ok(done)) => Ok(done),
        Ok(Err(NoteError::Refused(why))) => Err(refused(StatusCode::BAD_REQUEST, &why)),
        other => {
            if let Ok(Err(error)) = other {
                eprintln!("{error}");
            }
            let why = "something went wrong; the log says what";
            Err(refused(StatusCode::INTERNAL_SERVER_ERROR, why))
        }
    }
}
// {= else =}
async fn all_notes(notes: Data<Notes>) -> impl Responder {
    good(StatusCode::OK, notes.all())
}

async fn add_note(notes: Data<Notes>, body: String) -> impl Responder {
    match notes.add(&body) {
        Ok(note) => good(StatusCode::CREATED, note),
        Err(why) => refused(StatusCode::BAD_REQUEST, &why),
    }
}

async fn show_note(notes: Data<Notes>, number: Path<String>) -> impl Responder {
    match notes.find(&number) {
        Some(note) => good(StatusCode::OK, note),
        None => refused(StatusCode::NOT_FOUND, "there is no such note"),
    }
}
// {= end =}

// joint: handlers (tinmold)

fn good(status: StatusCode, body: String) -> HttpResponse {
    HttpResponse::build(status)
        .content_type("application/json")
        .body(body)
}

fn refused(status: StatusCode, why: &str) -> HttpResponse {
    good(status, format!("{{\"error\": {}}}", json::text(why)))
}
{= end =}
