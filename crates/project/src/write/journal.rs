//! A journal of changes to an existing directory, so that the next run can undo what a killed
//! program began.
//!
//! New files are staged in `.tinmold/pending/new`. The journal lists every move and is on disk
//! before the first file moves. Each step is one rename; a replaced file is linked into
//! `.tinmold/pending/old` first. After the last step the journal is renamed: from then on the write
//! is complete, and only the staging directory is removed.

use super::error::WriteError;
use super::rename::rename_new;
use super::staging::Staging;
use crate::record::{FOLDER, RecordError, leads_elsewhere};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::io::{ErrorKind, Write};
use std::path::{Path, PathBuf};
use tinmold_platform::digest::digest_of_file;
use tinmold_platform::paths::portable_path;

const FORMAT: u32 = 1;

/// The folder of a write at work, below the destination.
pub(super) struct Work {
    /// The destination.
    root: PathBuf,
    /// The folder of the write.
    folder: PathBuf,
}

/// The steps, in order.
#[derive(Debug, Deserialize, Serialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Journal {
    format: u32,
    /// The folders that will be made, outermost first.
    folders: Vec<String>,
    steps: Vec<Move>,
}

/// The state that an interrupted write left.
pub(super) enum Left {
    /// No file was moved.
    Nothing,
    /// Files were moved, and have to be restored.
    Half(Journal),
    /// All files were moved.
    Whole(Journal),
}

/// A file or link that is moved into place.
#[derive(Debug, Deserialize, Serialize)]
#[serde(deny_unknown_fields)]
struct Move {
    path: String,
    /// The state before, as `trait_of` returns it.
    was: Option<String>,
    /// The state after; `None` if the file is removed.
    new: Option<String>,
}

/// Returns what identifies a file or link: its digest or its target; `None` if it does not exist.
fn trait_of(path: &Path) -> Result<Option<String>, WriteError> {
    let found = fs::symlink_metadata(path).and_then(|metadata| {
        if metadata.is_symlink() {
            fs::read_link(path).map(|target| format!("link {}", target.display()))
        } else if metadata.is_file() {
            digest_of_file(path).map(|digest| digest.to_string())
        } else {
            Ok("something else".into())
        }
    });
    match found {
        Ok(found) => Ok(Some(found)),
        Err(error) if matches!(error.kind(), ErrorKind::NotFound | ErrorKind::NotADirectory) => Ok(None),
        Err(error) => Err(WriteError::io("read", path)(error)),
    }
}

impl Work {
    /// Returns the work in `root`, which may be there or not.
    pub(super) fn at(root: &Path) -> Self {
        Self { root: root.to_owned(), folder: root.join(FOLDER).join("pending") }
    }

    /// Returns true if a write has begun and not ended. Its first step creates the program's own
    /// directory, and its last step empties it.
    pub(super) fn is_there(&self) -> bool {
        let own = self.root.join(FOLDER);
        let is_empty = || fs::read_dir(&own).is_ok_and(|mut entries| entries.next().is_none());
        fs::symlink_metadata(&self.folder).is_ok()
            || fs::symlink_metadata(&own).is_ok_and(|metadata| metadata.is_dir() && is_empty())
    }

    /// Returns the staging directory of new files.
    pub(super) fn new_files(&self) -> PathBuf {
        self.folder.join("new")
    }

    fn old_files(&self) -> PathBuf {
        self.folder.join("old")
    }

    fn journal(&self) -> PathBuf {
        self.folder.join("journal.json")
    }

    /// Returns the journal's name when all is done.
    fn done(&self) -> PathBuf {
        self.folder.join("done.json")
    }

    /// Makes the folders. Nothing of an earlier write may be there.
    pub(super) fn begin(&self) -> Result<(), WriteError> {
        for folder in [self.new_files(), self.old_files()] {
            fs::create_dir_all(&folder).map_err(WriteError::io("make the folder", folder))?;
        }
        Ok(())
    }

