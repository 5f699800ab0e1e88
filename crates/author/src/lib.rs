//! For authors of molds: sets of answers that try a mold, and a check of all of it.
//!
//! `sets` makes answers in which the choices of a mold meet; `check` casts them in memory and looks at what comes
//! out, and at what never does.

pub mod check;
mod sets;

pub use check::{CheckOptions, Checked, Reported, check};
pub use sets::{AnswerSet, combinations};
