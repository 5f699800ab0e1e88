//! The tree of what comes out, and of what an option would change in it.

use super::Pane;
use crate::text::style::{count, size};
use crate::text::width::cut;
use crate::ui::setup::board::Board;
use ratatui::style::Style;
use ratatui::text::{Line, Span};
use std::collections::BTreeMap;
use tinmold_project::outcome::{Effect, FileEffect, FileKind, LineCounts, OutcomeFile};
use unicode_width::UnicodeWidthStr;

/// A line of the tree.
pub struct TreeLine {
    /// The path of the file; `None` for a folder.
    pub path: Option<String>,
    pub line: Line<'static>,
}

/// What stands behind a name, with the sign before it.
struct Entry {
    sign: &'static str,
    style: Style,
    note: String,
}

/// Returns the tree of everything that comes out.
pub fn whole(board: &Board<'_, '_>, pane: Pane) -> Vec<TreeLine> {
    let files = board.outcome.as_ref().map(|outcome| outcome.files()).unwrap_or_default();
    let entry = |file: &&OutcomeFile| {
        let (sign, style) = match file.kind {
            FileKind::Edited => ("~", pane.theme.changed()),
            _ => (" ", Style::new()),
        };
        let note = match file.kind {
            FileKind::Folder => "empty folder".to_owned(),
            FileKind::Link => "link".to_owned(),
            FileKind::File | FileKind::Edited => size(file.bytes),
        };
        (file.path.clone(), Entry { sign, style, note })
    };
    drawn(board, pane, files.iter().map(entry))
}

/// Returns the tree of what changes.
pub fn changes(board: &Board<'_, '_>, pane: Pane, effect: &Effect) -> Vec<TreeLine> {
    let lines = |file: &OutcomeFile| match file.lines {
        Some(lines) => count(lines, "line"),
        None => size(file.bytes),
    };
    let entry = |(path, file): (&String, &FileEffect)| {
        let entry = match file {
            FileEffect::Added(file) => Entry { sign: "+", style: pane.theme.added(), note: lines(file) },
            FileEffect::Removed(file) => {
                Entry { sign: "−", style: pane.theme.removed(), note: lines(file) }
            }
            FileEffect::Changed(..) => {
                Entry { sign: "~", style: pane.theme.changed(), note: changed(&board.lines, path) }
            }
        };
        (path.clone(), entry)
    };
    drawn(board, pane, effect.files.iter().map(entry))
}

/// Returns the lines that a file gains and loses, as far as they are counted.
fn changed(lines: &BTreeMap<String, LineCounts>, path: &str) -> String {
    match lines.get(path) {
        Some(LineCounts { added: 0, removed: 0 }) => "its mode".to_owned(),
        Some(LineCounts { added, removed }) => {
            let parts = [("+", *added), ("−", *removed)].into_iter().filter(|(_, number)| *number > 0);
            parts.map(|(sign, number)| format!("{sign}{number}")).collect::<Vec<_>>().join(" ")
        }
        None => "…".to_owned(),
    }
}

fn drawn(board: &Board<'_, '_>, pane: Pane, entries: impl Iterator<Item = (String, Entry)>) -> Vec<TreeLine> {
    let shown = board.shown.as_ref().map(|shown| shown.path.as_str());
    let mut lines = Vec::new();
    let mut open: Vec<String> = Vec::new();
    for (path, entry) in entries {
        let parts: Vec<&str> = path.split('/').collect();
        let (name, folders) = parts.split_last().map_or(("", [].as_slice()), |(name, rest)| (*name, rest));
        let shared = open.iter().zip(folders).take_while(|(a, b)| a == *b).count();
        open.truncate(shared);
        for folder in &folders[shared..] {
            let text = format!("  {}{}/", "  ".repeat(open.len()), cut(folder, pane.width()));
            lines.push(TreeLine { path: None, line: Line::styled(text, pane.theme.faint()) });
            open.push((*folder).to_owned());
        }
        let is_here = shown == Some(path.as_str());
        let mark = if is_here { "▸" } else { " " };
        let indent = "  ".repeat(folders.len());
        let room = pane.width().saturating_sub(4 + indent.len() + entry.note.width() + 2);
        let style = if is_here { pane.theme.accent() } else { entry.style };
        let line = Line::from(vec![
            Span::styled(mark, pane.theme.accent()),
            Span::styled(format!("{}{indent}", entry.sign), entry.style),
            Span::raw(" "),
            Span::styled(cut(name, room), style),
            Span::styled(format!("  {}", entry.note), pane.theme.faint()),
        ]);
        lines.push(TreeLine { path: Some(path), line });
    }
    lines
}
