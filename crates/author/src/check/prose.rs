//! Names in texts: the tour, what to type next, steps and READMEs speak of files and targets that must be there.

use super::trial::{Cast, Trial};
use std::collections::{BTreeSet, HashSet};
use tinmold_mold::{Mold, Snippet, StepAction, codes};
use tinmold_notation::{Code, Finding, Span, nearest};
use tinmold_platform::paths::{joined, parent_of};
use tinmold_project::plan::{Entry, EntryKind};
use tinmold_project::steps::make_targets;

/// What any of the trials writes.
pub(super) struct Union {
    paths: BTreeSet<String>,
    has_makefile: bool,
    has_scripts: bool,
}

impl Union {
    pub(super) fn of(trials: &[Trial<'_>]) -> Self {
        let casts = || trials.iter().filter_map(|trial| trial.cast.as_ref());
        let paths: BTreeSet<String> = casts()
            .flat_map(|cast| cast.paths().into_iter().map(str::to_owned).collect::<Vec<_>>())
            .collect();
        let has_makefile = MAKEFILES.iter().any(|name| paths.contains(*name));
        Self { has_scripts: paths.contains("package.json"), has_makefile, paths }
    }
}

/// In the order in which make looks for its file: GNU make manual, 3.2.
const MAKEFILES: [&str; 3] = ["GNUmakefile", "makefile", "Makefile"];

/// What the texts of a project may name.
struct Named<'c> {
    union: &'c Union,
    paths: HashSet<&'c str>,
    /// The targets of its makefile; `None` if it includes others.
    targets: Option<BTreeSet<String>>,
    scripts: BTreeSet<String>,
}

/// A name in a text that stands for nothing.
struct Wrong {
    code: Code,
    message: String,
    help: String,
}

/// Returns what the texts of a project name that is not there.
pub(super) fn findings(mold: &Mold, cast: &Cast<'_>, union: &Union) -> Vec<Finding> {
    let named = Named::new(cast, union);
    let mut found = Vec::new();
    let (scope, values) = (&mold.shown_scope, &cast.answers.values);
    let mut add = |snippet: &Snippet, wrong: Wrong| {
        let file = std::sync::Arc::clone(snippet.file());
        found.push(Finding::new(file, snippet.span(), wrong.code, wrong.message, wrong.help));
    };
    for (path, _) in &mold.texts.tour {
        let Ok(rendered) = path.render(scope, values) else { continue };
        let wrong = named.path(rendered.trim_end_matches('/'), true, "the tour");
        wrong.into_iter().for_each(|wrong| add(path, wrong));
    }
    for line in &mold.texts.next {
        let Ok(rendered) = line.render(scope, values) else { continue };
        named.command(&rendered, "[next]").into_iter().for_each(|wrong| add(line, wrong));
    }
    for step in &mold.finish {
        let applies = step.when.as_ref().is_none_or(|when| when.holds(scope, values).unwrap_or(false));
        let (true, StepAction::Run(program, arguments)) = (applies, &step.action) else { continue };
        let rendered: Result<Vec<String>, Finding> =
            arguments.iter().map(|argument| argument.render(scope, values)).collect();
        let (Ok(rendered), Some(first)) = (rendered, arguments.first()) else { continue };
        let line = std::iter::once(program.as_str()).chain(rendered.iter().map(String::as_str));
        let whole = line.collect::<Vec<_>>().join(" ");
        let who = format!("the step `{}`", step.name);
        named.command(&whole, &who).into_iter().for_each(|wrong| add(first, wrong));
    }
    for (entry, rendered) in cast.plan.entries.iter().zip(&cast.rendered) {
        if let Some(text) = rendered.text.as_deref().filter(|_| entry.path.ends_with(".md")) {
            found.extend(in_markdown(mold, cast, entry, text, &named));
        }
    }
    found
}

