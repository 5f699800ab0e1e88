//! The shapes of a manifest, with the spans of what is checked later.

use crate::formats::Holds;
use std::collections::BTreeMap;
use toml::Spanned;

/// A text of the manifest with its span.
pub type Placed = Spanned<String>;

/// `mold.toml`.
#[derive(Debug)]
pub struct Manifest {
    /// `[mold]`.
    pub mold: Header,
    /// The marks of `[notation]`.
    pub marks: Option<Spanned<[String; 2]>>,
    /// `[[question]]`.
    pub question: Vec<RawQuestion>,
    /// `[derive]`.
    pub derive: Vec<DerivedEntry>,
    /// `[[files]]`.
    pub files: Vec<FilesEntry>,
    /// `[[need]]`.
    pub need: Vec<NeedEntry>,
    /// `[[finish]]`.
    pub finish: Vec<FinishEntry>,
    /// `[[tour]]`.
    pub tour: Vec<TourEntry>,
    /// The lines of `[next]`.
    pub next: Vec<Placed>,
    /// `[preset.NAME]`.
    pub preset: Vec<(Placed, RawPreset)>,
    /// `[[layer]]`.
    pub layer: Vec<RawLayer>,
}

/// `[[layer]]`.
#[derive(Debug)]
pub struct RawLayer {
    /// The folder of the layer, from that of the mold.
    pub from: Placed,
    /// The question that its questions come after.
    pub after: Option<Placed>,
    /// The answers that the mold gives.
    pub answers: Vec<(Placed, Spanned<RawValue>)>,
    /// The keys and paths that it does not bring.
    pub without: Vec<Placed>,
}

/// `layer.toml`.
#[derive(Debug)]
pub struct LayerManifest {
    /// `[[question]]`.
    pub question: Vec<RawQuestion>,
    /// `[derive]`.
    pub derive: Vec<DerivedEntry>,
    /// `[[files]]`.
    pub files: Vec<FilesEntry>,
    /// `[[need]]`.
    pub need: Vec<NeedEntry>,
    /// `[[finish]]`.
    pub finish: Vec<FinishEntry>,
    /// `[[tour]]`.
    pub tour: Vec<TourEntry>,
}

/// `[mold]`: what the mold is.
#[derive(Clone, Debug)]
pub struct Header {
    /// The name on a shelf.
    pub name: Placed,
    /// The version, by Semantic Versioning 2.0.
    pub version: Placed,
    /// The day of the release.
    pub released: Option<toml::value::Datetime>,
    /// The owner, a reverse domain.
    pub owner: Option<Placed>,
    /// Its summary, in a line.
    pub summary: Placed,
    /// The languages of the project.
    pub language: Vec<String>,
    /// The kinds of project.
    pub kind: Vec<String>,
    /// More words to find it by.
    pub tags: Vec<String>,
    /// The versions of this program that can read it.
    pub tinmold: Option<Placed>,
    /// The project's folder when the user names none.
    pub folder: Option<Placed>,
}

/// `[[question]]`.
#[derive(Debug)]
pub struct RawQuestion {
    /// The name in the notation and in answer sheets.
    pub key: Placed,
    /// The question.
    pub ask: Option<Placed>,
    /// The purpose of the answer.
    pub help: Option<Placed>,
    /// The question's group.
    pub group: Option<Placed>,
    /// The kind of answer.
    pub kind: Spanned<RawKind>,
    /// The name of the form.
    pub form: Option<Placed>,
    /// The default.
    pub default: Option<Spanned<RawValue>>,
    /// The value when the question does not apply.
    pub hidden: Option<Spanned<RawValue>>,
    /// The condition.
    pub when: Option<Placed>,
    /// True if a folder named on the command line gives the default.
    pub from_folder: bool,
    /// The tool whose version on the machine gives the default.
    pub from_tool: Option<Placed>,
    /// True if it is asked only with `--details`.
    pub detail: bool,
    /// True if the answer is a secret.
    pub secret: bool,
    /// True if a text may be empty.
    pub optional: bool,
    /// The lower bound.
    pub min: Option<Spanned<i64>>,
    /// The upper bound.
    pub max: Option<Spanned<i64>>,
    /// A regular expression for the whole text.
    pub pattern: Option<Placed>,
    /// A description of the pattern.
    pub pattern_help: Option<String>,
    /// Texts that are refused.
    pub except: Vec<Placed>,
    /// The length of a minted value.
    pub length: Option<Spanned<i64>>,
    /// An answer to try it with.
    pub example: Option<Spanned<RawValue>>,
    /// Its keys in earlier versions.
    pub was: Vec<Placed>,
    /// `[[question.option]]`.
    pub option: Vec<RawOption>,
    /// The manifest it is in: 0 for the mold or part, else that of a layer.
    pub origin: usize,
    /// The answer that the mold gives to a question of a layer.
    pub settled: Option<Spanned<RawValue>>,
}

