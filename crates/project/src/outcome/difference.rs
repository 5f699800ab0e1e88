//! The lines that differ between two texts.

use similar::{Algorithm, ChangeTag, TextDiff};
use std::time::{Duration, Instant};

/// What takes longer is compared roughly.
const LONGEST: Duration = Duration::from_millis(60);

/// The number of lines that a change adds and removes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct LineCounts {
    /// The added lines.
    pub added: usize,
    /// The removed lines.
    pub removed: usize,
}

/// A line of a difference; lines are counted from 0.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum DiffLine {
    /// Lines that stay are left out here.
    Gap,
    /// This line of the new text stays.
    Same(usize),
    /// This line of the old text goes.
    Removed(usize),
    /// This line of the new text comes.
    Added(usize),
}

fn diff<'t>(before: &'t str, after: &'t str) -> TextDiff<'t, 't, str> {
    let deadline = Instant::now() + LONGEST;
    TextDiff::configure().algorithm(Algorithm::Myers).deadline(deadline).diff_lines(before, after)
}

/// Counts the lines that differ between two texts. What takes longer than a fraction of a second is counted
/// roughly.
#[must_use]
pub fn line_counts(before: &str, after: &str) -> LineCounts {
    let mut counts = LineCounts::default();
    for change in diff(before, after).iter_all_changes() {
        match change.tag() {
            ChangeTag::Insert => counts.added += 1,
            ChangeTag::Delete => counts.removed += 1,
            ChangeTag::Equal => {}
        }
    }
    counts
}

/// Returns the lines that differ, each change with so many lines `around` it.
#[must_use]
pub fn differing_lines(before: &str, after: &str, around: usize) -> Vec<DiffLine> {
    let diff = diff(before, after);
    let mut lines = Vec::new();
    for (number, group) in diff.grouped_ops(around).iter().enumerate() {
        if number > 0 {
            lines.push(DiffLine::Gap);
        }
        for change in group.iter().flat_map(|op| diff.iter_changes(op)) {
            lines.extend(match change.tag() {
                ChangeTag::Delete => change.old_index().map(DiffLine::Removed),
                ChangeTag::Insert => change.new_index().map(DiffLine::Added),
                ChangeTag::Equal => change.new_index().map(DiffLine::Same),
            });
        }
    }
    lines
}
