//! The cache: downloaded files by their digest, and small notes about downloads.
//!
//! A file gets its name only when it is complete. Its digest is computed at every use; a file with
//! a wrong digest is removed.

use serde::Serialize;
use serde::de::DeserializeOwned;
use std::fs;
use std::io;
use std::path::{Path, PathBuf};
use tinmold_platform::digest::{Digest, digest_of, digest_of_file};
use tinmold_platform::files::write_whole;

/// A folder with what was fetched.
#[derive(Clone, Debug)]
pub struct Cache {
    root: PathBuf,
}

impl Cache {
    /// Returns the cache in this folder, which is made when something is kept.
    #[must_use]
    pub fn new(root: impl Into<PathBuf>) -> Self {
        Self { root: root.into() }
    }

    /// Returns its directory.
    pub(crate) fn root(&self) -> &Path {
        &self.root
    }

    /// Returns the path of the file with this digest, whether it exists or not.
    #[must_use]
    pub fn place(&self, digest: &Digest) -> PathBuf {
        let digest = digest.to_string();
        self.root.join("files").join(&digest[..2]).join(&digest[2..])
    }

    /// Returns the file with this digest, if it exists and is intact.
    #[must_use]
    pub fn file(&self, digest: &Digest) -> Option<PathBuf> {
        let place = self.place(digest);
        heal(&place);
        match digest_of_file(&place) {
            Ok(found) if found == *digest => {
                used(&place);
                Some(place)
            }
            Ok(_) => {
                tracing::warn!(path = %place.display(), "the cached file is damaged and is fetched again");
                remove(&place);
                None
            }
            Err(_) => None,
        }
    }

    /// Gives a whole file the name of its digest.
    pub(crate) fn store(&self, file: &Path, digest: &Digest) -> io::Result<PathBuf> {
        let place = self.place(digest);
        fs::create_dir_all(place.parent().unwrap_or(&self.root))?;
        heal(&place);
        fs::rename(file, &place)?;
        Ok(place)
    }

    /// Removes files that are not needed any more.
    pub(crate) fn forget(&self, digest: &Digest) {
        remove(&self.place(digest));
        remove(&self.catalogue(digest));
    }

    /// Returns the path of the catalogue of the index with this digest, whether it exists or not.
    pub(crate) fn catalogue(&self, index: &Digest) -> PathBuf {
        self.root.join("catalogues").join(index.to_string())
    }

    /// Returns the path of a partial download of `url`.
    pub(crate) fn partial(&self, url: &str) -> PathBuf {
        self.root.join("partial").join(key(url))
    }

    /// Returns the path for data about `what` that no digest names.
    pub(crate) fn folder(&self, kind: &str, what: &str) -> PathBuf {
        self.root.join(kind).join(key(what))
    }

    /// Returns the note about `what`; `None` if there is none that can be read.
    #[must_use]
    pub fn note<T: DeserializeOwned>(&self, what: &str) -> Option<T> {
        let place = self.note_place(what);
        heal(&place);
        serde_json::from_slice(&fs::read(place).ok()?).ok()
    }

    /// Notes something of `what`.
    pub(crate) fn store_note(&self, what: &str, note: &impl Serialize) -> io::Result<()> {
        self.write(&self.note_place(what), &serde_json::to_vec(note)?)
    }

    pub(crate) fn note_place(&self, what: &str) -> PathBuf {
        self.root.join("notes").join(key(what))
    }

    /// Writes a file whole or not at all.
    pub(crate) fn write(&self, place: &Path, bytes: &[u8]) -> io::Result<()> {
        heal(place);
        write_whole(place, bytes)
    }
}

/// Returns a name for a file from a text of any length and kind.
fn key(text: &str) -> String {
    digest_of(text.as_bytes()).to_string()[..32].to_owned()
}

/// Removes what is at the path of a file and is none: a directory, a pipe or a link would keep the cache from
/// working.
pub(crate) fn heal(path: &Path) {
    let removed = match fs::symlink_metadata(path) {
        Ok(found) if found.is_dir() => fs::remove_dir_all(path),
        Ok(found) if !found.is_file() => fs::remove_file(path),
        _ => return,
    };
    tracing::warn!(path = %path.display(), ?removed, "the cache held something that is not a file");
}

/// Notes that a file was used, for the cleaning of the cache.
fn used(path: &Path) {
    let touched = fs::File::open(path).and_then(|file| file.set_modified(std::time::SystemTime::now()));
    if let Err(error) = touched {
        tracing::debug!(path = %path.display(), %error, "cannot note the use of a cached file");
    }
}

/// Removes a file that may be gone already.
pub(crate) fn remove(path: &Path) {
    if let Err(error) = fs::remove_file(path)
        && error.kind() != io::ErrorKind::NotFound
    {
        tracing::warn!(path = %path.display(), %error, "cannot remove a file");
    }
}
