//! The review as text: settings, tree, existing files, needs and steps.

use super::style::{BOLD, FAINT, GOOD, count, safe, size};
use super::{needs, steps, tree};
use std::fmt::Write;
use tinmold_project::review::{ChangeKind, FileChange, Review, Setting, SettingValue};
use tinmold_project::write::FileState;
use tinmold_project::write::cover::Uncovered;
use unicode_width::UnicodeWidthStr;

/// The layout of a review.
pub struct Layout<'a> {
    /// The heading of the tree.
    pub title: &'a str,
    /// The size of the change, in a few words.
    pub extent: &'a str,
    /// More text after the tree.
    pub details: &'a str,
}

/// Formats settings, tree and the rest in plain lines.
pub fn whole(review: &Review, layout: &Layout<'_>) -> String {
    let mut out = settings(&review.settings);
    let _ = writeln!(out, "\n{BOLD}{}{BOLD:#} {FAINT}({}){FAINT:#}", layout.title, layout.extent);
    let entries: Vec<(&str, String)> =
        review.changes.iter().map(|change| (change.path.as_str(), note(change, review.is_new))).collect();
    out += &tree::draw(&review.destination.display().to_string(), &entries, true, usize::MAX);
    out += &if review.is_new { String::new() } else { already_there(&review.changes) };
    out += layout.details;
    out += &needs::lacking(&review.lacking);
    out + &review.steps.as_ref().map_or_else(String::new, steps::offered)
}

fn note(change: &FileChange, is_new: bool) -> String {
    let bytes = change.bytes.map_or_else(String::new, size);
    match &change.kind {
        ChangeKind::Edited => "changed".into(),
        ChangeKind::Written(FileState::Absent) if !is_new && !bytes.is_empty() => format!("new, {bytes}"),
        ChangeKind::Written(_) => bytes,
    }
}

/// Says what is at the destination already.
pub fn already_there(changes: &[FileChange]) -> String {
    let mut lines = Vec::new();
    let mut line = |text: String| lines.push(text);
    let paths = |state: &FileState| -> Vec<&str> {
        let kind = ChangeKind::Written(state.clone());
        changes.iter().filter(|change| change.kind == kind).map(|change| change.path.as_str()).collect()
    };
    let same = paths(&FileState::Same).len();
    if same > 0 {
        line(format!("{} unchanged", count(same, "file")));
    }
    let different = paths(&FileState::Different);
    if !different.is_empty() {
        line(format!("{} different: {}", count(different.len(), "file"), safe(&different.join(", "))));
        line("You are asked about each before anything is written.".into());
    }
    let local = paths(&FileState::Local);
    if !local.is_empty() {
        line(format!("for this machine only, and stays: {}", safe(&local.join(", "))));
    }
    for change in changes {
        match &change.kind {
            ChangeKind::Written(FileState::Blocked(reason)) => {
                line(format!("in the way: {} {reason}", safe(&change.path)));
            }
            ChangeKind::Written(FileState::BehindLink) => {
                line(format!("in the way: {} is behind a link that leads elsewhere", safe(&change.path)));
            }
            _ => {}
        }
    }
    if lines.is_empty() {
        lines.push("nothing is in the way".into());
    }
    let mut out = format!("\n{BOLD}In the destination{BOLD:#}\n");
    for line in lines {
        let _ = writeln!(out, "  {line}");
    }
    out
}

/// Says which files of this machine only would get out, and the line of an ignore file that each needs.
pub fn exposed(uncovered: &[Uncovered]) -> String {
    if uncovered.is_empty() {
        return String::new();
    }
    let mut out = format!("\n{BOLD}To be kept out{BOLD:#}\n");
    for one in uncovered {
        let _ = writeln!(out, "  {} {}", safe(&one.path), one.into);
        if let Some(line) = &one.line {
            let _ = writeln!(out, "    {GOOD}+ {}{GOOD:#}  in {}", safe(&line.line), safe(&line.file));
        }
    }
    out
}

/// Lists every setting with its value and its source.
pub fn settings(settings: &[Setting]) -> String {
    let mut out = String::new();
    let wide = settings.iter().map(|setting| setting.label.width()).max().unwrap_or(0).min(40);
    let mut group = None;
    for setting in settings {
        if setting.group != group {
            group.clone_from(&setting.group);
            let _ = writeln!(out, "{BOLD}{}{BOLD:#}", safe(group.as_deref().unwrap_or("Other")));
        }
        let (value, source) = match &setting.value {
            SettingValue::Minted { length } => (format!("{length} random letters and digits"), String::new()),
            SettingValue::Secret(given) => {
                (if *given { "secret" } else { "none" }.to_owned(), setting.source.to_string())
            }
            SettingValue::Flag(flag) => {
                (if *flag { "yes".into() } else { "no".into() }, setting.source.to_string())
            }
            SettingValue::Text(text) => (one_line(text), setting.source.to_string()),
        };
        let label = safe(&setting.label);
        let pad = " ".repeat(wide.saturating_sub(label.width()));
        let _ = writeln!(out, "  {label}{pad}  {value}  {FAINT}{}{FAINT:#}", safe(&source));
    }
    out
}

/// Shortens a value to one line.
fn one_line(value: &str) -> String {
    let line = safe(value);
    if line.is_empty() {
        return format!("{FAINT}none{FAINT:#}");
    }
    let short: String = line.chars().take(60).collect();
    if short.len() < line.len() { format!("{short}…") } else { short }
}
