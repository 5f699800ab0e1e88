//! Taking a recast back: every byte and every permission, without git.
//!
//! What was there is kept in the user's state directory, never in the project. It counts as long as the record of the
//! project is the one that the recast wrote.

use super::disk::{look, print_of};
use super::result::{Recast, Written};
use super::tree::Print;
use super::write::stage_file;
use crate::record::{CASTING, DIGESTS};
use crate::write::{Journals, LockedFolder, Observer, Staging, WriteError};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use std::fs;
use std::io::Result as IoResult;
use std::path::{Path, PathBuf};
use tinmold_platform::digest::{Digest, digest_of};
use tinmold_platform::files::write_whole;
use tinmold_platform::paths::moved;
use tinmold_platform::root_dir::RootDir;

/// The form of what is kept.
const FORMAT: u32 = 1;
/// The names of what the last recast kept, and of what one at work keeps.
const LAST: &str = "last";
const NEXT: &str = "next";

/// The directory in which what was there before the last recast of a project is kept.
#[derive(Clone, Debug)]
pub struct UndoStore {
    folder: PathBuf,
}

/// What was at a path before and after a recast.
#[derive(Clone, Debug, Deserialize, PartialEq, Eq, Serialize)]
#[serde(deny_unknown_fields)]
struct Kept {
    /// The path before.
    path: String,
    /// The path afterwards.
    place: String,
    was: Option<KeptFile>,
    now: Option<KeptFile>,
}

/// A file or link.
#[derive(Clone, Debug, Deserialize, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
enum KeptFile {
    /// The digest of its bytes, and its permission bits.
    File(String, u32),
    /// Its target.
    Link(String),
}

/// Everything that an undo needs.
#[derive(Clone, Debug, Deserialize, PartialEq, Eq, Serialize)]
#[serde(deny_unknown_fields)]
struct Notes {
    format: u32,
    /// The digests of the record and of its list, as the recast wrote them.
    record: [String; 2],
    moves: Vec<(String, String)>,
    /// The folders that were made.
    folders: Vec<String>,
    files: Vec<Kept>,
}

/// Why the last recast cannot be undone.
#[derive(Debug, thiserror::Error)]
pub enum RecastUndoError {
    /// Nothing is kept of a recast that wrote the present record.
    #[error("no recast of this project can be undone here")]
    Nothing,
    /// Files are not as it left them.
    #[error("cannot undo the recast: files are not as it left them")]
    NotAsLeft(Vec<String>),
    /// What was kept cannot be read.
    #[error("what was kept for the undo cannot be read: {0}")]
    Damaged(String),
    /// The project cannot be read or written.
    #[error(transparent)]
    Write(#[from] WriteError),
}

/// A planned undo of a recast.
#[derive(Debug)]
pub struct RecastUndo {
    root: PathBuf,
    folder: PathBuf,
    notes: Notes,
}

/// What is kept of a recast at work.
pub(super) struct Noted<'s> {
    store: &'s UndoStore,
    notes: Notes,
}

impl UndoStore {
    /// Returns the store in this directory, which is made when something is kept.
    #[must_use]
    pub fn new(folder: impl Into<PathBuf>) -> Self {
        Self { folder: folder.into() }
    }

