//! For authors of molds: sets of answers that try a mold, and a check of all of it.
//!
//! `sets` makes answers in which the choices of a mold meet; `check` casts them in memory and looks at what comes
//! out, and at what never does; `prove` casts them into folders and runs what the mold names as proofs.

pub mod check;
pub mod prove;
mod sets;

pub use check::{CheckOptions, Checked, Reported, check};
pub use sets::{AnswerSet, BadAnswers, approved_sets, combinations};

use tinmold_mold::Mold;
use tinmold_notation::Finding;
use tinmold_project::answers::Session;

/// Starts a session with the defaults of a mold, and samples where it has none.
///
/// # Errors
/// A default, condition or derived value that cannot be computed.
pub fn session_of(mold: &Mold) -> Result<Session<'_>, Finding> {
    sets::session(mold, &AnswerSet::default())
}
