//! Projects of an earlier version, brought to the mold.

use super::report::{Target, TargetResult};
use super::set_run::{Cast, SetRun, reason};
use crate::sets::AnswerSet;
use std::time::Instant;
use tinmold_mold::Mold;
use tinmold_project::answers::Answers;
use tinmold_project::recast::{LoadedPart, OldVersion, Recasting, Wishes, carried_session, carry};
use tinmold_project::record::{self, Casting};

/// Why a set of the earlier version does not come through.
fn skipped(key: &str, answer: &str) -> TargetResult {
    TargetResult::Skipped(format!("the answer {answer} to {key} cannot be taken along"))
}

impl<'a> SetRun<'a> {
    /// Returns what a project of the earlier version is once it was brought to the mold, as far as it is known before.
    pub(super) fn expected(&self, old: &'a Mold, set: &AnswerSet) -> Result<Cast<'a>, TargetResult> {
        let earlier = self.of_earlier(old).cast(set, false).map_err(TargetResult::Failed)?;
        let digest = old.package.digest().map_err(|error| TargetResult::Failed(error.to_string()))?;
        let answers = self.answers_after(&Casting::of(&earlier.plan, digest, &self.root()))?;
        self.of_answers(answers).map_err(TargetResult::Failed)
    }

    /// Takes the answers of a record along. An answer that is gone has to be given by somebody.
    fn answers_after(&self, casting: &Casting) -> Result<Answers, TargetResult> {
        let mold = self.mold();
        let carried = carry(mold, &casting.answers);
        if let Some(gone) = carried.gone.first() {
            return Err(skipped(&gone.key, &gone.answer));
        }
        let session = carried_session(mold, casting);
        let session = session.map_err(|finding| TargetResult::Failed(finding.message))?;
        if let Some(problem) = session.problems().first() {
            return Err(TargetResult::Failed(format!("{}: {}", problem.key, problem.refusal.reason)));
        }
        let mut answers = session.preview();
        answers.set_folder(mold, &casting.built_in.project_dir);
        Ok(answers)
    }

    /// Casts a set of the earlier version, fits all its parts, and brings the project to the mold. Returns what became of
    /// each, and what runs then.
    pub(super) fn follow(&self, old: &'a Mold, set: &AnswerSet) -> (Vec<Target>, Option<Cast<'a>>) {
        let root = self.root();
        let earlier = self.of_earlier(old);
        let written = match earlier.cast(set, true) {
            Ok(cast) => earlier.write(&cast, &root),
            Err(why) => TargetResult::Failed(why),
        };
        let mut targets = vec![Target::new("cast", written)];
        if targets[0].result == TargetResult::Passed {
            targets.extend(earlier.fit_all(set, &root));
        }
        if targets.iter().any(|target| target.result != TargetResult::Passed) {
            return (targets, None);
        }
        let begun = Instant::now();
        let (result, cast) = match self.recast(old) {
            Ok(cast) => (TargetResult::Passed, Some(cast)),
            Err(why) => (TargetResult::Failed(why), None),
        };
        targets.push(Target { took: begun.elapsed(), ..Target::new("recast", result) });
        (targets, cast)
    }

    /// Brings the project to the mold, with nothing to decide.
    fn recast(&self, old: &'a Mold) -> Result<Cast<'a>, String> {
        let (root, new) = (self.root(), self.mold());
        let recorded = record::open(&root).map_err(|error| reason(&error))?;
        let load = |mold: &Mold| -> Vec<LoadedPart> {
            recorded.casting.part.iter().map(|part| LoadedPart::of(mold, &part.name, true)).collect()
        };
        let (parts, old_parts) = (load(new), load(old));
        let answers = recorded.answers(old).map_err(|error| reason(&error))?;
        let old = OldVersion { mold: old, parts: &old_parts, answers };
        let digest = new.package.digest().map_err(|error| error.to_string())?;
        let answers = self.answers_after(&recorded.casting).map_err(|why| format!("{why:?}"))?;
        let recasting = Recasting::new(&recorded, Some(old), (new, digest), &parts, self.limits());
        let recast = recasting.plan(&answers, &Wishes::default()).map_err(|error| reason(&error))?;
        if let Some(decision) = recast.decisions.first() {
            return Err(format!("nobody changed anything, and something is to be decided: {}", decision.key));
        }
        recast.write(None, &self.journals(), &()).map_err(|error| reason(&error))?;
        self.of_answers(answers)
    }
}
