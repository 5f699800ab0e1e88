//! A value while a program runs: borrowed from the answers where it can be, shared where it was made.

use crate::scope::Scope;
use crate::types::ChoicesId;
use crate::value::Value;
use std::cmp::Ordering;
use std::rc::Rc;

#[derive(Clone, Debug)]
pub(crate) enum Item<'r> {
    Text(&'r str),
    Made(Rc<str>),
    Integer(i64),
    Flag(bool),
    Option(ChoicesId, Option<u16>),
    Answers(&'r [Value]),
    List(Rc<[Item<'r>]>),
}

impl<'r> Item<'r> {
    pub(crate) fn made(text: String) -> Self {
        Self::Made(text.into())
    }

    /// Returns the text of a text; the value of an option; `""` of anything else.
    pub(crate) fn text<'a>(&'a self, scope: &'a Scope) -> &'a str {
        match self {
            Self::Text(text) => text,
            Self::Made(text) => text,
            Self::Option(of, Some(at)) => {
                scope.choices(*of).options().get(*at as usize).map_or("", |option| &option.value)
            }
            _ => "",
        }
    }

    pub(crate) fn is_true(&self) -> bool {
        matches!(self, Self::Flag(true))
    }

    pub(crate) fn integer(&self) -> i64 {
        if let Self::Integer(number) = self { *number } else { 0 }
    }

    pub(crate) fn len(&self) -> usize {
        match self {
            Self::Answers(values) => values.len(),
            Self::List(items) => items.len(),
            _ => 0,
        }
    }

    pub(crate) fn element(&self, at: usize) -> Option<Self> {
        match self {
            Self::Answers(values) => values.get(at).map(Self::from),
            Self::List(items) => items.get(at).cloned(),
            _ => None,
        }
    }

    pub(crate) fn elements(&self) -> impl Iterator<Item = Self> + '_ {
        (0..self.len()).filter_map(|at| self.element(at))
    }

    /// Equality of two values that the checker let meet: of one type, or an option and a text.
    pub(crate) fn same(&self, other: &Self, scope: &Scope) -> bool {
        match (self, other) {
            (Self::Integer(a), Self::Integer(b)) => a == b,
            (Self::Flag(a), Self::Flag(b)) => a == b,
            (Self::Option(_, a), Self::Option(_, b)) => a == b,
            // No option equals no text, the empty one neither.
            (Self::Option(_, None), _) | (_, Self::Option(_, None)) => false,
            (Self::Answers(_) | Self::List(_), _) => {
                self.len() == other.len()
                    && self.elements().zip(other.elements()).all(|(a, b)| a.same(&b, scope))
            }
            _ => self.text(scope) == other.text(scope),
        }
    }

    /// Returns the order of two values of one type: texts by code point, options as the question lists them.
    pub(crate) fn order(&self, other: &Self, scope: &Scope) -> Ordering {
        match (self, other) {
            (Self::Integer(a), Self::Integer(b)) => a.cmp(b),
            (Self::Flag(a), Self::Flag(b)) => a.cmp(b),
            (Self::Option(_, a), Self::Option(_, b)) => a.cmp(b),
            _ => self.text(scope).cmp(other.text(scope)),
        }
    }

    /// Returns it as a value that outlives the program.
    pub(crate) fn to_value(&self) -> Value {
        match self {
            Self::Text(text) => Value::Text((*text).to_owned()),
            Self::Made(text) => Value::Text(text.to_string()),
            Self::Integer(number) => Value::Integer(*number),
            Self::Flag(flag) => Value::Flag(*flag),
            Self::Option(of, at) => Value::Option(*of, *at),
            Self::Answers(values) => Value::List(values.to_vec()),
            Self::List(items) => Value::List(items.iter().map(Self::to_value).collect()),
        }
    }
}

impl<'r> From<&'r Value> for Item<'r> {
    fn from(value: &'r Value) -> Self {
        match value {
            Value::Text(text) => Self::Text(text),
            Value::Integer(number) => Self::Integer(*number),
            Value::Flag(flag) => Self::Flag(*flag),
            Value::Option(of, at) => Self::Option(*of, *at),
            Value::List(values) => Self::Answers(values),
        }
    }
}
