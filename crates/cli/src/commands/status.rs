//! `tinmold status`: compares projects with what was cast, and with the newest version of their molds.

use super::recast::{Behind, behind};
use crate::args::{Format, StatusArgs};
use crate::exit::Exit;
use crate::failure::of_record;
use crate::global::GlobalOptions;
use crate::state;
use crate::stop::Stop;
use crate::text::style::{BOLD, FAINT, GOOD, NAME, WARN, count, result, result_document, safe};
use crate::text::width::fit_width;
use serde_json::json;
use std::fmt::Write;
use std::path::PathBuf;
use tinmold_project::record::{self, FileStatus, Recorded, Status};
use tinmold_shelf::Address;
use unicode_width::UnicodeWidthStr;

pub fn run(status: &StatusArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    let here = [PathBuf::from(".")];
    let named: Vec<PathBuf> = status.dirs.iter().chain(&status.more_dirs).cloned().collect();
    let dirs = if named.is_empty() { here.as_slice() } else { &named };
    let mut all = Vec::with_capacity(dirs.len());
    for dir in dirs {
        let recorded = record::find(dir).map_err(|error| of_record(&error))?;
        let files = record::status(&recorded);
        let behind = newest(&recorded, global);
        all.push(Project { recorded, files, behind });
    }
    match (status.format, all.as_slice()) {
        (Format::Text, [one]) => result(as_text(one)),
        (Format::Text, all) => result(table(all)),
        (Format::Json, all) => {
            let projects: Vec<serde_json::Value> = all.iter().map(as_json).collect();
            result_document("status-1", json!({ "projects": projects }));
        }
    }
    Ok(Exit::Done)
}

/// Compares a project with the newest version of its mold; `None` if that cannot be told, which is no failure of the
/// project. A record that was brought along leads to no server by itself.
fn newest(recorded: &Recorded, global: GlobalOptions) -> Option<Behind> {
    let address = Address::parse(&recorded.casting.mold.address).ok();
    let is_url = matches!(address, Some(Address::Archive { .. } | Address::Repository { .. }));
    if is_url && !state::is_own(&recorded.root) {
        return None;
    }
    let behind = behind(recorded, None, global);
    behind.inspect_err(|error| tracing::debug!(?error, "the newest version is not known")).ok()
}

/// A project, and how it stands.
struct Project {
    recorded: Recorded,
    files: Status,
    /// How it stands to the newest version of its mold; `None` if that is not known.
    behind: Option<Behind>,
}

impl Project {
    /// Returns what is newer, in words; empty if nothing is.
    fn newer(&self) -> String {
        let was = &self.recorded.casting.mold.version;
        match &self.behind {
            Some(behind) if behind.is_same => String::new(),
            Some(behind) if behind.version == *was => format!("{}, changed", behind.version),
            Some(behind) => behind.version.clone(),
            None => "not known".to_owned(),
        }
    }
}

/// Returns a line for each project.
fn table(all: &[Project]) -> String {
    let head = ["project", "mold", "version", "newer", "changed", "missing"].map(str::to_owned);
    let mut rows = vec![head];
    for project in all {
        let (mold, of) =
            (&project.recorded.casting.mold, |wanted| project.files.of(wanted).count().to_string());
        let newer = project.newer();
        rows.push([
            safe(&project.recorded.root.display().to_string()),
            safe(&mold.name),
            safe(&mold.version),
            if newer.is_empty() { "–".to_owned() } else { safe(&newer) },
            of(FileStatus::Changed),
            of(FileStatus::Missing),
        ]);
    }
    let width = |column: usize| rows.iter().map(|row| row[column].width()).max().unwrap_or(0);
    let widths: Vec<usize> = (0..rows[0].len()).map(width).collect();
    let mut out = String::new();
    for (at, row) in rows.iter().enumerate() {
        let cells: Vec<String> =
            row.iter().zip(&widths).map(|(cell, width)| fit_width(cell, *width)).collect();
        let line = cells.join("  ");
        let line = line.trim_end();
        let _ = if at == 0 { writeln!(out, "{BOLD}{line}{BOLD:#}") } else { writeln!(out, "{line}") };
    }
    out
}

fn as_text(project: &Project) -> String {
    let Project { recorded, files: status, .. } = project;
    let casting = &recorded.casting;
    let mold = &casting.mold;
    let mut out = String::new();
    let _ = writeln!(
        out,
        "{NAME}{}{NAME:#} was cast from {BOLD}{} {}{BOLD:#} on {}",
        safe(&recorded.root.display().to_string()),
        safe(&mold.name),
        safe(&mold.version),
        safe(&casting.built_in.today)
    );
    let address = if mold.address.is_empty() { "from a folder or file" } else { &mold.address };
    let _ = writeln!(out, "{FAINT}{}, digest {}{FAINT:#}", safe(address), safe(&mold.digest));
    let newer = project.newer();
    if project.behind.is_some() && !newer.is_empty() {
        let _ = writeln!(
            out,
            "{WARN}newer:{WARN:#} {BOLD}{}{BOLD:#} is there; to see what it changes: tinmold recast --dry-run",
            safe(&newer)
        );
    }
    let _ = writeln!(out, "\n{BOLD}Answers{BOLD:#}");
    let wide = casting.answers.keys().map(|key| key.chars().count()).max().unwrap_or(0);
    for (key, value) in &casting.answers {
        let _ = writeln!(out, "  {:<wide$}  {}", safe(key), safe(&value.to_string()));
    }
    let _ = writeln!(out, "\n{BOLD}Files{BOLD:#}");
    let same = status.of(FileStatus::AsCast).count();
    let _ = writeln!(out, "  {GOOD}{} as cast{GOOD:#}", count(same, "file"));
    for (what, wanted) in [("changed", FileStatus::Changed), ("missing", FileStatus::Missing)] {
        for path in status.of(wanted) {
            let _ = writeln!(out, "  {what}  {NAME}{}{NAME:#}", safe(path));
        }
    }
    let parts = &casting.part;
    let _ = writeln!(out, "\n{BOLD}Parts{BOLD:#}");
    if parts.is_empty() {
        let _ = writeln!(out, "  {FAINT}none fitted{FAINT:#}");
    }
    for part in parts {
        let _ = writeln!(
            out,
            "  {}  {FAINT}{}{FAINT:#}",
            safe(&part.name),
            safe(&part.answers.to_string().trim().replace('\n', ", "))
        );
    }
    out
}

fn as_json(project: &Project) -> serde_json::Value {
    let Project { recorded, files: status, behind } = project;
    let casting = &recorded.casting;
    let paths = |wanted| status.of(wanted).collect::<Vec<_>>();
    json!({
        "folder": recorded.root.display().to_string(),
        "mold": casting.mold,
        "newest": behind.as_ref().map(|behind| json!({
            "version": behind.version,
            "digest": behind.digest,
            "behind": !behind.is_same,
            "missing": behind.missing,
        })),
        "answers": casting.answers,
        "built-in": casting.built_in,
        "parts": casting.part,
        "files": {
            "as-cast": paths(FileStatus::AsCast),
            "changed": paths(FileStatus::Changed),
            "missing": paths(FileStatus::Missing),
        },
    })
}
