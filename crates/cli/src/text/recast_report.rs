//! A planned recast, for people, for programs, and for a pull request.

use super::diff::difference_of;
use super::recast_json::{decision_as_json, file_as_json, note_as_json};
use super::recast_words::{after, lines_of, note_lines, question, unified};
use super::style::{BOLD, FAINT, GOOD, NAME, WARN, count, safe};
use super::tree;
use serde_json::{Value as Json, json};
use std::fmt::Write;
use std::path::Path;
use tinmold_project::recast::{FileChange, FileRecast, Recast};
use tinmold_project::record::CastingMold;

/// A recast with what its report needs.
pub struct RecastReport<'a> {
    pub recast: &'a Recast,
    pub root: &'a Path,
    /// The mold and the version that it was cast from.
    pub from: &'a CastingMold,
    /// The mold and the version that it is brought to.
    pub to: &'a CastingMold,
}

/// The most lines of a difference that people are shown.
const MOST: usize = 40;

impl RecastReport<'_> {
    /// Returns where it comes from and goes to, in a line.
    fn way(&self) -> String {
        let (from, to) = (&self.from, &self.to);
        let name = safe(&to.name);
        match (from.version == to.version, from.digest == to.digest) {
            (true, true) => format!("{name} {} with other answers", safe(&to.version)),
            (true, false) => format!("{name} {}, which changed since", safe(&to.version)),
            _ => format!("{name} {} → {}", safe(&from.version), safe(&to.version)),
        }
    }

    /// Returns what would change, as text.
    pub fn text(&self, plain: bool, is_verbose: bool) -> String {
        if self.recast.is_nothing() {
            let (name, version) = (safe(&self.to.name), safe(&self.to.version));
            return format!("{GOOD}Nothing to do:{GOOD:#} the project follows {name} {version} already.\n");
        }
        let mut out = format!("{BOLD}{}{BOLD:#}\n", self.way());
        let rows = self.rows();
        let rows: Vec<(&str, String)> =
            rows.iter().map(|(path, note)| (path.as_str(), note.clone())).collect();
        if !rows.is_empty() {
            let most = if is_verbose { usize::MAX } else { 200 };
            out += &tree::draw(&self.root.display().to_string(), &rows, plain, most);
        }
        for file in &self.recast.files {
            out += &difference(file, if is_verbose { usize::MAX } else { MOST });
        }
        out + &self.undecided() + &self.notes()
    }

    /// Returns each path that changes, with what happens to it; sorted.
    fn rows(&self) -> Vec<(String, String)> {
        let files = self.recast.files.iter().map(|file| (file.path.clone(), word(file)));
        let moves = self.recast.moves.iter().map(|(from, to)| (to.clone(), format!("from {}", safe(from))));
        let folders = self.recast.folders.iter().map(|folder| (folder.clone(), "new folder".to_owned()));
        let mut rows: Vec<(String, String)> = files.chain(moves).chain(folders).collect();
        rows.sort();
        rows
    }

    /// Returns what somebody has to decide, with all three texts.
    pub fn undecided(&self) -> String {
        if self.recast.decisions.is_empty() {
            return String::new();
        }
        let mut out = format!("\n{BOLD}{WARN}To be decided{WARN:#}{BOLD:#}\n");
        for decision in &self.recast.decisions {
            let _ = writeln!(out, "  {NAME}{}{NAME:#} {}", safe(&decision.path), safe(&question(decision)));
            for line in lines_of(decision) {
                let _ = writeln!(out, "    {line}");
            }
        }
        out
    }

    /// Returns what there is to know besides.
    pub fn notes(&self) -> String {
        if self.recast.notes.is_empty() {
            return String::new();
        }
        let mut out = format!("\n{BOLD}To know{BOLD:#}\n");
        for note in &self.recast.notes {
            for (at, line) in note_lines(note).iter().enumerate() {
                let _ = writeln!(out, "  {}{}", if at == 0 { "" } else { "  " }, safe(line));
            }
        }
        out
    }

    /// Says what was done.
    pub fn print_done(&self) {
        say!(
            "{GOOD}Recast:{GOOD:#} {NAME}{}{NAME:#}  {}",
            safe(&self.root.display().to_string()),
            self.way()
        );
        let of = |wanted: FileChange| -> Vec<String> {
            let files = self.recast.files.iter().filter(|file| file.kind == wanted);
            files.map(|file| file.path.clone()).collect()
        };
        for (what, kind) in [
            ("new", FileChange::New),
            ("as the mold has it", FileChange::Replaced),
            ("merged with yours", FileChange::Merged),
            ("moved", FileChange::Moved),
            ("gone", FileChange::Removed),
        ] {
            let paths = of(kind);
            match paths.len() {
                0 => {}
                1..=8 => say!("  {what}: {}", safe(&paths.join(", "))),
                several => say!("  {what}: {}", count(several, "file")),
            }
        }
        if !self.recast.moves.is_empty() {
            say!("  moved with their folders: {}", count(self.recast.moves.len(), "more path"));
        }
        say_text!("{}", self.notes());
        say!("\n{BOLD}Next{BOLD:#}");
        say!("  look at the change, and run the project's tests");
        say!("  tinmold recast --undo   {FAINT}takes all of it back{FAINT:#}");
    }

    /// Returns all of it as data.
    pub fn as_json(&self, is_written: bool) -> Json {
        let mold = |mold: &CastingMold| json!({ "version": mold.version, "digest": mold.digest });
        let files: Vec<Json> = self.recast.files.iter().map(file_as_json).collect();
        let moves: Vec<Json> =
            self.recast.moves.iter().map(|(from, to)| json!({ "from": from, "to": to })).collect();
        let decisions: Vec<Json> = self.recast.decisions.iter().map(decision_as_json).collect();
        let notes: Vec<Json> = self.recast.notes.iter().map(note_as_json).collect();
        json!({
            "folder": self.root.display().to_string(),
            "mold": self.to.name,
            "from": mold(self.from),
            "to": mold(self.to),
            "files": files,
            "moves": moves,
            "folders": self.recast.folders,
            "undecided": decisions,
            "notes": notes,
            "written": is_written,
        })
    }

    /// Returns the text of a pull request.
    pub fn markdown(&self) -> String {
        let (from, to) = (self.from, self.to);
        let mut out = format!("# {}\n\n", self.way());
        let _ = writeln!(
            out,
            "Brings the project from `{}` {} to {} with `tinmold recast`.",
            code(&to.name),
            code(&from.version),
            code(&to.version)
        );
        let rows = self.rows();
        if !rows.is_empty() {
            out += "\n| File | Change |\n|---|---|\n";
        }
        for (path, note) in rows {
            let _ = writeln!(out, "| `{}` | {} |", code(&path), code(&note));
        }
        if !self.recast.decisions.is_empty() {
            out += "\n## To be decided\n\n";
            for decision in &self.recast.decisions {
                let _ = writeln!(out, "- `{}` {}", code(&decision.path), code(&question(decision)));
            }
        }
        if !self.recast.notes.is_empty() {
            out += "\n## To know\n\n";
            for note in &self.recast.notes {
                let lines = note_lines(note);
                let _ =
                    writeln!(out, "- {}", lines.iter().map(|line| code(line)).collect::<Vec<_>>().join("; "));
            }
        }
        let diffs: Vec<String> = self.recast.files.iter().filter_map(unified).collect();
        if !diffs.is_empty() {
            let all = diffs.concat();
            let fence = "`".repeat(longest_run(&all, '`').max(2) + 1);
            let _ = write!(
                out,
                "\n<details><summary>The difference</summary>\n\n{fence}diff\n{all}{fence}\n\n</details>\n"
            );
        }
        out
    }
}

