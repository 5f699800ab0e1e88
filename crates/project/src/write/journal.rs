//! Changes to an existing directory that can be undone after a kill.
//!
//! New files are staged in a directory of the project's `.tinmold`. Each step is one rename; a replaced
//! file gets a second name in the staging directory first. The steps are in a journal before the first
//! file moves. Every path is looked up beneath the project's directory and follows no link.

use super::error::WriteError;
use super::journals::{Begin, Journal, Journals, Move, Moves, WriteKind};
use super::names::{candidates, random_name};
use super::staging::Staging;
use crate::record::FOLDER;
use std::collections::{BTreeMap, BTreeSet};
use std::io::{ErrorKind, Result as IoResult, copy};
use tinmold_platform::paths::{is_beneath, moved, parent_of};
use tinmold_platform::read_dir::EntryKind;
use tinmold_platform::root_dir::{Identity, RootDir};

/// A write to an existing directory.
pub(super) struct Work<'r> {
    /// The directory.
    root: &'r RootDir,
    /// The path of the staging directory in it.
    stage: String,
    /// What identifies the staging directory, once it is noted.
    identity: Option<Identity>,
    /// True if the write makes the program's own directory in the project.
    makes_own: bool,
}

/// Returns what identifies the content of a file or link: its digest or its target; `None` if it does not
/// exist.
fn content_of(root: &RootDir, path: &str) -> Result<Option<String>, WriteError> {
    let found = || -> IoResult<Option<String>> {
        Ok(match root.find(path)?.map(|found| found.kind) {
            None => None,
            Some(EntryKind::Link) => Some(format!("link {}", root.read_link(path)?.display())),
            Some(EntryKind::File) => Some(root.digest(path)?.to_string()),
            Some(_) => Some("something else".into()),
        })
    };
    found().map_err(WriteError::at("read", root, path))
}

impl<'r> Work<'r> {
    /// Returns the work that a journal is about.
    pub(super) fn of(begin: &Begin, identity: Option<Identity>, root: &'r RootDir) -> Self {
        Self { root, stage: begin.stage.clone(), identity, makes_own: begin.makes_own }
    }

    /// Begins a write: its journal, and its staging directory.
    pub(super) fn begin(root: &'r RootDir, journals: &Journals) -> Result<(Self, Journal), WriteError> {
        let stage =
            format!("{FOLDER}/stage-{}", random_name().map_err(WriteError::io("write in", root.path()))?);
        let own = root.find(FOLDER).map_err(WriteError::at("look at", root, FOLDER))?;
        match own.map(|own| own.kind) {
            Some(EntryKind::Link) => return Err(WriteError::BehindLinks(vec![FOLDER.into()])),
            None | Some(EntryKind::Directory) => {}
            Some(_) => return Err(WriteError::own_path_taken(FOLDER)),
        }
        let mut work = Self { root, stage, identity: None, makes_own: own.is_none() };
        let begun = journals.begin(WriteKind::Existing, root, &work.stage, work.makes_own);
        let mut journal = begun.map_err(WriteError::State)?;
        let noted = work.make_stage().and_then(|identity| {
            work.identity = Some(identity);
            journal.staged(identity).map_err(WriteError::State)
        });
        match noted {
            Ok(()) => Ok((work, journal)),
            Err(error) => {
                // Nothing was moved: what was made is removed again.
                if let Err(error) = work.clear().and_then(|()| journal.end()) {
                    tracing::warn!(%error, "cannot remove the staging directory");
                }
                Err(error)
            }
        }
    }

    fn make_stage(&self) -> Result<Identity, WriteError> {
        let make = |path: &str, mode| {
            self.root.make_directory(path, mode).map_err(WriteError::at("make the folder", self.root, path))
        };
        if self.makes_own {
            make(FOLDER, 0o777)?;
        }
        make(&self.stage, 0o700)?;
        for inside in ["new", "old"] {
            make(&format!("{}/{inside}", self.stage), 0o700)?;
        }
        let found = self.root.find(&self.stage).map_err(WriteError::at("look at", self.root, &self.stage))?;
        found
            .map(|found| found.identity)
            .ok_or_else(|| WriteError::Changed(self.root.path().join(&self.stage)))
    }

    /// Opens the staging directory of new files.
    pub(super) fn new_files(&self) -> Result<RootDir, WriteError> {
        let path = format!("{}/new", self.stage);
        self.root.subdirectory(&path).map_err(WriteError::at("open", self.root, &path))
    }

    fn new_path(&self, path: &str) -> String {
        format!("{}/new/{path}", self.stage)
    }

    fn old_path(&self, path: &str) -> String {
        format!("{}/old/{path}", self.stage)
    }

