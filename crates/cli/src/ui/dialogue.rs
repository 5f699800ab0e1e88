//! Questions as plain lines: for a screen reader, a serial line, or a program that answers.

use super::{ConflictReply, PartLine, Reply, ReviewAction, ReviewView};
use crate::state::store_vouched;
use crate::stop::Stop;
use crate::text::diff::InTheWay;
use crate::text::review;
use crate::text::steps::consent;
use crate::text::style::{grouped, safe, safe_lines};
use crossterm::event::{self, Event, KeyCode, KeyEventKind, KeyModifiers};
use crossterm::terminal::{disable_raw_mode, enable_raw_mode};
use std::fmt::Write as _;
use std::io::{BufRead, IsTerminal, Write};
use tinmold_mold::{Kind, Question};
use tinmold_project::answers::{Session, display_value, parse_text};
use tinmold_project::steps::StepChoice;
use tinmold_project::write::Choice;
use tinmold_shelf::Picker;

/// Asks in plain lines on standard error and reads from standard input.
#[derive(Clone, Copy, Debug)]
pub struct Dialogue;

/// Returns a page of the found molds.
fn page(picker: &Picker) -> String {
    let first = picker.at();
    let last = (first + SHOWN).min(picker.found());
    let words = if picker.text().is_empty() { String::new() } else { format!(" for {:?}", picker.text()) };
    let mut out =
        format!("\nMolds {} to {} of {}{}:\n", first + 1, last, grouped(picker.found()), safe(&words));
    for at in first..last {
        if let Ok((shelf, mold)) = picker.mold(at) {
            let (name, version, number) = (safe(&mold.name), &mold.newest().version, at - first + 1);
            let _ = writeln!(out, "  {number}. {name} {version} on {}: {}", safe(shelf), safe(&mold.summary));
        }
    }
    out
}

impl Dialogue {
    /// Writes `prompt` and reads a line without its end.
    pub fn line(prompt: &str) -> Result<String, Stop> {
        let terminal = |error: std::io::Error| Stop::Terminal(error);
        let mut stderr = std::io::stderr().lock();
        write!(stderr, "{prompt}").and_then(|()| stderr.flush()).map_err(terminal)?;
        let mut line = String::new();
        if std::io::stdin().lock().read_line(&mut line).map_err(terminal)? == 0 {
            return Err(Stop::InputEnded);
        }
        Ok(line.trim_end_matches(['\n', '\r']).to_owned())
    }
}

impl Dialogue {
    /// Writes `prompt` and reads a line that a terminal does not show.
    fn hidden_line(prompt: &str) -> Result<String, Stop> {
        if !std::io::stdin().is_terminal() {
            return Self::line(prompt);
        }
        let write = |text: &str| {
            let mut stderr = std::io::stderr().lock();
            write!(stderr, "{text}").and_then(|()| stderr.flush())
        };
        write(&format!("(not shown) {prompt}")).map_err(Stop::Terminal)?;
        enable_raw_mode().map_err(Stop::Terminal)?;
        let typed = Self::hidden_keys();
        disable_raw_mode().and_then(|()| write("\n")).map_err(Stop::Terminal)?;
        typed
    }

    /// Reads keys up to Enter.
    fn hidden_keys() -> Result<String, Stop> {
        let mut text = String::new();
        loop {
            let Event::Key(key) = event::read().map_err(Stop::Terminal)? else { continue };
            match key.code {
                _ if key.kind == KeyEventKind::Release => {}
                KeyCode::Char('c') if key.modifiers.contains(KeyModifiers::CONTROL) => {
                    return Err(Stop::Interrupted);
                }
                KeyCode::Char('d') if key.modifiers.contains(KeyModifiers::CONTROL) => {
                    return Err(Stop::InputEnded);
                }
                KeyCode::Enter => return Ok(text),
                KeyCode::Backspace => drop(text.pop()),
                KeyCode::Char(c) => text.push(c),
                _ => {}
            }
        }
    }
}

/// The number of molds on a page of plain lines.
const SHOWN: usize = 10;

