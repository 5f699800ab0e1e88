//! Taking the last fit back, as long as its files are as it left them.

use super::error::{LARGEST, UnsafePath};
use super::splice;
use super::write::stage_change;
use crate::record::{CASTING, DIGESTS, Fitted, Recorded};
use crate::write::{Change, Journals, LockedFolder, Observer, Staging, WriteError, stage_record};
use std::collections::BTreeMap;
use tinmold_platform::digest::digest_of;
use tinmold_platform::paths::portable_path;
use tinmold_platform::read_dir::EntryKind;
use tinmold_platform::root_dir::{ReadError, RootDir, is_link_on_the_way};

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
    /// The project cannot be opened.
    #[error("cannot open the project: {0}")]
    Io(std::io::Error),
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
        let mut otherwise = Vec::new();
        let root = RootDir::open_through_links(&recorded.root).map_err(UndoError::Io)?;
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
        changes.iter().for_each(|change| change.enter(&mut recorded.digests));
        Ok(Self { part, removed, changes, recorded })
    }

    /// Does it.
    ///
    /// # Errors
    /// What changed meanwhile, and what the system refuses. The project is then as it was.
    pub fn write(self, journals: &Journals, observer: &dyn Observer) -> Result<(), WriteError> {
        let Self { part, removed, changes, recorded } = self;
        let locked = LockedFolder::lock(&recorded.root)?;
        let root = locked.root();
        for (path, was) in part.files.iter().filter(|(path, _)| removed.contains(path)) {
            if !as_left(root, path, was).is_ok_and(|as_left| as_left) {
                return Err(WriteError::Changed(root.path().join(path)));
            }
        }
        locked.apply(journals, observer, |new_files| {
            for change in &changes {
                stage_change(change, root, new_files)?;
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

/// Returns true if a file or link is as the fit left it; false if it does not exist.
fn as_left(root: &RootDir, path: &str, was: &str) -> Result<bool, UndoProblem> {
    // The path is of a record, which is untrusted.
    portable_path(path).map_err(UnsafePath::from)?;
    let found = match root.find(path) {
        Err(error) if is_link_on_the_way(&error) => return Err(UnsafePath::BehindLink.into()),
        found => found?,
    };
    let is_same = match found.map(|found| found.kind) {
        None => return Ok(false),
        Some(EntryKind::Link) => {
            root.read_link(path).is_ok_and(|target| format!("link {}", target.display()) == was)
        }
        Some(EntryKind::File) => root.digest(path).is_ok_and(|now| now.to_string() == was),
        Some(_) => false,
    };
    if is_same { Ok(true) } else { Err(UndoProblem::Changed) }
}

fn text(root: &RootDir, path: &str) -> Result<String, UndoProblem> {
    portable_path(path).map_err(UnsafePath::from)?;
    match root.read(path, LARGEST) {
        Ok(bytes) => Ok(std::io::read_to_string(bytes.as_slice())?),
        Err(ReadError::Absent) => Err(UndoProblem::Gone),
        Err(ReadError::NotAFile) => Err(UndoProblem::NotAFile),
        // A fit changes no file of this size.
        Err(ReadError::TooLarge) => Err(UndoProblem::Changed),
        Err(ReadError::BehindLink) => Err(UnsafePath::BehindLink.into()),
        Err(ReadError::Io(error)) => Err(error.into()),
    }
}
