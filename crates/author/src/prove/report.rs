//! The results of a proof.

use crate::sets::AnswerSet;
use serde::{Deserialize, Serialize};
use std::path::PathBuf;
use std::time::Duration;

/// The result of proving a mold.
#[derive(Debug)]
pub struct MoldProof {
    /// By set of answers.
    pub sets: Vec<SetProof>,
    /// The failures, put together.
    pub failures: Vec<FailureGroup>,
}

impl MoldProof {
    /// Returns the number of targets with a result that `is_meant` accepts.
    pub fn count(&self, is_meant: impl Fn(&TargetResult) -> bool) -> usize {
        self.sets.iter().flat_map(|set| &set.targets).filter(|target| is_meant(&target.result)).count()
    }
}

/// The result of proving one set of answers.
#[derive(Clone, Debug)]
pub struct SetProof {
    /// The answers.
    pub set: AnswerSet,
    /// What ran, in order.
    pub targets: Vec<Target>,
    /// True if it was proven before, so that nothing ran.
    pub is_remembered: bool,
    /// The folder of the project and its logs, if it was kept.
    pub folder: Option<PathBuf>,
}

impl SetProof {
    /// Returns the result of a set that was not begun.
    pub(super) fn not_begun(set: AnswerSet, why: &str) -> Self {
        let target = Target::new("cast", TargetResult::Skipped(why.to_owned()));
        Self { set, targets: vec![target], is_remembered: false, folder: None }
    }

    /// Returns the first target that failed.
    #[must_use]
    pub fn failure(&self) -> Option<&Target> {
        self.targets.iter().find(|target| matches!(target.result, TargetResult::Failed(_)))
    }
}

/// Something that was proven, or not.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Target {
    /// `cast`, the name of a step, or `fit PART`.
    pub name: String,
    /// True if it ran after the parts were fitted.
    pub with_parts: bool,
    /// The result.
    pub result: TargetResult,
    /// How long it took.
    pub took: Duration,
    /// The last lines of its output.
    pub last: Vec<String>,
    /// The command, as words.
    pub command: Vec<String>,
}

impl Target {
    pub(super) fn new(name: &str, result: TargetResult) -> Self {
        let name = name.to_owned();
        Self { name, with_parts: false, result, took: Duration::ZERO, last: Vec::new(), command: Vec::new() }
    }
}

/// The result of a target.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub enum TargetResult {
    /// It works.
    Passed,
    /// It does not, and how that shows.
    Failed(String),
    /// It did not run, and why.
    Skipped(String),
}

/// Failures that look alike.
#[derive(Clone, Debug)]
pub struct FailureGroup {
    /// The target.
    pub target: Target,
    /// The smallest answers that show it, as far as there was time to find out.
    pub set: AnswerSet,
    /// The folder of a project that shows it, with its logs.
    pub folder: Option<PathBuf>,
    /// The number of sets that show it.
    pub sets: usize,
}
