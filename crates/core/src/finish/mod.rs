//! What stands before a cast and after it: is the machine ready, and the steps that make the project run.
//!
//! `tools` knows how common tools tell their version, `probe` asks them; `process` runs a program and ends it with all that it
//! started; `steps` are a mold's finishing steps for given answers, `run` carries them out. Nothing here goes through a shell.

mod probe;
pub(crate) mod process;
mod run;
mod serve;
mod steps;
mod tools;

pub use probe::{Found, Probe, Verdict, probe, search_path, system_keys};
pub use process::{Ended, Outcome};
pub use run::{StepReport, StepResult, Steps, run_steps};
pub use steps::{Step, StepError, StepRun, offered};
pub use tools::known_tools;
