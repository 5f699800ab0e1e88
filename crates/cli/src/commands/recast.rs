//! `tinmold recast`: brings a project to a newer version of its mold, or to other answers.

use crate::args::{RecastArgs, RecastFormat};
use crate::exit::Exit;
use crate::failure::{self, Failure, of_record, of_write_error};
use crate::flow::interview::{check_answers, require_answers};
use crate::flow::recovery;
use crate::global::GlobalOptions;
use crate::interrupt::Watch;
use crate::settings::Settings;
use crate::state;
use crate::stop::Stop;
use crate::text::recast_report::RecastReport;
use crate::text::recast_words::{lines_of, question};
use crate::text::style::{NAME, WARN, count, result, result_document, safe};
use crate::ui::Interface;
use std::path::Path;
use tinmold_platform::process::uncommitted;
use tinmold_project::answers::{Answers, Session};
use tinmold_project::recast::{
    Decided, Note, OldVersion, Recast, RecastError, Recasting, Wishes, changed_defaults, old_names,
};
use tinmold_project::record::{self, Recorded};
use versions::Versions;

mod asking;
mod behind;
mod screen;
mod session;
mod undo;
mod versions;

pub use behind::{Behind, behind};

pub fn run(args: &RecastArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    let settings = Settings::read()?;
    let inside = args.named_dir.as_deref().or(args.dir.as_deref()).unwrap_or(Path::new("."));
    let recorded = record::find(inside).map_err(|error| of_record(&error))?;
    recovery::at(&recorded.root)?;
    if args.undo {
        return undo::run(args, global, &recorded);
    }
    if args.check {
        return Ok(behind::run(args, global, &recorded)?);
    }
    warn_of_uncommitted(args, global, &recorded)?;
    let versions = Versions::fetch(&recorded, args.to.as_deref(), global)?;
    let unattended = args.answers.unattended || args.dry_run || args.format != RecastFormat::Text;
    let interface = if unattended { None } else { Interface::of_terminal(global.plain) };
    let job = RecastJob { args, global, settings: &settings, recorded: &recorded, versions: &versions };
    let mut session = job.session(interface.is_some())?;
    let recasting = job.recasting()?;
    let wishes = match interface {
        None => {
            job.require_answers(&session)?;
            job.wishes()
        }
        Some(Interface::Lines) => job.ask_in_lines(&mut session, &recasting)?,
        Some(Interface::Screen) => job.ask_on_screen(&mut session, &recasting)?,
    };
    job.finish(&session, &recasting, &wishes)
}

/// Says which changes are not committed, or refuses to go on.
fn warn_of_uncommitted(args: &RecastArgs, global: GlobalOptions, recorded: &Recorded) -> Result<(), Failure> {
    let all = uncommitted(&recorded.root).unwrap_or_default();
    if all.is_empty() {
        return Ok(());
    }
    if args.clean {
        let message = format!("{} not committed; nothing was written", count(all.len(), "change"));
        let failure = Failure::new(Exit::InTheWay, message);
        let failure = all.iter().take(20).fold(failure, |failure, path| failure.line(safe(path)));
        return Err(failure.help("commit or put them aside first, or leave --clean out"));
    }
    if !global.quiet {
        let shown: Vec<String> = all.iter().take(5).map(|path| safe(path)).collect();
        let more = if all.len() > shown.len() { ", …" } else { "" };
        say!("{WARN}not committed:{WARN:#} {NAME}{}{more}{NAME:#}", shown.join(", "));
    }
    Ok(())
}

/// A recast, with all that its steps need.
struct RecastJob<'a> {
    args: &'a RecastArgs,
    global: GlobalOptions,
    settings: &'a Settings,
    recorded: &'a Recorded,
    versions: &'a Versions,
}

