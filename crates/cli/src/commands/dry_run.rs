//! `tinmold cast --dry-run`: what would be written, as a tree, as data, or one file of it.

use crate::args::{CastArgs, Format};
use crate::exit::Exit;
use crate::failure::{self, Failure};
use crate::global::GlobalOptions;
use crate::text::fit_report::state_word;
use crate::text::review::{already_there, exposed};
use crate::text::style::{count, raw, result, result_document, safe, safe_lines, size};
use crate::text::tree;
use serde_json::{Value as Json, json};
use std::io::IsTerminal;
use std::path::Path;
use tinmold_mold::Owner;
use tinmold_notation::did_you_mean;
use tinmold_project::plan::{EntryKind, Plan};
use tinmold_project::review;
use tinmold_project::verify::VerifiedPlan;
use tinmold_project::write::{FileState, Inspection, cover, inspect};

pub fn run(
    cast: &CastArgs,
    global: GlobalOptions,
    plan: &VerifiedPlan<'_>,
    folder: &Path,
) -> Result<Exit, Failure> {
    // Every file is rendered, whatever is printed: a dry run finds the mistakes that a cast would.
    let sizes = plan.sizes().map_err(|error| failure::of_plan(error, &plan.mold.package))?;
    let inspection = match cast.archive {
        Some(_) => None,
        None => Some(inspect(plan, folder).map_err(|error| failure::of_write(error, plan))?),
    };
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
        result_document("plan-1", as_json(plan, &sizes, folder, inspection.as_ref()));
        return Ok(Exit::Done);
    }
    let entries: Vec<(&str, String)> =
        plan.entries.iter().zip(&sizes).map(|(entry, bytes)| (&*entry.path, size(*bytes))).collect();
    result(tree::draw(&folder.display().to_string(), &entries, global.plain, usize::MAX));
    if !global.quiet {
        let total = size(sizes.iter().sum());
        if let Some(inspection) = inspection.as_ref().filter(|inspection| !inspection.is_new) {
            let changes = review::changes(plan, &sizes, Some(inspection));
            say!("{}", already_there(&changes).trim_start());
            say_text!("{}", exposed(&cover::uncovered(plan, Some(inspection), &[], &[])));
        }
        say_text!("{}", left_out(plan, global.verbose));
        say!("{}, {total}; nothing was written.", count(entries.len(), "file"));
    }
    Ok(Exit::Done)
}

/// Returns the files of the body that these answers leave out, with the reasons in `detail`.
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
fn bytes(plan: &Plan<'_>, path: &str) -> Option<Vec<u8>> {
    plan.content(plan.entries.iter().find(|entry| entry.path == path)?).ok()
}

/// Returns the text of a file as it would be, for people.
pub fn text_of(plan: &Plan<'_>, path: &str) -> String {
    bytes(plan, path).map_or_else(String::new, shown)
}

fn shown(bytes: Vec<u8>) -> String {
    match String::from_utf8(bytes) {
        Ok(text) => safe_lines(&text) + "\n",
        Err(error) => format!("{} bytes that are not text\n", error.as_bytes().len()),
    }
}

fn as_json(plan: &VerifiedPlan<'_>, sizes: &[u64], folder: &Path, inspection: Option<&Inspection>) -> Json {
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
                "present": state_word(inspection.map_or(&FileState::Absent, |inspection| inspection.state(at))),
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
