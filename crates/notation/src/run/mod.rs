//! Running a flat program: values in, bytes out.

mod calculate;
mod machine;
mod render;
mod repeat;
mod rounds;
mod trace;
mod trailing_commas;

pub(crate) use machine::{Machine, indent_since};
pub(crate) use trace::Origin;
pub(crate) use trailing_commas::{PENDING_COMMA, settle};
