//! The files of the body and the rules that apply to them.

use crate::formats::Holds;
use crate::manifest::Owner;
use crate::snippet::Snippet;
use std::ops::Deref;
use std::sync::Arc;
use tinmold_notation::{NameId, Scope, Span};

/// The folder of the body in a mold or a part.
pub const BODY: &str = "body/";

/// A file, link or empty folder of the body.
#[derive(Clone, Debug)]
pub struct BodyFile {
    /// Its index among the package's files.
    pub file: usize,
    /// The length of what comes before its path in `body/`: that of the mold, of a part or of a layer.
    pub prefix: usize,
    /// True if its path holds a tag.
    pub path_is_rendered: bool,
    /// The rules that apply to it.
    pub rules: Arc<FileRules>,
}

impl Deref for BodyFile {
    type Target = FileRules;

    fn deref(&self) -> &FileRules {
        &self.rules
    }
}

/// The rules of `[[files]]` that apply to a file of the body.
#[derive(Clone, Debug, Default)]
pub struct FileRules {
    /// True if its bytes are copied.
    pub copy: bool,
    /// The format, if the name does not tell.
    pub holds: Option<Holds>,
    /// The owner of the file after the cast.
    pub owner: Owner,
    /// True for a file of this machine only.
    pub local: bool,
    /// The index in [`crate::Mold::marks`].
    pub marks: usize,
    /// The index in [`crate::Mold::each`], if one file is made for each element of a list.
    pub each: Option<usize>,
    /// The conditions that must all hold.
    pub whens: Vec<Snippet>,
    /// What its entries say of its paths in earlier versions.
    pub was: Vec<EarlierPaths>,
}

/// The paths of earlier versions that a `[[files]]` entry names.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct EarlierPaths {
    /// The pattern of the entry.
    pub pattern: String,
    /// The earlier paths, as written in `body/`.
    pub paths: Vec<String>,
}

impl EarlierPaths {
    /// Returns the paths in `body/` that the file at `path` had. Where the pattern ends in `/**`, an earlier path that
    /// does so too names the folder that the file was in.
    pub fn of<'a>(&'a self, path: &'a str) -> impl Iterator<Item = String> + 'a {
        let inside = self.pattern.strip_suffix("**").and_then(|folder| path.strip_prefix(folder));
        self.paths.iter().filter_map(move |was| match was.strip_suffix("**") {
            Some(folder) => Some(format!("{folder}{}", inside?)),
            None => Some(was.clone()),
        })
    }
}

/// A list, of which each element gets a file.
#[derive(Clone, Debug)]
pub struct EachRule {
    /// The list.
    pub list: Snippet,
    /// The mold's scope with the element's name.
    pub scope: Scope,
    /// The element's name.
    pub element: NameId,
}

/// A `[[files]]` entry and whether it matched a file.
#[derive(Debug)]
pub struct MatchedRule {
    /// The condition.
    pub when: Option<Snippet>,
    /// True if a file of the body matched.
    pub matched: bool,
    /// The paths that its files had in earlier versions, as written in `body/`.
    pub was: Vec<String>,
    /// The manifest that it is in.
    pub file: Arc<str>,
    /// The span of the pattern in the manifest.
    pub span: Span,
}

/// Returns the name that findings give to the name of an entry, as opposed to the file's content.
#[must_use]
pub fn name_label(home: &str, path: &str) -> String {
    format!("{home}body/{path} (name)")
}

/// Returns the path of the entry whose name a finding is in; `None` for a finding in a file's content.
#[must_use]
pub fn named_entry(file: &str) -> Option<&str> {
    file.strip_suffix(" (name)")
}
