//! What the setup screen works for: a cast, a fit, or a recast.

use crate::failure::Failure;
use std::collections::BTreeMap;
use std::path::PathBuf;
use tinmold_mold::Need;
use tinmold_notation::{NameId, Trace};
use tinmold_project::answers::Answers;
use tinmold_project::outcome::{Outcome, Preview};
use tinmold_project::preflight::Probe;
use tinmold_project::recast::Decided;
use tinmold_project::steps::StepChoice;
use tinmold_project::write::cover::{IgnoreLine, Uncovered};

/// By path, or what else names it: what becomes of something that is in the way.
pub type Choices = BTreeMap<String, Decided>;

/// What may become of a file that is there already, in the order in which it is offered.
pub const FILE_WAYS: &[Decided] = &[Decided::Mine, Decided::Theirs, Decided::Aside];
/// What may become of values that are set already.
pub const VALUE_WAYS: &[Decided] = &[Decided::Mine, Decided::Theirs];

/// What is set up. It is asked from several threads.
pub trait Job: Sync {
    /// Returns the name and the version of what is cast or fitted.
    fn title(&self) -> (String, String);
    /// Returns the answers with what only the job knows of: the name of the project's folder.
    fn completed(&self, answers: Answers) -> Result<Answers, Failure>;
    /// Returns what comes out; `None` if `is_cancelled` returned true meanwhile.
    fn outcome(
        &self,
        answers: &Answers,
        is_cancelled: &(dyn Fn() -> bool + Sync),
    ) -> Result<Option<Outcome>, Failure>;
    /// Returns the content of a file that comes out.
    fn preview(&self, answers: &Answers, outcome: &Outcome, path: &str) -> Result<Option<Preview>, Failure>;
    /// Returns where the text of a file that comes out is from; `None` if it is not rendered.
    fn trace(&self, answers: &Answers, outcome: &Outcome, path: &str) -> Result<Option<Trace>, Failure>;
    /// Returns the files that one of these names may matter to.
    fn using(&self, outcome: &Outcome, names: &[NameId]) -> Vec<String>;
    /// Looks at the destination, and at the steps that would run, with what is decided so far.
    fn survey(&self, answers: &Answers, choices: &Choices) -> Result<Survey, Failure>;
    /// Returns the tools that are needed for these answers, as they were found; `None` while they are looked for.
    fn needs(&self, answers: &Answers) -> Option<Vec<(Need, Probe)>>;
    /// Returns what the user gave last time and did not write.
    fn draft(&self) -> Option<String>;
    /// Keeps what the user gave for the next time, or nothing.
    fn keep_draft(&self, draft: Option<&str>);
}

/// The destination as it is now, and what would happen there.
#[derive(Clone, Debug, Default)]
pub struct Survey {
    pub destination: PathBuf,
    /// The headings of what is in the way, and of what is to know; `None` for the usual ones.
    pub headings: Option<[&'static str; 2]>,
    /// The files about which someone has to decide.
    pub in_the_way: Vec<InTheWay>,
    /// What keeps the project from being written there, in a line each.
    pub blocked: Vec<String>,
    /// What is to know besides, in a line each.
    pub notes: Vec<String>,
    /// The files of this machine only that would get out, each with the line that keeps it in.
    pub uncovered: Vec<Uncovered>,
    /// The finishing steps; `None` where none can run.
    pub steps: Option<StepChoice>,
    /// True if the command line named the steps.
    pub steps_named: bool,
}

/// A file that is there already and differs, or a place that both sides changed.
#[derive(Clone, Debug)]
pub struct InTheWay {
    /// Its path, or what else names it.
    pub path: String,
    /// The lines that show what differs, or what each choice means.
    pub lines: Vec<String>,
    /// What may become of it.
    pub ways: &'static [Decided],
    /// The text with which an editor begins; none where a text of one's own is no way.
    pub text: Option<String>,
}

/// What the user decided.
#[derive(Clone, Debug, Default)]
pub struct Decision {
    /// The names of the ticked steps.
    pub steps: Vec<String>,
    /// By path: what becomes of a file that is there already.
    pub choices: Choices,
    /// The lines of ignore files that are added.
    pub lines: Vec<IgnoreLine>,
    /// True if the user vouches for the mold from now on.
    pub vouch: bool,
    /// True if the answers are kept, should the write fail.
    pub is_kept: bool,
    /// True if a secret was given, which is not kept.
    pub has_secret: bool,
}

/// How the screen was left.
pub enum Left {
    /// The project is to be written.
    Write(Box<Decision>),
    /// The user went back to where the mold was chosen.
    Back,
}
