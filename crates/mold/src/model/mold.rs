//! A mold.

use super::body::{BODY, BodyFile, EachRule, MatchedRule};
use super::steps::{FinishStep, Need};
use super::texts::Texts;
use crate::codes;
use crate::manifest::Header;
use crate::package::Package;
use crate::question::{Offered, Question};
use crate::snippet::Snippet;
use std::collections::BTreeMap;
use tinmold_notation::{Finding, Fragments, Marks, NameId, Scope, Setting, Span, Syntax, Value, Values};
use tinmold_platform::paths::portable_name;

/// A mold that can be asked and rendered.
#[derive(Debug)]
pub struct Mold {
    /// Its files.
    pub package: Package,
    /// Its header.
    pub header: Header,
    /// The text of `mold.toml`, for findings.
    pub source: String,
    /// Its questions, in their order.
    pub questions: Vec<Question>,
    /// Every name with its type.
    pub scope: Scope,
    /// The scope with `system`, for texts shown and commands run on this machine only.
    pub shown_scope: Scope,
    /// The order in which questions are asked and values derived.
    pub steps: Vec<ResolveStep>,
    /// The derived values.
    pub derived: Vec<DerivedValue>,
    /// The fragments for `place`.
    pub fragments: Fragments,
    /// The files of the body.
    pub body: Vec<BodyFile>,
    /// The `[[files]]` entries that make a file for each element of a list.
    pub each: Vec<EachRule>,
    /// The rendered texts that a finished cast shows, and the folder's name.
    pub texts: Texts,
    /// The tools that a project needs.
    pub needs: Vec<Need>,
    /// The finishing steps of a project.
    pub finish: Vec<FinishStep>,
    /// The presets, by name.
    pub presets: BTreeMap<String, Preset>,
    /// The marks of the body's tags.
    pub marks: Vec<Marks>,
    /// The prefix of `body/` and `fragments/` in the package, with its slash: empty, or that of a
    /// part.
    pub home: String,
    /// The `[[files]]` entries.
    pub rules: Vec<MatchedRule>,
    /// The layers that it takes in.
    pub layers: Vec<Layer>,
}

/// A layer that a mold takes in.
#[derive(Clone, Debug)]
pub struct Layer {
    /// Its name: the last part of its path.
    pub name: String,
    /// The paths in its body, fragments with `fragments/` before, and parts with `parts/`, that it does not bring.
    pub without: Vec<String>,
}

impl Layer {
    /// Returns what comes before `body/` in the paths of its files, with a slash at its end.
    #[must_use]
    pub fn home(&self) -> String {
        format!("layers/{}/", self.name)
    }
}

/// One step of settling the answers.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ResolveStep {
    /// The question of this index.
    Question(usize),
    /// The derived value of this index.
    Derive(usize),
}

/// A value that is computed, never asked.
#[derive(Clone, Debug)]
pub struct DerivedValue {
    /// The snippet that computes it.
    pub snippet: Snippet,
    /// True if the snippet is an expression rather than a text.
    pub is_expression: bool,
    /// Its name in the scope.
    pub id: NameId,
}

/// A named set of answers.
#[derive(Clone, Debug)]
pub struct Preset {
    /// Its purpose.
    pub summary: String,
    /// The answers, by index of the question in the mold.
    pub answers: Vec<(usize, Offered)>,
    /// The span of its name in the manifest.
    pub span: Span,
    /// The spans of its answers, in their order.
    pub answer_spans: Vec<Span>,
}

/// Returns the finding for a folder that is not one portable, visible name.
pub(crate) fn bad_folder(name: &str, span: Span) -> Option<Finding> {
    let reason = match portable_name(name) {
        Ok(()) if name.starts_with('.') => "begins with a dot".to_owned(),
        Ok(()) => return None,
        Err(reason) => reason.to_string(),
    };
    let message = format!("the project's folder {name:?} {reason}");
    let help = "the folder is one name that every system takes, not a path; \
        to write elsewhere, name the folder: tinmold cast MOLD DIR";
    Some(Finding::new("mold.toml", span, codes::BAD_FOLDER, message, help))
}

