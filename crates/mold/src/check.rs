//! Mistakes that only show in the whole mold: every file of the body, unused questions, equal paths.

use crate::codes;
use crate::model::{BodyFile, Mold, MoldError, StepAction, name_label};
use crate::question::Offered;
use crate::snippet::{Snippet, has_tag};
use std::collections::{BTreeMap, HashSet};
use std::sync::Arc;
use tinmold_notation::{
    Code, Compiled, Finding, NameId, Setting, Span, compile, compile_name, sort_findings,
};
use tinmold_platform::{parallel, paths::portable_name};

/// The result of checking a whole mold.
#[derive(Debug)]
pub struct Usage {
    /// All findings, sorted.
    pub findings: Vec<Finding>,
    /// The number of checked body files.
    pub files: usize,
}

/// The findings in a body and in the texts of a manifest.
struct Looked {
    findings: Vec<Finding>,
    /// The names that something uses.
    used: HashSet<NameId>,
    files: usize,
}

impl Mold {
    /// Compiles every file of the body, its name and its fragments, in parallel, and finds what is
    /// unused.
    #[must_use]
    pub fn check(&self) -> Usage {
        let mut looked = self.looked(self.snippets());
        for name in self.parts() {
            let part = match self.part(name) {
                Ok(part) => part,
                Err(MoldError::Faulty(faulty)) => {
                    looked.findings.extend(faulty.findings);
                    continue;
                }
                Err(MoldError::Package(_)) => continue,
            };
            let mut all = part.mold.snippets();
            all.extend(part.snippets());
            let inside = part.mold.looked(all);
            looked.findings.extend(inside.findings);
            looked.findings.extend(part.mold.unused(&inside.used));
            looked.files += inside.files;
            // A question may be for the parts only. Parts for other projects have names of their
            // own.
            if !part.stands_alone() {
                looked.used.extend(inside.used);
            }
        }
        let Looked { mut findings, used, files } = looked;
        findings.extend(self.unused(&used));
        findings.extend(self.same_paths());
        findings.extend(self.unsafe_names());
        sort_findings(&mut findings);
        Usage { findings, files }
    }

    /// Returns the fragments that a file of the body places, directly or through others.
    #[must_use]
    pub fn placed_fragments(&self) -> HashSet<String> {
        let placed = parallel::map(&self.body, |_, entry| self.check_file(entry).2);
        placed.into_iter().flatten().collect()
    }

    /// Looks at the body and these texts and expressions.
    fn looked(&self, snippets: Vec<(&Snippet, bool)>) -> Looked {
        let mut findings = Vec::new();
        let mut used: HashSet<NameId> = HashSet::new();
        for snippet in snippets {
            let each = |compiled: Compiled<'_>| compiled.used;
            used.extend(if snippet.1 {
                snippet.0.with_expression(&self.scope, None, each)
            } else {
                snippet.0.with_text(&self.scope, true, each)
            });
        }
        let results = parallel::map(&self.body, |_, entry| self.check_file(entry));
        let mut placed: HashSet<String> = HashSet::new();
        for (found, names, fragments) in results {
            findings.extend(found);
            used.extend(names);
            placed.extend(fragments);
        }
        findings.extend(self.check_unplaced(&placed));
        Looked { findings, used, files: self.body.len() }
    }

    /// Returns its own questions that nothing uses, and rules for files that it has not.
    fn unused(&self, used: &HashSet<NameId>) -> Vec<Finding> {
        let mut findings = Vec::new();
        let own = self.questions.iter().filter(|question| !question.from_casting && !question.settled);
        for question in own.filter(|question| !used.contains(&question.id)) {
            findings.push(Finding::new(
                Arc::clone(&question.file),
                question.span,
                codes::UNUSED_QUESTION,
                format!("nothing uses the answer to `{}`", question.key),
                "leave the question out, or use it in the body",
            ));
        }
        for rule in self.rules.iter().filter(|rule| !rule.matched) {
            findings.push(Finding::new(
                Arc::clone(&rule.file),
                rule.span,
                codes::UNUSED_RULE,
                "no file of the body matches this",
                "it is compared with the path as written in body/, tags included",
            ));
        }
        findings
    }

