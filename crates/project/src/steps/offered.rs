//! A mold's finishing steps, for given answers.

use super::project_code::{ProjectCode, project_code};
use std::collections::BTreeMap;
use std::path::PathBuf;
use std::time::Duration;
use tinmold_mold::Snippet;
use tinmold_mold::{FinishStep, Mold, StepAction};
use tinmold_notation::{Finding, Values};
use tinmold_platform::paths::{PathError, portable_path};
use tinmold_platform::process;

/// A finishing step that is offered, with everything in it settled.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct OfferedStep {
    /// Its name.
    pub name: String,
    /// Its purpose, in a line.
    pub label: String,
    /// The commands, run one after the other.
    pub run: StepCommand,
    /// The working directory in the project; empty for the project's root.
    pub folder: String,
    /// Variables added to its environment.
    pub environment: BTreeMap<String, String>,
    /// True if the mold ticks it.
    pub tick: bool,
    /// The steps that must be done before.
    pub after: Vec<String>,
    /// The timeout.
    pub limit: Duration,
    /// True if it gets the terminal.
    pub interactive: bool,
    /// True if it proves that the project works.
    pub proof: bool,
    /// The address that must answer while it runs.
    pub asks: Option<String>,
    /// The program that it runs, as it is found now.
    pub program: FoundProgram,
    /// What it runs of the project's own files.
    pub code: ProjectCode,
    /// The local files, which a first commit leaves out whatever the ignore files say by then.
    pub left_out: Vec<String>,
}

/// The program of a step.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum FoundProgram {
    /// A program of the machine, at this absolute path.
    At(PathBuf),
    /// A file of the project, which the mold or an earlier step makes.
    OfProject(String),
    /// No program of this name is on PATH now.
    Missing(String),
}

/// Returns the text of a file of the project; `None` if there is none.
pub type ReadText<'r> = &'r dyn Fn(&str) -> Option<String>;

/// The command of a step.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum StepCommand {
    /// A program and its arguments.
    Program(Vec<String>),
    /// A git repository with a first commit of this message.
    Git(String),
}

/// Why the steps cannot be offered.
#[derive(Debug, thiserror::Error)]
pub enum StepError {
    /// A text of a step cannot be rendered.
    #[error("{}", .0.message)]
    Faulty(Box<Finding>),
    /// A step would run something that was not meant.
    #[error("the step {name} is not safe: {reason}")]
    Unsafe {
        /// The step.
        name: String,
        /// Why.
        reason: UnsafeStep,
    },
}

/// Why a step is not safe.
#[derive(Debug, thiserror::Error)]
pub enum UnsafeStep {
    /// An answer makes an argument an option.
    #[error("an answer makes its argument {0:?} an option")]
    Option(String),
    /// An argument holds a NUL.
    #[error("an argument holds a NUL")]
    Nul,
    /// The folder is not inside the project.
    #[error("its folder {folder:?} {reason}")]
    Folder {
        /// The folder.
        folder: String,
        /// Why.
        reason: PathError,
    },
}

impl From<Finding> for StepError {
    fn from(finding: Finding) -> Self {
        Self::Faulty(Box::new(finding))
    }
}

impl OfferedStep {
    /// Returns the argument lists that it runs, exactly.
    #[must_use]
    pub fn commands(&self) -> Vec<Vec<String>> {
        let words = |words: &[&str]| words.iter().map(|word| (*word).to_owned()).collect();
        match &self.run {
            StepCommand::Program(arguments) => vec![arguments.clone()],
            StepCommand::Git(message) => {
                let mut all = vec![words(&["git", "init", "--quiet"]), words(&["git", "add", "--all"])];
                if !self.left_out.is_empty() {
                    let mut out: Vec<String> =
                        words(&["git", "rm", "--quiet", "--cached", "--force", "--ignore-unmatch", "--"]);
                    out.extend(self.left_out.iter().map(|path| format!(":(literal){path}")));
                    all.push(out);
                }
                all.push(words(&["git", "commit", "--quiet", "--message", message]));
                all
            }
        }
    }
}

/// Returns the steps whose conditions hold, proofs last, else in the mold's order. Without `read` what a step runs
/// is not looked up: no one is going to see it.
///
/// # Errors
/// A text that cannot be rendered; an argument that an answer made an option; a directory outside
/// the project.
pub fn offered(
    mold: &Mold,
    values: &Values,
    read: Option<ReadText<'_>>,
) -> Result<Vec<OfferedStep>, StepError> {
    chosen(mold, values, read, |step| step.offered)
}

