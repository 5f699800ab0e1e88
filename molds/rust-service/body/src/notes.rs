//! The first resource: what a note is, where notes are kept, and their HTTP.

pub mod http;
mod store;

pub use store::Store;

use serde::{Deserialize, Serialize};

const LONGEST_TEXT: usize = 1000;

/// A text with a number.
#[derive(Clone, Debug, Serialize{= if stored =}, sqlx::FromRow{= end =})]
pub struct Note {
    /// Its number, counted from 1.
    pub id: i64,
    /// What it says.
    pub text: String,
}

/// The text of a note, without white space around it.
#[derive(Debug, Deserialize)]
#[serde(try_from = "String")]
pub struct Text(String);

/// A text that no note can have.
#[derive(Debug, thiserror::Error)]
#[error("a text has 1 to {LONGEST_TEXT} characters")]
pub struct TextError;

impl TryFrom<String> for Text {
    type Error = TextError;

    fn try_from(text: String) -> Result<Self, TextError> {
        let text = text.trim();
        let is_long = text.chars().nth(LONGEST_TEXT).is_some();
        if text.is_empty() || is_long || text.contains('\0') {
            return Err(TextError);
        }
        Ok(Self(text.to_owned()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_text_says_something() {
        for (given, kept) in [
            ("Buy paint", Some("Buy paint")),
            ("  Buy paint\n", Some("Buy paint")),
            ("", None),
            (" \t", None),
            ("a\0b", None),
        ] {
            let text = Text::try_from(given.to_owned()).ok();
            assert_eq!(text.map(|text| text.0).as_deref(), kept, "{given:?}");
        }
        assert!(Text::try_from("\u{fc}".repeat(LONGEST_TEXT)).is_ok());
        assert!(Text::try_from("\u{fc}".repeat(LONGEST_TEXT + 1)).is_err());
    }
}
