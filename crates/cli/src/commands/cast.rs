//! `tinmold cast`: a project from a mold.

use crate::args::{Args, CastArgs};
use crate::ask::{Asker, Decision, Dialogue, Prompts, Reply, Review, Stop, walk};
use crate::exit::Exit;
use crate::failure::{self, Failure};
use crate::interrupt::Watch;
use crate::show::{BOLD, FAINT, GOOD, NAME, count, safe, size};
use crate::{given, keep};
use std::fs;
use std::io::IsTerminal;
use std::path::{Path, PathBuf};
use tinmold_core::answers::{Answers, Session, written_sheet};
use tinmold_core::mold::{Mold, Snippet};
use tinmold_core::plan::Plan;
use tinmold_core::verify::VerifiedPlan;
use tinmold_core::write::{self, Written};
use tinmold_notation::{Finding, Value};

pub fn run(cast: &CastArgs, args: &Args) -> Result<Exit, Failure> {
    let mold = Mold::load(super::find(&cast.mold)?)?;
    let faulty = |finding: Finding| Failure::findings(&[finding], &mold.package);
    let gathered = given::gather(&mold, &cast.answers)?;
    let offers = given::offers(&mold, &cast.answers, cast.dir.as_deref().and_then(folder_name))?;
    let mut session = Session::new(&mold, gathered.given, offers, given::built_ins()).map_err(faulty)?;
    session.ask_details(cast.answers.details);
    if let Some(failure) = given::refused(&gathered.wrong, &session) {
        return Err(failure);
    }
    let answers = if let Some(mut asker) = asker(cast, args) {
        match by_person(&mut session, cast, asker.as_mut()) {
            Ok(true) => session.finish(),
            Ok(false) => {
                anstream::eprintln!("Left without writing anything.");
                return Ok(Exit::Done);
            }
            Err(stop) => return Err(stopped(stop, &session)),
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
    answers.set_folder(&mold, &folder_name(&folder).unwrap_or_default());
    let plan = planned(&mold, &answers)?;
    if cast.dry_run {
        return super::dry_run::run(cast, args, &plan, &folder);
    }
    // What will be said is made before anything is written, so that a mistake in it stops the cast in time.
    let farewell = Farewell::new(&plan).map_err(faulty)?;
    let watch = Watch::new();
    let written =
        write::new_folder(&plan, &folder, &watch).map_err(|error| failure::of_write(error, &plan))?;
    drop(watch);
    if cast.remember {
        keep::keep_answers(&mold, &answers);
    }
    if let Some(path) = &cast.save_sheet {
        fs::write(path, written_sheet(&mold, &answers)).map_err(|error| {
            let message =
                format!("the project is written, but not the answer sheet {}: {error}", path.display());
            Failure::new(Exit::Failed, message)
        })?;
    }
    if !args.quiet {
        report(&farewell, &written);
    }
    Ok(Exit::Done)
}

/// Whoever can be asked: nobody if that is not wanted, or if there is no terminal.
fn asker(cast: &CastArgs, args: &Args) -> Option<Box<dyn Asker>> {
    if cast.answers.unattended || cast.dry_run {
        return None;
    }
    if args.plain {
        return Some(Box::new(Dialogue));
    }
    let terminal = std::io::stdin().is_terminal() && std::io::stderr().is_terminal();
    let dumb = std::env::var("TERM").is_ok_and(|term| term == "dumb");
    match terminal && std::env::var_os("CI").is_none() {
        true if dumb => Some(Box::new(Dialogue)),
        true => Some(Box::new(Prompts::new())),
        false => None,
    }
}

/// Without a person: a failure if something is unanswered that may not take its default.
fn unanswered(session: &Session<'_>, asked: &[usize], unattended: bool) -> Option<Failure> {
    let missing: Vec<usize> = if unattended {
        asked.iter().copied().filter(|at| session.settled()[*at].refusal.is_some()).collect()
    } else {
        asked.to_vec()
    };
    (!missing.is_empty()).then(|| given::missing(session, &missing, unattended))
}

fn stopped(stop: Stop, session: &Session<'_>) -> Failure {
    match stop {
        Stop::Interrupted => Failure::new(Exit::Interrupted, "interrupted; nothing was written"),
        Stop::Ended => {
            let asked: Vec<usize> = session.unanswered().collect();
            given::missing(session, &asked, false)
        }
        Stop::Terminal(error) => Failure::new(Exit::Failed, format!("the terminal failed: {error}")),
        Stop::Mold(finding) => Failure::findings(&[*finding], &session.mold().package),
    }
}

/// Asks everything and shows the review until the person decides; true: write it.
fn by_person(session: &mut Session<'_>, cast: &CastArgs, asker: &mut dyn Asker) -> Result<bool, Stop> {
    let mold = session.mold();
    anstream::eprintln!(
        "{BOLD}{}{BOLD:#} {}  {}",
        safe(mold.name()),
        safe(mold.version()),
        safe(&mold.header.summary)
    );
    loop {
        walk(session, asker)?;
        let mut answers = session.preview();
        let folder = folder(cast, mold, &answers)?;
        answers.set_folder(mold, &folder_name(&folder).unwrap_or_default());
        let plan = Plan::new(mold, &answers).map_err(first_finding)?;
        let sizes = plan.sizes().map_err(first_finding)?;
        let paths = plan.entries.iter().map(|entry| entry.path.clone());
        let show =
            |path: &str| super::dry_run::bytes(&plan, path).map_or_else(String::new, super::dry_run::shown);
        let review = Review { folder, entries: paths.zip(sizes).collect(), file: &show };
        match asker.review(session, &review)? {
            Decision::Write => return Ok(true),
            Decision::Leave => return Ok(false),
            Decision::Change(at) => {
                if let Reply::Answer(value) = asker.ask(session, at)? {
                    session.answer(at, value)?;
                }
            }
            Decision::Details => session.ask_details(true),
        }
    }
}

fn first_finding(error: tinmold_core::plan::PlanError) -> Stop {
    let tinmold_core::plan::PlanError::Faulty(findings) = error;
    findings.into_iter().next().map_or(Stop::Ended, Stop::from)
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

fn planned<'m>(mold: &'m Mold, answers: &Answers) -> Result<VerifiedPlan<'m>, Failure> {
    let plan = Plan::new(mold, answers).map_err(|error| failure::of_plan(error, &mold.package))?;
    plan.verify().map_err(|error| failure::of_verify(error, &mold.package))
}

/// The last words of a cast, as the mold gives them.
struct Farewell {
    /// Places to know, each with what to know.
    tour: Vec<(String, String)>,
    next: Vec<String>,
    /// How the mold says to go to the folder.
    enter: String,
}

impl Farewell {
    fn new(plan: &VerifiedPlan<'_>) -> Result<Self, Finding> {
        let (mold, values) = (plan.mold, &plan.values);
        let text = |snippet: &Snippet| Ok(safe(&snippet.render(&mold.shown_scope, values)?));
        let tour = mold.texts.tour.iter().map(|(path, says)| Ok((text(path)?, text(says)?)));
        let enter = match mold.scope.find("project.dir").and_then(|id| values.get(id)) {
            Some(Value::Text(name)) => format!("cd {name}"),
            _ => String::new(),
        };
        Ok(Self {
            tour: tour.collect::<Result<_, Finding>>()?,
            next: mold.texts.next.iter().map(text).collect::<Result<_, Finding>>()?,
            enter,
        })
    }
}

/// Says what is there now, the places to know, and what to type next.
fn report(farewell: &Farewell, written: &Written) {
    anstream::eprintln!(
        "{GOOD}Written:{GOOD:#} {NAME}{}{NAME:#} {FAINT}({}, {}){FAINT:#}",
        safe(&written.folder.display().to_string()),
        count(written.files, "file"),
        size(written.bytes)
    );
    if !farewell.tour.is_empty() {
        anstream::eprintln!("\n{BOLD}Places to know{BOLD:#}");
    }
    let wide = farewell.tour.iter().map(|(path, _)| path.chars().count()).max().unwrap_or(0);
    for (path, says) in &farewell.tour {
        anstream::eprintln!("  {NAME}{path:<wide$}{NAME:#}  {says}");
    }
    if !farewell.next.is_empty() {
        anstream::eprintln!("\n{BOLD}Next{BOLD:#}");
    }
    for line in &farewell.next {
        // The mold knows the folder's name; where it is seen from here, the program knows.
        if *line == farewell.enter {
            anstream::eprintln!("  cd {}", safe(&quoted(&written.folder)));
        } else {
            anstream::eprintln!("  {line}");
        }
    }
}

/// A path as a shell takes it.
fn quoted(path: &Path) -> String {
    let text = path.display().to_string();
    let plain = |c: char| c.is_ascii_alphanumeric() || "/._-+:\\~".contains(c);
    if !text.is_empty() && text.chars().all(plain) {
        text
    } else {
        format!("'{}'", text.replace('\'', r"'\''"))
    }
}