/// Returns a text that stands in Markdown as it is, on one line.
fn code(text: &str) -> String {
    safe(text).replace('|', "\\|").replace('`', "'").replace('<', "&lt;")
}

fn longest_run(text: &str, wanted: char) -> usize {
    text.split(|c| c != wanted).map(str::len).max().unwrap_or(0)
}

/// Returns what happens to a file, in a few words.
fn word(file: &FileRecast) -> String {
    let from = file.from.as_ref().map(|from| format!(", from {}", safe(from))).unwrap_or_default();
    let what = match file.kind {
        FileChange::New => "new",
        FileChange::Replaced => "as the mold has it",
        FileChange::Merged => "merged with yours",
        FileChange::Removed => "goes",
        FileChange::Moved if file.from.is_some() => return from.trim_start_matches(", ").to_owned(),
        FileChange::Moved => "permissions",
    };
    format!("{what}{from}")
}

/// Returns the difference of a file for people, cut after `most` lines.
fn difference(file: &FileRecast, most: usize) -> String {
    let (Some(before), Some(after)) = (&file.before, after(file)) else { return String::new() };
    let lines = difference_of(before, &after, 2);
    if lines.is_empty() {
        return String::new();
    }
    let mut out = format!("\n{BOLD}{}{BOLD:#}\n", safe(&file.path));
    for line in lines.iter().take(most) {
        let _ = writeln!(out, "  {line}");
    }
    if lines.len() > most {
        let more = count(lines.len() - most, "line");
        let _ = writeln!(out, "  {FAINT}and {more} more; --verbose shows all{FAINT:#}");
    }
    out
}
