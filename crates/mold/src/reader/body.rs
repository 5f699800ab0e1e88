//! Reads the body's files and `[[files]]`.

use super::context::ManifestReader;
use super::earlier::earlier;
use crate::codes;
use crate::formats::Holds;
use crate::manifest::{FilesEntry, Placed};
use crate::model::{BODY, BodyFile, EachRule, EarlierPaths, FileRules, Layer, MatchedRule, Mold, name_label};
use crate::snippet::{Snippet, has_tag};
use globset::{GlobBuilder, GlobSet, GlobSetBuilder};
use std::collections::HashMap;
use std::sync::Arc;
use tinmold_notation::{Setting, Span, Type, compile_name};

/// Lists body and fragments and gives every body file what the rules say of it.
pub(super) fn read(reader: &mut ManifestReader, mold: &mut Mold, rules: Vec<FilesEntry>) {
    let globs = globs(reader, &rules);
    let mut read: Vec<MatchedRule> = Vec::new();
    let mut extra: Vec<(Option<usize>, Option<usize>)> = Vec::new();
    for rule in &rules {
        reader.enter(rule.origin);
        let when = rule.when.as_ref().map(|when| reader.own_condition(when));
        let marks = rule.marks.as_ref().map(|marks| {
            let marks = reader.marks(marks);
            mold.marks.push(marks);
            mold.marks.len() - 1
        });
        let each = rule.each.as_ref().and_then(|each| each_rule(reader, each)).map(|each| {
            mold.each.push(each);
            mold.each.len() - 1
        });
        extra.push((marks, each));
        let was = earlier(reader, &rule.was, |was| {
            (was == rule.pattern.get_ref()).then(|| "it is the path of this version".to_owned())
        });
        read.push(MatchedRule {
            when,
            matched: false,
            was,
            file: Arc::clone(&reader.file),
            span: Span::new(rule.pattern.span().start, rule.pattern.span().end),
        });
    }
    reader.enter(0);
    mold.body.reserve(mold.package.files.len());
    let layers: Vec<(String, Layer)> =
        mold.layers.iter().map(|layer| (layer.home(), layer.clone())).collect();
    let mut last = (Vec::new(), Arc::new(FileRules::default()));
    for (at, file) in mold.package.files.iter().enumerate() {
        let of_layer = layers.iter().find(|(home, _)| file.path.starts_with(home.as_str()));
        let home = of_layer.map_or(mold.home.as_str(), |(home, _)| home);
        let Some(inside) = file.path.strip_prefix(home) else { continue };
        let is_left_out = |path: &str| {
            of_layer.is_some_and(|(_, layer)| layer.without.iter().any(|without| without == path))
        };
        if let Some(name) = inside.strip_prefix("fragments/") {
            if is_left_out(inside) {
                continue;
            }
            if let Some(other) = mold.fragments.file(name).filter(|_| mold.home.is_empty()) {
                let (one, other) = (file.path.clone(), other.to_owned());
                clash(reader, mold, &one, &other, inside);
            }
            match file.read().map(|bytes| String::from_utf8(bytes.into_owned())) {
                Ok(Ok(text)) => mold.fragments.add_from(name, text, file.path.as_str()),
                _ => {
                    let message = format!("{} is not readable UTF-8 text", file.path);
                    reader.add(codes::UNREADABLE_FILE, 0..0, message, "fragments are texts");
                }
            }
        }
        let Some(path) = inside.strip_prefix(BODY).filter(|path| !is_left_out(path)) else { continue };
        let matches = globs.matches(path);
        // Neighbours mostly fall under the same rules.
        if matches != last.0 {
            let mut applied = FileRules::default();
            for matched in matches.iter().copied() {
                let rule = &rules[matched];
                read[matched].matched = true;
                applied.whens.extend(read[matched].when.clone());
                applied.copy = rule.copy.unwrap_or(applied.copy);
                applied.holds = rule.holds.or(applied.holds);
                if rule.parse == Some(false) {
                    applied.holds = Some(Holds::Text);
                }
                applied.owner = rule.owner.unwrap_or(applied.owner);
                applied.local = rule.local.unwrap_or(applied.local);
                applied.marks = extra[matched].0.unwrap_or(applied.marks);
                applied.each = extra[matched].1.or(applied.each);
                if !read[matched].was.is_empty() {
                    let pattern = rule.pattern.get_ref().clone();
                    applied.was.push(EarlierPaths { pattern, paths: read[matched].was.clone() });
                }
            }
            last = (matches, Arc::new(applied));
        }
        let prefix = home.len() + BODY.len();
        let rules = Arc::clone(&last.1);
        mold.body.push(BodyFile { file: at, prefix, path_is_rendered: has_tag(path), rules });
    }
    mold.rules = read;
    refuse_clashes(reader, mold);
    names(reader, mold);
}

