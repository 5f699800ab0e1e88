//! A set of answers to try a mold with.

use super::texts::sample;
use std::fmt;
use tinmold_mold::Mold;
use tinmold_notation::Finding;
use tinmold_project::answers::{AnswerSource, BuiltIns, Given, Offers, Session, parse_text};

/// Answers to try a mold with. What is not in it takes the answer of the preset, else the default, else a sample.
#[derive(Clone, Debug, Default, PartialEq, Eq, Hash)]
pub struct AnswerSet {
    /// The preset of the mold that it begins with.
    pub preset: Option<String>,
    /// Key and text, as `--set` takes them.
    pub answers: Vec<(String, String)>,
}

impl AnswerSet {
    /// Returns the answers of a preset.
    #[must_use]
    pub fn of_preset(name: &str) -> Self {
        Self { preset: Some(name.to_owned()), answers: Vec::new() }
    }

    /// Returns true if it consists of defaults only.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.preset.is_none() && self.answers.is_empty()
    }

    /// Returns the text of the answer to the question `key`.
    #[must_use]
    pub fn answer(&self, key: &str) -> Option<&str> {
        self.answers.iter().find(|(own, _)| own == key).map(|(_, text)| text.as_str())
    }

    /// Returns the options of a command line that give these answers.
    #[must_use]
    pub fn arguments(&self) -> Vec<String> {
        let preset = self.preset.iter().flat_map(|name| ["--preset".to_owned(), name.clone()]);
        let answers = self.answers.iter();
        preset.chain(answers.flat_map(|(key, text)| ["--set".to_owned(), format!("{key}={text}")])).collect()
    }
}

/// `the defaults`, or `database=sqlite and extras=compose`.
impl fmt::Display for AnswerSet {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let mut all: Vec<String> = self.preset.iter().map(|name| format!("the preset `{name}`")).collect();
        all.extend(self.answers.iter().map(|(key, text)| match text.is_empty() {
            true => format!("no {key}"),
            false => format!("{key}={text}"),
        }));
        match all.as_slice() {
            [] => f.write_str("the defaults"),
            [one] => f.write_str(one),
            [first @ .., last] => write!(f, "{} and {last}", first.join(", ")),
        }
    }
}

/// Returns a fixed date, so that the same check finds the same at any time.
pub(crate) fn built_ins() -> BuiltIns {
    let user_name = "Ada Tern".to_owned();
    let user_email = "ada.tern@saltmarsh.example".to_owned();
    BuiltIns { user_name, user_email, ..BuiltIns::on("2000-01-01") }
}

/// Returns the answers of a set, by index of the question; a sample where a question has no default.
pub(crate) fn given(mold: &Mold, set: &AnswerSet) -> Vec<Option<Given>> {
    let preset = set.preset.as_deref().and_then(|name| mold.presets.get(name));
    let in_preset = |at: usize| preset.is_some_and(|preset| preset.answers.iter().any(|(own, _)| *own == at));
    // What a part adds is not called like the project.
    let word = if mold.home.is_empty() { "sample" } else { "added" };
    let value = |at: usize| {
        let question = &mold.questions[at];
        match set.answer(&question.key) {
            Some(text) => parse_text(question, text, &mold.scope).ok(),
            None if question.default.is_none() && !in_preset(at) => sample(question, word),
            None => None,
        }
    };
    let given = |value| Given { value, source: AnswerSource::Set };
    (0..mold.questions.len()).map(|at| value(at).map(given)).collect()
}

/// Starts a session with the answers of a set.
///
/// # Errors
/// A default, condition or derived value that cannot be computed from them.
pub(crate) fn session<'m>(mold: &'m Mold, set: &AnswerSet) -> Result<Session<'m>, Finding> {
    let offers = Offers { folder: Some("sample".into()), preset: set.preset.clone(), ..Offers::default() };
    Session::new(mold, given(mold, set), offers, built_ins())
}

/// Starts a session with the answers of a set, and drops those whose questions do not apply; that may decide whether
/// others apply. `None` if something cannot be computed from these answers.
pub(crate) fn applicable<'m>(mold: &'m Mold, set: &mut AnswerSet) -> Option<Session<'m>> {
    loop {
        let session = session(mold, set).ok()?;
        let is_visible = |key: &str| {
            let at = mold.questions.iter().position(|question| question.key == key);
            at.is_some_and(|at| session.resolved()[at].is_visible())
        };
        let before = set.answers.len();
        set.answers.retain(|(key, _)| is_visible(key));
        if set.answers.len() == before {
            return Some(session);
        }
    }
}
