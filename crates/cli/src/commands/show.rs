//! `tinmold show`: what a mold asks, offers and writes, before anything is cast.

use crate::args::{ShowArgs, ShowFormat};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::flow::answer_sources::today;
use crate::flow::fetch::fetch_from;
use crate::global::GlobalOptions;
use crate::settings::Settings;
use crate::stop::Stop;
use crate::text::conditions;
use crate::text::steps::consent;
use crate::text::style::{
    BOLD, FAINT, NAME, count, quoted, result, result_document, result_json, safe, safe_lines, size,
};
use crate::text::tree;
use std::fmt::Write;
use std::io::IsTerminal;
use tinmold_mold::{BodyFile, FinishStep, Mold, Offered, Part, Snippet, StepAction};
use tinmold_project::answers::{BuiltIns, Offers, Session, blank_sheet, display_value, json_schema};
use tinmold_project::fit::as_cast;
use tinmold_project::plan::{Limits, Plan};
use tinmold_project::steps::resolved;
use tinmold_shelf::{Address, Entry, Release, age_of_day};
use unicode_width::UnicodeWidthStr;

mod data;

use data::as_json;

pub fn run(show: &ShowArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    let shelves = Settings::read()?.shelves(global);
    let mold = Mold::load(fetch_from(&shelves, &show.mold)?).map_err(Failure::from)?;
    // The versions that the shelf lists; not asked for if they are not shown.
    let entry = || Address::parse(&show.mold).ok().and_then(|address| shelves.entry(&address));
    if show.sheet {
        result(blank_sheet(&mold));
        return Ok(Exit::Done);
    }
    match show.format {
        ShowFormat::JsonSchema => result_json(&json_schema(&mold)),
        ShowFormat::Json => result_document("show-1", as_json(&mold, entry().as_ref())),
        ShowFormat::Text => result(as_text(&mold, entry().as_ref(), &show.mold, global.plain)),
    }
    Ok(Exit::Done)
}

fn as_text(mold: &Mold, entry: Option<&Entry>, typed: &str, plain: bool) -> String {
    let defaults = Defaults::of(mold);
    let mut out = String::new();
    let header = &mold.header;
    let _ = writeln!(out, "{BOLD}{}{BOLD:#} {}", safe(mold.name()), safe(mold.version()));
    let _ = writeln!(out, "{}", safe(header.summary.get_ref()));
    let facets = [header.language.join(", "), header.kind.join(", "), header.tags.join(", ")];
    let facets: Vec<_> = facets.iter().filter(|facet| !facet.is_empty()).map(|facet| safe(facet)).collect();
    let _ = writeln!(out, "{FAINT}{}{FAINT:#}", facets.join("  ·  "));
    out += &entry.map(versions).unwrap_or_default();
    out += &questions(mold, &defaults);
    if !mold.presets.is_empty() {
        let _ = writeln!(out, "\n{BOLD}Presets{BOLD:#}  {FAINT}(tinmold cast … --preset NAME){FAINT:#}");
        for (name, preset) in &mold.presets {
            let _ = writeln!(out, "  {NAME}{}{NAME:#}  {}", safe(name), safe(&preset.summary));
        }
    }
    out += &parts(mold);
    out += &needs_and_steps(mold, &defaults);
    let bytes = |at: usize| mold.package.files[at].len();
    let total: u64 = mold.body.iter().map(|file| bytes(file.file)).sum();
    let _ = writeln!(
        out,
        "\n{BOLD}Its body{BOLD:#} {FAINT}({}, {}){FAINT:#}",
        count(mold.body.len(), "file"),
        size(total)
    );
    let entries: Vec<(&str, String)> =
        mold.body.iter().map(|file| (mold.path_in_body(file), condition(mold, file))).collect();
    // What another program reads is whole.
    let most = if std::io::stdout().is_terminal() { 60 } else { usize::MAX };
    out += &tree::draw("body", &entries, plain, most);
    if let Some(readme) = readme(mold) {
        let _ = writeln!(out, "\n{BOLD}README{BOLD:#}\n{}", safe_lines(&readme));
    }
    let typed = safe(&quoted(typed));
    let _ = writeln!(out, "\n{BOLD}To start a project{BOLD:#}\n  tinmold cast {typed}");
    out
}

