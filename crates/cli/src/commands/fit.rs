//! `tinmold fit`: adds a part to a project, or takes the last one back.

use super::{dry_run, undo};
use crate::args::{FitArgs, Format};
use crate::exit::Exit;
use crate::failure::{self, Failure, of_fit, of_mismatch};
use crate::flow::answer_sources::{self, Person};
use crate::flow::asked::Asked;
use crate::flow::conflicts;
use crate::flow::conflicts::Decider;
use crate::flow::interview::{Draft, check_answers, final_answers, interview, require_answers};
use crate::flow::summary::print_settings;
use crate::global::GlobalOptions;
use crate::interrupt::Watch;
use crate::settings::Settings;
use crate::state;
use crate::stop::Stop;
use crate::text::diff::InTheWay;
use crate::text::fit_report::FitReport;
use crate::text::style::{BOLD, FAINT, count, result, result_document, safe};
use crate::ui::setup::{Left, set_up};
use crate::ui::{Dialogue, Interface, ReviewView};
use fit_job::{FitScreen, VALUES};
use project::Project;
use tinmold_mold::{Mold, Part};
use tinmold_notation::Finding;
use tinmold_project::answers::{
    AnswerSource, Answers, BuiltIns, Given, Offers, Session, SetError, display_value, parse_text,
};
use tinmold_project::fit::{Fit, FitError, Fitting, OnClash, in_folder};
use tinmold_project::review::{self, Review};
use tinmold_project::setup::Setup;
use tinmold_project::steps::StepChoice;
use tinmold_project::write::{self, Choice, FileState, Inspection};

mod fit_job;
mod pick;
mod project;

pub fn run(args: &FitArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    let settings = Settings::read()?;
    let project = Project::find(args, &settings, global)?;
    if args.undo {
        return undo::run(args, global, project.recorded.as_ref());
    }
    let unattended = args.answers.unattended || args.dry_run || args.format == Format::Json;
    let interface = if unattended { None } else { Interface::of_terminal(global.plain) };
    loop {
        let part = pick::pick(args, &settings, &project, interface)?;
        let job = FitJob { args, global, settings: &settings, project: &project, part: &part };
        match one(&job, interface) {
            // From the form back to the list that it came from.
            Err(Stop::Back) if args.part.is_none() => {}
            Err(Stop::Back) => return Err(Stop::Left),
            ended => return ended,
        }
    }
}

/// Fits a part.
fn one(job: &FitJob<'_>, interface: Option<Interface>) -> Result<Exit, Stop> {
    let mut session = job.session(interface.is_some())?;
    let (asked, clash) = job.ask(&mut session, interface)?;
    if job.args.dry_run {
        // A dry run shows no secret and makes none.
        let fitting = job.fitting(&job.previewed(&session)?, clash)?;
        return Ok(job.print_plan(&fitting, &job.inspect(&fitting)?));
    }
    let exit = asked.kept(job.fitted(session, &asked, clash))?;
    state::store_draft(&job.part.mold, &job.part.name, None);
    Ok(exit)
}

/// A fit, with all that its steps need.
struct FitJob<'a> {
    args: &'a FitArgs,
    global: GlobalOptions,
    settings: &'a Settings,
    project: &'a Project,
    part: &'a Part,
}

impl<'a> FitJob<'a> {
    fn faulty(&self, finding: Finding) -> Failure {
        Failure::findings(&[finding], &self.part.mold.package)
    }

