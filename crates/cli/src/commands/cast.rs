//! `tinmold cast`: a project from a mold.

use super::dry_run;
use crate::args::{CastArgs, Format, IfPresent};
use crate::exit::Exit;
use crate::failure::{self, Failure};
use crate::flow::answer_sources::{self, Person};
use crate::flow::asked::Asked;
use crate::flow::background_check::BackgroundCheck;
use crate::flow::finishing::{Finished, run_chosen};
use crate::flow::interview::{check_answers, final_answers};
use crate::flow::summary::{ClosingTexts, as_json, print_closing, print_written};
use crate::flow::{conflicts, recovery};
use crate::global::GlobalOptions;
use crate::interrupt::Watch;
use crate::settings::Settings;
use crate::state;
use crate::stop::Stop;
use crate::text::needs;
use crate::text::style::{quoted, result_document, safe};
use crate::ui::Interface;
pub use cast_job::survey_of;
use picking::resolve;
use std::fs;
use std::path::{Path, PathBuf};
use tinmold_mold::Mold;
use tinmold_notation::Finding;
use tinmold_project::answers::{Answers, Offers, Session, full_sheet};
use tinmold_project::fit::as_cast;
use tinmold_project::plan::Plan;
use tinmold_project::steps::{ReadText, StepChoice};
use tinmold_project::verify::VerifiedPlan;
use tinmold_project::write::{self, ArchiveFormat, Choice, WriteSummary};

mod asking;
mod cast_job;
mod picking;

pub fn run(args: &CastArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    let settings = Settings::read()?;
    let unasked = args.answers.unattended || args.dry_run || args.format == Format::Json;
    let interface = if unasked { None } else { Interface::of_terminal(global.plain) };
    let shelves = settings.shelves(global);
    let mut picker = None;
    loop {
        let (mold, person) = resolve(args, &shelves, interface, &mut picker)?;
        match one(args, global, &settings, &mold, person, interface) {
            // From the form back to the list that it came from.
            Err(Stop::Back) if picker.is_some() => {}
            Err(Stop::Back) => return Err(Stop::Left),
            ended => return ended,
        }
    }
}

/// Casts a mold.
fn one(
    args: &CastArgs,
    global: GlobalOptions,
    settings: &Settings,
    mold: &Mold,
    person: Person,
    interface: Option<Interface>,
) -> Result<Exit, Stop> {
    let cast = Cast::new(args, global, settings, mold, interface.is_some())?;
    let mut session = cast.session(person)?;
    let asked = cast.ask(&mut session, interface)?;
    if args.dry_run {
        // A dry run shows no secret and makes none.
        let answers = cast.previewed(&session)?;
        let plan = cast.plan(&answers)?;
        ClosingTexts::new(&plan).map_err(|finding| cast.faulty(finding))?;
        return Ok(dry_run::run(args, global, &plan, &cast.folder(&answers)?)?);
    }
    let Written { answers, texts, steps, summary } = asked.kept(cast.written(session, &asked))?;
    if cast.archive.is_none() {
        state::store_own(&summary.path, &mold.package.origin);
    }
    state::keep_mold(&mold.package);
    cast.save_state(&answers)?;
    let finished = cast.run_steps(&steps, &summary);
    Ok(cast.report(&answers, &texts, &summary, finished.as_ref()))
}

/// A project that is written, and what is left to do with it.
struct Written {
    answers: Answers,
    texts: ClosingTexts,
    steps: StepChoice,
    summary: WriteSummary,
}

/// A cast, with all that its steps need.
struct Cast<'a> {
    args: &'a CastArgs,
    global: GlobalOptions,
    settings: &'a Settings,
    mold: &'a Mold,
    check: BackgroundCheck,
    archive: Option<ArchiveFormat>,
    is_attended: bool,
}

impl<'a> Cast<'a> {
    fn new(
        args: &'a CastArgs,
        global: GlobalOptions,
        settings: &'a Settings,
        mold: &'a Mold,
        is_attended: bool,
    ) -> Result<Self, Failure> {
        let archive = args.archive.as_deref().map(archive_format).transpose()?;
        let check = BackgroundCheck::begin(mold, args, is_attended || !global.quiet);
        Ok(Self { args, global, settings, mold, check, archive, is_attended })
    }

    fn faulty(&self, finding: Finding) -> Failure {
        Failure::findings(&[finding], &self.mold.package)
    }

