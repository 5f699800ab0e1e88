//! Sample answers, and texts that break out of careless quoting.

use tinmold_mold::{Form, Kind, Question};
use tinmold_notation::Value;
use tinmold_project::answers::judge;

/// Returns a sample answer to a question, this word in its form; `None` if it needs none or none is known.
pub(crate) fn sample(question: &Question, word: &str) -> Option<Value> {
    if question.example.is_some() {
        return question.example.clone();
    }
    if !question.is_asked() || question.rules.optional {
        return None;
    }
    let value = match (question.kind, question.rules.form) {
        (Kind::Text, Some(form)) => Value::Text(form.bend(word).unwrap_or_else(|| word.into())),
        (Kind::Text, None) => Value::Text(word.into()),
        (Kind::Integer, _) => Value::Integer(question.rules.min.or(question.rules.max).unwrap_or(1)),
        _ => return None,
    };
    judge(question, &value, &[]).is_none().then_some(value)
}

/// Quotes, signs of many languages, letters beyond ASCII.
const ODD: &str = "The pilot's \"Gull & Heron\" <1>, 50 % {of} \\ $HOME; caf\u{e9} \u{645}\u{631} # end";

/// Returns an odd text that a question takes, if it takes free text.
pub(crate) fn odd_texts(question: &Question) -> Option<String> {
    let is_free =
        question.rules.form.is_none_or(|form| form == Form::Plain) && question.rules.pattern.is_none();
    if !question.is_asked() || question.secret || question.from_casting || !is_free {
        return None;
    }
    match question.kind {
        Kind::Text => judge(question, &Value::Text(ODD.to_owned()), &[]).is_none().then(|| ODD.to_owned()),
        Kind::Texts => {
            let value = Value::List(vec![Value::Text(ODD.to_owned())]);
            let as_json = || serde_json::json!([ODD]).to_string();
            judge(question, &value, &[]).is_none().then(as_json)
        }
        _ => None,
    }
}
