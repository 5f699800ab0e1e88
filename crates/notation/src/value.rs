//! The values that a program is rendered with.

use crate::scope::{NameId, Scope};
use crate::types::{ChoicesId, Element, Type};

/// A value of one of the notation's types.
#[derive(Clone, Debug, PartialEq, Eq)]
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
    /// Whether it is of the type `of`.
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

/// The values of all names of a scope.
#[derive(Clone, Debug, PartialEq)]
pub struct Values {
    items: Vec<Value>,
}

/// A value of another type than its name has.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TypeMismatch {
    /// The name.
    pub name: String,
}

impl std::fmt::Display for TypeMismatch {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "the value given for `{}` is not of its type", self.name)
    }
}

impl std::error::Error for TypeMismatch {}

impl Values {
    /// The empty value of its type for every name.
    #[must_use]
    pub fn new(scope: &Scope) -> Self {
        Self { items: scope.names().iter().map(|name| Scope::empty_value(name.of)).collect() }
    }

    /// Gives a name its value.
    ///
    /// # Errors
    /// The value must be of the name's type.
    pub fn set(&mut self, scope: &Scope, id: NameId, value: Value) -> Result<(), TypeMismatch> {
        let name = scope.name(id);
        if !value.fits(name.of) {
            return Err(TypeMismatch { name: name.name.clone() });
        }
        if self.items.len() <= id.index() {
            let missing = &scope.names()[self.items.len()..];
            self.items.extend(missing.iter().map(|name| Scope::empty_value(name.of)));
        }
        self.items[id.index()] = value;
        Ok(())
    }

    /// Gives a text to the name so written, if the scope has it.
    ///
    /// # Errors
    /// The name must be of type text.
    pub fn set_text(
        &mut self,
        scope: &Scope,
        name: &str,
        text: impl Into<String>,
    ) -> Result<(), TypeMismatch> {
        match scope.find(name) {
            Some(id) => self.set(scope, id, Value::Text(text.into())),
            None => Ok(()),
        }
    }

    /// The value of a name.
    #[must_use]
    pub fn get(&self, id: NameId) -> Option<&Value> {
        self.items.get(id.index())
    }

    pub(crate) fn items(&self) -> &[Value] {
        &self.items
    }
}
