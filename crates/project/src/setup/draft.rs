//! What a user gave and did not write, for the next time. Secrets are not kept.

use super::state::Setup;
use crate::answers::{AnswerSource, SheetFormat, as_toml, read_sheet};
use tinmold_notation::Finding;

/// The table of a draft with what was typed and refused.
const REFUSED: &str = "refused";
/// The table of a draft with the accepted answers.
const ANSWERS: &str = "answers";

/// Returns what the user gave as TOML: the answers, and the texts that were refused. `None` if there is nothing.
#[must_use]
pub fn draft_of(setup: &Setup<'_>) -> Option<String> {
    let mold = setup.mold();
    let (mut answers, mut refused) = (toml::Table::new(), toml::Table::new());
    for (at, question) in mold.questions.iter().enumerate().filter(|(_, question)| !question.is_secret()) {
        if let Some(given) = setup.session().given(at).filter(|given| given.source == AnswerSource::Person) {
            answers.insert(question.key.clone(), as_toml(mold, &given.value));
        }
        if let Some(rejected) = setup.rejected(at) {
            refused.insert(question.key.clone(), toml::Value::String(rejected.text.clone()));
        }
    }
    if answers.is_empty() && refused.is_empty() {
        return None;
    }
    let mut draft = toml::Table::new();
    draft.insert(ANSWERS.to_owned(), toml::Value::Table(answers));
    draft.insert(REFUSED.to_owned(), toml::Value::Table(refused));
    Some(draft.to_string())
}

/// Takes a draft over. Answers that the mold does not know any more are left out. Returns how many were taken.
///
/// # Errors
/// A default, condition or derived value of the mold cannot be computed.
pub fn take_draft(setup: &mut Setup<'_>, draft: &str) -> Result<usize, Finding> {
    let Ok(draft) = draft.parse::<toml::Table>() else { return Ok(0) };
    let text = |name: &str| draft.get(name).and_then(toml::Value::as_table).cloned().unwrap_or_default();
    let mut taken = 0;
    let sheet = read_sheet(setup.mold(), &text(ANSWERS).to_string(), SheetFormat::Toml);
    for (at, value) in sheet.map_or_else(|_| Vec::new(), |sheet| sheet.answers) {
        if !setup.question(at).is_secret() {
            setup.pick(at, value)?;
            taken += 1;
        }
    }
    for (key, value) in text(REFUSED) {
        let at =
            setup.mold().questions.iter().position(|question| question.key == key && !question.is_secret());
        if let (Some(at), Some(text)) = (at, value.as_str()) {
            setup.type_text(at, text)?;
            taken += 1;
        }
    }
    setup.end_typing();
    Ok(taken)
}
