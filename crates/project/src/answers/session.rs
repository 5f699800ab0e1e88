//! An interview: the next question, the answers so far, and the way back.

use super::assign::assign_text;
use super::provenance::{AnswerSource, BuiltIns, Given, Offers};
use super::resolve::{self, Resolution, ResolvedAnswer, resolve_answers};
use tinmold_mold::{Kind, Mold, Refusal};
use tinmold_notation::{Finding, Value, Values};

/// The answering of one mold's questions.
///
/// An accepted default keeps following the answers it is computed from; a typed answer stays.
#[derive(Clone, Debug)]
pub struct Session<'m> {
    mold: &'m Mold,
    given: Vec<Option<Given>>,
    /// The user accepted the offered value.
    accepted: Vec<bool>,
    offers: Offers,
    built_ins: BuiltIns,
    details: bool,
    /// Secrets are in files that stay: they are not asked for.
    without_secrets: bool,
    resolved: Resolution,
}

/// The answers of a session at some moment, to go back to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SessionState {
    given: Vec<Option<Given>>,
    accepted: Vec<bool>,
}

/// A question without an acceptable answer.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Problem {
    /// The question's key.
    pub key: String,
    /// The source of the refused answer; [`AnswerSource::Nobody`] or [`AnswerSource::Default`] if
    /// none was given.
    pub source: AnswerSource,
    /// The refused answer as people write it; empty where there is none.
    pub value: String,
    /// Why it is refused, and what would be accepted.
    pub refusal: Refusal,
}

/// The answers of a finished session.
#[derive(Clone, Debug)]
pub struct Answers {
    /// The values of all names.
    pub values: Values,
    /// By index of the question in the mold: value and source.
    pub questions: Vec<ResolvedAnswer>,
    /// The values of the built-in names.
    pub built_ins: BuiltIns,
}

impl<'m> Session<'m> {
    /// Starts with the given answers, by index of the question in the mold.
    ///
    /// # Errors
    /// A default, condition or derived value of the mold that cannot be computed.
    pub fn new(
        mold: &'m Mold,
        given: Vec<Option<Given>>,
        offers: Offers,
        built_ins: BuiltIns,
    ) -> Result<Self, Finding> {
        let resolved = resolve_answers(mold, &given, &offers, &built_ins, None)?;
        let accepted = vec![false; mold.questions.len()];
        let without_secrets = false;
        Ok(Self { mold, given, accepted, offers, built_ins, details: false, without_secrets, resolved })
    }

