//! A planned fit and its result, for people and programs.

use super::diff::{difference_of, unified_difference};
use super::style::{BOLD, ERROR, FAINT, GOOD, NAME, WARN, count, safe, size};
use super::tree;
use serde_json::{Value as Json, json};
use std::fmt::Write;
use std::path::Path;
use tinmold_mold::{Mold, Part};
use tinmold_notation::Finding;
use tinmold_project::answers::{Answers, display_value};
use tinmold_project::fit::{Change, Fit, Fitting, belongs};
use tinmold_project::plan::{EntryKind, Limits, Plan};
use tinmold_project::record::Recorded;
use tinmold_project::review::{self, ChangeKind, FileChange};
use tinmold_project::write::{FileState, Inspection};

/// A fit with its report.
pub struct FitReport<'a> {
    part: &'a Part,
    root: &'a Path,
    fitting: &'a Fitting<'a>,
    /// For each missing joint: the lines around it in the mold's file.
    around: Vec<Option<Vec<String>>>,
}

impl<'a> FitReport<'a> {
    pub fn new(
        part: &'a Part,
        own: Option<&Mold>,
        recorded: Option<&Recorded>,
        root: &'a Path,
        fitting: &'a Fitting<'a>,
    ) -> Self {
        let plan = match (own, recorded, fitting.missing.is_empty()) {
            (Some(own), Some(recorded), false) => recorded
                .answers(own)
                .ok()
                .and_then(|answers| Plan::new(own, &answers, &Limits::default()).ok()?.verify().ok()),
            _ => None,
        };
        let around = fitting
            .missing
            .iter()
            .map(|missing| belongs(plan.as_ref()?, &missing.path, missing.joint.as_deref()?));
        Self { part, root, fitting, around: around.collect() }
    }

    /// Returns true if the project holds all of it.
    pub fn is_nothing(&self, inspection: &Inspection) -> bool {
        self.fitting.changes_nothing()
            && self.fitting.clashes.is_empty()
            && inspection.files.iter().all(|file| file.state == FileState::Same)
    }

    /// Returns what becomes of each file: the new files, and the files that change.
    pub fn changes_for_review(&self, sizes: &[u64], inspection: &Inspection) -> Vec<FileChange> {
        let mut all = review::changes(&self.fitting.plan, sizes, Some(inspection));
        all.extend(self.fitting.changes.iter().map(|change| FileChange {
            path: change.path.clone(),
            bytes: None,
            kind: ChangeKind::Edited,
        }));
        all.sort_by(|a, b| a.path.cmp(&b.path));
        all
    }

    /// Returns the diff of each changed file, cut after `most` lines.
    pub fn changes(&self, most: usize) -> String {
        let mut out = String::new();
        for change in &self.fitting.changes {
            out += &shown_change(change, most);
        }
        out
    }

    /// Returns what cannot be applied, with its lines in the mold.
    pub fn unplaced(&self) -> String {
        section("For you to place by hand", &self.unplaced_lines())
    }

    /// Returns the same, a line each.
    pub fn unplaced_lines(&self) -> Vec<String> {
        let mut lines = Vec::new();
        for (missing, around) in self.fitting.missing.iter().zip(&self.around) {
            lines.push(format!("{NAME}{}{NAME:#} {}:", safe(&missing.path), safe(&missing.why.to_string())));
            let above = around.as_deref().unwrap_or(&[]);
            let (joint, above) =
                above.split_last().map_or((None, above), |(joint, above)| (Some(joint), above));
            let faint = |line: &String| format!("    {FAINT}{}{FAINT:#}", safe_line(line));
            lines.extend(above.iter().map(faint));
            let indented = joint.map_or("", |joint| &joint[..joint.len() - joint.trim_start().len()]);
            let new = missing.lines.iter();
            lines.extend(
                new.map(|line| format!("  {GOOD}+ {}{GOOD:#}", safe_line(&format!("{indented}{line}")))),
            );
            lines.extend(joint.map(faint));
        }
        lines
    }

    /// Returns the values that are in the way.
    pub fn clashes(&self) -> String {
        section("Other values are in the way", &self.clash_lines())
    }

    /// Returns the same, a line each.
    pub fn clash_lines(&self) -> Vec<String> {
        let mut lines = Vec::new();
        for clash in &self.fitting.clashes {
            lines.push(format!("{NAME}{}{NAME:#} {}", safe(&clash.path), safe(&clash.what.place)));
            lines.push(format!("  {ERROR}- {}{ERROR:#}", safe(&clash.what.there.to_string())));
            lines.push(format!("  {GOOD}+ {}{GOOD:#}", safe(&clash.what.wanted.to_string())));
        }
        lines
    }

    /// Returns all of it as text.
    pub fn text(&self, inspection: &Inspection, plain: bool, most: usize) -> String {
        if self.is_nothing(inspection) {
            return "The project has all of it already.\n".into();
        }
        let rows = self.changes_for_review(&self.sizes(), inspection);
        let rows: Vec<(&str, String)> = rows
            .iter()
            .map(|change| {
                let note = match (&change.kind, change.bytes) {
                    (ChangeKind::Edited, _) => "changed".into(),
                    (ChangeKind::Written(_), Some(bytes)) => format!("new, {}", size(bytes)),
                    (ChangeKind::Written(_), None) => "new".into(),
                };
                (change.path.as_str(), note)
            })
            .collect();
        let mut out = tree::draw(&self.root.display().to_string(), &rows, plain, most);
        let different: Vec<&str> = self.in_the_way(inspection).collect();
        if !different.is_empty() {
            let _ = writeln!(out, "\n{WARN}In the way:{WARN:#} {}", safe(&different.join(", ")));
        }
        out + &self.changes(most) + &self.unplaced() + &self.clashes()
    }

