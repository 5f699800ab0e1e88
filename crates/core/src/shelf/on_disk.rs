//! A file of a mold that lies on this machine.

use crate::near::Near;
use std::ffi::OsStr;
use std::fs::File;
use std::io::Result;
use std::path::{Path, PathBuf};
use std::sync::{Arc, OnceLock};

/// Where a file lies, and what was seen of it.
///
/// To list a mold is to read the names in its folders. Length and mode of a file are looked at when somebody wants to know, and
/// most files are opened then anyway.
#[derive(Clone, Debug)]
pub struct OnDisk {
    /// Shared by all files of a folder.
    folder: Arc<Path>,
    seen: OnceLock<Seen>,
}

/// What the system says of a file.
#[derive(Clone, Copy, Debug)]
struct Seen {
    /// In bytes.
    length: u64,
    /// The permission bits without those that only this machine's owner means: read and execute for all follow the owner's.
    mode: u32,
}

impl OnDisk {
    /// A file in this folder.
    pub(super) fn new(folder: Arc<Path>) -> Self {
        Self { folder, seen: OnceLock::new() }
    }

    /// Its path; `inside` is that in the mold, here and below, whose last part is its name in the folder.
    pub(super) fn path(&self, inside: &str) -> PathBuf {
        self.folder.join(name(inside))
    }

    /// Opens it.
    pub(super) fn open(&self, inside: &str, near: &mut Near) -> Result<File> {
        near.open(&self.folder, OsStr::new(name(inside)))
    }

    /// Its length; of a file that is gone, 0: to read it fails, and says so.
    pub(super) fn length(&self, inside: &str) -> u64 {
        self.looked_at(inside).length
    }

    /// Its length, when it is open.
    pub(super) fn length_of(&self, file: &File) -> Result<u64> {
        match self.seen.get() {
            Some(seen) => Ok(seen.length),
            None => {
                let seen = seen(file)?;
                Ok(self.seen.get_or_init(|| seen).length)
            }
        }
    }

    /// Its permission bits.
    pub(super) fn mode(&self, inside: &str) -> u32 {
        self.looked_at(inside).mode
    }

    fn looked_at(&self, inside: &str) -> Seen {
        *self.seen.get_or_init(|| {
            let found = std::fs::metadata(self.path(inside));
            found.map_or(Seen { length: 0, mode: 0o644 }, |found| Seen {
                length: found.len(),
                mode: mode(&found),
            })
        })
    }
}

/// The last part of a path in a mold.
fn name(path: &str) -> &str {
    memchr::memrchr(b'/', path.as_bytes()).map_or(path, |slash| &path[slash + 1..])
}

/// What the system says of an open file, asked in the quickest way.
#[cfg(unix)]
fn seen(file: &File) -> Result<Seen> {
    let found = rustix::fs::fstat(file)?;
    Ok(Seen { length: u64::try_from(found.st_size).unwrap_or(0), mode: mode_of(found.st_mode) })
}

#[cfg(not(unix))]
fn seen(file: &File) -> Result<Seen> {
    file.metadata().map(|found| Seen { length: found.len(), mode: mode(&found) })
}

#[cfg(unix)]
fn mode(found: &std::fs::Metadata) -> u32 {
    use std::os::unix::fs::PermissionsExt;
    mode_of(found.permissions().mode())
}

#[cfg(not(unix))]
fn mode(_: &std::fs::Metadata) -> u32 {
    0o644
}

#[cfg(unix)]
fn mode_of(bits: u32) -> u32 {
    if bits & 0o100 != 0 { 0o755 } else { 0o644 }
}
