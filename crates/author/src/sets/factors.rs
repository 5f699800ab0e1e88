//! The choices of a mold.

use std::collections::BTreeSet;
use tinmold_mold::{Kind, Mold, Offered, Question, ResolveStep, Snippet};
use tinmold_notation::{NameId, Value};
use tinmold_project::answers::{display_value, judge};

/// A factor: a question with choices, by its index, or one option where several can be ticked.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(super) struct Factor {
    pub(super) question: usize,
    pub(super) option: Option<u16>,
}

/// The choice for a factor: the option's index, or 0 and 1 for no and yes. Of a text that may be empty, and of a
/// list of texts, 1 is the empty one.
pub(super) type Level = u16;

/// Returns true if there are few answers to a question, and all of them are known.
fn is_choice(question: &Question) -> bool {
    question.is_asked()
        && !question.from_casting
        && matches!(question.kind, Kind::Flag | Kind::OneOf(_) | Kind::SomeOf(_))
}

/// Returns true if the question takes an empty text or list beside others.
fn may_be_empty(question: &Question) -> bool {
    let empty = match question.kind {
        Kind::Text if question.rules.optional || question.rules.form.is_none() => Value::Text(String::new()),
        Kind::Texts => Value::List(Vec::new()),
        _ => return false,
    };
    question.is_asked() && !question.from_casting && judge(question, &empty, &[]).is_none()
}

pub(super) fn factors(mold: &Mold) -> Vec<Factor> {
    let mut factors = Vec::new();
    for (at, question) in mold.questions.iter().enumerate() {
        match question.kind {
            Kind::SomeOf(_) if is_choice(question) => {
                let options = 0..u16::try_from(question.options.len()).unwrap_or(u16::MAX);
                factors.extend(options.map(|option| Factor { question: at, option: Some(option) }));
            }
            _ if is_choice(question) || may_be_empty(question) => {
                factors.push(Factor { question: at, option: None });
            }
            _ => {}
        }
    }
    factors
}

pub(super) fn levels(mold: &Mold, factor: Factor) -> Level {
    let question = &mold.questions[factor.question];
    match (factor.option, question.kind) {
        (None, Kind::OneOf(_)) => u16::try_from(question.options.len()).unwrap_or(u16::MAX),
        _ => 2,
    }
}

/// Returns the answer to a question for the levels of its factors, as `--set` takes it; `None` for the default.
pub(super) fn answer(mold: &Mold, at: usize, chosen: &[(Factor, Level)]) -> Option<String> {
    let question = &mold.questions[at];
    let (_, level) = chosen.first()?;
    let value = match question.kind {
        Kind::Flag => Value::Flag(*level == 1),
        Kind::OneOf(of) => Value::Option(of, Some(*level)),
        Kind::SomeOf(of) => {
            let ticked =
                chosen.iter().filter(|(_, level)| *level == 1).filter_map(|(factor, _)| factor.option);
            question.completed(of, &ticked.collect::<Vec<_>>())
        }
        Kind::Texts if *level == 1 => return Some("[]".to_owned()),
        // A list of nothing tells nothing of what a list does.
        Kind::Texts if question.default.is_none() => return Some("first, second".to_owned()),
        Kind::Text if *level == 1 => Value::Text(String::new()),
        Kind::Text if question.default.is_none() => {
            let form = question.rules.form;
            Value::Text(form.and_then(|form| form.bend("sample")).unwrap_or_else(|| "sample".to_owned()))
        }
        _ => return None,
    };
    Some(display_value(mold, &value))
}

/// Returns every combination of the choices that decide about these names, as answers to the questions; `None` if
/// anything else decides about them, or if there are more than `most`.
pub(crate) fn enumerated(mold: &Mold, names: &[NameId], most: usize) -> Option<Vec<Vec<(String, String)>>> {
    let questions = deciding(mold, names)?;
    let all: Vec<Factor> = factors(mold).into_iter().filter(|it| questions.contains(&it.question)).collect();
    let mut rows: Vec<Vec<(Factor, Level)>> = vec![Vec::new()];
    for factor in all {
        let levels = levels(mold, factor);
        if rows.len() * usize::from(levels) > most {
            return None;
        }
        let with = |row: &Vec<_>, level| [row.as_slice(), &[(factor, level)]].concat();
        rows = rows.iter().flat_map(|row| (0..levels).map(move |level| with(row, level))).collect();
    }
    let answers = |row: Vec<(Factor, Level)>| {
        let of = |at: usize| {
            let chosen: Vec<_> = row.iter().copied().filter(|(factor, _)| factor.question == at).collect();
            Some((mold.questions[at].key.clone(), answer(mold, at, &chosen)?))
        };
        questions.iter().filter_map(|at| of(*at)).collect()
    };
    Some(rows.into_iter().map(answers).collect())
}

/// Returns the questions that decide about these names, also by whether they are asked; `None` if not all of them
/// are choices.
fn deciding(mold: &Mold, names: &[NameId]) -> Option<BTreeSet<usize>> {
    let (mut found, mut seen, mut open) = (BTreeSet::new(), BTreeSet::new(), names.to_vec());
    while let Some(name) = open.pop() {
        if !seen.insert(name) {
            continue;
        }
        let of = |step: &&ResolveStep| match step {
            ResolveStep::Question(at) => mold.questions[*at].id == name,
            ResolveStep::Derive(at) => mold.derived[*at].id == name,
        };
        match mold.steps.iter().find(of)? {
            ResolveStep::Derive(at) => {
                let derived = &mold.derived[*at];
                open.extend(used(mold, &derived.snippet, derived.is_expression));
            }
            ResolveStep::Question(at) => {
                let question = &mold.questions[*at];
                if !is_choice(question) {
                    return None;
                }
                found.insert(*at);
                let whens =
                    question.when.iter().chain(question.options.iter().filter_map(|it| it.when.as_ref()));
                open.extend(whens.flat_map(|when| used(mold, when, true)));
                if let Some(Offered::Text(hidden)) = &question.hidden {
                    open.extend(used(mold, hidden, false));
                }
            }
        }
    }
    Some(found)
}

fn used(mold: &Mold, snippet: &Snippet, is_expression: bool) -> Vec<NameId> {
    match is_expression {
        true => snippet.with_expression(&mold.scope, None, |compiled| compiled.used),
        false => snippet.with_text(&mold.scope, true, |compiled| compiled.used),
    }
}
