{= match web =}
{= case "axum" =}
//! What happens to every request: its id, its line in the log, its limits, and an answer where a handler panics.

use std::any::Any;
use std::time::Duration;

use axum::Router;
use axum::body::{Body, HttpBody};
use axum::extract::Request;
use axum::http::{HeaderName, StatusCode};
use axum::middleware::{Next, from_fn};
use axum::response::{IntoResponse, Response};
use http_body_util::{BodyExt, LengthLimitError, Limited};
use tokio::time::timeout;
use tower::ServiceBuilder;
use tower_http::LatencyUnit;
use tower_http::catch_panic::CatchPanicLayer;
use tower_http::request_id::{MakeRequestUuid, PropagateRequestIdLayer, SetRequestIdLayer};
use tower_http::trace::{DefaultOnResponse, TraceLayer};
use tracing::{Level, Span, info_span};

use crate::problem::Problem;

const ID: HeaderName = HeaderName::from_static("x-request-id");
const LARGEST_BODY: usize = 1 << 20;
const LONGEST_BODY: Duration = Duration::from_secs(20);
const LONGEST: Duration = Duration::from_secs(30);

/// Puts around the routes what every request passes.
pub fn around(routes: Router) -> Router {
    routes.layer(
        ServiceBuilder::new()
            .map_request(without_strange_id)
            .layer(SetRequestIdLayer::new(ID, MakeRequestUuid))
            .layer(
                TraceLayer::new_for_http()
                    .make_span_with(span)
                    .on_request(())
                    .on_response(
                        DefaultOnResponse::new()
                            .level(Level::INFO)
                            .latency_unit(LatencyUnit::Micros),
                    ),
            )
            .layer(PropagateRequestIdLayer::new(ID))
            .layer(CatchPanicLayer::custom(after_panic))
            .layer(from_fn(within_limits)),
    )
}

/// An id that comes along is kept where it is one, so that a request can be followed through several services.
fn without_strange_id(mut request: Request) -> Request {
    let is_id = |byte: &u8| byte.is_ascii_alphanumeric() || b"._-".contains(byte);
    let is_strange = |id: &[u8]| id.is_empty() || id.len() > 64 || !id.iter().all(is_id);
    if request
        .headers()
        .get(ID)
        .is_some_and(|id| is_strange(id.as_bytes()))
    {
        request.headers_mut().remove(ID);
    }
    request
}

fn span(request: &Request) -> Span {
    let id = request.headers().get(ID).and_then(|id| id.to_str().ok());
    info_span!("request", id, method = %request.method(), path = request.uri().path())
}

/// Takes in the whole body before a handler has the request; both end in time.
async fn within_limits(request: Request, next: Next) -> Response {
    let answer = async {
        let (head, body) = request.into_parts();
        if body.size_hint().lower() > LARGEST_BODY as u64 {
            return refused(StatusCode::PAYLOAD_TOO_LARGE, "the body is too large");
        }
        let whole = Limited::new(body, LARGEST_BODY).collect();
        let body = match timeout(LONGEST_BODY, whole).await {
            Ok(Ok(body)) => body.to_bytes(),
            Ok(Err(error)) if error.is::<LengthLimitError>() => {
                return refused(StatusCode::PAYLOAD_TOO_LARGE, "the body is too large");
            }
            Ok(Err(_)) => return refused(StatusCode::BAD_REQUEST, "the body is not all there"),
            Err(_) => return refused(StatusCode::REQUEST_TIMEOUT, "the body came too slowly"),
        };
        next.run(Request::from_parts(head, Body::from(body))).await
    };
    timeout(LONGEST, answer)
        .await
        .unwrap_or_else(|_| refused(StatusCode::SERVICE_UNAVAILABLE, "the answer took too long"))
}

fn refused(status: StatusCode, why: &str) -> Response {
    Problem::Refused(status, why.into()).into_response()
}

fn after_panic(_: Box<dyn Any + Send>) -> Response {
    // The log has the panic and its trace already.
    Problem::Failed.into_response()
}
{= case "actix" =}
//! What happens to every request: its id, its line in the log, its limits, and an answer where a handler panics.

use std::panic::AssertUnwindSafe;
use std::time::{Duration, Instant};

