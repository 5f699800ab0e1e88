{= match web =}
{= case "axum" =}
//! The HTTP of notes.

use axum::extract::State;
use axum::http::StatusCode;
use axum::routing::get;
use axum::{Json, Router};
use serde::Deserialize;

use super::{Note, Store, Text};
use crate::extract;
use crate::problem::Problem;

/// The routes of notes.
pub fn routes(store: Store) -> Router {
    Router::new()
        .route("/notes", get(list).post(add))
        .route("/notes/{id}", get(show))
        .with_state(store)
}
{= case "actix" =}
//! The HTTP of notes.

use actix_web::{HttpResponse, web};
use serde::Deserialize;

use super::{Note, Store, Text};
use crate::problem::{Problem, other_method};

/// The routes of notes.
pub fn routes(config: &mut web::ServiceConfig) {
    config
        .service(
            web::resource("/notes")
                .get(list)
                .route(web::head().to(list))
                .post(add)
                .default_service(web::to(|| other_method("GET, HEAD, POST"))),
        )
        .service(
            web::resource("/notes/{id}")
                .get(show)
                .route(web::head().to(show))
                .default_service(web::to(|| other_method("GET, HEAD"))),
        );
}
{= end =}

#[derive(Deserialize)]
#[serde(default)]
struct Page {
    after: i64,
    limit: u8,
}

impl Default for Page {
    fn default() -> Self {
        Self {
            after: 0,
            limit: 50,
        }
    }
}

{= match web =}
{= case "axum" =}
async fn list(
    State(store): State<Store>,
    extract::Query(Page { after, limit }): extract::Query<Page>,
) -> Result<Json<Vec<Note>>, Problem> {
    if after < 0 || !(1..=100).contains(&limit) {
        return Err(Problem::unfit("after is from 0, limit from 1 to 100"));
    }
    Ok(Json(store.after(after, limit){= wait =}))
}
{= case "actix" =}
async fn list(
    store: web::Data<Store>,
    page: web::Query<Page>,
) -> Result<web::Json<Vec<Note>>, Problem> {
    let Page { after, limit } = page.into_inner();
    if after < 0 || !(1..=100).contains(&limit) {
        return Err(Problem::unfit("after is from 0, limit from 1 to 100"));
    }
    Ok(web::Json(store.after(after, limit){= wait =}))
}
{= end =}

#[derive(Deserialize)]
struct NewNote {
    text: Text,
}

{= match web =}
{= case "axum" =}
async fn add(
    State(store): State<Store>,
    extract::Json(new): extract::Json<NewNote>,
) -> Result<(StatusCode, Json<Note>), Problem> {
    Ok((StatusCode::CREATED, Json(store.add(new.text){= wait =})))
}

async fn show(
    State(store): State<Store>,
    extract::Path(id): extract::Path<i64>,
) -> Result<Json<Note>, Problem> {
    let note = store.one(id){= wait =};
    note.map(Json).ok_or_else(Problem::missing)
}
{= case "actix" =}
async fn add(store: web::Data<Store>, new: web::Json<NewNote>) -> Result<HttpResponse, Problem> {
    let note = store.add(new.into_inner().text){= wait =};
    Ok(HttpResponse::Created().json(note))
}

async fn show(store: web::Data<Store>, id: web::Path<i64>) -> Result<web::Json<Note>, Problem> {
    let note = store.one(id.into_inner()){= wait =};
    note.map(web::Json).ok_or_else(Problem::missing)
}
{= end =}
