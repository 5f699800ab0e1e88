//! A text or a tag of a body.

use super::tag::Tag;
use crate::span::Span;
use std::borrow::Cow;

#[derive(Debug)]
pub(crate) struct Piece<'s> {
    pub(crate) kind: PieceKind<'s>,
    pub(crate) span: Span,
}

#[derive(Debug)]
pub(crate) enum PieceKind<'s> {
    Text,
    Tag {
        tag: Tag<'s>,
        /// The white space before a value or `place` on its line, for its further lines.
        indent: Cow<'s, str>,
        /// Set on a `place` alone on its line: the text after it, with the line break.
        alone: Option<Span>,
    },
}
