//! One program at a time in a folder.

use super::error::WriteError;
use std::fs::{File, TryLockError};
use std::path::Path;

/// A lock on a directory, released when it is dropped or the program ends.
#[derive(Debug)]
pub(super) struct Lock(File);

impl Lock {
    /// Takes the folder.
    ///
    /// # Errors
    /// Another program has it, or it cannot be opened.
    pub(super) fn of(folder: &Path) -> Result<Self, WriteError> {
        let file = handle(folder).map_err(WriteError::io("open", folder))?;
        match file.try_lock() {
            Ok(()) => Ok(Self(file)),
            Err(TryLockError::WouldBlock) => Err(WriteError::Busy(folder.to_owned())),
            // Some network file systems have no locks; there the rename and the journal must do.
            Err(TryLockError::Error(_)) => Ok(Self(file)),
        }
    }
}

impl Drop for Lock {
    /// Says so, besides closing it: a thread that has just ended may have it open a moment longer.
    fn drop(&mut self) {
        if let Err(error) = self.0.unlock() {
            tracing::warn!(%error, "cannot unlock a folder");
        }
    }
}

#[cfg(unix)]
fn handle(path: &Path) -> std::io::Result<File> {
    File::open(path)
}

/// On systems where a directory cannot be opened, a file in it is locked.
#[cfg(not(unix))]
fn handle(path: &Path) -> std::io::Result<File> {
    if path.is_dir() {
        File::options().create(true).truncate(false).write(true).open(path.join(".tinmold-lock"))
    } else {
        File::open(path)
    }
}
