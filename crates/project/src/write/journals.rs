//! The journals of writes at work, in the user's state directory.
//!
//! A journal never lies in the project: a cloned project could bring one along. Whatever it does not
//! list is never moved or removed. It is a file of JSON lines, each on disk before the step that follows
//! it: what is written and where, the identity of the staging directory, every move, and the end.

use super::error::WriteError;
use super::names::random_name;
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use std::ffi::OsString;
use std::fs::{self, File, TryLockError};
use std::io::{BufRead, BufReader, ErrorKind, Read, Result, Write};
use std::path::{Path, PathBuf};
use tinmold_platform::root_dir::{Identity, RootDir};

/// The form of a journal.
const FORMAT: u32 = 2;
/// The largest journal that is read, in bytes.
const LARGEST: u64 = 256 << 20;

/// The directory of the journals.
#[derive(Clone, Debug, Default)]
pub struct Journals {
    folder: Option<PathBuf>,
}

/// What is written.
#[derive(Clone, Copy, Debug, Deserialize, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum WriteKind {
    /// A new folder, staged beside its destination.
    Folder,
    /// An archive, staged beside its destination.
    Archive,
    /// An existing folder.
    Existing,
}

/// The first line of a journal.
#[derive(Clone, Debug, Deserialize, PartialEq, Eq, Serialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Begin {
    pub(super) format: u32,
    pub(super) kind: WriteKind,
    /// The canonical path of the directory that is written to.
    pub(super) root: OsString,
    /// What identifies that directory.
    pub(super) identity: Identity,
    /// The path of the staging directory in it.
    pub(super) stage: String,
    /// True if the program's own directory in the project is made too.
    pub(super) makes_own: bool,
}

/// A file or link that is moved into place.
#[derive(Clone, Debug, Deserialize, PartialEq, Eq, Serialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Move {
    pub(super) path: String,
    /// The state before: a digest, or `link` and the target; `None` if nothing is there.
    pub(super) was: Option<String>,
    /// The state after; `None` if the file is removed.
    pub(super) new: Option<String>,
}

/// The moves, in order.
#[derive(Clone, Debug, Default, Deserialize, PartialEq, Eq, Serialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Moves {
    /// What gets another path first: from where, and to where.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(super) renames: Vec<(String, String)>,
    /// The folders that will be made, outermost first.
    pub(super) folders: Vec<String>,
    pub(super) steps: Vec<Move>,
}

/// A line of a journal.
#[derive(Deserialize, Serialize)]
#[serde(rename_all = "kebab-case")]
enum Line<'m> {
    Begin(Begin),
    Staged(Identity),
    Moves(Cow<'m, Moves>),
    Done,
}

impl Journals {
    /// Returns the journals in this directory, which is made when a write begins; none without one.
    #[must_use]
    pub fn new(folder: Option<PathBuf>) -> Self {
        Self { folder }
    }

    /// Begins the journal of a write to `root`.
    ///
    /// # Errors
    /// There is no state directory, it cannot be written, or others can write it.
    pub(super) fn begin(
        &self,
        kind: WriteKind,
        root: &RootDir,
        stage: &str,
        makes_own: bool,
    ) -> Result<Journal> {
        debug_assert!(root.path().is_absolute(), "the callers resolve the path");
        let folder = self.folder.as_ref().ok_or_else(|| {
            std::io::Error::new(
                ErrorKind::NotFound,
                "there is no state directory: set HOME or XDG_STATE_HOME",
            )
        })?;
        make_private(folder)?;
        let begin = Begin {
            format: FORMAT,
            kind,
            root: root.path().as_os_str().to_owned(),
            identity: root.itself()?.identity,
            stage: stage.to_owned(),
            makes_own,
        };
        loop {
            let path = folder.join(format!("{}.jsonl", random_name()?));
            let file = private_file(&path)?;
            // Another program may recover what looks abandoned in the instant before the lock.
            if is_locked_by_other(&file) || fs::symlink_metadata(&path).is_err() {
                continue;
            }
            let is_durable = kind == WriteKind::Existing;
            let mut journal = Journal { path, file, is_durable };
            journal.append(&Line::Begin(begin))?;
            if journal.is_durable {
                File::open(folder)?.sync_all()?;
            }
            return Ok(journal);
        }
    }

    /// Returns the journals of writes that did not end and are not at work.
    #[must_use]
    pub(super) fn left(&self) -> Vec<Left> {
        let Some(entries) = self.folder.as_ref().and_then(|folder| fs::read_dir(folder).ok()) else {
            return Vec::new();
        };
        let paths = entries.flatten().map(|entry| entry.path());
        let mut left: Vec<Left> = paths
            .filter(|path| path.extension().is_some_and(|end| end == "jsonl"))
            .filter_map(|path| match Left::read(path.clone()) {
                Ok(left) => left,
                Err(error) => {
                    tracing::warn!(path = %path.display(), %error, "cannot read a journal");
                    None
                }
            })
            .collect();
        left.sort_by(|a, b| a.path.cmp(&b.path));
        left
    }
}

/// The journal of a write at work. It is locked until it is dropped.
pub(super) struct Journal {
    path: PathBuf,
    file: File,
    /// True if each line is on disk before the next step.
    is_durable: bool,
}