impl Dialogue {
    /// Lets the user pick a mold; returns its address.
    pub fn pick_mold(self, picker: &mut Picker) -> Result<String, Stop> {
        loop {
            eprint!("{}", page(picker));
            let line =
                Self::line("Number or name takes one, other words narrow, Enter shows more, no leaves: ")?;
            let text = line.trim();
            if text.is_empty() {
                let next = picker.at() + SHOWN;
                if next < picker.found() {
                    picker.step(isize::try_from(SHOWN).unwrap_or(0));
                } else {
                    picker.step(isize::MIN + 1);
                }
                continue;
            }
            if text == "no" {
                return Err(Stop::Left);
            }
            let of = |at: usize| picker.mold(at).ok();
            let numbered = text.parse::<usize>().ok().filter(|number| (1..=SHOWN).contains(number));
            if let Some((shelf, mold)) = numbered.and_then(|number| of(picker.at() + number - 1)) {
                return Ok(format!("{shelf}/{}", mold.name));
            }
            // A whole name, or an address, is taken as it is.
            if text.contains(['/', '@']) {
                return Ok(text.to_owned());
            }
            picker.set_text(text);
            if let Some((shelf, mold)) = picker.mold(0).ok().filter(|(_, mold)| mold.name == text) {
                return Ok(format!("{shelf}/{}", mold.name));
            }
            if picker.found() == 0 {
                say!("No mold matches {text:?}.");
                picker.set_text("");
            }
        }
    }

    /// Lets the user pick a part; returns its index.
    pub fn pick_part(self, parts: &[PartLine], others: &str) -> Result<usize, Stop> {
        if !others.is_empty() {
            say!("{}", safe(others));
        }
        say!("\nParts of this mold:");
        for (at, part) in parts.iter().enumerate() {
            say!("  {}. {}: {}", at + 1, safe(&part.name), safe(&part.summary));
        }
        loop {
            let line = Self::line("Number or name takes one, no leaves: ")?;
            let text = line.trim();
            if text == "no" {
                return Err(Stop::Left);
            }
            let numbered = text.parse::<usize>().ok().and_then(|number| number.checked_sub(1));
            let named = parts.iter().position(|part| part.name == text);
            if let Some(at) = named.or(numbered.filter(|at| *at < parts.len())) {
                return Ok(at);
            }
        }
    }

    /// Asks yes or no.
    pub fn confirm(self, what: &str) -> Result<bool, Stop> {
        loop {
            match Self::line(&format!("{what} (yes, no): "))?.trim() {
                "yes" | "y" => return Ok(true),
                "no" | "n" => return Ok(false),
                _ => {}
            }
        }
    }

    /// Asks the question at an index.
    pub fn ask(self, session: &Session<'_>, at: usize) -> Result<Reply, Stop> {
        let mold = session.mold();
        let (question, resolved) = (&mold.questions[at], &session.resolved()[at]);
        let (number, of) = session.progress(at);
        say!("\nQuestion {number} of {of}: {}", safe(&question.ask));
        let offered: Vec<usize> = (0..question.options.len())
            .filter(|option| resolved.options.get(*option) != Some(&false))
            .collect();
        if offered.len() > MOST_LISTED {
            say!("There are {} to choose from. A word shows those that match it.", offered.len());
        } else {
            eprint!("{}", options(question, &offered, ""));
        }
        let usable = resolved.refusal.is_none() || resolved.source.is_given();
        let current =
            if usable && !question.secret { display_value(mold, &resolved.value) } else { String::new() };
        loop {
            let default =
                if current.is_empty() { String::new() } else { format!("Enter takes {}, ", safe(&current)) };
            let prompt = format!("Answer ({default}? helps, < goes back): ");
            let line = if question.secret { Self::hidden_line(&prompt)? } else { Self::line(&prompt)? };
            let text = match line.as_str() {
                "?" => {
                    say!("{}", help(question));
                    continue;
                }
                "<" => return Ok(Reply::Back),
                words if offered.len() > MOST_LISTED && !is_answer(question, words) => {
                    let found = options(question, &offered, words);
                    eprint!("{}", if found.is_empty() { "  Nothing matches.\n" } else { &found });
                    continue;
                }
                "" => current.clone(),
                other => by_number(question, &offered, other),
            };
            let refusal = match parse_text(question, &text, &mold.scope) {
                Ok(value) => match session.judge(at, &value) {
                    None => {
                        if let Some(reading) = question.reading(&text) {
                            say!("That is {}.", safe(&reading));
                        }
                        return Ok(Reply::Answer(value));
                    }
                    Some(refusal) => refusal,
                },
                Err(refusal) => refusal,
            };
            say!("Not taken: {}.", safe(&refusal.to_string()));
        }
    }

