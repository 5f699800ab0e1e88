//! One set of answers, cast into a folder and proven there.

use super::ports::set_free_ports;
use super::proven::Proven;
use super::report::{SetProof, Target, TargetResult};
use super::{ProveObserver, ProveOptions};
use crate::check::parts::answered;
use crate::sets::{AnswerSet, session};
use std::fs;
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};
use tinmold_mold::Mold;
use tinmold_project::answers::Answers;
use tinmold_project::fit::{FitError, Fitting, OnClash, in_folder};
use tinmold_project::plan::{Limits, Plan};
use tinmold_project::record;
use tinmold_project::steps::{OfferedStep, StepObserver, StepReport, StepResult, proofs, run_steps};
use tinmold_project::verify::VerifiedPlan;
use tinmold_project::write::{Journals, inspect};

/// The proof of one set.
pub(super) struct SetRun<'a> {
    mold: &'a Mold,
    options: &'a ProveOptions,
    proven: &'a Proven,
    /// The earlier version that projects are cast from.
    from: Option<&'a Mold>,
    folder: PathBuf,
}

/// Watches the steps of a set.
struct View<'a> {
    observer: &'a dyn ProveObserver,
}

impl StepObserver for View<'_> {
    fn begins(&mut self, _: &OfferedStep) {}

    fn line(&mut self, _: &OfferedStep, _: &[u8]) {}

    fn ended(&mut self, _: &OfferedStep, _: &StepReport) {}

    fn is_cancelled(&self) -> bool {
        self.observer.is_cancelled()
    }
}

/// What a project of these answers is, and what runs in it.
pub(super) struct Cast<'m> {
    answers: Answers,
    pub(super) plan: VerifiedPlan<'m>,
    steps: Vec<OfferedStep>,
    /// The steps that need a network, and those after them, if there is none.
    left_out: Vec<Target>,
}

impl<'a> SetRun<'a> {
    /// `label` tells the folder of the set from those of others.
    pub(super) fn new(mold: &'a Mold, options: &'a ProveOptions, proven: &'a Proven, label: &str) -> Self {
        let folder = options.folder.join(format!("{}-{label}", mold.name()));
        Self { mold, options, proven, from: options.from.as_deref(), folder }
    }

    /// Returns the same for the earlier version itself.
    pub(super) fn of_earlier(&self, old: &'a Mold) -> Self {
        Self { mold: old, from: None, folder: self.folder.clone(), ..*self }
    }

