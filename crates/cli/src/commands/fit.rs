//! `tinmold fit`: a part comes into a casting, or the last one goes out of it.

use super::ending::{interrupted, left, stopped, terminal, unanswered};
use super::fitted::FitReport;
use crate::args::{Args, FitArgs, Format};
use crate::ask::{
    AlreadyThere, Asker, Deciding, Decision, InTheWay, PartLine, Reply, Review, Stop, somebody, walk,
};
use crate::config::Config;
use crate::exit::Exit;
use crate::failure::{self, Failure, of_fit, of_record};
use crate::given;
use crate::interrupt::Watch;
use crate::show::{BOLD, FAINT, count, result, safe, size};
use std::path::{Path, PathBuf};
use tinmold_core::answers::{Answers, BuiltIns, Given, Offers, Session, SetError, Source, parse_text};
use tinmold_core::fit::{Fit, FitError, Fitting, OnClash, in_folder};
use tinmold_core::mold::{Mold, Part};
use tinmold_core::plan::Limits;
use tinmold_core::record::{self, RecordError, Recorded};
use tinmold_core::write::{self, Choice, Surveyed};
use tinmold_notation::{Finding, did_you_mean};

/// Where a part goes.
struct Place {
    root: PathBuf,
    /// None for a project that is no casting.
    recorded: Option<Recorded>,
}

pub fn run(fit: &FitArgs, args: &Args) -> Result<Exit, Failure> {
    let inside = fit.dir.as_deref().unwrap_or(Path::new("."));
    let place = place(inside, fit.mold.is_some() && !fit.undo)?;
    crate::clear_up::at(&place.root).map_err(|error| failure::of_bringing(&error))?;
    if fit.undo {
        return super::unfit::run(fit, args, place.recorded.as_ref());
    }
    let config = Config::read()?;
    let own = match &place.recorded {
        Some(recorded) => Some(Mold::load(super::find_recorded(recorded)?)?),
        None => None,
    };
    let other = match &fit.mold {
        Some(address) => Some(Mold::load(super::find_on(&config.shelves(), address)?)?),
        None => None,
    };
    let Some(mold) = other.as_ref().or(own.as_ref()) else { return Err(no_part()) };
    let mut asker = if fit.answers.unattended || fit.dry_run || fit.format == Format::Json {
        None
    } else {
        somebody(args.plain)
    };
    let limits = config.limits();
    let may_go =
        |part: &Part| Job { fit, args, place: &place, own: own.as_ref(), part, limits }.may_go(&config);
    let part = match chosen(fit, mold, own.as_ref(), &may_go, asker.as_mut()) {
        Ok(part) => part,
        Err(Stop::Left) => return Ok(left()),
        Err(Stop::Interrupted) => return Err(interrupted()),
        Err(Stop::Failed(failure)) => return Err(*failure),
        Err(Stop::Terminal(error)) => return Err(terminal(&error)),
        Err(Stop::Ended | Stop::Mold(_)) => return Err(no_part()),
    };
    if let Some(when) = part.when.as_ref().filter(|_| !may_go(&part)) {
        let error = FitError::DoesNotGo { part: part.name.clone(), when: when.text().to_owned() };
        return Err(of_fit(error, &part.mold.package));
    }
    Job { fit, args, place: &place, own: own.as_ref(), part: &part, limits }.run(&config, asker)
}

/// The casting that one is in; a project without a record is where one stands, if a mold is named.
fn place(inside: &Path, may_lack_record: bool) -> Result<Place, Failure> {
    match record::find(inside) {
        Ok(recorded) => Ok(Place { root: recorded.root.clone(), recorded: Some(recorded) }),
        Err(RecordError::NotACasting(_)) if may_lack_record && inside.is_dir() => {
            Ok(Place { root: inside.to_owned(), recorded: None })
        }
        Err(error) => Err(of_record(&error)),
    }
}

fn no_part() -> Failure {
    no_part_of(&[])
}