    /// Shows the review and asks what to do.
    pub fn review(self, session: &Session<'_>, view: &ReviewView<'_>) -> Result<ReviewAction, Stop> {
        say!("\n{}", review::whole(view.review, &view.layout()));
        loop {
            let more = if view.has_steps() { ", details, steps" } else { ", details" };
            let line = Self::line(&format!("Write it? (yes, no, change KEY, show PATH{more}): "))?;
            let (word, rest) = line.trim().split_once(' ').unwrap_or((line.trim(), ""));
            match word {
                "yes" | "y" => return Ok(ReviewAction::Write),
                "no" | "n" => return Ok(ReviewAction::Leave),
                "change" => {
                    let found =
                        session.mold().questions.iter().position(|question| question.key == rest.trim());
                    let may_change = |at: &usize| {
                        session.resolved()[*at].is_visible() && session.mold().questions[*at].is_asked()
                    };
                    match found.filter(may_change) {
                        Some(at) => return Ok(ReviewAction::Change(at)),
                        None => {
                            let keys: Vec<_> = session
                                .mold()
                                .questions
                                .iter()
                                .filter(|question| question.is_asked())
                                .map(|question| question.key.as_str())
                                .collect();
                            say!("The keys are {}.", keys.join(", "));
                        }
                    }
                }
                "show" if view.review.changes.iter().any(|change| change.path == rest.trim()) => {
                    say!("{}", safe_lines(&(view.file)(rest.trim())));
                }
                "details" => return Ok(ReviewAction::Details),
                "steps" if view.has_steps() => return Ok(ReviewAction::Steps),
                "show" => say!("No file of this path will be written."),
                _ => {}
            }
        }
    }

    /// Lets the user tick the finishing steps that run; returns false if they go back.
    pub fn steps(self, choice: &mut StepChoice) -> Result<bool, Stop> {
        for (at, (step, ticked)) in choice.steps.iter().zip(&choice.ticked).enumerate() {
            say!("  {}. {}{}", at + 1, safe(&step.label), if *ticked { " (ticked)" } else { "" });
            for line in consent(step) {
                say!("     {line}");
            }
        }
        loop {
            let line = Self::line(
                "Which steps run? (all, none, numbers with commas, Enter: what is ticked, no: leave): ",
            )?;
            let count = choice.steps.len();
            let picked: Option<Vec<usize>> = match line.trim() {
                "no" | "n" => return Ok(false),
                "" => break,
                "all" => Some((1..=count).collect()),
                "none" => Some(Vec::new()),
                numbers => numbers.split(',').map(|number| number.trim().parse().ok()).collect(),
            };
            if let Some(picked) = picked.filter(|picked| picked.iter().all(|at| (1..=count).contains(at))) {
                for (at, ticked) in choice.ticked.iter_mut().enumerate() {
                    *ticked = picked.contains(&(at + 1));
                }
                break;
            }
        }
        if !choice.vouched && choice.ticked.contains(&true) && !self.vouches(choice)? {
            choice.ticked.fill(false);
        }
        Ok(true)
    }

    /// Asks whether the user vouches for steps that were shown.
    pub fn vouches(self, choice: &StepChoice) -> Result<bool, Stop> {
        say!("You have not vouched for these steps. They come from {}", safe(&choice.origin));
        // To vouch for a mold says nothing of the files of a project that was brought along.
        let always = if choice.is_own { ", always: as long as the mold is as it is now" } else { "" };
        match Self::line(&format!("You vouch for them? (once{always}, no): "))?.trim() {
            "once" => Ok(true),
            "always" if choice.is_own => {
                store_vouched(&choice.digest, &choice.origin);
                Ok(true)
            }
            _ => Ok(false),
        }
    }

