//! Finishing steps: what is offered, who vouches for it, how it goes, and what is left to do.

use crate::exit::Exit;
use crate::failure::Failure;
use crate::interrupt::Watch;
use crate::keep;
use crate::show::{BOLD, ERROR, FAINT, GOOD, NAME, WARN, quoted, safe};
use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};
use std::collections::BTreeMap;
use std::io::IsTerminal;
use std::path::Path;
use std::time::Duration;
use tinmold_core::finish::{Ended, Step, StepError, StepReport, StepResult, Steps, offered, run_steps};
use tinmold_core::mold::Mold;
use tinmold_core::shelf::Origin;
use tinmold_core::write::Observer;
use tinmold_notation::{Values, did_you_mean};

/// The steps that are offered, and which of them are to run.
pub struct Finishing {
    pub steps: Vec<Step>,
    pub ticked: Vec<bool>,
    /// Whether the mold is of the built-in shelf, or somebody said so for its digest.
    pub vouched: bool,
    /// Where a mold that nobody vouched for comes from, and its digest.
    pub origin: String,
    pub digest: String,
}

impl Finishing {
    /// The steps of a mold for these values: ticked as the mold says if somebody vouches for it, else not.
    pub fn new(mold: &Mold, values: &Values, vouch: Option<&str>) -> Result<Self, Failure> {
        let steps = offered(mold, values).map_err(|error| match error {
            StepError::Faulty(finding) => Failure::findings(&[*finding], &mold.package),
            unsafe_step @ StepError::Unsafe { .. } => {
                Failure::new(Exit::Refused, format!("{unsafe_step}; nothing was written"))
                    .help("give another answer, or tell the mold's author")
            }
        })?;
        let built_in = matches!(mold.package.origin, Origin::BuiltIn(_));
        let digest = if built_in || steps.is_empty() {
            String::new()
        } else {
            mold.package.digest().map_err(Failure::from)?.to_string()
        };
        if let Some(vouch) = vouch
            && !digest.is_empty()
            && *vouch != digest
        {
            let message =
                format!("the digest of {} is another one; nothing was written", mold.package.origin);
            return Err(Failure::new(Exit::Refused, message)
                .line(format!("it is         {digest}"))
                .line(format!("vouched for   {}", safe(vouch)))
                .help("look at the mold again before you vouch for it as it is now"));
        }
        let vouched = built_in || vouch.is_some() || keep::is_vouched(&digest);
        let ticked = steps.iter().map(|step| vouched && step.tick).collect();
        Ok(Self { steps, ticked, vouched, origin: mold.package.origin.to_string(), digest })
    }

    /// Ticks what `--finish` or a command's arguments say.
    pub fn tick(&mut self, said: &str) -> Result<(), Failure> {
        let names: Vec<&str> = said.split(',').map(str::trim).filter(|name| !name.is_empty()).collect();
        for name in &names {
            if !matches!(*name, "all" | "none") && !self.steps.iter().any(|step| step.name == *name) {
                let known = || self.steps.iter().map(|step| step.name.as_str());
                let all = known().collect::<Vec<_>>().join(", ");
                let none =
                    if all.is_empty() { "there are none here".into() } else { format!("there are {all}") };
                let advice = did_you_mean(name, known(), none);
                return Err(Failure::new(
                    Exit::Usage,
                    format!("no finishing step is called {name:?}; {advice}"),
                ));
            }
        }
        for (ticked, step) in self.ticked.iter_mut().zip(&self.steps) {
            *ticked = names.contains(&"all") || names.contains(&step.name.as_str());
        }
        if self.vouched || !self.ticked.contains(&true) {
            return Ok(());
        }
        let message = "nobody vouches for the finishing steps of this mold; nothing was done";
        let mut failure = Failure::new(Exit::Refused, message)
            .line(format!("from {}", safe(&self.origin)))
            .line(format!("sha256 {}", self.digest));
        for command in self.chosen().iter().flat_map(Step::commands) {
            failure = failure.line(safe(&shell(&command)));
        }
        Err(failure.help(format!("if you mean to run these, add --vouch {}", self.digest)))
    }

    /// Ticks these and no others.
    pub fn keep(&mut self, names: &[String]) {
        for (ticked, step) in self.ticked.iter_mut().zip(&self.steps) {
            *ticked = names.contains(&step.name);
        }
    }

    /// The names of what is ticked.
    pub fn names(&self) -> Vec<String> {
        self.chosen().into_iter().map(|step| step.name).collect()
    }

    /// Offers nothing.
    pub fn clear(&mut self) {
        self.steps.clear();
        self.ticked.clear();
    }

    /// The steps that are to run.
    pub fn chosen(&self) -> Vec<Step> {
        let both = self.steps.iter().zip(&self.ticked);
        both.filter(|(_, ticked)| **ticked).map(|(step, _)| step.clone()).collect()
    }

    /// A line a command: what will run, and what will not.
    pub fn text(&self) -> String {
        if self.steps.is_empty() {
            return String::new();
        }
        let mut out = format!("\n{BOLD}Afterwards{BOLD:#}\n");
        if !self.vouched {
            out += &format!(
                "  {WARN}Nobody vouches for these steps:{WARN:#} they come from {}\n  {FAINT}sha256 {}{FAINT:#}\n",
                safe(&self.origin),
                self.digest
            );
        }
        for (step, ticked) in self.steps.iter().zip(&self.ticked) {
            let (mark, word) = if *ticked { ("■", "runs") } else { ("□", "does not run") };
            out += &format!("  {mark} {}  {FAINT}({word}){FAINT:#}\n", safe(&step.label));
            for command in step.commands() {
                out += &format!("      {NAME}{}{NAME:#}{}\n", safe(&shell(&command)), circumstances(step));
            }
        }
        out
    }
}