    /// Keeps what is there now.
    pub(super) fn note(&self, recast: &Recast, root: &RootDir) -> IoResult<Noted<'_>> {
        let next = self.folder.join(NEXT);
        match fs::remove_dir_all(&next) {
            Err(error) if error.kind() != std::io::ErrorKind::NotFound => return Err(error),
            _ => fs::create_dir_all(&next)?,
        }
        let keep = |path: &str, most: u64| -> IoResult<String> {
            let bytes = root.read(path, most)?;
            let digest = digest_of(&bytes).to_string();
            write_whole(&next.join(&digest), &bytes)?;
            Ok(digest)
        };
        let mut files = Vec::new();
        for file in &recast.files {
            let path = file.from.as_ref().unwrap_or(&file.path);
            let was = match &file.was {
                None => None,
                Some((Print::Link(target), _)) => Some(KeptFile::Link(target.clone())),
                Some((Print::File(_), mode)) => Some(KeptFile::File(keep(path, u64::MAX >> 1)?, *mode)),
            };
            let now = file.after.as_ref().map(|after| match after {
                Written::Link(target) => KeptFile::Link(target.clone()),
                Written::File(bytes, mode) => KeptFile::File(digest_of(bytes).to_string(), *mode & 0o777),
            });
            files.push(Kept { path: path.clone(), place: file.path.clone(), was, now });
        }
        for path in [CASTING, DIGESTS] {
            let mode = root.find(path)?.map_or(0o644, |found| found.mode);
            let was = Some(KeptFile::File(keep(path, u64::MAX >> 1)?, mode));
            files.push(Kept { path: path.to_owned(), place: path.to_owned(), was, now: None });
        }
        let (moves, folders) = (recast.moves.clone(), recast.folders.clone());
        let notes = Notes { format: FORMAT, record: Default::default(), moves, folders, files };
        Ok(Noted { store: self, notes })
    }

    /// Plans the undo of the last recast of the project at `root`.
    ///
    /// # Errors
    /// Nothing is kept for its present record, or files are not as the recast left them.
    pub fn undo(&self, root: &Path) -> Result<RecastUndo, RecastUndoError> {
        let read = |error| WriteError::io("read", root)(error);
        let project = RootDir::open_through_links(root).map_err(read)?;
        let digest = |path: &str| project.digest(path).map(|digest| digest.to_string());
        let (Ok(casting), Ok(list)) = (digest(CASTING), digest(DIGESTS)) else {
            return Err(RecastUndoError::Nothing);
        };
        let record = [casting, list];
        // A run that was killed right after its write has not renamed what it kept.
        for name in [NEXT, LAST] {
            let folder = self.folder.join(name);
            let Ok(text) = fs::read_to_string(folder.join("notes.json")) else { continue };
            let damaged = |error: serde_json::Error| RecastUndoError::Damaged(error.to_string());
            let notes: Notes = serde_json::from_str(&text).map_err(damaged)?;
            if notes.record != record || notes.format != FORMAT {
                continue;
            }
            let undo = RecastUndo { root: root.to_owned(), folder, notes };
            undo.check(&project)?;
            return Ok(undo);
        }
        Err(RecastUndoError::Nothing)
    }
}

impl Noted<'_> {
    /// Notes the record as it is staged, and with it everything.
    pub(super) fn note_record(&mut self, staged: &RootDir) -> IoResult<()> {
        self.notes.record = [staged.digest(CASTING)?.to_string(), staged.digest(DIGESTS)?.to_string()];
        let text = serde_json::to_vec(&self.notes)?;
        write_whole(&self.store.folder.join(NEXT).join("notes.json"), &text)
    }

    /// Keeps it in place of what the recast before kept.
    pub(super) fn keep(self) -> IoResult<()> {
        let (last, next) = (self.store.folder.join(LAST), self.store.folder.join(NEXT));
        match fs::remove_dir_all(&last) {
            Err(error) if error.kind() != std::io::ErrorKind::NotFound => Err(error),
            _ => fs::rename(next, last),
        }
    }
}

impl RecastUndo {
    /// Returns the paths that it changes, sorted.
    #[must_use]
    pub fn paths(&self) -> Vec<&str> {
        let mut paths: Vec<&str> = self.notes.files.iter().map(|kept| kept.path.as_str()).collect();
        paths.sort_unstable();
        paths.dedup();
        paths
    }

    /// Returns what moves back: from where, and to where.
    pub fn moves(&self) -> impl Iterator<Item = (&str, &str)> {
        self.notes.moves.iter().map(|(from, to)| (to.as_str(), from.as_str()))
    }

    fn is_record(kept: &Kept) -> bool {
        kept.path == CASTING || kept.path == DIGESTS
    }

