//! What can stand in an argument: molds, versions, questions, options, presets, parts, steps, shelves.

use super::words::TypedLine;
use crate::args::value_kind::ValueKind;
use crate::flow::fetch::{fetch_from, fetch_recorded};
use crate::global::GlobalOptions;
use crate::settings::Settings;
use crate::settings::catalogue::KNOWN;
use clap_complete::engine::{CompletionCandidate, PathCompleter, ValueCompleter};
use std::ffi::OsStr;
use std::path::Path;
use tinmold_mold::{Kind, Mold, Question};
use tinmold_project::record::{self, Recorded};
use tinmold_shelf::{Address, Facet, Search, Shelves, search};

/// A shell waits for the answer: nothing is fetched for it.
const OFFLINE: GlobalOptions = GlobalOptions { plain: true, quiet: true, offline: true, verbose: false };
/// The most molds that are offered.
const MOST_MOLDS: usize = 500;

type Candidates = Vec<CompletionCandidate>;

/// Lists what can stand for a value of this kind, given what is typed of it.
pub fn list(kind: ValueKind, current: &OsStr) -> Candidates {
    match kind {
        ValueKind::Mold => molds(current),
        ValueKind::Answer => answers(current),
        ValueKind::Preset => presets(current),
        ValueKind::Part => parts(current),
        ValueKind::Step => steps(current),
        ValueKind::Facet => facets(current),
        ValueKind::Shelf => shelf_names(current),
        ValueKind::Version => project_versions(current),
        ValueKind::Setting => settings(current),
        ValueKind::Command => commands(current),
    }
}

fn candidate(value: impl Into<String>, help: &str) -> CompletionCandidate {
    let help = help.chars().filter(|c| !c.is_control()).collect::<String>();
    CompletionCandidate::new(value.into()).help((!help.is_empty()).then(|| help.into()))
}

/// Keeps those that begin with what is typed, and that every shell takes for a word: what a stranger's mold holds
/// comes to stand on the line of a shell.
fn beginning(current: &OsStr, all: impl IntoIterator<Item = CompletionCandidate>) -> Candidates {
    let typed = current.to_string_lossy();
    let fits = |one: &CompletionCandidate| {
        let value = one.get_value().to_string_lossy();
        value.starts_with(&*typed) && is_word(&value)
    };
    all.into_iter().filter(fits).collect()
}

/// Returns true if no shell takes anything in a text for other than itself.
pub fn is_word(text: &str) -> bool {
    text.chars().all(|c| c.is_alphanumeric() || "-_./@=:,+".contains(c))
}

fn shelves() -> Option<Shelves> {
    Some(Settings::read().ok()?.shelves(OFFLINE))
}

/// Completes the address of a mold: names on all shelves, versions behind `@`, and paths.
fn molds(current: &OsStr) -> Candidates {
    let typed = current.to_string_lossy();
    let mut all = Candidates::new();
    if let Some(shelves) = shelves() {
        all = match typed.split_once('@') {
            Some((name, _)) => versions(&shelves, name, &format!("{name}@")),
            None => names(&shelves, &typed),
        };
    }
    all = beginning(current, all);
    if !typed.contains('@') && (all.is_empty() || typed.starts_with(['.', '/', '~'])) {
        all.extend(PathCompleter::any().complete(current));
    }
    all
}

/// Lists the versions of a mold, each behind `before`.
fn versions(shelves: &Shelves, name: &str, before: &str) -> Candidates {
    let entry = Address::parse(name).ok().and_then(|address| shelves.entry(&address));
    let versions = entry.into_iter().flat_map(|entry| entry.versions);
    versions.map(|release| candidate(format!("{before}{}", release.version), &release.released)).collect()
}

/// Lists the molds of all shelves; by their names alone where one shelf has it.
fn names(shelves: &Shelves, typed: &str) -> Candidates {
    let (catalogues, _) = shelves.list(None);
    let catalogues: Vec<_> = catalogues.iter().collect();
    let mut all = Vec::new();
    for hit in search(&catalogues, &Search::default()) {
        let catalogue = catalogues[hit.catalogue];
        if let Ok(entry) = catalogue.entry(hit.row) {
            let full = format!("{}/{}", catalogue.shelf, entry.name);
            let shown = if typed.contains('/') { full } else { entry.name.clone() };
            if shown.starts_with(typed) {
                all.push(candidate(shown, &entry.summary));
            }
        }
        if all.len() >= MOST_MOLDS {
            break;
        }
    }
    if !typed.contains('/') {
        all.extend(shelves.names().map(|name| candidate(format!("{name}/"), "a shelf")));
    }
    all
}

/// Completes the name of a shelf that was added.
fn shelf_names(current: &OsStr) -> Candidates {
    let shelves = shelves();
    let names = shelves.iter().flat_map(Shelves::names).filter(|name| *name != tinmold_shelf::BUILT_IN);
    beginning(current, names.map(|name| candidate(name, "")))
}

/// Completes `FACET=VALUE`.
fn facets(current: &OsStr) -> Candidates {
    let typed = current.to_string_lossy();
    let Some((facet, _)) = typed.split_once('=') else {
        let facets = Facet::ALL.into_iter().map(|facet| candidate(format!("{}=", facet.name()), ""));
        return beginning(current, facets);
    };
    let (Some(facet), Some(shelves)) = (Facet::of_name(facet), shelves()) else { return Vec::new() };
    let (catalogues, _) = shelves.list(None);
    let values = tinmold_shelf::Picker::new(catalogues, &[]).values(facet);
    let all = values
        .iter()
        .map(|(value, molds)| candidate(format!("{}={value}", facet.name()), &format!("{molds} molds")));
    beginning(current, all)
}