    /// Returns the mold.
    #[must_use]
    pub fn mold(&self) -> &'m Mold {
        self.mold
    }

    /// Sets whether detail questions are asked too.
    pub fn ask_details(&mut self, details: bool) {
        self.details = details;
    }

    /// Asks for no secret: those of a project are in files of this machine, which stay as they are.
    pub fn leave_secrets(&mut self) {
        self.without_secrets = true;
    }

    /// Returns true for a question that is about a secret which nobody is asked for.
    #[must_use]
    pub fn leaves(&self, at: usize) -> bool {
        self.without_secrets && self.mold.questions[at].is_secret()
    }

    /// Returns true if the mold has detail questions that are not asked now.
    #[must_use]
    pub fn has_details(&self) -> bool {
        let questions = self.mold.questions.iter().zip(&self.resolved.questions);
        !self.details
            && questions.clone().any(|(q, resolved)| q.detail && q.is_asked() && resolved.is_visible())
    }

    /// Returns every question, resolved, by its index in the mold.
    #[must_use]
    pub fn resolved(&self) -> &[ResolvedAnswer] {
        &self.resolved.questions
    }

    /// Returns the current values of all names.
    #[must_use]
    pub fn values(&self) -> &Values {
        &self.resolved.values
    }

    /// Returns true if the user is asked this question at some point.
    fn is_for_person(&self, at: usize) -> bool {
        let (question, resolved) = (&self.mold.questions[at], &self.resolved.questions[at]);
        let by_source = resolved.source.is_given() && resolved.source != AnswerSource::Person;
        question.is_asked()
            && resolved.is_visible()
            && !self.leaves(at)
            && (resolved.refusal.is_some() || (!by_source && (self.details || !question.detail)))
    }

    fn is_answered(&self, at: usize) -> bool {
        (self.accepted[at] || self.given[at].is_some()) && self.resolved.questions[at].refusal.is_none()
    }

    /// Returns the next question: the first one without an acceptable answer.
    #[must_use]
    pub fn next(&self) -> Option<usize> {
        self.unanswered().next()
    }

    /// Returns the question asked before the one at `at`.
    #[must_use]
    pub fn before(&self, at: usize) -> Option<usize> {
        (0..at).rev().find(|at| self.is_for_person(*at))
    }

    /// Returns the number of the question at `at` among the asked ones, from 1, and their count.
    #[must_use]
    pub fn progress(&self, at: usize) -> (usize, usize) {
        let of_person: Vec<usize> =
            (0..self.mold.questions.len()).filter(|at| self.is_for_person(*at)).collect();
        (of_person.iter().position(|other| *other == at).map_or(0, |n| n + 1), of_person.len())
    }

    /// Why a value would be refused as the answer to the question at `at`.
    #[must_use]
    pub fn judge(&self, at: usize, value: &Value) -> Option<Refusal> {
        resolve::judge(&self.mold.questions[at], value, &self.resolved.questions[at].options)
    }

    /// Stores a user's answer. An answer equal to the offered value keeps following it; any other
    /// stays.
    ///
    /// # Errors
    /// A default, condition or derived value of the mold cannot be computed; nothing changes.
    pub fn answer(&mut self, at: usize, value: Value) -> Result<(), Finding> {
        let mut given = self.given.clone();
        given[at] = None;
        let offered = resolve_answers(self.mold, &given, &self.offers, &self.built_ins, None)?;
        let offer = &offered.questions[at];
        if offer.refusal.is_none() && offer.value == value {
            (self.given, self.resolved) = (given, offered);
            self.accepted[at] = true;
            return Ok(());
        }
        given[at] = Some(Given { value, source: AnswerSource::Person });
        self.resolved = resolve_answers(self.mold, &given, &self.offers, &self.built_ins, None)?;
        self.given = given;
        Ok(())
    }

    /// Returns the answers as they would be with `value` for the question at `at`, secrets masked. The session
    /// stays as it is.
    ///
    /// # Errors
    /// As for [`Session::answer`].
    pub fn preview_with(&self, at: usize, value: Value) -> Result<Answers, Finding> {
        let mut given = self.given.clone();
        given[at] = Some(Given { value, source: AnswerSource::Person });
        let resolved = resolve_answers(self.mold, &given, &self.offers, &self.built_ins, None)?;
        Ok(masked(self.mold, resolved, &self.built_ins))
    }

    /// Forgets what was given for the question at `at`: it takes what is offered.
    ///
    /// # Errors
    /// As for [`Session::answer`].
    pub fn forget(&mut self, at: usize) -> Result<(), Finding> {
        let mut given = self.given.clone();
        given[at] = None;
        self.resolved = resolve_answers(self.mold, &given, &self.offers, &self.built_ins, None)?;
        (self.given, self.accepted[at]) = (given, false);
        Ok(())
    }

    /// Returns the answers now, to restore them later.
    #[must_use]
    pub fn state(&self) -> SessionState {
        SessionState { given: self.given.clone(), accepted: self.accepted.clone() }
    }

    /// Restores the answers of an earlier moment.
    ///
    /// # Errors
    /// As for [`Session::answer`].
    pub fn restore(&mut self, state: &SessionState) -> Result<(), Finding> {
        self.resolved = resolve_answers(self.mold, &state.given, &self.offers, &self.built_ins, None)?;
        (self.given, self.accepted) = (state.given.clone(), state.accepted.clone());
        Ok(())
    }

    /// Returns the answer that someone gave to the question at `at`, also while it is not asked.
    #[must_use]
    pub fn given(&self, at: usize) -> Option<&Given> {
        self.given[at].as_ref()
    }

    /// Makes it this day, by ISO 8601, for `today` and `year`.
    ///
    /// # Errors
    /// A default, condition or derived value of the mold cannot be computed; nothing changes.
    pub fn set_day(&mut self, day: &str) -> Result<(), Finding> {
        let on = BuiltIns::on(day);
        let built_ins = BuiltIns { today: on.today, year: on.year, ..self.built_ins.clone() };
        self.resolved = resolve_answers(self.mold, &self.given, &self.offers, &built_ins, None)?;
        self.built_ins = built_ins;
        Ok(())
    }

    /// Asks a question again, in its turn.
    pub fn reopen(&mut self, at: usize) {
        self.accepted[at] = false;
    }

    /// Returns the questions still to be asked, in order.
    pub fn unanswered(&self) -> impl Iterator<Item = usize> + '_ {
        (0..self.mold.questions.len()).filter(|at| self.is_for_person(*at) && !self.is_answered(*at))
    }

    /// Returns the current answers with secrets masked, for everything that is shown before the write.
    #[must_use]
    pub fn preview(&self) -> Answers {
        masked(self.mold, self.resolved.clone(), &self.built_ins)
    }

    /// Everything that keeps the session from its end, in the order of the questions.
    #[must_use]
    pub fn problems(&self) -> Vec<Problem> {
        let questions = self.mold.questions.iter().zip(&self.resolved.questions).enumerate();
        let problems = questions.filter(|(at, (question, resolved))| {
            question.is_asked() && resolved.is_visible() && !self.leaves(*at)
        });
        problems
            .filter_map(|(_, (question, resolved))| {
                resolved.refusal.clone().map(|refusal| Problem {
                    key: question.key.clone(),
                    source: resolved.source.clone(),
                    value: match question.secret {
                        true => String::new(),
                        false => display_value(self.mold, &resolved.value),
                    },
                    refusal,
                })
            })
            .collect()
    }

    /// Returns the answers.
    ///
    /// # Errors
    /// Everything that is missing or refused.
    pub fn finish(self) -> Result<Answers, Vec<Problem>> {
        let problems = self.problems();
        if !problems.is_empty() {
            return Err(problems);
        }
        let problem = |key: &str, refusal: Refusal| {
            vec![Problem { key: key.to_owned(), source: AnswerSource::Minted, value: String::new(), refusal }]
        };
        let mut minted = vec![String::new(); self.mold.questions.len()];
        for (question, (resolved, value)) in
            self.mold.questions.iter().zip(self.resolved.questions.iter().zip(&mut minted))
        {
            if let (Kind::Minted { length }, true) = (question.kind, resolved.is_visible()) {
                *value = super::minted::mint(length).map_err(|error| {
                    let reason = format!("the system gives no randomness: {error}");
                    problem(&question.key, Refusal::new(reason, ""))
                })?;
            }
        }
        // What is computed from a secret is computed again, with the secret.
        let Self { mold, given, offers, built_ins, .. } = self;
        let Resolution { values, questions } =
            resolve_answers(mold, &given, &offers, &built_ins, Some(&minted))
                .map_err(|finding| problem("", Refusal::new(finding.message, "")))?;
        Ok(Answers { values, questions, built_ins })
    }
}