impl<'c> Named<'c> {
    fn new(cast: &'c Cast<'_>, union: &'c Union) -> Self {
        let makefile = MAKEFILES.iter().find_map(|name| cast.text(name)).unwrap_or("");
        let includes = makefile.lines().any(|line| line.trim_start_matches('-').starts_with("include "));
        let targets = make_targets(makefile).into_iter().map(str::to_owned).collect();
        let manifest = cast.text("package.json").and_then(|text| serde_json::from_str(text).ok());
        let manifest: serde_json::Value = manifest.unwrap_or_default();
        let scripts = manifest.get("scripts").and_then(serde_json::Value::as_object);
        let scripts = scripts.into_iter().flat_map(|scripts| scripts.keys().cloned()).collect();
        Self { union, paths: cast.paths(), targets: (!includes).then_some(targets), scripts }
    }

    /// Returns what is wrong with a path that a text names. `must` says that it can be nothing else.
    fn path(&self, path: &str, must: bool, who: &str) -> Option<Wrong> {
        let path = path.strip_prefix("./").unwrap_or(path);
        if path.is_empty() || path.contains("..") || self.paths.contains(path) {
            return None;
        }
        let code = codes::MISSING_PATH;
        if self.union.paths.contains(path) {
            let message = format!("{who} names {path}, which is not written");
            let help = "name it only where it is written".to_owned();
            return Some(Wrong { code, message, help });
        }
        match misspelling(path, self.paths.iter().copied()) {
            Some(near) => {
                let message = format!("{who} names {path}, which no project has");
                Some(Wrong { code, message, help: format!("did you mean {near}?") })
            }
            _ if must => {
                let message = format!("{who} names {path}, which no project has");
                Some(Wrong { code, message, help: "name a path that the body writes".to_owned() })
            }
            _ => None,
        }
    }

    /// Returns what is wrong with the targets and scripts of a command line.
    fn command(&self, line: &str, who: &str) -> Vec<Wrong> {
        let mut wrong = Vec::new();
        // What stands apart on the line says what the command does.
        let line = line.trim_start();
        let line = line.find("  ").map_or(line, |gap| &line[..gap]);
        for command in line.split(['|', ';', '#']).flat_map(|part| part.split("&&")) {
            let mut words = command.split_whitespace().skip_while(|word| word.contains('=') || *word == "$");
            match (words.next().unwrap_or(""), words.collect::<Vec<_>>()) {
                ("make", words) => wrong.extend(self.make(&words, who)),
                ("npm" | "pnpm" | "yarn", words) => wrong.extend(self.script(&words, who)),
                (program, _) if program.starts_with("./") => wrong.extend(self.path(program, false, who)),
                _ => {}
            }
        }
        wrong
    }

    fn make(&self, words: &[&str], who: &str) -> Option<Wrong> {
        let targets = self.targets.as_ref().filter(|_| self.union.has_makefile)?;
        if words.iter().any(|word| word.starts_with("-C") || word.starts_with("-f") || word.starts_with("--"))
        {
            return None;
        }
        let is_target = |word: &&&str| word.bytes().all(|b| b.is_ascii_alphanumeric() || b"-_.".contains(&b));
        let is_plain = |word: &&&str| !word.starts_with('-') && !word.contains('=');
        let own = words.iter().filter(is_plain).take_while(is_target);
        let missing = own.copied().find(|word| !targets.contains(*word))?;
        let all: Vec<&str> = targets.iter().map(String::as_str).collect();
        let help = match nearest(missing, all.iter().copied()) {
            Some(near) => format!("did you mean `{near}`?"),
            None => format!("its makefile has {}", all.join(", ")),
        };
        let message = format!("{who} names `make {missing}`, and the makefile has no such target");
        Some(Wrong { code: codes::MISSING_TARGET, message, help })
    }

    fn script(&self, words: &[&str], who: &str) -> Option<Wrong> {
        let script = match words {
            ["run", script, ..] => script,
            [script @ ("test" | "start"), ..] => script,
            _ => return None,
        };
        if !self.union.has_scripts || self.scripts.contains(*script) || script.starts_with('-') {
            return None;
        }
        let all: Vec<&str> = self.scripts.iter().map(String::as_str).collect();
        let help = match nearest(script, all.iter().copied()) {
            Some(near) => format!("did you mean `{near}`?"),
            None => format!("its scripts are {}", all.join(", ")),
        };
        let message = format!("{who} names the script `{script}`, and package.json has none of this name");
        Some(Wrong { code: codes::MISSING_TARGET, message, help })
    }
}

