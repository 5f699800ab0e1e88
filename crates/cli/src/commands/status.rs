//! `tinmold status`: compares a project with what was cast.

use crate::args::{Format, StatusArgs};
use crate::exit::Exit;
use crate::failure::of_record;
use crate::stop::Stop;
use crate::text::style::{BOLD, FAINT, GOOD, NAME, count, result, result_json, safe};
use serde_json::json;
use std::fmt::Write;
use std::path::Path;
use tinmold_project::record::{self, FileStatus, Recorded, Status};

pub fn run(status: &StatusArgs) -> Result<Exit, Stop> {
    let inside = status.dir.as_deref().unwrap_or(Path::new("."));
    let recorded = record::find(inside).map_err(|error| of_record(&error))?;
    let files = record::status(&recorded);
    match status.format {
        Format::Text => result(as_text(&recorded, &files)),
        Format::Json => result_json(&as_json(&recorded, &files)),
    }
    Ok(Exit::Done)
}

fn as_text(recorded: &Recorded, status: &Status) -> String {
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

fn as_json(recorded: &Recorded, status: &Status) -> serde_json::Value {
    let casting = &recorded.casting;
    let paths = |wanted| status.of(wanted).collect::<Vec<_>>();
    json!({
        "folder": recorded.root.display().to_string(),
        "mold": casting.mold,
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