impl Journal {
    fn append(&mut self, line: &Line<'_>) -> Result<()> {
        let mut bytes = serde_json::to_vec(line)?;
        bytes.push(b'\n');
        self.file.write_all(&bytes)?;
        if self.is_durable { self.file.sync_data() } else { Ok(()) }
    }

    /// Notes what identifies the staging directory, or the staged archive.
    pub(super) fn staged(&mut self, identity: Identity) -> Result<()> {
        self.append(&Line::Staged(identity))
    }

    /// Notes the moves.
    pub(super) fn moves(&mut self, moves: &Moves) -> Result<()> {
        self.append(&Line::Moves(Cow::Borrowed(moves)))
    }

    /// Notes that every move was made.
    pub(super) fn done(&mut self) -> Result<()> {
        self.append(&Line::Done)
    }

    /// Removes the journal: nothing is left of the write.
    pub(super) fn end(self) -> std::result::Result<(), WriteError> {
        fs::remove_file(&self.path).map_err(WriteError::io("remove", &self.path))
    }
}

/// The journal of a write that did not end.
pub(super) struct Left {
    path: PathBuf,
    /// Keeps other programs from recovering at the same time.
    _file: File,
    pub(super) begin: Begin,
    pub(super) staged: Option<Identity>,
    pub(super) moves: Option<Moves>,
    pub(super) is_done: bool,
    /// The user that the journal belongs to.
    pub(super) owner: u32,
}

impl Left {
    fn read(path: PathBuf) -> Result<Option<Self>> {
        let folder = RootDir::open(path.parent().unwrap_or(Path::new(".")))?;
        let name = path.file_name().and_then(|name| name.to_str()).unwrap_or_default();
        let owner = folder.find(name)?.map_or(0, |found| found.owner);
        let file = folder.open_file(name)?;
        if is_locked_by_other(&file) {
            return Ok(None);
        }
        let mut lines = BufReader::new((&file).take(LARGEST));
        let mut line = String::new();
        let mut next = || -> Option<Line<'static>> {
            line.clear();
            // A line without its end was not on disk when the program was killed.
            lines.read_line(&mut line).ok().filter(|_| line.ends_with('\n'))?;
            serde_json::from_str(&line).ok()
        };
        let begin = match next() {
            Some(Line::Begin(begin)) if begin.format == FORMAT && is_plain(&begin.stage) => begin,
            Some(_) => return Err(ErrorKind::InvalidData.into()),
            // The program was killed before it did anything.
            None => {
                fs::remove_file(&path)?;
                return Ok(None);
            }
        };
        let (mut staged, mut moves, mut is_done) = (None, None, false);
        while let Some(line) = next() {
            match line {
                Line::Staged(identity) => staged = Some(identity),
                Line::Moves(all) => moves = Some(all.into_owned()),
                Line::Done => is_done = true,
                Line::Begin(_) => return Err(ErrorKind::InvalidData.into()),
            }
        }
        Ok(Some(Self { path, _file: file, begin, staged, moves, is_done, owner }))
    }

    /// Removes the journal.
    pub(super) fn end(self) -> std::result::Result<(), WriteError> {
        fs::remove_file(&self.path).map_err(WriteError::io("remove", &self.path))
    }
}

/// Returns true for a path of plain names.
fn is_plain(path: &str) -> bool {
    !path.is_empty() && path.split('/').all(|part| !matches!(part, "" | "." | ".."))
}

/// Takes the lock of a file; returns true if another program has it.
fn is_locked_by_other(file: &File) -> bool {
    // Some network file systems have no locks; there the random name must do.
    matches!(file.try_lock(), Err(TryLockError::WouldBlock))
}

/// Makes a directory that only its owner can read and write.
#[cfg(unix)]
fn make_private(folder: &Path) -> Result<()> {
    use std::os::unix::fs::{DirBuilderExt, MetadataExt};
    let found = match fs::symlink_metadata(folder) {
        Err(error) if error.kind() == ErrorKind::NotFound => {
            if let Some(parent) = folder.parent() {
                fs::create_dir_all(parent)?;
            }
            match fs::DirBuilder::new().mode(0o700).create(folder) {
                Err(error) if error.kind() == ErrorKind::AlreadyExists => {}
                other => other?,
            }
            fs::symlink_metadata(folder)?
        }
        found => found?,
    };
    if !found.is_dir() || found.uid() != user() || found.mode() & 0o077 != 0 {
        let message = format!("{} must be a directory of yours that no one else can use", folder.display());
        return Err(std::io::Error::new(ErrorKind::PermissionDenied, message));
    }
    Ok(())
}

#[cfg(not(unix))]
fn make_private(folder: &Path) -> Result<()> {
    fs::create_dir_all(folder)
}

/// Returns the number of the user that runs the program.
#[cfg(unix)]
pub(super) fn user() -> u32 {
    rustix::process::geteuid().as_raw()
}

#[cfg(not(unix))]
pub(super) fn user() -> u32 {
    0
}

#[cfg(unix)]
fn private_file(path: &Path) -> Result<File> {
    use std::os::unix::fs::OpenOptionsExt;
    File::options().append(true).create_new(true).mode(0o600).open(path)
}

#[cfg(not(unix))]
fn private_file(path: &Path) -> Result<File> {
    File::options().append(true).create_new(true).open(path)
}
