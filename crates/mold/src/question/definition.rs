//! A question, its kind and its rules.

use super::form::Form;
use crate::snippet::Snippet;
use regex::Regex;
use tinmold_notation::{ChoicesId, Element, NameId, Type, Value};

/// A question, its kind and its rules.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Kind {
    /// A text.
    Text,
    /// Several texts.
    Texts,
    /// Yes or no.
    Flag,
    /// A whole number.
    Integer,
    /// One of the options.
    OneOf(ChoicesId),
    /// Any number of the options.
    SomeOf(ChoicesId),
    /// Made with randomness, never asked.
    Minted {
        /// The number of letters and digits.
        length: u16,
    },
}

impl Kind {
    /// Returns the type of its answers in the notation; `or_none`: a one-of may have none.
    #[must_use]
    pub fn value_type(self, or_none: bool) -> Type {
        match self {
            Self::Text | Self::Minted { .. } => Type::Text,
            Self::Texts => Type::List(Element::Text),
            Self::Flag => Type::Flag,
            Self::Integer => Type::Integer,
            Self::OneOf(of) => Type::Option { of, or_none },
            Self::SomeOf(of) => Type::List(Element::Option(of)),
        }
    }

    /// Returns the options' set, for the kinds that have one.
    #[must_use]
    pub fn choices(self) -> Option<ChoicesId> {
        match self {
            Self::OneOf(of) | Self::SomeOf(of) => Some(of),
            _ => None,
        }
    }

    /// Returns the kind as `mold.toml` writes it.
    #[must_use]
    pub fn as_str(self) -> &'static str {
        match self {
            Self::Text => "text",
            Self::Texts => "texts",
            Self::Flag => "flag",
            Self::Integer => "integer",
            Self::OneOf(_) => "one-of",
            Self::SomeOf(_) => "some-of",
            Self::Minted { .. } => "minted",
        }
    }
}

/// The texts of an option, and its condition.
#[derive(Clone, Debug)]
pub struct OptionInfo {
    /// The value that it is compared with and rendered as.
    pub value: String,
    /// The label for people.
    pub label: String,
    /// Its summary, in a line.
    pub note: Option<String>,
    /// A URL with more about it.
    pub more: Option<String>,
    /// When it is offered.
    pub when: Option<Snippet>,
    /// The heading that it stands under in a long list.
    pub group: Option<String>,
    /// The options that ticking it ticks too.
    pub requires: Vec<u16>,
    /// The options that cannot be ticked beside it.
    pub excludes: Vec<u16>,
    /// Its values in earlier versions.
    pub was: Vec<String>,
    /// The span of its value in the manifest.
    pub span: tinmold_notation::Span,
}

impl OptionInfo {
    /// Returns true if its heading, value, label and note hold all of these words, in any case.
    #[must_use]
    pub fn holds(&self, words: &str) -> bool {
        let (group, note) = (self.group.as_deref().unwrap_or(""), self.note.as_deref().unwrap_or(""));
        let all = format!("{group} {} {} {note}", self.value, self.label).to_lowercase();
        words.to_lowercase().split_whitespace().all(|word| all.contains(word))
    }
}

/// These options and all that they require, directly or through others.
#[must_use]
pub fn with_required(options: &[OptionInfo], picked: &[u16]) -> Vec<u16> {
    let mut all: Vec<u16> = Vec::new();
    let mut next = picked.to_vec();
    while let Some(at) = next.pop() {
        if !all.contains(&at) {
            all.push(at);
            next.extend(options.get(at as usize).iter().flat_map(|option| &option.requires));
        }
    }
    all
}

/// The offered answer of a question.
#[derive(Clone, Debug)]
pub enum Offered {
    /// A value that is always the same.
    Fixed(Value),
    /// A text that is rendered.
    Text(Snippet),
    /// Texts that are rendered.
    Texts(Vec<Snippet>),
}

