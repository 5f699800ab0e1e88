//! Writes a plan into a new folder: staged beside it, and moved there with one rename.

use super::decision::WriteSummary;
use super::error::WriteError;
use super::lock::Lock;
use super::observer::Observer;
use super::rename::rename_new;
use super::stage::{Item, stage, stage_record};
use crate::plan::EntryKind;
use crate::record::Casting;
use crate::verify::VerifiedPlan;
use std::borrow::Cow;
use std::fs;
use std::io::ErrorKind;
use std::path::{Path, PathBuf};
use tinmold_platform::digest::write_digests;

/// The prefix of staging folders and files.
pub(super) const STAGE: &str = ".tinmold-stage-";

/// Writes the plan into `folder`, where nothing is. The folder appears whole or not at all.
///
/// # Errors
/// Mistakes in the body, something that appeared at the destination, and what the system refuses.
pub(super) fn write_new_folder(
    plan: &VerifiedPlan<'_>,
    folder: &Path,
    observer: &dyn Observer,
) -> Result<WriteSummary, WriteError> {
    let beside = parent_of(folder);
    let made = make_parents(beside)?;
    let result = stage_and_rename(plan, folder, beside, observer);
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

/// Makes something staged and locks it: recovery leaves alone what is locked.
///
/// Recovery may remove it in the instant before the lock; it is then made again.
pub(super) fn make_locked<S: AsRef<Path>>(
    beside: &Path,
    make: impl Fn() -> std::io::Result<S>,
) -> Result<(S, Lock), WriteError> {
    let mut tries = 0;
    loop {
        let staged = make().map_err(WriteError::io("write in", beside))?;
        tries += 1;
        match Lock::of(staged.as_ref()) {
            Ok(lock) if staged.as_ref().exists() => return Ok((staged, lock)),
            Err(error) if tries == 100 => return Err(error),
            _ => {}
        }
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
    observer: &dyn Observer,
) -> Result<WriteSummary, WriteError> {
    let (root, lock) = make_locked(beside, || tempfile::Builder::new().prefix(STAGE).tempdir_in(beside))?;
    let items: Vec<Item<'_>> =
        plan.entries.iter().map(|entry| Item { entry, path: Cow::Borrowed(&entry.path) }).collect();
    let staged = stage(plan, &items, root.path(), observer)?;
    let digests = items.iter().zip(&staged.digests).filter(|(item, _)| !plan.body(item.entry).local);
    let list = digests.filter_map(|(item, digest)| Some((&*item.path, (*digest)?)));
    let casting = Casting::of(plan, plan.mold.package.digest()?);
    stage_record(&casting, |file| write_digests(file, list), root.path())?;
    set_mode(root.path(), 0o755).map_err(WriteError::io("set the permissions of", root.path()))?;
    if observer.is_cancelled() {
        return Err(WriteError::Cancelled);
    }
    rename_new(root.path(), folder).map_err(|error| match error.kind() {
        ErrorKind::AlreadyExists | ErrorKind::DirectoryNotEmpty | ErrorKind::NotADirectory => {
            WriteError::Appeared(folder.to_owned())
        }
        _ => WriteError::io("make the folder", folder)(error),
    })?;
    tracing::debug!(folder = %folder.display(), "renamed the staged folder");
    // The staging folder is the project now.
    let _: PathBuf = root.keep();
    drop(lock);
    let files = plan.entries.iter().filter(|entry| entry.kind != EntryKind::Folder).count();
    Ok(WriteSummary { path: folder.to_owned(), files, bytes: staged.bytes, ..WriteSummary::default() })
}

#[cfg(unix)]
fn set_mode(path: &Path, mode: u32) -> std::io::Result<()> {
    use std::os::unix::fs::PermissionsExt;
    fs::set_permissions(path, fs::Permissions::from_mode(mode))
}

#[cfg(not(unix))]
fn set_mode(_: &Path, _: u32) -> std::io::Result<()> {
    Ok(())
}
