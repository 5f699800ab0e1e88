//! What requests hold, taken as axum takes it; what does not fit is told in the shape of all other problems.

use axum::extract::rejection::{JsonRejection, PathRejection, QueryRejection};
use axum::extract::{FromRequest, FromRequestParts};

use crate::problem::Problem;

/// A body of JSON.
#[derive(FromRequest)]
#[from_request(via(axum::Json), rejection(Problem))]
pub struct Json<T>(pub T);

/// The parts of the path that a route names.
#[derive(FromRequestParts)]
#[from_request(via(axum::extract::Path), rejection(Problem))]
pub struct Path<T>(pub T);

/// What stands behind the question mark.
#[derive(FromRequestParts)]
#[from_request(via(axum::extract::Query), rejection(Problem))]
pub struct Query<T>(pub T);

impl From<JsonRejection> for Problem {
    fn from(rejection: JsonRejection) -> Self {
        Self::Refused(rejection.status(), rejection.body_text())
    }
}

impl From<PathRejection> for Problem {
    fn from(_: PathRejection) -> Self {
        Self::missing()
    }
}

impl From<QueryRejection> for Problem {
    fn from(rejection: QueryRejection) -> Self {
        Self::unfit(rejection.body_text())
    }
}
