//! Defaults, hidden values and presets, judged together.

use super::Reported;
use super::trial::manifest;
use crate::sets::{AnswerSet, session};
use std::sync::Arc;
use tinmold_mold::{Kind, Mold, Offered, Question, codes};
use tinmold_notation::{Code, Finding, Span, Value};
use tinmold_project::answers::{AnswerSource, Session, judge};

pub(super) fn findings(mold: &Mold) -> Vec<Reported> {
    let mut found = Vec::new();
    if let Ok(session) = session(mold, &AnswerSet::default()) {
        found.extend(refused_defaults(&session, &AnswerSet::default()));
        found.extend(dropped_options(&session));
        found.extend(by_name(&session));
        found.extend(unknown(&session));
    }
    for name in mold.parts() {
        let Ok(part) = mold.part(name) else { continue };
        let known = crate::sets::given(&part.mold, &AnswerSet::default());
        let open = part.own_questions().filter(|at| known[*at].is_none());
        let unanswered =
            open.map(|at| &part.mold.questions[at]).filter(|it| it.default.is_none() && needs_answer(it));
        found.extend(unanswered.map(needs_example));
    }
    for name in mold.presets.keys() {
        found.extend(preset(mold, name));
    }
    found
}

fn report(file: impl Into<Arc<str>>, span: Span, code: Code, message: String, help: &str) -> Reported {
    Finding::new(file, span, code, message, help).into()
}

/// Returns the defaults that their own questions refuse.
fn refused_defaults(session: &Session<'_>, set: &AnswerSet) -> Vec<Reported> {
    let mold = session.mold();
    let refused = session.problems().into_iter().filter(|problem| problem.source == AnswerSource::Default);
    let reported = refused.filter_map(|problem| {
        let question = mold.question(&problem.key)?;
        let (code, with) = match set.is_empty() {
            true => (codes::BAD_VALUE, String::new()),
            false => (codes::FRAGILE_DEFAULT, format!(" with {set}")),
        };
        let message =
            format!("the default of `{}` would be refused{with}: {}", question.key, problem.refusal.reason);
        let answers = (!set.is_empty()).then(|| set.clone());
        let help = match problem.refusal.advice.is_empty() {
            true => "a default must be an answer to its question".to_owned(),
            false => problem.refusal.advice,
        };
        Some(Reported {
            answers,
            ..report(Arc::clone(&question.file), question.default_span, code, message, &help)
        })
    });
    reported.collect()
}

/// Returns the questions that have no default, and to which no answer is known.
fn unknown(session: &Session<'_>) -> Vec<Reported> {
    let mold = session.mold();
    let open = session.problems().into_iter().filter(|problem| problem.source == AnswerSource::Nobody);
    let questions = open.filter_map(|problem| mold.question(&problem.key)).filter(|it| needs_answer(it));
    questions.map(needs_example).collect()
}

/// Returns true if there is no answer to a question unless somebody gives one.
fn needs_answer(question: &Question) -> bool {
    let has_options = matches!(question.kind, Kind::OneOf(_) | Kind::SomeOf(_) | Kind::Flag);
    question.is_asked() && !question.rules.optional && !has_options && question.kind != Kind::Texts
}

fn needs_example(question: &Question) -> Reported {
    let message =
        format!("no answer to `{}` is known, so that nothing is tried that needs one", question.key);
    let help = "add `example`, an answer that a person might give";
    report(Arc::clone(&question.file), question.span, codes::NEEDS_EXAMPLE, message, help)
}

/// Returns the options of defaults that are not on offer with the defaults.
fn dropped_options(session: &Session<'_>) -> Vec<Reported> {
    let mold = session.mold();
    let mut found = Vec::new();
    for (question, resolved) in mold.questions.iter().zip(session.resolved()) {
        let (Kind::SomeOf(_), Some(Offered::Fixed(Value::List(values)))) = (question.kind, &question.default)
        else {
            continue;
        };
        for at in values.iter().flat_map(|value| mold.picked(value)) {
            if resolved.is_visible() && resolved.options.get(usize::from(at)) == Some(&false) {
                let option = &question.options[usize::from(at)];
                let when = option.when.as_ref().map_or("", |when| when.text());
                let message = format!(
                    "the default ticks `{}`, which is not offered: `{when}` does not hold",
                    option.value
                );
                let help = "leave it out of the default, or change what it depends on";
                found.push(report(
                    Arc::clone(&question.file),
                    question.default_span,
                    codes::IDLE_ANSWER,
                    message,
                    help,
                ));
            }
        }
    }
    found
}

