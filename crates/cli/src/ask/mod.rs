//! Asking a person: one question at a time, back and forth, then one review.

mod dialogue;
mod prompts;
mod review;

pub use dialogue::Dialogue;
pub use prompts::Prompts;
pub use review::{Decision, Review};

use tinmold_core::answers::Session;
use tinmold_notation::{Finding, Value};

/// What a person says to a question.
pub enum Reply {
    /// This answer.
    Answer(Value),
    /// Back to the question before.
    Back,
}

/// Why nothing more can be asked.
#[derive(Debug)]
pub enum Stop {
    /// Somebody pressed Ctrl-C.
    Interrupted,
    /// The input ended.
    Ended,
    /// The terminal failed.
    Terminal(String),
    /// The mold failed on these answers.
    Mold(Box<Finding>),
}

impl From<Finding> for Stop {
    fn from(finding: Finding) -> Self {
        Self::Mold(Box::new(finding))
    }
}

/// Somebody who can be asked.
pub trait Asker {
    /// Asks the question at `at`.
    fn ask(&mut self, session: &Session<'_>, at: usize) -> Result<Reply, Stop>;
    /// Shows the review and asks what to do.
    fn review(&mut self, session: &Session<'_>, review: &Review<'_>) -> Result<Decision, Stop>;
}

/// Asks everything that is to be asked.
pub fn walk(session: &mut Session<'_>, asker: &mut dyn Asker) -> Result<(), Stop> {
    while let Some(mut at) = session.next() {
        loop {
            match asker.ask(session, at)? {
                Reply::Answer(value) => {
                    session.answer(at, value)?;
                    break;
                }
                Reply::Back => {
                    if let Some(before) = session.before(at) {
                        session.reopen(before);
                        at = before;
                    }
                }
            }
        }
    }
    Ok(())
}