    /// Returns every text and expression of the manifest; true for expressions.
    #[must_use]
    pub fn snippets(&self) -> Vec<(&Snippet, bool)> {
        let mut all: Vec<(&Snippet, bool)> = Vec::new();
        for question in &self.questions {
            all.extend(question.when.iter().map(|when| (when, true)));
            all.extend(
                question.options.iter().filter_map(|option| option.when.as_ref()).map(|when| (when, true)),
            );
            for value in [&question.default, &question.hidden].into_iter().flatten() {
                match value {
                    Offered::Fixed(_) => {}
                    Offered::Text(text) => all.push((text, false)),
                    Offered::Texts(texts) => all.extend(texts.iter().map(|text| (text, false))),
                }
            }
        }
        all.extend(self.derived.iter().map(|derived| (&derived.snippet, derived.is_expression)));
        all.extend(self.rules.iter().filter_map(|rule| rule.when.as_ref()).map(|when| (when, true)));
        all.extend(self.each.iter().map(|each| (&each.list, true)));
        all.extend(self.texts.folder.iter().map(|folder| (folder, false)));
        all.extend(self.texts.tour.iter().flat_map(|(path, says)| [(path, false), (says, false)]));
        all.extend(self.texts.next.iter().map(|line| (line, false)));
        all.extend(self.needs.iter().filter_map(|need| need.when.as_ref()).map(|when| (when, true)));
        for step in &self.finish {
            all.extend(step.when.iter().chain(&step.network).map(|when| (when, true)));
            all.extend(step.folder.iter().chain(&step.asks).map(|text| (text, false)));
            all.extend(step.environment.iter().map(|(_, value)| (value, false)));
            match &step.action {
                StepAction::Run(_, arguments) => all.extend(arguments.iter().map(|text| (text, false))),
                StepAction::Git(message) => all.push((message, false)),
            }
        }
        all
    }

    fn check_file(&self, entry: &BodyFile) -> (Vec<Finding>, Vec<NameId>, Vec<String>) {
        let scope = self.scope_of(entry);
        let mut used = Vec::new();
        let names = Setting::for_name();
        for part in self.path_in_body(entry).split('/').filter(|part| has_tag(part)) {
            used.extend(compile_name("", part, scope, &names).used);
        }
        let name = self.path_of(entry);
        if entry.copy {
            return (Vec::new(), used, Vec::new());
        }
        let bytes = match self.package.files[entry.file].read() {
            Ok(bytes) => bytes,
            Err(error) => {
                let finding =
                    Finding::new(name, Span::default(), codes::UNREADABLE_FILE, error.to_string(), "");
                return (vec![finding], used, Vec::new());
            }
        };
        let Ok(text) = std::str::from_utf8(&bytes) else { return (Vec::new(), used, Vec::new()) };
        let setting = self.setting_of(entry);
        let compiled = compile(name, text, scope, &setting);
        used.extend(compiled.used);
        (compiled.findings, used, compiled.placed.iter().map(|name| (*name).to_owned()).collect())
    }

    /// Compiles a fragment that no file places alone, for mistakes that need no types.
    fn check_unplaced(&self, placed: &HashSet<String>) -> Vec<Finding> {
        let mut findings = Vec::new();
        let setting = Setting { fragments: &self.fragments, marks: &self.marks[0], ..Setting::default() };
        for name in self.fragments.names().filter(|name| !placed.contains(*name)) {
            let Some((_, source)) = self.fragments.get(name) else { continue };
            // A part sees the fragments of its mold too, which are checked with the mold.
            let is_own = |file: &str| match self.home.as_str() {
                "" => true,
                home => file.starts_with(home),
            };
            if !self.fragments.file(name).is_some_and(is_own) {
                continue;
            }
            let compiled = compile(self.fragments.file(name).unwrap_or(name), source, &self.scope, &setting);
            // Its arguments are unknown, so that an unknown name may be valid.
            let unknown = Code::UnknownName;
            findings.extend(compiled.findings.into_iter().filter(|finding| finding.code != unknown));
        }
        findings
    }

    /// Names without tags that a project must not have.
    fn unsafe_names(&self) -> Vec<Finding> {
        let mut findings = Vec::new();
        for entry in &self.body {
            let path = self.path_in_body(entry);
            for part in path.split('/').filter(|part| !has_tag(part)) {
                if let Err(reason) = portable_name(part) {
                    findings.push(Finding::new(
                        name_label(self.home_of(entry), path),
                        Span::default(),
                        codes::UNSAFE_PATH,
                        format!("{part:?} {reason}"),
                        "a project must not have this path: give it another name",
                    ));
                }
            }
        }
        findings
    }

    /// Entries without conditions whose paths are the same letter for letter, or but for case.
    fn same_paths(&self) -> Vec<Finding> {
        let mut seen: BTreeMap<String, &BodyFile> = BTreeMap::new();
        let mut findings = Vec::new();
        let plain = |entry: &&BodyFile| {
            entry.whens.is_empty() && entry.each.is_none() && !self.path_of(entry).contains("{= if")
        };
        for entry in self.body.iter().filter(plain) {
            let written: String = self.path_in_body(entry).split_whitespace().collect();
            if let Some(other) = seen.insert(written.to_lowercase(), entry) {
                findings.push(Finding::new(
                    self.path_of(entry),
                    Span::default(),
                    codes::SAME_PATH,
                    format!("this comes out at the same path as {}", self.path_of(other)),
                    "give one of them a condition, or another name",
                ));
            }
        }
        findings
    }
}