impl Mold {
    /// Returns the mold's name on a shelf.
    #[must_use]
    pub fn name(&self) -> &str {
        self.header.name.get_ref()
    }

    /// Returns the mold's version.
    #[must_use]
    pub fn version(&self) -> &str {
        self.header.version.get_ref()
    }

    /// Returns the name of the project's folder if the user names none. Where a project goes is the
    /// user's choice: the mold gives one name, never a path.
    ///
    /// # Errors
    /// The text cannot be rendered, or is not one portable name.
    pub fn folder_name(&self, values: &Values) -> Result<String, Finding> {
        let (name, span) = match &self.texts.folder {
            Some(folder) => (folder.render(&self.scope, values)?, folder.span()),
            None => {
                let span = self.header.name.span();
                (self.name().to_owned(), Span::new(span.start, span.end))
            }
        };
        match bad_folder(&name, span) {
            Some(finding) => Err(finding),
            None => Ok(name),
        }
    }

    /// Returns the path in the package of a file of the body.
    #[must_use]
    pub fn path_of(&self, file: &BodyFile) -> &str {
        &self.package.files[file.file].path
    }

    /// Returns the path in `body/` of a file of the body, tags as they are written.
    #[must_use]
    pub fn path_in_body(&self, file: &BodyFile) -> &str {
        self.path_of(file).get(file.prefix..).unwrap_or("")
    }

    /// Returns what comes before `body/` in the path of a file of the body: empty, or that of a part or layer.
    #[must_use]
    pub fn home_of(&self, file: &BodyFile) -> &str {
        self.path_of(file).get(..file.prefix.saturating_sub(BODY.len())).unwrap_or("")
    }

    /// Returns the question with this key.
    #[must_use]
    pub fn question(&self, key: &str) -> Option<&Question> {
        self.questions.iter().find(|question| question.key == key)
    }

    /// Returns the option of a one-of answer, or the positions of those of a some-of answer.
    #[must_use]
    pub fn picked(&self, value: &Value) -> Vec<u16> {
        match value {
            Value::Option(_, at) => at.iter().copied().collect(),
            Value::List(values) => values.iter().flat_map(|value| self.picked(value)).collect(),
            _ => Vec::new(),
        }
    }

    /// Returns the names of its parts, those of its layers too, sorted.
    #[must_use]
    pub fn parts(&self) -> Vec<&str> {
        let mut names: Vec<&str> = self.part_homes().map(|(name, _)| name).collect();
        names.sort_unstable();
        names.dedup();
        names
    }

    /// Returns name and folder of each part, with a slash at its end: first those of the mold, then those that its layers
    /// bring.
    pub(crate) fn part_homes(&self) -> impl Iterator<Item = (&str, &str)> {
        let own = std::iter::once((String::new(), [].as_slice()));
        let layers = self.layers.iter().map(|layer| (layer.home(), layer.without.as_slice()));
        own.chain(layers).flat_map(move |(home, without)| {
            let home = format!("{home}parts/");
            self.package.files.iter().filter_map(move |file| {
                let name = file.path.strip_prefix(&home)?.strip_suffix("/part.toml")?;
                let is_left_out = without.iter().any(|it| it.strip_prefix("parts/") == Some(name));
                let folder = file.path.strip_suffix("part.toml")?;
                (!name.contains('/') && !is_left_out).then_some((name, folder))
            })
        })
    }

    /// Returns the names that a file of the body sees.
    #[must_use]
    pub fn scope_of(&self, entry: &BodyFile) -> &Scope {
        entry.each.map_or(&self.scope, |each| &self.each[each].scope)
    }

    /// Settings for compiling a body file.
    #[must_use]
    pub fn setting_of(&self, entry: &BodyFile) -> Setting<'_> {
        Setting {
            marks: &self.marks[entry.marks],
            fragments: &self.fragments,
            syntax: entry
                .holds
                .map_or_else(|| Syntax::of_path(self.path_of(entry)), crate::formats::Holds::syntax),
            local: entry.local,
            ..Setting::default()
        }
    }
}