    /// Plans the moves: every staged file is moved into place, and files to remove are removed.
    pub(super) fn plan(&self, staging: &Staging) -> Result<Moves, WriteError> {
        let root = self.root;
        let mut wanted: BTreeSet<&str> = BTreeSet::new();
        let renamed = staging.renames.iter().map(|(_, to)| to);
        for path in staging.files.iter().chain(renamed) {
            wanted.extend(path.match_indices('/').map(|(at, _)| &path[..at]));
        }
        wanted.extend(staging.folders.iter().map(String::as_str));
        let mut folders = Vec::new();
        for folder in wanted {
            let is_there = root.find(folder).map_err(WriteError::at("look at", root, folder))?.is_some();
            if !is_there && !staging.renames.iter().any(|(_, to)| folder == to || is_beneath(folder, to)) {
                folders.push(folder.to_owned());
            }
        }
        // Where it is before the renames.
        let back = || staging.renames.iter().map(|(from, to)| (to.as_str(), from.as_str()));
        let was = |path: &str| content_of(root, &moved(path, back()));
        let mut steps = Vec::with_capacity(staging.files.len() + staging.removed.len());
        for path in &staging.removed {
            steps.push(Move { path: path.clone(), was: was(path)?, new: None });
        }
        for path in &staging.files {
            let staged = self.new_path(path);
            let new =
                content_of(root, &staged)?.ok_or_else(|| WriteError::Changed(root.path().join(&staged)))?;
            steps.push(Move { path: path.clone(), was: was(path)?, new: Some(new) });
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
                Some(None) => return Err(WriteError::Appeared(root.path().join(&step.path))),
                Some(Some(_)) => return Err(WriteError::Changed(root.path().join(&step.path))),
                None => {}
            }
        }
        Ok(Moves { renames: staging.renames.clone(), folders, steps })
    }

    /// Performs the moves; calls `is_cancelled` before each.
    pub(super) fn commit(&self, moves: &Moves, is_cancelled: &dyn Fn() -> bool) -> Result<(), WriteError> {
        tracing::debug!(moves = moves.steps.len(), "commit");
        for folder in &moves.folders {
            self.root.make_directories(folder).map_err(WriteError::at(
                "make the folder",
                self.root,
                folder,
            ))?;
        }
        for (from, to) in &moves.renames {
            self.root.rename_new(from, to).map_err(|error| match error.kind() {
                ErrorKind::AlreadyExists => WriteError::Appeared(self.root.path().join(to)),
                _ => WriteError::at("move", self.root, from)(error),
            })?;
        }
        for step in &moves.steps {
            if is_cancelled() {
                return Err(WriteError::Cancelled);
            }
            self.take(step)?;
        }
        Ok(())
    }

    /// Removes the folders in which nothing is left, now that files of theirs are gone.
    pub(super) fn drop_emptied(&self, moves: &Moves) {
        let removed = moves.steps.iter().filter(|step| step.new.is_none()).map(|step| &step.path);
        for path in removed.chain(moves.renames.iter().map(|(from, _)| from)) {
            // Innermost first; the first one that holds something else ends it.
            let mut folders = path.rmatch_indices('/').map(|(at, _)| &path[..at]);
            let stopped = folders.try_for_each(|folder| self.root.remove_directory(folder));
            tracing::trace!(?stopped, "removed emptied folders");
        }
    }

    fn take(&self, step: &Move) -> Result<(), WriteError> {
        let (root, path) = (self.root, step.path.as_str());
        let staged = self.new_path(path);
        if step.was.is_none() {
            if step.new.is_none() {
                return Ok(());
            }
            return root.rename_new(&staged, path).map_err(|error| match error.kind() {
                ErrorKind::AlreadyExists => WriteError::Appeared(root.path().join(path)),
                _ => WriteError::at("write", root, path)(error),
            });
        }
        let old = self.old_path(path);
        root.make_directories(parent_of(&old)).map_err(WriteError::at("make a copy of", root, path))?;
        back_up(root, path, &old).map_err(WriteError::at("make a copy of", root, path))?;
        // Replaces only the inspected file, not one that was written since.
        if content_of(root, &old)? != step.was {
            return Err(WriteError::Changed(root.path().join(path)));
        }
        match step.new {
            Some(_) => root.rename(&staged, path).map_err(WriteError::at("write", root, path)),
            None => root.remove_file(path).map_err(WriteError::at("remove", root, path)),
        }
    }

    /// Returns the paths that an undo would change: what it restores, and what it removes.
    pub(super) fn undo_changes(&self, moves: &Moves) -> Result<Vec<String>, WriteError> {
        let mut paths: Vec<String> = Vec::new();
        for (from, to) in &moves.renames {
            if !self.is_renamed(from, to)? {
                return Ok(paths);
            }
            paths.push(to.clone());
        }
        for step in &moves.steps {
            let is_reached =
                step.new.is_none() || content_of(self.root, &self.new_path(&step.path))?.is_none();
            if is_reached && content_of(self.root, &step.path)? != step.was {
                paths.push(step.path.clone());
            }
        }
        Ok(paths)
    }

    /// Undoes the moves. Returns the paths that another program changed meanwhile, which stay, each with
    /// the name that the earlier file got beside it.
    pub(super) fn undo(&self, moves: &Moves) -> Result<Vec<(String, Option<String>)>, WriteError> {
        let root = self.root;
        let mut left = Vec::new();
        for (from, to) in &moves.renames {
            // No step was reached before the last of them.
            if !self.is_renamed(from, to)? {
                self.undo_renames(moves, &mut left)?;
                return Ok(left);
            }
        }
        for step in moves.steps.iter().rev() {
            let (staged, path) = (self.new_path(&step.path), step.path.as_str());
            if step.new.is_some() && content_of(root, &staged)?.is_some() {
                // This step was not reached.
                continue;
            }
            let now = content_of(root, path)?;
            let old = self.old_path(path);
            // Only a copy that the journal lists is put back.
            let has_old = step.was.is_some() && content_of(root, &old)? == step.was;
            // The same content may have other permissions.
            if now == step.was && !(step.new == step.was && has_old) {
                continue;
            }
            if now.is_some() && now != step.new {
                let beside = if has_old { Some(put_beside(root, &old, path)?) } else { None };
                left.push((step.path.clone(), beside));
            } else if has_old {
                root.make_directories(parent_of(path)).map_err(WriteError::at("write", root, path))?;
                root.rename(&old, path).map_err(WriteError::at("write", root, path))?;
            } else if step.was.is_none() {
                root.remove_file(path).map_err(WriteError::at("remove", root, path))?;
            } else {
                left.push((step.path.clone(), None));
            }
        }
        self.undo_renames(moves, &mut left)?;
        Ok(left)
    }

    /// Returns true if a rename was made.
    fn is_renamed(&self, from: &str, to: &str) -> Result<bool, WriteError> {
        let is_there = |path: &str| {
            self.root
                .find(path)
                .map(|found| found.is_some())
                .map_err(WriteError::at("look at", self.root, path))
        };
        Ok(is_there(to)? && !is_there(from)?)
    }

    /// Undoes the renames that were made, and removes the folders that were made for the write.
    fn undo_renames(
        &self,
        moves: &Moves,
        left: &mut Vec<(String, Option<String>)>,
    ) -> Result<(), WriteError> {
        let root = self.root;
        for (from, to) in moves.renames.iter().rev() {
            if !self.is_renamed(from, to)? {
                continue;
            }
            root.make_directories(parent_of(from)).map_err(WriteError::at("write", root, from))?;
            match root.rename_new(to, from) {
                Ok(()) => {}
                Err(error) if error.kind() == ErrorKind::AlreadyExists => left.push((from.clone(), None)),
                Err(error) => return Err(WriteError::at("move", root, to)(error)),
            }
        }
        for folder in moves.folders.iter().rev() {
            if let Err(error) = root.remove_directory(folder) {
                tracing::debug!(folder, %error, "the folder stays");
            }
        }
        Ok(())
    }

    /// Removes the staging directory if it is still the same one, and the program's own folder if the
    /// write made it and nothing else is in it.
    pub(super) fn clear(&self) -> Result<(), WriteError> {
        let failed = |path: &str| WriteError::at("remove", self.root, path);
        match self.root.find(&self.stage).map_err(failed(&self.stage))? {
            Some(found) if Some(found.identity) == self.identity => {
                self.root.remove_tree(&self.stage).map_err(failed(&self.stage))?;
            }
            // The program was killed before it noted the directory: it is empty then.
            Some(_) => {
                for path in [format!("{}/new", self.stage), format!("{}/old", self.stage), self.stage.clone()]
                {
                    if let Err(error) = self.root.remove_directory(&path) {
                        tracing::debug!(path, %error, "the folder stays");
                    }
                }
            }
            None => {}
        }
        if self.makes_own
            && let Err(error) = self.root.remove_directory(FOLDER)
        {
            tracing::trace!(%error, "the folder of the record stays");
        }
        Ok(())
    }
}

/// Puts the earlier file beside one that changed, under a name where nothing is.
fn put_beside(root: &RootDir, old: &str, path: &str) -> Result<String, WriteError> {
    let mut names = candidates(path, ".before-cast");
    loop {
        let beside = names.next().unwrap_or_default();
        match root.rename_new(old, &beside) {
            Err(error) if error.kind() == ErrorKind::AlreadyExists => {}
            Err(error) => return Err(WriteError::at("write", root, &beside)(error)),
            Ok(()) => return Ok(beside),
        }
    }
}

/// Keeps what is at `path` at `old` too.
fn back_up(root: &RootDir, path: &str, old: &str) -> IoResult<()> {
    if root.hard_link(path, old).is_ok() {
        return Ok(());
    }
    // Some file systems have no second names.
    match root.find(path)? {
        Some(found) if found.kind == EntryKind::Link => {
            let target = root.read_link(path)?;
            root.make_link(target.to_str().ok_or(ErrorKind::InvalidFilename)?, old)
        }
        found => {
            let mode = found.map_or(0o600, |found| found.mode);
            copy(&mut root.open_file(path)?, &mut root.create(old, mode)?).map(drop)
        }
    }
}