fn no_part_of(parts: &[PartLine]) -> Failure {
    let failure = Failure::new(Exit::Usage, "no part is named, and nobody can be asked which one");
    let line = |part: &PartLine| {
        format!("{BOLD}{}{BOLD:#}  {FAINT}{}{FAINT:#}", safe(&part.name), safe(&part.summary))
    };
    let failure = parts.iter().map(line).fold(failure, Failure::line);
    failure.help("name one: tinmold fit PART; tinmold show MOLD lists a mold's parts")
}

/// The part that is named, or that the person chooses among those that go with the answers of the casting.
fn chosen(
    fit: &FitArgs,
    mold: &Mold,
    own: Option<&Mold>,
    may_go: &dyn Fn(&Part) -> bool,
    asker: Option<&mut Box<dyn Asker>>,
) -> Result<Part, Stop> {
    let names = mold.parts();
    let fail = |message: String, help: String| Stop::from(Failure::new(Exit::Usage, message).help(help));
    let load = |name: &str| mold.part(name).map_err(|error| Stop::from(Failure::from(error)));
    if names.is_empty() {
        let message = format!("the mold {} has no parts", safe(mold.name()));
        return Err(fail(message, "a part of another mold goes with --mold MOLD, if it says so".into()));
    }
    if let Some(name) = &fit.part {
        if !names.contains(&name.as_str()) {
            let all = format!("there are {}", names.join(", "));
            let advice = did_you_mean(name, names.iter().copied(), all);
            return Err(fail(
                format!("the mold {} has no part {name:?}; {advice}", mold.name()),
                String::new(),
            ));
        }
        let part = load(name)?;
        return match own {
            None if part.anywhere => Ok(part),
            None => Err(fail(
                format!("the part {name} goes into castings only, and this is none"),
                "go into a project that tinmold cast".into(),
            )),
            Some(own) if goes_with(&part, mold, own) => Ok(part),
            Some(own) => {
                let molds = if part.stands_alone() { part.fits.join(", ") } else { mold.name().to_owned() };
                Err(fail(
                    format!(
                        "the part {name} goes into castings of {molds}, and this is one of {}",
                        own.name()
                    ),
                    "choose a part of the casting's own mold: leave --mold out".into(),
                ))
            }
        };
    }
    let mut parts = Vec::new();
    for name in names {
        let part = load(name)?;
        if own.map_or(part.anywhere, |own| goes_with(&part, mold, own)) {
            parts.push(part);
        }
    }
    let (mut parts, others): (Vec<Part>, Vec<Part>) = parts.into_iter().partition(may_go);
    let why = |part: &Part| {
        let when = part.when.as_ref().map_or("", |when| when.text());
        format!("{} (`{}` does not hold)", safe(&part.name), safe(when))
    };
    if parts.is_empty() {
        let message = format!("no part of {} goes with this project", safe(mold.name()));
        let failure = others.iter().map(why).fold(Failure::new(Exit::Usage, message), Failure::line);
        return Err(failure.help("tinmold show MOLD says what its parts go with").into());
    }
    let line = |part: &Part| PartLine { name: part.name.clone(), summary: part.summary.clone() };
    let lines: Vec<PartLine> = parts.iter().map(line).collect();
    let Some(asker) = asker else { return Err(no_part_of(&lines).into()) };
    if !others.is_empty() {
        let all: Vec<String> = others.iter().map(why).collect();
        anstream::eprintln!("{FAINT}Not for this project: {}{FAINT:#}", all.join("; "));
    }
    let at = asker.part(&lines)?;
    Ok(parts.swap_remove(at))
}

/// Whether a part of `mold` goes into castings of `own`.
fn goes_with(part: &Part, mold: &Mold, own: &Mold) -> bool {
    part.anywhere
        || part.fits.iter().any(|name| name == own.name())
        || (mold.name() == own.name() && part.fits.is_empty())
}

/// One fit, with all that it needs.
struct Job<'a> {
    fit: &'a FitArgs,
    args: &'a Args,
    place: &'a Place,
    own: Option<&'a Mold>,
    part: &'a Part,
    limits: Limits,
}

