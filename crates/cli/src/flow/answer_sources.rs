//! Collects the answers of the command line and the environment, before any question.

use crate::args::AnswerArgs;
use crate::exit::Exit;
use crate::failure::Failure;
use crate::settings::Settings;
use crate::state;
use crate::text::style::{BOLD, FAINT, NAME, safe};
use std::collections::BTreeSet;
use std::io::Read;
use std::path::Path;
use std::thread::{self, JoinHandle};
use std::time::Duration;
use tinmold_mold::Mold;
use tinmold_notation::did_you_mean;
use tinmold_platform::process::{self, Captured, search_path};
use tinmold_project::answers::{
    AnswerSource, BuiltIns, Given, Offers, Problem, Session, SetError, SheetAnswers, SheetFormat,
    display_value, parse_set, parse_text, read_sheet,
};
use tinmold_project::preflight::version_of;

/// The given answers, by index of the question in the mold, and the refused ones.
pub struct Gathered {
    pub given: Vec<Option<Given>>,
    pub wrong: Vec<(AnswerSource, SetError)>,
}

impl Gathered {
    /// Starts a session with these answers.
    ///
    /// Fails with every answer that is refused, or with a mistake of the mold.
    pub fn into_session<'m>(
        self,
        mold: &'m Mold,
        args: &AnswerArgs,
        offers: Offers,
        built_ins: BuiltIns,
    ) -> Result<Session<'m>, Failure> {
        let mut session = Session::new(mold, self.given, offers, built_ins)
            .map_err(|finding| Failure::findings(&[finding], &mold.package))?;
        session.ask_details(args.details);
        match refused(&self.wrong, &session) {
            Some(failure) => Err(failure),
            None => Ok(session),
        }
    }
}

/// Reads `--set`, `--sheet` and the environment; the first of them that has an answer wins.
pub fn gather(mold: &Mold, args: &AnswerArgs) -> Result<Gathered, Failure> {
    let mut gathered = Gathered { given: vec![None; mold.questions.len()], wrong: Vec::new() };
    for (at, question) in mold.questions.iter().enumerate().filter(|(_, question)| question.is_asked()) {
        let variable = format!("TINMOLD_ANSWER_{}", question.key.to_uppercase());
        let Ok(text) = std::env::var(&variable) else { continue };
        let source = AnswerSource::Environment(variable);
        match parse_text(question, &text, &mold.scope) {
            Ok(value) => gathered.given[at] = Some(Given { value, source }),
            Err(refusal) => gathered.wrong.push((source, SetError { key: question.key.clone(), refusal })),
        }
    }
    if let Some(path) = &args.sheet {
        let sheet = sheet(mold, path)?;
        let source = AnswerSource::Sheet(path.clone());
        for (at, value) in sheet.answers {
            gathered.given[at] = Some(Given { value, source: source.clone() });
        }
        gathered.wrong.extend(sheet.wrong.into_iter().map(|error| (source.clone(), error)));
    }
    for text in &args.set {
        match parse_set(mold, text) {
            Ok((at, value)) => gathered.given[at] = Some(Given { value, source: AnswerSource::Set }),
            Err(error) => gathered.wrong.push((AnswerSource::Set, error)),
        }
    }
    Ok(gathered)
}

/// The largest answer sheet, in bytes.
const LARGEST_SHEET: u64 = 2 << 20;

/// Reads a text that is not larger than a sheet.
fn bounded_text(from: impl Read) -> std::io::Result<String> {
    let mut text = String::new();
    match from.take(LARGEST_SHEET + 1).read_to_string(&mut text)? as u64 > LARGEST_SHEET {
        true => Err(std::io::Error::other(format!("it is larger than {} MiB", LARGEST_SHEET >> 20))),
        false => Ok(text),
    }
}

fn sheet(mold: &Mold, path: &Path) -> Result<SheetAnswers, Failure> {
    let shown = if path == Path::new("-") { "standard input".to_owned() } else { path.display().to_string() };
    tracing::debug!(path = shown, "read");
    let read = if path == Path::new("-") {
        bounded_text(std::io::stdin())
    } else {
        std::fs::File::open(path).and_then(bounded_text)
    };
    let text = read.map_err(|error| {
        Failure::new(
            Exit::Usage,
            format!("cannot read the answer sheet {shown}: {error}; nothing was written"),
        )
    })?;
    let format = SheetFormat::of_path(path).unwrap_or_else(|| SheetFormat::of_text(&text));
    read_sheet(mold, &text, format).map_err(|error| {
        Failure::new(
            Exit::Usage,
            format!("the answer sheet {shown} cannot be read: {error}; nothing was written"),
        )
    })
}

/// Returns the defaults that come before the mold's own: the named preset, the answers of the last
/// cast, the user's own. Without a user (`is_attended` is false) the last answers do not count.
pub fn offers(
    mold: &Mold,
    args: &AnswerArgs,
    folder: Option<String>,
    settings: &Settings,
    is_attended: bool,
) -> Result<Offers, Failure> {
    if let Some(name) = &args.preset
        && !mold.presets.contains_key(name)
    {
        let names = || mold.presets.keys().map(String::as_str);
        let all = names().collect::<Vec<_>>().join(", ");
        let none = if all.is_empty() { "the mold has none".to_owned() } else { format!("there are {all}") };
        let advice = did_you_mean(name, names(), none);
        return Err(Failure::new(Exit::Usage, format!("no preset is called {name:?}; {advice}")));
    }
    let last = if is_attended { state::last_answers(mold) } else { Vec::new() };
    let preset = args.preset.clone();
    Ok(Offers { folder, preset, last, own: settings.answers(mold)?, ..Offers::default() })
}