    /// Writes the journal: every staged file is moved into place, and files to remove are removed.
    pub(super) fn plan(&self, staging: &Staging) -> Result<Journal, WriteError> {
        let mut wanted: BTreeSet<&str> = BTreeSet::new();
        for path in &staging.files {
            wanted.extend(path.match_indices('/').map(|(at, _)| &path[..at]));
        }
        wanted.extend(staging.folders.iter().map(String::as_str));
        let missing = wanted.into_iter().filter(|folder| !self.root.join(folder).exists());
        let folders = missing.map(str::to_owned).collect();
        let mut steps = Vec::with_capacity(staging.files.len() + staging.removed.len());
        for path in &staging.removed {
            steps.push(Move { path: path.clone(), was: trait_of(&self.root.join(path))?, new: None });
        }
        for path in &staging.files {
            let staged = self.new_files().join(path);
            let new = trait_of(&staged)?.ok_or(WriteError::Changed(staged))?;
            steps.push(Move { path: path.clone(), was: trait_of(&self.root.join(path))?, new: Some(new) });
        }
        let expected: BTreeMap<&str, Option<String>> = staging
            .expected
            .iter()
            .map(|(path, digest)| (path.as_str(), digest.map(|digest| digest.to_string())))
            .collect();
        for step in &steps {
            // A file that changed since the inspection is not overwritten.
            match expected.get(step.path.as_str()) {
                Some(expected) if *expected == step.was => {}
                Some(None) => return Err(WriteError::Appeared(self.root.join(&step.path))),
                Some(Some(_)) => return Err(WriteError::Changed(self.root.join(&step.path))),
                None => {}
            }
        }
        let journal = Journal { format: FORMAT, folders, steps };
        let text = serde_json::to_vec(&journal)
            .map_err(|error| WriteError::io("write", self.journal())(error.into()))?;
        // The name appears when the text is on disk.
        let draft = self.folder.join("journal.draft");
        let written = fs::File::create_new(&draft).and_then(|mut file| {
            file.write_all(&text)?;
            file.sync_all()?;
            fs::rename(&draft, self.journal())?;
            sync_folder(&self.folder)
        });
        written.map_err(WriteError::io("write", self.journal()))?;
        Ok(journal)
    }

    /// Performs the steps of the journal; calls `is_cancelled` before each.
    pub(super) fn commit(
        &self,
        journal: &Journal,
        is_cancelled: &dyn Fn() -> bool,
    ) -> Result<(), WriteError> {
        tracing::debug!(moves = journal.steps.len(), "commit");
        for folder in &journal.folders {
            let path = self.root.join(folder);
            match fs::create_dir(&path) {
                Err(error) if error.kind() == ErrorKind::AlreadyExists && path.is_dir() => {}
                other => other.map_err(WriteError::io("make the folder", path))?,
            }
        }
        for step in &journal.steps {
            if is_cancelled() {
                return Err(WriteError::Cancelled);
            }
            self.take(step)?;
        }
        fs::rename(self.journal(), self.done()).map_err(WriteError::io("write", self.done()))?;
        self.drop_emptied(journal);
        Ok(())
    }

    /// Removes the folders in which nothing is left, now that files of theirs are gone.
    pub(super) fn drop_emptied(&self, journal: &Journal) {
        for step in journal.steps.iter().filter(|step| step.new.is_none()) {
            // Innermost first; the first one that holds something else ends it.
            let mut folders = step.path.rmatch_indices('/').map(|(at, _)| &step.path[..at]);
            let stopped = folders.try_for_each(|folder| fs::remove_dir(self.root.join(folder)));
            tracing::trace!(?stopped, "removed emptied folders");
        }
    }

    fn take(&self, step: &Move) -> Result<(), WriteError> {
        let (staged, target) = (self.new_files().join(&step.path), self.root.join(&step.path));
        if step.was.is_none() {
            if step.new.is_none() {
                return Ok(());
            }
            return rename_new(&staged, &target).map_err(|error| match error.kind() {
                ErrorKind::AlreadyExists => WriteError::Appeared(target),
                _ => WriteError::io("write", target)(error),
            });
        }
        let old = self.old_files().join(&step.path);
        if let Some(folder) = old.parent() {
            fs::create_dir_all(folder).map_err(WriteError::io("make the folder", folder))?;
        }
        back_up(&target, &old).map_err(WriteError::io("make a copy of", &target))?;
        // Replaces only the inspected file, not one that was written since.
        if trait_of(&old)? != step.was {
            return Err(WriteError::Changed(target));
        }
        match step.new {
            Some(_) => fs::rename(&staged, &target).map_err(WriteError::io("write", target)),
            None => fs::remove_file(&target).map_err(WriteError::io("remove", target)),
        }
    }

