//! A cast, as the setup screen works for it.

use super::Cast;
use crate::failure::{self, Failure};
use crate::flow::conflicts::choice_of;
use crate::state;
use crate::text::diff::difference;
use crate::text::style::{count, plain};
use crate::ui::setup::{Choices, FILE_WAYS, InTheWay, Job, Survey};
use tinmold_mold::Need;
use tinmold_notation::{NameId, Trace};
use tinmold_project::answers::Answers;
use tinmold_project::outcome::{Forecast, Outcome, Preview};
use tinmold_project::plan::PlanError;
use tinmold_project::preflight::Probe;
use tinmold_project::verify::VerifiedPlan;
use tinmold_project::write::{self, Change, Choice, FileState, Inspection, cover};

/// A cast that is set up.
pub struct CastJob<'a> {
    cast: &'a Cast<'a>,
    forecast: Forecast<'a>,
}

impl<'a> CastJob<'a> {
    pub fn new(cast: &'a Cast<'a>) -> Self {
        Self { cast, forecast: Forecast::new(cast.mold, cast.settings.limits()) }
    }

    fn failed(&self, error: PlanError) -> Failure {
        failure::of_plan(error, &self.cast.mold.package)
    }
}

impl Job for CastJob<'_> {
    fn title(&self) -> (String, String) {
        (self.cast.mold.name().to_owned(), self.cast.mold.version().to_owned())
    }

    fn completed(&self, answers: Answers) -> Result<Answers, Failure> {
        self.cast.in_folder(answers)
    }

    fn outcome(
        &self,
        answers: &Answers,
        is_cancelled: &(dyn Fn() -> bool + Sync),
    ) -> Result<Option<Outcome>, Failure> {
        self.forecast.outcome(answers, is_cancelled).map_err(|error| self.failed(error))
    }

    fn preview(&self, answers: &Answers, outcome: &Outcome, path: &str) -> Result<Option<Preview>, Failure> {
        self.forecast.preview(answers, outcome, path).map_err(|error| self.failed(error))
    }

    fn trace(&self, answers: &Answers, outcome: &Outcome, path: &str) -> Result<Option<Trace>, Failure> {
        self.forecast.trace(answers, outcome, path).map_err(|error| self.failed(error))
    }

    fn using(&self, outcome: &Outcome, names: &[NameId]) -> Vec<String> {
        self.forecast.using(outcome, names)
    }

    fn survey(&self, answers: &Answers, choices: &Choices) -> Result<Survey, Failure> {
        let cast = self.cast;
        let plan = cast.plan(answers)?;
        if let Some(archive) = &cast.args.archive {
            let is_there = archive.symlink_metadata().is_ok() && cast.args.if_present.is_none();
            let blocked = format!("{} exists; add --if-present replace, or name another", archive.display());
            return Ok(Survey {
                destination: archive.clone(),
                blocked: is_there.then_some(blocked).into_iter().collect(),
                ..Survey::default()
            });
        }
        let folder = cast.folder(answers)?;
        let inspection = write::inspect(&plan, &folder).map_err(|error| failure::of_write(error, &plan))?;
        let if_present = cast.args.if_present.map(Choice::from);
        let mut survey = survey_of(&plan, &[], &inspection, if_present, choices);
        survey.destination = folder;
        survey.steps = Some(cast.steps(&plan, None)?);
        survey.steps_named = cast.args.finish.is_some();
        Ok(survey)
    }

    fn needs(&self, answers: &Answers) -> Option<Vec<(Need, Probe)>> {
        self.cast.check.known(self.cast.mold, &answers.values)
    }

    fn draft(&self) -> Option<String> {
        state::draft(self.cast.mold, "")
    }

    fn keep_draft(&self, draft: Option<&str>) {
        state::store_draft(self.cast.mold, "", draft);
    }
}

/// Returns what is in the way of a plan. `changes` are those of a fit; `if_present` is what the command line
/// decides about files that differ, `choices` what the user does.
pub fn survey_of(
    plan: &VerifiedPlan<'_>,
    changes: &[Change],
    inspection: &Inspection,
    if_present: Option<Choice>,
    choices: &Choices,
) -> Survey {
    let mut survey = Survey::default();
    if inspection.is_new {
        return survey;
    }
    let conflicts = inspection.conflicts(plan);
    if if_present.is_none() {
        survey.in_the_way = conflicts
            .iter()
            .map(|conflict| InTheWay {
                path: conflict.path.clone(),
                lines: difference(plan, &inspection.folder, conflict)
                    .iter()
                    .map(|line| plain(line))
                    .collect(),
                ways: FILE_WAYS,
                text: None,
            })
            .collect();
    }
    let mut same = 0;
    for (entry, file) in plan.entries.iter().zip(&inspection.files) {
        match &file.state {
            FileState::Same => same += 1,
            FileState::Local => {
                survey.notes.push(format!("{} is for this machine only, and stays", entry.path));
            }
            FileState::Blocked(reason) => survey.blocked.push(format!("{} {reason}", entry.path)),
            FileState::BehindLink => {
                survey.blocked.push(format!("{} is behind a link that leads elsewhere", entry.path));
            }
            FileState::Absent | FileState::Different => {}
        }
    }
    if same > 0 {
        survey.notes.push(format!("{} just so already", count(same, "file")));
    }
    let decided = |path: &String| if_present.or(choices.get(path).map(choice_of)).unwrap_or(Choice::Keep);
    let decided: Vec<Choice> = conflicts.iter().map(|conflict| decided(&conflict.path)).collect();
    survey.uncovered = cover::uncovered(plan, Some(inspection), &decided, changes);
    survey
}
