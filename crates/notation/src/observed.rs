//! What compiling and rendering a source tell beside its output.

use crate::scope::NameId;
use crate::span::Span;
use crate::types::ChoicesId;
use std::sync::Arc;

/// A place of a body file or fragment that a rendering reaches or not.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct Place {
    /// The file, as findings name it.
    pub file: Arc<str>,
    /// The tag that begins a branch, or the expression of a value.
    pub span: Span,
    /// What is there.
    pub kind: PlaceKind,
}

/// What is at a place.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum PlaceKind {
    /// A block of `if`, `match` or `for`, with the span of its content.
    Branch {
        /// From behind the tag that begins it to the tag that ends it.
        content: Span,
        /// The names that decide whether it is taken; `None` if a name that the source itself gives does.
        names: Option<Vec<NameId>>,
        /// True for a case of a `match`, which has to be there for every option.
        is_case: bool,
    },
    /// A value that is put in.
    Value {
        /// The names whose values, or views of them, are put in.
        names: Vec<NameId>,
    },
}

/// What a source says of the options of questions.
#[derive(Clone, Debug, Default)]
pub struct Audit {
    /// The options that it names.
    pub named: Vec<(ChoicesId, u16)>,
    /// Where options that it does not name fall into an `else`.
    pub elses: Vec<Else>,
}

/// An `else` that is taken for the options that the conditions before it do not name.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Else {
    /// The file, as findings name it.
    pub file: Arc<str>,
    /// The tag, or the value that is taken.
    pub span: Span,
    /// The options that the conditions compare.
    pub of: Vec<ChoicesId>,
}
