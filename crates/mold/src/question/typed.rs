//! Values from TOML, JSON and YAML, in the type of their question.

use super::definition::{Kind, in_order};
use super::refusal::Refusal;
use tinmold_notation::{ChoicesId, Scope, Value};

/// Converts data of TOML, JSON or YAML to a value of a question's kind.
///
/// # Errors
/// What is expected instead.
pub fn typed(kind: Kind, value: &toml::Value, scope: &Scope) -> Result<Value, Refusal> {
    let option = |of: ChoicesId, text: &str| {
        let choices = scope.choices(of);
        choices.position(text).map(|at| Value::Option(of, Some(at))).ok_or_else(|| {
            let values = || choices.options().iter().map(|option| option.value.as_str());
            let all: Vec<_> = values().map(|value| format!("`{value}`")).collect();
            let advice =
                tinmold_notation::did_you_mean(text, values(), format!("there are {}", all.join(", ")));
            Refusal::new(format!("{text:?} is not an option"), advice)
        })
    };
    match (kind, value) {
        (Kind::Text | Kind::Minted { .. }, toml::Value::String(text)) => Ok(Value::Text(text.clone())),
        (Kind::Flag, toml::Value::Boolean(flag)) => Ok(Value::Flag(*flag)),
        (Kind::Integer, toml::Value::Integer(number)) => Ok(Value::Integer(*number)),
        (Kind::OneOf(of), toml::Value::String(text)) => option(of, text),
        (Kind::Texts, toml::Value::Array(elements)) => {
            let texts = elements.iter().map(|element| match element {
                toml::Value::String(text) => Ok(Value::Text(text.clone())),
                other => Err(wrong_type("a list of texts", other)),
            });
            Ok(Value::List(texts.collect::<Result<_, _>>()?))
        }
        (Kind::SomeOf(of), toml::Value::Array(elements)) => {
            let mut picked = Vec::new();
            for element in elements {
                let toml::Value::String(text) = element else {
                    return Err(wrong_type("a list of options in quotes", element));
                };
                picked.push(option(of, text)?);
            }
            Ok(in_order(picked))
        }
        (kind, other) => {
            let wanted = match kind {
                Kind::Text | Kind::Minted { .. } => "a text in quotes",
                Kind::Flag => "true or false",
                Kind::Integer => "a whole number",
                Kind::OneOf(_) => "an option in quotes",
                Kind::Texts => "a list of texts",
                Kind::SomeOf(_) => "a list of options",
            };
            Err(wrong_type(wanted, other))
        }
    }
}

fn wrong_type(wanted: &str, found: &toml::Value) -> Refusal {
    Refusal::new(format!("it must be {wanted}, and is {}", describe(found)), "")
}

fn describe(value: &toml::Value) -> &'static str {
    match value {
        toml::Value::String(_) => "a text",
        toml::Value::Integer(_) => "a whole number",
        toml::Value::Float(_) => "a number with a fraction",
        toml::Value::Boolean(_) => "true or false",
        toml::Value::Datetime(_) => "a date (quote it to make it a text)",
        toml::Value::Array(_) => "a list",
        toml::Value::Table(_) => "a table",
    }
}
