//! Finishing steps: `offered` resolves a mold's steps for given answers, `project_code` finds what they
//! run of the project's files, `choice` holds which of them run and who vouches for them, `run` runs them, `serve` proves that a service responds.

mod choice;
mod hindered;
mod offered;
mod project_code;
mod run;
mod serve;

pub use choice::{ChoiceError, StepChoice};
pub use hindered::hindered;
pub use offered::{
    FoundProgram, OfferedStep, ReadText, StepCommand, StepError, UnsafeStep, offered, proofs, resolved,
};
pub use project_code::{ProjectCode, make_targets};
pub use run::{StepObserver, StepReport, StepResult, run_steps};