/// Returns answers without the secrets among them.
fn masked(mold: &Mold, resolved: Resolution, built_ins: &BuiltIns) -> Answers {
    let Resolution { values, mut questions } = resolved;
    for (question, resolved) in mold.questions.iter().zip(&mut questions) {
        if question.is_secret() {
            resolved.value = Value::Text(String::new());
        }
    }
    Answers { values, questions, built_ins: built_ins.clone() }
}

impl Answers {
    /// Sets the name of the project's directory, for `project.dir`.
    pub fn set_folder(&mut self, mold: &Mold, name: &str) {
        // The name is a text in every scope that has it.
        assign_text(&mut self.values, &mold.scope, "project.dir", name);
    }
}

/// Returns a value as people read it: options by their labels, a flag as yes or no.
#[must_use]
pub fn display_label(mold: &Mold, value: &Value) -> String {
    match value {
        Value::Option(of, Some(at)) => {
            let option = mold.scope.choices(*of).options().get(*at as usize);
            option.map_or_else(String::new, |option| option.label.clone())
        }
        Value::Flag(flag) => if *flag { "yes" } else { "no" }.to_owned(),
        Value::List(values) => {
            values.iter().map(|value| display_label(mold, value)).collect::<Vec<_>>().join(", ")
        }
        other => display_value(mold, other),
    }
}

/// Returns a value as people write it.
#[must_use]
pub fn display_value(mold: &Mold, value: &Value) -> String {
    match value {
        Value::Text(text) => text.clone(),
        Value::Integer(number) => number.to_string(),
        Value::Flag(flag) => flag.to_string(),
        Value::Option(of, at) => at
            .and_then(|at| mold.scope.choices(*of).options().get(at as usize))
            .map_or_else(String::new, |option| option.value.clone()),
        Value::List(values) => {
            values.iter().map(|value| display_value(mold, value)).collect::<Vec<_>>().join(", ")
        }
    }
}
