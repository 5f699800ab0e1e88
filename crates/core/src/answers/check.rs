//! Whether a value may be the answer to a question.

use crate::mold::{Kind, Rules};
use tinmold_notation::Value;

/// Why a value is refused, and what would do instead.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Refusal {
    /// What is wrong, in a clause without a full stop.
    pub reason: String,
    /// What would do; may be empty.
    pub advice: String,
}

impl Refusal {
    pub(crate) fn new(reason: impl Into<String>, advice: impl Into<String>) -> Self {
        Self { reason: reason.into(), advice: advice.into() }
    }

    /// "x would do", "x or y would do"; empty for no candidates.
    pub(crate) fn offering(reason: impl Into<String>, candidates: &[String]) -> Self {
        let quoted: Vec<_> = candidates.iter().map(|candidate| format!("`{candidate}`")).collect();
        let advice =
            if quoted.is_empty() { String::new() } else { format!("{} would do", quoted.join(" or ")) };
        Self::new(reason, advice)
    }
}

impl std::fmt::Display for Refusal {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.reason)?;
        if !self.advice.is_empty() {
            write!(f, "; {}", self.advice)?;
        }
        Ok(())
    }
}

/// Judges a value by the kind and rules of its question. Whether an option is offered at all is not judged here.
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
            if rules.form == Some(super::Form::Port) && !(1..=65535).contains(number) {
                return Err(super::form::port_refusal());
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
