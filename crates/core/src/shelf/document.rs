//! A TOML document as it was read while the program was built.

use serde::{Deserialize, Serialize};

/// A value or a key, and where it stands in its document.
#[derive(Debug, Deserialize, Serialize)]
pub(crate) struct Node<'d> {
    /// The byte that it begins at.
    pub(crate) start: u32,
    /// The byte behind it.
    pub(crate) end: u32,
    /// What it is.
    #[serde(borrow)]
    pub(crate) value: Value<'d>,
}

/// What stands somewhere in a TOML document.
#[derive(Debug, Deserialize, Serialize)]
pub(crate) enum Value<'d> {
    /// A text, without its quotes.
    Text(&'d str),
    /// `true` or `false`.
    Flag(bool),
    /// A number or a point in time, as it is written.
    Other(&'d str),
    /// An array.
    #[serde(borrow)]
    List(Vec<Node<'d>>),
    /// A table: each key with its value.
    #[serde(borrow)]
    Table(Vec<(Node<'d>, Node<'d>)>),
}