/// Returns the proofs whose conditions hold, also those that a cast does not offer, with the steps that they come
/// after, in the order in which they run; and the names of those that need a network.
///
/// # Errors
/// As for [`offered`].
pub fn proofs(
    mold: &Mold,
    values: &Values,
    read: Option<ReadText<'_>>,
) -> Result<(Vec<OfferedStep>, Vec<String>), StepError> {
    let mut steps = chosen(mold, values, read, |_| true)?;
    let mut needed: Vec<String> =
        steps.iter().filter(|step| step.proof).map(|step| step.name.clone()).collect();
    let mut at = 0;
    while let Some(name) = needed.get(at).cloned() {
        let after = steps.iter().find(|step| step.name == name).map_or(&[][..], |step| &step.after);
        let more: Vec<String> = after.iter().filter(|name| !needed.contains(name)).cloned().collect();
        needed.extend(more);
        at += 1;
    }
    steps.retain(|step| needed.contains(&step.name));
    let mut networked = Vec::new();
    for step in mold.finish.iter().filter(|step| needed.contains(&step.name)) {
        if let Some(network) = &step.network
            && network.holds(&mold.shown_scope, values)?
        {
            networked.push(step.name.clone());
        }
    }
    Ok((steps, networked))
}

fn chosen(
    mold: &Mold,
    values: &Values,
    read: Option<ReadText<'_>>,
    is_meant: impl Fn(&FinishStep) -> bool,
) -> Result<Vec<OfferedStep>, StepError> {
    let mut steps = Vec::new();
    for step in mold.finish.iter().filter(|step| is_meant(step)) {
        if let Some(when) = &step.when
            && !when.holds(&mold.shown_scope, values)?
        {
            continue;
        }
        steps.push(resolved(mold, step, values, read)?);
    }
    // A step that these answers do not need is not waited for.
    let names: Vec<String> = steps.iter().map(|step| step.name.clone()).collect();
    steps.iter_mut().for_each(|step| step.after.retain(|after| names.contains(after)));
    steps.sort_by_key(|step| step.proof);
    Ok(steps)
}

/// Returns a step for these values, whether its condition holds or not. `read` returns the text of a file of
/// the project.
///
/// # Errors
/// As for [`offered`].
pub fn resolved(
    mold: &Mold,
    step: &FinishStep,
    values: &Values,
    read: Option<ReadText<'_>>,
) -> Result<OfferedStep, StepError> {
    let text = |snippet: &Snippet| snippet.render(&mold.shown_scope, values);
    let refused = |reason: UnsafeStep| StepError::Unsafe { name: step.name.clone(), reason };
    let run = match &step.action {
        StepAction::Run(program, arguments) => {
            let mut all = vec![program.clone()];
            for snippet in arguments {
                let argument = text(snippet)?;
                // An argument that begins with an answer is an operand, never an option.
                if snippet.text().trim_start().starts_with("{=") && argument.starts_with('-') {
                    return Err(refused(UnsafeStep::Option(argument)));
                }
                if argument.contains('\0') {
                    return Err(refused(UnsafeStep::Nul));
                }
                all.push(argument);
            }
            StepCommand::Program(all)
        }
        StepAction::Git(message) => StepCommand::Git(text(message)?),
    };
    let folder = step.folder.as_ref().map(text).transpose()?.unwrap_or_default();
    if !folder.is_empty() {
        portable_path(&folder)
            .map_err(|reason| refused(UnsafeStep::Folder { folder: folder.clone(), reason }))?;
    }
    let mut environment = BTreeMap::new();
    for (name, value) in &step.environment {
        environment.insert(name.clone(), text(value)?);
    }
    let name = match &run {
        StepCommand::Program(all) => all.first().map_or("", String::as_str),
        StepCommand::Git(_) => "git",
    };
    let program = if name.contains(['/', '\\']) {
        FoundProgram::OfProject(name.to_owned())
    } else {
        let found = read.and_then(|_| process::find(name));
        found.map_or_else(|| FoundProgram::Missing(name.to_owned()), FoundProgram::At)
    };
    let code = match (&run, read) {
        (StepCommand::Program(all), Some(read)) => project_code(all, &folder, read),
        _ => ProjectCode::None,
    };
    Ok(OfferedStep {
        program,
        code,
        left_out: Vec::new(),
        name: step.name.clone(),
        label: step.label.clone(),
        run,
        folder,
        environment,
        tick: step.tick,
        after: step.after.clone(),
        limit: step.limit,
        interactive: step.interactive,
        proof: step.proof,
        asks: step.asks.as_ref().map(text).transpose()?,
    })
}
