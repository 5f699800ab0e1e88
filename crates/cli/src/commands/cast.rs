//! `tinmold cast`: a project from a mold.

use super::ending::{interrupted, left, stopped, terminal, unanswered};
use super::farewell::{Farewell, report, say_written};
use crate::args::{Args, CastArgs, IfPresent};
use crate::ask::{AlreadyThere, Asker, Deciding, Decision, Reply, Review, Stop, somebody, walk};
use crate::config::Config;
use crate::exit::Exit;
use crate::failure::{self, Failure};
use crate::finishing::{Finishing, carry_out};
use crate::interrupt::Watch;
use crate::probing::Probing;
use crate::show::{BOLD, WARN, count, safe, size};
use crate::{given, keep};
use std::fs;
use std::mem::ManuallyDrop;
use std::path::{Path, PathBuf};
use tinmold_core::answers::{Answers, Session, written_sheet};
use tinmold_core::mold::Mold;
use tinmold_core::plan::{Limits, Plan};
use tinmold_core::shelf::{Choosing, Shelves};
use tinmold_core::verify::VerifiedPlan;
use tinmold_core::write::{self, ArchiveFormat, Choice, Surveyed, Written};
use tinmold_notation::Finding;

pub fn run(cast: &CastArgs, args: &Args) -> Result<Exit, Failure> {
    let config = Config::read()?;
    let shelves = config.shelves();
    let mut asker = asker(cast, args);
    let address = match (&cast.mold, &mut asker) {
        (Some(mold), _) => mold.clone(),
        (None, Some(asker)) => match chosen_mold(&shelves, asker.as_mut()) {
            Ok(address) => address,
            Err(Stop::Left) => return Ok(left()),
            Err(Stop::Interrupted) => return Err(interrupted()),
            Err(Stop::Terminal(error)) => return Err(terminal(&error)),
            Err(_) => return Err(no_mold()),
        },
        (None, None) => return Err(no_mold()),
    };
    // A mold in a folder is listed only: whether it names the person is not known, and git answers in the meantime.
    let in_folder = Path::new(&address).is_dir();
    let beforehand = given::Person::asked(in_folder);
    let package = super::find_on(&shelves, &address)?;
    let person = if in_folder { beforehand } else { given::Person::asked(package.may_hold("user.")) };
    // Of many files: the end of the program gives the memory back sooner than they could be dropped.
    let mold = ManuallyDrop::new(Mold::load(package)?);
    let faulty = |finding: Finding| Failure::findings(&[finding], &mold.package);
    let archive = cast.archive.as_deref().map(archive_format).transpose()?;
    let gathered = given::gather(&mold, &cast.answers)?;
    let offers = given::offers(&mold, &cast.answers, cast.dir.as_deref().and_then(folder_name), &config)?;
    let mut session =
        Session::new(&mold, gathered.given, offers, given::built_ins(person)).map_err(faulty)?;
    session.ask_details(cast.answers.details);
    if let Some(failure) = given::refused(&gathered.wrong, &session) {
        return Err(failure);
    }
    let probing = Probing::begin(&mold, cast, asker.is_some());
    let limits = config.limits();
    let mut chosen = None;
    let answers = if let Some(asker) = &mut asker {
        match by_person(&mut session, cast, &limits, &probing, asker.as_mut()) {
            Ok(Some(ticked)) => {
                chosen = Some(ticked);
                session.finish()
            }
            Ok(None) => return Ok(left()),
            Err(stop) => return stopped(stop, &session),
        }
    } else {
        let asked: Vec<usize> = session.unanswered().collect();
        if let Some(failure) = unanswered(&session, &asked, cast.answers.unattended) {
            return Err(failure);
        }
        session.finish()
    };
    let mut answers = answers.map_err(|problems| {
        problems.iter().fold(Failure::new(Exit::Missing, "the answers cannot stand"), |failure, problem| {
            failure.line(format!("{}: {}", problem.key, safe(&problem.refusal.to_string())))
        })
    })?;
    let folder = folder(cast, &mold, &answers).map_err(faulty)?;
    let top = folder_name(&folder).unwrap_or_default();
    answers.set_folder(&mold, &top);
    let plan = ManuallyDrop::new(planned(&mold, &answers, &limits)?);
    // What will be said is made before anything is written, so that a mistake in it stops the cast, and a dry run, in time.
    let farewell = Farewell::new(&plan).map_err(faulty)?;
    if cast.dry_run {
        return super::dry_run::run(cast, args, &plan, &folder);
    }
    let mut finishing = Finishing::new(&mold, &answers.values, cast.vouch.as_deref())?;
    match &chosen {
        Some(names) => finishing.keep(names),
        // Without a person nothing runs that was not asked for.
        None => finishing.tick(cast.finish.as_deref().unwrap_or("none"))?,
    }
    let written = match (&cast.archive, archive) {
        (Some(file), Some(format)) => {
            let watch = Watch::new(args.quiet || args.plain);
            let choice = cast.if_present.map(Choice::from);
            write::write_archive(&plan, file, format, &top, choice, &watch)
                .map_err(|error| failure::of_write(error, &plan))?
        }
        _ => match write_folder(cast, args, &plan, &folder, asker.as_mut())? {
            Some(written) => written,
            None => return Ok(left()),
        },
    };
    if cast.remember {
        keep::keep_answers(&mold, &answers);
        keep::keep_recent(&mold.package.origin.address(mold.version()));
    }
    if let Some(path) = &cast.save_sheet {
        fs::write(path, written_sheet(&mold, &answers)).map_err(|error| {
            let message =
                format!("the project is written, but not the answer sheet {}: {error}", path.display());
            Failure::new(Exit::Failed, message)
        })?;
    }
    if !args.quiet {
        say_written(&written);
    }
    let finished =
        cast.archive.is_none().then(|| carry_out(&finishing, &folder, args.verbose, args.plain, args.quiet));
    if !args.quiet {
        if chosen.is_none() {
            anstream::eprint!("{}", probing.lacking(&mold, &answers.values));
        }
        report(&farewell, &written, &top);
        if let Some(finished) = &finished {
            finished.say_what_is_left();
        }
    }
    Ok(finished.map_or(Exit::Done, |finished| finished.exit()))
}

