//! What a fit will do, and what it did, as people and programs read it.

use crate::ask::difference_of;
use crate::show::{BOLD, ERROR, FAINT, GOOD, NAME, WARN, count, safe, size};
use crate::tree;
use serde_json::{Value as Json, json};
use similar::TextDiff;
use std::collections::BTreeMap;
use std::fmt::Write;
use std::path::Path;
use tinmold_core::answers::{Answers, written};
use tinmold_core::fit::{Change, Fit, Fitting, belongs};
use tinmold_core::mold::{Mold, Part};
use tinmold_core::plan::{EntryKind, Limits, Plan};
use tinmold_core::record::Recorded;
use tinmold_core::write::{Present, Surveyed};
use tinmold_notation::Finding;

/// A fit with all that is to be said of it.
pub struct FitReport<'a> {
    part: &'a Part,
    root: &'a Path,
    fitting: &'a Fitting<'a>,
    /// For what is missing, in its order: the lines of the mold's file around the seam.
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
            .map(|missing| belongs(plan.as_ref()?, &missing.path, missing.seam.as_deref()?));
        Self { part, root, fitting, around: around.collect() }
    }

    /// Whether all of it is there already.
    pub fn is_nothing(&self, present: &[Surveyed]) -> bool {
        self.fitting.changes_nothing()
            && self.fitting.clashes.is_empty()
            && present.iter().all(|looked| looked.present == Present::Same)
    }

    /// The rows of the tree: new files with their sizes, and the files that change.
    pub fn tree(&self, sizes: impl Iterator<Item = String>) -> Vec<(String, String)> {
        let mut rows: BTreeMap<String, String> = BTreeMap::new();
        for (entry, size) in self.fitting.plan.entries.iter().zip(sizes) {
            rows.insert(entry.path.to_string(), format!("new, {size}"));
        }
        for change in &self.fitting.changes {
            rows.insert(change.path.clone(), "changed".into());
        }
        rows.into_iter().collect()
    }

    /// What differs in each file that changes, each cut after `most` lines.
    pub fn changes(&self, most: usize) -> String {
        let mut out = String::new();
        for change in &self.fitting.changes {
            out += &shown_change(change, most);
        }
        out
    }

    /// What cannot be put where it belongs, with the place that the mold has for it.
    pub fn unplaced(&self) -> String {
        let mut out = String::new();
        if self.fitting.missing.is_empty() {
            return out;
        }
        let _ = writeln!(out, "\n{BOLD}{WARN}For you to place by hand{WARN:#}{BOLD:#}");
        for (missing, around) in self.fitting.missing.iter().zip(&self.around) {
            let _ = writeln!(out, "  {NAME}{}{NAME:#} {}:", safe(&missing.path), safe(&missing.why));
            let above = around.as_deref().unwrap_or(&[]);
            let (seam, above) = above.split_last().map_or((None, above), |(seam, above)| (Some(seam), above));
            for line in above {
                let _ = writeln!(out, "      {FAINT}{}{FAINT:#}", safe_line(line));
            }
            let indented = seam.map_or("", |seam| &seam[..seam.len() - seam.trim_start().len()]);
            for line in &missing.lines {
                let _ = writeln!(out, "    {GOOD}+ {}{GOOD:#}", safe_line(&format!("{indented}{line}")));
            }
            if let Some(seam) = seam {
                let _ = writeln!(out, "      {FAINT}{}{FAINT:#}", safe_line(seam));
            }
        }
        out
    }

    /// Values that are in the way.
    pub fn clashes(&self) -> String {
        if self.fitting.clashes.is_empty() {
            return String::new();
        }
        let lines: String = self.clash_lines().iter().map(|line| format!("  {line}\n")).collect();
        format!("\n{BOLD}{WARN}Other values are there already{WARN:#}{BOLD:#}\n{lines}")
    }

    /// The same, a line each.
    pub fn clash_lines(&self) -> Vec<String> {
        let mut lines = Vec::new();
        for clash in &self.fitting.clashes {
            lines.push(format!("{NAME}{}{NAME:#} {}", safe(&clash.path), safe(&clash.what.place)));
            lines.push(format!("  {ERROR}- {}{ERROR:#}", safe(&clash.what.there.to_string())));
            lines.push(format!("  {GOOD}+ {}{GOOD:#}", safe(&clash.what.wanted.to_string())));
        }
        lines
    }

    /// All of it as text.
    pub fn text(&self, present: &[Surveyed], plain: bool, most: usize) -> String {
        if self.is_nothing(present) {
            return "All of it is there already.\n".into();
        }
        let rows = self.tree(self.sizes().into_iter().map(size));
        let rows: Vec<(&str, String)> =
            rows.iter().map(|(path, note)| (path.as_str(), note.clone())).collect();
        let mut out = tree::drawn(&self.root.display().to_string(), &rows, plain, most);
        let different: Vec<&str> = self.in_the_way(present).collect();
        if !different.is_empty() {
            let _ = writeln!(
                out,
                "\n{WARN}There already, and different:{WARN:#} {}",
                safe(&different.join(", "))
            );
        }
        out + &self.changes(most) + &self.unplaced() + &self.clashes()
    }

    fn in_the_way<'s>(&'s self, present: &'s [Surveyed]) -> impl Iterator<Item = &'s str> {
        let entries = self.fitting.plan.entries.iter().zip(present);
        entries
            .filter(|(_, looked)| !matches!(looked.present, Present::Absent | Present::Same))
            .map(|(entry, _)| &*entry.path)
    }

    fn sizes(&self) -> Vec<u64> {
        self.fitting.plan.sizes().unwrap_or_default()
    }

    /// All of it as data; what was done, if it was.
    pub fn as_json(&self, present: &[Surveyed], done: Option<&Fit>) -> Json {
        let added: Vec<Json> = self
            .fitting
            .plan
            .entries
            .iter()
            .zip(self.sizes())
            .zip(present)
            .filter(|((entry, _), _)| entry.kind != EntryKind::Folder)
            .map(|((entry, bytes), looked)| {
                json!({
                    "path": entry.path,
                    "bytes": bytes,
                    "present": super::dry_run::word(&looked.present),
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
                json!({ "path": missing.path, "why": missing.why, "seam": missing.seam, "lines": missing.lines })
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

    /// What to type next, as the part says it.
    pub fn next(&self, answers: &Answers) -> Result<Vec<String>, Finding> {
        let mold = &self.part.mold;
        let lines = mold.texts.next_lines(&mold.shown_scope, &answers.values)?;
        Ok(lines.iter().map(|line| safe(line)).collect())
    }

    /// The part, with the answer to its first question.
    fn name(&self) -> String {
        let mold = &self.part.mold;
        let first = self.part.own_questions().next();
        let first = first.map(|at| written(mold, &self.fitting.plan.answers.questions[at].value));
        let words = [Some(self.part.name.clone()), first.filter(|text| !text.is_empty())];
        safe(&words.into_iter().flatten().collect::<Vec<_>>().join(" "))
    }

    /// Says what was done.
    pub fn say(&self, done: &Fit, next: &[String]) {
        let name = self.name();
        if done.is_nothing() {
            anstream::eprintln!("{GOOD}Nothing to do:{GOOD:#} {name} is there already.");
        } else {
            anstream::eprintln!(
                "{GOOD}Fitted:{GOOD:#} {name} into {NAME}{}{NAME:#}",
                safe(&self.root.display().to_string())
            );
        }
        let listed = |what: &str, paths: &[String]| {
            if !paths.is_empty() {
                anstream::eprintln!("  {what}: {}", safe(&paths.join(", ")));
            }
        };
        listed("new", &done.added);
        listed("changed", &done.changed);
        listed("kept yours", &done.written.kept);
        anstream::eprint!("{}", self.unplaced());
        if !next.is_empty() && !done.is_nothing() {
            anstream::eprintln!("\n{BOLD}Next{BOLD:#}");
            next.iter().for_each(|line| anstream::eprintln!("  {line}"));
        }
    }
}

/// What differs in a file, cut after `most` lines.
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

/// The change in the form that patch programs read.
pub fn unified(change: &Change) -> String {
    let (old, new) = (format!("a/{}", change.path), format!("b/{}", change.path));
    TextDiff::from_lines(&change.before, &change.after).unified_diff().header(&old, &new).to_string()
}

/// A line with its indentation kept and what steers a terminal escaped.
fn safe_line(line: &str) -> String {
    safe(&line.replace('\t', "    "))
}
