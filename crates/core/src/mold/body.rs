//! The body's files and what `[[files]]` says of them.

use super::loader::{Mold, Reader};
use super::manifest::{FilesRule, Owner, Placed};
use super::snippet::{Snippet, has_tag};
use crate::codes;
use crate::formats::Holds;
use globset::{GlobBuilder, GlobSet, GlobSetBuilder};
use std::ops::Deref;
use std::sync::Arc;
use tinmold_notation::{NameId, Scope, Setting, Type, compile_name};

/// The folder in a mold, or in a part, that its body is in.
pub(super) const BODY: &str = "body/";

/// A file, link or empty folder of the body.
#[derive(Clone, Debug)]
pub struct BodyFile {
    /// Its place among the package's files.
    pub file: usize,
    /// Whether a tag is in its path.
    pub path_is_rendered: bool,
    said: Arc<Said>,
}

impl Deref for BodyFile {
    type Target = Said;

    fn deref(&self) -> &Said {
        &self.said
    }
}

/// What the rules say of a file of the body; of most files they say the same, or nothing.
#[derive(Clone, Debug, Default)]
pub struct Said {
    /// Whether its bytes are taken as they are.
    pub copy: bool,
    /// What it holds, if that is not what its name says.
    pub holds: Option<Holds>,
    /// Whose it is once it is written.
    pub owner: Owner,
    /// Whether it is for this machine only.
    pub local: bool,
    /// Which of [`Mold::marks`] its tags have.
    pub marks: usize,
    /// Which of [`Mold::each`] makes a file for each element.
    pub each: Option<usize>,
    /// The conditions that must all hold.
    pub whens: Vec<Snippet>,
}

/// A list that a file is made for each element of.
#[derive(Clone, Debug)]
pub struct EachRule {
    /// The list.
    pub list: Snippet,
    /// The mold's scope with the element's name.
    pub scope: Scope,
    /// The element's name.
    pub element: NameId,
}

/// A `[[files]]` entry.
#[derive(Debug)]
pub(crate) struct FileRule {
    pub(crate) when: Option<Snippet>,
    pub(crate) matched: bool,
    pub(crate) span: std::ops::Range<usize>,
}

