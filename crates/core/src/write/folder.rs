//! Into a new folder: staged beside it, and there with one rename.

use super::lock::Lock;
use super::stage::{Item, casting, stage, stage_record};
use super::{Observer, WriteError, Written};
use crate::plan::EntryKind;
use crate::verify::VerifiedPlan;
use std::borrow::Cow;
use std::fs::{self, File};
use std::io::Write;
use std::path::{Path, PathBuf};

/// What the names of staging folders and files begin with.
pub(super) const STAGE: &str = ".tinmold-stage-";

/// Writes the plan into `folder`, which is not there yet.
///
/// Everything is rendered and written beside it first, so that it appears whole or not at all.
///
/// # Errors
/// Mistakes in the body, what appeared at the destination meanwhile, and what the system refuses. Nothing is left behind then.
pub(super) fn new_folder(
    plan: &VerifiedPlan<'_>,
    folder: &Path,
    observer: &dyn Observer,
) -> Result<Written, WriteError> {
    let beside = beside(folder);
    let made = made_folders(beside)?;
    let result = stage_and_rename(plan, folder, beside, observer);
    if result.is_err() {
        // Only folders that this call made, and only while they are empty.
        made.iter().rev().for_each(|folder| drop(fs::remove_dir(folder)));
    }
    result
}

/// The folder that `path` is in.
pub(super) fn beside(path: &Path) -> &Path {
    match path.parent() {
        Some(parent) if !parent.as_os_str().is_empty() => parent,
        _ => Path::new("."),
    }
}

/// Makes something staged and locks it: whoever clears up after killed programs leaves alone what is locked.
///
/// What is not locked yet may be cleared away in that instant, and is then made again.
pub(super) fn locked<S: AsRef<Path>>(
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

/// Makes what is missing of a path; gives what was made, outermost first.
fn made_folders(path: &Path) -> Result<Vec<PathBuf>, WriteError> {
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
) -> Result<Written, WriteError> {
    let (root, lock) = locked(beside, || tempfile::Builder::new().prefix(STAGE).tempdir_in(beside))?;
    let items: Vec<Item<'_>> =
        plan.entries.iter().map(|entry| Item { entry, path: Cow::Borrowed(&entry.path) }).collect();
    let staged = stage(plan, &items, root.path(), observer)?;
    // The entries of a plan are in the order of their paths, as is the list.
    let (casting, lists) = (casting(plan, &[], staged.mold)?, staged.lists);
    let write = |file: &mut File| lists.iter().try_for_each(|list| file.write_all(list));
    stage_record(&casting, write, root.path())?;
    set_mode(root.path(), 0o755).map_err(WriteError::io("set the permissions of", root.path()))?;
    if observer.is_cancelled() {
        return Err(WriteError::Cancelled);
    }
    rename_onto_nothing(root.path(), folder)?;
    // The folder is the casting now.
    let _ = root.keep();
    drop(lock);
    let files = plan.entries.iter().filter(|entry| entry.kind != EntryKind::Folder).count();
    Ok(Written { place: folder.to_owned(), files, bytes: staged.bytes, ..Written::default() })
}

/// Renames a folder to a path where nothing is.
fn rename_onto_nothing(from: &Path, to: &Path) -> Result<(), WriteError> {
    rename_new(from, to).map_err(|error| match error.kind() {
        std::io::ErrorKind::AlreadyExists
        | std::io::ErrorKind::DirectoryNotEmpty
        | std::io::ErrorKind::NotADirectory => WriteError::Appeared(to.to_owned()),
        _ => WriteError::io("make the folder", to)(error),
    })
}

/// Renames to a path where nothing is, and fails with `AlreadyExists` where something is.
#[cfg(any(target_os = "linux", target_os = "macos"))]
pub(super) fn rename_new(from: &Path, to: &Path) -> std::io::Result<()> {
    use rustix::fs::{CWD, RenameFlags, renameat_with};
    match renameat_with(CWD, from, CWD, to, RenameFlags::NOREPLACE) {
        // Some file systems cannot promise it.
        Err(rustix::io::Errno::INVAL | rustix::io::Errno::NOSYS | rustix::io::Errno::NOTSUP) => {
            look_and_rename(from, to)
        }
        other => other.map_err(std::io::Error::from),
    }
}

#[cfg(not(any(target_os = "linux", target_os = "macos")))]
pub(super) fn rename_new(from: &Path, to: &Path) -> std::io::Result<()> {
    look_and_rename(from, to)
}

fn look_and_rename(from: &Path, to: &Path) -> std::io::Result<()> {
    if fs::symlink_metadata(to).is_ok() {
        return Err(std::io::ErrorKind::AlreadyExists.into());
    }
    fs::rename(from, to)
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
