//! Names in source code of any language, and of C.

use super::general::{at_most, not_empty, shown};
use super::words;

pub(super) fn identifier(text: &str) -> Result<(), String> {
    not_empty(text)?;
    if text.starts_with(|c: char| c.is_ascii_digit()) {
        return Err("it begins with a digit".into());
    }
    if let Some(c) = text.chars().find(|c| !c.is_ascii_alphanumeric() && *c != '_') {
        return Err(format!("it holds {}; letters (ASCII), digits and underscores may stand here", shown(c)));
    }
    at_most(text, 64)
}

pub(super) fn class_name(text: &str) -> Result<(), String> {
    not_empty(text)?;
    if !text.starts_with(|c: char| c.is_ascii_uppercase()) {
        return Err("it does not begin with a capital".into());
    }
    if let Some(c) = text.chars().find(|c| !c.is_ascii_alphanumeric()) {
        return Err(format!("it holds {}; letters and digits (ASCII) may stand here", shown(c)));
    }
    if words::CLASSES.contains(&text) {
        return Err(format!("`{text}` is taken by the standard library of a common language"));
    }
    at_most(text, 64)
}

pub(super) fn c_identifier(text: &str) -> Result<(), String> {
    identifier(text)?;
    if words::C.contains(&text) {
        return Err(format!("`{text}` is a keyword of C"));
    }
    if words::CPP.contains(&text) {
        return Err(format!("`{text}` is a keyword of C++, and headers are read by both"));
    }
    if words::C_STANDARD.contains(&text) {
        return Err(format!("`{text}` is a name of C's standard library"));
    }
    if text.starts_with('_') {
        return Err("names that begin with an underscore are reserved in C".into());
    }
    at_most(text, 63)
}