/// The kinds of question.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[expect(missing_docs, reason = "the names are those of mold.toml")]
pub enum RawKind {
    Text,
    Texts,
    Flag,
    Integer,
    OneOf,
    SomeOf,
    Minted,
}

/// `[[question.option]]`.
#[derive(Debug)]
pub struct RawOption {
    /// The value.
    pub value: Placed,
    /// The label.
    pub label: Option<Placed>,
    /// The option's summary, in a line.
    pub note: Option<Placed>,
    /// A URL to read on.
    pub more: Option<Placed>,
    /// The condition under which it is offered.
    pub when: Option<Placed>,
    /// The heading that it stands under in a long list.
    pub group: Option<Placed>,
    /// The options that it needs.
    pub requires: Vec<Placed>,
    /// The options that cannot be ticked beside it.
    pub excludes: Vec<Placed>,
    /// Its values in earlier versions.
    pub was: Vec<Placed>,
    /// The fields of the option.
    pub with: Vec<(Placed, Spanned<RawValue>)>,
}

/// A TOML value with the spans of its parts.
#[derive(Clone, Debug)]
pub enum RawValue {
    /// A text.
    Text(String),
    /// An integer.
    Integer(i64),
    /// A number with a fraction.
    Float(f64),
    /// `true` or `false`.
    Flag(bool),
    /// A date or time.
    Date(toml::value::Datetime),
    /// A list.
    List(Vec<Spanned<Self>>),
    /// A table.
    Table(Vec<(Placed, Spanned<Self>)>),
}

impl RawValue {
    /// Drops the spans.
    #[must_use]
    pub fn to_toml(&self) -> toml::Value {
        match self {
            Self::Text(text) => toml::Value::String(text.clone()),
            Self::Integer(number) => toml::Value::Integer(*number),
            Self::Float(number) => toml::Value::Float(*number),
            Self::Flag(flag) => toml::Value::Boolean(*flag),
            Self::Date(date) => toml::Value::Datetime(*date),
            Self::List(elements) => {
                toml::Value::Array(elements.iter().map(|element| element.get_ref().to_toml()).collect())
            }
            Self::Table(entries) => toml::Value::Table(
                entries
                    .iter()
                    .map(|(key, value)| (key.get_ref().clone(), value.get_ref().to_toml()))
                    .collect(),
            ),
        }
    }

    /// Returns the text, if it is one.
    #[must_use]
    pub fn as_text(&self) -> Option<&str> {
        if let Self::Text(text) = self { Some(text) } else { None }
    }
}

/// An entry of `[derive]`.
#[derive(Debug)]
pub struct DerivedEntry {
    /// The name.
    pub key: Placed,
    /// A rendered text, or an expression.
    pub text: Placed,
    /// True for an expression.
    pub is_expression: bool,
    /// The manifest it is in: 0 for the mold or part, else that of a layer.
    pub origin: usize,
}

/// `[[files]]`.
#[derive(Debug)]
pub struct FilesEntry {
    /// The pattern of paths in `body/`.
    pub pattern: Placed,
    /// The condition.
    pub when: Option<Placed>,
    /// True to copy the bytes.
    pub copy: Option<bool>,
    /// False to neither parse the output nor mend its commas.
    pub parse: Option<bool>,
    /// Who owns the file after the cast.
    pub owner: Option<Owner>,
    /// True for a file of this machine only.
    pub local: Option<bool>,
    /// The marks of the file's tags.
    pub marks: Option<Spanned<[String; 2]>>,
    /// `NAME in LIST`: one file for each element.
    pub each: Option<Placed>,
    /// The format, if the name does not tell.
    pub holds: Option<Holds>,
    /// The path in earlier versions.
    pub was: Vec<Placed>,
    /// The manifest it is in: 0 for the mold or part, else that of a layer.
    pub origin: usize,
}

/// The owner of a file after the cast.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Owner {
    /// The mold: a recast brings the newer file.
    #[default]
    Mold,
    /// The project's owner: written once.
    You,
}

