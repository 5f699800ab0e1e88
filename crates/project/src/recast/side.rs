//! The three sides of a recast, and what is read of them.

use super::base::Base;
use super::decision::{Decision, Note, Wishes};
use super::disk::{LARGEST, Look, look, print_of, with_digest};
use super::error::RecastError;
use super::pairs::Pair;
use super::result::{FileChange, FileRecast, Written};
use super::tree::{Content, Node, Print, Tree};
use std::collections::{BTreeMap, BTreeSet};
use tinmold_platform::paths::moved;
use tinmold_platform::root_dir::RootDir;

/// The three sides.
pub(super) struct Side<'a, 'm> {
    pub(super) root: &'a RootDir,
    pub(super) base: &'a Base<'m>,
    pub(super) theirs: &'a Tree<'m>,
    pub(super) wishes: &'a Wishes,
    /// Files that were those of a part, and are the mold's own now.
    pub(super) of_part: BTreeSet<String>,
    /// True if the old version is there.
    pub(super) knows_old: bool,
    /// What moves with a folder.
    moves: Vec<(String, String)>,
    /// The paths of files that the mold calls otherwise now.
    pub(super) renamed: BTreeSet<String>,
}

impl<'a, 'm> Side<'a, 'm> {
    pub(super) fn new(
        root: &'a RootDir,
        base: &'a Base<'m>,
        theirs: &'a Tree<'m>,
        wishes: &'a Wishes,
        of_part: BTreeSet<String>,
        knows_old: bool,
    ) -> Self {
        Self { root, base, theirs, wishes, of_part, knows_old, moves: Vec::new(), renamed: BTreeSet::new() }
    }

    pub(super) fn with_moves(self, moves: &[(String, String)], renamed: BTreeSet<String>) -> Self {
        Self { moves: moves.to_vec(), renamed, ..self }
    }

    /// Returns the path that something has once folders have moved.
    pub(super) fn moved(&self, path: &str) -> String {
        moved(path, self.moves.iter().map(|(from, to)| (from.as_str(), to.as_str())))
    }
}

/// What becomes of a file.
#[derive(Debug, Default)]
pub(super) struct UnitResult {
    pub(super) files: Vec<FileRecast>,
    pub(super) decisions: Vec<Decision>,
    pub(super) notes: Vec<Note>,
    /// True if the record has the file of the new version afterwards.
    pub(super) is_tracked: bool,
    /// Its path afterwards, which may be another than that of the mold.
    pub(super) place: String,
}

/// A file of both versions, or of one.
pub(super) struct Unit<'a, 'm> {
    pub(super) side: &'a Side<'a, 'm>,
    pub(super) pair: &'a Pair,
    /// What the owner renamed: from where, and to where.
    pub(super) renames: &'a BTreeMap<String, String>,
    /// By path: what was made, from the history of the project.
    pub(super) contents: &'a BTreeMap<String, Vec<u8>>,
}

/// The owner's side of a file.
pub(super) struct Mine {
    /// The path that it has.
    pub(super) path: String,
    pub(super) look: Look,
    pub(super) print: Print,
}

impl Mine {
    pub(super) fn mode(&self) -> u32 {
        match self.look {
            Look::File(mode, _) => mode,
            _ => 0o644,
        }
    }
}

/// What is known of what was made.
pub(super) struct Before {
    pub(super) print: Print,
    /// The bytes, if they are known.
    pub(super) bytes: Option<Vec<u8>>,
    pub(super) is_executable: Option<bool>,
}

impl Unit<'_, '_> {
    /// Finds the owner's file: where it was made, where the owner moved it, or where it would be now.
    pub(super) fn mine(&self, base: &str, path: &str) -> Result<Option<Mine>, RecastError> {
        let root = self.side.root;
        let renamed = self.renames.get(base).map(String::as_str);
        for place in [Some(base), renamed, (base != path).then_some(path)].into_iter().flatten() {
            let look = look(root, place)?;
            let path = place.to_owned();
            if matches!(look, Look::Blocked(_)) {
                return Ok(Some(Mine { path, look, print: Print::Link(String::new()) }));
            }
            if let Some(print) = print_of(root, place, &look)? {
                return Ok(Some(Mine { path, look, print }));
            }
        }
        Ok(None)
    }

    pub(super) fn read(&self, mine: &Mine) -> Result<Option<Vec<u8>>, RecastError> {
        match mine.look {
            Look::File(_, length) if length <= LARGEST => {
                Ok(Some(self.side.root.read(&mine.path, LARGEST).map_err(std::io::Error::from)?))
            }
            _ => Ok(None),
        }
    }

    pub(super) fn text(&self, mine: &Mine) -> Result<Option<String>, RecastError> {
        Ok(self.read(mine)?.and_then(|bytes| String::from_utf8(bytes).ok()))
    }

    pub(super) fn text_at(&self, path: &str) -> Option<String> {
        String::from_utf8(self.side.root.read(path, LARGEST).ok()?).ok()
    }

    /// Returns what was recorded if the owner has it still, perhaps with other line endings.
    pub(super) fn as_recorded(&self, mine: &Mine, recorded: &Print) -> Result<Option<Vec<u8>>, RecastError> {
        let Print::File(digest) = recorded else { return Ok(None) };
        Ok(self.read(mine)?.and_then(|bytes| with_digest(bytes, *digest)))
    }

    /// Returns what becomes of the owner's file, which is at `path` then.
    pub(super) fn changed(
        &self,
        mine: &Mine,
        path: &str,
        kind: FileChange,
        after: Option<Written>,
    ) -> Result<FileRecast, RecastError> {
        Ok(FileRecast {
            path: path.to_owned(),
            from: (mine.path != path).then(|| mine.path.clone()),
            kind,
            was: Some((mine.print.clone(), mine.mode())),
            before: self.text(mine)?,
            after,
        })
    }

    /// Returns what the owner has, to be written elsewhere.
    pub(super) fn content_of(&self, mine: &Mine) -> Result<Option<Written>, RecastError> {
        Ok(match &mine.look {
            Look::Link(target) => Some(Written::Link(target.clone())),
            Look::File(mode, length) => {
                let bytes = self.side.root.read(&mine.path, (*length).max(LARGEST));
                Some(Written::File(bytes.map_err(std::io::Error::from)?, *mode))
            }
            Look::Absent | Look::Blocked(_) => None,
        })
    }
}

/// Returns a text as a file, with permissions that are set later.
pub(super) fn file_of(text: String) -> Written {
    Written::File(text.into_bytes(), 0o644)
}

/// Returns the same with these permission bits.
pub(super) fn with_mode(written: Written, mode: u32) -> Written {
    match written {
        Written::File(bytes, _) => Written::File(bytes, mode),
        link @ Written::Link(_) => link,
    }
}

/// Returns the text of a node; `None` if it is none, or too large to be merged.
pub(super) fn text_of(node: &Node<'_>) -> Result<Option<String>, RecastError> {
    Ok(node.text(LARGEST)?)
}

/// Returns what is written of a mold's file.
pub(super) fn written(content: &Content<'_>, mode: u32) -> Result<Written, RecastError> {
    Ok(match content {
        Content::Link(target) => Written::Link(target.clone()),
        other => Written::File(other.bytes()?.map(std::borrow::Cow::into_owned).unwrap_or_default(), mode),
    })
}
