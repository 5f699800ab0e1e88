//! The views: what each works on, takes and gives, and what it does.

mod apply;
mod lists;
mod quote;
mod shape;
mod table;
mod words;

pub(crate) use apply::{Trouble, apply, format_date, trouble};
pub(crate) use table::{Gives, On, Signature, Takes, View, find, is_view, names};
