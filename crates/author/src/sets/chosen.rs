//! The sets that a mold is tried with.

use super::answer_set::{AnswerSet, session};
use super::combinations::combinations;
use super::texts::odd_texts;
use tinmold_mold::{Kind, Mold};
use tinmold_notation::{Finding, Value};
use tinmold_project::answers::{SheetFormat, display_value, read_sheet};

/// Why the answers of an approved output cannot be used.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{0}")]
pub struct BadAnswers(String);

/// Returns the sets with which a mold is tried: the defaults, its presets, the answers of its approved outputs, and
/// sets in which every `strength` choices meet.
///
/// # Errors
/// The mold fails on the defaults.
pub fn plain(mold: &Mold, strength: usize) -> Result<Vec<AnswerSet>, Finding> {
    let mut sets = combinations(mold, strength)?;
    let presets = mold.presets.keys().map(|name| AnswerSet::of_preset(name));
    let named = approved_sets(mold).into_iter().filter_map(|(_, set)| set.ok());
    let more: Vec<AnswerSet> = presets.chain(named).filter(|set| !sets.contains(set)).collect();
    sets.splice(1..1, more);
    Ok(sets)
}

/// Returns a set with texts that break out of careless quoting for every question of free text that it asks and does
/// not answer; `None` if there is none.
pub fn with_odd_texts(mold: &Mold, set: &AnswerSet) -> Option<AnswerSet> {
    let session = session(mold, set).ok()?;
    // An empty text of the set stays empty.
    let questions = mold.questions.iter().zip(session.resolved());
    let open =
        questions.filter(|(question, resolved)| resolved.is_visible() && set.answer(&question.key).is_none());
    let texts: Vec<_> =
        open.filter_map(|(question, _)| Some((question.key.clone(), odd_texts(question)?))).collect();
    (!texts.is_empty())
        .then(|| AnswerSet { answers: [set.answers.as_slice(), &texts].concat(), ..set.clone() })
}

/// Returns the names of the approved outputs of a mold with their answers.
pub fn approved_sets(mold: &Mold) -> Vec<(String, Result<AnswerSet, BadAnswers>)> {
    let named = mold.package.files.iter().filter_map(|file| {
        let name = file.path.strip_prefix("proofs/")?.strip_suffix("/answers.toml")?;
        (!name.contains('/')).then(|| (name.to_owned(), file))
    });
    let read = |file: &tinmold_mold::File| {
        let bytes = file.read().map_err(|error| BadAnswers(error.to_string()))?;
        let text = String::from_utf8_lossy(&bytes);
        let sheet =
            read_sheet(mold, &text, SheetFormat::Toml).map_err(|error| BadAnswers(error.to_string()))?;
        if let Some(wrong) = sheet.wrong.first() {
            return Err(BadAnswers(format!("{}: {}", wrong.key, wrong.refusal.reason)));
        }
        let text_of = |at: usize, value: &Value| match (mold.questions[at].kind, value) {
            (Kind::Texts, Value::List(values)) => {
                let texts: Vec<String> = values.iter().map(|value| display_value(mold, value)).collect();
                serde_json::Value::from(texts).to_string()
            }
            _ => display_value(mold, value),
        };
        let answers =
            sheet.answers.iter().map(|(at, value)| (mold.questions[*at].key.clone(), text_of(*at, value)));
        Ok(AnswerSet { preset: None, answers: answers.collect() })
    };
    named.map(|(name, file)| (name, read(file))).collect()
}
