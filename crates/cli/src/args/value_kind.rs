//! What the value of an argument is, for shells that complete it. The arguments say what they take; the module
//! `completion` knows what is there.

use clap_complete::engine::{CompletionCandidate, ValueCompleter};
use std::ffi::OsStr;
use std::sync::OnceLock;

/// What a value is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ValueKind {
    /// The address of a mold.
    Mold,
    /// `KEY=VALUE`, an answer to a question.
    Answer,
    /// A preset of the mold.
    Preset,
    /// A part of the mold.
    Part,
    /// A finishing step of the mold.
    Step,
    /// `FACET=VALUE`, a filter.
    Facet,
    /// A shelf that was added.
    Shelf,
    /// A version of the project's mold.
    Version,
    /// The name of a setting.
    Setting,
    /// A command of the program.
    Command,
}

/// Lists what can stand for a value, given what is typed of it.
pub type ListValues = fn(ValueKind, &OsStr) -> Vec<CompletionCandidate>;

static LIST: OnceLock<ListValues> = OnceLock::new();

/// Sets what lists the values. Only a run that completes a line does.
pub fn set_lister(list: ListValues) {
    if LIST.set(list).is_err() {
        tracing::debug!("values are listed already");
    }
}

impl ValueCompleter for ValueKind {
    fn complete(&self, current: &OsStr) -> Vec<CompletionCandidate> {
        LIST.get().map_or_else(Vec::new, |list| list(*self, current))
    }
}
