//! Files that exist: their differences, and what is done with them.

use super::style::{ERROR, FAINT, GOOD, safe, size};
use similar::{ChangeTag, TextDiff};
use std::fmt::Write;
use std::fs;
use std::path::Path;
use tinmold_project::plan::Rendered;
use tinmold_project::verify::VerifiedPlan;
use tinmold_project::write::Conflict;

/// Larger files are not compared line by line.
const LARGEST: u64 = 1 << 20;

/// A file in the way, as it is shown.
pub struct InTheWay<'a> {
    pub path: &'a str,
    /// The number of the file, from 1.
    pub number: usize,
    pub of: usize,
    /// The lines that show what differs.
    pub difference: Vec<String>,
}

impl InTheWay<'_> {
    /// Returns the diff.
    pub fn shown(&self) -> String {
        self.difference.iter().fold(String::new(), |mut out, line| {
            let _ = writeln!(out, "  {line}");
            out
        })
    }
}

/// Returns the difference between an existing file and the new one.
pub fn difference(plan: &VerifiedPlan<'_>, folder: &Path, conflict: &Conflict) -> Vec<String> {
    let path = folder.join(&conflict.path);
    let entry = &plan.entries[conflict.entry];
    let source = &plan.mold.package.files[plan.body(entry).file];
    let target = fs::symlink_metadata(&path).ok().filter(fs::Metadata::is_symlink);
    if target.is_some() {
        let target = fs::read_link(&path).unwrap_or_default();
        return vec![format!("yours is a link to {}", safe(&target.display().to_string()))];
    }
    let mine_length = fs::metadata(&path).map_or(0, |metadata| metadata.len());
    let mut new = Vec::new();
    let rendered = plan.render(entry, &mut new);
    let new_length = if let Ok(Rendered::Bytes) = rendered { new.len() as u64 } else { source.len() };
    let sizes = vec![format!("yours has {}, the new one {}", size(mine_length), size(new_length))];
    if mine_length.max(new_length) > LARGEST {
        return sizes;
    }
    if let Ok(Rendered::AsIs) = rendered {
        new = source.read().map(std::borrow::Cow::into_owned).unwrap_or_default();
    }
    let mine = fs::read(&path).unwrap_or_default();
    match (String::from_utf8(mine), String::from_utf8(new)) {
        (Ok(mine), Ok(new)) => difference_of(&mine, &new, 3),
        _ => sizes,
    }
}

/// Returns the difference in the form that patch programs read; `old` and `new` name the sides.
pub fn unified_difference(old: &str, new: &str, before: &str, after: &str) -> String {
    TextDiff::from_lines(before, after).unified_diff().header(old, new).to_string()
}

/// Returns a line diff with context: `-` marks existing lines, `+` new ones.
pub fn difference_of(mine: &str, new: &str, around: usize) -> Vec<String> {
    let diff = TextDiff::from_lines(mine, new);
    let mut shown: Vec<String> = Vec::new();
    for (at, group) in diff.grouped_ops(around).iter().enumerate() {
        if at > 0 {
            shown.push(format!("{FAINT}  …{FAINT:#}"));
        }
        for change in group.iter().flat_map(|op| diff.iter_changes(op)) {
            let text = change.value().trim_end_matches(['\n', '\r']);
            let text = if change.value() == text || change.value().ends_with("\r\n") {
                // Line ends are part of what differs.
                let end = if change.value() == text { "no line break" } else { "CRLF" };
                if change.tag() == ChangeTag::Equal { safe(text) } else { format!("{} ({end})", safe(text)) }
            } else {
                safe(text)
            };
            shown.push(match change.tag() {
                ChangeTag::Delete => format!("{ERROR}- {text}{ERROR:#}"),
                ChangeTag::Insert => format!("{GOOD}+ {text}{GOOD:#}"),
                ChangeTag::Equal => format!("  {text}"),
            });
        }
    }
    shown
}
