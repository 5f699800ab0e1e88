//! What comes out for given answers, and what other answers would change in it. Nothing is written.
//!
//! `footprint` knows which names each file of a body depends on; `forecast` renders what is not known yet;
//! `fitted` does the same for a part, `recast` for a recast; `effect` compares two outcomes, `difference` two texts; `marks` says which bytes of a file come from a question.

mod difference;
mod effect;
mod file;
mod fitted;
mod footprint;
mod forecast;
mod marks;
mod recast;

pub use difference::{DiffLine, LineCounts, differing_lines, line_counts};
pub use effect::{Effect, FileEffect};
pub use file::{FileKind, Outcome, OutcomeFile, Preview};
pub use fitted::{outcome_of_fitting, preview_of_fitting, trace_of_fitting};
pub use footprint::{Footprint, Prints};
pub use forecast::Forecast;
pub use marks::{FileMarks, dependents};
pub use recast::{outcome_of_recast, preview_of_recast};
