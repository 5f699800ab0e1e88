//! What is computed while the user looks on: outcomes, effects, files, the destination.

use super::job::{Choices, Job, Survey};
use crate::failure::Failure;
use std::collections::BTreeMap;
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, AtomicUsize, Ordering};
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender};
use std::time::Duration;
use tinmold_grammar::{Language, Word, words};
use tinmold_mold::Need;
use tinmold_notation::NameId;
use tinmold_project::answers::Answers;
use tinmold_project::outcome::{
    DiffLine, Effect, FileEffect, FileMarks, LineCounts, Outcome, Preview, differing_lines, line_counts,
};
use tinmold_project::preflight::Probe;

/// What is wanted on the screen.
#[derive(Clone, Debug)]
pub struct Wish {
    /// The number of the wish; a later one makes it void.
    pub number: u64,
    /// The answers as they are.
    pub answers: Answers,
    /// By option of the open question: the answers with it.
    pub options: Vec<(u16, Answers)>,
    /// The option under the cursor, which is not taken.
    pub hovered: Option<u16>,
    /// The file that the user went to; without one, the first that matters.
    pub path: Option<String>,
    /// The name of the question in focus, and those that follow it.
    pub names: Vec<NameId>,
}

/// A file on the screen.
#[derive(Clone, Debug, Default)]
pub struct Shown {
    pub path: String,
    pub now: Preview,
    /// The same with the hovered option; `None` if no option is hovered.
    pub then: Option<Preview>,
    /// What differs from the text before the change, or with the hovered option; empty where all is shown.
    pub difference: Vec<DiffLine>,
    pub marks: FileMarks,
    pub words: Vec<Word>,
    /// The words of the file with the hovered option.
    pub words_then: Vec<Word>,
}

/// What was found out, with the number of the wish.
pub enum Found {
    /// What comes out, and what each option would change.
    Outcome(u64, Arc<Outcome>, Vec<(u16, Effect)>),
    /// The file on the screen; `None` if there is none.
    File(u64, Option<Box<Shown>>),
    /// By path: the lines that the hovered option changes.
    Lines(u64, BTreeMap<String, LineCounts>),
    /// Nothing can come out of these answers.
    Failed(u64, Box<Failure>),
    /// The destination.
    Survey(u64, Result<Box<Survey>, Box<Failure>>),
    /// The tools.
    Needs(u64, Vec<(Need, Probe)>),
}

impl Found {
    pub fn number(&self) -> u64 {
        match self {
            Self::Outcome(number, ..)
            | Self::File(number, _)
            | Self::Lines(number, _)
            | Self::Failed(number, _)
            | Self::Survey(number, _)
            | Self::Needs(number, _) => *number,
        }
    }
}

/// What is wished for now.
#[derive(Debug, Default)]
pub struct Latest {
    /// The number of the last wish.
    number: AtomicU64,
    /// Not 0 once a later one was made, for what looks at nothing else.
    is_void: AtomicUsize,
}

impl Latest {
    /// Makes every wish but this one void.
    pub fn set(&self, number: u64) {
        self.number.store(number, Ordering::Relaxed);
        self.is_void.store(1, Ordering::Relaxed);
    }
}

/// Computes what comes out for one wish after another, until nobody wishes any more.
pub fn forecasts(job: &dyn Job, latest: &Latest, wishes: &Receiver<Wish>, found: &Sender<Found>) {
    while let Ok(mut wish) = wishes.recv() {
        while let Ok(later) = wishes.try_recv() {
            wish = later;
        }
        latest.is_void.store(0, Ordering::Relaxed);
        let is_void = || latest.number.load(Ordering::Relaxed) != wish.number;
        if let Err(failure) = forecast(job, &wish, &is_void, &latest.is_void, found)
            && found.send(Found::Failed(wish.number, failure.into())).is_err()
        {
            return;
        }
    }
}

