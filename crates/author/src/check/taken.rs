//! Answers to a part that make it write where its mold has written.

use super::Reported;
use super::parts::{answered, part_session};
use super::trial::{Cast, Known, Trial};
use crate::sets::{AnswerSet, smallest};
use std::collections::{BTreeMap, BTreeSet, HashSet};
use tinmold_mold::{Kind, Part, Question, codes};
use tinmold_notation::{Finding, Value};
use tinmold_platform::parallel;
use tinmold_platform::paths::parent_of;
use tinmold_project::answers::{AnswerSource, Answers, Given, ResolvedAnswer, judge};
use tinmold_project::plan::{Entry, Limits, Plan};

/// Returns the answers to the part's questions that make it write where the mold has written: one finding for a
/// question, with the names of all trials.
pub(super) fn taken_paths(known: &Known<'_>, part: &Part, trials: &[Trial<'_>]) -> Vec<Reported> {
    let of = |trial: &Trial<'_>| {
        let cast = trial.cast.as_ref()?;
        let answers = answered(known.mold, part, &trial.set, &AnswerSet::default()).ok().flatten()?;
        Some(taken(part, cast, &answers, &known.limits))
    };
    let taken = parallel::each(trials, |trial| of(trial).unwrap_or_default());
    let mut by_question: BTreeMap<usize, (BTreeSet<String>, String, AnswerSet)> = BTreeMap::new();
    for (trial, taken) in trials.iter().zip(taken) {
        for (at, name, path) in taken {
            let entry = by_question.entry(at).or_insert_with(|| (BTreeSet::new(), path, trial.set.clone()));
            entry.0.insert(name);
        }
    }
    let reported = |(at, (names, path, set)): (usize, (BTreeSet<String>, String, AnswerSet))| {
        let question = &part.mold.questions[at];
        let first = names.first().map_or("", String::as_str);
        let message =
            format!("with {}={first} the part writes where the mold writes, as {path}", question.key);
        let quoted: Vec<String> = names.iter().map(|name| format!("{name:?}")).collect();
        let help = format!("refuse what the mold writes: add {} to `except`", quoted.join(", "));
        let file = format!("{}part.toml", part.mold.home);
        let finding = Finding::new(file, question.span, codes::TAKEN_PATH, message, help);
        let fit = AnswerSet { preset: None, answers: vec![(question.key.clone(), first.to_owned())] };
        let set = smallest(&set, |set| {
            let taken = of(&Trial::new(known, set.clone())).unwrap_or_default();
            taken.iter().any(|(other, name, _)| *other == at && name == first)
        });
        Reported { finding, answers: Some(set), part: Some((part.name.clone(), fit)) }
    };
    by_question.into_iter().map(reported).collect()
}

/// Returns the questions, by their index, with answers that make the part write where the mold has written, and the
/// path.
fn taken(part: &Part, cast: &Cast<'_>, answers: &Answers, limits: &Limits) -> Vec<(usize, String, String)> {
    let mut found = Vec::new();
    let mold = &part.mold;
    if answers_meet(&cast.plan, part, answers, limits) {
        return found;
    }
    let stems = stems(part, cast, answers, limits);
    for at in part.own_questions() {
        let question = &mold.questions[at];
        if question.kind != Kind::Text || !answers.questions[at].is_visible() {
            continue;
        }
        for name in &stems {
            let value = Value::Text(name.clone());
            if answers.questions[at].value == value || judge(question, &value, &[]).is_some() {
                continue;
            }
            let kept = |(resolved, question): (&ResolvedAnswer, &Question)| {
                let keeps = question.from_casting && resolved.is_visible() && !question.is_secret();
                keeps.then(|| Given { value: resolved.value.clone(), source: AnswerSource::Casting })
            };
            let mut all: Vec<Option<Given>> =
                answers.questions.iter().zip(&mold.questions).map(kept).collect();
            all[at] = Some(Given { value, source: AnswerSource::Set });
            let Ok(session) = part_session(part, all) else { continue };
            let Ok(plan) = Plan::new(mold, &session.preview(), limits) else { continue };
            let meets = |entry: &&Entry<'_>| cast.plan.entries.iter().any(|other| other.path == entry.path);
            let entry = plan.entries.iter().find(meets).filter(|_| session.problems().is_empty());
            found.extend(entry.map(|entry| (at, name.clone(), entry.path.to_string())));
        }
    }
    found
}

/// Returns true if the part writes where the mold has written, whatever its answer is.
fn answers_meet(cast: &Plan<'_>, part: &Part, answers: &Answers, limits: &Limits) -> bool {
    Plan::new(&part.mold, answers, limits).is_ok_and(|plan| {
        plan.entries.iter().any(|entry| cast.entries.iter().any(|other| other.path == entry.path))
    })
}

/// Returns names that files of the project have where the part puts its own.
fn stems(part: &Part, cast: &Cast<'_>, answers: &Answers, limits: &Limits) -> Vec<String> {
    let Ok(plan) = Plan::new(&part.mold, answers, limits) else { return Vec::new() };
    let mut names: Vec<String> = Vec::new();
    for entry in &plan.entries {
        let (folder, end) = (parent_of(&entry.path), entry.path.rsplit('.').next().unwrap_or(""));
        let beside =
            cast.plan.entries.iter().filter(|other| {
                parent_of(&other.path) == folder && other.path.rsplit('.').next() == Some(end)
            });
        for other in beside {
            let name = other.path.rsplit('/').next().unwrap_or("");
            let stem = name.split('.').next().unwrap_or("");
            names.extend([stem.to_owned(), stem.replace('_', "-")]);
        }
    }
    // What is called like an answer of the project meets it by accident only.
    let letters =
        |text: &str| text.chars().filter(|c| c.is_alphanumeric()).collect::<String>().to_lowercase();
    let values = cast.answers.values.all().iter().filter_map(|value| match value {
        Value::Text(text) => Some(letters(text)),
        _ => None,
    });
    let answered: HashSet<String> = values.collect();
    names.retain(|name| !answered.contains(&letters(name)));
    names.sort();
    names.dedup();
    names.retain(|name| !name.is_empty());
    names
}
