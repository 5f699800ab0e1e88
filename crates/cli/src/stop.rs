//! Why a command ends early.

use crate::exit::Exit;
use crate::failure::Failure;

/// Why a command ends early. Every command returns it, and `main` handles it.
#[derive(Debug)]
pub enum Stop {
    /// The user left without writing.
    Left,
    /// The user went back to where they came from, without writing.
    Back,
    /// The user pressed Ctrl-C.
    Interrupted,
    /// The input ended while a question was open.
    InputEnded,
    /// The terminal failed.
    Terminal(std::io::Error),
    /// The command failed.
    Failed(Box<Failure>),
}

impl From<Failure> for Stop {
    fn from(failure: Failure) -> Self {
        Self::Failed(Box::new(failure))
    }
}

impl Stop {
    /// Reports why the command ended and returns the exit code.
    pub fn report(self) -> Exit {
        let failure = match self {
            Self::Left | Self::Back => {
                say!("Left without writing anything.");
                return Exit::Done;
            }
            Self::Interrupted => Failure::new(Exit::Interrupted, "interrupted; nothing was written"),
            Self::InputEnded => Failure::new(Exit::Missing, "the input ended; nothing was written"),
            Self::Terminal(error) => Failure::new(Exit::Failed, format!("the terminal failed: {error}")),
            Self::Failed(failure) => *failure,
        };
        failure.print();
        failure.exit
    }

    /// Replaces the end of the input by a failure that lists the missing answers.
    #[must_use]
    pub fn or_missing(self, missing: impl FnOnce() -> Failure) -> Self {
        if matches!(self, Self::InputEnded) { missing().into() } else { self }
    }
}
