//! Settings for compiling a source.

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
    /// The name of it in findings.
    file: String,
}

impl Fragments {
    /// Adds or replaces a fragment, which findings call `fragments/NAME`. A byte-order mark at its
    /// start is dropped.
    pub fn add(&mut self, name: impl Into<String>, source: impl Into<String>) {
        let name = name.into();
        let file = format!("fragments/{name}");
        self.add_from(name, source, file);
    }

    /// Adds a fragment that findings call `file`.
    pub fn add_from(&mut self, name: impl Into<String>, source: impl Into<String>, file: impl Into<String>) {
        let mut source = source.into();
        if source.starts_with('\u{feff}') {
            source.remove(0);
        }
        self.sources.insert(name.into(), Fragment { source, file: file.into() });
    }

    /// Returns the names, sorted.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.sources.keys().map(String::as_str)
    }

    /// Returns a fragment's own name and source.
    #[must_use]
    pub fn get(&self, name: &str) -> Option<(&str, &str)> {
        self.sources.get_key_value(name).map(|(name, fragment)| (name.as_str(), fragment.source.as_str()))
    }

    /// Returns the name of a fragment in findings.
    #[must_use]
    pub fn file(&self, name: &str) -> Option<&str> {
        self.sources.get(name).map(|fragment| fragment.file.as_str())
    }
}

/// Settings for compiling a source. The default is a plain file with the usual marks and no
/// fragments.
#[derive(Clone, Debug)]
pub struct Setting<'s> {
    /// The marks of its tags.
    pub marks: &'s Marks,
    /// The fragments that it may place.
    pub fragments: &'s Fragments,
    /// The kind of the file.
    pub syntax: Syntax,
    /// True if it may hold minted values.
    pub local: bool,
    /// True if the line rule applies. Texts of a manifest are rendered without it.
    pub rules: bool,
    /// True if it is the name of a file or directory, whose values are checked when they are
    /// rendered.
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
    /// Returns the settings for the name of a file or directory: the usual marks, and values are
    /// checked when they are rendered.
    #[must_use]
    pub fn for_name() -> Self {
        Self { rules: false, name: true, ..Self::default() }
    }

    /// Returns the settings for a text of a manifest: the usual marks, without the line rule.
    #[must_use]
    pub fn for_text() -> Self {
        Self { rules: false, ..Self::default() }
    }
}
