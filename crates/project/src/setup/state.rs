//! Answers in any order, with what was typed and refused, and the way back.

use super::ticks::{Ticked, ticked};
use crate::answers::{AnswerSource, Answers, Session, SessionState, display_value, parse_text};
use std::collections::BTreeMap;
use tinmold_mold::{Kind, Mold, Offered, Question, Refusal};
use tinmold_notation::{Finding, Value};

/// A session that is answered in any order.
///
/// Every accepted change goes into the session at once. What is typed and refused is kept beside it, with the
/// reason, until it is mended: the session then holds the last acceptable answer.
#[derive(Debug)]
pub struct Setup<'m> {
    session: Session<'m>,
    rejected: BTreeMap<usize, Rejected>,
    before: Vec<Moment>,
    after: Vec<Moment>,
    /// The question whose typing joins the last change.
    typing: Option<usize>,
    changed: bool,
}

/// A text that is no answer.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Rejected {
    /// The text as it was typed.
    pub text: String,
    /// Why it is refused, and what would be accepted.
    pub refusal: Refusal,
}

/// The answers at some moment.
#[derive(Clone, Debug, PartialEq)]
struct Moment {
    state: SessionState,
    rejected: BTreeMap<usize, Rejected>,
    /// The question that was changed afterwards.
    question: usize,
}

/// Where an answer comes from, for people.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Standing {
    /// The user gave it.
    Yours,
    /// It is computed from other answers, and follows them.
    Follows,
    /// It comes from this source.
    From(AnswerSource),
}

/// An option that may be taken, or taken back.
#[derive(Clone, Debug, PartialEq)]
pub struct Alternative {
    /// The index of the option; for a flag 0 for yes and 1 for no.
    pub option: u16,
    /// The answer with it.
    pub value: Value,
    /// True if it is the answer now.
    pub taken: bool,
}

impl<'m> Setup<'m> {
    /// Sets up from a session.
    #[must_use]
    pub fn new(session: Session<'m>) -> Self {
        Self {
            session,
            rejected: BTreeMap::new(),
            before: Vec::new(),
            after: Vec::new(),
            typing: None,
            changed: false,
        }
    }