    fn in_the_way<'s>(&'s self, inspection: &'s Inspection) -> impl Iterator<Item = &'s str> {
        let entries = self.fitting.plan.entries.iter().zip(&inspection.files);
        entries
            .filter(|(_, looked)| !matches!(looked.state, FileState::Absent | FileState::Same))
            .map(|(entry, _)| &*entry.path)
    }

    fn sizes(&self) -> Vec<u64> {
        self.fitting.plan.sizes().unwrap_or_default()
    }

    /// Returns all of it as data; what was done, if it was.
    pub fn as_json(&self, inspection: &Inspection, done: Option<&Fit>) -> Json {
        let added: Vec<Json> = self
            .fitting
            .plan
            .entries
            .iter()
            .zip(self.sizes())
            .zip(&inspection.files)
            .filter(|((entry, _), _)| entry.kind != EntryKind::Folder)
            .map(|((entry, bytes), looked)| {
                json!({
                    "path": entry.path,
                    "bytes": bytes,
                    "present": state_word(&looked.state),
                })
            })
            .collect();
        let changed: Vec<Json> = self
            .fitting
            .changes
            .iter()
            .map(|change| json!({ "path": change.path, "diff": unified(change) }))
            .collect();
        let missing: Vec<Json> = self
            .fitting
            .missing
            .iter()
            .map(|missing| {
                json!({ "path": missing.path, "why": missing.why.to_string(), "joint": missing.joint, "lines": missing.lines })
            })
            .collect();
        let clashes: Vec<Json> = self
            .fitting
            .clashes
            .iter()
            .map(|clash| {
                json!({
                    "path": clash.path,
                    "place": clash.what.place,
                    "there": clash.what.there.to_string(),
                    "wanted": clash.what.wanted.to_string(),
                })
            })
            .collect();
        json!({
            "part": self.part.name,
            "mold": { "name": self.part.mold.name(), "version": self.part.mold.version() },
            "folder": self.root.display().to_string(),
            "files": added,
            "changes": changed,
            "missing": missing,
            "clashes": clashes,
            "done": done.map(|fit| json!({
                "added": fit.added,
                "changed": fit.changed,
                "kept": fit.written.kept,
                "aside": fit.written.aside.iter().map(|(_, beside)| beside).collect::<Vec<_>>(),
            })),
        })
    }

    /// Returns what to type next, as the part says.
    pub fn next(&self, answers: &Answers) -> Result<Vec<String>, Finding> {
        let mold = &self.part.mold;
        let lines = mold.texts.next_lines(&mold.shown_scope, &answers.values)?;
        Ok(lines.iter().map(|line| safe(line)).collect())
    }

    /// Returns the part, with the answer to its first question.
    fn name(&self) -> String {
        let mold = &self.part.mold;
        let first = self.part.own_questions().next();
        let first = first.map(|at| display_value(mold, &self.fitting.plan.answers.questions[at].value));
        let words = [Some(self.part.name.clone()), first.filter(|text| !text.is_empty())];
        safe(&words.into_iter().flatten().collect::<Vec<_>>().join(" "))
    }

    /// Says what was done.
    pub fn print_done(&self, done: &Fit, next: &[String]) {
        let name = self.name();
        if done.is_nothing() {
            say!("{GOOD}Nothing to do:{GOOD:#} the project has {name} already.");
        } else {
            say!(
                "{GOOD}Fitted:{GOOD:#} {name} into {NAME}{}{NAME:#}",
                safe(&self.root.display().to_string())
            );
        }
        let listed = |what: &str, paths: &[String]| {
            if !paths.is_empty() {
                say!("  {what}: {}", safe(&paths.join(", ")));
            }
        };
        listed("new", &done.added);
        listed("changed", &done.changed);
        listed("kept yours", &done.written.kept);
        say_text!("{}", self.unplaced());
        if !next.is_empty() && !done.is_nothing() {
            say!("\n{BOLD}Next{BOLD:#}");
            next.iter().for_each(|line| say!("  {line}"));
        }
    }
}

/// Returns lines below a heading; empty without lines.
fn section(heading: &str, lines: &[String]) -> String {
    if lines.is_empty() {
        return String::new();
    }
    let lines: String = lines.iter().map(|line| format!("  {line}\n")).collect();
    format!("\n{BOLD}{WARN}{heading}{WARN:#}{BOLD:#}\n{lines}")
}

/// Returns the diff of a file, cut after `most` lines.
pub fn shown_change(change: &Change, most: usize) -> String {
    let mut out = format!("\n{BOLD}{}{BOLD:#}\n", safe(&change.path));
    let lines = difference_of(&change.before, &change.after, 1);
    for line in lines.iter().take(most) {
        let _ = writeln!(out, "  {line}");
    }
    if lines.len() > most {
        let _ = writeln!(out, "  {FAINT}and {} more{FAINT:#}", count(lines.len() - most, "line"));
    }
    out
}

/// Returns the change in the form that patch programs read.
pub fn unified(change: &Change) -> String {
    let (old, new) = (format!("a/{}", change.path), format!("b/{}", change.path));
    unified_difference(&old, &new, &change.before, &change.after)
}

/// Returns a line with its indentation kept and what steers a terminal escaped.
fn safe_line(line: &str) -> String {
    safe(&line.replace('\t', "    "))
}

/// Returns what is at the destination, in a word for programs.
pub fn state_word(state: &FileState) -> &'static str {
    match state {
        FileState::Absent => "absent",
        FileState::Same => "same",
        FileState::Different => "different",
        FileState::Local => "local",
        FileState::Blocked(_) => "blocked",
        FileState::BehindLink => "elsewhere",
    }
}