/// Lets the person choose among everything on the shelves.
fn chosen_mold(shelves: &Shelves, asker: &mut dyn Asker) -> Result<String, Stop> {
    let (catalogues, broken) = shelves.list(None);
    for reason in &broken {
        anstream::eprintln!("{WARN}not read:{WARN:#} {}", safe(reason));
    }
    asker.choose(&mut Choosing::new(catalogues, &keep::recent()))
}

fn no_mold() -> Failure {
    Failure::new(Exit::Usage, "no mold is named, and nobody can be asked which one")
        .help("name one: tinmold cast MOLD; tinmold find lists them")
}

fn archive_format(file: &Path) -> Result<ArchiveFormat, Failure> {
    ArchiveFormat::of_path(file).ok_or_else(|| {
        let message =
            format!("{} is no archive that can be written: its name tells the format", file.display());
        Failure::new(Exit::Usage, message).help("end it in .zip or .tar.gz")
    })
}

/// Writes into the folder; none if the person left.
fn write_folder(
    cast: &CastArgs,
    args: &Args,
    plan: &VerifiedPlan<'_>,
    folder: &Path,
    asker: Option<&mut Box<dyn Asker>>,
) -> Result<Option<Written>, Failure> {
    let failed = |error| failure::of_write(error, plan);
    crate::clear_up::at(folder).map_err(failed)?;
    // A folder that the mold named, and not the person, is not written into unseen.
    if cast.dir.is_none() && cast.if_present.is_none() && asker.is_none() && is_filled(folder) {
        let shown = safe(&folder.display().to_string());
        let message = format!("{shown} is there already and is not empty; nothing was written");
        return Err(Failure::new(Exit::InTheWay, message).help(format!(
            "name another folder, or {shown} itself to write into it: tinmold cast {} {shown}",
            safe(plan.mold.name())
        )));
    }
    let mut deciding = Deciding {
        plan,
        folder: folder.to_owned(),
        if_present: cast.if_present.map(Choice::from),
        asker: asker.map(|asker| asker.as_mut() as &mut dyn Asker),
        stop: None,
    };
    let watch = Watch::new(args.quiet || args.plain);
    let result = plan.write(folder, &watch, &mut deciding);
    drop(watch);
    match (result, deciding.stop) {
        (Ok(written), _) => Ok(Some(written)),
        (Err(_), Some(Stop::Left)) => Ok(None),
        (Err(_), Some(Stop::Interrupted)) => Err(interrupted()),
        (Err(_), Some(Stop::Terminal(error))) => Err(terminal(&error)),
        (Err(error), _) => Err(failed(error)),
    }
}

/// Whether something is at the path, and it is not an empty folder.
fn is_filled(path: &Path) -> bool {
    match fs::read_dir(path) {
        Ok(mut entries) => entries.next().is_some(),
        Err(_) => fs::symlink_metadata(path).is_ok_and(|metadata| !metadata.is_dir()),
    }
}

/// Whoever can be asked: nobody if that is not wanted, or if there is no terminal.
fn asker(cast: &CastArgs, args: &Args) -> Option<Box<dyn Asker>> {
    if cast.answers.unattended || cast.dry_run { None } else { somebody(args.plain) }
}