/// Where and with what a step runs, if that is not the usual.
fn circumstances(step: &Step) -> String {
    let mut all: Vec<String> = Vec::new();
    if !step.folder.is_empty() {
        all.push(format!("in {}", step.folder));
    }
    all.extend(step.environment.iter().map(|(name, value)| format!("{name}={}", quoted(value))));
    if let Some(address) = &step.asks {
        all.push(format!("until {address} answers"));
    }
    if all.is_empty() { String::new() } else { format!("  {FAINT}{}{FAINT:#}", safe(&all.join(", "))) }
}

/// An argument list as one types it.
pub fn shell(command: &[String]) -> String {
    command.iter().map(|word| quoted(word)).collect::<Vec<_>>().join(" ")
}

/// What came of the steps.
pub struct Finished {
    pub reports: Vec<StepReport>,
    /// The steps that are not done, with their commands.
    left: Vec<Step>,
    interrupted: bool,
}

impl Finished {
    /// How the program ends after these.
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

    /// Says what is still to do, ready to copy.
    pub fn say_what_is_left(&self) {
        if self.left.is_empty() {
            return;
        }
        anstream::eprintln!("\n{BOLD}Still to do{BOLD:#} {FAINT}(or type: tinmold finish){FAINT:#}");
        for step in &self.left {
            anstream::eprintln!("  {}", safe(&step.label));
            for command in step.commands() {
                anstream::eprintln!("    {}{}", safe(&shell(&command)), circumstances(step));
            }
        }
    }
}

/// Runs the chosen steps in the casting at `root`, and keeps which are done.
pub fn carry_out(finishing: &Finishing, root: &Path, verbose: bool, plain: bool, quiet: bool) -> Finished {
    let mut done = keep::done_steps(root);
    let is_done = |done: &BTreeMap<String, String>, step: &Step| {
        done.get(&step.name).is_some_and(|was| *was == identity(step))
    };
    let chosen: Vec<Step> = finishing.chosen();
    let names: Vec<String> =
        finishing.steps.iter().filter(|step| is_done(&done, step)).map(|step| step.name.clone()).collect();
    let watch = Watch::new(true);
    let mut view = View { watch, verbose, plain, quiet, bar: None };
    let mut reports = Vec::new();
    if !chosen.is_empty() {
        let logs = keep::log_folder(root);
        reports = run_steps(&chosen, &names, root, logs.as_deref(), &mut view);
        for (step, report) in chosen.iter().zip(&reports) {
            match report.result {
                StepResult::Done(_) => drop(done.insert(step.name.clone(), identity(step))),
                _ => drop(done.remove(&step.name)),
            }
        }
        keep::keep_done_steps(root, &done);
    }
    // A proof that nobody wanted is no work left undone.
    let left = finishing.steps.iter().filter(|step| !is_done(&done, step) && !step.proof).cloned().collect();
    let interrupted = view.watch.is_cancelled();
    Finished { reports, left, interrupted }
}

/// What tells a step from another one of the same name: what it runs.
pub fn identity(step: &Step) -> String {
    let all = format!("{:?} {:?} {:?} {:?}", step.commands(), step.folder, step.environment, step.asks);
    tinmold_core::record::digest_of(all.as_bytes()).to_string()
}

/// Shows the steps while they run.
struct View {
    watch: Watch,
    verbose: bool,
    plain: bool,
    quiet: bool,
    bar: Option<ProgressBar>,
}

impl Steps for View {
    fn begins(&mut self, step: &Step) {
        if self.quiet {
            return;
        }
        let label = safe(&step.label);
        if self.plain || self.verbose || step.interactive || !std::io::stderr().is_terminal() {
            anstream::eprintln!("{FAINT}running{FAINT:#}  {label}");
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

    fn line(&mut self, _: &Step, line: &[u8]) {
        let text = String::from_utf8_lossy(line);
        let text = safe(anstream::adapter::strip_str(&text).to_string().trim_end());
        match &self.bar {
            Some(bar) => bar.set_message(text),
            None if self.verbose && !self.quiet => anstream::eprintln!("  {text}"),
            None => {}
        }
    }

    fn ended(&mut self, step: &Step, report: &StepReport) {
        if let Some(bar) = self.bar.take() {
            bar.finish_and_clear();
        }
        let (label, took) = (safe(&step.label), format!("{:.1} s", report.took.as_secs_f64()));
        match &report.result {
            StepResult::Done(_) if self.quiet => {}
            StepResult::Done(note) => {
                let word = if step.proof { "proved" } else { "done" };
                anstream::eprintln!("{GOOD}{word:<8}{GOOD:#} {label}  {FAINT}{took}{FAINT:#}");
                if let Some(note) = note {
                    anstream::eprintln!("         {}", safe(note));
                }
            }
            StepResult::Skipped(why) => anstream::eprintln!("{WARN}skipped{WARN:#}  {label}: {}", safe(why)),
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
    fn failed(&self, step: &Step, report: &StepReport, ended: &Ended) {
        anstream::eprintln!("{ERROR}failed{ERROR:#}   {}: {}", safe(&step.label), safe(&ended.to_string()));
        if !self.verbose {
            for line in &report.last {
                anstream::eprintln!(
                    "  {FAINT}{}{FAINT:#}",
                    safe(&anstream::adapter::strip_str(line).to_string())
                );
            }
        }
        if let Some(log) = &report.log {
            anstream::eprintln!("  all of it: {}", safe(&log.display().to_string()));
        }
        anstream::eprintln!("  again:     tinmold finish {}", safe(&step.name));
    }
}
