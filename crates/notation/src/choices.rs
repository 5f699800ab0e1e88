//! The options of questions, with their fields.

use crate::names::is_name;
use crate::types::{Element, Type};
use crate::view::is_view;

/// The options of a question, with the fields that the mold gives them.
///
/// ```
/// use tinmold_notation::{Choices, FieldValue, Type};
/// let mut web = Choices::new("web");
/// web.add("stdlib", "Standard library");
/// web.add("flask", "Flask");
/// web.set_field(1, "package", FieldValue::Text("flask".into())).unwrap();
/// assert_eq!(web.field_type("package"), Some(Type::Text));
/// assert_eq!(web.position("flask"), Some(1));
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Choices {
    name: String,
    options: Vec<Choice>,
    fields: Vec<(String, Element)>,
}

/// One option.
#[derive(Clone, Debug, PartialEq)]
pub struct Choice {
    /// The value that it is compared with and rendered as.
    pub value: String,
    /// The label for people.
    pub label: String,
    /// The mold's own fields, in the order of [`Choices::fields`]; none where the option lacks one.
    pub(crate) fields: Vec<Option<FieldValue>>,
}

/// The value of an option's field.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum FieldValue {
    /// A text.
    Text(String),
    /// An integer.
    Integer(i64),
    /// A flag.
    Flag(bool),
}

impl FieldValue {
    fn element(&self) -> Element {
        match self {
            Self::Text(_) => Element::Text,
            Self::Integer(_) => Element::Integer,
            Self::Flag(_) => Element::Flag,
        }
    }
}

/// Why a field cannot be set.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum FieldError {
    /// Another option gives the field another type.
    TwoTypes,
    /// The name is that of a view, or `value` or `label`.
    NameOfView,
    /// The name is no name: a letter or underscore, then letters, digits and underscores.
    NoName,
}

impl std::fmt::Display for FieldError {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(match self {
            Self::TwoTypes => "a field has one type; another option gives this one a value of another",
            Self::NameOfView => "a field may not be named like a view, `value` or `label`",
            Self::NoName => {
                "the name of a field is a letter or underscore, then letters, digits and underscores"
            }
        })
    }
}

impl std::error::Error for FieldError {}

impl Choices {
    /// No options yet; `name` is the question's key, for messages.
    #[must_use]
    pub fn new(name: impl Into<String>) -> Self {
        Self { name: name.into(), options: Vec::new(), fields: Vec::new() }
    }

    /// Adds an option at the end.
    pub fn add(&mut self, value: impl Into<String>, label: impl Into<String>) {
        let fields = vec![None; self.fields.len()];
        self.options.push(Choice { value: value.into(), label: label.into(), fields });
    }

    /// Gives the option at `index` a field.
    ///
    /// # Errors
    /// A field has the same type in every option, a legal name, and not that of a view.
    pub fn set_field(&mut self, index: usize, name: &str, value: FieldValue) -> Result<(), FieldError> {
        if !is_name(name) {
            return Err(FieldError::NoName);
        }
        if name == "value" || name == "label" || is_view(name) {
            return Err(FieldError::NameOfView);
        }
        let at = match self.fields.iter().position(|(field, _)| field == name) {
            Some(at) if self.fields[at].1 != value.element() => return Err(FieldError::TwoTypes),
            Some(at) => at,
            None => {
                self.fields.push((name.to_owned(), value.element()));
                self.options.iter_mut().for_each(|option| option.fields.push(None));
                self.fields.len() - 1
            }
        };
        if let Some(option) = self.options.get_mut(index) {
            option.fields[at] = Some(value);
        }
        Ok(())
    }

    /// Returns the question's key.
    #[must_use]
    pub fn name(&self) -> &str {
        &self.name
    }

    /// Returns the options in their order.
    #[must_use]
    pub fn options(&self) -> &[Choice] {
        &self.options
    }

    /// Returns the index of the option with this value.
    #[must_use]
    pub fn position(&self, value: &str) -> Option<u16> {
        self.options.iter().position(|option| option.value == value).and_then(|at| u16::try_from(at).ok())
    }

    /// Returns the names and types of the fields.
    pub fn fields(&self) -> impl Iterator<Item = (&str, Type)> {
        self.fields.iter().map(|(name, element)| (name.as_str(), element.single()))
    }

    /// Returns the type of a field.
    #[must_use]
    pub fn field_type(&self, name: &str) -> Option<Type> {
        self.field(name).map(|(_, of)| of)
    }

    pub(crate) fn field(&self, name: &str) -> Option<(u16, Type)> {
        let at = self.fields.iter().position(|(field, _)| field == name)?;
        Some((u16::try_from(at).ok()?, self.fields[at].1.single()))
    }

    /// Returns the field of an option, if there is an option and it has the field.
    #[inline]
    pub(crate) fn value_of(&self, option: Option<u16>, field: u16) -> Option<&FieldValue> {
        self.options.get(option? as usize)?.fields.get(field as usize)?.as_ref()
    }

    /// Returns the text of a field for every option; empty where the option lacks it.
    pub(crate) fn text_column(&self, field: u16) -> Vec<&str> {
        self.options
            .iter()
            .map(|option| match option.fields.get(field as usize) {
                Some(Some(FieldValue::Text(text))) => text.as_str(),
                _ => "",
            })
            .collect()
    }

    pub(crate) fn element_of_field(&self, field: u16) -> Element {
        self.fields.get(field as usize).map_or(Element::Text, |(_, element)| *element)
    }
}
