//! A file of a mold on this machine.

use std::ffi::OsStr;
use std::fs::{File, Metadata};
use std::io::Result;
use std::path::{Path, PathBuf};
use std::sync::{Arc, OnceLock};
use tinmold_platform::dir_handle::DirHandle;

/// The directory that a file lies in, and its metadata once it was needed.
///
/// Listing a mold reads names only; most files are opened later anyway.
#[derive(Clone, Debug)]
pub struct OnDisk {
    /// Shared by all files of a directory.
    directory: Arc<Path>,
    seen: OnceLock<Seen>,
}

/// The metadata that a mold knows of.
#[derive(Clone, Copy, Debug)]
struct Seen {
    /// Length in bytes.
    length: u64,
    /// 0o755 for a file that its owner may execute, else 0o644.
    mode: u32,
}

impl OnDisk {
    /// Makes a file in this directory.
    pub(super) fn new(directory: Arc<Path>) -> Self {
        Self { directory, seen: OnceLock::new() }
    }

    /// Returns the path on disk of the file whose path in the mold is `inside`.
    pub(super) fn path(&self, inside: &str) -> PathBuf {
        self.directory.join(name(inside))
    }

    /// Opens the file.
    pub(super) fn open(&self, inside: &str, directory: &mut DirHandle) -> Result<File> {
        directory.open(&self.directory, OsStr::new(name(inside)))
    }

    /// Returns the length; 0 for a file that is gone.
    pub(super) fn length(&self, inside: &str) -> u64 {
        self.seen(inside).length
    }

    /// Returns the length of the open file.
    pub(super) fn length_of(&self, file: &File) -> Result<u64> {
        if self.seen.get().is_none() {
            let seen = Seen::of(&file.metadata()?);
            self.seen.get_or_init(|| seen);
        }
        Ok(self.seen.get().map_or(0, |seen| seen.length))
    }

    /// Returns the permission bits.
    pub(super) fn mode(&self, inside: &str) -> u32 {
        self.seen(inside).mode
    }

    fn seen(&self, inside: &str) -> Seen {
        *self.seen.get_or_init(|| match std::fs::metadata(self.path(inside)) {
            Ok(metadata) => Seen::of(&metadata),
            Err(error) => {
                tracing::debug!(path = inside, %error, "no metadata");
                Seen { length: 0, mode: 0o644 }
            }
        })
    }
}

impl Seen {
    fn of(metadata: &Metadata) -> Self {
        Self { length: metadata.len(), mode: mode(metadata) }
    }
}

/// Returns the last part of a path in a mold.
fn name(path: &str) -> &str {
    path.rsplit_once('/').map_or(path, |(_, name)| name)
}

#[cfg(unix)]
fn mode(metadata: &Metadata) -> u32 {
    use std::os::unix::fs::PermissionsExt;
    if metadata.permissions().mode() & 0o100 != 0 { 0o755 } else { 0o644 }
}

#[cfg(not(unix))]
fn mode(_: &Metadata) -> u32 {
    0o644
}