fn forecast(
    job: &dyn Job,
    wish: &Wish,
    is_void: &(dyn Fn() -> bool + Sync),
    cancelled: &AtomicUsize,
    found: &Sender<Found>,
) -> Result<(), Failure> {
    // A screen that is gone wants nothing any more: what is sent to it is of no use.
    let send = |what: Found| found.send(what).is_ok();
    let Some(now) = job.outcome(&wish.answers, is_void)? else { return Ok(()) };
    let (mut effects, mut hovered) = (Vec::with_capacity(wish.options.len()), None);
    for (option, answers) in &wish.options {
        // What an option makes impossible is told when it is taken.
        let Ok(outcome) = job.outcome(answers, is_void) else { continue };
        let Some(outcome) = outcome else { return Ok(()) };
        let effect = Effect::between(&now, &outcome);
        if wish.hovered == Some(*option) {
            hovered = Some((answers, outcome, effect.clone()));
        }
        effects.push((*option, effect));
    }
    let now = Arc::new(now);
    if !send(Found::Outcome(wish.number, Arc::clone(&now), effects)) || is_void() {
        return Ok(());
    }
    let path = path(job, wish, &now, hovered.as_ref().map(|(_, _, effect)| effect))?;
    let Some(path) = path else {
        send(Found::File(wish.number, None));
        return Ok(());
    };
    let preview = job.preview(&wish.answers, &now, &path)?.unwrap_or_default();
    let then = match &hovered {
        Some((answers, outcome, _)) => Some(job.preview(answers, outcome, &path)?.unwrap_or_default()),
        None => None,
    };
    let trace = job.trace(&wish.answers, &now, &path)?;
    // Marks are of use only in the very text that they are made of.
    let trace = trace.filter(|trace| preview.text.as_ref().is_some_and(|text| text.as_bytes() == trace.text));
    let marks = trace.map(|trace| FileMarks::of(&trace, &wish.names)).unwrap_or_default();
    let mut shown = Shown { path, now: preview, then, marks, ..Shown::default() };
    shown.difference = difference(&shown);
    if !send(Found::File(wish.number, Some(Box::new(shown.clone())))) || is_void() {
        return Ok(());
    }
    if let Some((answers, outcome, effect)) = &hovered {
        lines(job, wish, (&now, outcome), answers, effect, is_void, found)?;
    }
    // Plain first, in colour when that is known.
    if let Some(language) = Language::of_path(&shown.path).filter(|_| !is_void()) {
        let of = |text: Option<&String>| text.map_or_else(Vec::new, |text| words(language, text, cancelled));
        shown.words = of(shown.now.text.as_ref());
        shown.words_then = of(shown.then.as_ref().and_then(|then| then.text.as_ref()));
        if !shown.words.is_empty() || !shown.words_then.is_empty() {
            send(Found::File(wish.number, Some(Box::new(shown))));
        }
    }
    Ok(())
}

/// The lines around a change that are shown with it.
const AROUND: usize = 3;

/// Returns what differs in a file: with the hovered option, or from the text before the change.
fn difference(shown: &Shown) -> Vec<DiffLine> {
    let now = shown.now.text.as_deref();
    let texts = match &shown.then {
        Some(then) => now.zip(then.text.as_deref()),
        None => shown.now.before.as_deref().zip(now),
    };
    texts.map_or_else(Vec::new, |(before, after)| differing_lines(before, after, AROUND))
}

/// Returns how late a file is shown: code first, then what has a language, then the rest.
fn rank(path: &str) -> u8 {
    match Language::of_path(path) {
        Some(Language::Json | Language::Toml | Language::Yaml) => 1,
        Some(_) => 0,
        None => 2,
    }
}

/// The most files that are looked through for one that the question in focus matters to.
const MOST_LOOKED: usize = 24;

