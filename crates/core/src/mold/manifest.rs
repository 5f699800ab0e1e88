//! `mold.toml` as it stands: the shape of the file, with the places of what is looked at later.

use crate::formats::Holds;
use serde::Deserialize;
use std::collections::BTreeMap;
use toml::Spanned;

/// A text of the manifest with its place.
pub(crate) type Placed = Spanned<String>;

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct Manifest {
    pub(crate) mold: Header,
    #[serde(default)]
    pub(crate) notation: Notation,
    #[serde(default)]
    pub(crate) question: Vec<RawQuestion>,
    #[serde(default)]
    pub(crate) derive: BTreeMap<Placed, Derived>,
    #[serde(default)]
    pub(crate) files: Vec<FilesRule>,
    #[serde(default)]
    pub(crate) need: Vec<NeedEntry>,
    #[serde(default)]
    pub(crate) finish: Vec<FinishEntry>,
    #[serde(default)]
    pub(crate) tour: Vec<TourStop>,
    #[serde(default)]
    pub(crate) next: Next,
    #[serde(default)]
    pub(crate) preset: BTreeMap<Placed, RawPreset>,
}

/// `[mold]`: what the mold is.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Header {
    /// Its name on a shelf.
    pub name: Placed,
    /// Its version, by Semantic Versioning 2.0.
    pub version: Placed,
    /// The day of its release.
    pub released: Option<toml::value::Datetime>,
    /// Whose mold it is, a domain written backwards.
    pub owner: Option<Placed>,
    /// What it gives, in a line.
    pub summary: String,
    /// The languages of what it gives.
    #[serde(default)]
    pub language: Vec<String>,
    /// The kinds of project that it gives.
    #[serde(default)]
    pub kind: Vec<String>,
    /// More words to find it by.
    #[serde(default)]
    pub tags: Vec<String>,
    /// Which versions of this program can read it.
    pub tinmold: Option<Placed>,
    /// The casting's folder when none is named.
    pub folder: Option<Placed>,
}

#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct Notation {
    pub(crate) marks: Option<Spanned<[String; 2]>>,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub(crate) struct RawQuestion {
    pub(crate) key: Placed,
    pub(crate) ask: Option<String>,
    pub(crate) help: Option<String>,
    pub(crate) group: Option<String>,
    pub(crate) kind: Spanned<RawKind>,
    pub(crate) form: Option<Placed>,
    pub(crate) default: Option<Spanned<toml::Value>>,
    pub(crate) hidden: Option<Spanned<toml::Value>>,
    pub(crate) when: Option<Placed>,
    #[serde(default)]
    pub(crate) from_folder: bool,
    #[serde(default)]
    pub(crate) detail: bool,
    #[serde(default)]
    pub(crate) optional: bool,
    pub(crate) min: Option<Spanned<i64>>,
    pub(crate) max: Option<Spanned<i64>>,
    pub(crate) pattern: Option<Placed>,
    pub(crate) pattern_help: Option<String>,
    #[serde(default)]
    pub(crate) except: Vec<Placed>,
    pub(crate) length: Option<Spanned<u16>>,
    #[serde(default)]
    pub(crate) option: Vec<RawOption>,
}