/// Returns the mold whose questions the line answers.
fn mold_of_line(line: &TypedLine) -> Option<Mold> {
    let address = match line.command.as_str() {
        "cast" | "show" => line.positional.first().map(String::as_str),
        "assay" | "fit" => line.option("mold"),
        _ => None,
    };
    match address {
        Some(address) => Mold::load(fetch_from(&shelves()?, address).ok()?).ok(),
        None if matches!(line.command.as_str(), "fit" | "recast" | "finish") => mold_of_project(line),
        None => None,
    }
}

/// Finds the project that the line names, or the current one.
fn project_of(line: &TypedLine) -> Option<Recorded> {
    let named = line.positional.first().filter(|_| line.command == "recast").map(String::as_str);
    record::find(Path::new(line.option("dir").or(named).unwrap_or("."))).ok()
}

/// Returns the mold of that project.
fn mold_of_project(line: &TypedLine) -> Option<Mold> {
    Mold::load(fetch_recorded(&project_of(line)?, OFFLINE).ok()?).ok()
}

/// Completes `KEY=VALUE`: the questions of the mold, or part, that the line names, and their options.
fn answers(current: &OsStr) -> Candidates {
    let line = TypedLine::read();
    let Some(mold) = mold_of_line(&line) else { return Vec::new() };
    let part = line.positional.first().filter(|_| line.command == "fit");
    let part = part.and_then(|name| mold.part(name).ok());
    let questions: Vec<&Question> = match &part {
        Some(part) => part.own_questions().map(|at| &part.mold.questions[at]).collect(),
        None => mold.questions.iter().filter(|question| question.is_asked()).collect(),
    };
    let typed = current.to_string_lossy();
    let Some((key, value)) = typed.split_once('=') else {
        let keys = questions.iter().map(|question| candidate(format!("{}=", question.key), &question.ask));
        return beginning(current, keys);
    };
    let Some(question) = questions.iter().find(|question| question.key == key) else { return Vec::new() };
    // Behind a comma, the next of several options.
    let before = match (question.kind, value.rsplit_once(',')) {
        (Kind::SomeOf(_), Some((before, _))) => format!("{key}={before},"),
        _ => format!("{key}="),
    };
    let taken: Vec<&str> = value.split(',').collect();
    let mut values: Candidates = question
        .options
        .iter()
        .filter(|option| !taken[..taken.len() - 1].contains(&option.value.as_str()))
        .map(|option| {
            candidate(format!("{before}{}", option.value), option.note.as_deref().unwrap_or_default())
        })
        .collect();
    if question.kind == Kind::Flag {
        values = ["true", "false"].map(|flag| candidate(format!("{key}={flag}"), "")).into();
    }
    beginning(current, values)
}

/// Completes the name of a preset of the mold that the line names.
fn presets(current: &OsStr) -> Candidates {
    let Some(mold) = mold_of_line(&TypedLine::read()) else { return Vec::new() };
    beginning(current, mold.presets.iter().map(|(name, preset)| candidate(name.clone(), &preset.summary)))
}

/// Completes the name of a part of the project's mold, or of the one that `--mold` names.
fn parts(current: &OsStr) -> Candidates {
    let Some(mold) = mold_of_line(&TypedLine::read()) else { return Vec::new() };
    let parts = mold.parts().into_iter().filter_map(|name| mold.part(name).ok());
    beginning(current, parts.map(|part| candidate(part.name.clone(), &part.summary)))
}

/// Completes the name of a finishing step of the mold that the line names.
fn steps(current: &OsStr) -> Candidates {
    let Some(mold) = mold_of_line(&TypedLine::read()) else { return Vec::new() };
    let steps = mold.finish.iter().filter(|step| step.offered);
    let steps = steps.map(|step| candidate(step.name.clone(), &step.label));
    beginning(current, steps.chain([candidate("all", "all of them"), candidate("none", "none of them")]))
}

/// Completes a version of the mold of the project that the line names.
fn project_versions(current: &OsStr) -> Candidates {
    let (Some(recorded), Some(shelves)) = (project_of(&TypedLine::read()), shelves()) else {
        return Vec::new();
    };
    let name = recorded.casting.mold.address.split(['@', '#']).next().unwrap_or_default().to_owned();
    beginning(current, versions(&shelves, &name, ""))
}

/// Completes the name of a setting.
fn settings(current: &OsStr) -> Candidates {
    beginning(current, KNOWN.iter().map(|setting| candidate(setting.key(), setting.does)))
}

/// Completes the name of a command, for `tinmold help`.
fn commands(current: &OsStr) -> Candidates {
    use clap::CommandFactory;
    let mut command = crate::args::Args::command();
    command.build();
    let line = TypedLine::read();
    let parent = line.positional.first().and_then(|name| command.find_subcommand(name));
    let all = parent.unwrap_or(&command).get_subcommands().map(|command| {
        candidate(command.get_name(), &command.get_about().map(ToString::to_string).unwrap_or_default())
    });
    beginning(current, all)
}
