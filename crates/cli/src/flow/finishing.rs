//! Finishing steps: which are offered, who vouches for them, their progress, and what is left to
//! do.

use crate::exit::Exit;
use crate::global::GlobalOptions;
use crate::interrupt::Watch;
use crate::state;
use crate::text::program::program;
use crate::text::steps::shell;
use crate::text::style::{BOLD, ERROR, FAINT, GOOD, WARN, plain, safe};
use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};
use serde_json::{Value as Json, json};
use std::collections::BTreeMap;
use std::io::IsTerminal;
use std::path::Path;
use std::time::Duration;
use tinmold_platform::paths::resolved;
use tinmold_platform::process::Ended;
use tinmold_platform::repository;
use tinmold_project::steps::{
    OfferedStep, StepChoice, StepCommand, StepObserver, StepReport, StepResult, run_steps,
};
use tinmold_project::write::Observer;

/// The results of the steps.
pub struct Finished {
    pub reports: Vec<StepReport>,
    /// The steps that are not done, with their commands.
    left: Vec<OfferedStep>,
    interrupted: bool,
}

impl Finished {
    /// Returns the exit code after these steps.
    pub fn exit(&self) -> Exit {
        let failed = |report: &StepReport| matches!(report.result, StepResult::Failed(_));
        if self.interrupted {
            Exit::Interrupted
        } else if self.reports.iter().any(failed) {
            Exit::Failed
        } else {
            Exit::Done
        }
    }

    /// Returns the steps that ran, and those that are left.
    pub fn as_json(&self) -> Vec<Json> {
        let ran = self.reports.iter().map(|report| {
            let (result, why) = match &report.result {
                StepResult::Done(note) => ("done", note.clone()),
                StepResult::Skipped(why) => ("skipped", Some(why.clone())),
                StepResult::Failed(ended) => ("failed", Some(ended.to_string())),
            };
            let log = report.log.as_ref().map(|log| log.display().to_string());
            json!({ "name": report.name, "result": result, "why": why, "log": log })
        });
        let is_new = |step: &&OfferedStep| self.reports.iter().all(|report| report.name != step.name);
        let left = self
            .left
            .iter()
            .filter(is_new)
            .map(|step| json!({ "name": step.name, "result": "open", "why": null, "log": null }));
        ran.chain(left).collect()
    }

    /// Says what is still to do, ready to copy.
    pub fn print_open(&self) {
        if self.left.is_empty() {
            return;
        }
        say!("\n{BOLD}Still to do{BOLD:#} {FAINT}(or type: {} finish){FAINT:#}", safe(&program()));
        for step in &self.left {
            say!("  {}", safe(&step.label));
            for command in step.commands() {
                say!("    {}", safe(&shell(&command)));
            }
        }
    }
}

/// Runs the chosen steps in the project at `root`, and stores which are done.
pub fn run_chosen(choice: &StepChoice, root: &Path, global: GlobalOptions) -> Finished {
    let mut done = state::done_steps(root);
    let is_done = |done: &BTreeMap<String, String>, step: &OfferedStep| {
        done.get(&step.name).is_some_and(|was| *was == identity(step))
    };
    let chosen: Vec<OfferedStep> = choice.chosen();
    let names: Vec<String> =
        choice.steps.iter().filter(|step| is_done(&done, step)).map(|step| step.name.clone()).collect();
    let watch = Watch::new(true);
    let mut view = View { watch, global, bar: None };
    let mut reports = Vec::new();
    if !chosen.is_empty() {
        let logs = state::log_folder(root);
        reports = run_steps(&chosen, &names, root, logs.as_deref(), &mut view);
        for (step, report) in chosen.iter().zip(&reports) {
            match report.result {
                StepResult::Done(_) => drop(done.insert(step.name.clone(), identity(step))),
                _ => drop(done.remove(&step.name)),
            }
        }
        state::store_done_steps(root, &done);
    }
    // A proof that was not ticked is not an open step.
    let in_repository = repository::around(&resolved(root)).is_some();
    let is_open = |step: &&OfferedStep| {
        let is_git = matches!(step.run, StepCommand::Git(_));
        !(is_done(&done, step) || step.proof || (is_git && in_repository))
    };
    let left = choice.steps.iter().filter(is_open).cloned().collect();
    let interrupted = view.watch.is_cancelled();
    Finished { reports, left, interrupted }
}

/// Returns what identifies a step of a name: its command.
pub fn identity(step: &OfferedStep) -> String {
    let all = format!("{:?} {:?} {:?} {:?}", step.commands(), step.folder, step.environment, step.asks);
    tinmold_platform::digest::digest_of(all.as_bytes()).to_string()
}

/// Shows the steps while they run.
struct View {
    watch: Watch,
    global: GlobalOptions,
    bar: Option<ProgressBar>,
}

impl StepObserver for View {
    fn begins(&mut self, step: &OfferedStep) {
        if self.global.quiet {
            return;
        }
        let label = safe(&step.label);
        if self.global.plain || self.global.verbose || step.interactive || !std::io::stderr().is_terminal() {
            say!("{FAINT}running{FAINT:#}  {label}");
            return;
        }
        let bar = ProgressBar::with_draw_target(None, ProgressDrawTarget::stderr_with_hz(10));
        // The template is a constant of this file.
        if let Ok(style) = ProgressStyle::with_template("{spinner} {prefix}  {elapsed}  {wide_msg}") {
            bar.set_style(style.tick_chars("▖▘▝▗■"));
        }
        bar.set_prefix(label);
        bar.enable_steady_tick(Duration::from_millis(120));
        self.bar = Some(bar);
    }

    fn line(&mut self, _: &OfferedStep, line: &[u8]) {
        let text = String::from_utf8_lossy(line);
        let text = safe(plain(&text).trim_end());
        match &self.bar {
            Some(bar) => bar.set_message(text),
            None if self.global.verbose && !self.global.quiet => say!("  {text}"),
            None => {}
        }
    }

    fn ended(&mut self, step: &OfferedStep, report: &StepReport) {
        if let Some(bar) = self.bar.take() {
            bar.finish_and_clear();
        }
        let (label, took) = (safe(&step.label), format!("{:.1} s", report.took.as_secs_f64()));
        match &report.result {
            StepResult::Done(_) if self.global.quiet => {}
            StepResult::Done(note) => {
                let word = if step.proof { "proved" } else { "done" };
                say!("{GOOD}{word:<8}{GOOD:#} {label}  {FAINT}{took}{FAINT:#}");
                if let Some(note) = note {
                    say!("         {}", safe(note));
                }
            }
            StepResult::Skipped(why) => say!("{WARN}skipped{WARN:#}  {label}: {}", safe(why)),
            StepResult::Failed(ended) => self.failed(step, report, ended),
        }
    }

    fn is_cancelled(&self) -> bool {
        self.watch.is_cancelled()
    }

    fn has_terminal(&self) -> bool {
        std::io::stdin().is_terminal() && std::io::stderr().is_terminal()
    }
}

impl View {
    fn failed(&self, step: &OfferedStep, report: &StepReport, ended: &Ended) {
        say!("{ERROR}failed{ERROR:#}   {}: {}", safe(&step.label), safe(&ended.to_string()));
        if !self.global.verbose {
            for line in &report.last {
                say!("  {FAINT}{}{FAINT:#}", safe(&plain(line)));
            }
        }
        if let Some(log) = &report.log {
            say!("  all of it: {}", safe(&log.display().to_string()));
        }
        say!("  again:     {} finish {}", safe(&program()), safe(&step.name));
    }
}
