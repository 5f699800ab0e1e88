//! Finishing steps, carried out one after the other.

use super::offered::{FoundProgram, OfferedStep, StepCommand};
use super::serve;
use std::fs::{self, File};
use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::Command;
use std::time::Duration;
use tinmold_platform::process::{self, Ended, Outcome};

/// Is told of the progress of steps, and can stop them.
pub trait StepObserver {
    /// A step begins.
    fn begins(&mut self, step: &OfferedStep);
    /// A line of its output, as it came.
    fn line(&mut self, step: &OfferedStep, line: &[u8]);
    /// A step ended.
    fn ended(&mut self, step: &OfferedStep, report: &StepReport);
    /// Returns true to stop.
    fn is_cancelled(&self) -> bool {
        false
    }
    /// Returns true if there is a terminal for steps that need one.
    fn has_terminal(&self) -> bool {
        false
    }
}

/// The result of a step.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum StepResult {
    /// Done; what is worth saying about it, if anything.
    Done(Option<String>),
    /// Not run, and why.
    Skipped(String),
    /// Failed.
    Failed(Ended),
}

/// A step that is over.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct StepReport {
    /// The step's name.
    pub name: String,
    /// The result.
    pub result: StepResult,
    /// How long the step took.
    pub took: Duration,
    /// Its last lines.
    pub last: Vec<String>,
    /// The log with its whole output.
    pub log: Option<PathBuf>,
}

/// The number of last lines in a report.
const LAST: usize = 12;

/// Runs `chosen` in the project at `root`. `done` names the steps that are done already. Logs are
/// written to `logs`.
///
/// A step whose conditions are not met is skipped. After an interrupt no further step runs.
pub fn run_steps(
    chosen: &[OfferedStep],
    done: &[String],
    root: &Path,
    logs: Option<&Path>,
    steps: &mut dyn StepObserver,
) -> Vec<StepReport> {
    let mut reports: Vec<StepReport> = Vec::new();
    for step in chosen {
        let is_done = |name: &String| {
            done.contains(name)
                || reports
                    .iter()
                    .any(|report| report.name == *name && matches!(report.result, StepResult::Done(_)))
        };
        let skipped = |why: String| StepReport {
            name: step.name.clone(),
            result: StepResult::Skipped(why),
            took: Duration::ZERO,
            last: Vec::new(),
            log: None,
        };
        let report = if steps.is_cancelled() {
            skipped("interrupted before".into())
        } else if let Some(first) = step.after.iter().find(|name| !is_done(name)) {
            skipped(format!("it comes after {first}, which is not done"))
        } else if step.interactive && !steps.has_terminal() {
            skipped("it asks questions, and there is no terminal".into())
        } else {
            steps.begins(step);
            one(step, root, logs, steps)
        };
        steps.ended(step, &report);
        reports.push(report);
    }
    reports
}

fn one(step: &OfferedStep, root: &Path, logs: Option<&Path>, steps: &mut dyn StepObserver) -> StepReport {
    let path = logs.map(|logs| logs.join(format!("{}.log", step.name)));
    let mut log = path.as_ref().and_then(|path| {
        fs::create_dir_all(path.parent()?).ok()?;
        File::create(path).ok()
    });
    let mut last: Vec<String> = Vec::new();
    let (outcome, note) = {
        let (steps, last) = (std::cell::RefCell::new(steps), &mut last);
        let mut each = |line: &[u8]| {
            if let Some(log) = &mut log
                && let Err(error) = log.write_all(line)
            {
                tracing::warn!(%error, "cannot write the log of a step");
            }
            if last.len() == LAST {
                last.remove(0);
            }
            last.push(String::from_utf8_lossy(line).trim_end().to_owned());
            steps.borrow_mut().line(step, line);
        };
        let is_cancelled = || steps.try_borrow().is_ok_and(|steps| steps.is_cancelled());
        carry_out(step, root, &is_cancelled, &mut each)
    };
    let result = match outcome.ended {
        Ended::Exit(0) => StepResult::Done(note),
        ended => StepResult::Failed(ended),
    };
    StepReport { name: step.name.clone(), result, took: outcome.took, last, log: log.and(path) }
}

