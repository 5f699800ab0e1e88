//! Conditions of a mold in words.

use super::style::safe;
use tinmold_mold::{Mold, Offered, Question, Snippet};
use tinmold_notation::{Naming, Value, in_words};

/// Returns a condition in words, safe to print.
pub fn words(mold: &Mold, when: &Snippet) -> String {
    safe(&in_words(when.text(), &Names(mold)))
}

/// Returns several conditions that must all hold in words.
pub fn all_in_words(mold: &Mold, whens: &[Snippet]) -> String {
    whens.iter().map(|when| words(mold, when)).collect::<Vec<_>>().join(", and ")
}

/// What people call the names of a mold.
struct Names<'a>(&'a Mold);

impl Names<'_> {
    fn question(&self, name: &str) -> Option<&Question> {
        self.0.questions.iter().find(|question| question.key == name)
    }
}

impl Naming for Names<'_> {
    fn name(&self, name: &str) -> Option<String> {
        if name == "system" {
            return Some("the system".to_owned());
        }
        let question = self.question(name).filter(|question| question.is_asked())?;
        Some(format!("\u{201c}{}\u{201d}", question.ask))
    }

    fn value(&self, name: &str, value: &str) -> Option<String> {
        if name == "system" {
            return Some(if value == "windows" { "Windows" } else { value }.to_owned());
        }
        let options = &self.question(name)?.options;
        let option = options.iter().find(|option| option.value == value)?;
        Some(if option.label.is_empty() { option.value.clone() } else { option.label.clone() })
    }

    fn definition(&self, name: &str) -> Option<String> {
        let id = self.0.scope.find(name)?;
        if let Some(derived) = self.0.derived.iter().find(|derived| derived.id == id) {
            return derived.is_expression.then(|| derived.snippet.text().to_owned());
        }
        // What the mold answers for a layer.
        match self.question(name).filter(|question| question.settled)?.hidden.as_ref()? {
            Offered::Fixed(Value::Flag(flag)) => Some(flag.to_string()),
            Offered::Text(text) => {
                let inner = text.text().strip_prefix("{=")?.strip_suffix("=}")?;
                (!inner.contains("{=")).then(|| inner.trim().to_owned())
            }
            _ => None,
        }
    }
}
