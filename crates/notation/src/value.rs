//! A value of one of the notation's types.

use crate::types::{ChoicesId, Element, Type};

/// A value of one of the notation's types.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum Value {
    /// A text.
    Text(String),
    /// An integer.
    Integer(i64),
    /// A flag.
    Flag(bool),
    /// The position of an option among its choices, or none of them.
    Option(ChoicesId, Option<u16>),
    /// A list; all elements are of one type and none is a list.
    List(Vec<Value>),
}

impl Value {
    /// Returns the empty value of a type: `""`, 0, false, no option, no elements.
    #[must_use]
    pub fn empty(of: Type) -> Self {
        match of {
            Type::Text | Type::Unknown => Self::Text(String::new()),
            Type::Integer => Self::Integer(0),
            Type::Flag => Self::Flag(false),
            Type::Option { of, .. } => Self::Option(of, None),
            Type::List(_) => Self::List(Vec::new()),
        }
    }

    /// Returns true if it is of the type `of`.
    #[must_use]
    pub fn fits(&self, of: Type) -> bool {
        match (self, of) {
            (Self::Text(_), Type::Text)
            | (Self::Integer(_), Type::Integer)
            | (Self::Flag(_), Type::Flag)
            | (_, Type::Unknown) => true,
            (Self::Option(id, at), Type::Option { of, or_none }) => *id == of && (at.is_some() || or_none),
            (Self::List(values), Type::List(Element::Open)) => values.is_empty(),
            (Self::List(values), Type::List(element)) => {
                values.iter().all(|value| value.fits(element.single()))
            }
            _ => false,
        }
    }
}
