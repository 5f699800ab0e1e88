//! Writes a plan into a new folder: staged beside it, and moved there with one rename.

use super::beside::{Beside, parent_of};
use super::cover;
use super::decision::WriteSummary;
use super::error::WriteError;
use super::inspect::Inspection;
use super::journals::{Journals, WriteKind};
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
    let made = make_parents(parent_of(folder))?;
    let result = stage_and_rename(plan, folder, journals, observer);
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
    journals: &Journals,
    observer: &dyn Observer,
) -> Result<WriteSummary, WriteError> {
    let name = folder.file_name().and_then(|name| name.to_str());
    let name = name.ok_or_else(|| WriteError::BadName(folder.to_owned()))?;
    let mut stage = Beside::begin(folder, WriteKind::Folder, journals)?;
    let made = stage.place.make_directory(&stage.name, 0o700);
    made.map_err(WriteError::io("write in", parent_of(folder)))?;
    stage.note();
    let (place, stage_name) = (&stage.place, stage.name.as_str());
    let staged = write_staged(plan, place, stage_name, observer).and_then(|bytes| {
        if observer.is_cancelled() {
            return Err(WriteError::Cancelled);
        }
        place.rename_new(stage_name, name).map_err(|error| match error.kind() {
            ErrorKind::AlreadyExists | ErrorKind::DirectoryNotEmpty | ErrorKind::NotADirectory => {
                WriteError::Appeared(folder.to_owned())
            }
            _ => WriteError::io("make the folder", folder)(error),
        })?;
        tracing::debug!(folder = %folder.display(), "renamed the staged folder");
        Ok(bytes)
    });
    if staged.is_ok() || place.remove_tree(stage_name).is_ok() {
        stage.end();
    } else {
        // The journal stays: the next run removes what is left.
        tracing::warn!(stage_name, "cannot remove the staging directory");
    }
    let bytes = staged?;
    let files = plan.entries.iter().filter(|entry| entry.kind != EntryKind::Folder).count();
    Ok(WriteSummary { path: folder.to_owned(), files, bytes, ..WriteSummary::default() })
}

/// Writes the project into its staging directory; returns the number of bytes.
fn write_staged(
    plan: &VerifiedPlan<'_>,
    place: &RootDir,
    stage_name: &str,
    observer: &dyn Observer,
) -> Result<u64, WriteError> {
    let root = place.subdirectory(stage_name).map_err(WriteError::at("open", place, stage_name))?;
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