/// Lists body and fragments and gives every body file what the rules say of it.
pub(super) fn read(reader: &mut Reader<'_>, mold: &mut Mold, rules: Vec<FilesRule>) {
    let globs = globs(reader, &rules);
    let mut read: Vec<FileRule> = Vec::new();
    let mut given: Vec<(Option<usize>, Option<usize>)> = Vec::new();
    for rule in &rules {
        let when = rule.when.as_ref().map(|when| {
            let snippet = reader.snippet(when);
            let findings =
                snippet.with_expression(&reader.scope, Some(Type::Flag), |compiled| compiled.findings);
            reader.findings.extend(findings);
            snippet
        });
        let marks = rule.marks.as_ref().map(|marks| {
            let marks = reader.marks(marks);
            mold.marks.push(marks);
            mold.marks.len() - 1
        });
        let each = rule.each.as_ref().and_then(|each| each_rule(reader, each)).map(|each| {
            mold.each.push(each);
            mold.each.len() - 1
        });
        given.push((marks, each));
        read.push(FileRule { when, matched: false, span: rule.r#match.span() });
    }
    mold.body.reserve(mold.package.files.len());
    let home = Some(&*mold.home).filter(|home| !home.is_empty());
    let mut last = (Vec::new(), Arc::new(Said::default()));
    for (at, file) in mold.package.files.iter().enumerate() {
        let inside = home.map_or(Some(&*file.path), |home| file.path.strip_prefix(home));
        let Some(inside) = inside else { continue };
        if let Some(name) = inside.strip_prefix("fragments/") {
            match file.read().map(|bytes| String::from_utf8(bytes.into_owned())) {
                Ok(Ok(text)) => mold.fragments.add_from(name, text, &*file.path),
                _ => {
                    let message = format!("{} is not readable UTF-8 text", file.path);
                    reader.add(codes::UNREADABLE_FILE, 0..0, message, "fragments are texts");
                }
            }
        }
        let Some(path) = inside.strip_prefix(BODY) else { continue };
        let matches = globs.matches(path);
        // Neighbours mostly fall under the same rules, and mostly under none. Lists of nothing are not compared: they lie nowhere,
        // and a processor that compares them with vectors that are masked out takes longer over that than over all the rest of this.
        if !(matches.is_empty() && last.0.is_empty()) && matches != last.0 {
            let mut said = Said::default();
            for matched in matches.iter().copied() {
                let rule = &rules[matched];
                read[matched].matched = true;
                said.whens.extend(read[matched].when.clone());
                said.copy = rule.copy.unwrap_or(said.copy);
                said.holds = rule.holds.or(said.holds);
                said.owner = rule.owner.unwrap_or(said.owner);
                said.local = rule.local.unwrap_or(said.local);
                said.marks = given[matched].0.unwrap_or(said.marks);
                said.each = given[matched].1.or(said.each);
            }
            last = (matches, Arc::new(said));
        }
        mold.body.push(BodyFile { file: at, path_is_rendered: has_tag(path), said: Arc::clone(&last.1) });
    }
    mold.rules = read;
    names(reader, mold);
}

/// What findings call the name of an entry, as against what the file of that name holds.
#[must_use]
pub(crate) fn name_label(home: &str, path: &str) -> String {
    format!("{home}body/{path} (name)")
}

/// The path in the mold of an entry whose name a finding is in; none if the finding is in what a file holds.
#[must_use]
pub fn named_entry(file: &str) -> Option<&str> {
    file.strip_suffix(" (name)")
}

/// Compiles every name that holds a tag, once a folder.
fn names(reader: &mut Reader<'_>, mold: &Mold) {
    let setting = Setting::for_name();
    let mut seen = std::collections::HashSet::new();
    for entry in mold.body.iter().filter(|entry| entry.path_is_rendered) {
        let whole = mold.path_in_body(entry);
        let scope = entry.each.map_or(&reader.scope, |each| &mold.each[each].scope);
        let mut end = 0;
        for part in whole.split('/') {
            end += part.len() + 1;
            let path = &whole[..end - 1];
            if !has_tag(part) || !seen.insert((path, entry.each)) {
                continue;
            }
            let findings = compile_name(&name_label(&mold.home, path), part, scope, &setting).findings;
            reader.findings.extend(findings);
        }
    }
}

/// The patterns of the rules.
struct Globs<'r> {
    /// Most patterns are a path, or a folder with all that is below it: those need no search.
    plain: Vec<(usize, Plain<'r>)>,
    set: GlobSet,
    /// The rule of each pattern of the set.
    rules: Vec<usize>,
}

enum Plain<'r> {
    Path(&'r str),
    Below(&'r str),
}

impl<'r> Plain<'r> {
    fn of(pattern: &'r str) -> Option<Self> {
        let is_plain = |text: &str| !text.is_empty() && !text.contains(['*', '?', '[', ']', '\\']);
        match pattern.strip_suffix("/**") {
            Some(folder) => is_plain(folder).then_some(Self::Below(folder)),
            None => is_plain(pattern).then_some(Self::Path(pattern)),
        }
    }

    fn matches(&self, path: &str) -> bool {
        match self {
            Self::Path(own) => *own == path,
            Self::Below(folder) => path.strip_prefix(folder).is_some_and(|rest| rest.starts_with('/')),
        }
    }
}

impl Globs<'_> {
    /// The rules that are for this path, in their order.
    fn matches(&self, path: &str) -> Vec<usize> {
        let plain = self.plain.iter().filter(|(_, plain)| plain.matches(path)).map(|(rule, _)| *rule);
        let mut all: Vec<usize> = plain.collect();
        if !self.set.is_empty() {
            all.extend(self.set.matches(path).into_iter().map(|at| self.rules[at]));
            all.sort_unstable();
        }
        all
    }
}

fn globs<'r>(reader: &mut Reader<'_>, rules: &'r [FilesRule]) -> Globs<'r> {
    let mut globs = Globs { plain: Vec::new(), set: GlobSet::empty(), rules: Vec::new() };
    let mut builder = GlobSetBuilder::new();
    for (at, rule) in rules.iter().enumerate() {
        let pattern = &rule.r#match;
        if let Some(plain) = Plain::of(pattern.get_ref()) {
            globs.plain.push((at, plain));
            continue;
        }
        // Braces are plain characters here: names of files hold tags.
        let escaped = pattern.get_ref().replace('{', "\\{").replace('}', "\\}");
        match GlobBuilder::new(&escaped).literal_separator(true).backslash_escape(true).build() {
            Ok(glob) => {
                builder.add(glob);
                globs.rules.push(at);
            }
            Err(error) => {
                let message = format!("this pattern cannot be read: {}", error.kind());
                let help = "`*` stands for part of a name, `**` for any number of folders";
                reader.add(codes::BAD_MATCH, pattern.span(), message, help);
            }
        }
    }
    if !globs.rules.is_empty() {
        globs.set = builder.build().unwrap_or_else(|_| GlobSet::empty());
    }
    globs
}

/// `NAME in LIST`.
fn each_rule(reader: &mut Reader<'_>, each: &Placed) -> Option<EachRule> {
    let text = each.get_ref();
    let Some((name, list)) = text.split_once(" in ") else {
        let help = "write `each = \"pier in piers\"`";
        reader.add(codes::WRONG_RULE, each.span(), "this names no element and list", help);
        return None;
    };
    let whole = reader.snippet(each);
    let at = whole.span().start as usize;
    let inner = text.find(list).unwrap_or(0);
    let exact = reader.source.get(at..).is_some_and(|rest| rest.starts_with(['"', '\'']));
    let list_span = if exact { at + 1 + inner..at + 1 + inner + list.len() } else { each.span() };
    let list = Snippet::new(list.trim(), list_span, &reader.file, reader.source);
    let (of, findings, traits) = list.with_expression(&reader.scope, None, |compiled| {
        let of = compiled.program.as_ref().map(|program| program.value_type());
        (of, compiled.findings, compiled.traits)
    });
    reader.findings.extend(findings);
    let Type::List(element) = of? else {
        let help = "a file is made for each element of a list";
        reader.add(codes::WRONG_RULE, each.span(), "this is no list", help);
        return None;
    };
    let mut scope = reader.scope.clone();
    match scope.add(name.trim(), element.single()) {
        Ok(element) => {
            scope.set_traits(element, traits);
            Some(EachRule { list, scope, element })
        }
        Err(error) => {
            let message = format!("`{}` cannot be the element's name", name.trim());
            reader.add(codes::BAD_KEY, each.span(), message, error.to_string());
            None
        }
    }
}
