//! Running programs: without a shell, with a time limit, and ended with all that they started.

mod git;
mod group;
mod path_search;
mod run;
mod uncommitted;

pub use git::{git, git_over_network};
pub use path_search::{programs, search_path, usual_directories};
pub use run::{
    Captured, Ended, Outcome, Running, capture, command, find, not_started, printed, printed_text, run,
    run_on_terminal,
};
pub use uncommitted::uncommitted;
