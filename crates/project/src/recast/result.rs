//! A planned recast: what becomes of each file, and of the record.

use super::decision::{Decision, Note};
use super::tree::Print;
use crate::record::Recorded;

/// What becomes of a file.
#[derive(Clone, Debug, PartialEq)]
pub struct FileRecast {
    /// Its path afterwards; of a file that goes, the path that it had.
    pub path: String,
    /// The path that it had, if it moves.
    pub from: Option<String>,
    /// What happens to it.
    pub kind: FileChange,
    /// What is there now, at the path that it had; with its permission bits if it is a file.
    pub was: Option<(Print, u32)>,
    /// The text that is there now, if it is one.
    pub before: Option<String>,
    /// What is written; `None` if the file goes, or only its path changes.
    pub after: Option<Written>,
}

impl FileRecast {
    /// Returns a file that is written where nothing is.
    pub(super) fn new(path: String, after: Written) -> Self {
        Self { path, from: None, kind: FileChange::New, was: None, before: None, after: Some(after) }
    }
}

/// What happens to a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum FileChange {
    /// It is new.
    New,
    /// It becomes as the mold has it.
    Replaced,
    /// Changes of both sides are in it.
    Merged,
    /// Only its path or its permissions change.
    Moved,
    /// It goes.
    Removed,
}

/// What is written to a path.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Written {
    /// A file with these bytes and permission bits.
    File(Vec<u8>, u32),
    /// A link to this target.
    Link(String),
}

/// A planned recast.
#[derive(Debug)]
pub struct Recast {
    /// What becomes of each file, by path.
    pub files: Vec<FileRecast>,
    /// What moves with a folder that it is in: from where, and to where.
    pub moves: Vec<(String, String)>,
    /// Folders that are made, with nothing in them.
    pub folders: Vec<String>,
    /// What nobody has decided.
    pub decisions: Vec<Decision>,
    /// What is to be known besides.
    pub notes: Vec<Note>,
    /// The record afterwards.
    pub record: Recorded,
    /// The record as it is.
    pub(super) before: Recorded,
}

impl Recast {
    /// Returns true if nothing changes, and nothing is to be decided.
    #[must_use]
    pub fn is_nothing(&self) -> bool {
        self.decisions.is_empty() && self.changes_nothing() && self.is_recorded()
    }

    /// Returns true if no file and no folder changes.
    #[must_use]
    pub fn changes_nothing(&self) -> bool {
        self.files.is_empty() && self.moves.is_empty() && self.folders.is_empty()
    }

    fn is_recorded(&self) -> bool {
        self.record.casting == self.before.casting && self.record.digests == self.before.digests
    }
}
