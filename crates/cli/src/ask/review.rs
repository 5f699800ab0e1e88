//! The one look before anything is written: settings, tree, and what to do.

use crate::show::{BOLD, FAINT, count, safe};
use crate::tree;
use std::fmt::Write;
use std::path::PathBuf;
use tinmold_core::answers::{Session, Source, written};
use tinmold_core::mold::Kind;
use tinmold_core::plan::{EntryKind, Plan};
use tinmold_core::write::{Present, Surveyed};
use unicode_width::UnicodeWidthStr;

/// What a person decides at the review.
pub enum Decision {
    /// Write it.
    Write,
    /// Change the answer to the question at this place.
    Change(usize),
    /// Ask the details too.
    Details,
    /// Choose the finishing steps that run.
    Steps,
    /// Leave without writing.
    Leave,
}

/// What there is to look at.
pub struct Review<'a> {
    /// Where it will be written.
    pub folder: PathBuf,
    /// What the tree shows, in a few words.
    pub title: &'a str,
    /// How much that is.
    pub extent: String,
    /// The paths of the tree, sorted, each with what stands behind it.
    pub entries: Vec<(String, String)>,
    /// What is at the destination already, if it is a folder that is there.
    pub present: Option<AlreadyThere>,
    /// So many lines of the tree are shown however small the screen is.
    pub least: usize,
    /// What the machine lacks, and what runs afterwards.
    pub more: String,
    /// Whether there is a choice of what runs afterwards.
    pub has_steps: bool,
    /// Gives the text of the file at a path.
    pub file: &'a dyn Fn(&str) -> String,
}

/// What is at the destination already.
#[derive(Default)]
pub struct AlreadyThere {
    /// How many files are just as they would be written.
    pub same: usize,
    /// The paths of files that are something else.
    pub different: Vec<String>,
    /// The paths of files for this machine only, which stay as they are.
    pub local: Vec<String>,
    /// What cannot be written over.
    pub blocked: Vec<String>,
}

impl AlreadyThere {
    /// Counts what was found where the entries of `plan` would be written.
    pub fn of(plan: &Plan<'_>, all: &[Surveyed]) -> Self {
        let mut there = Self::default();
        for (entry, looked) in plan.entries.iter().zip(all) {
            match &looked.present {
                Present::Absent => {}
                Present::Same => there.same += usize::from(entry.kind != EntryKind::Folder),
                Present::Different => there.different.push(entry.path.to_string()),
                Present::Local => there.local.push(entry.path.to_string()),
                Present::Blocked(why) => there.blocked.push(format!("{} {why}", entry.path)),
                Present::Elsewhere => {
                    there.blocked.push(format!("{} is behind a link to elsewhere", entry.path));
                }
            }
        }
        there
    }

    /// What people read of it.
    pub fn text(&self) -> String {
        let mut out = format!("\n{BOLD}Already there{BOLD:#}\n");
        let mut line = |text: String| {
            let _ = writeln!(out, "  {text}");
        };
        if self.same > 0 {
            line(format!("{} just so", count(self.same, "file")));
        }
        if !self.different.is_empty() {
            let names = safe(&self.different.join(", "));
            line(format!("{} different: {names}", count(self.different.len(), "file")));
            line("You are asked about each before anything is written.".into());
        }
        if !self.local.is_empty() {
            line(format!("for this machine only, and stays: {}", safe(&self.local.join(", "))));
        }
        for path in &self.blocked {
            line(format!("in the way: {}", safe(path)));
        }
        if self.same + self.different.len() + self.local.len() + self.blocked.len() == 0 {
            line("the folder, and nothing in the way".into());
        }
        out
    }
}

impl Review<'_> {
    /// Settings and tree as text.
    ///
    /// The tree is cut so that all of it fits `rows` lines, but for those that it always has.
    pub fn text(&self, session: &Session<'_>, plain: bool, rows: usize) -> String {
        let mut out = settings(session);
        let _ = writeln!(out, "\n{BOLD}{}{BOLD:#} {FAINT}({}){FAINT:#}", self.title, self.extent);
        let present = self.present.as_ref().map_or_else(String::new, AlreadyThere::text);
        let rest = present + &self.more;
        let most = rows.saturating_sub(out.lines().count() + rest.lines().count()).max(self.least);
        out + &self.tree(plain, most) + &rest
    }

    /// The tree of what will be written, cut after `most` lines.
    pub fn tree(&self, plain: bool, most: usize) -> String {
        let entries: Vec<(&str, String)> =
            self.entries.iter().map(|(path, note)| (path.as_str(), note.clone())).collect();
        tree::drawn(&self.folder.display().to_string(), &entries, plain, most)
    }
}

/// Every setting with its value and where that comes from.
pub fn settings(session: &Session<'_>) -> String {
    let mold = session.mold();
    let mut out = String::new();
    let visible = || {
        let all = mold.questions.iter().zip(session.settled());
        all.filter(|(question, settled)| settled.is_visible() && !question.from_casting)
    };
    let wide = visible().map(|(question, _)| question.ask.width()).max().unwrap_or(0).min(40);
    let mut group = None;
    for (question, settled) in visible() {
        if question.group != group {
            group.clone_from(&question.group);
            let _ = writeln!(out, "{BOLD}{}{BOLD:#}", safe(group.as_deref().unwrap_or("Other")));
        }
        let value = match question.kind {
            Kind::Minted { length } => format!("{length} random letters and digits"),
            Kind::Flag => {
                if written(mold, &settled.value) == "true" {
                    "yes".into()
                } else {
                    "no".into()
                }
            }
            _ => shown_value(&written(mold, &settled.value)),
        };
        let source =
            if settled.source == Source::Minted { String::new() } else { settled.source.to_string() };
        let ask = safe(&question.ask);
        let pad = " ".repeat(wide.saturating_sub(ask.width()));
        let _ = writeln!(out, "  {ask}{pad}  {value}  {FAINT}{}{FAINT:#}", safe(&source));
    }
    out
}

/// A value on one line: long ones are cut, empty ones said.
fn shown_value(value: &str) -> String {
    let line = safe(value);
    if line.is_empty() {
        return format!("{FAINT}none{FAINT:#}");
    }
    let short: String = line.chars().take(60).collect();
    if short.len() < line.len() { format!("{short}…") } else { short }
}
