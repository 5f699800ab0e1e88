//! Names in source code of any language, and of C.

use super::FormError;
use super::general::{at_most, not_empty};
use super::words;

pub(super) fn identifier(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    if text.starts_with(|c: char| c.is_ascii_digit()) {
        return Err(FormError::Rule("it begins with a digit"));
    }
    if let Some(c) = text.chars().find(|c| !c.is_ascii_alphanumeric() && *c != '_') {
        return Err(FormError::BadCharacter { c, allowed: "letters (ASCII), digits and underscores" });
    }
    at_most(text, 64)
}

pub(super) fn class_name(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    if !text.starts_with(|c: char| c.is_ascii_uppercase()) {
        return Err(FormError::Rule("it does not begin with a capital"));
    }
    if let Some(c) = text.chars().find(|c| !c.is_ascii_alphanumeric()) {
        return Err(FormError::BadCharacter { c, allowed: "letters and digits (ASCII)" });
    }
    if words::CLASSES.contains(&text) {
        return Err(FormError::Taken {
            word: text.to_owned(),
            by: "the standard library of a common language",
        });
    }
    at_most(text, 64)
}

pub(super) fn c_identifier(text: &str) -> Result<(), FormError> {
    identifier(text)?;
    if words::C.contains(&text) {
        return Err(FormError::Keyword { word: text.to_owned(), language: "C" });
    }
    if words::CPP.contains(&text) {
        return Err(FormError::Keyword {
            word: text.to_owned(),
            language: "C++, which reads the headers too",
        });
    }
    if words::C_STANDARD.contains(&text) {
        return Err(FormError::Taken { word: text.to_owned(), by: "C's standard library" });
    }
    if text.starts_with('_') {
        return Err(FormError::Rule("names that begin with an underscore are reserved in C"));
    }
    at_most(text, 63)
}
