//! A directory that no operation leaves.
//!
//! Every path is relative to the directory, with `/`, and is resolved from its handle: `openat2` with
//! `RESOLVE_BENEATH` and `RESOLVE_NO_SYMLINKS` on Linux, a walk that follows no link elsewhere. A link
//! that another program puts on the way is an error and never followed.

use crate::digest::{Digest, digest_of_reader};
use crate::read_dir::EntryKind;
use std::ffi::OsString;
use std::fs::File;
use std::io::{Error, ErrorKind, Read, Result};
use std::path::{Path, PathBuf};

/// What identifies a file or directory while it exists.
#[derive(Clone, Copy, Debug, PartialEq, Eq, serde::Deserialize, serde::Serialize)]
pub struct Identity {
    /// The file system.
    pub device: u64,
    /// The number of the file on it.
    pub inode: u64,
}

/// An entry of a directory. A link is not followed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Found {
    /// Its kind.
    pub kind: EntryKind,
    /// Its length in bytes.
    pub length: u64,
    /// Its permission bits.
    pub mode: u32,
    /// What identifies it.
    pub identity: Identity,
    /// The user that owns it.
    pub owner: u32,
}

/// A directory that no operation leaves.
#[derive(Debug)]
pub struct RootDir {
    handle: system::Handle,
    /// The path it was opened at, for messages.
    path: PathBuf,
}

/// Returns true for the error of a path that leads through a link.
#[must_use]
pub fn is_link_on_the_way(error: &Error) -> bool {
    error.get_ref().is_some_and(|inner| inner.is::<LinkOnTheWay>())
}

/// A path leads through a link.
#[derive(Debug, thiserror::Error)]
#[error("a link is on the way")]
struct LinkOnTheWay;

/// Why a file is not read.
#[derive(Debug, thiserror::Error)]
pub enum ReadError {
    /// Nothing is there.
    #[error("it is not there")]
    Absent,
    /// The path leads through a link.
    #[error("it is behind a link")]
    BehindLink,
    /// It is not a regular file.
    #[error("it is not a file")]
    NotAFile,
    /// It has more bytes than the caller takes.
    #[error("it is too large")]
    TooLarge,
    /// The system refuses.
    #[error(transparent)]
    Io(Error),
}

impl From<Error> for ReadError {
    fn from(error: Error) -> Self {
        if is_link_on_the_way(&error) { Self::BehindLink } else { Self::Io(error) }
    }
}

impl From<ReadError> for Error {
    fn from(error: ReadError) -> Self {
        match error {
            ReadError::Io(error) => error,
            other => Self::other(other),
        }
    }
}

fn link_on_the_way() -> Error {
    Error::other(LinkOnTheWay)
}

impl RootDir {
    /// Opens the directory at `path`. Links above it are followed, the directory itself may not be one.
    ///
    /// # Errors
    /// There is no directory, or it cannot be opened.
    pub fn open(path: &Path) -> Result<Self> {
        Ok(Self { handle: system::open_root(path)?, path: path.to_owned() })
    }

    /// Opens the directory that `path` leads to, even if it is a link: where users go is their choice.
    ///
    /// # Errors
    /// There is no directory, or it cannot be opened.
    pub fn open_through_links(path: &Path) -> Result<Self> {
        Self::open(&path.canonicalize()?)
    }

    /// Returns the path it was opened at.
    #[must_use]
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// Opens a directory inside it.
    ///
    /// # Errors
    /// There is none, or a link is on the way.
    pub fn subdirectory(&self, inside: &str) -> Result<Self> {
        Ok(Self { handle: system::open_directory(&self.handle, inside)?, path: self.path.join(inside) })
    }

    /// Returns what the directory itself is.
    ///
    /// # Errors
    /// The system refuses.
    pub fn itself(&self) -> Result<Found> {
        system::found_root(&self.handle)
    }