/// Refuses two files of different layers, or of a layer and the mold, at one path of the body.
fn refuse_clashes(reader: &mut ManifestReader, mold: &Mold) {
    if mold.layers.is_empty() {
        return;
    }
    let mut seen: HashMap<&str, &BodyFile> = HashMap::new();
    for file in &mold.body {
        let path = mold.path_in_body(file);
        if let Some(other) = seen.insert(path, file) {
            clash(reader, mold, mold.path_of(other), mold.path_of(file), path);
        }
    }
}

/// Reports that two files of different origin are one.
fn clash(reader: &mut ManifestReader, mold: &Mold, one: &str, other: &str, path: &str) {
    let is_of = |layer: &&Layer| one.starts_with(&layer.home()) || other.starts_with(&layer.home());
    let layer = mold.layers.iter().find(is_of).map_or("", |layer| layer.name.as_str());
    let message =
        format!("{} and {} are one in the project", mold.package.shown(one), mold.package.shown(other));
    let help = format!(
        "say which one stands: add `without = [{path:?}]` to the layer that gives way, such as {layer}"
    );
    reader.add(codes::LAYER_CLASH, 0..0, message, help);
}

/// Compiles every name that holds a tag, once a folder.
fn names(reader: &mut ManifestReader, mold: &Mold) {
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
            let findings =
                compile_name(&name_label(mold.home_of(entry), path), part, scope, &setting).findings;
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
    /// Returns the rules that are for this path, in their order.
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

fn globs<'r>(reader: &mut ManifestReader, rules: &'r [FilesEntry]) -> Globs<'r> {
    let mut globs = Globs { plain: Vec::new(), set: GlobSet::empty(), rules: Vec::new() };
    let mut builder = GlobSetBuilder::new();
    for (at, rule) in rules.iter().enumerate() {
        reader.enter(rule.origin);
        let pattern = &rule.pattern;
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
                let help = "`*` matches part of a name, `**` any number of folders";
                reader.add(codes::BAD_MATCH, pattern.span(), message, help);
            }
        }
    }
    reader.enter(0);
    if !globs.rules.is_empty() {
        globs.set = builder.build().unwrap_or_else(|_| GlobSet::empty());
    }
    globs
}

/// `NAME in LIST`.
fn each_rule(reader: &mut ManifestReader, each: &Placed) -> Option<EachRule> {
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
    let list = Snippet::new(list.trim(), list_span, &reader.file, &reader.source);
    let (of, findings, traits) = list.with_expression(&reader.scope, None, |compiled| {
        let of = compiled.program.as_ref().map(|program| program.value_type());
        (of, compiled.findings, compiled.traits)
    });
    reader.findings.extend(findings);
    if traits.minted {
        let help = "the number of files would tell of the secret";
        reader.add(codes::WRONG_RULE, each.span(), "a file is made for each element of a secret", help);
    }
    let Type::List(element) = of? else {
        let help = "a file is made for each element of a list";
        reader.add(codes::WRONG_RULE, each.span(), "this is not a list", help);
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
