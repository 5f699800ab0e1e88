//! The recorded answers, carried to the questions of another version of the mold.

use super::decision::Note;
use crate::answers::{AnswerSource, Given, Offers, Session, display_value};
use crate::record::Casting;
use tinmold_mold::{Mold, Question, Refusal, typed};
use tinmold_notation::Finding;

/// The answers of a record, as the questions of a mold take them.
#[derive(Clone, Debug, Default)]
pub struct Carried {
    /// By index of the question in the mold.
    pub given: Vec<Option<Given>>,
    /// Answers that their questions do not take any more: somebody has to answer them again.
    pub gone: Vec<GoneAnswer>,
    /// The keys that no question has any more.
    pub dropped: Vec<String>,
}

/// An answer that its question does not take any more.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct GoneAnswer {
    /// The key of its question.
    pub key: String,
    /// The recorded answer, as TOML writes it.
    pub answer: String,
    /// Why it is refused.
    pub refusal: Refusal,
}

/// Carries recorded answers to the questions of a mold. Keys and options that were renamed are found by `was`.
#[must_use]
pub fn carry(mold: &Mold, answers: &toml::Table) -> Carried {
    let mut carried = Carried { given: vec![None; mold.questions.len()], ..Carried::default() };
    for (key, value) in answers {
        let questions = || mold.questions.iter().enumerate();
        let is_now = |(_, question): &(usize, &Question)| question.key == *key;
        let was = |(_, question): &(usize, &Question)| question.was.contains(key);
        let found = questions().find(is_now).or_else(|| questions().find(was));
        let Some((at, question)) = found.filter(|(_, question)| question.is_asked()) else {
            carried.dropped.push(key.clone());
            continue;
        };
        match typed(question.kind, &renamed(question, value), &mold.scope) {
            Ok(value) => carried.given[at] = Some(Given { value, source: AnswerSource::Casting }),
            Err(refusal) => {
                let reason = format!("the project's answer was {value}: {}", refusal.reason);
                carried.gone.push(GoneAnswer {
                    key: question.key.clone(),
                    answer: value.to_string(),
                    refusal: Refusal::new(reason, refusal.advice),
                });
            }
        }
    }
    carried
}

/// Starts a session with the answers of a record. A question whose answer is gone stands open, and secrets are not asked
/// for: they are in files that stay.
///
/// # Errors
/// A default, condition or derived value of the mold cannot be computed.
pub fn carried_session<'m>(mold: &'m Mold, casting: &Casting) -> Result<Session<'m>, Finding> {
    let Carried { given, gone, .. } = carry(mold, &casting.answers);
    let offers = Offers {
        folder: Some(casting.built_in.project_dir.clone()),
        anew: gone.into_iter().map(|gone| (gone.key, gone.refusal)).collect(),
        ..Offers::default()
    };
    let mut session = Session::new(mold, given, offers, casting.built_ins())?;
    session.leave_secrets();
    Ok(session)
}

/// Returns an answer with the present names of its options.
fn renamed(question: &Question, value: &toml::Value) -> toml::Value {
    let present = |text: &String| {
        let is_known = question.options.iter().any(|option| option.value == *text);
        let now = question.options.iter().find(|option| !is_known && option.was.contains(text));
        now.map_or_else(|| text.clone(), |option| option.value.clone())
    };
    match value {
        toml::Value::String(text) => toml::Value::String(present(text)),
        toml::Value::Array(elements) => {
            toml::Value::Array(elements.iter().map(|element| renamed(question, element)).collect())
        }
        other => other.clone(),
    }
}

/// Returns the questions whose default is another one now, with that default: those that the recorded answer took as it
/// was offered, and that it would not take now. `old` is a session of the recorded answers with the old version,
/// `session` one with the new version.
#[must_use]
pub fn changed_defaults(old: &Session<'_>, session: &Session<'_>) -> Vec<Note> {
    let default = |session: &Session<'_>, at: usize| -> Option<String> {
        let mut without = session.clone();
        without.forget(at).ok()?;
        let resolved = &without.resolved()[at];
        let is_offered = resolved.refusal.is_none() && resolved.source == AnswerSource::Default;
        is_offered.then(|| display_value(session.mold(), &resolved.value))
    };
    let mold = session.mold();
    let questions = mold.questions.iter().zip(session.resolved()).enumerate();
    let recorded = questions.filter(|(_, (question, answer))| {
        answer.source == AnswerSource::Casting && question.is_asked() && !question.secret
    });
    recorded
        .filter_map(|(at, (question, answer))| {
            let was = |other: &Question| other.key == question.key || question.was.contains(&other.key);
            let before = default(old, old.mold().questions.iter().position(was)?)?;
            let (now, answer) = (default(session, at)?, display_value(mold, &answer.value));
            let is_renamed =
                question.options.iter().any(|option| option.value == answer && option.was.contains(&before));
            ((before == answer || is_renamed) && now != answer)
                .then(|| Note::Default { key: question.key.clone(), value: now })
        })
        .collect()
}
