//! A person's way through the questions: what is asked next, what was answered, going back.

use super::Refusal;
use super::given::{BuiltIns, Given, Offers, Source};
use super::settle::{self, Settled, Settlement};
use crate::mold::{Kind, Mold};
use tinmold_notation::{Finding, Value, Values};

/// The answering of one mold's questions.
///
/// What a person accepts as offered goes on following the answers that it comes from; what they typed stays.
#[derive(Debug)]
pub struct Session<'m> {
    mold: &'m Mold,
    given: Vec<Option<Given>>,
    /// What a person accepted as it was offered.
    accepted: Vec<bool>,
    offers: Offers,
    built_ins: BuiltIns,
    details: bool,
    settled: Settlement,
}

/// A question that has no answer that can stand.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Problem {
    /// The question's key.
    pub key: String,
    /// Where the refused answer comes from; [`Source::Nobody`] and [`Source::Default`] where none was given.
    pub source: Source,
    /// The refused answer as people write it; empty where there is none.
    pub value: String,
    /// Why it cannot stand, and what would do.
    pub refusal: Refusal,
}

/// The answers of a finished session.
#[derive(Clone, Debug)]
pub struct Answers {
    /// The values of all names.
    pub values: Values,
    /// By the question's place in the mold: value and source.
    pub questions: Vec<Settled>,
    /// The values of the built-in names.
    pub built_ins: BuiltIns,
}

impl<'m> Session<'m> {
    /// Begins with what the sources gave, by the question's place in the mold.
    ///
    /// # Errors
    /// A default, condition or derived value of the mold that cannot be computed.
    pub fn new(
        mold: &'m Mold,
        given: Vec<Option<Given>>,
        offers: Offers,
        built_ins: BuiltIns,
    ) -> Result<Self, Finding> {
        let settled = settle::settle(mold, &given, &offers, &built_ins)?;
        let accepted = vec![false; mold.questions.len()];
        Ok(Self { mold, given, accepted, offers, built_ins, details: false, settled })
    }

