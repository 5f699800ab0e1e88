//! Recovers from interrupted writes, by the journals of the user's state directory and nothing else.

use super::error::WriteError;
use super::journal::Work;
use super::journals::{Journals, Left, WriteKind, user};
use super::lock::Lock;
use std::path::{Path, PathBuf};
use tinmold_platform::root_dir::RootDir;

/// What was recovered.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Recovered {
    /// A write into this directory was interrupted, and was undone. The paths are those that changed
    /// since: they stay, each with the name of the earlier file beside it, if there was one.
    Undone(PathBuf, Vec<(String, Option<String>)>),
    /// A write into this folder was complete, and only its own folder was left.
    Finished(PathBuf),
    /// Something staged beside a destination that it never came to.
    Swept(PathBuf),
}

/// An interrupted write that is left alone until the user says so.
#[derive(Debug, thiserror::Error)]
pub enum Unrecovered {
    /// The directory was moved, or is another one now.
    #[error("{root} was moved or replaced since a write into it was interrupted")]
    Moved {
        /// Where the directory was.
        root: PathBuf,
    },
    /// The directory or the journal belongs to another user.
    #[error("{root}, a write into which was interrupted, belongs to another user")]
    OtherUser {
        /// The directory.
        root: PathBuf,
    },
    /// The recovery failed.
    #[error("cannot recover {root} from an interrupted write: {error}")]
    Failed {
        /// The directory.
        root: PathBuf,
        /// Why.
        error: Box<WriteError>,
    },
}

/// A recovery that the user is asked about.
pub struct Pending {
    left: Left,
    root: RootDir,
    /// The directory that it changes.
    pub folder: PathBuf,
    /// Where the directory was when the write began.
    pub was: PathBuf,
    /// The paths that it changes; empty if only the staging directory is removed.
    pub paths: Vec<String>,
}

/// Recovers the writes into the directories `near` (and those staged in them) that did not end and are
/// no longer at work.
#[must_use]
pub fn recover(journals: &Journals, near: &[&Path]) -> (Vec<Recovered>, Vec<Unrecovered>) {
    let (mut recovered, mut unrecovered) = (Vec::new(), Vec::new());
    let all = journals.left();
    if all.is_empty() {
        return (recovered, unrecovered);
    }
    let near: Vec<(PathBuf, RootDir)> = near
        .iter()
        .filter_map(|path| path.canonicalize().ok())
        .filter_map(|path| Some((path.clone(), RootDir::open(&path).ok()?)))
        .collect();
    for left in all {
        let was = PathBuf::from(&left.begin.root);
        let at_path = near.iter().find(|(path, _)| *path == was);
        let is_same = |root: &RootDir| root.itself().is_ok_and(|found| found.identity == left.begin.identity);
        let moved = near.iter().any(|(_, root)| is_same(root));
        let Some((_, root)) = at_path.filter(|(_, root)| is_same(root)) else {
            if moved || at_path.is_some() {
                unrecovered.push(Unrecovered::Moved { root: was });
            }
            continue;
        };
        let owner = root.itself().map_or(left.owner, |found| found.owner);
        let is_staged = left.begin.kind != WriteKind::Existing;
        if left.owner != user() || (owner != user() && !is_staged) {
            unrecovered.push(Unrecovered::OtherUser { root: was });
            continue;
        }
        match recover_one(left, root) {
            Ok(one) => recovered.extend(one),
            Err(WriteError::Busy(_)) => {}
            Err(error) => unrecovered.push(Unrecovered::Failed { root: was, error: Box::new(error) }),
        }
    }
    (recovered, unrecovered)
}

/// Returns every interrupted write that can be recovered at `here`, or where it began.
#[must_use]
pub fn pending(journals: &Journals, here: &Path) -> Vec<Pending> {
    let here = here.canonicalize().ok();
    let all = journals.left().into_iter().filter_map(|left| {
        let was = PathBuf::from(&left.begin.root);
        let is_it = |root: &RootDir| {
            root.itself().is_ok_and(|found| found.identity == left.begin.identity)
                || root.find(&left.begin.stage).is_ok_and(|found| found.is_some())
        };
        let above = here.iter().flat_map(|here| here.ancestors());
        let places = std::iter::once(was.as_path()).chain(above);
        let root = places.filter_map(|place| RootDir::open(place).ok()).find(is_it)?;
        let paths = match &left.moves {
            Some(moves) if !left.is_done => {
                Work::of(&left.begin, left.staged, &root).undo_changes(moves).ok()?
            }
            _ => Vec::new(),
        };
        Some(Pending { folder: root.path().to_owned(), was, paths, left, root })
    });
    all.collect()
}

impl Pending {
    /// Recovers.
    ///
    /// # Errors
    /// What the system refuses.
    pub fn recover(self) -> Result<Option<Recovered>, WriteError> {
        recover_one(self.left, &self.root)
    }
}

fn recover_one(left: Left, root: &RootDir) -> Result<Option<Recovered>, WriteError> {
    let folder = root.path().to_owned();
    let stage = left.begin.stage.clone();
    tracing::info!(folder = %folder.display(), stage, "recovering from an interrupted write");
    if left.begin.kind != WriteKind::Existing {
        let found = root.find(&stage).map_err(WriteError::at("look at", root, &stage))?;
        let swept = folder.join(&stage);
        let removed = match found {
            Some(found) if Some(found.identity) == left.staged => match left.begin.kind {
                WriteKind::Archive => root.remove_file(&stage).map(|()| true),
                _ => root.remove_tree(&stage).map(|()| true),
            },
            // The program was killed before it noted what it had made.
            Some(_) => Ok(root.remove_directory(&stage).is_ok()),
            None => Ok(false),
        };
        let removed = removed.map_err(WriteError::at("remove", root, &stage))?;
        left.end()?;
        return Ok(removed.then_some(Recovered::Swept(swept)));
    }
    let _lock = Lock::of(&folder)?;
    let work = Work::of(&left.begin, left.staged, root);
    let recovered = match &left.moves {
        Some(moves) if left.is_done => {
            work.drop_emptied(moves);
            Recovered::Finished(folder)
        }
        Some(moves) => Recovered::Undone(folder, work.undo(moves)?),
        None => Recovered::Finished(folder),
    };
    work.clear()?;
    left.end()?;
    Ok(Some(recovered))
}