    /// Starts the session with what the command line, the environment and earlier casts answer.
    fn session(&self, person: Person) -> Result<Session<'a>, Failure> {
        let answers = &self.args.answers;
        let gathered = answer_sources::gather(self.mold, answers)?;
        let folder = self.args.dir.as_deref().and_then(folder_name);
        let offers = answer_sources::offers(self.mold, answers, folder, self.settings, self.is_attended)?;
        let offers = Offers { tools: answer_sources::tools_of(self.mold, &gathered.given), ..offers };
        let built_ins = answer_sources::built_ins(person);
        gathered.into_session(self.mold, answers, offers, built_ins)
    }

    /// Returns the final answers; mints values.
    fn answers(&self, session: Session<'_>) -> Result<Answers, Failure> {
        self.in_folder(final_answers(session)?)
    }

    /// Returns the answers with secrets masked; fails if one cannot be used.
    fn previewed(&self, session: &Session<'_>) -> Result<Answers, Failure> {
        check_answers(session)?;
        self.in_folder(session.preview())
    }

    /// Sets the built-in value of the folder's name.
    fn in_folder(&self, mut answers: Answers) -> Result<Answers, Failure> {
        let folder = self.folder(&answers)?;
        answers.set_folder(self.mold, &folder_name(&folder).unwrap_or_default());
        Ok(answers)
    }

    /// Returns the folder that is named, else the one that the mold names.
    fn folder(&self, answers: &Answers) -> Result<PathBuf, Failure> {
        if let Some(dir) = &self.args.dir {
            return Ok(dir.clone());
        }
        let name = self.mold.folder_name(&answers.values).map_err(|finding| self.faulty(finding))?;
        Ok(PathBuf::from(name))
    }

    fn plan(&self, answers: &Answers) -> Result<VerifiedPlan<'a>, Failure> {
        let package = &self.mold.package;
        let plan = Plan::new(self.mold, answers, &self.settings.limits())
            .map_err(|error| failure::of_plan(error, package))?;
        let plan = plan.verify().map_err(|error| failure::of_verify(error, package))?;
        if plan.entries.is_empty() {
            let message = format!("{} writes no files; nothing was written", self.typed_address());
            let has_body = !self.mold.body.is_empty();
            let help = if has_body {
                "other answers may do"
            } else {
                "put the files of the project into its folder body/"
            };
            return Err(Failure::new(Exit::Faulty, message).help(help));
        }
        Ok(plan)
    }

    /// Returns the steps with those ticked that the user or the command line chose.
    fn steps(&self, plan: &VerifiedPlan<'_>, ticked: Option<&[String]>) -> Result<StepChoice, Failure> {
        let failed = |error| failure::of_choice(error, &self.mold.package);
        let vouch = self.args.vouch.as_deref();
        let read = as_cast(plan);
        let read = |path: &str| read(path).ok()?.ok();
        // Where no step can run, no one sees what it would run.
        let is_shown = !self.args.answers.unattended || self.args.finish.is_some();
        let read: Option<ReadText<'_>> = if is_shown { Some(&read) } else { None };
        let mut steps =
            StepChoice::new(self.mold, &plan.answers.values, read, true, vouch, state::is_vouched)
                .map_err(failed)?;
        steps.leave_out_local(plan);
        match (ticked, &self.args.finish) {
            (Some(names), _) => steps.select_only(names),
            (None, Some(list)) => steps.tick(list).map_err(failed)?,
            // Without a user, only steps run that the command line names.
            (None, None) if self.args.answers.unattended => steps.select_only(&[]),
            (None, None) => {}
        }
        Ok(steps)
    }

    /// Writes the project as it was decided.
    fn written(&self, session: Session<'_>, asked: &Asked) -> Result<Written, Stop> {
        let answers = self.answers(session)?;
        let plan = self.plan(&answers)?;
        let texts = ClosingTexts::new(&plan).map_err(|finding| self.faulty(finding))?;
        let steps = self.steps(&plan, asked.ticked())?;
        if let Asked::OnScreen(decision) = asked
            && decision.vouch
        {
            state::store_vouched(&steps.digest, &steps.origin);
        }
        let summary = self.write(&plan, asked)?;
        Ok(Written { answers, texts, steps, summary })
    }

    /// Decides about files in the way, and writes.
    fn write(&self, plan: &VerifiedPlan<'_>, asked: &Asked) -> Result<WriteSummary, Stop> {
        let failed = |error| failure::of_write(error, plan);
        let if_present = self.args.if_present.map(Choice::from);
        let folder = self.folder(&plan.answers)?;
        if let (Some(file), Some(format)) = (&self.args.archive, self.archive) {
            let watch = Watch::new(self.global.hides_progress());
            let top = folder_name(&folder).unwrap_or_default();
            return Ok(write::write_archive(
                plan,
                file,
                format,
                &top,
                if_present,
                &state::journals(),
                &watch,
            )
            .map_err(failed)?);
        }
        recovery::at(&folder)?;
        self.refuse_unnamed(&folder)?;
        let mut inspection = write::inspect(plan, &folder).map_err(failed)?;
        let choices = conflicts::decide(plan, &[], &mut inspection, if_present, asked.decider())?;
        let watch = Watch::new(self.global.hides_progress());
        Ok(plan.write(&inspection, &choices, &state::journals(), &watch).map_err(failed)?)
    }

    /// Returns the mold as the user named it, to be typed again.
    fn typed_address(&self) -> String {
        safe(&quoted(self.args.mold.as_deref().unwrap_or(self.mold.name())))
    }

    /// Refuses to write unseen into a folder that the mold named and that holds something.
    fn refuse_unnamed(&self, folder: &Path) -> Result<(), Failure> {
        if self.args.dir.is_some() || self.args.if_present.is_some() || self.is_attended || !is_filled(folder)
        {
            return Ok(());
        }
        let shown = safe(&folder.display().to_string());
        let message = format!("{shown} exists and is not empty; nothing was written");
        Err(Failure::new(Exit::InTheWay, message).help(format!(
            "name another folder, or {shown} itself to write into it: tinmold cast {} {}",
            self.typed_address(),
            quoted(&shown)
        )))
    }

    /// Keeps the answers for the next cast, and writes the sheet that `--save-sheet` names.
    fn save_state(&self, answers: &Answers) -> Result<(), Failure> {
        // What a program casts is not what a person is offered next.
        if self.args.remember && self.is_attended {
            state::store_answers(self.mold, answers);
            state::store_recent(&self.mold.package.origin.address(self.mold.version()));
        }
        state::store_draft(self.mold, "", None);
        let Some(path) = &self.args.save_sheet else { return Ok(()) };
        fs::write(path, full_sheet(self.mold, answers)).map_err(|error| {
            let path = path.display();
            Failure::new(Exit::Failed, format!("cannot write the answer sheet {path}: {error}"))
                .help("the project itself is written")
        })
    }

    fn run_steps(&self, steps: &StepChoice, summary: &WriteSummary) -> Option<Finished> {
        if !self.is_silent() {
            print_written(summary);
        }
        self.archive.is_none().then(|| run_chosen(steps, &summary.path, self.global))
    }

    /// Returns true if the result is not for people.
    fn is_silent(&self) -> bool {
        self.global.quiet || self.args.format == Format::Json
    }

    fn report(
        &self,
        answers: &Answers,
        texts: &ClosingTexts,
        summary: &WriteSummary,
        finished: Option<&Finished>,
    ) -> Exit {
        if self.args.format == Format::Json {
            result_document("cast-1", as_json(self.mold, texts, summary, finished));
        } else if !self.global.quiet {
            if !self.is_attended {
                let lacking = self.check.lacking(self.mold, &answers.values);
                say_text!("{}", needs::lacking(&lacking));
            }
            print_closing(texts, summary);
            if let Some(finished) = finished {
                finished.print_open();
            }
        }
        finished.map_or(Exit::Done, Finished::exit)
    }
}

fn archive_format(file: &Path) -> Result<ArchiveFormat, Failure> {
    ArchiveFormat::of_path(file).ok_or_else(|| {
        let name = file.display();
        Failure::new(Exit::Usage, format!("unsupported archive format `{name}`; use .zip or .tar.gz"))
    })
}

/// Returns true if something is at the path, unless it is an empty folder.
fn is_filled(path: &Path) -> bool {
    match fs::read_dir(path) {
        Ok(mut entries) => entries.next().is_some(),
        Err(_) => fs::symlink_metadata(path).is_ok_and(|metadata| !metadata.is_dir()),
    }
}

/// Returns the name of a directory, with `.` and `..` resolved.
fn folder_name(folder: &Path) -> Option<String> {
    let name = folder.file_name().map(std::ffi::OsStr::to_os_string);
    let name = name.or_else(|| folder.canonicalize().ok()?.file_name().map(std::ffi::OsStr::to_os_string));
    name.map(|name| name.to_string_lossy().into_owned())
}

impl From<IfPresent> for Choice {
    fn from(choice: IfPresent) -> Self {
        match choice {
            IfPresent::Keep => Self::Keep,
            IfPresent::Replace => Self::Replace,
            IfPresent::Aside => Self::Aside,
        }
    }
}
