//! The names that a body can use: answers, derived values and built-in names, each with its type.

use crate::choices::Choices;
use crate::names::is_name;
use crate::quoting::Quoting;
use crate::types::{ChoicesId, Element, Type};
use rustc_hash::FxHashMap;

/// The ID of a name; returned by [`Scope::add`].
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct NameId(pub(crate) u32);

impl NameId {
    /// Returns the position among the scope's names, from 0.
    #[must_use]
    pub fn index(self) -> usize {
        self.0 as usize
    }
}

/// Properties of a value beside its type.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub struct Traits {
    /// Made with randomness and secret: only `local` files may hold it.
    pub minted: bool,
    /// Free text of the user, which may hold quotes and other signs.
    pub free: bool,
    /// May be of several lines.
    pub lines: bool,
    /// May bring slashes into the name of a file or folder.
    pub path: bool,
    /// The language that it is quoted for.
    pub quoted: Option<Quoting>,
}

impl Traits {
    pub(crate) fn with(self, other: Self) -> Self {
        Self {
            minted: self.minted || other.minted,
            free: self.free || other.free,
            lines: self.lines || other.lines,
            quoted: self.quoted.or(other.quoted),
            path: self.path || other.path,
        }
    }
}

/// One name of a scope.
#[derive(Clone, Debug, PartialEq)]
pub struct Name {
    /// The name as written; built-in names have a dot (`project.dir`).
    pub name: String,
    /// The type of its value.
    pub of: Type,
    /// Its other properties.
    pub traits: Traits,
    /// True if the `date` view applies to it.
    pub date: bool,
    /// Set where the name exists but may not be used here: why.
    pub barred: Option<String>,
}

/// The words that cannot be names.
pub const RESERVED: &[&str] = &[
    "if", "then", "else", "end", "match", "case", "for", "in", "between", "let", "place", "given", "note",
    "and", "or", "not", "true", "false", "mold", "project", "user", "today", "year", "system", "elif",
    "elseif", "elsif", "endif", "endfor", "endmatch",
];

/// Why a name cannot be added.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum NameError {
    /// Not a letter or underscore, then letters, digits and underscores.
    NoName,
    /// A word of the language or a built-in name.
    Reserved,
    /// There is one already.
    Taken,
}

impl std::fmt::Display for NameError {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(match self {
            Self::NoName => "a name is a letter or underscore, then letters, digits and underscores (ASCII)",
            Self::Reserved => "words of tags, operators and built-in names cannot be names",
            Self::Taken => "there is a question or derived value of this name already",
        })
    }
}

impl std::error::Error for NameError {}

/// The names that a source is compiled against.
///
/// ```
/// use tinmold_notation::{Scope, Type};
/// let mut scope = Scope::new();
/// scope.add("pier", Type::Text).unwrap();
/// assert!(scope.add("pier", Type::Flag).is_err());
/// assert!(scope.add("else", Type::Flag).is_err());
/// ```
#[derive(Clone, Debug, Default)]
pub struct Scope {
    names: Vec<Name>,
    index: FxHashMap<String, NameId>,
    choices: Vec<Choices>,
}

impl Scope {
    /// Returns a scope with nothing in it.
    #[must_use]
    pub fn new() -> Self {
        Self::default()
    }

    /// Returns a scope with the built-in names of a body: `mold.name`, `mold.version`,
    /// `project.dir`, `user.name`, `user.email`, `today`, `year`. `system` is in it too, but
    /// barred: a body renders the same everywhere.
    #[must_use]
    pub fn with_built_ins() -> Self {
        let mut scope = Self::new();
        for name in ["mold.name", "mold.version", "project.dir", "user.name", "user.email", "today", "system"]
        {
            let id = scope.insert(name, Type::Text);
            let free = matches!(name, "project.dir" | "user.name" | "user.email");
            scope.names[id.index()].traits.free = free;
            scope.names[id.index()].date = name == "today";
        }
        scope.insert("year", Type::Integer);
        scope.bar(
            "system",
            "a body renders alike everywhere; `system` is for needs, finishing steps and `[next]` only",
        );
        scope
    }

    /// Adds a name.
    ///
    /// # Errors
    /// The name must be legal, no word of the language, and new.
    pub fn add(&mut self, name: &str, of: Type) -> Result<NameId, NameError> {
        if !is_name(name) {
            return Err(NameError::NoName);
        }
        if RESERVED.contains(&name) {
            return Err(NameError::Reserved);
        }
        if self.index.contains_key(name) {
            return Err(NameError::Taken);
        }
        Ok(self.insert(name, of))
    }

    fn insert(&mut self, name: &str, of: Type) -> NameId {
        let id = NameId(u32::try_from(self.names.len()).unwrap_or(u32::MAX));
        self.names.push(Name {
            name: name.to_owned(),
            of,
            traits: Traits::default(),
            date: false,
            barred: None,
        });
        self.index.insert(name.to_owned(), id);
        id
    }

    /// Adds a set of options, for [`Type::Option`] and lists of them.
    pub fn add_choices(&mut self, choices: Choices) -> ChoicesId {
        self.choices.push(choices);
        ChoicesId(u16::try_from(self.choices.len() - 1).unwrap_or(u16::MAX))
    }

    /// Says what else is known of a name.
    pub fn set_traits(&mut self, id: NameId, traits: Traits) {
        if let Some(name) = self.names.get_mut(id.index()) {
            name.traits = traits;
        }
    }

    /// Makes every use of a name a finding that gives `why`.
    pub fn bar(&mut self, name: &str, why: impl Into<String>) {
        if let Some(id) = self.find(name) {
            self.names[id.index()].barred = Some(why.into());
        }
    }

    /// Lets a barred name be used again.
    pub fn unbar(&mut self, name: &str) {
        if let Some(id) = self.find(name) {
            self.names[id.index()].barred = None;
        }
    }

    /// Returns the name so written.
    #[must_use]
    pub fn find(&self, name: &str) -> Option<NameId> {
        self.index.get(name).copied()
    }

    /// Returns the entry of a name.
    #[must_use]
    pub fn name(&self, id: NameId) -> &Name {
        &self.names[id.index()]
    }

    /// Returns all names, in the order they were added.
    #[must_use]
    pub fn names(&self) -> &[Name] {
        &self.names
    }

    /// Returns a set of options.
    #[must_use]
    pub fn choices(&self, id: ChoicesId) -> &Choices {
        &self.choices[id.0 as usize]
    }

    /// Returns true if a name such as `project.dir` begins with `word`.
    pub(crate) fn is_group(&self, word: &str) -> bool {
        matches!(word, "mold" | "project" | "user")
            && self.names.iter().any(|name| name.name.split('.').next() == Some(word))
    }

    /// Returns the type as people read it: "a text", "an option of `web`".
    #[must_use]
    pub fn describe(&self, of: Type) -> String {
        match of {
            Type::Text => "a text".into(),
            Type::Integer => "an integer".into(),
            Type::Flag => "a flag".into(),
            Type::Option { of, .. } => format!("an option of `{}`", self.choices(of).name()),
            Type::List(Element::Text) => "a list of texts".into(),
            Type::List(Element::Integer) => "a list of integers".into(),
            Type::List(Element::Flag) => "a list of flags".into(),
            Type::List(Element::Option(of)) => format!("a list of options of `{}`", self.choices(of).name()),
            Type::List(Element::Open) => "an empty list".into(),
            Type::Unknown => "unknown".into(),
        }
    }
}
