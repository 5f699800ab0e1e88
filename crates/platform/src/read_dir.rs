//! Listing a directory without following links.

use std::ffi::OsString;
use std::fs::{self, FileType};
use std::io::Result;
use std::path::Path;

/// The kind of a directory entry. A link is not followed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum EntryKind {
    /// A regular file.
    File,
    /// A directory.
    Directory,
    /// A symbolic link.
    Link,
    /// A device, a pipe or a socket.
    Special,
}

impl From<FileType> for EntryKind {
    fn from(found: FileType) -> Self {
        if found.is_file() {
            Self::File
        } else if found.is_dir() {
            Self::Directory
        } else if found.is_symlink() {
            Self::Link
        } else {
            Self::Special
        }
    }
}

/// Lists the names in a directory with their kinds, sorted by name.
///
/// # Errors
/// The directory cannot be read.
pub fn list(directory: &Path) -> Result<Vec<(OsString, EntryKind)>> {
    let mut entries = Vec::new();
    for entry in fs::read_dir(directory)? {
        let entry = entry?;
        entries.push((entry.file_name(), entry.file_type()?.into()));
    }
    entries.sort_unstable();
    Ok(entries)
}
