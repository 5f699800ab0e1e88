//! The values that a program is rendered with.

use crate::scope::{NameId, Scope};
use crate::value::Value;

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
    /// Returns the empty value of its type for every name.
    #[must_use]
    pub fn new(scope: &Scope) -> Self {
        Self { items: scope.names().iter().map(|name| Value::empty(name.of)).collect() }
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
            self.items.extend(missing.iter().map(|name| Value::empty(name.of)));
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

    /// Returns the value of a name.
    #[must_use]
    pub fn get(&self, id: NameId) -> Option<&Value> {
        self.items.get(id.index())
    }

    /// Returns the values in the order of the scope's names.
    #[must_use]
    pub fn all(&self) -> &[Value] {
        &self.items
    }
}
