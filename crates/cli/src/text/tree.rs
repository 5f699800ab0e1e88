//! The tree of a project, for people.

use super::style::{FAINT, NAME, safe};
use std::fmt::Write;

/// Returns a line for every entry and directory. `entries` are sorted paths, each with a note;
/// after `most` lines the rest is counted.
pub fn draw(root: &str, entries: &[(&str, String)], plain: bool, most: usize) -> String {
    let mut lines = vec![format!("{NAME}{}/{NAME:#}", safe(root))];
    let mut open: Vec<&str> = Vec::new();
    for (at, (path, note)) in entries.iter().enumerate() {
        let parts: Vec<&str> = path.split('/').collect();
        let (name, folders) =
            parts.split_last().map_or(("", [].as_slice()), |(name, folders)| (*name, folders));
        let shared = open.iter().zip(folders).take_while(|(a, b)| a == b).count();
        open.truncate(shared);
        for folder in &folders[shared..] {
            let branch = branches(entries, at, open.len(), plain);
            lines.push(format!("{FAINT}{branch}{FAINT:#}{NAME}{}/{NAME:#}", safe(folder)));
            open.push(folder);
        }
        let branch = branches(entries, at, folders.len(), plain);
        let note = if note.is_empty() { String::new() } else { format!("  {FAINT}{note}{FAINT:#}") };
        lines.push(format!("{FAINT}{branch}{FAINT:#}{}{note}", safe(name)));
    }
    let mut out = String::new();
    let cut = if lines.len() > most.saturating_add(1) { most } else { lines.len() };
    for line in &lines[..cut] {
        let _ = writeln!(out, "  {line}");
    }
    if cut < lines.len() {
        let _ = writeln!(out, "  {FAINT}and {} more{FAINT:#}", lines.len() - cut);
    }
    out
}

/// Returns the prefix of a name at `depth`: a vertical line for every directory that continues
/// below.
fn branches(entries: &[(&str, String)], at: usize, depth: usize, plain: bool) -> String {
    if plain {
        return "  ".repeat(depth + 1);
    }
    let parts: Vec<&str> = entries[at].0.split('/').collect();
    let goes_on = |level: usize| {
        let folder = &parts[..level];
        entries[at + 1..]
            .iter()
            .map(|(path, _)| path)
            .take_while(|path| path.split('/').take(level).eq(folder.iter().copied()))
            .any(|path| path.split('/').nth(level) != parts.get(level).copied())
    };
    let mut out = String::new();
    for level in 0..depth {
        out.push_str(if goes_on(level) { "│  " } else { "   " });
    }
    out.push_str(if goes_on(depth) { "├─ " } else { "└─ " });
    out
}
