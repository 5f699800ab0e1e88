//! The syntax of names.

/// Returns true for a letter or underscore, then letters, digits and underscores (ASCII).
pub(crate) fn is_name(word: &str) -> bool {
    let mut bytes = word.bytes();
    bytes.next().is_some_and(|b| b.is_ascii_alphabetic() || b == b'_')
        && bytes.all(|b| b.is_ascii_alphanumeric() || b == b'_')
}