/// `[[need]]`.
#[derive(Debug)]
pub struct NeedEntry {
    /// The program.
    pub tool: Placed,
    /// The range of versions.
    pub version: Option<Placed>,
    /// Its purpose.
    pub why: Option<String>,
    /// The condition.
    pub when: Option<Placed>,
    /// How to get it, by system.
    pub get: BTreeMap<String, String>,
    /// The manifest it is in: 0 for the mold or part, else that of a layer.
    pub origin: usize,
}

/// `[[finish]]`.
#[derive(Debug)]
pub struct FinishEntry {
    /// The name.
    pub name: Placed,
    /// The step's purpose, in a line.
    pub label: Option<String>,
    /// The program and its arguments.
    pub run: Option<Vec<Placed>>,
    /// The message of a first commit.
    pub git: Option<Placed>,
    /// The condition.
    pub when: Option<Placed>,
    /// True if it is offered as ticked.
    pub tick: bool,
    /// The folder in the project where it runs.
    pub folder: Option<Placed>,
    /// Variables added to its environment.
    pub environment: BTreeMap<String, Placed>,
    /// The steps that must be done before.
    pub after: Vec<Placed>,
    /// The time limit.
    pub minutes: Option<u64>,
    /// True if it gets the terminal.
    pub interactive: bool,
    /// True if it proves that the project works.
    pub proof: bool,
    /// The URL that must answer while it runs.
    pub asks: Option<Placed>,
    /// False if a cast never offers it.
    pub offered: bool,
    /// The condition under which it needs a network.
    pub network: Option<Placed>,
    /// The manifest it is in: 0 for the mold or part, else that of a layer.
    pub origin: usize,
}

/// `[[tour]]`.
#[derive(Debug)]
pub struct TourEntry {
    /// The path.
    pub path: Placed,
    /// A note about the path.
    pub says: Placed,
    /// The manifest it is in: 0 for the mold or part, else that of a layer.
    pub origin: usize,
}

/// `[preset.NAME]`.
#[derive(Debug)]
pub struct RawPreset {
    /// The purpose of the preset.
    pub summary: String,
    /// The answers.
    pub answers: Vec<(Placed, Spanned<RawValue>)>,
}

/// `part.toml`.
#[derive(Debug)]
pub struct PartManifest {
    /// `[part]`.
    pub part: RawPart,
    /// `[[question]]`.
    pub question: Vec<RawQuestion>,
    /// `[derive]`.
    pub derive: Vec<DerivedEntry>,
    /// `[[files]]`.
    pub files: Vec<FilesEntry>,
    /// `[[joint]]`.
    pub joint: Vec<RawJoint>,
    /// `[[edit]]`.
    pub edit: Vec<RawEdit>,
    /// The lines of `[next]`.
    pub next: Vec<Placed>,
}

/// `[part]`.
#[derive(Debug)]
pub struct RawPart {
    /// The name.
    pub name: Placed,
    /// The part's summary, in a line.
    pub summary: Placed,
    /// The condition under which it can be fitted.
    pub when: Option<Placed>,
    /// The molds whose projects it goes into.
    pub fits: Vec<Placed>,
    /// True if it goes into any project.
    pub anywhere: bool,
    /// Its names in earlier versions.
    pub was: Vec<Placed>,
    /// The condition under which a project with it needs a network to be proven.
    pub network: Option<Placed>,
}

/// `[[joint]]`.
#[derive(Debug)]
pub struct RawJoint {
    /// The file with the joint.
    pub file: Placed,
    /// The joint's name.
    pub name: Placed,
    /// The lines.
    pub lines: Vec<Placed>,
    /// The condition.
    pub when: Option<Placed>,
    /// True if the lines are kept sorted.
    pub sorted: bool,
    /// A regular expression for the part of a block that says what it is about.
    pub same: Option<Placed>,
}

/// `[[edit]]`.
#[derive(Debug)]
pub struct RawEdit {
    /// The file.
    pub file: Placed,
    /// The condition.
    pub when: Option<Placed>,
    /// Keys and values to set.
    pub set: Option<Vec<(Placed, Spanned<RawValue>)>>,
    /// Elements to add to lists.
    pub add: Option<Vec<(Placed, Spanned<RawValue>)>>,
    /// Keys and elements to remove.
    pub remove: Option<Vec<(Placed, Spanned<RawValue>)>>,
    /// The part that two texts of a list share if they mean the same thing.
    pub same: Option<Placed>,
}