    /// Returns what is at a path; `None` if nothing is.
    ///
    /// # Errors
    /// A link is on the way, or the system refuses.
    pub fn find(&self, inside: &str) -> Result<Option<Found>> {
        match system::found(&self.handle, inside) {
            Ok(found) => Ok(Some(found)),
            Err(error) if matches!(error.kind(), ErrorKind::NotFound | ErrorKind::NotADirectory) => Ok(None),
            Err(error) => Err(error),
        }
    }

    /// Opens a regular file for reading. Neither a link nor a pipe is opened.
    ///
    /// # Errors
    /// There is none, it is something else, or a link is on the way.
    pub fn open_file(&self, inside: &str) -> Result<File> {
        let file = system::open_file(&self.handle, inside)?;
        match file.metadata()?.is_file() {
            true => Ok(file),
            false => Err(Error::new(ErrorKind::InvalidInput, "it is not a file")),
        }
    }

    /// Reads a regular file of at most `most` bytes.
    ///
    /// # Errors
    /// It is not there, not a regular file, behind a link or larger, or the system refuses.
    pub fn read(&self, inside: &str, most: u64) -> std::result::Result<Vec<u8>, ReadError> {
        let found = self.find(inside)?.ok_or(ReadError::Absent)?;
        if found.kind != EntryKind::File {
            return Err(ReadError::NotAFile);
        }
        if found.length > most {
            return Err(ReadError::TooLarge);
        }
        let mut bytes = Vec::new();
        self.open_file(inside)?.take(most).read_to_end(&mut bytes)?;
        Ok(bytes)
    }

    /// Computes the digest of a regular file.
    ///
    /// # Errors
    /// As for [`RootDir::open_file`], and what keeps it from being read.
    pub fn digest(&self, inside: &str) -> Result<Digest> {
        digest_of_reader(self.open_file(inside)?)
    }

    /// Returns the target of a link.
    ///
    /// # Errors
    /// There is no link.
    pub fn read_link(&self, inside: &str) -> Result<OsString> {
        system::read_link(&self.handle, inside)
    }

    /// Lists a directory, sorted by name; `""` is the root.
    ///
    /// # Errors
    /// There is none, or it cannot be read.
    pub fn list(&self, inside: &str) -> Result<Vec<(OsString, EntryKind)>> {
        system::list(&self.handle, inside)
    }

    /// Makes a directory with these permission bits. Nothing may be at its path.
    ///
    /// # Errors
    /// Something is there, or the system refuses.
    pub fn make_directory(&self, inside: &str, mode: u32) -> Result<()> {
        system::make_directory(&self.handle, inside, mode)
    }

    /// Makes every missing directory of a path.
    ///
    /// # Errors
    /// Something else is on the way, or the system refuses.
    pub fn make_directories(&self, inside: &str) -> Result<()> {
        let ends = inside.match_indices('/').map(|(at, _)| at).chain([inside.len()]);
        for path in ends.map(|end| &inside[..end]).filter(|path| !path.is_empty()) {
            match self.make_directory(path, 0o777) {
                Err(error) if error.kind() == ErrorKind::AlreadyExists => match self.find(path)? {
                    Some(found) if found.kind == EntryKind::Directory => {}
                    Some(found) if found.kind == EntryKind::Link => return Err(link_on_the_way()),
                    _ => return Err(error),
                },
                other => other?,
            }
        }
        Ok(())
    }

    /// Creates a file with these permission bits. Nothing may be at its path.
    ///
    /// # Errors
    /// Something is there, or the system refuses.
    pub fn create(&self, inside: &str, mode: u32) -> Result<File> {
        system::create(&self.handle, inside, mode)
    }

    /// Sets the permission bits of a file or directory.
    ///
    /// # Errors
    /// There is none, it is a link, or the system refuses.
    pub fn set_mode(&self, inside: &str, mode: u32) -> Result<()> {
        system::set_mode(&self.handle, inside, mode)
    }

    /// Creates a symbolic link. Nothing may be at its path.
    ///
    /// # Errors
    /// Something is there, or the system refuses.
    pub fn make_link(&self, target: &str, inside: &str) -> Result<()> {
        system::make_link(&self.handle, target, inside)
    }