    /// Returns the session.
    #[must_use]
    pub fn session(&self) -> &Session<'m> {
        &self.session
    }

    /// Returns the session for what comes afterwards.
    #[must_use]
    pub fn into_session(self) -> Session<'m> {
        self.session
    }

    /// Returns the mold.
    #[must_use]
    pub fn mold(&self) -> &'m Mold {
        self.session.mold()
    }

    /// Returns the question at `at`.
    #[must_use]
    pub fn question(&self, at: usize) -> &'m Question {
        &self.session.mold().questions[at]
    }

    /// Returns true if the user has changed something.
    #[must_use]
    pub fn is_changed(&self) -> bool {
        self.changed
    }

    /// Returns what was typed for a question and refused.
    #[must_use]
    pub fn rejected(&self, at: usize) -> Option<&Rejected> {
        self.rejected.get(&at)
    }

    /// Returns why the answer to a question cannot be used: what was typed, or what it takes.
    #[must_use]
    pub fn refusal(&self, at: usize) -> Option<&Refusal> {
        let resolved = &self.session.resolved()[at];
        let rejected = self.rejected.get(&at).map(|rejected| &rejected.refusal);
        rejected.or(resolved.refusal.as_ref()).filter(|_| resolved.is_visible() && !self.session.leaves(at))
    }

    /// Returns the questions that keep the project from being written, in their order.
    #[must_use]
    pub fn unusable(&self) -> Vec<usize> {
        let all = 0..self.mold().questions.len();
        all.filter(|at| self.question(*at).is_asked() && self.refusal(*at).is_some()).collect()
    }

    /// Returns the text of an answer, as it is edited: what was typed, even if it is refused.
    #[must_use]
    pub fn text(&self, at: usize) -> String {
        match self.rejected.get(&at) {
            Some(rejected) => rejected.text.clone(),
            None => display_value(self.mold(), &self.session.resolved()[at].value),
        }
    }

    /// Returns the elements of an answer that is a list of texts.
    #[must_use]
    pub fn elements(&self, at: usize) -> Vec<String> {
        match &self.session.resolved()[at].value {
            Value::List(values) => values.iter().map(|value| display_value(self.mold(), value)).collect(),
            _ => Vec::new(),
        }
    }

    /// Returns where the answer to a question comes from.
    #[must_use]
    pub fn standing(&self, at: usize) -> Standing {
        let source = &self.session.resolved()[at].source;
        let is_computed = match &self.question(at).default {
            Some(Offered::Text(snippet)) => !snippet.is_fixed(),
            Some(Offered::Texts(snippets)) => snippets.iter().any(|snippet| !snippet.is_fixed()),
            _ => false,
        };
        match source {
            AnswerSource::Person => Standing::Yours,
            _ if self.rejected.contains_key(&at) => Standing::Yours,
            AnswerSource::Default if is_computed => Standing::Follows,
            other => Standing::From(other.clone()),
        }
    }

    /// Makes a change of a question, and remembers the answers as they were. Typing into one question is one change.
    fn change(
        &mut self,
        at: usize,
        is_typing: bool,
        make: impl FnOnce(&mut Session<'m>, &mut BTreeMap<usize, Rejected>) -> Result<(), Finding>,
    ) -> Result<(), Finding> {
        let was = self.moment(at);
        make(&mut self.session, &mut self.rejected)?;
        if (&was.state, &was.rejected) == (&self.session.state(), &self.rejected) {
            return Ok(());
        }
        if !(is_typing && self.typing == Some(at)) {
            self.before.push(was);
        }
        self.after.clear();
        self.typing = is_typing.then_some(at);
        self.changed = true;
        Ok(())
    }

    fn moment(&self, question: usize) -> Moment {
        Moment { state: self.session.state(), rejected: self.rejected.clone(), question }
    }

    /// Ends the typing: what is typed next is another change.
    pub fn end_typing(&mut self) {
        self.typing = None;
    }

    /// Takes a text as the answer to a question. A text that is refused is kept, with the reason.
    ///
    /// # Errors
    /// A default, condition or derived value of the mold cannot be computed; nothing changes.
    pub fn type_text(&mut self, at: usize, text: &str) -> Result<(), Finding> {
        let value = parse_text(self.question(at), text, &self.mold().scope);
        self.take_text(at, text, value, true)
    }

    /// Takes the elements of a list of texts, one a line, or a text of several lines.
    ///
    /// # Errors
    /// As for [`Setup::type_text`].
    pub fn take_lines(&mut self, at: usize, text: &str) -> Result<(), Finding> {
        let value = match self.question(at).kind {
            Kind::Texts => {
                let lines = text.lines().filter(|line| !line.trim().is_empty());
                Value::List(lines.map(|line| Value::Text(line.trim().to_owned())).collect())
            }
            _ => Value::Text(text.to_owned()),
        };
        self.take_text(at, text, Ok(value), false)
    }

    fn take_text(
        &mut self,
        at: usize,
        text: &str,
        value: Result<Value, Refusal>,
        is_typing: bool,
    ) -> Result<(), Finding> {
        self.change(at, is_typing, |session, rejected| {
            match value.and_then(|value| session.judge(at, &value).map_or(Ok(value), Err)) {
                Ok(value) => {
                    session.answer(at, value)?;
                    rejected.remove(&at);
                }
                Err(refusal) => {
                    rejected.insert(at, Rejected { text: text.to_owned(), refusal });
                }
            }
            Ok(())
        })
    }

    /// Returns the options of a question that are on offer, each with the answer that taking it gives, or taking
    /// it back where several can be ticked.
    #[must_use]
    pub fn alternatives(&self, at: usize) -> Vec<Alternative> {
        let (question, resolved) = (self.question(at), &self.session.resolved()[at]);
        let picked = self.mold().picked(&resolved.value);
        let offered = |option: &u16| resolved.options.get(*option as usize) != Some(&false);
        let options = (0..question.options.len()).filter_map(|option| u16::try_from(option).ok());
        match question.kind {
            Kind::Flag => [true, false]
                .into_iter()
                .zip(0..)
                .map(|(flag, option)| Alternative {
                    option,
                    value: Value::Flag(flag),
                    taken: resolved.value == Value::Flag(flag),
                })
                .collect(),
            Kind::OneOf(of) => options
                .filter(offered)
                .map(|option| Alternative {
                    option,
                    value: Value::Option(of, Some(option)),
                    taken: picked.contains(&option),
                })
                .collect(),
            Kind::SomeOf(of) => options
                .filter(offered)
                .map(|option| {
                    let value = ticked(question, of, &picked, option).map(|ticked| ticked.value);
                    Alternative {
                        option,
                        value: value.unwrap_or_else(|_| resolved.value.clone()),
                        taken: picked.contains(&option),
                    }
                })
                .collect(),
            _ => Vec::new(),
        }
    }

    /// Takes an option of a question with one answer, or yes or no of a flag.
    ///
    /// # Errors
    /// As for [`Setup::type_text`].
    pub fn pick(&mut self, at: usize, value: Value) -> Result<(), Finding> {
        self.change(at, false, |session, rejected| {
            rejected.remove(&at);
            session.answer(at, value)
        })
    }

    /// Ticks an option, or takes the tick back, with all that this forces. Returns what it forced; or why the
    /// option cannot be ticked, and nothing changes.
    ///
    /// # Errors
    /// As for [`Setup::type_text`].
    pub fn tick(&mut self, at: usize, option: u16) -> Result<Result<Ticked, Refusal>, Finding> {
        let question = self.question(at);
        let Kind::SomeOf(of) = question.kind else {
            return Ok(Err(Refusal::new("it has no options to tick", "")));
        };
        let resolved = &self.session.resolved()[at];
        let picked = self.mold().picked(&resolved.value);
        let result = match ticked(question, of, &picked, option) {
            Ok(result) => result,
            Err(refusal) => return Ok(Err(refusal)),
        };
        let forced =
            result.ticked.iter().find(|other| resolved.options.get(**other as usize) == Some(&false));
        if let Some(other) = forced {
            let label = |at: u16| question.options[at as usize].label.clone();
            let reason = format!("it needs {}, which does not go with the other answers", label(*other));
            return Ok(Err(Refusal::new(reason, "change what that depends on first")));
        }
        let value = result.value.clone();
        self.change(at, false, |session, rejected| {
            rejected.remove(&at);
            session.answer(at, value)
        })?;
        Ok(Ok(result))
    }

    /// Goes back to what a question takes without the user.
    ///
    /// # Errors
    /// As for [`Setup::type_text`].
    pub fn forget(&mut self, at: usize) -> Result<(), Finding> {
        self.change(at, false, |session, rejected| {
            rejected.remove(&at);
            session.forget(at)
        })
    }

    /// Takes the last change back, or makes it again. Returns the question that changed; `None` if there is
    /// nothing to take back.
    ///
    /// # Errors
    /// As for [`Setup::type_text`].
    pub fn undo(&mut self) -> Result<Option<usize>, Finding> {
        let Some(moment) = self.before.pop() else { return Ok(None) };
        self.after.push(self.moment(moment.question));
        self.go_to(moment).map(Some)
    }

    /// Makes the last change again that was taken back.
    ///
    /// # Errors
    /// As for [`Setup::type_text`].
    pub fn redo(&mut self) -> Result<Option<usize>, Finding> {
        let Some(moment) = self.after.pop() else { return Ok(None) };
        self.before.push(self.moment(moment.question));
        self.go_to(moment).map(Some)
    }

    fn go_to(&mut self, moment: Moment) -> Result<usize, Finding> {
        self.session.restore(&moment.state)?;
        self.rejected = moment.rejected;
        self.typing = None;
        Ok(moment.question)
    }

    /// Returns the answers with `value` for the question at `at`, secrets masked. Nothing changes.
    ///
    /// # Errors
    /// As for [`Setup::type_text`].
    pub fn answers_with(&self, at: usize, value: Value) -> Result<Answers, Finding> {
        self.session.preview_with(at, value)
    }
}
