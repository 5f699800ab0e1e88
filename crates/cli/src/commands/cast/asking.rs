//! Asking for the answers of a cast, on the screen or in lines.

use super::cast_job::CastJob;
use super::{Cast, dry_run};
use crate::failure::{self, Failure};
use crate::flow::asked::Asked;
use crate::flow::interview::{Draft, interview, require_answers};
use crate::flow::summary::print_settings;
use crate::stop::Stop;
use crate::text::review::exposed;
use crate::text::style::{BOLD, count, safe, size};
use crate::ui::setup::{Left, set_up};
use crate::ui::{Interface, ReviewView};
use tinmold_project::answers::Session;
use tinmold_project::review::{self, Review};
use tinmold_project::setup::Setup;
use tinmold_project::steps::StepChoice;
use tinmold_project::verify::VerifiedPlan;
use tinmold_project::write::{self, cover};

impl<'a> Cast<'a> {
    /// Asks until the user decides to write. Without a user, fails if an answer is missing.
    pub(super) fn ask(&self, session: &mut Session<'a>, interface: Option<Interface>) -> Result<Asked, Stop> {
        match interface {
            None => {
                require_answers(session, self.args.answers.unattended)?;
                Ok(Asked::Nobody)
            }
            Some(Interface::Lines) => {
                say!(
                    "{BOLD}{}{BOLD:#} {}  {}",
                    safe(self.mold.name()),
                    safe(self.mold.version()),
                    safe(self.mold.header.summary.get_ref())
                );
                let draft = interview(session, |session, ticked| self.draft(session, ticked))?;
                Ok(Asked::InLines(draft.review.steps.map(|steps| steps.names()).unwrap_or_default()))
            }
            Some(Interface::Screen) => {
                let job = CastJob::new(self);
                let details = self.args.answers.details;
                let setup = Setup::new(session.clone());
                let (setup, left) = set_up(setup, &job, self.args.mold.is_none(), details)?;
                *session = setup.into_session();
                match left {
                    Left::Back => Err(Stop::Back),
                    Left::Write(decision) => {
                        if !self.global.quiet {
                            print_settings(self.mold, self.mold.name(), session);
                        }
                        Ok(Asked::OnScreen(decision))
                    }
                }
            }
        }
    }

    /// Prepares the review from the answers so far.
    fn draft(&self, session: &Session<'_>, ticked: Option<&[String]>) -> Result<CastDraft<'a>, Failure> {
        let answers = self.in_folder(session.preview())?;
        let plan = self.plan(&answers)?;
        let folder = self.folder(&answers)?;
        let sizes = plan.sizes().map_err(|error| failure::of_plan(error, &self.mold.package))?;
        let inspection = match self.archive {
            Some(_) => None,
            None => Some(write::inspect(&plan, &folder).map_err(|error| failure::of_write(error, &plan))?),
        };
        let steps = match self.archive {
            Some(_) => None,
            None => Some(self.steps(&plan, ticked)?),
        };
        let review = Review {
            settings: review::settings(session),
            destination: self.args.archive.clone().unwrap_or(folder),
            is_new: inspection.as_ref().is_none_or(|inspection| inspection.is_new),
            changes: review::changes(&plan, &sizes, inspection.as_ref()),
            lacking: self.check.lacking(self.mold, &answers.values),
            steps,
        };
        // The lines that ignore files need are shown as the changes that they are.
        let existing = inspection.as_ref().filter(|inspection| !inspection.is_new);
        let details = existing.map_or_else(String::new, |inspection| {
            exposed(&cover::uncovered(&plan, Some(inspection), &[], &[]))
        });
        Ok(CastDraft { plan, total: sizes.iter().sum(), review, details })
    }
}

/// The draft of a cast, for the review.
struct CastDraft<'m> {
    plan: VerifiedPlan<'m>,
    /// The size of all files in bytes.
    total: u64,
    review: Review,
    /// What the review says besides.
    details: String,
}

impl Draft for CastDraft<'_> {
    fn view(&self, _: &Session<'_>) -> Option<ReviewView<'_>> {
        Some(ReviewView {
            review: &self.review,
            title: "What will be written",
            extent: format!("{}, {}", count(self.plan.entries.len(), "file"), size(self.total)),
            details: self.details.clone(),
            file: Box::new(|path| dry_run::text_of(&self.plan, path)),
        })
    }

    fn steps(&mut self) -> Option<&mut StepChoice> {
        self.review.steps.as_mut()
    }
}
