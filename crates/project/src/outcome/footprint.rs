//! The names that a file of a body depends on.

use std::hash::{DefaultHasher, Hash, Hasher};
use tinmold_mold::{BodyFile, Content, Mold, has_tag};
use tinmold_notation::{NameId, Setting, Value, Values, compile, compile_name};
use tinmold_platform::parallel;

/// Files longer than this are rendered anew for every change of an answer, without being compiled before.
const LARGEST: u64 = 1 << 20;

/// The names that decide whether a file comes out, where, and with what content.
#[derive(Debug)]
pub struct Footprint {
    /// Sorted; `None` if any name may matter.
    names: Option<Vec<NameId>>,
}

/// The hash of every value.
#[derive(Debug)]
pub struct Prints(Vec<u64>);

impl Prints {
    /// Returns the hashes of these values.
    #[must_use]
    pub fn of(values: &Values) -> Self {
        let print = |value: &Value| {
            let mut hasher = DefaultHasher::new();
            value.hash(&mut hasher);
            hasher.finish()
        };
        Self(values.all().iter().map(print).collect())
    }
}

impl Footprint {
    /// Returns the footprint of every file of the body.
    #[must_use]
    pub fn all(mold: &Mold) -> Vec<Self> {
        parallel::map(&mold.body, |_, file| Self { names: names(mold, file) })
    }

    /// Returns the names that matter, sorted; `None` if any may.
    #[must_use]
    pub fn names(&self) -> Option<&[NameId]> {
        self.names.as_deref()
    }

    /// Returns true if one of these names is known to matter.
    pub(super) fn uses(&self, names: &[NameId]) -> bool {
        self.names.iter().flatten().any(|name| names.contains(name))
    }

    /// Returns the hash of the values that matter.
    #[must_use]
    pub fn key(&self, prints: &Prints) -> u64 {
        let mut hasher = DefaultHasher::new();
        match &self.names {
            Some(names) => names.iter().for_each(|name| prints.0.get(name.index()).hash(&mut hasher)),
            None => prints.0.hash(&mut hasher),
        }
        hasher.finish()
    }
}

fn names(mold: &Mold, file: &BodyFile) -> Option<Vec<NameId>> {
    let mut names = Vec::new();
    for when in &file.whens {
        names.extend(when.with_expression(&mold.scope, None, |compiled| compiled.used));
    }
    let scope = mold.scope_of(file);
    if let Some(each) = file.each {
        names.extend(mold.each[each].list.with_expression(&mold.scope, None, |compiled| compiled.used));
    }
    if file.path_is_rendered {
        let setting = Setting::for_name();
        for part in mold.path_in_body(file).split('/').filter(|part| has_tag(part)) {
            names.extend(compile_name("", part, scope, &setting).used);
        }
    }
    let source = &mold.package.files[file.file];
    if !file.copy && !matches!(source.content, Content::Link(_) | Content::EmptyFolder) {
        if source.len() > LARGEST {
            return None;
        }
        let bytes = source.read().ok()?;
        if let Ok(text) = std::str::from_utf8(&bytes) {
            let setting = mold.setting_of(file);
            let compiled = compile("", text, scope, &setting);
            compiled.program.as_ref()?;
            names.extend(compiled.used);
        }
    }
    // The element of a file for each one is no name of the mold.
    names.retain(|name| name.index() < mold.scope.names().len());
    names.sort_unstable();
    names.dedup();
    Some(names)
}
