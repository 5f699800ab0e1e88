//! What is foreseen comes true: forecasts of the built-in molds beside their plans.
#![allow(clippy::unwrap_used, clippy::panic)]

use std::collections::{BTreeMap, BTreeSet};
use tinmold_mold::{Kind, Mold, built_in, built_in_names};
use tinmold_project::answers::{Answers, BuiltIns, Offers, Session};
use tinmold_project::outcome::{Effect, FileEffect, FileKind, FileMarks, Forecast, Outcome, dependents};
use tinmold_project::plan::{EntryKind, Limits, Plan, Rendered};
use tinmold_project::setup::Setup;

/// By path: the content of every file that a cast would write.
fn written(mold: &Mold, answers: &Answers) -> BTreeMap<String, Vec<u8>> {
    let plan = Plan::new(mold, answers, &Limits::default()).unwrap();
    let mut files = BTreeMap::new();
    for entry in plan.entries.iter().filter(|entry| !matches!(entry.kind, EntryKind::Folder)) {
        let mut bytes = Vec::new();
        if let Rendered::AsIs = plan.render(entry, &mut bytes).unwrap() {
            bytes = match entry.kind {
                EntryKind::Link(target) => target.as_bytes().to_vec(),
                _ => mold.package.files[plan.body(entry).file].read().unwrap().into_owned(),
            };
        }
        // The mode is a part of what is compared.
        bytes.extend_from_slice(&plan.mode(entry).to_le_bytes());
        files.insert(entry.path.to_string(), bytes);
    }
    files
}

fn foreseen(forecast: &Forecast<'_>, answers: &Answers) -> Outcome {
    forecast.outcome(answers, &|| false).unwrap().unwrap()
}

/// Returns the answers with the folder's name, as a cast has them.
fn in_folder(mold: &Mold, mut answers: Answers) -> Answers {
    let name = mold.folder_name(&answers.values).unwrap();
    answers.set_folder(mold, &name);
    answers
}

fn setup(mold: &Mold) -> Setup<'_> {
    let given = vec![None; mold.questions.len()];
    Setup::new(Session::new(mold, given, Offers::default(), BuiltIns::on("2026-11-23")).unwrap())
}

/// Holds a foreseen effect against what the two casts write.
fn comes_true(effect: &Effect, before: &BTreeMap<String, Vec<u8>>, after: &BTreeMap<String, Vec<u8>>) {
    let paths: BTreeSet<&String> = before.keys().chain(after.keys()).collect();
    for path in paths {
        let told = effect.files.get(path);
        let kind = match (before.get(path), after.get(path)) {
            (None, Some(_)) => matches!(told, Some(FileEffect::Added(_))),
            (Some(_), None) => matches!(told, Some(FileEffect::Removed(_))),
            (Some(a), Some(b)) if a != b => matches!(told, Some(FileEffect::Changed(..))),
            _ => told.is_none(),
        };
        assert!(kind, "{path}: {told:?}");
    }
}

#[test]
fn every_option_of_every_built_in_mold_does_what_it_says() {
    for name in built_in_names() {
        let mold = Mold::load(built_in(name).unwrap()).unwrap();
        let forecast = Forecast::new(&mold, Limits::default());
        let mut setup = setup(&mold);
        let mut seen = 0;
        for question in 0..mold.questions.len() {
            let answers = in_folder(&mold, setup.session().preview());
            let (now, is) = (foreseen(&forecast, &answers), written(&mold, &answers));
            let mut last = None;
            for one in setup.alternatives(question).into_iter().filter(|one| !one.taken) {
                let then = in_folder(&mold, setup.answers_with(question, one.value.clone()).unwrap());
                let effect = Effect::between(&now, &foreseen(&forecast, &then));
                comes_true(&effect, &is, &written(&mold, &then));
                seen += effect.files.len();
                // What changes is among the files that the question is known to matter to.
                let mut names = dependents(setup.session(), question);
                let folder = mold.scope.find("project.dir");
                names.extend(folder);
                let using = forecast.using(&now, &names);
                for (path, file) in &effect.files {
                    let is_known = !matches!(file, FileEffect::Changed(..)) || using.contains(path);
                    // A question that an option brings along has dependents of its own.
                    assert!(is_known || has_followers(&mold, question), "{name} {path}");
                }
                last = Some(one.value);
            }
            // The walk goes on from another answer, so that many combinations are met.
            if let (Some(value), true) = (last, question.is_multiple_of(2)) {
                setup.pick(question, value).unwrap();
            }
        }
        assert!(seen > 0, "{name}: no option changes anything");
        // Back to the beginning, all of it is as it was.
        while setup.undo().unwrap().is_some() {}
        let answers = in_folder(&mold, setup.session().preview());
        let files = foreseen(&forecast, &answers);
        assert_eq!(files.count(), written(&mold, &answers).len(), "{name}");
    }
}

/// Returns true if the condition of another question depends on this one.
fn has_followers(mold: &Mold, question: usize) -> bool {
    let id = mold.questions[question].id;
    let uses = |when: &tinmold_mold::Snippet| {
        when.with_expression(&mold.scope, None, |compiled| compiled.used.contains(&id))
    };
    mold.questions.iter().any(|other| {
        other.when.as_ref().is_some_and(uses)
            || other.options.iter().any(|option| option.when.as_ref().is_some_and(uses))
    })
}

#[test]
fn previews_are_what_is_written_and_every_byte_of_them_has_an_origin() {
    for name in built_in_names() {
        let mold = Mold::load(built_in(name).unwrap()).unwrap();
        let forecast = Forecast::new(&mold, Limits::default());
        let setup = setup(&mold);
        let answers = in_folder(&mold, setup.session().preview());
        let outcome = foreseen(&forecast, &answers);
        let written = written(&mold, &answers);
        let texts = mold.questions.iter().enumerate().filter(|(_, question)| question.kind == Kind::Text);
        let names: Vec<_> = texts.map(|(at, _)| (at, dependents(setup.session(), at))).collect();
        let mut marked = BTreeSet::new();
        for file in outcome.files().into_iter().filter(|file| file.kind == FileKind::File) {
            let preview = forecast.preview(&answers, &outcome, &file.path).unwrap().unwrap();
            let Some(text) = preview.text else { continue };
            let bytes = &written[&file.path];
            assert!(bytes[..bytes.len() - 4] == *text.as_bytes(), "{name} {}", file.path);
            assert_eq!((file.bytes as usize, file.lines), (text.len(), Some(text.lines().count())));
            let Some(trace) = forecast.trace(&answers, &outcome, &file.path).unwrap() else { continue };
            assert!(trace.text == text.as_bytes(), "{name} {}", file.path);
            let mut end = 0;
            for run in &trace.runs {
                assert!(run.bytes.start >= end && run.bytes.end <= text.len(), "{name} {}", file.path);
                end = run.bytes.end;
            }
            assert_eq!(end, text.len(), "{name} {}: nothing is without an origin at the end", file.path);
            for (at, names) in &names {
                let marks = FileMarks::of(&trace, names);
                assert!(
                    marks.lines.is_sorted()
                        && marks.lines.last().is_none_or(|line| *line < text.lines().count())
                );
                if !marks.bytes.is_empty() {
                    marked.insert(*at);
                }
            }
        }
        assert!(!marked.is_empty(), "{name}: no text of an answer is found in a file");
        assert!(forecast.preview(&answers, &outcome, "nothing/here").unwrap().is_none());
    }
}