fn carry_out(
    step: &OfferedStep,
    root: &Path,
    is_cancelled: &dyn Fn() -> bool,
    each: &mut dyn FnMut(&[u8]),
) -> (Outcome, Option<String>) {
    let folder = root.join(&step.folder);
    // A step may have made a link of a folder since.
    let inside = folder.canonicalize().ok().zip(root.canonicalize().ok());
    let Some((folder, _)) = inside.filter(|(folder, root)| folder.starts_with(root)) else {
        let why = format!("its folder {} is not in the project", folder.display());
        return (Outcome { ended: Ended::NotStarted(why), took: Duration::ZERO }, None);
    };
    match &step.run {
        StepCommand::Git(message) => git(step, &folder, message, is_cancelled, each),
        StepCommand::Program(arguments) => {
            let name = arguments.first().map_or("", String::as_str);
            let mut command = match &step.program {
                // What was shown is what runs.
                FoundProgram::At(path) => {
                    let mut command = Command::new(path);
                    command.current_dir(&folder);
                    command
                }
                _ => process::command(name, &folder),
            };
            command.args(arguments.iter().skip(1)).envs(added(step));
            // Answers may be secrets, and are not for the steps of a mold.
            for (variable, _) in std::env::vars_os() {
                if variable.to_string_lossy().starts_with("TINMOLD_ANSWER_") {
                    command.env_remove(variable);
                }
            }
            let outcome = match &step.asks {
                _ if step.interactive => process::run_on_terminal(&mut command),
                Some(address) => serve::prove(&mut command, address, step.limit, is_cancelled, each),
                None => process::run(&mut command, step.limit, is_cancelled, each),
            };
            let note = step.asks.as_ref().map(|address| format!("{address} answered"));
            (outcome, note)
        }
    }
}

/// Returns the variables that are added to the environment: none that the user has set.
fn added(step: &OfferedStep) -> impl Iterator<Item = (&String, &String)> {
    step.environment.iter().filter(|(name, _)| std::env::var_os(name).is_none())
}

/// Creates a repository with a first commit, unless the project is in one already or git does not
/// know the committer.
fn git(
    step: &OfferedStep,
    folder: &Path,
    message: &str,
    is_cancelled: &dyn Fn() -> bool,
    each: &mut dyn FnMut(&[u8]),
) -> (Outcome, Option<String>) {
    let run = |arguments: &[&str], each: &mut dyn FnMut(&[u8])| {
        let mut command = process::git(folder);
        command.args(arguments).envs(added(step));
        process::run(&mut command, step.limit, is_cancelled, each)
    };
    let quiet: &mut dyn FnMut(&[u8]) = &mut |_| {};
    let looked = run(&["rev-parse", "--is-inside-work-tree"], quiet);
    match looked.ended {
        Ended::Exit(0) => {
            return (looked, Some("the folder is in a git repository already".into()));
        }
        Ended::NotStarted(why) => {
            let done = Outcome { ended: Ended::Exit(0), took: looked.took };
            return (done, Some(format!("left out: {why}")));
        }
        // What is not a repository may still have settings that name programs.
        _ if fs::symlink_metadata(folder.join(".git")).is_ok() => {
            let done = Outcome { ended: Ended::Exit(0), took: looked.took };
            return (done, Some("left out: there is a .git that git does not take for a repository".into()));
        }
        _ => {}
    }
    let mut took = looked.took;
    let commands = step.commands();
    // The last one is the commit, which needs to know the committer.
    for command in commands.iter().take(commands.len().saturating_sub(1)) {
        let arguments: Vec<&str> = command.iter().skip(1).map(String::as_str).collect();
        let outcome = run(&arguments, each);
        took += outcome.took;
        if !outcome.ended.is_success() {
            return (outcome, None);
        }
    }
    if !run(&["var", "GIT_COMMITTER_IDENT"], quiet).ended.is_success() {
        let note = "without a first commit: git does not know your name; set user.name and user.email with `git config --global`";
        return (Outcome { ended: Ended::Exit(0), took }, Some(note.into()));
    }
    let outcome = run(&["commit", "--quiet", "--message", message], each);
    (Outcome { took: took + outcome.took, ..outcome }, None)
}
