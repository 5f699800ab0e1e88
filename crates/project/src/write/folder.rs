//! Writes a plan into a new folder: staged beside it, and moved there with one rename.

use super::cover;
use super::decision::WriteSummary;
use super::error::WriteError;
use super::inspect::Inspection;
use super::journals::{Journal, Journals, WriteKind, random_name};
use super::observer::Observer;
use super::stage::{Item, stage, stage_record};
use crate::plan::EntryKind;
use crate::record::Casting;
use crate::verify::VerifiedPlan;
use std::borrow::Cow;
use std::fs;
use std::io::ErrorKind;
use std::path::{Path, PathBuf};
use tinmold_platform::digest::write_digests;
use tinmold_platform::root_dir::RootDir;

/// The prefix of staging folders and files.
const STAGE: &str = ".tinmold-stage-";

/// Writes the plan into the inspected folder, where nothing is. It appears whole or not at all.
///
/// # Errors
/// Mistakes in the body, something that appeared at the destination, and what the system refuses.
pub(super) fn write_new_folder(
    plan: &VerifiedPlan<'_>,
    inspection: &Inspection,
    journals: &Journals,
    observer: &dyn Observer,
) -> Result<WriteSummary, WriteError> {
    let folder = &inspection.folder;
    let uncovered = cover::uncovered(plan, Some(inspection), &[], &[]);
    if !uncovered.is_empty() {
        return Err(WriteError::Uncovered(uncovered));
    }
    let beside = parent_of(folder);
    let made = make_parents(beside)?;
    let result = stage_and_rename(plan, folder, beside, journals, observer);
    if result.is_err() {
        // Only folders that this call made, and only while they are empty.
        for folder in made.iter().rev() {
            if let Err(error) = fs::remove_dir(folder) {
                tracing::warn!(folder = %folder.display(), %error, "cannot remove a folder");
            }
        }
    }
    result
}

/// Returns the folder that `path` is in.
pub(super) fn parent_of(path: &Path) -> &Path {
    match path.parent() {
        Some(parent) if !parent.as_os_str().is_empty() => parent,
        _ => Path::new("."),
    }
}

/// Makes the missing folders of a path; returns them, outermost first.
fn make_parents(path: &Path) -> Result<Vec<PathBuf>, WriteError> {
    let mut missing: Vec<PathBuf> = path
        .ancestors()
        .take_while(|folder| !folder.as_os_str().is_empty() && !folder.exists())
        .map(Path::to_owned)
        .collect();
    missing.reverse();
    fs::create_dir_all(path).map_err(WriteError::io("make the folder", path))?;
    Ok(missing)
}

fn stage_and_rename(
    plan: &VerifiedPlan<'_>,
    folder: &Path,
    beside: &Path,
    journals: &Journals,
    observer: &dyn Observer,
) -> Result<WriteSummary, WriteError> {
    let place = RootDir::open(&resolved(beside)?).map_err(WriteError::io("open", beside))?;
    let name = folder.file_name().and_then(|name| name.to_str()).map(str::to_owned);
    let name = name.ok_or_else(|| WriteError::BadName(folder.to_owned()))?;
    let stage = stage_name(beside)?;
    // Without a state directory a killed cast leaves its staging directory behind.
    let mut journal = begin(journals, WriteKind::Folder, &place, &stage);
    place.make_directory(&stage, 0o700).map_err(WriteError::io("write in", beside))?;
    let staged = stage_and_note(plan, &place, &stage, journal.as_mut(), observer).and_then(|bytes| {
        if observer.is_cancelled() {
            return Err(WriteError::Cancelled);
        }
        place.rename_new(&stage, &name).map_err(|error| match error.kind() {
            ErrorKind::AlreadyExists | ErrorKind::DirectoryNotEmpty | ErrorKind::NotADirectory => {
                WriteError::Appeared(folder.to_owned())
            }
            _ => WriteError::io("make the folder", folder)(error),
        })?;
        tracing::debug!(folder = %folder.display(), "renamed the staged folder");
        Ok(bytes)
    });
    let is_clear = staged.is_ok() || place.remove_tree(&stage).is_ok();
    if is_clear {
        end(journal);
    } else {
        // The journal stays: the next run removes what is left.
        tracing::warn!(stage, "cannot remove the staging directory");
    }
    let bytes = staged?;
    let files = plan.entries.iter().filter(|entry| entry.kind != EntryKind::Folder).count();
    Ok(WriteSummary { path: folder.to_owned(), files, bytes, ..WriteSummary::default() })
}
/// Writes the project into its staging directory; returns the number of bytes.
fn stage_and_note(
    plan: &VerifiedPlan<'_>,
    place: &RootDir,
    stage_name: &str,
    journal: Option<&mut Journal>,
    observer: &dyn Observer,
) -> Result<u64, WriteError> {
    let root = place.subdirectory(stage_name).map_err(WriteError::at("open", place, stage_name))?;
    let identity = root.itself().map_err(WriteError::at("look at", place, stage_name))?.identity;
    if let Some(Err(error)) = journal.map(|journal| journal.staged(identity)) {
        tracing::warn!(%error, "cannot note the staging directory");
    }
    let items: Vec<Item<'_>> =
        plan.entries.iter().map(|entry| Item { entry, path: Cow::Borrowed(&entry.path) }).collect();
    let staged = stage(plan, &items, &root, observer)?;
    let digests = items.iter().zip(&staged.digests).filter(|(item, _)| !plan.body(item.entry).local);
    let list = digests.filter_map(|(item, digest)| Some((&*item.path, (*digest)?)));
    let casting = Casting::of(plan, plan.mold.package.digest()?, &place.path().join(stage_name));
    stage_record(&casting, |file| write_digests(file, list), &root)?;
    place.set_mode(stage_name, 0o755).map_err(WriteError::at("set the permissions of", place, stage_name))?;
    Ok(staged.bytes)
}

/// Returns a name for something staged.
pub(super) fn stage_name(beside: &Path) -> Result<String, WriteError> {
    Ok(format!("{STAGE}{}", random_name().map_err(WriteError::io("write in", beside))?))
}

/// Begins the journal of something staged beside its destination; without a state directory it has none.
pub(super) fn begin(journals: &Journals, kind: WriteKind, place: &RootDir, stage: &str) -> Option<Journal> {
    journals
        .begin(kind, place, stage, false)
        .map_err(|error| tracing::warn!(%error, "this write has no journal"))
        .ok()
}

/// Ends the journal, if there is one.
pub(super) fn end(journal: Option<Journal>) {
    if let Some(Err(error)) = journal.map(Journal::end) {
        tracing::warn!(%error, "a journal stays");
    }
}

/// Returns the path with its links resolved: where the user goes is the user's choice.
pub(super) fn resolved(path: &Path) -> Result<PathBuf, WriteError> {
    path.canonicalize().map_err(WriteError::io("open", path))
}