impl Job<'_> {
    fn run(&self, config: &Config, mut asker: Option<Box<dyn Asker>>) -> Result<Exit, Failure> {
        let mut session = self.session(config)?;
        session.ask_details(self.fit.answers.details);
        let mut clash = self.fit.if_present.map(|said| on_clash(said.into())).unwrap_or_default();
        if let Some(asker) = &mut asker {
            match self.by_person(&mut session, clash, asker.as_mut()) {
                Ok(Some(said)) => clash = said,
                Ok(None) => return Ok(left()),
                Err(stop) => return stopped(stop, &session),
            }
        } else {
            let asked: Vec<usize> = session.unanswered().collect();
            let unattended = self.fit.answers.unattended;
            if let Some(failure) = unanswered(&session, &asked, unattended) {
                return Err(failure);
            }
        }
        self.as_before(&mut session).map_err(|finding| self.faulty(finding))?;
        let Ok(answers) = session.finish() else {
            return Err(Failure::new(Exit::Missing, "the answers cannot stand"));
        };
        let answers = self.in_folder(answers);
        let fitting = self.fitting(&answers, clash)?;
        let report = self.report(&fitting);
        if self.fit.dry_run {
            let present = self.present(&fitting)?;
            match self.fit.format {
                Format::Json => result(format!("{:#}\n", report.as_json(&present, None))),
                Format::Text => {
                    result(report.text(&present, self.args.plain, usize::MAX));
                    if !self.args.quiet {
                        anstream::eprintln!("Nothing was written.");
                    }
                }
            }
            return Ok(Exit::Done);
        }
        if let Some(failure) = self.unplaced(&fitting, asker.is_some()) {
            return Err(failure);
        }
        let present = self.present(&fitting)?;
        // What will be said is made before anything is written, so that a mistake in it stops the fit in time.
        let next = report.next(&answers).map_err(|finding| self.faulty(finding))?;
        let Some(done) = self.write(&fitting, asker.as_mut())? else { return Ok(left()) };
        if self.fit.format == Format::Json {
            result(format!("{:#}\n", report.as_json(&present, Some(&done))));
        } else if !self.args.quiet {
            report.say(&done, &next);
        }
        Ok(Exit::Done)
    }

    /// Whether the part goes with the answers of the casting, as far as they alone decide it.
    fn may_go(&self, config: &Config) -> bool {
        let Some(when) = &self.part.when else { return true };
        let mold = &self.part.mold;
        let used = when.with_expression(&mold.scope, None, |compiled| compiled.used);
        let is_own = |id| self.part.own_questions().any(|at| mold.questions[at].id == id);
        if used.into_iter().any(is_own) {
            return true;
        }
        let Ok(session) = self.session(config) else { return true };
        when.holds(&mold.scope, &session.preview().values).unwrap_or(true)
    }

    fn faulty(&self, finding: Finding) -> Failure {
        Failure::findings(&[finding], &self.part.mold.package)
    }

    /// The part's questions, with the casting's answers given.
    fn session(&self, config: &Config) -> Result<Session<'_>, Failure> {
        let mold = &self.part.mold;
        let mut gathered = given::gather(mold, &self.fit.answers)?;
        if let (Some(name), Some(at)) = (&self.fit.name, self.part.own_questions().next()) {
            let question = &mold.questions[at];
            match parse_text(question, name, &mold.scope) {
                Ok(value) => gathered.given[at] = Some(Given { value, source: Source::Set }),
                Err(refusal) => {
                    gathered.wrong.push((Source::Set, SetError { key: question.key.clone(), refusal }));
                }
            }
        } else if let Some(name) = &self.fit.name {
            let message = format!("the part {} asks nothing, and {name:?} answers nothing", self.part.name);
            return Err(Failure::new(Exit::Usage, message).help("leave the name out"));
        }
        let folder = self.place.root.canonicalize().ok();
        let folder = folder.and_then(|root| Some(root.file_name()?.to_string_lossy().into_owned()));
        let mut offers =
            Offers { last: Vec::new(), ..given::offers(mold, &self.fit.answers, folder, config)? };
        let mut built_ins: BuiltIns = given::built_ins(given::Person::none());
        if let (Some(recorded), Some(own)) = (&self.place.recorded, self.own) {
            let misfit = |why: String| {
                let root = recorded.root.display();
                Failure::new(Exit::Failed, format!("the record of {root} does not fit its mold: {why}"))
            };
            let answers = recorded.answers(own).map_err(misfit)?;
            offers.folder = Some(recorded.casting.built_in.project_dir.clone());
            if self.part.stands_alone() {
                offers.casting = self.offered(own, &answers);
            } else {
                for (at, given) in recorded.given(own).map_err(misfit)?.into_iter().enumerate() {
                    gathered.given[at] = given;
                }
            }
            built_ins = BuiltIns { today: built_ins.today, year: built_ins.year, ..recorded.built_ins() };
        }
        let session = Session::new(mold, gathered.given, offers, built_ins).map_err(|f| self.faulty(f))?;
        match given::refused(&gathered.wrong, &session) {
            Some(failure) => Err(failure),
            None => Ok(session),
        }
    }

    /// A part that was fitted with these answers is fitted as of that day again, so that nothing changes.
    fn as_before(&self, session: &mut Session<'_>) -> Result<(), Finding> {
        let recorded = self.place.recorded.as_ref();
        match recorded.and_then(|recorded| recorded.day_of(self.part, &session.preview())) {
            Some(day) => session.set_day(&day),
            None => Ok(()),
        }
    }

    /// The casting's answers to questions that a part which stands alone asks too.
    fn offered(&self, own: &Mold, answers: &Answers) -> Vec<(String, tinmold_notation::Value)> {
        let asked = self.part.own_questions().map(|at| &self.part.mold.questions[at]);
        asked
            .filter_map(|question| {
                let at = own.questions.iter().position(|other| other.key == question.key)?;
                let text = tinmold_core::answers::written(own, &answers.questions[at].value);
                let value = parse_text(question, &text, &self.part.mold.scope).ok()?;
                answers.questions[at].is_visible().then(|| (question.key.clone(), value))
            })
            .collect()
    }

    fn in_folder(&self, mut answers: Answers) -> Answers {
        let recorded = self.place.recorded.as_ref().map(|recorded| &recorded.casting.built_in.project_dir);
        let here = || Some(self.place.root.canonicalize().ok()?.file_name()?.to_string_lossy().into_owned());
        let name = recorded.cloned().or_else(here).unwrap_or_default();
        answers.set_folder(&self.part.mold, &name);
        answers
    }

    fn fitting(&self, answers: &Answers, clash: OnClash) -> Result<Fitting<'_>, Failure> {
        Fitting::new(self.part, answers, &in_folder(&self.place.root), &self.limits, clash)
            .map_err(|error| of_fit(error, &self.part.mold.package))
    }

    fn report<'f>(&'f self, fitting: &'f Fitting<'f>) -> FitReport<'f> {
        FitReport::new(self.part, self.own, self.place.recorded.as_ref(), &self.place.root, fitting)
    }

    /// What is there already where the new files go.
    fn present(&self, fitting: &Fitting<'_>) -> Result<Vec<Surveyed>, Failure> {
        write::survey(&fitting.plan, &self.place.root)
            .map_err(|error| failure::of_write(error, &fitting.plan))
    }

    /// Asks everything and shows what will become of the casting until the person decides; none if they leave.
    fn by_person(
        &self,
        session: &mut Session<'_>,
        mut clash: OnClash,
        asker: &mut dyn Asker,
    ) -> Result<Option<OnClash>, Stop> {
        anstream::eprintln!(
            "{BOLD}{}{BOLD:#}  {}  {FAINT}into {}{FAINT:#}",
            safe(&self.part.name),
            safe(&self.part.summary),
            safe(&self.place.root.display().to_string())
        );
        loop {
            walk(session, asker)?;
            self.as_before(session)?;
            let answers = self.in_folder(session.preview());
            let fitting = self.fitting(&answers, clash)?;
            let sizes = fitting.plan.sizes();
            let sizes = sizes.map_err(|error| failure::of_plan(error, &self.part.mold.package))?;
            let present = self.present(&fitting)?;
            let report = self.report(&fitting);
            if report.is_nothing(&present) {
                return Ok(Some(clash));
            }
            let show = |path: &str| match fitting.changes.iter().find(|change| change.path == path) {
                Some(change) => change.after.clone(),
                None => {
                    super::dry_run::bytes(&fitting.plan, path).map_or_else(String::new, super::dry_run::shown)
                }
            };
            let there = AlreadyThere::of(&fitting.plan, &present);
            let review = Review {
                title: "What becomes of the project",
                extent: format!(
                    "{} new, {} changed",
                    count(fitting.plan.entries.len(), "file"),
                    fitting.changes.len()
                ),
                folder: self.place.root.clone(),
                entries: report.tree(sizes.into_iter().map(size)),
                present: (there.same + there.different.len() + there.blocked.len() > 0).then_some(there),
                least: 24,
                more: report.changes(40) + &report.unplaced() + &report.clashes(),
                has_steps: false,
                file: &show,
            };
            match asker.review(session, &review)? {
                Decision::Write => {
                    if !fitting.clashes.is_empty() && clash == OnClash::Ask {
                        let difference = report.clash_lines();
                        let path = &fitting.clashes[0].path;
                        let shown = InTheWay { path, number: 1, of: 1, difference };
                        clash = on_clash(asker.conflict(&shown)?.choice);
                    }
                    return Ok(Some(clash));
                }
                Decision::Leave => return Ok(None),
                Decision::Change(at) => {
                    if let Reply::Answer(value) = asker.ask(session, at)? {
                        session.answer(at, value)?;
                    }
                }
                Decision::Details => session.ask_details(true),
                Decision::Steps => {}
            }
        }
    }

    /// Without a person, nothing is done where something has no place or is in the way, unless that was said.
    fn unplaced(&self, fitting: &Fitting<'_>, is_person: bool) -> Option<Failure> {
        if is_person {
            return None;
        }
        let report = self.report(fitting);
        if !fitting.missing.is_empty() && !self.fit.skip_missing {
            let message =
                format!("the part {} does not find all its places; nothing was written", self.part.name);
            let failure = report
                .unplaced()
                .lines()
                .skip(2)
                .fold(Failure::new(Exit::InTheWay, message), |failure, line| {
                    failure.line(line.strip_prefix("  ").unwrap_or(line))
                });
            return Some(
                failure
                    .help("mend that, or add --skip-missing: the rest is done, and this is for you to place"),
            );
        }
        if !fitting.clashes.is_empty() && self.fit.if_present.is_none() {
            let message = "other values are there already; nothing was written";
            let failure =
                report.clash_lines().into_iter().fold(Failure::new(Exit::InTheWay, message), Failure::line);
            return Some(
                failure.help("add --if-present keep (yours stay) or replace (the new ones take their place)"),
            );
        }
        None
    }

    /// Writes the fit; none if the person left.
    fn write(
        &self,
        fitting: &Fitting<'_>,
        asker: Option<&mut Box<dyn Asker>>,
    ) -> Result<Option<Fit>, Failure> {
        let mut deciding = Deciding {
            plan: &fitting.plan,
            folder: self.place.root.clone(),
            if_present: self.fit.if_present.map(Choice::from),
            asker: asker.map(|asker| asker.as_mut() as &mut dyn Asker),
            stop: None,
        };
        let watch = Watch::new(self.args.quiet || self.args.plain);
        let written = fitting.write(&self.place.root, self.place.recorded.as_ref(), &watch, &mut deciding);
        drop(watch);
        match (written, deciding.stop) {
            (Ok(fit), _) => Ok(Some(fit)),
            (Err(_), Some(Stop::Left)) => Ok(None),
            (Err(_), Some(Stop::Interrupted)) => Err(interrupted()),
            (Err(_), Some(Stop::Terminal(error))) => Err(terminal(&error)),
            (Err(error), _) => Err(failure::of_write(error, &fitting.plan)),
        }
    }
}

fn on_clash(choice: Choice) -> OnClash {
    match choice {
        Choice::Replace => OnClash::Replace,
        Choice::Keep | Choice::Aside => OnClash::Keep,
    }
}
