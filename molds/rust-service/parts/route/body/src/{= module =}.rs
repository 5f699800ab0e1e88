//! The route `/{= route =}`.

{= match web =}
{= case "axum" =}
use axum::routing::get;
use axum::{Json, Router};
use serde::Serialize;

/// One of what the route answers with; it is to grow.
#[derive(Serialize)]
struct Item {
    id: i64,
}

/// The routes of this resource.
pub fn routes() -> Router {
    Router::new().route("/{= route =}", get(list))
}

async fn list() -> Json<Vec<Item>> {
    Json(vec![Item { id: 1 }])
}
{= case "actix" =}
use actix_web::web;
use serde::Serialize;

use crate::problem::other_method;

/// One of what the route answers with; it is to grow.
#[derive(Serialize)]
struct Item {
    id: i64,
}

/// The routes of this resource.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(
        web::resource("/{= route =}")
            .get(list)
            .route(web::head().to(list))
            .default_service(web::to(|| other_method("GET, HEAD"))),
    );
}

async fn list() -> web::Json<Vec<Item>> {
    web::Json(vec![Item { id: 1 }])
}
{= end =}
