//! Picking the part to fit.

use super::{FitJob, Project};
use crate::args::FitArgs;
use crate::exit::Exit;
use crate::failure::{Failure, of_fit};
use crate::global::GlobalOptions;
use crate::settings::Settings;
use crate::stop::Stop;
use crate::text::style::{BOLD, FAINT, safe};
use crate::ui::{Interface, PartLine};
use tinmold_mold::{Mold, Part};
use tinmold_notation::did_you_mean;
use tinmold_project::fit::FitError;

/// Picks the part that is named, or lets the user pick among those that go into the project.
pub(super) fn pick(
    args: &FitArgs,
    settings: &Settings,
    project: &Project,
    interface: Option<Interface>,
) -> Result<Part, Stop> {
    let Some(mold) = project.other.as_ref().or(project.own.as_ref()) else {
        return Err(no_part(&[]).into());
    };
    let names = mold.parts();
    if names.is_empty() {
        let message = format!("the mold {} has no parts", safe(mold.name()));
        let help = "a part of another mold goes with --mold MOLD, if it says so";
        return Err(Failure::new(Exit::Usage, message).help(help).into());
    }
    let applies = |part: &Part| applies(args, settings, project, part);
    if let Some(name) = &args.part {
        let part = named(mold, project.own.as_ref(), name)?;
        return match part.when.as_ref().filter(|_| !applies(&part)) {
            Some(when) => {
                let error = FitError::DoesNotGo { part: part.name.clone(), when: when.text().to_owned() };
                Err(of_fit(error, &part.mold.package).into())
            }
            None => Ok(part),
        };
    }
    let mut parts = Vec::new();
    for name in names {
        let part = mold.part(name).map_err(Failure::from)?;
        if project.own.as_ref().map_or(part.anywhere, |own| goes_into(&part, mold, own)) {
            parts.push(part);
        }
    }
    let (mut parts, others): (Vec<Part>, Vec<Part>) = parts.into_iter().partition(applies);
    let why = |part: &Part| {
        let when = part.when.as_ref().map_or("", |when| when.text());
        format!("{} (`{}` does not hold)", safe(&part.name), safe(when))
    };
    if parts.is_empty() {
        let message = format!("no part of {} goes into this project", safe(mold.name()));
        let failure = others.iter().map(why).fold(Failure::new(Exit::Usage, message), Failure::line);
        return Err(failure.help("tinmold show MOLD says what its parts go into").into());
    }
    let line = |part: &Part| PartLine { name: part.name.clone(), summary: part.summary.clone() };
    let lines: Vec<PartLine> = parts.iter().map(line).collect();
    let Some(interface) = interface else { return Err(no_part(&lines).into()) };
    let all = others.iter().map(why).collect::<Vec<_>>().join("; ");
    let note = if all.is_empty() { all } else { format!("Not for this project: {all}") };
    let at = interface.pick_part(&lines, &note).map_err(|stop| stop.or_missing(|| no_part(&lines)))?;
    Ok(parts.swap_remove(at))
}

/// Loads the part of this name if it goes into the project.
fn named(mold: &Mold, own: Option<&Mold>, name: &str) -> Result<Part, Failure> {
    let names = mold.parts();
    if !names.contains(&name) {
        let all = format!("there are {}", names.join(", "));
        let advice = did_you_mean(name, names.iter().copied(), all);
        let message = format!("the mold {} has no part {name:?}; {advice}", mold.name());
        return Err(Failure::new(Exit::Usage, message));
    }
    let part = mold.part(name)?;
    match own {
        None if part.anywhere => Ok(part),
        None => {
            let message = format!("the part {name} goes into cast projects only, and this is not one");
            Err(Failure::new(Exit::Usage, message).help("go into a project that tinmold cast"))
        }
        Some(own) if goes_into(&part, mold, own) => Ok(part),
        Some(own) => {
            let molds = if part.stands_alone() { part.fits.join(", ") } else { mold.name().to_owned() };
            let message =
                format!("the part {name} goes into projects of {molds}, and this is one of {}", own.name());
            Err(Failure::new(Exit::Usage, message)
                .help("choose a part of the project's own mold: leave --mold out"))
        }
    }
}

/// Returns true if a part of `mold` goes into projects of `own`.
fn goes_into(part: &Part, mold: &Mold, own: &Mold) -> bool {
    part.anywhere
        || part.fits.iter().any(|name| name == own.name())
        || (mold.name() == own.name() && part.fits.is_empty())
}

/// Returns true if the part's condition holds for the project, as far as its answers alone decide that.
fn applies(args: &FitArgs, settings: &Settings, project: &Project, part: &Part) -> bool {
    let Some(when) = &part.when else { return true };
    let mold = &part.mold;
    let used = when.with_expression(&mold.scope, None, |compiled| compiled.used);
    let is_own = |id| part.own_questions().any(|at| mold.questions[at].id == id);
    if used.into_iter().any(is_own) {
        return true;
    }
    let job = FitJob { args, global: GlobalOptions::default(), settings, project, part };
    let Ok(session) = job.session(false) else { return true };
    when.holds(&mold.scope, &session.preview().values).unwrap_or(true)
}

fn no_part(parts: &[PartLine]) -> Failure {
    let failure = Failure::new(Exit::Usage, "no part is named, and there is no terminal to pick one");
    let line = |part: &PartLine| {
        format!("{BOLD}{}{BOLD:#}  {FAINT}{}{FAINT:#}", safe(&part.name), safe(&part.summary))
    };
    let failure = parts.iter().map(line).fold(failure, Failure::line);
    failure.help("name one: tinmold fit PART; tinmold show MOLD lists a mold's parts")
}
