{= match web =}
{= case "axum" =}
//! Whether the service runs, and whether it can answer.

// {= if stored =}
use std::time::Duration;

// {= end =}
// {= if stored =}
use axum::extract::State;
use axum::http::StatusCode;
// {= end =}
use axum::routing::get;
use axum::{Json, Router};
use serde_json::{Value, json};
// {= if stored =}
use tokio::time::timeout;

use crate::database::{self, Pool};
use crate::problem::Problem;
// {= end =}

/// The routes that others ask to know how the service is.
pub fn routes({= if stored =}pool: Pool{= end =}) -> Router {
    Router::new()
        .route("/health", get(health))
        .route("/ready", get(ready))
        // {= if stored =}
        .with_state(pool)
        // {= end =}
}

async fn health() -> Json<Value> {
    Json(json!({"status": "running"}))
}

// {= if stored =}
async fn ready(State(pool): State<Pool>) -> Result<Json<Value>, Problem> {
    match timeout(Duration::from_secs(2), database::ping(&pool)).await {
        Ok(Ok(())) => Ok(Json(json!({"status": "ready"}))),
        _ => Err(Problem::Refused(
            StatusCode::SERVICE_UNAVAILABLE,
            "the database does not answer".into(),
        )),
    }
}
// {= else =}
async fn ready() -> Json<Value> {
    Json(json!({"status": "ready"}))
}
// {= end =}
{= case "actix" =}
//! Whether the service runs, and whether it can answer.

// {= if stored =}
use std::time::Duration;

use actix_web::http::StatusCode;
// {= end =}
use actix_web::web;
use serde_json::{Value, json};
// {= if stored =}
use tokio::time::timeout;
// {= end =}

// {= if stored =}
use crate::database::{self, Pool};
use crate::problem::{Problem, other_method};
// {= else =}
use crate::problem::other_method;
// {= end =}

/// The routes that others ask to know how the service is.
pub fn routes(config: &mut web::ServiceConfig) {
    config
        .service(
            web::resource("/health")
                .get(health)
                .route(web::head().to(health))
                .default_service(web::to(|| other_method("GET, HEAD"))),
        )
        .service(
            web::resource("/ready")
                .get(ready)
                .route(web::head().to(ready))
                .default_service(web::to(|| other_method("GET, HEAD"))),
        );
}

async fn health() -> web::Json<Value> {
    web::Json(json!({"status": "running"}))
}

// {= if stored =}
async fn ready(pool: web::Data<Pool>) -> Result<web::Json<Value>, Problem> {
    match timeout(Duration::from_secs(2), database::ping(&pool)).await {
        Ok(Ok(())) => Ok(web::Json(json!({"status": "ready"}))),
        _ => Err(Problem::Refused(
            StatusCode::SERVICE_UNAVAILABLE,
            "the database does not answer".into(),
        )),
    }
}
// {= else =}
async fn ready() -> web::Json<Value> {
    web::Json(json!({"status": "ready"}))
}
// {= end =}
{= end =}
