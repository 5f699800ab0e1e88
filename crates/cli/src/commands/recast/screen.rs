//! A recast, as the setup screen works for it.

use super::RecastJob;
use crate::failure::Failure;
use crate::text::recast_words::{lines_of, note_lines, question};
use crate::text::style::plain;
use crate::ui::setup::{Choices, InTheWay, Job, Survey};
use tinmold_mold::Need;
use tinmold_notation::{NameId, Trace};
use tinmold_project::answers::Answers;
use tinmold_project::outcome::{Outcome, Preview, outcome_of_recast, preview_of_recast};
use tinmold_project::preflight::Probe;
use tinmold_project::recast::{Decision, Recast, Recasting, Undecided, Wishes};

/// A recast that is set up.
pub struct RecastScreen<'s, 'a> {
    pub job: &'s RecastJob<'a>,
    pub recasting: &'s Recasting<'a>,
}

impl RecastScreen<'_, '_> {
    fn plan(&self, answers: &Answers, choices: &Choices) -> Result<Recast, Failure> {
        let wishes = Wishes { decisions: choices.clone(), ..self.job.wishes() };
        self.job.plan_of(answers, self.recasting, &wishes)
    }
}

impl Job for RecastScreen<'_, '_> {
    fn title(&self) -> (String, String) {
        let (from, to) = (&self.job.recorded.casting.mold.version, self.job.versions.new.version());
        let way = if from == to { from.clone() } else { format!("{from} → {to}") };
        (self.job.versions.new.name().to_owned(), way)
    }

    fn completed(&self, answers: Answers) -> Result<Answers, Failure> {
        Ok(self.job.in_folder(&self.job.versions.new, answers))
    }

    fn outcome(
        &self,
        answers: &Answers,
        is_cancelled: &(dyn Fn() -> bool + Sync),
    ) -> Result<Option<Outcome>, Failure> {
        if is_cancelled() {
            return Ok(None);
        }
        Ok(Some(outcome_of_recast(&self.plan(answers, &Choices::new())?)))
    }

    fn preview(&self, answers: &Answers, _: &Outcome, path: &str) -> Result<Option<Preview>, Failure> {
        Ok(preview_of_recast(&self.plan(answers, &Choices::new())?, path))
    }

    fn trace(&self, _: &Answers, _: &Outcome, _: &str) -> Result<Option<Trace>, Failure> {
        Ok(None)
    }

    fn using(&self, outcome: &Outcome, _: &[NameId]) -> Vec<String> {
        outcome.files().into_iter().map(|file| file.path.clone()).collect()
    }

    fn survey(&self, answers: &Answers, choices: &Choices) -> Result<Survey, Failure> {
        let undecided = self.plan(answers, &Choices::new())?;
        let decided = self.plan(answers, choices)?;
        let mut survey = Survey {
            destination: self.job.recorded.root.clone(),
            headings: Some(["To be decided", "To know"]),
            ..Survey::default()
        };
        // What was decided can be decided otherwise; what a decision brought up comes behind.
        let is_new =
            |decision: &&Decision| !undecided.decisions.iter().any(|other| other.key == decision.key);
        let all = undecided.decisions.iter().chain(decided.decisions.iter().filter(is_new));
        survey.in_the_way = all.map(in_the_way).collect();
        survey.notes = decided.notes.iter().flat_map(note_lines).collect();
        let gone =
            decided.files.iter().filter(|file| file.kind == tinmold_project::recast::FileChange::Removed);
        survey.notes.extend(gone.map(|file| format!("{} goes", file.path)));
        Ok(survey)
    }

    fn needs(&self, _: &Answers) -> Option<Vec<(Need, Probe)>> {
        Some(Vec::new())
    }

    fn draft(&self) -> Option<String> {
        self.job.draft()
    }

    fn keep_draft(&self, draft: Option<&str>) {
        self.job.keep_draft(draft);
    }
}

/// Returns a decision as a row of the form.
fn in_the_way(decision: &Decision) -> InTheWay {
    let mut lines = vec![format!("  {}", question(decision))];
    lines.extend(lines_of(decision).iter().map(|line| plain(line)));
    let text = match &decision.what {
        Undecided::Place { conflict, .. } => Some(conflict.mine.clone()),
        _ => None,
    };
    InTheWay { path: decision.key.clone(), lines, ways: decision.what.ways(), text }
}