/// Asks everything and shows the review until the person decides: the names of the steps to run, or none to leave.
fn by_person(
    session: &mut Session<'_>,
    cast: &CastArgs,
    limits: &Limits,
    probing: &Probing,
    asker: &mut dyn Asker,
) -> Result<Option<Vec<String>>, Stop> {
    let mold = session.mold();
    anstream::eprintln!(
        "{BOLD}{}{BOLD:#} {}  {}",
        safe(mold.name()),
        safe(mold.version()),
        safe(&mold.header.summary)
    );
    let mut chosen: Option<Vec<String>> = None;
    loop {
        walk(session, asker)?;
        let mut answers = session.preview();
        let folder = folder(cast, mold, &answers)?;
        answers.set_folder(mold, &folder_name(&folder).unwrap_or_default());
        let plan = planned(mold, &answers, limits)?;
        let sizes = plan.sizes().map_err(|error| failure::of_plan(error, &mold.package))?;
        let present = present(cast, &plan, &folder)?.map(|all| AlreadyThere::of(&plan, &all));
        let target = cast.archive.clone().unwrap_or_else(|| folder.clone());
        let paths = plan.entries.iter().map(|entry| entry.path.to_string());
        let show =
            |path: &str| super::dry_run::bytes(&plan, path).map_or_else(String::new, super::dry_run::shown);
        let mut finishing = Finishing::new(mold, &answers.values, cast.vouch.as_deref())?;
        if cast.archive.is_some() {
            finishing.clear();
        }
        match (&chosen, &cast.finish) {
            (Some(names), _) => finishing.keep(names),
            (None, Some(said)) => finishing.tick(said)?,
            (None, None) => {}
        }
        let more = probing.lacking(mold, &answers.values) + &finishing.text();
        let has_steps = !finishing.steps.is_empty();
        let (files, total) = (plan.entries.len(), size(sizes.iter().sum()));
        let review = Review {
            title: "What will be written",
            extent: format!("{}, {total}", count(files, "file")),
            least: 6,
            more,
            has_steps,
            folder: target,
            present,
            entries: paths.zip(sizes.into_iter().map(size)).collect(),
            file: &show,
        };
        match asker.review(session, &review)? {
            Decision::Write => return Ok(Some(finishing.names())),
            Decision::Leave => return Ok(None),
            Decision::Steps => {
                if asker.steps(&mut finishing)? {
                    chosen = Some(finishing.names());
                }
            }
            Decision::Change(at) => {
                if let Reply::Answer(value) = asker.ask(session, at)? {
                    session.answer(at, value)?;
                }
            }
            Decision::Details => session.ask_details(true),
        }
    }
}

/// What is where the entries would be written, in their order; none if the destination is a new one.
pub fn present(
    cast: &CastArgs,
    plan: &VerifiedPlan<'_>,
    folder: &Path,
) -> Result<Option<Vec<Surveyed>>, Failure> {
    if cast.archive.is_some() || fs::symlink_metadata(folder).is_err() {
        return Ok(None);
    }
    write::survey(plan, folder).map(Some).map_err(|error| failure::of_write(error, plan))
}

/// Where the casting goes: the folder that was named, else the one that the mold names.
fn folder(cast: &CastArgs, mold: &Mold, answers: &Answers) -> Result<PathBuf, Finding> {
    if let Some(dir) = &cast.dir {
        return Ok(dir.clone());
    }
    let name = match &mold.texts.folder {
        Some(folder) => folder.render(&mold.scope, &answers.values)?,
        None => mold.name().to_owned(),
    };
    Ok(PathBuf::from(name))
}

/// The name of a folder, `.` and `..` looked up.
fn folder_name(folder: &Path) -> Option<String> {
    let name = folder.file_name().map(std::ffi::OsStr::to_os_string);
    let name = name.or_else(|| folder.canonicalize().ok()?.file_name().map(std::ffi::OsStr::to_os_string));
    name.map(|name| name.to_string_lossy().into_owned())
}

fn planned<'m>(mold: &'m Mold, answers: &Answers, limits: &Limits) -> Result<VerifiedPlan<'m>, Failure> {
    let plan = Plan::new(mold, answers, limits).map_err(|error| failure::of_plan(error, &mold.package))?;
    plan.verify().map_err(|error| failure::of_verify(error, &mold.package))
}

impl From<IfPresent> for Choice {
    fn from(said: IfPresent) -> Self {
        match said {
            IfPresent::Keep => Self::Keep,
            IfPresent::Replace => Self::Replace,
            IfPresent::Aside => Self::Aside,
        }
    }
}
