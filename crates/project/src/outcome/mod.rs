//! What comes out for given answers, and what other answers would change in it. Nothing is written.
//!
//! `footprint` knows which names each file of a body depends on; `forecast` renders what is not known yet;
//! `effect` compares two outcomes; `marks` says which bytes of a file come from a question.

mod effect;
mod file;
mod footprint;
mod forecast;
mod marks;

pub use effect::{Effect, FileEffect, LineCounts, line_counts};
pub use file::{FileKind, Outcome, OutcomeFile, Preview};
pub use forecast::Forecast;
pub use marks::{FileMarks, dependents};
