//! Taking the last fit back, as long as its files are as it left them.

use super::error::UnsafePath;
use super::fitting::Change;
use super::splice;
use super::write::stage_change;
use crate::record::{CASTING, DIGESTS, Fitted, Recorded, leads_elsewhere};
use crate::write::{LockedFolder, Observer, Staging, WriteError, stage_record};
use std::collections::BTreeMap;
use std::fs;
use std::path::Path;
use tinmold_platform::digest::{digest_of, digest_of_file};
use tinmold_platform::paths::portable_path;

/// A planned undo of the last fit.
#[derive(Debug)]
pub struct Undo {
    /// The part.
    pub part: Fitted,
    /// The files and links that go.
    pub removed: Vec<String>,
    /// The files that become again what they were.
    pub changes: Vec<Change>,
    recorded: Recorded,
}

/// Why the last fit cannot be undone.
#[derive(Debug, thiserror::Error)]
pub enum UndoError {
    /// There is none.
    #[error("no part was fitted into {0}")]
    Nothing(String),
    /// Its files are not as it left them: path and problem.
    #[error("cannot undo the last fit, {part}: its files are not as it left them")]
    NotAsFitted {
        /// The part.
        part: String,
        /// The files.
        files: Vec<(String, UndoProblem)>,
    },
}

/// Why a file keeps a fit from being undone. Displayed as a clause that follows the path.
#[derive(Debug, thiserror::Error)]
pub enum UndoProblem {
    /// The path may not be changed.
    #[error(transparent)]
    Unsafe(#[from] UnsafePath),
    /// The file cannot be read.
    #[error("cannot be read: {0}")]
    Io(#[from] std::io::Error),
    /// The file was changed since.
    #[error("was changed since")]
    Changed,
    /// The file was not text before.
    #[error("was not text before")]
    NotText,
    /// The file is gone.
    #[error("is gone")]
    Gone,
    /// It is not a file any more.
    #[error("is not a file any more")]
    NotAFile,
}

impl Undo {
    /// Plans the undo of the last fit of this project.
    ///
    /// # Errors
    /// There is none, or its files are not as it left them.
    pub fn of(recorded: &Recorded) -> Result<Self, UndoError> {
        let mut recorded = recorded.clone();
        let Some(part) = recorded.casting.part.pop() else {
            return Err(UndoError::Nothing(recorded.root.display().to_string()));
        };
        let (root, mut otherwise) = (recorded.root.clone(), Vec::new());
        let mut removed = Vec::new();
        for (path, was) in &part.files {
            match as_left(&root, path, was) {
                Ok(true) => removed.push(path.clone()),
                // A file that the user removed already needs no undo.
                Ok(false) => {}
                Err(why) => otherwise.push((path.clone(), why)),
            }
        }
        let mut texts: BTreeMap<String, (String, String)> = BTreeMap::new();
        for change in part.change.iter().rev() {
            let path = &change.path;
            if !texts.contains_key(path) {
                match text(&root, path) {
                    Ok(text) => drop(texts.insert(path.clone(), (text.clone(), text))),
                    Err(why) => {
                        otherwise.push((path.clone(), why));
                        continue;
                    }
                }
            }
            let Some((_, now)) = texts.get_mut(path) else { continue };
            let as_fitted = digest_of(now.as_bytes()).to_string() == change.now;
            let before = splice::made(now, &change.back)
                .filter(|before| as_fitted && digest_of(before.as_bytes()).to_string() == change.was);
            match before {
                Some(before) => *now = before,
                None if as_fitted => otherwise.push((path.clone(), UndoProblem::NotText)),
                None => otherwise.push((path.clone(), UndoProblem::Changed)),
            }
        }
        if !otherwise.is_empty() {
            return Err(UndoError::NotAsFitted { part: part.name, files: otherwise });
        }
        let changes: Vec<Change> =
            texts.into_iter().map(|(path, (before, after))| Change { path, before, after }).collect();
        let foreign = part.change.iter().filter(|change| change.foreign).map(|change| &change.path);
        for path in removed.iter().chain(foreign) {
            recorded.digests.remove(path);
            recorded.casting.links.remove(path);
        }
        for change in &changes {
            if let Some(digest) = recorded.digests.get_mut(&change.path)
                && *digest == digest_of(change.before.as_bytes())
            {
                *digest = digest_of(change.after.as_bytes());
            }
        }
        Ok(Self { part, removed, changes, recorded })
    }

    /// Does it.
    ///
    /// # Errors
    /// What changed meanwhile, and what the system refuses. The project is then as it was.
    pub fn write(self, observer: &dyn Observer) -> Result<(), WriteError> {
        let Self { part, removed, changes, recorded } = self;
        let root = recorded.root.clone();
        let locked = LockedFolder::lock(&root)?;
        for (path, was) in part.files.iter().filter(|(path, _)| removed.contains(path)) {
            if !as_left(&root, path, was).is_ok_and(|as_left| as_left) {
                return Err(WriteError::Changed(root.join(path)));
            }
        }
        locked.apply(observer, |new_files| {
            for change in &changes {
                stage_change(change, &root, new_files)?;
            }
            stage_record(&recorded.casting, |file| recorded.write_list(file), new_files)?;
            Ok(Staging {
                files: changes
                    .iter()
                    .map(|change| change.path.clone())
                    .chain([DIGESTS, CASTING].map(str::to_owned))
                    .collect(),
                removed: removed.clone(),
                expected: changes.iter().map(Change::expected).collect(),
                ..Staging::default()
            })
        })
    }
}

/// Returns true if a path of a record may be followed; a record is untrusted.
fn may_look(root: &Path, path: &str) -> Result<(), UndoProblem> {
    portable_path(path).map_err(UnsafePath::from)?;
    if leads_elsewhere(root, path) { Err(UnsafePath::BehindLink.into()) } else { Ok(()) }
}

/// Returns true if a file or link is as the fit left it; false if it does not exist.
fn as_left(root: &Path, path: &str, was: &str) -> Result<bool, UndoProblem> {
    may_look(root, path)?;
    let at = root.join(path);
    let changed = || Err(UndoProblem::Changed);
    match fs::symlink_metadata(&at) {
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => Ok(false),
        Err(error) => Err(error.into()),
        Ok(metadata) if metadata.is_symlink() => {
            let target = fs::read_link(&at).map(|target| format!("link {}", target.display()));
            if target.is_ok_and(|target| target == was) { Ok(true) } else { changed() }
        }
        Ok(metadata) if metadata.is_file() => {
            if digest_of_file(&at).is_ok_and(|now| now.to_string() == was) {
                Ok(true)
            } else {
                changed()
            }
        }
        Ok(_) => changed(),
    }
}

fn text(root: &Path, path: &str) -> Result<String, UndoProblem> {
    may_look(root, path)?;
    match fs::symlink_metadata(root.join(path)) {
        Ok(metadata) if metadata.is_file() => Ok(fs::read_to_string(root.join(path))?),
        Ok(_) => Err(UndoProblem::NotAFile),
        Err(_) => Err(UndoProblem::Gone),
    }
}