/// Returns the questions in their groups.
fn questions(mold: &Mold, defaults: &Defaults<'_>) -> String {
    let mut out = format!("\n{BOLD}It asks{BOLD:#}\n");
    let mut group = None;
    for (at, question) in mold.questions.iter().enumerate().filter(|(_, question)| question.is_asked()) {
        if group != question.group.as_deref()
            && let Some(name) = question.group.as_deref()
        {
            let _ = writeln!(out, " {BOLD}{}{BOLD:#}", safe(name));
        }
        group = question.group.as_deref();
        let default = defaults.shown(at).filter(|text| !text.is_empty());
        let default = default.map_or_else(String::new, |text| format!("  {FAINT}[{}]{FAINT:#}", safe(&text)));
        let _ = writeln!(out, "  {NAME}{}{NAME:#}  {}{default}", safe(&question.key), safe(&question.ask));
        if let Some(help) = &question.help {
            let _ = writeln!(out, "      {FAINT}{}{FAINT:#}", safe(help));
        }
        if let Some(when) = &question.when {
            let _ = writeln!(out, "      {FAINT}asked when {}{FAINT:#}", conditions::words(mold, when));
        }
        let width = question.options.iter().map(|option| option.value.width()).max().unwrap_or(0);
        for option in &question.options {
            let label = Some(&option.label).filter(|label| **label != option.value);
            let note =
                option.note.as_ref().or(label).map_or_else(String::new, |note| format!("  {}", safe(note)));
            let pad = " ".repeat(width.saturating_sub(option.value.width()));
            let _ = writeln!(out, "      {}{pad}{FAINT}{note}{FAINT:#}", safe(&option.value));
        }
    }
    out
}

/// The defaults of a mold, as a cast without answers has them.
struct Defaults<'m> {
    mold: &'m Mold,
    session: Option<Session<'m>>,
}

impl<'m> Defaults<'m> {
    fn of(mold: &'m Mold) -> Self {
        let built_ins = BuiltIns::of_system(None);
        let nothing = vec![None; mold.questions.len()];
        Self { mold, session: Session::new(mold, nothing, Offers::default(), built_ins).ok() }
    }

    /// Returns the default of a question as people read it, also where the other defaults do not ask it; `None`
    /// without one.
    fn shown(&self, at: usize) -> Option<String> {
        let mold = self.mold;
        match (mold.questions[at].default.as_ref()?, &self.session) {
            (Offered::Fixed(value), _) => Some(display_value(mold, value)),
            (Offered::Text(text), Some(session)) => {
                text.render(&mold.scope, session.values()).ok().or_else(|| Some(text.text().to_owned()))
            }
            (_, Some(session)) => Some(display_value(mold, &session.resolved()[at].value)),
            _ => None,
        }
    }
}

/// Returns the parts of the mold. `tinmold check` shows mistakes in them.
fn parts(mold: &Mold) -> String {
    let parts = read_parts(mold);
    let mut out = String::new();
    if !parts.is_empty() {
        let _ = writeln!(out, "\n{BOLD}Parts{BOLD:#} {FAINT}(tinmold fit PART, in a project){FAINT:#}");
    }
    for part in parts {
        let mut notes = Vec::new();
        notes.extend(part.when.as_ref().map(|when| format!("when {}", conditions::words(mold, when))));
        notes.extend((!part.fits.is_empty()).then(|| format!("into {}", safe(&part.fits.join(", ")))));
        notes.extend(part.anywhere.then(|| "into any project".to_owned()));
        let notes = notes.join("; ");
        let _ = writeln!(
            out,
            "  {NAME}{}{NAME:#}  {}{}{FAINT}{notes}{FAINT:#}",
            safe(&part.name),
            safe(&part.summary),
            if notes.is_empty() { "" } else { "  " }
        );
        let defaults = Defaults::of(&part.mold);
        for at in part.own_questions() {
            let question = &part.mold.questions[at];
            let default = defaults.shown(at).filter(|text| !text.is_empty());
            let default =
                default.map_or_else(String::new, |text| format!("  {FAINT}[{}]{FAINT:#}", safe(&text)));
            let _ = writeln!(out, "      {}  {}{default}", safe(&question.key), safe(&question.ask));
        }
    }
    out
}

fn read_parts(mold: &Mold) -> Vec<Part> {
    mold.parts().into_iter().filter_map(|name| mold.part(name).ok()).collect()
}

/// Returns the versions on its shelf, the newest first, with their ages and lengths.
fn versions(entry: &Entry) -> String {
    const MOST: usize = 8;
    let today = today();
    let line = |release: &Release| {
        let age = age_of_day(&release.released, &today)
            .map(|age| if age == "today" { age } else { format!("{age} ago") });
        let bytes = if release.size > 0 { size(release.size) } else { String::new() };
        let facts = [release.released.clone(), age.unwrap_or_default(), bytes];
        let facts: Vec<String> =
            facts.iter().filter(|fact| !fact.is_empty()).map(|fact| safe(fact)).collect();
        format!("  {NAME}{}{NAME:#}  {FAINT}{}{FAINT:#}\n", release.version, facts.join(", "))
    };
    let mut out = format!("\n{BOLD}Versions{BOLD:#}\n");
    out.extend(entry.versions.iter().take(MOST).map(line));
    if entry.versions.len() > MOST {
        let _ = writeln!(out, "  {FAINT}and {} older{FAINT:#}", entry.versions.len() - MOST);
    }
    out
}

