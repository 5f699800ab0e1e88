//! Sets of answers in which every two choices of a mold meet at least once: mistakes that need more
//! than two choices are rare, and the sets are few.

use std::collections::HashSet;
use tinmold_mold::{Kind, Mold, Question};
use tinmold_notation::{Finding, Value};
use tinmold_project::answers::{AnswerSource, BuiltIns, Given, Offers, Session, display_value, judge};

/// A factor: a question with choices, by its index, or one option where several can be ticked.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
struct Factor {
    question: usize,
    option: Option<u16>,
}

/// The choice for a factor: the option's index, or 0 and 1 for no and yes.
type Level = u16;

/// Two choices together.
type Pair = (usize, Level, usize, Level);

/// The answers of a set, as `--set` takes them: key and text. It holds only questions with choices,
/// and only where they apply.
type Set = Vec<(String, String)>;

/// Returns sets of answers to the questions with choices (one of several options, several of them,
/// yes or no) so that every two compatible choices are in one set at least. Every other question
/// takes its default, or a sample if it has none. The same mold gives the same sets; there are
/// about as many as the two questions with the most options have combinations.
///
/// # Errors
/// The mold fails on some answers.
pub fn combinations(mold: &Mold, built_ins: &BuiltIns) -> Result<Vec<Set>, Finding> {
    let factors = factors(mold);
    let levels: Vec<Level> = factors.iter().map(|factor| levels(mold, *factor)).collect();
    let mut open: Vec<Pair> = Vec::new();
    for one in 0..factors.len() {
        for other in one + 1..factors.len() {
            let both = (0..levels[one]).flat_map(|a| (0..levels[other]).map(move |b| (one, a, other, b)));
            open.extend(both);
        }
    }
    // The defaults alone are a set too.
    let mut sets = vec![settled(mold, built_ins, &[], &[])?.map_or_else(Vec::new, |(set, _)| set)];
    if let (1, Some(factor)) = (factors.len(), factors.first()) {
        for level in 0..levels[0] {
            sets.extend(settled(mold, built_ins, &[*factor], &[level])?.map(|(set, _)| set));
        }
    }
    let mut seen: HashSet<Set> = HashSet::new();
    while let Some(&seed) = open.last() {
        let row = row(&levels, &open, seed);
        if let Some((set, kept)) = settled(mold, built_ins, &factors, &row)? {
            open.retain(|(a, of_a, b, of_b)| !(kept[*a] && kept[*b] && row[*a] == *of_a && row[*b] == *of_b));
            if seen.insert(set.clone()) {
                sets.push(set);
            }
        }
        // Incompatible choices are not tried again.
        open.retain(|pair| *pair != seed);
    }
    Ok(sets)
}

fn factors(mold: &Mold) -> Vec<Factor> {
    let mut factors = Vec::new();
    for (at, question) in mold.questions.iter().enumerate().filter(|(_, question)| question.is_asked()) {
        match question.kind {
            Kind::Flag | Kind::OneOf(_) => factors.push(Factor { question: at, option: None }),
            Kind::SomeOf(_) => {
                let options = 0..u16::try_from(question.options.len()).unwrap_or(u16::MAX);
                factors.extend(options.map(|option| Factor { question: at, option: Some(option) }));
            }
            _ => {}
        }
    }
    factors
}

/// Returns a sample answer to a question without a default; `None` if it needs none or none is
/// known.
fn sample(question: &Question) -> Option<Value> {
    if !question.is_asked() || question.rules.optional {
        return None;
    }
    let value = match (question.kind, question.rules.form) {
        (Kind::Text, Some(form)) => Value::Text(form.bend("sample").unwrap_or_else(|| "sample".into())),
        (Kind::Text, None) => Value::Text("sample".into()),
        (Kind::Integer, _) => Value::Integer(question.rules.min.or(question.rules.max).unwrap_or(1)),
        _ => return None,
    };
    judge(question, &value, &[]).is_none().then_some(value)
}

fn levels(mold: &Mold, factor: Factor) -> Level {
    let question = &mold.questions[factor.question];
    match (factor.option, question.kind) {
        (None, Kind::OneOf(_)) => u16::try_from(question.options.len()).unwrap_or(u16::MAX),
        _ => 2,
    }
}

