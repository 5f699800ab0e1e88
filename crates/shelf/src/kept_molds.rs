//! The molds that projects were cast from, kept by their digest: what a project is brought up to date from.
//!
//! Each is one archive. It is verified when it is read: a file whose content has another digest is removed.

use crate::cache::heal;
use std::fs::{self, File};
use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::time::SystemTime;
use tinmold_mold::package::{open_archive, pack};
use tinmold_mold::{MoldDigest, Package, PackageError};

/// The most bytes of all kept molds; the ones that were not used for longest go first.
pub const MOST_KEPT: u64 = 1 << 30;

/// The molds in a directory.
#[derive(Clone, Debug)]
pub struct KeptMolds {
    folder: PathBuf,
}

/// Why a mold cannot be kept.
#[derive(Debug, thiserror::Error)]
pub enum KeepError {
    /// The directory cannot be written.
    #[error("cannot keep the mold: {0}")]
    Io(#[from] io::Error),
    /// The mold cannot be read.
    #[error(transparent)]
    Package(#[from] PackageError),
}

impl KeptMolds {
    /// Returns the molds in this directory, which is made when the first one is kept.
    #[must_use]
    pub fn new(folder: impl Into<PathBuf>) -> Self {
        Self { folder: folder.into() }
    }

    fn place(&self, digest: &MoldDigest) -> PathBuf {
        self.folder.join(format!("{}.tar.gz", digest.0))
    }

    /// Keeps a mold of this digest, unless it is kept already.
    ///
    /// # Errors
    /// The mold cannot be read, or the directory cannot be written.
    pub fn keep(&self, package: &Package, digest: &MoldDigest) -> Result<(), KeepError> {
        let place = self.place(digest);
        if let Ok(file) = File::open(&place) {
            // A later cast costs one look.
            file.set_modified(SystemTime::now())?;
            return Ok(());
        }
        fs::create_dir_all(&self.folder)?;
        heal(&place);
        let mut staged = tempfile::NamedTempFile::new_in(&self.folder)?;
        pack(package, "mold", io::BufWriter::new(&mut staged))?;
        staged.flush()?;
        staged.persist(&place).map_err(|error| error.error)?;
        self.shrink(MOST_KEPT, Some(&place));
        Ok(())
    }

    /// Returns the kept mold of this digest; `None` if there is none that is intact.
    #[must_use]
    pub fn open(&self, digest: &MoldDigest) -> Option<Package> {
        let place = self.place(digest);
        heal(&place);
        if !place.exists() {
            return None;
        }
        let package = open_archive(&place).and_then(|package| Ok((package.digest()?, package)));
        match package {
            Ok((found, package)) if found == *digest => Some(package),
            other => {
                tracing::warn!(path = %place.display(), reason = ?other.err(), "a kept mold is damaged");
                crate::cache::remove(&place);
                None
            }
        }
    }

    /// Lists the kept molds with their sizes, the one that was not used for longest first.
    fn list(&self) -> Vec<(SystemTime, u64, PathBuf)> {
        let entries = fs::read_dir(&self.folder).into_iter().flatten().flatten();
        let mut all: Vec<_> = entries
            .filter_map(|entry| {
                let found = entry.metadata().ok().filter(fs::Metadata::is_file)?;
                Some((found.modified().ok()?, found.len(), entry.path()))
            })
            .collect();
        all.sort();
        all
    }

    /// Returns the number of kept molds and their bytes.
    #[must_use]
    pub fn extent(&self) -> (usize, u64) {
        let all = self.list();
        (all.len(), all.iter().map(|(_, size, _)| size).sum())
    }

    /// Removes the molds that were not used for longest until at most `most` bytes are left; `spared` stays.
    /// Returns the number of removed molds and their bytes.
    pub fn shrink(&self, most: u64, spared: Option<&Path>) -> (usize, u64) {
        let all = self.list();
        let mut left: u64 = all.iter().map(|(_, size, _)| size).sum();
        let mut removed = (0, 0);
        for (_, size, path) in all {
            if left <= most {
                break;
            }
            if spared == Some(path.as_path()) {
                continue;
            }
            crate::cache::remove(&path);
            left -= size;
            removed = (removed.0 + 1, removed.1 + size);
        }
        removed
    }
}
