//! What compiling and rendering a source tell beside its output.

use crate::scope::{NameId, Scope};
use crate::span::Span;
use crate::syntax::expression::{Binary, Expr, ExprId, ExprKind};
use crate::types::{ChoicesId, Element, Type};
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
        /// What decides whether it is taken; `None` if a name that the source itself gives does.
        deciding: Option<Deciding>,
        /// True for a case of a `match`, which has to be there for every option.
        is_case: bool,
    },
    /// A value that is put in.
    Value {
        /// The names whose values, or views of them, are put in.
        names: Vec<NameId>,
    },
}

/// What decides about something.
#[derive(Clone, Debug, Default, PartialEq, Eq, Hash)]
pub struct Deciding {
    /// The names whose values matter.
    pub names: Vec<NameId>,
    /// The names of which only matters whether one option is among them.
    pub options: Vec<(NameId, u16)>,
}

impl Deciding {
    /// Adds what decides about an expression of these ones.
    pub(crate) fn add(&mut self, expressions: &[Expr<'_>], id: ExprId, scope: &Scope) {
        let mut open = vec![id];
        while let Some(id) = open.pop() {
            let kind = &expressions[id.0 as usize].kind;
            match kind {
                ExprKind::Name(name) => self.names.extend(scope.find(name)),
                ExprKind::Binary(Binary::In | Binary::NotIn, left, right) => {
                    let of = |id: &ExprId| &expressions[id.0 as usize].kind;
                    if let (ExprKind::Text(option), ExprKind::Name(name)) = (of(left), of(right))
                        && let Some(id) = scope.find(name)
                        && let Type::List(Element::Option(choices)) = scope.name(id).of
                        && let Some(at) = scope.choices(choices).position(option)
                    {
                        self.options.push((id, at));
                        continue;
                    }
                }
                _ => {}
            }
            open.extend(kind.parts());
        }
    }
}

/// What a source says of the options of questions.
#[derive(Clone, Debug, Default)]
pub struct Audit {
    /// The options that it names.
    pub named: Vec<(ChoicesId, u16)>,
    /// The questions whose options it compares.
    pub compared: Vec<ChoicesId>,
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
    /// The flags that the conditions use: values that are computed elsewhere.
    pub flags: Vec<NameId>,
}
