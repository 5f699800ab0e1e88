//! Running programs: without a shell, with a time limit, and ended with all that they started.

mod group;
mod path_search;
mod run;

pub use path_search::{programs, search_path, usual_directories};
pub use run::{Ended, Outcome, Running, command, not_started, output, run, run_on_terminal};