/// Legal names of many shapes.
const NAMES: [&str; 6] =
    ["a", "x2", "tide-table-2", "3d-map", "gull", "harbour-departures-and-arrivals-of-all-small-ferries"];

/// Returns what legal answers to one question make of the defaults of others.
fn by_name(defaults: &Session<'_>) -> Vec<Reported> {
    let mold = defaults.mold();
    let mut found: Vec<Reported> = Vec::new();
    for (at, question) in mold.questions.iter().enumerate() {
        if question.kind != Kind::Text || !question.is_asked() || !defaults.resolved()[at].is_visible() {
            continue;
        }
        for name in names(question) {
            let answers = vec![(question.key.clone(), name)];
            let set = AnswerSet { preset: None, answers };
            let tried = match session(mold, &set) {
                Ok(session) => {
                    let mut all = refused_defaults(&session, &set);
                    if all.is_empty() {
                        all.extend(mold.folder_name(session.values()).err().map(Reported::from));
                    }
                    all
                }
                Err(finding) => vec![finding.into()],
            };
            let is_new = |reported: &Reported| {
                let same = |other: &Reported| {
                    (other.finding.span, other.finding.code) == (reported.finding.span, reported.finding.code)
                };
                !found.iter().any(same)
            };
            let tried: Vec<Reported> = tried.into_iter().filter(is_new).collect();
            found.extend(tried.into_iter().map(|it| Reported { answers: Some(set.clone()), ..it }));
        }
    }
    // What the defaults show by themselves is reported as that.
    let broken = refused_defaults(defaults, &AnswerSet::default());
    found.retain(|it| !broken.iter().any(|other| other.finding.span == it.finding.span));
    found
}

/// Returns legal answers of many shapes to a question.
fn names(question: &Question) -> Vec<String> {
    let bend = |name: &&str| match question.rules.form {
        Some(form) => form.bend(name),
        None => Some((*name).to_owned()),
    };
    let names = NAMES.iter().filter_map(bend);
    names.filter(|name| judge(question, &Value::Text(name.clone()), &[]).is_none()).collect()
}

/// Returns what is wrong with a preset as a whole.
fn preset(mold: &Mold, name: &str) -> Vec<Reported> {
    let set = AnswerSet::of_preset(name);
    let preset = &mold.presets[name];
    let answers = Some(set.clone());
    let session = match session(mold, &set) {
        Ok(session) => session,
        Err(finding) => return vec![Reported { answers, ..finding.into() }],
    };
    let mut found = Vec::new();
    let span_of = |key: &str| {
        let at = preset.answers.iter().position(|(at, _)| mold.questions[*at].key == key);
        at.map_or(preset.span, |at| preset.answer_spans[at])
    };
    for problem in session.problems() {
        let (what, span) = match problem.source {
            AnswerSource::Preset(_) => ("the answer to", span_of(&problem.key)),
            AnswerSource::Default => ("the default of", preset.span),
            _ => continue,
        };
        let message = format!(
            "{what} `{}` would be refused with the preset `{name}`: {}",
            problem.key, problem.refusal.reason
        );
        let help = match problem.refusal.advice.is_empty() {
            true => "a preset answers so that nothing is left to mend",
            false => &problem.refusal.advice,
        };
        found.push(report(manifest(mold), span, codes::BAD_VALUE, message, help));
    }
    for ((at, _), span) in preset.answers.iter().zip(&preset.answer_spans) {
        let question = &mold.questions[*at];
        if !session.resolved()[*at].is_visible() {
            let when = question.when.as_ref().map_or("", |when| when.text());
            let message = format!(
                "the preset `{name}` answers `{}`, which is not asked: `{when}` does not hold",
                question.key
            );
            let help = "leave it out, or answer what it depends on too";
            found.push(report(manifest(mold), *span, codes::IDLE_ANSWER, message, help));
        }
    }
    found.into_iter().map(|it| Reported { answers: answers.clone(), ..it }).collect()
}