/// The rules of an answer, beyond its kind.
#[derive(Clone, Debug, Default)]
pub struct Rules {
    /// The form of a text.
    pub form: Option<Form>,
    /// An expression that a text must match as a whole, with the text it was written as.
    pub pattern: Option<Regex>,
    /// A description of the pattern.
    pub pattern_help: Option<String>,
    /// Texts that will not do, in whatever case.
    pub except: Vec<String>,
    /// The smallest integer, the fewest characters, texts or options.
    pub min: Option<i64>,
    /// The largest integer, the most characters, texts or options.
    pub max: Option<i64>,
    /// True if a text may be empty.
    pub optional: bool,
}

/// A question of a mold.
#[derive(Clone, Debug)]
pub struct Question {
    /// Its name in the notation and in answer sheets.
    pub key: String,
    /// The question.
    pub ask: String,
    /// The purpose of the answer.
    pub help: Option<String>,
    /// Questions of one group are shown together.
    pub group: Option<String>,
    /// The kind of its answer.
    pub kind: Kind,
    /// The rules of its answer.
    pub rules: Rules,
    /// The options, for the kinds that have them.
    pub options: Vec<OptionInfo>,
    /// When it is asked; none: always.
    pub when: Option<Snippet>,
    /// The offered answer.
    pub default: Option<Offered>,
    /// Its value when it is not asked.
    pub hidden: Option<Offered>,
    /// An answer to try it with where it has no default.
    pub example: Option<Value>,
    /// True if the directory on the command line gives the default.
    pub from_folder: bool,
    /// The tool whose version on the machine gives the default: the last option, each a version, that it can do.
    pub from_tool: Option<String>,
    /// True if it is asked only of users who want details.
    pub detail: bool,
    /// True if its answer is a secret: masked, never recorded, and for local files only.
    pub secret: bool,
    /// True if its answer is that of the project, which a part sees and does not ask for again.
    pub from_casting: bool,
    /// True if the mold answers it for a layer: it is never asked, and has its hidden value.
    pub settled: bool,
    /// The manifest that it is in.
    pub file: std::sync::Arc<str>,
    /// Its name in the scope.
    pub id: NameId,
    /// Its keys in earlier versions.
    pub was: Vec<String>,
    /// The span in the manifest.
    pub span: tinmold_notation::Span,
    /// The span of its default.
    pub default_span: tinmold_notation::Span,
    /// The span of its hidden value.
    pub hidden_span: tinmold_notation::Span,
}

impl Question {
    /// Returns the type of its value in the notation.
    #[must_use]
    pub fn value_type(&self) -> Type {
        self.kind.value_type(self.when.is_some() && self.hidden.is_none())
    }

    /// Says how a text is read that has an owner and a name in one: `owner example.saltmarsh, name tide-times`.
    #[must_use]
    pub fn reading(&self, text: &str) -> Option<String> {
        self.rules.form.and_then(|form| form.reading(text))
    }

    /// Returns true if its value is a secret, asked or minted.
    #[must_use]
    pub fn is_secret(&self) -> bool {
        self.secret || matches!(self.kind, Kind::Minted { .. })
    }

    /// Returns the option at `at` and all that ticking it ticks.
    #[must_use]
    pub fn completed_positions(&self, at: u16) -> Vec<u16> {
        with_required(&self.options, &[at])
    }

    /// Returns true if users are asked.
    #[must_use]
    pub fn is_asked(&self) -> bool {
        !self.from_casting && !self.settled && !matches!(self.kind, Kind::Minted { .. })
    }

    /// Returns the some-of answer of these options and all that they require.
    #[must_use]
    pub fn completed(&self, of: ChoicesId, options: &[u16]) -> Value {
        let all = with_required(&self.options, options);
        in_order(all.into_iter().map(|at| Value::Option(of, Some(at))).collect())
    }

    /// Returns the position of the option with this value.
    #[must_use]
    pub fn option(&self, value: &str) -> Option<u16> {
        self.options.iter().position(|option| option.value == value).and_then(|at| u16::try_from(at).ok())
    }
}

/// Options in the question's order, each once.
#[must_use]
pub fn in_order(mut picked: Vec<Value>) -> Value {
    picked.sort_by_key(|value| if let Value::Option(_, at) = value { *at } else { None });
    picked.dedup();
    Value::List(picked)
}
