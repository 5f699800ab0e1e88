//! `tinmold cast --dry-run`: what would be written, as a tree, as data, or one file of it.

use crate::args::{Args, CastArgs, Format};
use crate::ask::AlreadyThere;
use crate::exit::Exit;
use crate::failure::{self, Failure};
use crate::show::{count, raw, result, safe, safe_lines, size};
use crate::tree;
use serde_json::{Value as Json, json};
use std::io::IsTerminal;
use std::path::Path;
use tinmold_core::mold::Owner;
use tinmold_core::plan::{EntryKind, Plan, Rendered};
use tinmold_core::verify::VerifiedPlan;
use tinmold_core::write::{Present, Surveyed};
use tinmold_notation::did_you_mean;

pub fn run(cast: &CastArgs, args: &Args, plan: &VerifiedPlan<'_>, folder: &Path) -> Result<Exit, Failure> {
    // Every file is rendered, whatever is printed: a dry run finds the mistakes that a cast would.
    let sizes = plan.sizes().map_err(|error| failure::of_plan(error, &plan.mold.package))?;
    let present = super::cast::present(cast, plan, folder)?;
    if let Some(path) = &cast.show {
        let Some(bytes) = bytes(plan, path) else {
            let paths = plan.entries.iter().map(|entry| &*entry.path);
            let advice = did_you_mean(path, paths, "--dry-run alone prints them all");
            return Err(Failure::new(Exit::Usage, format!("no file {path:?} would be written; {advice}")));
        };
        // A file or a pipe gets the bytes, a terminal only what cannot steer it.
        if std::io::stdout().is_terminal() {
            result(shown(bytes));
        } else {
            raw(&bytes);
        }
        return Ok(Exit::Done);
    }
    if cast.format == Format::Json {
        result(format!("{:#}\n", as_json(plan, &sizes, folder, present.as_deref())));
        return Ok(Exit::Done);
    }
    let entries: Vec<(&str, String)> =
        plan.entries.iter().zip(&sizes).map(|(entry, bytes)| (&*entry.path, size(*bytes))).collect();
    result(tree::drawn(&folder.display().to_string(), &entries, args.plain, usize::MAX));
    if !args.quiet {
        let total = size(sizes.iter().sum());
        if let Some(present) = present {
            anstream::eprintln!("{}", AlreadyThere::of(plan, &present).text().trim_start());
        }
        anstream::eprint!("{}", left_out(plan, args.verbose));
        anstream::eprintln!("{}, {total}; nothing was written.", count(entries.len(), "file"));
    }
    Ok(Exit::Done)
}

/// What of the body these answers leave out, and in `detail` why.
fn left_out(plan: &Plan<'_>, detail: bool) -> String {
    let number = plan.left_out.len();
    match (number, detail) {
        (0, _) => String::new(),
        (_, false) => {
            format!("Left out by these answers: {} of the mold; --verbose says why.\n", count(number, "file"))
        }
        (_, true) => {
            let all = plan.left_out.iter().map(|left| (safe(&left.path), safe(&left.reason)));
            let width = all.clone().map(|(path, _)| path.chars().count()).max().unwrap_or(0);
            all.fold("Left out by these answers\n".to_owned(), |text, (path, reason)| {
                text + &format!("  body/{path:width$}  {reason}\n")
            })
        }
    }
}

/// One file as it would be; none if no such file would be written.
pub fn bytes(plan: &Plan<'_>, path: &str) -> Option<Vec<u8>> {
    let entry = plan.entries.iter().find(|entry| entry.path == path)?;
    let mut bytes = Vec::new();
    match plan.render(entry, &mut bytes) {
        Ok(Rendered::Bytes) => Some(bytes),
        _ => Some(plan.mold.package.files[plan.body(entry).file].read().ok()?.into_owned()),
    }
}

/// A file as people look at it.
pub fn shown(bytes: Vec<u8>) -> String {
    match String::from_utf8(bytes) {
        Ok(text) => safe_lines(&text) + "\n",
        Err(error) => format!("{} bytes that are no text\n", error.as_bytes().len()),
    }
}

/// What is at the destination, in a word.
pub fn word(present: &Present) -> &'static str {
    match present {
        Present::Absent => "absent",
        Present::Same => "same",
        Present::Different => "different",
        Present::Local => "local",
        Present::Blocked(_) => "blocked",
        Present::Elsewhere => "elsewhere",
    }
}

fn as_json(plan: &VerifiedPlan<'_>, sizes: &[u64], folder: &Path, present: Option<&[Surveyed]>) -> Json {
    let entries: Vec<Json> = plan
        .entries
        .iter()
        .zip(sizes)
        .enumerate()
        .map(|(at, (entry, bytes))| {
            let file = plan.body(entry);
            let (kind, target) = match &entry.kind {
                EntryKind::Folder => ("folder", None),
                EntryKind::Text => ("text", None),
                EntryKind::Copy => ("copy", None),
                EntryKind::Link(target) => ("link", Some(target)),
            };
            json!({
                "path": entry.path,
                "kind": kind,
                "target": target,
                "bytes": bytes,
                "mode": format!("{:o}", plan.mode(entry)),
                "from": plan.mold.path_of(file),
                "owner": if file.owner == Owner::You { "you" } else { "mold" },
                "local": file.local,
                "present": present.map_or("absent", |all| word(&all[at].present)),
            })
        })
        .collect();
    let left_out: Vec<Json> = plan
        .left_out
        .iter()
        .map(|left| json!({ "from": format!("body/{}", left.path), "reason": left.reason }))
        .collect();
    json!({
        "mold": { "name": plan.mold.name(), "version": plan.mold.version() },
        "folder": folder.display().to_string(),
        "entries": entries,
        "left_out": left_out,
        "bytes": sizes.iter().sum::<u64>(),
    })
}
