//! What a word of a text is.

use std::ops::Range;

/// Some bytes of a text, and what they are.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Word {
    /// The bytes.
    pub bytes: Range<usize>,
    /// What they are.
    pub kind: WordKind,
}

/// The kind of a word, as far as it is coloured.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum WordKind {
    /// A comment.
    Comment,
    /// A text in quotes, or a piece of one.
    Text,
    /// A number or a constant.
    Constant,
    /// A word of the language.
    Keyword,
    /// The name of a function, a type, a key or an element.
    Name,
}