    /// Gives a file or link a second name. Nothing may be at `to`.
    ///
    /// # Errors
    /// Something is there, or the file system has no second names.
    pub fn hard_link(&self, from: &str, to: &str) -> Result<()> {
        system::hard_link(&self.handle, from, to)
    }

    /// Renames, and replaces a file at `to`.
    ///
    /// # Errors
    /// The system refuses.
    pub fn rename(&self, from: &str, to: &str) -> Result<()> {
        system::rename(&self.handle, from, to)
    }

    /// Renames to a path where nothing is.
    ///
    /// # Errors
    /// Something is there (`AlreadyExists`), or the system refuses.
    pub fn rename_new(&self, from: &str, to: &str) -> Result<()> {
        system::rename_new(&self.handle, from, to)
    }

    /// Removes a file or link.
    ///
    /// # Errors
    /// There is none, or the system refuses.
    pub fn remove_file(&self, inside: &str) -> Result<()> {
        system::remove(&self.handle, inside, false)
    }

    /// Removes an empty directory.
    ///
    /// # Errors
    /// It holds something, or the system refuses.
    pub fn remove_directory(&self, inside: &str) -> Result<()> {
        system::remove(&self.handle, inside, true)
    }

    /// Removes a directory with all that is in it. No link in it is followed.
    ///
    /// # Errors
    /// The system refuses.
    pub fn remove_tree(&self, inside: &str) -> Result<()> {
        let directory = self.subdirectory(inside)?;
        for (name, kind) in directory.list("")? {
            match kind {
                EntryKind::Directory => directory.remove_named_tree(&name)?,
                _ => system::remove_named(&directory.handle, &name)?,
            }
        }
        self.remove_directory(inside)
    }

    fn remove_named_tree(&self, name: &std::ffi::OsStr) -> Result<()> {
        match name.to_str() {
            Some(name) => self.remove_tree(name),
            None => Err(Error::new(ErrorKind::InvalidFilename, "a name is not UTF-8")),
        }
    }
}

/// Creates many files in a [`RootDir`]; the directory that was used last stays open.
pub struct Cursor<'r> {
    root: &'r RootDir,
    last: Option<(String, RootDir)>,
}

impl<'r> Cursor<'r> {
    /// Starts at the root.
    #[must_use]
    pub fn new(root: &'r RootDir) -> Self {
        Self { root, last: None }
    }

    /// Makes a directory and those above it, as far as they are missing.
    ///
    /// # Errors
    /// As for [`RootDir::make_directories`].
    pub fn make_directories(&mut self, inside: &str) -> Result<()> {
        self.directory(inside).map(drop)
    }

    /// Creates a file with these permission bits, and the directories above it.
    ///
    /// # Errors
    /// As for [`RootDir::create`].
    pub fn create(&mut self, inside: &str, mode: u32) -> Result<File> {
        let (parent, name) = inside.rsplit_once('/').unwrap_or(("", inside));
        self.directory(parent)?.create(name, mode)
    }

    /// Creates a symbolic link, and the directories above it.
    ///
    /// # Errors
    /// As for [`RootDir::make_link`].
    pub fn make_link(&mut self, target: &str, inside: &str) -> Result<()> {
        let (parent, name) = inside.rsplit_once('/').unwrap_or(("", inside));
        self.directory(parent)?.make_link(target, name)
    }

    fn directory(&mut self, inside: &str) -> Result<&RootDir> {
        if inside.is_empty() {
            return Ok(self.root);
        }
        if self.last.as_ref().is_none_or(|(last, _)| last != inside) {
            let opened = match self.root.subdirectory(inside) {
                Err(error) if error.kind() == ErrorKind::NotFound => {
                    self.root.make_directories(inside)?;
                    self.root.subdirectory(inside)?
                }
                other => other?,
            };
            self.last = Some((inside.to_owned(), opened));
        }
        Ok(self.last.as_ref().map_or(self.root, |(_, directory)| directory))
    }
}

#[cfg(unix)]
#[path = "root_dir/unix.rs"]
mod system;

#[cfg(not(unix))]
#[path = "root_dir/paths.rs"]
mod system;

#[cfg(all(test, unix))]
mod tests;