/// Returns the needs and the steps of a project, with the digest that vouches for the steps of a mold from
/// elsewhere.
fn needs_and_steps(mold: &Mold, defaults: &Defaults<'_>) -> String {
    let mut out = String::new();
    let condition = |when: &Option<Snippet>| match when {
        Some(when) => format!(", when {}", conditions::words(mold, when)),
        None => String::new(),
    };
    out += &needs(mold);
    let consent_of = consents(defaults);
    let offered = || mold.finish.iter().filter(|step| step.offered);
    if offered().next().is_some() {
        let _ = writeln!(out, "\n{BOLD}Afterwards it offers{BOLD:#}");
    }
    for (step, lines) in offered().map(|step| (step, consent_of(step))) {
        let _ = writeln!(
            out,
            "  {NAME}{}{NAME:#}  {}{FAINT}{}{FAINT:#}",
            safe(&step.name),
            safe(&step.label),
            condition(&step.when)
        );
        for line in lines {
            let _ = writeln!(out, "      {line}");
        }
    }
    let proofs = mold.finish.iter().filter(|step| step.proof).map(|step| safe(&step.name));
    let proofs: Vec<String> = proofs.collect();
    if !proofs.is_empty() {
        let _ = writeln!(out, "\n{BOLD}Its authors prove it{BOLD:#} {FAINT}(tinmold prove){FAINT:#}");
        let _ = writeln!(out, "  {}", proofs.join(", "));
    }
    let built_in = mold.package.origin.is_built_in();
    if let (false, false, Ok(digest)) = (built_in, mold.finish.is_empty(), mold.package.digest()) {
        let _ = writeln!(out, "  {FAINT}digest {digest}{FAINT:#}");
    }
    out
}

/// Returns the tools that a project needs, each once.
fn needs(mold: &Mold) -> String {
    let mut out = String::new();
    if !mold.needs.is_empty() {
        let _ = writeln!(out, "\n{BOLD}It needs{BOLD:#}  {FAINT}(tinmold preflight checks them){FAINT:#}");
    }
    for (at, first) in mold.needs.iter().enumerate() {
        if mold.needs[..at].iter().any(|need| need.tool == first.tool) {
            continue;
        }
        let _ = writeln!(out, "  {NAME}{}{NAME:#}", safe(&first.tool));
        for need in mold.needs.iter().filter(|need| need.tool == first.tool) {
            let version = need.version.as_ref().map_or_else(String::new, |version| format!("{version}  "));
            let when = need.when.as_ref().map(|when| format!("when {}", conditions::words(mold, when)));
            let why = [Some(safe(&need.why)), when].into_iter().flatten().filter(|text| !text.is_empty());
            let why = why.collect::<Vec<_>>().join(", ");
            let _ = writeln!(out, "      {version}{FAINT}{why}{FAINT:#}");
        }
    }
    out
}

/// Returns what tells of a step what it runs with the defaults; where they do not do, its command as the mold has it.
fn consents<'m>(defaults: &Defaults<'m>) -> impl Fn(&FinishStep) -> Vec<String> + use<'m> {
    let mold = defaults.mold;
    let plan = defaults.session.as_ref().and_then(|session| {
        let mut answers = session.preview();
        answers.set_folder(mold, mold.name());
        Plan::new(mold, &answers, &Limits::default()).ok()?.verify().ok()
    });
    move |step: &FinishStep| {
        let with_defaults = plan.as_ref().and_then(|plan| {
            let read = as_cast(plan);
            let read = |path: &str| read(path).ok()?.ok();
            resolved(mold, step, &plan.answers.values, Some(&read)).ok()
        });
        with_defaults.map_or_else(|| vec![safe(&as_written(step))], |step| consent(&step))
    }
}

/// Returns the command of a step as the mold has it.
fn as_written(step: &FinishStep) -> String {
    match &step.action {
        StepAction::Run(program, arguments) => {
            let arguments = arguments.iter().map(|argument| quoted(argument.text()));
            std::iter::once(quoted(program)).chain(arguments).collect::<Vec<_>>().join(" ")
        }
        StepAction::Git(message) => format!("git, with the message {}", quoted(message.text())),
    }
}

/// Returns the condition of a file that is not always written.
fn condition(mold: &Mold, file: &BodyFile) -> String {
    match file.whens.as_slice() {
        [] => String::new(),
        whens => format!("when {}", conditions::all_in_words(mold, whens)),
    }
}

fn readme(mold: &Mold) -> Option<String> {
    let bytes = mold.package.file("README.md")?.read().ok()?;
    Some(String::from_utf8_lossy(&bytes).into_owned())
}
