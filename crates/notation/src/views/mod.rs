//! The implementation of the views.

mod apply;
mod lists;
mod quote;
mod shape;
mod words;

pub(crate) use apply::{apply, format_date};
