//! Answers as texts: `--set`, and what the user types.

use tinmold_mold::Mold;
use tinmold_mold::Refusal;
use tinmold_mold::{Kind, Question, typed};
use tinmold_notation::{Scope, Value, did_you_mean};

/// Why a `--set` cannot be taken.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SetError {
    /// The key, as it was given.
    pub key: String,
    /// Why it is refused.
    pub refusal: Refusal,
}

/// Reads `KEY=VALUE`, or `KEY` for a flag that is true. A value may hold `=`. A list is separated
/// by commas, or is a JSON array.
///
/// # Errors
/// An unknown key, with the nearest one; a value that the question's kind cannot hold.
pub fn parse_set(mold: &Mold, text: &str) -> Result<(usize, Value), SetError> {
    let (key, value) = match text.split_once('=') {
        Some((key, value)) => (key.trim(), Some(value)),
        None => (text.trim(), None),
    };
    let error = |refusal| SetError { key: key.to_owned(), refusal };
    let found = mold.questions.iter().position(|question| question.key == key);
    let Some(at) = found else {
        return Err(error(unknown_key(mold, key)));
    };
    let question = &mold.questions[at];
    if !question.is_asked() {
        return Err(error(not_asked(question)));
    }
    let value = match (question.kind, value) {
        (Kind::Flag, None) => Ok(Value::Flag(true)),
        (_, None) => Err(Refusal::new("it has no value", format!("write --set {key}=VALUE"))),
        (_, Some(value)) => parse_text(question, value, &mold.scope),
    };
    Ok((at, value.map_err(error)?))
}

/// Returns why this question takes no answer.
pub(super) fn not_asked(question: &Question) -> Refusal {
    let reason = if question.from_casting {
        "the project has answered it, and a part does not ask again"
    } else {
        "it is minted: made anew for every project"
    };
    Refusal::new(reason, "leave it out")
}

/// Why there is no answer to a question of this key.
pub(super) fn unknown_key(mold: &Mold, key: &str) -> Refusal {
    let keys = || mold.questions.iter().filter(|q| q.is_asked()).map(|question| question.key.as_str());
    let all: Vec<_> = keys().collect();
    let none = format!("{} asks for {}", mold.name(), all.join(", "));
    Refusal::new("no question has this key", did_you_mean(key, keys(), none))
}

/// Parses a text as a value of the question's kind.
///
/// # Errors
/// The text is not such a value.
pub fn parse_text(question: &Question, text: &str, scope: &Scope) -> Result<Value, Refusal> {
    let as_typed = |value: toml::Value| typed(question.kind, &value, scope);
    match question.kind {
        Kind::Text | Kind::Minted { .. } => Ok(Value::Text(text.to_owned())),
        Kind::Flag => match text.trim().to_ascii_lowercase().as_str() {
            "true" | "yes" | "y" | "on" | "1" => Ok(Value::Flag(true)),
            "false" | "no" | "n" | "off" | "0" => Ok(Value::Flag(false)),
            _ => Err(Refusal::new(format!("{text:?} is neither true nor false"), "say true or false")),
        },
        Kind::Integer => match text.trim().parse() {
            Ok(number) => Ok(Value::Integer(number)),
            Err(_) => Err(Refusal::new(format!("{text:?} is not a whole number"), "")),
        },
        Kind::OneOf(_) => as_typed(toml::Value::String(text.trim().to_owned())),
        Kind::Texts | Kind::SomeOf(_) => {
            let elements: Vec<String> = if text.trim_start().starts_with('[') {
                serde_json::from_str(text)
                    .map_err(|error| Refusal::new(format!("this is not a JSON list of texts: {error}"), ""))?
            } else {
                text.split(',').map(|part| part.trim().to_owned()).filter(|part| !part.is_empty()).collect()
            };
            as_typed(toml::Value::Array(elements.into_iter().map(toml::Value::String).collect()))
        }
    }
}
