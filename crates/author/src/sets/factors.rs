//! The choices of a mold.

use std::collections::BTreeSet;
use tinmold_mold::{Kind, Mold, Offered, Question, ResolveStep, Snippet};
use tinmold_notation::{Deciding, NameId, Value, deciding};
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

/// Returns every combination of the choices that decide about something, as answers to the questions; `None` if
/// anything else decides about it, or if there are more than `most`.
pub(crate) fn enumerated(mold: &Mold, by: &Deciding, most: usize) -> Option<Vec<Vec<(String, String)>>> {
    let decides = factors_of(mold, by)?;
    let mut rows: Vec<Vec<(Factor, Level)>> = vec![Vec::new()];
    for factor in factors(mold).into_iter().filter(|factor| decides.contains(factor)) {
        let levels = levels(mold, factor);
        if rows.len() * usize::from(levels) > most {
            return None;
        }
        let with = |row: &Vec<_>, level| [row.as_slice(), &[(factor, level)]].concat();
        rows = rows.iter().flat_map(|row| (0..levels).map(move |level| with(row, level))).collect();
    }
    let questions: BTreeSet<usize> = decides.iter().map(|factor| factor.question).collect();
    let answers = |row: Vec<(Factor, Level)>| {
        let of = |at: usize| {
            let chosen: Vec<_> = row.iter().copied().filter(|(factor, _)| factor.question == at).collect();
            Some((mold.questions[at].key.clone(), answer(mold, at, &chosen)?))
        };
        questions.iter().filter_map(|at| of(*at)).collect()
    };
    Some(rows.into_iter().map(answers).collect())
}

/// Returns the factors that decide about something, also by whether their questions are asked; `None` if not all of
/// it are choices.
pub(super) fn factors_of(mold: &Mold, by: &Deciding) -> Option<BTreeSet<Factor>> {
    let (mut found, mut seen) = (BTreeSet::new(), BTreeSet::new());
    let mut open: Vec<(NameId, Option<u16>)> = by.names.iter().map(|name| (*name, None)).collect();
    open.extend(by.options.iter().map(|(name, option)| (*name, Some(*option))));
    while let Some((name, option)) = open.pop() {
        if !seen.insert((name, option)) {
            continue;
        }
        let mut add = |deciding: Deciding| {
            open.extend(deciding.names.into_iter().map(|name| (name, None)));
            open.extend(deciding.options.into_iter().map(|(name, option)| (name, Some(option))));
        };
        let of = |step: &&ResolveStep| match step {
            ResolveStep::Question(at) => mold.questions[*at].id == name,
            ResolveStep::Derive(at) => mold.derived[*at].id == name,
        };
        match mold.steps.iter().find(of)? {
            ResolveStep::Derive(at) => {
                let derived = &mold.derived[*at];
                add(of_snippet(mold, &derived.snippet, derived.is_expression));
            }
            ResolveStep::Question(at) => {
                let question = &mold.questions[*at];
                if !is_choice(question) {
                    return None;
                }
                let mut all = factors(mold).into_iter().filter(|factor| factor.question == *at);
                let own: Vec<Factor> = match (question.kind, option) {
                    (Kind::SomeOf(_), Some(option)) => {
                        let with = question.completed_positions(option);
                        all.filter(|factor| factor.option.is_some_and(|it| with.contains(&it))).collect()
                    }
                    _ => all.by_ref().collect(),
                };
                let whens =
                    question.when.iter().chain(own.iter().filter_map(|factor| {
                        question.options.get(usize::from(factor.option?))?.when.as_ref()
                    }));
                whens.for_each(|when| add(of_snippet(mold, when, true)));
                if let Some(Offered::Text(hidden)) = &question.hidden {
                    add(of_snippet(mold, hidden, false));
                }
                found.extend(own);
            }
        }
    }
    Some(found)
}

/// Returns what decides about a text or expression of a manifest.
pub(crate) fn of_snippet(mold: &Mold, snippet: &Snippet, is_expression: bool) -> Deciding {
    match is_expression {
        true => deciding(snippet.text(), &mold.scope),
        false => {
            let names = snippet.with_text(&mold.scope, true, |compiled| compiled.used);
            Deciding { names, options: Vec::new() }
        }
    }
}
