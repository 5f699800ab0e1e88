//! Asking the user: on a terminal, or in plain lines.

mod dialogue;
mod menus;
mod picker;
mod prompts;

use crate::stop::Stop;
use crate::text::diff::InTheWay;
use crate::text::review::Layout;
use dialogue::Dialogue;
use prompts::Prompts;
use std::io::IsTerminal;
use tinmold_notation::Value;
use tinmold_project::answers::Session;
use tinmold_project::review::Review;
use tinmold_project::steps::StepChoice;
use tinmold_project::write::Choice;
use tinmold_shelf::Picker;

/// The reply to a question.
pub enum Reply {
    /// This answer.
    Answer(Value),
    /// Back to the question before.
    Back,
}

/// The user's decision at the review.
pub enum ReviewAction {
    /// Write.
    Write,
    /// Change the answer to the question at this index.
    Change(usize),
    /// Ask the detail questions too.
    Details,
    /// Choose the finishing steps that run.
    Steps,
    /// Leave without writing.
    Leave,
}

/// The decision about a file that is in the way.
pub struct ConflictReply {
    pub choice: Choice,
    /// True if the choice holds for all files that follow.
    pub for_all: bool,
}

/// A review and how it is shown.
pub struct ReviewView<'a> {
    pub review: &'a Review,
    /// The heading of the tree.
    pub title: &'static str,
    /// The size of the change, in a few words.
    pub extent: String,
    /// The smallest number of lines of the tree that are shown.
    pub least_rows: usize,
    /// More text after the tree.
    pub details: String,
    /// Returns the text of the file at a path.
    pub file: Box<dyn Fn(&str) -> String + 'a>,
}

impl ReviewView<'_> {
    /// Returns how the review is laid out.
    fn layout(&self) -> Layout<'_> {
        Layout {
            title: self.title,
            extent: &self.extent,
            least_rows: self.least_rows,
            details: &self.details,
        }
    }

    /// Returns true if there are finishing steps to choose.
    fn has_steps(&self) -> bool {
        self.review.steps.as_ref().is_some_and(|steps| !steps.steps.is_empty())
    }
}

/// A part in a list.
pub struct PartLine {
    pub name: String,
    pub summary: String,
}

/// Asks the user.
pub trait Prompter {
    /// Lets the user pick a mold; returns its address.
    fn pick_mold(&mut self, picker: &mut Picker) -> Result<String, Stop>;
    /// Lets the user pick a part; returns its index.
    fn pick_part(&mut self, parts: &[PartLine]) -> Result<usize, Stop>;
    /// Asks yes or no.
    fn confirm(&mut self, question: &str) -> Result<bool, Stop>;
    /// Asks the question at an index.
    fn ask(&mut self, session: &Session<'_>, at: usize) -> Result<Reply, Stop>;
    /// Shows the review and asks what to do.
    fn review(&mut self, session: &Session<'_>, view: &ReviewView<'_>) -> Result<ReviewAction, Stop>;
    /// Lets the user tick the finishing steps that run; returns false if they go back.
    fn steps(&mut self, steps: &mut StepChoice) -> Result<bool, Stop>;
    /// Shows a file that is in the way, and asks what becomes of it.
    fn conflict(&mut self, file: &InTheWay<'_>) -> Result<ConflictReply, Stop>;
}

/// Returns a prompter, or `None` without a terminal, unless plain lines are wanted.
pub fn prompter(plain: bool) -> Option<Box<dyn Prompter>> {
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

/// Reborrows a prompter.
pub fn borrowed(prompter: &mut Option<Box<dyn Prompter>>) -> Option<&mut dyn Prompter> {
    match prompter {
        Some(prompter) => Some(prompter.as_mut()),
        None => None,
    }
}
