//! Asking a person: one question at a time, back and forth, then one review.

mod choose;
mod conflict;
mod dialogue;
mod menus;
mod prompts;
mod review;

pub use conflict::{Deciding, InTheWay, Said, difference_of};
pub use dialogue::Dialogue;
pub use prompts::Prompts;
pub use review::{AlreadyThere, Decision, Review};

use crate::failure::Failure;
use crate::finishing::Finishing;
use std::io::IsTerminal;
use tinmold_core::answers::Session;
use tinmold_core::shelf::Choosing;
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
    /// The person leaves without writing.
    Left,
    /// The terminal failed.
    Terminal(String),
    /// The mold failed on these answers.
    Mold(Box<Finding>),
    /// Something else failed, in words already.
    Failed(Box<Failure>),
}

impl From<Failure> for Stop {
    fn from(failure: Failure) -> Self {
        Self::Failed(Box::new(failure))
    }
}

impl From<Finding> for Stop {
    fn from(finding: Finding) -> Self {
        Self::Mold(Box::new(finding))
    }
}

/// A part as people choose it.
pub struct PartLine {
    /// Its name.
    pub name: String,
    /// What it gives, in a line.
    pub summary: String,
}

/// Somebody who can be asked.
pub trait Asker {
    /// Lets the person choose a mold; gives its address.
    fn choose(&mut self, choosing: &mut Choosing) -> Result<String, Stop>;
    /// Lets the person choose a part; gives its place among them.
    fn part(&mut self, parts: &[PartLine]) -> Result<usize, Stop>;
    /// Asks yes or no.
    fn sure(&mut self, what: &str) -> Result<bool, Stop>;
    /// Asks the question at `at`.
    fn ask(&mut self, session: &Session<'_>, at: usize) -> Result<Reply, Stop>;
    /// Shows the review and asks what to do.
    fn review(&mut self, session: &Session<'_>, review: &Review<'_>) -> Result<Decision, Stop>;
    /// Lets the person tick the finishing steps that are to run; false if they leave.
    fn steps(&mut self, finishing: &mut Finishing) -> Result<bool, Stop>;
    /// Shows a file that is there already and differs, and asks what becomes of it.
    fn conflict(&mut self, file: &InTheWay<'_>) -> Result<Said, Stop>;
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

/// Whoever can be asked: nobody if there is no terminal, unless it is wanted in plain lines.
pub fn somebody(plain: bool) -> Option<Box<dyn Asker>> {
    if plain {
        return Some(Box::new(Dialogue));
    }
    let terminal = std::io::stdin().is_terminal() && std::io::stderr().is_terminal();
    let dumb = std::env::var("TERM").is_ok_and(|term| term == "dumb");
    match terminal && std::env::var_os("CI").is_none() {
        true if dumb => Some(Box::new(Dialogue)),
        true => Some(Box::new(Prompts::new())),
        false => None,
    }
}