#[derive(Clone, Copy, Debug, Deserialize, PartialEq, Eq)]
#[serde(rename_all = "kebab-case")]
pub(crate) enum RawKind {
    Text,
    Texts,
    Flag,
    Integer,
    OneOf,
    SomeOf,
    Minted,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct RawOption {
    pub(crate) value: Placed,
    pub(crate) label: Option<String>,
    pub(crate) note: Option<String>,
    pub(crate) more: Option<String>,
    pub(crate) when: Option<Placed>,
    #[serde(default)]
    pub(crate) requires: Vec<Placed>,
    #[serde(default)]
    pub(crate) excludes: Vec<Placed>,
    #[serde(default)]
    pub(crate) with: BTreeMap<Placed, Spanned<toml::Value>>,
}

#[derive(Debug, Deserialize)]
#[serde(untagged)]
pub(crate) enum Derived {
    Text(String),
    Expression(DerivedExpression),
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct DerivedExpression {
    pub(crate) is: String,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct FilesRule {
    pub(crate) r#match: Placed,
    pub(crate) when: Option<Placed>,
    pub(crate) copy: Option<bool>,
    pub(crate) owner: Option<Owner>,
    pub(crate) local: Option<bool>,
    pub(crate) marks: Option<Spanned<[String; 2]>>,
    pub(crate) each: Option<Placed>,
    pub(crate) holds: Option<Holds>,
}

/// Whose a file is once it is written.
#[derive(Clone, Copy, Debug, Default, Deserialize, PartialEq, Eq)]
#[serde(rename_all = "kebab-case")]
pub enum Owner {
    /// The mold's: a recast brings what is new.
    #[default]
    Mold,
    /// Whoever has the casting: written once.
    You,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct NeedEntry {
    pub(crate) tool: Placed,
    pub(crate) version: Option<Placed>,
    pub(crate) why: Option<String>,
    pub(crate) when: Option<Placed>,
    #[serde(default)]
    pub(crate) get: BTreeMap<String, String>,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct FinishEntry {
    pub(crate) name: Placed,
    pub(crate) label: Option<String>,
    pub(crate) run: Option<Vec<Placed>>,
    pub(crate) git: Option<Placed>,
    pub(crate) when: Option<Placed>,
    #[serde(default)]
    pub(crate) tick: bool,
    pub(crate) folder: Option<Placed>,
    #[serde(default)]
    pub(crate) environment: BTreeMap<String, Placed>,
    #[serde(default)]
    pub(crate) after: Vec<Placed>,
    pub(crate) minutes: Option<u64>,
    #[serde(default)]
    pub(crate) interactive: bool,
    #[serde(default)]
    pub(crate) proof: bool,
    pub(crate) asks: Option<Placed>,
}

/// One of the places to know in a casting.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TourStop {
    /// Where it is; rendered.
    pub path: Placed,
    /// What to know; rendered.
    pub says: Placed,
}

#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct Next {
    #[serde(default)]
    pub(crate) lines: Vec<Placed>,
}

/// `part.toml` as it stands.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct PartManifest {
    pub(crate) part: RawPart,
    #[serde(default)]
    pub(crate) question: Vec<RawQuestion>,
    #[serde(default)]
    pub(crate) derive: BTreeMap<Placed, Derived>,
    #[serde(default)]
    pub(crate) files: Vec<FilesRule>,
    #[serde(default)]
    pub(crate) seam: Vec<RawSeam>,
    #[serde(default)]
    pub(crate) edit: Vec<RawEdit>,
    #[serde(default)]
    pub(crate) next: Next,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct RawPart {
    pub(crate) name: Placed,
    pub(crate) summary: String,
    pub(crate) when: Option<Placed>,
    #[serde(default)]
    pub(crate) fits: Vec<Placed>,
    #[serde(default)]
    pub(crate) anywhere: bool,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct RawSeam {
    pub(crate) file: Placed,
    pub(crate) name: Placed,
    pub(crate) lines: Vec<Placed>,
    pub(crate) when: Option<Placed>,
    #[serde(default)]
    pub(crate) sorted: bool,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct RawEdit {
    pub(crate) file: Placed,
    pub(crate) when: Option<Placed>,
    pub(crate) set: Option<Spanned<toml::Table>>,
    pub(crate) add: Option<Spanned<toml::Table>>,
    pub(crate) remove: Option<Spanned<toml::Table>>,
    pub(crate) same: Option<Placed>,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct RawPreset {
    #[serde(default)]
    pub(crate) summary: String,
    #[serde(default)]
    pub(crate) answers: BTreeMap<Placed, Spanned<toml::Value>>,
}
