//! Forms of no ecosystem: plain lines, words, paths.

use super::FormError;
use tinmold_platform::paths::{has_drive, is_device, portable_name};
use unicode_normalization::UnicodeNormalization;

pub(super) fn plain(text: &str) -> Result<(), FormError> {
    if text.trim().is_empty() {
        return Err(FormError::Empty);
    }
    match text.chars().find(|c| c.is_control() || matches!(c, '\u{2028}' | '\u{2029}')) {
        Some('\n' | '\r') => Err(FormError::Rule("it has more than one line")),
        Some(c) => Err(FormError::BadCharacter { c, allowed: "characters of one line" }),
        None => Ok(()),
    }
}

pub(super) fn kebab(text: &str) -> Result<(), FormError> {
    words_joined(text, '-', "a hyphen")
}

pub(super) fn snake(text: &str) -> Result<(), FormError> {
    words_joined(text, '_', "an underscore")
}

fn words_joined(text: &str, joint: char, name: &str) -> Result<(), FormError> {
    not_empty(text)?;
    let first = text.chars().next().unwrap_or(joint);
    if !first.is_ascii_lowercase() {
        return Err(FormError::Detail(format!(
            "it begins with {}, and a lower-case letter must come first",
            shown(first)
        )));
    }
    if let Some(c) = text.chars().find(|c| !(c.is_ascii_lowercase() || c.is_ascii_digit() || *c == joint)) {
        return Err(FormError::BadCharacter { c, allowed: "lower-case letters (ASCII), digits and {name}" });
    }
    if text.ends_with(joint) || text.contains(&format!("{joint}{joint}")) {
        return Err(FormError::Detail(format!("{name} is allowed between two words only")));
    }
    at_most(text, 64)?;
    no_device(text)
}

/// Checks a path inside a directory, legal on every system.
pub(super) fn path(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    if text.starts_with('/') || text.contains('\\') || has_drive(text) {
        return Err(FormError::Rule("it is not a path inside the project; its parts are separated by `/`"));
    }
    at_most(text, 200)?;
    text.split('/').try_for_each(|part| {
        portable_name(part).map_err(|reason| FormError::Path { part: part.to_owned(), reason })
    })
}

pub(super) fn path_bent(text: &str) -> String {
    let parts = text.split(['/', '\\']).map(|part| {
        let kept: String = part.chars().filter(|c| !c.is_control() && !"<>:\"|?*".contains(*c)).collect();
        kept.trim_matches([' ', '.']).to_owned()
    });
    parts.filter(|part| !part.is_empty()).collect::<Vec<_>>().join("/")
}

pub(super) fn not_empty(text: &str) -> Result<(), FormError> {
    if text.is_empty() { Err(FormError::Empty) } else { Ok(()) }
}

pub(super) fn at_most(text: &str, most: usize) -> Result<(), FormError> {
    let length = text.chars().count();
    if length > most { Err(FormError::TooLong { length, most }) } else { Ok(()) }
}

/// Windows keeps some names for devices; a folder of that name cannot be made there.
pub(super) fn no_device(text: &str) -> Result<(), FormError> {
    if is_device(text) {
        return Err(FormError::Taken {
            word: text.to_owned(),
            by: "a Windows device, so no directory can have that name",
        });
    }
    Ok(())
}

/// Returns a character as a message shows it.
pub(super) fn shown(c: char) -> String {
    match c {
        ' ' => "a space".into(),
        '`' => "a backtick".into(),
        c if c.is_control() || c.is_whitespace() => format!("the character {}", c.escape_unicode()),
        c => format!("`{c}`"),
    }
}

/// Removes the accents of letters that decompose.
pub(super) fn without_accents(text: &str) -> String {
    text.nfkd()
        .filter(|c| !unicode_normalization::char::is_combining_mark(*c))
        .collect::<String>()
        .replace('ß', "ss")
}

/// Returns the words between dots, with only letters, digits and `kept` in them.
pub(super) fn dotted_words(text: &str, kept: &[char]) -> String {
    let parts = text.split(['.', '/', '\\', ' ']).map(|part| {
        let clean: String = part.chars().filter(|c| c.is_ascii_alphanumeric() || kept.contains(c)).collect();
        clean.trim_matches(|c: char| kept.contains(&c)).to_owned()
    });
    parts.filter(|part| !part.is_empty()).collect::<Vec<_>>().join(".")
}
