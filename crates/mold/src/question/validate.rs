//! Validates a value as the answer to a question.

use super::definition::{Kind, Rules};
use super::form::{Form, port_refusal};
use super::refusal::Refusal;
use tinmold_notation::Value;

/// Judges a value by the kind and rules of its question. Whether its option is offered is not
/// judged here.
///
/// # Errors
/// Why it is refused, and what would do.
pub fn check_value(kind: Kind, rules: &Rules, value: &Value) -> Result<(), Refusal> {
    match (kind, value) {
        (Kind::Text, Value::Text(text)) => check_text(rules, text, true),
        (Kind::Texts, Value::List(elements)) => {
            for (at, element) in elements.iter().enumerate() {
                if let Value::Text(text) = element {
                    check_text(rules, text, false).map_err(|refusal| {
                        Refusal::new(format!("element {}: {}", at + 1, refusal.reason), refusal.advice)
                    })?;
                }
            }
            bounded(rules, elements.len() as i64, "has", "elements")
        }
        (Kind::SomeOf(_), Value::List(picked)) => bounded(rules, picked.len() as i64, "ticks", "options"),
        (Kind::Integer, Value::Integer(number)) => {
            if rules.form == Some(Form::Port) && !(1..=65535).contains(number) {
                return Err(port_refusal());
            }
            bounded(rules, *number, "is", "")
        }
        _ => Ok(()),
    }
}

fn check_text(rules: &Rules, text: &str, bound: bool) -> Result<(), Refusal> {
    if text.is_empty() && rules.optional {
        return Ok(());
    }
    // A form and a pattern say themselves what is wrong with it.
    if text.is_empty() && bound && rules.form.is_none() && rules.pattern.is_none() {
        return Err(Refusal::new("it is empty".to_owned(), ""));
    }
    if let Some(form) = rules.form {
        form.check(text)?;
    }
    if rules.except.iter().any(|except| except.to_lowercase() == text.to_lowercase()) {
        return Err(Refusal::new(format!("{text:?} is taken already"), "give it another name"));
    }
    if let Some(pattern) = &rules.pattern
        && !pattern.is_match(text)
    {
        let written = pattern.as_str().trim_start_matches("^(?:").trim_end_matches(")$").to_owned();
        let reason = rules.pattern_help.clone().unwrap_or_else(|| format!("it must match `{written}`"));
        return Err(Refusal::new(reason, ""));
    }
    if bound { bounded(rules, text.chars().count() as i64, "has", "characters") } else { Ok(()) }
}

fn bounded(rules: &Rules, size: i64, verb: &str, what: &str) -> Result<(), Refusal> {
    let what = if what.is_empty() { String::new() } else { format!(" {what}") };
    if let Some(min) = rules.min.filter(|min| size < *min) {
        return Err(Refusal::new(format!("it {verb} {size}{what}, and {min} is the least"), ""));
    }
    if let Some(max) = rules.max.filter(|max| size > *max) {
        return Err(Refusal::new(format!("it {verb} {size}{what}, and {max} is the most"), ""));
    }
    Ok(())
}