    /// Starts the session with the answers of the project and of the command line.
    fn session(&self, is_attended: bool) -> Result<Session<'a>, Failure> {
        let (mold, args) = (&self.part.mold, &self.args.answers);
        let mut gathered = answer_sources::gather(mold, args)?;
        self.take_name(&mut gathered)?;
        let folder = self.project.folder_name();
        let offers = answer_sources::offers(mold, args, Some(folder), self.settings, is_attended)?;
        let mut offers = Offers { last: Vec::new(), ..offers };
        let mut built_ins: BuiltIns = answer_sources::built_ins(Person::none());
        if let (Some(recorded), Some(own)) = (&self.project.recorded, &self.project.own) {
            let mismatch = |error| of_mismatch(&recorded.root, &error);
            let answers = recorded.answers(own).map_err(mismatch)?;
            if self.part.stands_alone() {
                offers.casting = self.offered(own, &answers);
            } else {
                for (at, given) in recorded.given(own).map_err(mismatch)?.into_iter().enumerate() {
                    gathered.given[at] = given;
                }
            }
            let mut of_cast = recorded.built_ins();
            // A record holds the address only if the mold of the project used it.
            if of_cast.user_email.is_empty() && mold.package.may_mention("user.email") {
                of_cast.user_email = answer_sources::built_ins(Person::asked(true)).user_email;
            }
            built_ins = BuiltIns { today: built_ins.today, year: built_ins.year, ..of_cast };
        }
        gathered.into_session(mold, args, offers, built_ins)
    }

    /// Takes the name on the command line as the answer to the part's first question.
    fn take_name(&self, gathered: &mut answer_sources::Gathered) -> Result<(), Failure> {
        let mold = &self.part.mold;
        let Some(name) = &self.args.name else { return Ok(()) };
        let Some(at) = self.part.own_questions().next() else {
            let message = format!("the part {} asks nothing, so {name:?} has no use", self.part.name);
            return Err(Failure::new(Exit::Usage, message).help("leave the name out"));
        };
        let question = &mold.questions[at];
        match parse_text(question, name, &mold.scope) {
            Ok(value) => gathered.given[at] = Some(Given { value, source: AnswerSource::Set }),
            Err(refusal) => {
                gathered.wrong.push((AnswerSource::Set, SetError { key: question.key.clone(), refusal }));
            }
        }
        Ok(())
    }

    /// Returns the project's answers to questions that a part of its own asks too.
    fn offered(&self, own: &Mold, answers: &Answers) -> Vec<(String, tinmold_notation::Value)> {
        let asked = self.part.own_questions().map(|at| &self.part.mold.questions[at]);
        asked
            .filter_map(|question| {
                let at = own.questions.iter().position(|other| other.key == question.key)?;
                let text = display_value(own, &answers.questions[at].value);
                let value = parse_text(question, &text, &self.part.mold.scope).ok()?;
                answers.questions[at].is_visible().then(|| (question.key.clone(), value))
            })
            .collect()
    }

    /// Asks until the user decides to write. Without a user, fails if an answer is missing.
    fn ask(&self, session: &mut Session<'a>, interface: Option<Interface>) -> Result<(Asked, OnClash), Stop> {
        let clash = self.args.if_present.map(|choice| on_clash(choice.into())).unwrap_or_default();
        match interface {
            None => {
                require_answers(session, self.args.answers.unattended)?;
                self.use_recorded_day(session)?;
                Ok((Asked::Nobody, clash))
            }
            Some(Interface::Lines) => {
                let clash = self.ask_in_lines(session, clash)?;
                Ok((Asked::InLines(Vec::new()), clash))
            }
            Some(Interface::Screen) => self.ask_on_screen(session, clash),
        }
    }

    fn ask_in_lines(&self, session: &mut Session<'a>, clash: OnClash) -> Result<OnClash, Stop> {
        say!(
            "{BOLD}{}{BOLD:#}  {}  {FAINT}into {}{FAINT:#}",
            safe(&self.part.name),
            safe(&self.part.summary),
            safe(&self.project.root.display().to_string())
        );
        let draft = interview(session, |session, _| {
            self.use_recorded_day(session)?;
            self.draft(session, clash)
        })?;
        if draft.fitting.clashes.is_empty() || clash != OnClash::Ask {
            return Ok(clash);
        }
        let difference = self.report_of(&draft.fitting).clash_lines();
        let path = &draft.fitting.clashes[0].path;
        let reply = Dialogue.conflict(&InTheWay { path, number: 1, of: 1, difference })?;
        Ok(on_clash(reply.choice))
    }

    fn ask_on_screen(&self, session: &mut Session<'a>, clash: OnClash) -> Result<(Asked, OnClash), Stop> {
        self.use_recorded_day(session)?;
        // Where nothing is to be asked and nothing to be done, there is nothing to look at. The user is there.
        if session.next().is_none() && self.draft(session, clash)?.is_nothing {
            return Ok((Asked::InLines(Vec::new()), clash));
        }
        let screen = FitScreen { job: self, clash };
        let has_list = self.args.part.is_none();
        let setup = Setup::new(session.clone());
        let (setup, left) = set_up(setup, &screen, has_list, self.args.answers.details)?;
        *session = setup.into_session();
        self.use_recorded_day(session)?;
        match left {
            Left::Back => Err(Stop::Back),
            Left::Write(decision) => {
                if !self.global.quiet {
                    print_settings(&self.part.mold, &self.part.name, session);
                }
                let clash = decision
                    .choices
                    .get(VALUES)
                    .map_or(clash, |choice| on_clash(conflicts::choice_of(choice)));
                Ok((Asked::OnScreen(decision), clash))
            }
        }
    }

    /// Fits the part as it was decided.
    fn fitted(&self, session: Session<'_>, asked: &Asked, clash: OnClash) -> Result<Exit, Stop> {
        let answers = self.answers(session)?;
        let fitting = self.fitting(&answers, clash)?;
        let mut inspection = self.inspect(&fitting)?;
        self.require_places(&fitting, !matches!(asked, Asked::Nobody))?;
        let next = self.report_of(&fitting).next(&answers).map_err(|finding| self.faulty(finding))?;
        let fit = self.write(&fitting, &mut inspection, asked.decider())?;
        Ok(self.report(&fitting, &inspection, &fit, &next))
    }

    /// Uses the day of an earlier fit with these answers, so that fitting again changes nothing.
    fn use_recorded_day(&self, session: &mut Session<'_>) -> Result<(), Failure> {
        let recorded = self.project.recorded.as_ref();
        match recorded.and_then(|recorded| recorded.day_of(self.part, &session.preview())) {
            Some(day) => session.set_day(&day).map_err(|finding| self.faulty(finding)),
            None => Ok(()),
        }
    }

    /// Prepares the review from the answers so far.
    fn draft(&self, session: &Session<'_>, clash: OnClash) -> Result<FitDraft<'a>, Failure> {
        let answers = self.in_folder(session.preview());
        let fitting = self.fitting(&answers, clash)?;
        let inspection = self.inspect(&fitting)?;
        let sizes = fitting.plan.sizes().map_err(|error| failure::of_plan(error, &self.part.mold.package))?;
        let report = self.report_of(&fitting);
        let is_nothing = report.is_nothing(&inspection);
        let details = report.changes(40) + &report.unplaced() + &report.clashes();
        let review = Review {
            settings: review::settings(session),
            destination: self.project.root.clone(),
            is_new: inspection.files.iter().all(|file| file.state == FileState::Absent),
            changes: report.changes_for_review(&sizes, &inspection),
            lacking: Vec::new(),
            steps: None,
        };
        Ok(FitDraft { fitting, review, details, is_nothing })
    }

    fn answers(&self, session: Session<'_>) -> Result<Answers, Failure> {
        Ok(self.in_folder(final_answers(session)?))
    }

    /// Returns the answers with secrets masked; fails if one cannot be used.
    fn previewed(&self, session: &Session<'_>) -> Result<Answers, Failure> {
        check_answers(session)?;
        Ok(self.in_folder(session.preview()))
    }

    fn in_folder(&self, mut answers: Answers) -> Answers {
        answers.set_folder(&self.part.mold, &self.project.folder_name());
        answers
    }

    fn fitting(&self, answers: &Answers, clash: OnClash) -> Result<Fitting<'a>, Failure> {
        Fitting::new(self.part, answers, &in_folder(&self.project.root), &self.settings.limits(), clash)
            .map_err(|error: FitError| of_fit(error, &self.part.mold.package))
    }

    fn inspect(&self, fitting: &Fitting<'_>) -> Result<Inspection, Failure> {
        // The root of a project may be a link that the user named.
        let root = self.project.root.canonicalize().unwrap_or_else(|_| self.project.root.clone());
        write::inspect(&fitting.plan, &root).map_err(|error| failure::of_write(error, &fitting.plan))
    }

    fn report_of<'f>(&'f self, fitting: &'f Fitting<'f>) -> FitReport<'f> {
        let (own, recorded) = (self.project.own.as_ref(), self.project.recorded.as_ref());
        FitReport::new(self.part, own, recorded, &self.project.root, fitting)
    }

    /// Prints what a fit would do.
    fn print_plan(&self, fitting: &Fitting<'_>, inspection: &Inspection) -> Exit {
        let report = self.report_of(fitting);
        match self.args.format {
            Format::Json => result_document("fit-1", report.as_json(inspection, None)),
            Format::Text => {
                result(report.text(inspection, self.global.plain, usize::MAX));
                if !self.global.quiet {
                    say!("Nothing was written.");
                }
            }
        }
        Exit::Done
    }

    /// Without a user, refuses to write if a joint is missing or values conflict, unless an option
    /// decides.
    fn require_places(&self, fitting: &Fitting<'_>, is_attended: bool) -> Result<(), Failure> {
        if is_attended {
            return Ok(());
        }
        let report = self.report_of(fitting);
        if !fitting.missing.is_empty() && !self.args.skip_missing {
            let message =
                format!("cannot place every line of the part {}; nothing was written", self.part.name);
            let failure = Failure::new(Exit::InTheWay, message);
            let failure = report.unplaced_lines().into_iter().fold(failure, Failure::line);
            return Err(failure.help("correct the file, or add --skip-missing to place these lines yourself"));
        }
        if !fitting.clashes.is_empty() && self.args.if_present.is_none() {
            let failure = Failure::new(Exit::InTheWay, "other values are in the way; nothing was written");
            let failure = report.clash_lines().into_iter().fold(failure, Failure::line);
            return Err(
                failure.help("add --if-present keep (yours stay) or replace (the new ones replace them)")
            );
        }
        Ok(())
    }

    /// Decides about files in the way, and writes.
    fn write(
        &self,
        fitting: &Fitting<'_>,
        inspection: &mut Inspection,
        decider: Decider<'_>,
    ) -> Result<Fit, Stop> {
        let if_present = self.args.if_present.map(Choice::from);
        let choices = conflicts::decide(&fitting.plan, &fitting.changes, inspection, if_present, decider)?;
        let watch = Watch::new(self.global.hides_progress());
        let recorded = self.project.recorded.as_ref();
        Ok(fitting
            .write(inspection, &choices, recorded, &state::journals(), &watch)
            .map_err(|error| failure::of_write(error, &fitting.plan))?)
    }

    fn report(&self, fitting: &Fitting<'_>, inspection: &Inspection, fit: &Fit, next: &[String]) -> Exit {
        let report = self.report_of(fitting);
        if self.args.format == Format::Json {
            result_document("fit-1", report.as_json(inspection, Some(fit)));
        } else if !self.global.quiet {
            report.print_done(fit, next);
        }
        Exit::Done
    }
}

/// The draft of a fit, for the review.
struct FitDraft<'p> {
    fitting: Fitting<'p>,
    review: Review,
    details: String,
    is_nothing: bool,
}

impl Draft for FitDraft<'_> {
    fn view(&self, _: &Session<'_>) -> Option<ReviewView<'_>> {
        if self.is_nothing {
            return None;
        }
        let (new, changed) = (self.fitting.plan.entries.len(), self.fitting.changes.len());
        Some(ReviewView {
            review: &self.review,
            title: "What will change",
            extent: format!("{} new, {changed} changed", count(new, "file")),
            details: self.details.clone(),
            file: Box::new(|path| match self.fitting.changes.iter().find(|change| change.path == path) {
                Some(change) => change.after.clone(),
                None => dry_run::text_of(&self.fitting.plan, path),
            }),
        })
    }

    fn steps(&mut self) -> Option<&mut StepChoice> {
        None
    }
}

fn on_clash(choice: Choice) -> OnClash {
    match choice {
        Choice::Replace => OnClash::Replace,
        Choice::Keep | Choice::Aside => OnClash::Keep,
    }
}
