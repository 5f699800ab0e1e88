//! Asking the user: on the full screen, or in plain lines.

mod dialogue;
mod drawing;
mod isolate;
mod parts;
mod picker;
pub mod setup;
mod terminal;
mod theme;

pub use dialogue::Dialogue;

use crate::stop::Stop;
use crate::text::review::Layout;
use std::io::IsTerminal;
use tinmold_notation::Value;
use tinmold_project::review::Review;
use tinmold_project::write::Choice;
use tinmold_shelf::Picker;

/// How the user is asked.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Interface {
    /// On the full screen.
    Screen,
    /// In plain lines: for a screen reader, a serial line, or a program that answers.
    Lines,
}

impl Interface {
    /// Returns how the user is asked; `None` without a terminal, unless plain lines are wanted.
    pub fn of_terminal(plain: bool) -> Option<Self> {
        if plain {
            return Some(Self::Lines);
        }
        let terminal = std::io::stdin().is_terminal() && std::io::stderr().is_terminal();
        let dumb = std::env::var("TERM").is_ok_and(|term| term == "dumb");
        match terminal && std::env::var_os("CI").is_none() {
            true if dumb => Some(Self::Lines),
            true => Some(Self::Screen),
            false => None,
        }
    }

    /// Lets the user pick a mold; returns its address.
    pub fn pick_mold(self, picker: &mut Picker) -> Result<String, Stop> {
        match self {
            Self::Screen => picker::pick(picker),
            Self::Lines => Dialogue.pick_mold(picker),
        }
    }

    /// Lets the user pick a part; returns its index. `others` says which parts do not go into the project.
    pub fn pick_part(self, parts: &[PartLine], others: &str) -> Result<usize, Stop> {
        match self {
            Self::Screen => parts::pick(parts, others),
            Self::Lines => Dialogue.pick_part(parts, others),
        }
    }
}

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
    /// More text after the tree.
    pub details: String,
    /// Returns the text of the file at a path.
    pub file: Box<dyn Fn(&str) -> String + 'a>,
}

impl ReviewView<'_> {
    /// Returns how the review is laid out.
    fn layout(&self) -> Layout<'_> {
        Layout { title: self.title, extent: &self.extent, details: &self.details }
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