/// Returns the main versions of the tools that a question without an answer takes its default from, as far as this
/// machine has them. By index of the question, `given` are the answers.
pub fn tools_of(mold: &Mold, given: &[Option<Given>]) -> Vec<(String, u64)> {
    let open = mold.questions.iter().zip(given).filter(|(_, given)| given.is_none());
    let tools: BTreeSet<&String> = open.filter_map(|(question, _)| question.from_tool.as_ref()).collect();
    let path = search_path(std::env::var_os("PATH").as_deref());
    tools.into_iter().filter_map(|tool| Some((tool.clone(), version_of(tool, &path)?.major))).collect()
}

/// This day, by ISO 8601.
pub fn today() -> String {
    built_ins(Person::none()).today
}

/// The user's name and email address, as git knows them.
pub struct Person(Option<JoinHandle<Option<Captured>>>);

impl Person {
    /// Starts git in the background if its answer may be needed; starting it takes longer than a
    /// small cast.
    pub fn asked(wanted: bool) -> Self {
        let ask = || {
            let mut git = process::git(Path::new("."));
            git.args(["config", "--get-regexp", r"^user\.(name|email)$"]);
            process::capture(&mut git, Duration::from_secs(5)).ok()
        };
        Self(wanted.then(|| thread::Builder::new().spawn(ask).ok()).flatten())
    }

    /// Returns no name.
    pub fn none() -> Self {
        Self(None)
    }
}

/// Returns date, system and the user's name as git knows it.
pub fn built_ins(person: Person) -> BuiltIns {
    let epoch = std::env::var("SOURCE_DATE_EPOCH").ok();
    let built_ins = BuiltIns::of_system(epoch.as_deref());
    let Some(git) = person.0 else { return built_ins };
    let output = git.join().ok().flatten().filter(|output| output.ended.is_success());
    let text = output.map(|output| output.output).unwrap_or_default();
    let text = String::from_utf8_lossy(&text);
    // The last one wins, as it does for git itself.
    let value = |key: &str| {
        let found = text.lines().rev().find_map(|line| line.strip_prefix(key)?.strip_prefix(' '));
        found.unwrap_or("").trim().to_owned()
    };
    BuiltIns { user_name: value("user.name"), user_email: value("user.email"), ..built_ins }
}

/// Returns one failure for all refused answers; `None` if there is none.
fn refused(wrong: &[(AnswerSource, SetError)], session: &Session<'_>) -> Option<Failure> {
    let problems: Vec<Problem> =
        session.problems().into_iter().filter(|problem| problem.source.is_given()).collect();
    if wrong.is_empty() && problems.is_empty() {
        return None;
    }
    let count = wrong.len() + problems.len();
    let message = if count == 1 {
        "an answer is refused; nothing was written".to_owned()
    } else {
        format!("{count} answers are refused; nothing was written")
    };
    let mut lines: Vec<(usize, String)> = Vec::new();
    let place = |key: &str| {
        session.mold().questions.iter().position(|question| question.key == key).unwrap_or(usize::MAX)
    };
    for (source, error) in wrong {
        lines.push((place(&error.key), line(&error.key, "", source, &error.refusal.to_string())));
    }
    for problem in &problems {
        let refusal = problem.refusal.to_string();
        lines.push((place(&problem.key), line(&problem.key, &problem.value, &problem.source, &refusal)));
    }
    lines.sort();
    let failure = Failure::new(Exit::Usage, message);
    Some(lines.into_iter().fold(failure, |failure, (_, line)| failure.line(line)))
}

fn line(key: &str, value: &str, source: &AnswerSource, refusal: &str) -> String {
    let value = if value.is_empty() { String::new() } else { format!(" = {}", shortened(value)) };
    let source = safe(&source.to_string());
    format!("{BOLD}{}{BOLD:#}{value} {FAINT}({source}){FAINT:#}: {}", safe(key), safe(refusal))
}

/// Returns a value that is no longer than a line, quoted where that makes it clearer.
fn shortened(value: &str) -> String {
    let short: String = value.chars().take(60).collect();
    if short.len() < value.len() { format!("{short:?}…") } else { format!("{value:?}") }
}

/// Returns the failure that names every unanswered question, with the option that answers it.
pub fn missing(session: &Session<'_>, asked: &[usize], unattended: bool) -> Failure {
    let mold = session.mold();
    let message = format!(
        "{} and there is no terminal to ask for them",
        if asked.len() == 1 {
            "an answer is missing".to_owned()
        } else {
            format!("{} answers are missing", asked.len())
        }
    );
    let mut failure = Failure::new(Exit::Missing, message);
    let mut all_have_defaults = true;
    for at in asked {
        let (question, resolved) = (&mold.questions[*at], &session.resolved()[*at]);
        let offer = match &resolved.refusal {
            Some(refusal) => {
                all_have_defaults = false;
                if resolved.source == AnswerSource::Nobody {
                    "no default".to_owned()
                } else if resolved.source == AnswerSource::Casting {
                    refusal.to_string()
                } else {
                    format!("its default {:?} will not do: {refusal}", display_value(mold, &resolved.value))
                }
            }
            None => format!("default {:?}", display_value(mold, &resolved.value)),
        };
        let flag = format!("--set {}=…", question.key);
        failure = failure.line(format!(
            "{NAME}{flag:<24}{NAME:#} {} {FAINT}({}){FAINT:#}",
            safe(&question.ask),
            safe(&offer)
        ));
    }
    if all_have_defaults && !unattended {
        failure.help("give them, or add --unattended to take the defaults")
    } else {
        failure.help("give them")
    }
}