impl<'a> RecastJob<'a> {
    /// Brings both versions together with the project.
    fn recasting(&self) -> Result<Recasting<'a>, Failure> {
        let versions = self.versions;
        let old = versions.old.as_ref().and_then(|old| {
            let session = self.recorded.session(&old.mold);
            let answers = session.map(|session| self.in_folder(&old.mold, session.preview()));
            let answers =
                answers.inspect_err(|error| tracing::warn!(%error, "the old version has other questions"));
            Some(OldVersion { mold: &old.mold, parts: &old.parts, answers: answers.ok()? })
        });
        let digest = versions.new.package.digest()?;
        let limits = self.settings.limits();
        Ok(Recasting::new(self.recorded, old, (&versions.new, digest), &versions.parts, limits))
    }

    fn in_folder(&self, mold: &tinmold_mold::Mold, mut answers: Answers) -> Answers {
        answers.set_folder(mold, &self.recorded.casting.built_in.project_dir);
        answers
    }

    /// Returns what the command line decides.
    fn wishes(&self) -> Wishes {
        use crate::args::IfPresent;
        let all = self.args.if_present.map(|choice| match choice {
            IfPresent::Keep => Decided::Mine,
            IfPresent::Replace => Decided::Theirs,
            IfPresent::Aside => Decided::Aside,
        });
        Wishes { all, marks: self.args.leave_marks, ..Wishes::default() }
    }

    /// Without a user, fails if an answer is missing.
    fn require_answers(&self, session: &Session<'_>) -> Result<(), Failure> {
        require_answers(session, self.args.answers.unattended || self.args.dry_run)?;
        check_answers(session)
    }

    /// Plans the recast with the answers so far.
    fn plan(
        &self,
        session: &Session<'_>,
        recasting: &Recasting<'a>,
        wishes: &Wishes,
    ) -> Result<Recast, Failure> {
        self.plan_of(&self.in_folder(&self.versions.new, session.preview()), recasting, wishes)
    }

    /// Plans the recast with these answers.
    fn plan_of(
        &self,
        answers: &Answers,
        recasting: &Recasting<'a>,
        wishes: &Wishes,
    ) -> Result<Recast, Failure> {
        let package = &self.versions.new.package;
        recasting.plan(answers, wishes).map_err(|error| match error {
            RecastError::Plan(error) => failure::of_plan(error, package),
            RecastError::Verify(error) => failure::of_verify(error, package),
            RecastError::Fit(error) => failure::of_fit(error, package),
            RecastError::Package(error) => error.into(),
            RecastError::Io(_) => Failure::new(Exit::Failed, format!("{error}; nothing was written")),
        })
    }

    /// Adds what is to be known of the answers.
    fn with_notes(&self, recast: &mut Recast, session: &Session<'_>, recasting: &Recasting<'a>) {
        recast.notes.extend(self.versions.gone_keys(self.recorded));
        let Some(old) = &recasting.old else { return };
        if !self.versions.is_exact {
            recast.notes.push(Note::NoOldVersion);
            return;
        }
        if let Ok(before) = self.recorded.session(old.mold) {
            recast.notes.extend(changed_defaults(&before, session));
        }
        let answers = self.in_folder(&self.versions.new, session.preview());
        recast.list_old_names(&old_names((old.mold, &old.answers), (&self.versions.new, &answers)));
    }

    /// Writes the recast, or shows it.
    fn finish(
        &self,
        session: &Session<'_>,
        recasting: &Recasting<'a>,
        wishes: &Wishes,
    ) -> Result<Exit, Stop> {
        let mut recast = self.plan(session, recasting, wishes)?;
        self.with_notes(&mut recast, session, recasting);
        if self.args.dry_run {
            self.print(&recast, false);
            if self.args.format == RecastFormat::Text && !self.global.quiet {
                say!("Nothing was written.");
            }
            return Ok(Exit::Done);
        }
        if !recast.decisions.is_empty() {
            if self.args.format != RecastFormat::Text {
                self.print(&recast, false);
            }
            return Err(self.undecided(&recast).into());
        }
        if recast.is_nothing() {
            self.print(&recast, false);
            return Ok(Exit::Done);
        }
        let watch = Watch::new(true);
        let undo = state::undo_store(&self.recorded.root);
        recast.write(undo.as_ref(), &state::journals(), &watch).map_err(|error| of_write_error(&error))?;
        drop(watch);
        let package = &self.versions.new.package;
        if state::is_own(&self.recorded.root) {
            state::store_own(&self.recorded.root, &package.origin);
        }
        state::keep_mold(package);
        self.keep_draft(None);
        match self.args.format {
            RecastFormat::Text if self.global.quiet => {}
            RecastFormat::Text => self.report(&recast).print_done(),
            _ => self.print(&recast, true),
        }
        Ok(Exit::Done)
    }

    fn report<'r>(&'r self, recast: &'r Recast) -> RecastReport<'r> {
        RecastReport {
            recast,
            root: &self.recorded.root,
            from: &self.recorded.casting.mold,
            to: &recast.record.casting.mold,
        }
    }

    /// Prints the recast as it is planned, or as it was written.
    fn print(&self, recast: &Recast, is_written: bool) {
        let report = self.report(recast);
        match self.args.format {
            RecastFormat::Text => result(report.text(self.global.plain, self.global.verbose)),
            RecastFormat::Json => result_document("recast-1", report.as_json(is_written)),
            RecastFormat::Markdown => result(report.markdown()),
        }
    }

    /// Returns the failure that lists what nobody has decided.
    fn undecided(&self, recast: &Recast) -> Failure {
        let open = &recast.decisions;
        let message = match open.len() {
            1 => "one thing is to be decided; nothing was written".to_owned(),
            several => format!("{several} things are to be decided; nothing was written"),
        };
        let mut failure = Failure::new(Exit::InTheWay, message);
        for decision in open {
            failure =
                failure.line(format!("{NAME}{}{NAME:#} {}", safe(&decision.path), safe(&question(decision))));
            failure =
                lines_of(decision).iter().fold(failure, |failure, line| failure.line(format!("  {line}")));
        }
        failure.help(
            "decide on a terminal; or add --if-present keep (yours stay), replace (the mold's) or aside, \
             or --leave-marks to write both between markers",
        )
    }
}
