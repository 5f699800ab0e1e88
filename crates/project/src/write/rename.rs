//! Renaming onto a path where nothing is.

use std::fs;
use std::path::Path;

/// Renames to a path where nothing is; fails with `AlreadyExists` where something is.
#[cfg(any(target_os = "linux", target_os = "macos"))]
pub(super) fn rename_new(from: &Path, to: &Path) -> std::io::Result<()> {
    use rustix::fs::{CWD, RenameFlags, renameat_with};
    use rustix::io::Errno;
    match renameat_with(CWD, from, CWD, to, RenameFlags::NOREPLACE) {
        // Some file systems have no such rename.
        Err(Errno::INVAL | Errno::NOSYS | Errno::NOTSUP) => check_and_rename(from, to),
        other => other.map_err(std::io::Error::from),
    }
}

#[cfg(not(any(target_os = "linux", target_os = "macos")))]
pub(super) fn rename_new(from: &Path, to: &Path) -> std::io::Result<()> {
    check_and_rename(from, to)
}

fn check_and_rename(from: &Path, to: &Path) -> std::io::Result<()> {
    if fs::symlink_metadata(to).is_ok() {
        return Err(std::io::ErrorKind::AlreadyExists.into());
    }
    fs::rename(from, to)
}
