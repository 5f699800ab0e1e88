//! What a client is told when a request is not answered: a status, and `{"error": "…"}`.

{= match web =}
{= case "axum" =}
use axum::Json;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Response};
{= case "actix" =}
use actix_web::error::{JsonPayloadError, PathError, QueryPayloadError};
use actix_web::http::{StatusCode, header};
use actix_web::{HttpResponse, ResponseError};
{= end =}
use serde_json::json;
use thiserror::Error;
// {= if stored =}
use tracing::error;
// {= end =}

/// Why a request is not answered.
#[derive(Debug, Error)]
pub enum Problem {
    /// The client is told why.
    #[error("{1}")]
    Refused(StatusCode, String),
    /// The log is told why, and the client is not.
    #[error("something went wrong")]
    Failed,
}

impl Problem {
    /// There is nothing with this address.
    pub fn missing() -> Self {
        Self::Refused(StatusCode::NOT_FOUND, "there is nothing here".into())
    }

    /// It can be read, and is not what is wanted.
    pub fn unfit(why: impl Into<String>) -> Self {
        Self::Refused(StatusCode::UNPROCESSABLE_ENTITY, why.into())
    }
}
// {= if stored =}

impl From<sqlx::Error> for Problem {
    fn from(error: sqlx::Error) -> Self {
        error!(
            error = &error as &dyn std::error::Error,
            "the database failed"
        );
        Self::Failed
    }
}
// {= end =}

{= match web =}
{= case "axum" =}
impl IntoResponse for Problem {
    fn into_response(self) -> Response {
        let status = match self {
            Self::Refused(status, _) => status,
            Self::Failed => StatusCode::INTERNAL_SERVER_ERROR,
        };
        (status, Json(json!({"error": self.to_string()}))).into_response()
    }
}
{= case "actix" =}
impl ResponseError for Problem {
    fn status_code(&self) -> StatusCode {
        match self {
            Self::Refused(status, _) => *status,
            Self::Failed => StatusCode::INTERNAL_SERVER_ERROR,
        }
    }

    fn error_response(&self) -> HttpResponse {
        HttpResponse::build(self.status_code()).json(json!({"error": self.to_string()}))
    }
}

// What extractors refuse is told in the same shape.

impl From<JsonPayloadError> for Problem {
    fn from(error: JsonPayloadError) -> Self {
        let status = match &error {
            JsonPayloadError::ContentType => StatusCode::UNSUPPORTED_MEDIA_TYPE,
            JsonPayloadError::Deserialize(error) if error.is_data() => {
                StatusCode::UNPROCESSABLE_ENTITY
            }
            error => error.status_code(),
        };
        Self::Refused(status, error.to_string())
    }
}

impl From<PathError> for Problem {
    fn from(_: PathError) -> Self {
        Self::missing()
    }
}

impl From<QueryPayloadError> for Problem {
    fn from(error: QueryPayloadError) -> Self {
        Self::unfit(error.to_string())
    }
}

/// Answers a method that an address does not have.
pub async fn other_method(allowed: &'static str) -> HttpResponse {
    let problem = Problem::Refused(
        StatusCode::METHOD_NOT_ALLOWED,
        "this address has no such method".into(),
    );
    let mut response = problem.error_response();
    let allowed = header::HeaderValue::from_static(allowed);
    response.headers_mut().insert(header::ALLOW, allowed);
    response
}
{= end =}