    /// Shows a file that is in the way, and asks what becomes of it.
    pub fn conflict(self, file: &InTheWay<'_>) -> Result<ConflictReply, Stop> {
        say!("\nFile {} of {} exists: {}", file.number, file.of, safe(file.path));
        say_text!("{}", file.shown());
        say!("Lines with - are yours, lines with + are new.");
        loop {
            let line = Self::line(
                "What to do with it? (keep yours, replace it, aside: the new one beside it; with `all` for all that follow; no: leave): ",
            )?;
            match line.trim() {
                "no" | "n" => return Err(Stop::Left),
                word => {
                    if let Some(reply) = conflict_reply(word) {
                        return Ok(reply);
                    }
                }
            }
        }
    }
}

fn conflict_reply(word: &str) -> Option<ConflictReply> {
    let (word, for_all) = match word.strip_suffix(" all") {
        Some(word) => (word, true),
        None => (word, false),
    };
    let choice = match word {
        "keep" | "k" => Choice::Keep,
        "replace" | "r" => Choice::Replace,
        "aside" | "a" => Choice::Aside,
        _ => return None,
    };
    Some(ConflictReply { choice, for_all })
}

/// A longer list is not shown as a whole: it would scroll away.
const MOST_LISTED: usize = 20;

/// Lists the options that hold all of these words, under their headings.
fn options(question: &Question, offered: &[usize], words: &str) -> String {
    let mut out = String::new();
    let mut heading = None;
    for (number, option) in offered.iter().enumerate() {
        let option = &question.options[*option];
        if !option.holds(words) {
            continue;
        }
        let group = option.group.as_deref().unwrap_or("");
        let note = option.note.as_ref().map_or_else(String::new, |note| format!(": {}", safe(note)));
        if heading != Some(group) && !group.is_empty() {
            let _ = writeln!(out, "  {}:", safe(group));
        }
        heading = Some(group);
        let _ = writeln!(out, "  {}. {} ({}){note}", number + 1, safe(&option.value), safe(&option.label));
    }
    out
}

/// Returns true if each piece between commas is a number or the value of an option.
fn is_answer(question: &Question, text: &str) -> bool {
    let is_one = |piece: &str| piece.parse::<usize>().is_ok() || question.option(piece).is_some();
    text.is_empty() || text.starts_with('[') || text.split(',').all(|piece| is_one(piece.trim()))
}

fn help(question: &Question) -> String {
    let mut out = question.help.as_deref().map_or_else(|| "This question has no more help.".into(), safe);
    match question.kind {
        Kind::OneOf(_) => out.push_str("\nAnswer with a name or its number."),
        Kind::SomeOf(_) => out.push_str("\nAnswer with names or numbers, commas between; [] is none."),
        Kind::Texts => out.push_str("\nAnswer with texts, commas between; [] is none."),
        Kind::Flag => out.push_str("\nAnswer with yes or no."),
        _ => {}
    }
    for option in question.options.iter().filter(|option| option.more.is_some()) {
        let _ = write!(out, "\n{}: {}", safe(&option.value), safe(option.more.as_deref().unwrap_or("")));
    }
    out
}

/// Numbers of options become their values.
fn by_number(question: &Question, offered: &[usize], text: &str) -> String {
    if !matches!(question.kind, Kind::OneOf(_) | Kind::SomeOf(_)) {
        return text.to_owned();
    }
    let value = |word: &str| {
        let number = word.trim().parse::<usize>().ok().and_then(|number| number.checked_sub(1));
        match number.and_then(|number| offered.get(number)) {
            Some(option) => question.options[*option].value.clone(),
            None => word.trim().to_owned(),
        }
    };
    text.split(',').map(value).collect::<Vec<_>>().join(",")
}
