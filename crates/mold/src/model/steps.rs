//! The needs and finishing steps of a project.

use crate::snippet::Snippet;
use std::collections::BTreeMap;
use std::time::Duration;

/// A tool that a project needs on the machine.
#[derive(Clone, Debug)]
pub struct Need {
    /// The name of the program.
    pub tool: String,
    /// The versions that will do; `None` for any.
    pub version: Option<semver::VersionReq>,
    /// Its purpose.
    pub why: String,
    /// The condition under which it is needed.
    pub when: Option<Snippet>,
    /// How to get it, by system: a distribution's `ID`, `linux`, `macos`, `windows`.
    pub get: BTreeMap<String, String>,
}

/// A finishing step.
#[derive(Clone, Debug)]
pub struct FinishStep {
    /// The name by which it is chosen.
    pub name: String,
    /// Its purpose, in a line.
    pub label: String,
    /// The command.
    pub action: StepAction,
    /// The condition under which it is offered.
    pub when: Option<Snippet>,
    /// True if a vouched mold offers it ticked.
    pub tick: bool,
    /// The folder in the project where it runs.
    pub folder: Option<Snippet>,
    /// Variables added to its environment.
    pub environment: Vec<(String, Snippet)>,
    /// The steps that must be done before.
    pub after: Vec<String>,
    /// The time limit.
    pub limit: Duration,
    /// True if it gets the terminal.
    pub interactive: bool,
    /// True if it proves that the project works. Proofs run last.
    pub proof: bool,
    /// The URL that must answer while it runs; it is ended then.
    pub asks: Option<Snippet>,
    /// False if a cast never offers it: authors prove the mold with it.
    pub offered: bool,
    /// The condition under which it needs a network.
    pub network: Option<Snippet>,
}

/// The command of a finishing step.
#[derive(Clone, Debug)]
pub enum StepAction {
    /// A program with its arguments.
    Run(String, Vec<Snippet>),
    /// A git repository with a first commit of this message.
    Git(Snippet),
}