    /// Fails if a file is not as the recast left it.
    fn check(&self, root: &RootDir) -> Result<(), RecastUndoError> {
        let mut changed = Vec::new();
        for kept in self.notes.files.iter().filter(|kept| !Self::is_record(kept)) {
            let is_same = |path: &str, wanted: Option<&KeptFile>| -> IoResult<bool> {
                let found = look(root, path)?;
                Ok(match (print_of(root, path, &found)?, wanted) {
                    (None, None) => true,
                    (Some(Print::Link(now)), Some(KeptFile::Link(target))) => now == *target,
                    (Some(Print::File(now)), Some(KeptFile::File(digest, _))) => now.to_string() == *digest,
                    _ => false,
                })
            };
            if !is_same(&kept.place, kept.now.as_ref()).unwrap_or(false) {
                changed.push(kept.place.clone());
            }
        }
        let is_there = |path: &str| root.find(path).is_ok_and(|found| found.is_some());
        for (from, to) in &self.notes.moves {
            if !is_there(to) {
                changed.push(to.clone());
            } else if is_there(from) {
                changed.push(from.clone());
            }
        }
        if changed.is_empty() { Ok(()) } else { Err(RecastUndoError::NotAsLeft(changed)) }
    }

    /// Returns the path that something gets when the folders have moved back.
    fn moved_back(&self, path: &str) -> String {
        moved(path, self.moves())
    }

    /// Does it.
    ///
    /// # Errors
    /// What changed meanwhile, what was kept and is damaged, and what the system refuses. The project is then as it was.
    pub fn write(&self, journals: &Journals, observer: &dyn Observer) -> Result<(), RecastUndoError> {
        let locked = LockedFolder::lock(&self.root)?;
        let root = locked.root();
        self.check(root)?;
        let mut restored = Vec::new();
        for kept in &self.notes.files {
            let Some(was) = &kept.was else { continue };
            restored.push((kept.path.clone(), self.content(was)?));
        }
        locked.apply(journals, observer, |new_files| {
            for (path, what) in &restored {
                stage_file(new_files, path, what)?;
            }
            let paths: BTreeSet<&str> = restored.iter().map(|(path, _)| path.as_str()).collect();
            let files = self.notes.files.iter().filter(|kept| !Self::is_record(kept));
            let left =
                files.clone().filter(|kept| kept.now.is_some()).map(|kept| self.moved_back(&kept.place));
            let removed = left.filter(|path| !paths.contains(path.as_str())).collect();
            let expected = files.filter_map(|kept| match &kept.now {
                Some(KeptFile::File(digest, _)) => {
                    let digest: Digest = digest.parse().ok()?;
                    Some((self.moved_back(&kept.place), Some(digest)))
                }
                _ => None,
            });
            // The record is moved last.
            let (records, others): (Vec<&String>, Vec<&String>) = restored
                .iter()
                .map(|(path, _)| path)
                .partition(|path| [CASTING, DIGESTS].contains(&path.as_str()));
            Ok(Staging {
                files: others.into_iter().chain(records).cloned().collect(),
                removed,
                expected: expected.collect(),
                renames: self.moves().map(|(from, to)| (from.to_owned(), to.to_owned())).collect(),
                ..Staging::default()
            })
        })?;
        for folder in self.notes.folders.iter().rev() {
            if let Err(error) = root.remove_directory(folder) {
                tracing::debug!(folder, %error, "the folder stays");
            }
        }
        if let Err(error) = fs::remove_dir_all(&self.folder) {
            tracing::warn!(%error, "cannot remove what was kept for the undo");
        }
        Ok(())
    }

    fn content(&self, kept: &KeptFile) -> Result<Written, RecastUndoError> {
        Ok(match kept {
            KeptFile::Link(target) => Written::Link(target.clone()),
            KeptFile::File(digest, mode) => {
                let bytes = fs::read(self.folder.join(digest))
                    .map_err(|error| RecastUndoError::Damaged(error.to_string()))?;
                if digest_of(&bytes).to_string() != *digest {
                    return Err(RecastUndoError::Damaged(format!("{digest} has other bytes")));
                }
                Written::File(bytes, *mode)
            }
        })
    }
}
