//! Finishing steps: `offered` resolves a mold's steps for given answers, `choice` holds which of
//! them run and who vouches for them, `run` runs them, `serve` proves that a service responds.

mod choice;
mod offered;
mod run;
mod serve;

pub use choice::{ChoiceError, StepChoice};
pub use offered::{OfferedStep, StepCommand, StepError, UnsafeStep, offered};
pub use run::{StepObserver, StepReport, StepResult, run_steps};