    /// Undoes the steps. Returns the paths that another program changed meanwhile, which stay; the
    /// earlier file is then put beside it.
    pub(super) fn undo(&self, journal: &Journal) -> Result<Vec<String>, WriteError> {
        let mut left = Vec::new();
        for step in journal.steps.iter().rev() {
            let (staged, target) = (self.new_files().join(&step.path), self.root.join(&step.path));
            if fs::symlink_metadata(&staged).is_ok() {
                // This step was not reached.
                continue;
            }
            let now = trait_of(&target)?;
            let old = self.old_files().join(&step.path);
            let has_old = fs::symlink_metadata(&old).is_ok();
            if now == step.was {
            } else if now.is_some() && now != step.new {
                if has_old {
                    let beside = self.root.join(format!("{}.before-cast", step.path));
                    rename_new(&old, &beside).map_err(WriteError::io("write", beside))?;
                }
                left.push(step.path.clone());
            } else if has_old {
                fs::rename(&old, &target).map_err(WriteError::io("write", target))?;
            } else if step.was.is_none() {
                fs::remove_file(&target).map_err(WriteError::io("remove", target))?;
            }
        }
        for folder in journal.folders.iter().rev() {
            if let Err(error) = fs::remove_dir(self.root.join(folder)) {
                tracing::debug!(folder, %error, "the folder stays");
            }
        }
        Ok(left)
    }

    /// Removes the work, and the program's own folder if nothing else is in it.
    pub(super) fn clear(&self) -> Result<(), WriteError> {
        match fs::remove_dir_all(&self.folder) {
            Err(error) if error.kind() == ErrorKind::NotFound => {}
            other => other.map_err(WriteError::io("remove", &self.folder))?,
        }
        if let Err(error) = fs::remove_dir(self.root.join(FOLDER)) {
            tracing::trace!(%error, "the folder of the record stays");
        }
        Ok(())
    }

    /// Returns the state that an interrupted write left.
    ///
    /// # Errors
    /// Its journal is damaged, or names what no cast would.
    pub(super) fn left_behind(&self) -> Result<Left, WriteError> {
        if let Some(journal) = self.read(self.journal())? {
            return Ok(Left::Half(journal));
        }
        Ok(self.read(self.done())?.map_or(Left::Nothing, Left::Whole))
    }

    /// Returns the journal at `path`; none if there is none.
    fn read(&self, path: PathBuf) -> Result<Option<Journal>, WriteError> {
        let damaged =
            |reason: String| WriteError::Record(RecordError::Damaged { path: path.clone(), reason });
        let bytes = match fs::read(&path) {
            Ok(bytes) => bytes,
            Err(error) if error.kind() == ErrorKind::NotFound => return Ok(None),
            Err(error) => return Err(WriteError::io("read", &path)(error)),
        };
        let journal: Journal = serde_json::from_slice(&bytes).map_err(|error| damaged(error.to_string()))?;
        if journal.format != FORMAT {
            return Err(damaged(format!("its form is {}, and this program knows {FORMAT}", journal.format)));
        }
        // A journal may come with a cloned project: it is untrusted and can do nothing that a cast
        // could not.
        for path in journal.steps.iter().map(|step| &step.path).chain(&journal.folders) {
            let own =
                path == FOLDER || path.strip_prefix(".tinmold/").is_some_and(|name| !name.contains('/'));
            if !own {
                portable_path(path).map_err(|reason| damaged(format!("{path:?} {reason}")))?;
            }
            if leads_elsewhere(&self.root, path) {
                return Err(damaged(format!("{path:?} leads through a link")));
            }
        }
        Ok(Some(journal))
    }
}

/// Keeps what is at `path` at `old` too.
fn back_up(path: &Path, old: &Path) -> std::io::Result<()> {
    if fs::hard_link(path, old).is_ok() {
        return Ok(());
    }
    // Some file systems have no second names.
    match fs::read_link(path) {
        #[cfg(unix)]
        Ok(target) => std::os::unix::fs::symlink(target, old),
        #[cfg(not(unix))]
        Ok(_) => Err(ErrorKind::Unsupported.into()),
        Err(_) => fs::copy(path, old).map(drop),
    }
}

#[cfg(unix)]
fn sync_folder(folder: &Path) -> std::io::Result<()> {
    fs::File::open(folder)?.sync_all()
}

#[cfg(not(unix))]
fn sync_folder(_: &Path) -> std::io::Result<()> {
    Ok(())
}
