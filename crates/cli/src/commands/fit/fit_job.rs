//! A fit, as the setup screen works for it.

use super::FitJob;
use crate::commands::cast::survey_of;
use crate::failure::{self, Failure};
use crate::state;
use crate::text::style::plain;
use crate::ui::setup::{Choices, InTheWay, Job, Survey, VALUE_WAYS};
use tinmold_mold::Need;
use tinmold_notation::{NameId, Trace};
use tinmold_project::answers::Answers;
use tinmold_project::fit::OnClash;
use tinmold_project::outcome::{Outcome, Preview, outcome_of_fitting, preview_of_fitting, trace_of_fitting};
use tinmold_project::plan::PlanError;
use tinmold_project::preflight::Probe;
use tinmold_project::write::Choice;

/// Stands for a path: the values of the project that are in the way of those of the part.
pub const VALUES: &str = "values that are set already";

/// A fit that is set up.
pub struct FitScreen<'f, 'a> {
    pub job: &'f FitJob<'a>,
    pub clash: OnClash,
}

impl FitScreen<'_, '_> {
    fn failed(&self, error: PlanError) -> Failure {
        failure::of_plan(error, &self.job.part.mold.package)
    }
}

impl Job for FitScreen<'_, '_> {
    fn title(&self) -> (String, String) {
        (self.job.part.name.clone(), self.job.part.mold.version().to_owned())
    }

    fn completed(&self, answers: Answers) -> Result<Answers, Failure> {
        Ok(self.job.in_folder(answers))
    }

    fn outcome(
        &self,
        answers: &Answers,
        is_cancelled: &(dyn Fn() -> bool + Sync),
    ) -> Result<Option<Outcome>, Failure> {
        if is_cancelled() {
            return Ok(None);
        }
        let fitting = self.job.fitting(answers, self.clash)?;
        outcome_of_fitting(&fitting).map(Some).map_err(|error| self.failed(error))
    }

    fn preview(&self, answers: &Answers, _: &Outcome, path: &str) -> Result<Option<Preview>, Failure> {
        let fitting = self.job.fitting(answers, self.clash)?;
        preview_of_fitting(&fitting, path).map_err(|error| self.failed(error))
    }

    fn trace(&self, answers: &Answers, _: &Outcome, path: &str) -> Result<Option<Trace>, Failure> {
        Ok(trace_of_fitting(&self.job.fitting(answers, self.clash)?, path))
    }

    fn using(&self, outcome: &Outcome, _: &[NameId]) -> Vec<String> {
        outcome.files().into_iter().map(|file| file.path.clone()).collect()
    }

    fn survey(&self, answers: &Answers, choices: &Choices) -> Result<Survey, Failure> {
        let fitting = self.job.fitting(answers, self.clash)?;
        let inspection = self.job.inspect(&fitting)?;
        let if_present = self.job.args.if_present.map(Choice::from);
        let mut survey = survey_of(&fitting.plan, &fitting.changes, &inspection, if_present, choices);
        survey.destination.clone_from(&self.job.project.root);
        let report = self.job.report_of(&fitting);
        if !fitting.clashes.is_empty() && self.clash == OnClash::Ask {
            let lines = report.clash_lines();
            let lines = lines.iter().map(|line| plain(line).trim_start().to_owned()).collect();
            let way = InTheWay { path: VALUES.to_owned(), lines, ways: VALUE_WAYS, text: None };
            survey.in_the_way.insert(0, way);
        }
        if !fitting.missing.is_empty() {
            survey.notes.push("to be placed by hand afterwards:".to_owned());
            survey.notes.extend(report.unplaced_lines().iter().map(|line| plain(line)));
        }
        Ok(survey)
    }

    fn needs(&self, _: &Answers) -> Option<Vec<(Need, Probe)>> {
        Some(Vec::new())
    }

    fn draft(&self) -> Option<String> {
        state::draft(&self.job.part.mold, &self.job.part.name)
    }

    fn keep_draft(&self, draft: Option<&str>) {
        state::store_draft(&self.job.part.mold, &self.job.part.name, draft);
    }
}