use actix_web::body::MessageBody;
use actix_web::dev::{Payload, ServiceRequest, ServiceResponse};
use actix_web::error::InternalError;
use actix_web::http::StatusCode;
use actix_web::http::header::{self, HeaderName, HeaderValue};
use actix_web::middleware::Next;
use actix_web::web::{Bytes, BytesMut};
use actix_web::{Error, HttpMessage, rt};
use futures_util::{FutureExt, StreamExt};
use tokio::time::{sleep, timeout};
use tracing::{Instrument, info, info_span};
use uuid::Uuid;

use crate::problem::Problem;

const ID: HeaderName = HeaderName::from_static("x-request-id");
/// How many bytes a body may have.
pub const LARGEST_BODY: usize = 1 << 20;
const LONGEST_BODY: Duration = Duration::from_secs(20);
const LONGEST: Duration = Duration::from_secs(30);

/// Gives a request its id and its line in the log.
pub async fn logged(
    request: ServiceRequest,
    next: Next<impl MessageBody>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let id = id(&request);
    let span = info_span!(
        "request",
        id = id.to_str().unwrap_or_default(),
        method = %request.method(),
        path = request.path()
    );
    async {
        let started = Instant::now();
        let answer = next.call(request).await;
        let status = match &answer {
            Ok(response) => response.status(),
            Err(error) => error.as_response_error().status_code(),
        };
        let seconds = started.elapsed().as_secs_f64();
        info!(status = status.as_u16(), seconds, "answered");
        match answer {
            Ok(mut response) => {
                response.headers_mut().insert(ID, id);
                Ok(response)
            }
            Err(error) => {
                let mut response = error.error_response();
                response.headers_mut().insert(ID, id);
                Err(InternalError::from_response(error, response).into())
            }
        }
    }
    .instrument(span)
    .await
}

/// An id that comes along is kept where it is one, so that a request can be followed through several services.
fn id(request: &ServiceRequest) -> HeaderValue {
    let is_id = |byte: &u8| byte.is_ascii_alphanumeric() || b"._-".contains(byte);
    let is_kept =
        |id: &&HeaderValue| (1..=64).contains(&id.len()) && id.as_bytes().iter().all(is_id);
    let given = request.headers().get(ID).filter(is_kept).cloned();
    given
        .or_else(|| HeaderValue::try_from(Uuid::new_v4().to_string()).ok())
        .unwrap_or(HeaderValue::from_static("none"))
}

/// Takes in the whole body before a handler has the request; both end in time, and a panic is answered.
pub async fn within_limits(
    mut request: ServiceRequest,
    next: Next<impl MessageBody>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let answer = async {
        let mut payload = request.take_payload();
        let body = timeout(LONGEST_BODY, whole(&mut payload, content_length(&request)));
        match body.await.unwrap_or_else(|_| Err(late())) {
            Ok(body) => request.set_payload(Payload::from(body)),
            Err(problem) => {
                // While somebody holds the body, the server closes the connection after the answer;
                // else it would read on without an end, to find the next request.
                rt::spawn(async {
                    sleep(Duration::from_secs(1)).await;
                    drop(payload);
                });
                return Err(problem.into());
            }
        }
        // The log has the panic and its trace already.
        let answer = AssertUnwindSafe(next.call(request)).catch_unwind().await;
        answer.unwrap_or_else(|_| Err(Problem::Failed.into()))
    };
    timeout(LONGEST, answer).await.unwrap_or_else(|_| {
        let why = "the answer took too long";
        Err(refused(StatusCode::SERVICE_UNAVAILABLE, why).into())
    })
}

fn content_length(request: &ServiceRequest) -> usize {
    let length = request.headers().get(header::CONTENT_LENGTH);
    let length = length.and_then(|length| length.to_str().ok()?.parse().ok());
    length.unwrap_or(0)
}

async fn whole(payload: &mut Payload, announced: usize) -> Result<Bytes, Problem> {
    let too_large = || refused(StatusCode::PAYLOAD_TOO_LARGE, "the body is too large");
    if announced > LARGEST_BODY {
        return Err(too_large());
    }
    let mut body = BytesMut::new();
    while let Some(piece) = payload.next().await {
        let piece =
            piece.map_err(|_| refused(StatusCode::BAD_REQUEST, "the body is not all there"))?;
        if body.len() + piece.len() > LARGEST_BODY {
            return Err(too_large());
        }
        body.extend_from_slice(&piece);
    }
    Ok(body.freeze())
}

fn late() -> Problem {
    refused(StatusCode::REQUEST_TIMEOUT, "the body came too slowly")
}

fn refused(status: StatusCode, why: &str) -> Problem {
    Problem::Refused(status, why.into())
}
{= end =}