/// Returns the file to show: the one that the user went to, else the first that matters.
fn path(
    job: &dyn Job,
    wish: &Wish,
    now: &Outcome,
    effect: Option<&Effect>,
) -> Result<Option<String>, Failure> {
    if let Some(effect) = effect {
        let pinned = wish.path.as_ref().filter(|path| effect.files.contains_key(*path));
        // What changes tells more than what comes, and code more than settings.
        let order =
            |(path, file): &(&String, &FileEffect)| (rank(path), !matches!(file, FileEffect::Changed(..)));
        let first = pinned.or_else(|| effect.files.iter().min_by_key(order).map(|(path, _)| path));
        if first.is_some() {
            return Ok(first.cloned());
        }
    }
    let files = now.files();
    let is_there = |path: &&String| files.iter().any(|file| file.path == **path);
    if let Some(path) = wish.path.as_ref().filter(is_there) {
        return Ok(Some(path.clone()));
    }
    let mut using = job.using(now, &wish.names);
    using.sort_by_key(|path| rank(path));
    for path in using.into_iter().take(MOST_LOOKED) {
        if job
            .trace(&wish.answers, now, &path)?
            .is_some_and(|trace| FileMarks::of(&trace, &wish.names) != FileMarks::default())
        {
            return Ok(Some(path));
        }
    }
    Ok(files.first().map(|file| file.path.clone()))
}

/// Counts the lines that the hovered option changes, file by file.
fn lines(
    job: &dyn Job,
    wish: &Wish,
    (now, then): (&Outcome, &Outcome),
    answers: &Answers,
    effect: &Effect,
    is_void: &(dyn Fn() -> bool + Sync),
    found: &Sender<Found>,
) -> Result<(), Failure> {
    let mut counted = BTreeMap::new();
    for (path, _) in effect.files.iter().filter(|(_, file)| matches!(file, FileEffect::Changed(..))) {
        if is_void() {
            return Ok(());
        }
        let before = job.preview(&wish.answers, now, path)?.and_then(|preview| preview.text);
        let after = job.preview(answers, then, path)?.and_then(|preview| preview.text);
        if let (Some(before), Some(after)) = (before, after) {
            counted.insert(path.clone(), line_counts(&before, &after));
        }
    }
    // A screen that is gone wants nothing any more.
    found.send(Found::Lines(wish.number, counted)).ok();
    Ok(())
}

/// A look at the destination that is wanted.
pub struct Visit {
    pub number: u64,
    pub answers: Answers,
    pub choices: Choices,
}

/// The time without a new answer after which the destination is looked at.
const REST: Duration = Duration::from_millis(150);

/// How often it is looked whether the tools are known.
const LOOK_EVERY: Duration = Duration::from_millis(50);

/// Looks at the destination for one set of answers after another, and at the tools.
pub fn surveys(job: &dyn Job, wishes: &Receiver<Visit>, found: &Sender<Found>) {
    let mut next = wishes.recv().ok();
    while let Some(mut wish) = next.take() {
        loop {
            match wishes.recv_timeout(REST) {
                Ok(later) => wish = later,
                Err(RecvTimeoutError::Timeout) => break,
                Err(RecvTimeoutError::Disconnected) => return,
            }
        }
        let Visit { number, answers, choices } = wish;
        let survey = job.survey(&answers, &choices).map(Box::new).map_err(Box::new);
        if found.send(Found::Survey(number, survey)).is_err() {
            return;
        }
        let mut needs = job.needs(&answers);
        while needs.is_none() && next.is_none() {
            match wishes.recv_timeout(LOOK_EVERY) {
                Ok(later) => next = Some(later),
                Err(RecvTimeoutError::Timeout) => needs = job.needs(&answers),
                Err(RecvTimeoutError::Disconnected) => return,
            }
        }
        if let Some(needs) = needs
            && found.send(Found::Needs(number, needs)).is_err()
        {
            return;
        }
        next = next.or_else(|| wishes.recv().ok());
    }
}
