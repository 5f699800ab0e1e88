//! Running a flat program: values in, bytes out.

mod calculate;
mod commas;
mod item;
mod machine;
pub(crate) mod repeat;
mod trace;

pub(crate) use commas::{PENDING_COMMA, before_settling, settle};
pub(crate) use item::Item;
pub(crate) use machine::{Machine, indent_since};