    /// The mold.
    #[must_use]
    pub fn mold(&self) -> &'m Mold {
        self.mold
    }

    /// Whether detail questions are asked too.
    pub fn ask_details(&mut self, details: bool) {
        self.details = details;
    }

    /// Whether there are detail questions that nobody is asked as things stand.
    #[must_use]
    pub fn has_details(&self) -> bool {
        let questions = self.mold.questions.iter().zip(&self.settled.questions);
        !self.details
            && questions.clone().any(|(q, settled)| q.detail && q.is_asked() && settled.is_visible())
    }

    /// Every question, settled, by its place in the mold.
    #[must_use]
    pub fn settled(&self) -> &[Settled] {
        &self.settled.questions
    }

    /// The values of all names as things stand.
    #[must_use]
    pub fn values(&self) -> &Values {
        &self.settled.values
    }

    /// Whether a person is asked this question at some point.
    fn is_for_person(&self, at: usize) -> bool {
        let (question, settled) = (&self.mold.questions[at], &self.settled.questions[at]);
        let by_source = settled.source.is_given() && settled.source != Source::Person;
        question.is_asked()
            && settled.is_visible()
            && (settled.refusal.is_some() || (!by_source && (self.details || !question.detail)))
    }

    fn is_answered(&self, at: usize) -> bool {
        (self.accepted[at] || self.given[at].is_some()) && self.settled.questions[at].refusal.is_none()
    }

    /// The question to ask next: the first in order that has no answer that can stand.
    #[must_use]
    pub fn next(&self) -> Option<usize> {
        self.unanswered().next()
    }

    /// The question that a person was asked before the one at `at`.
    #[must_use]
    pub fn before(&self, at: usize) -> Option<usize> {
        (0..at).rev().find(|at| self.is_for_person(*at))
    }

    /// How many questions a person is asked, and the number of the one at `at` among them, from 1.
    #[must_use]
    pub fn progress(&self, at: usize) -> (usize, usize) {
        let of_person: Vec<usize> =
            (0..self.mold.questions.len()).filter(|at| self.is_for_person(*at)).collect();
        (of_person.iter().position(|other| *other == at).map_or(0, |n| n + 1), of_person.len())
    }

    /// Why a value would be refused as the answer to the question at `at`.
    #[must_use]
    pub fn judge(&self, at: usize, value: &Value) -> Option<Refusal> {
        settle::judge(&self.mold.questions[at], value, &self.settled.questions[at].options)
    }

    /// Takes a person's answer. What equals the offer follows it from now on; anything else stays as it is.
    ///
    /// # Errors
    /// A default, condition or derived value of the mold that cannot be computed now; nothing is changed then.
    pub fn answer(&mut self, at: usize, value: Value) -> Result<(), Finding> {
        let mut given = self.given.clone();
        given[at] = None;
        let offered = settle::settle(self.mold, &given, &self.offers, &self.built_ins)?;
        let offer = &offered.questions[at];
        if offer.refusal.is_none() && offer.value == value {
            (self.given, self.settled) = (given, offered);
            self.accepted[at] = true;
            return Ok(());
        }
        given[at] = Some(Given { value, source: Source::Person });
        self.settled = settle::settle(self.mold, &given, &self.offers, &self.built_ins)?;
        self.given = given;
        Ok(())
    }

    /// Makes it this day, by ISO 8601, for `today` and `year`.
    ///
    /// # Errors
    /// A default, condition or derived value of the mold that cannot be computed now; nothing is changed then.
    pub fn set_day(&mut self, day: &str) -> Result<(), Finding> {
        let on = BuiltIns::on(day);
        let built_ins = BuiltIns { today: on.today, year: on.year, ..self.built_ins.clone() };
        self.settled = settle::settle(self.mold, &self.given, &self.offers, &built_ins)?;
        self.built_ins = built_ins;
        Ok(())
    }

    /// Asks a question again when its turn comes.
    pub fn reopen(&mut self, at: usize) {
        self.accepted[at] = false;
    }

    /// The questions that a person would still be asked, in their order, as things stand.
    pub fn unanswered(&self) -> impl Iterator<Item = usize> + '_ {
        (0..self.mold.questions.len()).filter(|at| self.is_for_person(*at) && !self.is_answered(*at))
    }

    /// The answers as they stand, with minted values masked, for a look before the end.
    #[must_use]
    pub fn preview(&self) -> Answers {
        let (mut values, questions) = (self.settled.values.clone(), self.settled.questions.clone());
        for question in &self.mold.questions {
            if let Kind::Minted { length } = question.kind {
                // A minted value is a text, as its question says.
                let _ = values.set(&self.mold.scope, question.id, Value::Text("*".repeat(length as usize)));
            }
        }
        Answers { values, questions, built_ins: self.built_ins.clone() }
    }

    /// Everything that keeps the session from its end, in the order of the questions.
    #[must_use]
    pub fn problems(&self) -> Vec<Problem> {
        let questions = self.mold.questions.iter().zip(&self.settled.questions);
        let problems = questions.filter(|(question, settled)| question.is_asked() && settled.is_visible());
        problems
            .filter_map(|(question, settled)| {
                settled.refusal.clone().map(|refusal| Problem {
                    key: question.key.clone(),
                    source: settled.source.clone(),
                    value: written(self.mold, &settled.value),
                    refusal,
                })
            })
            .collect()
    }

    /// The answers.
    ///
    /// # Errors
    /// Everything that is missing or refused.
    pub fn finish(self) -> Result<Answers, Vec<Problem>> {
        let problems = self.problems();
        if !problems.is_empty() {
            return Err(problems);
        }
        let Settlement { mut values, mut questions } = self.settled;
        for (question, settled) in self.mold.questions.iter().zip(&mut questions) {
            if let (Kind::Minted { length }, true) = (question.kind, settled.is_visible()) {
                let minted = super::minted::mint(length).map_err(|error| {
                    vec![Problem {
                        key: question.key.clone(),
                        source: Source::Minted,
                        value: String::new(),
                        refusal: Refusal::new(format!("the system gives no randomness: {error}"), ""),
                    }]
                })?;
                settled.value = Value::Text(minted);
                // A minted value is a text, as its question says.
                let _ = values.set(&self.mold.scope, question.id, settled.value.clone());
            }
        }
        Ok(Answers { values, questions, built_ins: self.built_ins })
    }
}

impl Answers {
    /// Says what the casting's folder is called, for `project.dir`.
    pub fn set_folder(&mut self, mold: &Mold, name: &str) {
        // The name is a text in every scope that has it.
        let _ = self.values.set_text(&mold.scope, "project.dir", name);
    }
}

/// A value as people write it.
#[must_use]
pub fn written(mold: &Mold, value: &Value) -> String {
    match value {
        Value::Text(text) => text.clone(),
        Value::Integer(number) => number.to_string(),
        Value::Flag(flag) => flag.to_string(),
        Value::Option(of, at) => at
            .and_then(|at| mold.scope.choices(*of).options().get(at as usize))
            .map_or_else(String::new, |option| option.value.clone()),
        Value::List(values) => values.iter().map(|value| written(mold, value)).collect::<Vec<_>>().join(", "),
    }
}