/// Returns what a name is a misspelling of: one or two letters of a longer one are wrong, left out or swapped.
pub(super) fn misspelling<'a>(name: &str, known: impl Iterator<Item = &'a str>) -> Option<&'a str> {
    const SHORTEST: usize = 6;
    let near = known.filter(|other| {
        name.len() >= SHORTEST && name.len().abs_diff(other.len()) <= 2 && other.len() >= SHORTEST
    });
    let measured = near.map(|other| (strsim::osa_distance(name, other), other));
    measured.filter(|(distance, _)| (1..=2).contains(distance)).min().map(|(_, other)| other)
}

/// A piece of a Markdown text that may name something, with its place.
enum Piece<'t> {
    Code(usize, &'t str),
    Line(usize, &'t str),
    Link(usize, &'t str),
}

/// The most pieces of one text that are looked at: a hostile text has as many as bytes.
const MOST_PIECES: usize = 2_000;

fn in_markdown(
    mold: &Mold,
    cast: &Cast<'_>,
    entry: &Entry<'_>,
    text: &str,
    named: &Named<'_>,
) -> Vec<Finding> {
    let file = mold.path_of(cast.plan.body(entry));
    let mut found = Vec::new();
    for piece in pieces(text).into_iter().take(MOST_PIECES) {
        let (at, wrong) = match piece {
            Piece::Line(at, line) => (at, named.command(line, &entry.path)),
            Piece::Code(at, code) => {
                let mut wrong = named.command(code, &entry.path);
                let is_path = code.contains(['/', '.'])
                    && code.chars().all(|c| c.is_alphanumeric() || "/._-".contains(c));
                if is_path {
                    wrong.extend(named.path(code.trim_end_matches('/'), false, &entry.path));
                }
                (at, wrong)
            }
            Piece::Link(at, target) => {
                let path = target.split('#').next().unwrap_or("");
                let path = joined(parent_of(&entry.path), path);
                let is_own =
                    !target.contains("://") && !target.starts_with(['#', '/']) && !target.contains(':');
                let wrong =
                    if is_own { named.path(path.trim_end_matches('/'), true, &entry.path) } else { None };
                (at, wrong.into_iter().collect())
            }
        };
        for wrong in wrong {
            let span = match entry.kind {
                EntryKind::Copy => Some(Span::new(at, at + 1)),
                _ => cast.plan.origin(entry, at),
            };
            found.push(Finding::new(file, span.unwrap_or_default(), wrong.code, wrong.message, wrong.help));
        }
    }
    found
}

/// Returns the code and links of a Markdown text (CommonMark 0.31: 4.5, 6.1, 6.3), with the byte where each begins.
fn pieces(text: &str) -> Vec<Piece<'_>> {
    let (mut found, mut fence, mut start) = (Vec::new(), None, 0);
    for line in text.split_inclusive('\n') {
        let (at, inner) = (start, line.trim());
        let indent = line.len() - line.trim_start().len();
        start += line.len();
        let mark = ["```", "~~~"].into_iter().find(|mark| inner.starts_with(mark));
        match (fence, mark) {
            (None, Some(mark)) => fence = Some(mark),
            (Some(open), Some(mark)) if open == mark => fence = None,
            (Some(_), _) => found.push(Piece::Line(at + indent, inner)),
            (None, None) if indent >= 4 && !inner.is_empty() => found.push(Piece::Line(at + indent, inner)),
            (None, None) => in_line(line, at, &mut found),
        }
    }
    found
}

fn in_line<'t>(line: &'t str, start: usize, found: &mut Vec<Piece<'t>>) {
    let mut at = 0;
    while let Some(open) = line[at..].find('`').map(|open| at + open) {
        let Some(length) = line[open + 1..].find('`') else { break };
        found.push(Piece::Code(start + open + 1, &line[open + 1..open + 1 + length]));
        at = open + length + 2;
    }
    let mut at = 0;
    while let Some(open) = line[at..].find("](").map(|open| at + open + 2) {
        let Some(length) = line[open..].find([')', ' ']) else { break };
        found.push(Piece::Link(start + open, &line[open..open + length]));
        at = open + length;
    }
}
