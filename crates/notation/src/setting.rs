//! How a source is to be compiled.

use crate::marks::Marks;
use crate::syntax_kind::Syntax;
use std::collections::BTreeMap;

/// The fragments of a mold, by name.
#[derive(Clone, Debug, Default)]
pub struct Fragments {
    sources: BTreeMap<String, Fragment>,
}

#[derive(Clone, Debug)]
struct Fragment {
    source: String,
    /// What findings call it.
    file: String,
}

impl Fragments {
    /// Adds a fragment, or puts another in its place; findings call it `fragments/NAME`. A byte-order mark at its start is
    /// dropped.
    pub fn add(&mut self, name: impl Into<String>, source: impl Into<String>) {
        let name = name.into();
        let file = format!("fragments/{name}");
        self.add_from(name, source, file);
    }

    /// The same of a fragment that findings call `file`.
    pub fn add_from(&mut self, name: impl Into<String>, source: impl Into<String>, file: impl Into<String>) {
        let mut source = source.into();
        if source.starts_with('\u{feff}') {
            source.remove(0);
        }
        self.sources.insert(name.into(), Fragment { source, file: file.into() });
    }

    /// The names, sorted.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.sources.keys().map(String::as_str)
    }

    /// A fragment's own name and source.
    #[must_use]
    pub fn get(&self, name: &str) -> Option<(&str, &str)> {
        self.sources.get_key_value(name).map(|(name, fragment)| (name.as_str(), fragment.source.as_str()))
    }

    /// What findings call a fragment.
    #[must_use]
    pub fn file(&self, name: &str) -> Option<&str> {
        self.sources.get(name).map(|fragment| fragment.file.as_str())
    }
}

/// How a source is to be compiled. The default is a plain file with the usual marks and no fragments.
#[derive(Clone, Debug)]
pub struct Setting<'s> {
    /// The marks of its tags.
    pub marks: &'s Marks,
    /// The fragments that it may place.
    pub fragments: &'s Fragments,
    /// What kind of file it becomes.
    pub syntax: Syntax,
    /// Whether minted values may stand in it.
    pub local: bool,
    /// Whether the line rule holds. Texts of a manifest are rendered without.
    pub rules: bool,
    /// Whether it is the name of a file or folder, whose values are checked as they come out.
    pub name: bool,
}

struct Usual {
    marks: Marks,
    fragments: Fragments,
}

static USUAL: std::sync::LazyLock<Usual> =
    std::sync::LazyLock::new(|| Usual { marks: Marks::default(), fragments: Fragments::default() });

impl Default for Setting<'_> {
    fn default() -> Self {
        Self {
            marks: &USUAL.marks,
            fragments: &USUAL.fragments,
            syntax: Syntax::Plain,
            local: false,
            rules: true,
            name: false,
        }
    }
}

impl Setting<'_> {
    /// For the name of a file or folder: the usual marks, and values are checked as they come out.
    #[must_use]
    pub fn for_name() -> Self {
        Self { rules: false, name: true, ..Self::default() }
    }

    /// For a text of a manifest: the usual marks, without the line rule.
    #[must_use]
    pub fn for_text() -> Self {
        Self { rules: false, ..Self::default() }
    }
}
