//! Clearing up after a program that was killed.

use super::error::WriteError;
use super::folder::STAGE;
use super::journal::{Left, Work};
use super::lock::Lock;
use std::fs;
use std::path::{Path, PathBuf};

/// What was recovered.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Recovered {
    /// A write into this directory was interrupted, and was undone. The paths are those that
    /// changed since: they stay, and the earlier files are beside them.
    Undone(PathBuf, Vec<String>),
    /// A write into this folder was complete, and only its own folder was left.
    Finished(PathBuf),
    /// Something staged beside a destination that it never came to.
    Swept(PathBuf),
}

/// Clears up what a write into `folder` left behind, if it left something and is no longer at work.
///
/// # Errors
/// The journal is damaged, or the system refuses.
pub fn recover_inside(folder: &Path) -> Result<Option<Recovered>, WriteError> {
    if !Work::at(folder).is_there() {
        return Ok(None);
    }
    match Lock::of(folder) {
        Ok(_lock) => recover_locked(folder),
        Err(WriteError::Busy(_)) => Ok(None),
        Err(error) => Err(error),
    }
}

/// Recovers with the lock held already.
pub(super) fn recover_locked(folder: &Path) -> Result<Option<Recovered>, WriteError> {
    let work = Work::at(folder);
    if !work.is_there() {
        return Ok(None);
    }
    tracing::info!(folder = %folder.display(), "recovering from an interrupted write");
    let recovered = match work.left_behind()? {
        Left::Half(journal) => Recovered::Undone(folder.to_owned(), work.undo(&journal)?),
        Left::Whole(journal) => {
            work.drop_emptied(&journal);
            Recovered::Finished(folder.to_owned())
        }
        Left::Nothing => Recovered::Finished(folder.to_owned()),
    };
    work.clear()?;
    Ok(Some(recovered))
}

/// Removes the staging directories in `folder` that interrupted casts left, except those of running
/// programs.
#[must_use]
pub fn recover_beside(folder: &Path) -> Vec<Recovered> {
    let Ok(entries) = fs::read_dir(folder) else { return Vec::new() };
    let staged = entries.flatten().filter(|entry| entry.file_name().to_string_lossy().starts_with(STAGE));
    staged
        .filter_map(|entry| {
            let path = entry.path();
            let metadata = fs::symlink_metadata(&path).ok()?;
            let _lock = if metadata.is_symlink() { return None } else { Lock::of(&path).ok()? };
            let removed = if metadata.is_dir() { fs::remove_dir_all(&path) } else { fs::remove_file(&path) };
            removed.ok().map(|()| Recovered::Swept(path))
        })
        .collect()
}