/// Returns a choice for each factor: the seed's two, and for the others what meets most of what is open.
fn row(levels: &[Level], open: &[Pair], seed: Pair) -> Vec<Level> {
    let mut row: Vec<Option<Level>> = vec![None; levels.len()];
    (row[seed.0], row[seed.2]) = (Some(seed.1), Some(seed.3));
    for at in 0..levels.len() {
        if row[at].is_some() {
            continue;
        }
        let mut met = vec![0_u32; usize::from(levels[at])];
        for (one, of_one, other, of_other) in open {
            if *one == at && row[*other].is_none_or(|chosen| chosen == *of_other) {
                met[usize::from(*of_one)] += if row[*other].is_some() { 8 } else { 1 };
            } else if *other == at && row[*one].is_none_or(|chosen| chosen == *of_one) {
                met[usize::from(*of_other)] += if row[*one].is_some() { 8 } else { 1 };
            }
        }
        let most = met.iter().copied().max().unwrap_or(0);
        let best = met.iter().position(|met| *met == most).unwrap_or(0);
        row[at] = Some(Level::try_from(best).unwrap_or(0));
    }
    row.into_iter().map(Option::unwrap_or_default).collect()
}

/// Returns the set of a row, and which factors' choices are in it: not those of questions that do
/// not apply or options that are not offered. `None` if the choices are incompatible.
fn settled(
    mold: &Mold,
    built_ins: &BuiltIns,
    factors: &[Factor],
    row: &[Level],
) -> Result<Option<(Set, Vec<bool>)>, Finding> {
    let nothing = || vec![None; mold.questions.len()];
    let given = |value: Value| Some(Given { value, source: AnswerSource::Set });
    let mut all: Vec<Option<Given>> = nothing();
    for (at, question) in mold.questions.iter().enumerate() {
        let chosen: Vec<(Factor, Level)> = factors
            .iter()
            .zip(row)
            .filter(|(factor, _)| factor.question == at)
            .map(|(a, b)| (*a, *b))
            .collect();
        all[at] = match (question.kind, chosen.first()) {
            (Kind::Flag, Some((_, level))) => given(Value::Flag(*level == 1)),
            (Kind::OneOf(of), Some((_, level))) => given(Value::Option(of, Some(*level))),
            (Kind::SomeOf(of), Some(_)) => {
                let ticked =
                    chosen.iter().filter(|(_, level)| *level == 1).filter_map(|(factor, _)| factor.option);
                given(question.completed(of, &ticked.collect::<Vec<_>>()))
            }
            _ => sample(question).filter(|_| question.default.is_none()).and_then(given),
        };
    }
    // A question that does not apply gets no answer; that may decide whether others apply.
    for _ in 0..=mold.questions.len() {
        let session = Session::new(mold, all.clone(), Offers::default(), built_ins.clone())?;
        let settled = session.resolved();
        let unasked = |at: &usize| all[*at].is_some() && !settled[*at].is_visible();
        let gone: Vec<usize> = (0..all.len()).filter(unasked).collect();
        if gone.is_empty() {
            if !session.problems().is_empty() {
                return Ok(None);
            }
            let kept = factors.iter().zip(row).map(|(factor, level)| {
                let value = &settled[factor.question].value;
                all[factor.question].is_some()
                    && match (factor.option, value) {
                        (Some(option), Value::List(values)) => {
                            let ticked = values
                                .iter()
                                .any(|value| matches!(value, Value::Option(_, is) if *is == Some(option)));
                            ticked == (*level == 1)
                        }
                        _ => true,
                    }
            });
            let kept: Vec<bool> = kept.collect();
            let set = all.iter().enumerate().filter_map(|(at, given)| {
                given
                    .as_ref()
                    .map(|given| (mold.questions[at].key.clone(), display_value(mold, &given.value)))
            });
            return Ok(Some((set.collect(), kept)));
        }
        gone.into_iter().for_each(|at| all[at] = None);
    }
    Ok(None)
}
