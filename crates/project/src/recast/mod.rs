//! A project follows its mold: a newer version, or other answers, with everything kept that its owner did.
//!
//! There are three sides: what the recorded mold made (`base`), what the new one makes (`tree`, with the parts fitted
//! again by `replay`), and what is there (`disk`). `carry` takes the recorded answers along; `pairs`, `likeness` and
//! `folders` find what has another name; `history` finds what files were where the mold cannot be had. `file` decides
//! about one file with what `side` reads, and `merging` where both sides changed it; `parts` decides about the parts,
//! `planned` about everything. `decision` holds what somebody has to decide, and `old_names` finds names that are others
//! now. `write` writes it with the record of `recording`, and `undo` takes it back.

mod base;
mod carry;
mod decision;
mod disk;
mod error;
mod file;
mod folders;
mod history;
mod likeness;
mod merging;
mod old_names;
mod pairs;
mod parts;
mod planned;
mod recording;
mod replay;
mod result;
mod side;
mod tree;
mod undo;
mod versions;
mod write;

pub use carry::{Carried, GoneAnswer, carried_session, carry, changed_defaults};
pub use decision::{
    BlockedBy, Decided, Decision, Decisions, FileProblem, Note, PartProblem, PartTrouble, Undecided, Wishes,
};
pub use error::RecastError;
pub use old_names::old_names;
pub use replay::LoadedPart;
pub use result::{FileChange, FileRecast, Recast, Written};
pub use tree::Print;
pub use undo::{RecastUndo, RecastUndoError, UndoStore};
pub use versions::{OldVersion, Recasting};
