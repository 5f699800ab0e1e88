//! Which function answers which request: add routes here.

use crate::json;
use crate::notes::Notes;
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
        ("GET", ["notes"]) => good(200, notes.all()),
        ("POST", ["notes"]) => match notes.add(body) {
            Ok(note) => good(201, note),
            Err(why) => refused(400, &why),
        },
        ("GET", ["notes", number]) => match notes.find(number) {
            Some(note) => good(200, note),
            None => refused(404, "there is no such note"),
        },
        // tinmold:seam routes
        (_, ["health"] | ["notes"] | ["notes", _]) => refused(405, "this path has no such method"),
        _ => refused(404, "there is nothing here"),
    }
}

fn good(status: u16, body: String) -> Answer {
    Answer { status, body }
}

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

/// The most bytes that a request may send.
const MOST_BYTES: usize = 100_000;

/// All routes.
pub fn routes() -> Router {
    Router::new()
        .route("/health", get(health))
        .route("/notes", get(all_notes).post(add_note))
        .route("/notes/{number}", get(show_note))
        // tinmold:seam routes
        .fallback(async || refused(StatusCode::NOT_FOUND, "there is nothing here"))
        .method_not_allowed_fallback(async || {
            refused(
                StatusCode::METHOD_NOT_ALLOWED,
                "this path has no such method",
            )
        })
        .layer(DefaultBodyLimit::max(MOST_BYTES))
        .with_state(Arc::new(Notes::default()))
}

async fn health() -> Response {
    good(StatusCode::OK, r#"{"status": "ok"}"#.into())
}

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

// tinmold:seam handlers

fn good(status: StatusCode, body: String) -> Response {
    (status, [(header::CONTENT_TYPE, "application/json")], body).into_response()
}

fn refused(status: StatusCode, why: &str) -> Response {
    good(status, format!("{{\"error\": {}}}", json::text(why)))
}
{= case "actix" =}
use actix_web::http::StatusCode;
use actix_web::web::{Data, Path, PayloadConfig, ServiceConfig, get, post, resource};
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
        // tinmold:seam routes
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

// tinmold:seam handlers

fn good(status: StatusCode, body: String) -> HttpResponse {
    HttpResponse::build(status)
        .content_type("application/json")
        .body(body)
}

fn refused(status: StatusCode, why: &str) -> HttpResponse {
    good(status, format!("{{\"error\": {}}}", json::text(why)))
}
{= end =}
