//! What somebody has to decide, what was decided, and what there is to know besides.

use crate::merge::{Conflict, Disagreement};
use std::collections::BTreeMap;

/// What is decided of a place, a file or a part.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Decided {
    /// It stays as the owner has it.
    Mine,
    /// It becomes as the mold has it.
    Theirs,
    /// The owner's lines, and the mold's behind them.
    Both,
    /// The owner's file stays, and the mold's is written beside it.
    Aside,
    /// A text of their own, of whole lines.
    Text(String),
}

/// By [`Decision::key`]: what was decided.
pub type Decisions = BTreeMap<String, Decided>;

/// What is decided so far.
#[derive(Clone, Debug, Default)]
pub struct Wishes {
    /// What was decided, by [`Decision::key`].
    pub decisions: Decisions,
    /// What is decided of everything else.
    pub all: Option<Decided>,
    /// True to leave markers in a text that is not decided, and to write a file that is not decided beside the owner's.
    pub marks: bool,
}

impl Wishes {
    /// Returns what is decided of this.
    pub(super) fn of(&self, key: &str) -> Option<&Decided> {
        self.decisions.get(key).or(self.all.as_ref())
    }
}

/// Something that nobody has decided yet.
#[derive(Clone, Debug, PartialEq)]
pub struct Decision {
    /// What names it: the path, with the number of the place where a file has several; or `part` and the name.
    pub key: String,
    /// The path of the file in the project; the name of the part.
    pub path: String,
    /// What is to be decided.
    pub what: Undecided,
}

/// What is to be decided.
#[derive(Clone, Debug, PartialEq)]
pub enum Undecided {
    /// A place that both sides changed.
    Place {
        /// Its number in the file, from 1.
        number: usize,
        /// The number of such places in the file.
        of: usize,
        /// The three texts.
        conflict: Conflict,
        /// The values that differ, where the file can be read.
        values: Vec<Disagreement>,
    },
    /// A file as a whole.
    File {
        /// Why.
        why: FileProblem,
        /// The three texts, as far as they are known and texts: before, the owner's, the mold's.
        texts: Box<[Option<String>; 3]>,
    },
    /// A part: its files and lines stay as the owner's, or go.
    Part {
        /// Its name in the record.
        name: String,
        /// The file that is about, for a part that can be fitted but not into this file.
        file: Option<String>,
        /// Why.
        why: PartTrouble,
    },
}

impl Undecided {
    /// Returns what can be decided of it.
    #[must_use]
    pub fn ways(&self) -> &'static [Decided] {
        match self {
            Self::Place { .. } => &[Decided::Mine, Decided::Theirs, Decided::Both],
            Self::File { .. } => &[Decided::Mine, Decided::Theirs, Decided::Aside],
            Self::Part { .. } => &[Decided::Mine, Decided::Theirs],
        }
    }
}

/// Why a file is decided as a whole. Displayed as a clause that follows the path.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum FileProblem {
    /// The owner and the mold have a new file there.
    #[error("is new on both sides, and differs")]
    BothNew,
    /// Nobody knows what it was made as.
    #[error("was changed, and what it was before is not known")]
    NoBase,
    /// It is no text, and changed on both sides.
    #[error("was changed on both sides, and is no text")]
    NotText,
    /// It is a file on one side and a link on the other.
    #[error("is a file on one side and a link on the other, or links that differ")]
    Kind,
    /// It moves to where another file is.
    #[error("comes from {0}, and another file is there")]
    Occupied(String),
    /// It was a part's file, and the new version makes a file of its own there.
    #[error("was made by a part, and is a file of the mold itself now")]
    OfPart,
}

/// Why a recorded part cannot be fitted again. Displayed as a clause that follows its name.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum PartProblem {
    /// The new version has no such part.
    #[error("is not in the new version")]
    Gone,
    /// Its mold cannot be had.
    #[error("is of a mold that cannot be had: {0}")]
    NoMold(String),
    /// Its mold is faulty.
    #[error("has a mistake: {0}")]
    Faulty(String),
    /// A recorded answer is refused.
    #[error("does not take its answer {key} any more: {refusal}")]
    Answer {
        /// The key of the question.
        key: String,
        /// Why.
        refusal: String,
    },
    /// Its condition is false for the new answers.
    #[error("does not apply any more: `{0}` is false")]
    DoesNotGo(String),
}

/// Why a part is decided about. Displayed as a clause that follows its name.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum PartTrouble {
    /// It cannot be fitted again.
    #[error(transparent)]
    Problem(#[from] PartProblem),
    /// Lines or values of it have no place.
    #[error("has no place in the new version for what it added to {path}, which {why}")]
    Unplaced {
        /// The file.
        path: String,
        /// Why not, in a clause that follows the path.
        why: String,
    },
}

/// Something that is to be known, and asks for nothing.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Note {
    /// The owner deleted it: it stays deleted.
    Deleted(String),
    /// The mold has it no more, and the owner changed it: it stays.
    Dropped(String),
    /// It is the owner's, whatever the mold has now.
    Yours(String),
    /// A file of this machine only, with what its newer form has, secrets masked.
    Local {
        /// The path.
        path: String,
        /// The lines that are new, with `+`, and those that are gone, with `-`.
        lines: Vec<String>,
    },
    /// The owner renamed it: from where, and to where.
    OwnRename(String, String),
    /// Something at the path keeps it from being written.
    Blocked(String, BlockedBy),
    /// The default of a question is another one now; the answer stays.
    Default {
        /// The key of the question.
        key: String,
        /// The new default, as people write it.
        value: String,
    },
    /// No question has this key any more.
    KeyGone(String),
    /// An old name in a file of the owner: the path, the line from 1, and the name.
    OldName(String, usize, String),
    /// It could not move with its folder: from where, and to where.
    StaysBehind(String, String),
    /// The mold's file was written beside the owner's, under this name.
    Aside(String, String),
    /// The version that the project was cast from cannot be had: what files were is known only as far as they are unchanged,
    /// or in the history of the project.
    NoOldVersion,
    /// The history of the project is not all there, and may hold what a file was before.
    Shallow,
}

/// Why a path cannot be written. Displayed as a clause that follows the path.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum BlockedBy {
    /// A folder is there.
    #[error("is a folder in the project")]
    Folder,
    /// Something else is there that is no file.
    #[error("is neither a file nor a link in the project")]
    Other,
    /// A file is where one of its folders would be.
    #[error("would be beneath a file of the project")]
    File,
    /// A folder on the way is a link.
    #[error("is behind a link that leads elsewhere")]
    Link,
}
