//! How a person was asked, and what they decided.

use super::conflicts::Decider;
use crate::stop::Stop;
use crate::ui::setup::{Decision, kept_words};

/// How a person was asked, and what they decided.
pub enum Asked {
    /// Nobody was there to be asked.
    Nobody,
    /// In lines: the names of the ticked steps.
    InLines(Vec<String>),
    /// On the screen.
    OnScreen(Box<Decision>),
}

impl Asked {
    /// Returns the names of the ticked steps, if someone ticked them.
    pub fn ticked(&self) -> Option<&[String]> {
        match self {
            Self::Nobody => None,
            Self::InLines(steps) => Some(steps),
            Self::OnScreen(decision) => Some(&decision.steps),
        }
    }

    /// Returns who decides about files that are in the way.
    pub fn decider(&self) -> Decider<'_> {
        match self {
            Self::Nobody => Decider::Nobody,
            Self::InLines(_) => Decider::Lines,
            Self::OnScreen(decision) => Decider::Decided(decision),
        }
    }

    /// Says that no answer is lost, if what follows fails.
    pub fn kept<T>(&self, result: Result<T, Stop>) -> Result<T, Stop> {
        if let (Err(_), Self::OnScreen(decision)) = (&result, self)
            && decision.is_kept
        {
            say!("{}", kept_words(decision.has_secret));
        }
        result
    }
}