    pub(super) fn mold(&self) -> &'a Mold {
        self.mold
    }

    pub(super) fn limits(&self) -> Limits {
        self.options.limits
    }

    /// Returns where the project of the set is.
    pub(super) fn root(&self) -> PathBuf {
        self.folder.join("project")
    }

    /// Returns where a write keeps what it needs if it is killed: beside the project, which nobody needs then.
    pub(super) fn journals(&self) -> Journals {
        Journals::new(Some(self.folder.join("journals")))
    }

    /// Casts a set and runs its proofs, then fits all parts and runs them again.
    pub(super) fn prove(&self, set: &AnswerSet, observer: &dyn ProveObserver) -> SetProof {
        let proof =
            |targets, is_remembered, folder| SetProof { set: set.clone(), targets, is_remembered, folder };
        let only = |result| proof(vec![Target::new("cast", result)], false, None);
        let cast = match self.from {
            None => self.cast(set, false).map_err(TargetResult::Failed),
            Some(old) => self.expected(old, set),
        };
        let cast = match cast {
            Ok(cast) => cast,
            Err(why) => return only(why),
        };
        if let Some(unmet) = self.proven.unmet(self.mold, &cast.answers) {
            return only(TargetResult::Skipped(unmet));
        }
        if !cast.left_out.is_empty() && !cast.steps.iter().any(|step| step.proof) {
            return proof(cast.left_out, false, None);
        }
        // What comes out of a recast depends on more than the mold.
        let key = if self.from.is_some() { None } else { self.proven.key(&cast.plan, &cast.steps) };
        if let Some(targets) = key.as_deref().and_then(|key| self.proven.known(key)) {
            return proof([targets, cast.left_out].concat(), true, None);
        }
        drop(fs::remove_dir_all(&self.folder));
        let begun = Instant::now();
        let mut targets = self.run(set, observer, begun);
        let failed = targets.iter().any(|target| matches!(target.result, TargetResult::Failed(_)));
        let all_passed = targets.iter().all(|target| target.result == TargetResult::Passed);
        let left_out = cast.left_out;
        if failed {
            targets.iter_mut().for_each(|target| target.last.truncate(40));
            return proof(targets, false, Some(self.folder.clone()));
        }
        if let (Some(key), true) = (&key, all_passed) {
            self.proven.remember(key, &targets);
        }
        if let Err(error) = fs::remove_dir_all(&self.folder) {
            tracing::warn!(%error, folder = %self.folder.display(), "cannot remove a proven project");
        }
        proof([targets, left_out].concat(), false, None)
    }

    /// Makes the plan of a set. With `real`, secrets are made and ports are free ones; else it is the same always.
    pub(super) fn cast(&self, set: &AnswerSet, real: bool) -> Result<Cast<'a>, String> {
        let mold = self.mold;
        let mut session = session(mold, set).map_err(|finding| finding.message)?;
        if let Some(problem) = session.problems().first() {
            return Err(format!("the answer to {} is refused: {}", problem.key, problem.refusal.reason));
        }
        let mut answers = match real {
            true => {
                set_free_ports(mold, &mut session)?;
                session.finish().map_err(|problems| {
                    problems.first().map_or_else(String::new, |problem| problem.refusal.reason.clone())
                })?
            }
            false => session.preview(),
        };
        let folder = mold.folder_name(&answers.values).map_err(|finding| finding.message)?;
        answers.set_folder(mold, &folder);
        self.of_answers(answers)
    }

    /// Makes the plan of these answers.
    pub(super) fn of_answers(&self, answers: Answers) -> Result<Cast<'a>, String> {
        let mold = self.mold;
        let plan = Plan::new(mold, &answers, &self.options.limits).map_err(|error| reason(&error))?;
        let plan = plan.verify().map_err(|error| reason(&error))?;
        let read = |path: &str| {
            let entry = plan.entries.iter().find(|entry| entry.path == path)?;
            String::from_utf8(plan.content(entry).ok()?).ok()
        };
        let (mut steps, networked) =
            proofs(mold, &answers.values, Some(&read)).map_err(|error| error.to_string())?;
        let left_out = if self.options.offline { without_network(&mut steps, networked) } else { Vec::new() };
        Ok(Cast { answers, plan, steps, left_out })
    }

    fn run(&self, set: &AnswerSet, observer: &dyn ProveObserver, begun: Instant) -> Vec<Target> {
        if let Some(old) = self.from {
            let (mut targets, cast) = self.follow(old, set);
            let root = self.root();
            let steps = cast.map(|cast| self.steps(&cast.steps, &root, "logs", observer, begun));
            targets.extend(steps.into_iter().flatten());
            return targets;
        }
        let cast = match self.cast(set, true) {
            Ok(cast) => cast,
            Err(why) => return vec![Target::new("cast", TargetResult::Failed(why))],
        };
        let root = self.root();
        let mut targets = vec![Target::new("cast", self.write(&cast, &root))];
        if targets[0].result != TargetResult::Passed {
            return targets;
        }
        targets.extend(self.steps(&cast.steps, &root, "logs", observer, begun));
        if targets.iter().any(|target| target.result != TargetResult::Passed) {
            return targets;
        }
        let fitted = self.fit_all(set, &root);
        if fitted.is_empty() {
            return targets;
        }
        let is_fine = fitted.iter().all(|target| target.result == TargetResult::Passed);
        targets.extend(fitted);
        if is_fine {
            let again = self.steps(&cast.steps, &root, "logs-with-parts", observer, begun);
            targets.extend(again.into_iter().map(|target| Target { with_parts: true, ..target }));
        }
        targets
    }

    pub(super) fn write(&self, cast: &Cast<'_>, root: &Path) -> TargetResult {
        let written = fs::create_dir_all(&self.folder).map_err(|error| error.to_string()).and_then(|()| {
            let inspection = inspect(&cast.plan, root).map_err(|error| reason(&error))?;
            let written = cast.plan.write(&inspection, &[], &self.journals(), &());
            written.map(drop).map_err(|error| reason(&error))
        });
        written.map_or_else(TargetResult::Failed, |()| TargetResult::Passed)
    }

    /// Runs the proofs and what they come after.
    fn steps(
        &self,
        steps: &[OfferedStep],
        root: &Path,
        logs: &str,
        observer: &dyn ProveObserver,
        begun: Instant,
    ) -> Vec<Target> {
        let left = self.options.set_limit.saturating_sub(begun.elapsed());
        let limited: Vec<OfferedStep> =
            steps.iter().map(|step| OfferedStep { limit: step.limit.min(left), ..step.clone() }).collect();
        let logs = self.folder.join(logs);
        let reports = run_steps(&limited, &[], root, Some(&logs), &mut View { observer });
        let target = |(step, report): (&OfferedStep, StepReport)| {
            let result = match report.result {
                StepResult::Done(_) => TargetResult::Passed,
                StepResult::Skipped(why) => TargetResult::Skipped(why),
                StepResult::Failed(ended) => TargetResult::Failed(ended.to_string()),
            };
            let command = step.commands().into_iter().next().unwrap_or_default();
            let (took, last) = (report.took, report.last);
            Target { took, last, command, ..Target::new(&report.name, result) }
        };
        limited.iter().zip(reports).map(target).collect()
    }

    /// Fits every part that goes into the project, with the answers that it offers.
    pub(super) fn fit_all(&self, set: &AnswerSet, root: &Path) -> Vec<Target> {
        let mut targets = Vec::new();
        for name in self.mold.parts() {
            let Ok(part) = self.mold.part(name) else { continue };
            if part.stands_alone() && !part.fits.iter().any(|fits| fits == self.mold.name()) {
                continue;
            }
            let begun = Instant::now();
            let fit = || -> Result<bool, String> {
                let answers = answered(self.mold, &part, set, &AnswerSet::default());
                let Some(answers) = answers.map_err(|finding| finding.message)? else { return Ok(false) };
                if let Some(network) = part.network.as_ref().filter(|_| self.options.offline)
                    && network.holds(&part.mold.scope, &answers.values).map_err(|finding| finding.message)?
                {
                    return Ok(false);
                }
                let read = in_folder(root);
                let fitting = match Fitting::new(&part, &answers, &read, &self.options.limits, OnClash::Ask) {
                    Ok(fitting) => fitting,
                    Err(FitError::DoesNotGo { .. }) => return Ok(false),
                    Err(error) => return Err(reason(&error)),
                };
                if let Some(missing) = fitting.missing.first() {
                    return Err(format!("{} {}", missing.path, missing.why));
                }
                let inspection = inspect(&fitting.plan, root).map_err(|error| reason(&error))?;
                let recorded = record::open(root).map_err(|error| reason(&error))?;
                fitting
                    .write(&inspection, &[], Some(&recorded), &self.journals(), &())
                    .map_err(|error| reason(&error))?;
                Ok(true)
            };
            let result = match fit() {
                Ok(true) => TargetResult::Passed,
                Ok(false) => continue,
                Err(why) => TargetResult::Failed(why),
            };
            let took: Duration = begun.elapsed();
            targets.push(Target { took, ..Target::new(&format!("fit {name}"), result) });
        }
        targets
    }
}

/// Takes out the steps that need a network, and those that come after them.
fn without_network(steps: &mut Vec<OfferedStep>, networked: Vec<String>) -> Vec<Target> {
    let mut out = networked;
    while let Some(next) =
        steps.iter().find(|step| !out.contains(&step.name) && step.after.iter().any(|it| out.contains(it)))
    {
        out.push(next.name.clone());
    }
    let needs = || TargetResult::Skipped("there is no network for it".to_owned());
    let targets = steps.iter().filter(|step| out.contains(&step.name));
    let targets = targets.map(|step| Target::new(&step.name, needs())).collect();
    steps.retain(|step| !out.contains(&step.name));
    targets
}

/// Returns the message of an error, with those of the findings in it.
pub(super) fn reason(error: &dyn std::error::Error) -> String {
    let mut all = error.to_string();
    let mut source = error.source();
    while let Some(inner) = source {
        all.push_str(&format!(": {inner}"));
        source = inner.source();
    }
    all
}
