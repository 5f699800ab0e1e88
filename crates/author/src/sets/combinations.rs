//! Sets of answers in which every few choices of a mold meet at least once: mistakes that need many choices are
//! rare, and the sets are few.

use super::answer_set::{AnswerSet, applicable, session};
use super::factors::{Factor, Level, answer, factors, factors_of, levels, of_snippet};
use std::collections::HashSet;
use tinmold_mold::Mold;
use tinmold_notation::{Deciding, Finding, Value};

/// Choices that are to meet, by the index of the factor.
type Meeting = Vec<(usize, Level)>;

/// The most sets that are made.
const MOST_SETS: usize = 1_000;
/// The most meetings that are looked for.
const MOST_MEETINGS: usize = 300_000;
/// The most choices in all sets together: a mold of thousands of questions gets few sets.
const MOST_CHOICES: usize = 100_000;

/// Returns sets of answers so that every `strength` compatible choices are in one set at least. The first one is
/// that of the defaults. The choices are the options of questions, yes or no, and whether a text or list that may be
/// empty is. The same mold gives the same sets, at most a thousand of them.
///
/// # Errors
/// The mold fails on the defaults.
pub fn combinations(mold: &Mold, strength: usize) -> Result<Vec<AnswerSet>, Finding> {
    let factors = factors(mold);
    let levels: Vec<Level> = factors.iter().map(|factor| levels(mold, *factor)).collect();
    let mut open = Open::new(&levels, strength.min(factors.len()));
    let mut sets = vec![AnswerSet::default()];
    session(mold, &sets[0])?;
    let mut seen: HashSet<AnswerSet> = HashSet::new();
    let most = MOST_SETS.min(MOST_CHOICES / factors.len().max(1)).max(2);
    while let Some(seed) = open.next().filter(|_| sets.len() < most) {
        let row = open.row(&levels, seed);
        let meeting = open.all[seed].clone();
        let met = |row: Vec<Level>| {
            let (set, kept) = compatible(mold, &factors, &row)?;
            meeting.iter().all(|(at, _)| kept[*at]).then_some((row, set, kept))
        };
        let mended = |row: &[Level]| met(without_unwanted(mold, &factors, row, &meeting));
        let found = met(row.clone()).or_else(|| mended(&row)).or_else(|| {
            // The other choices are in the way of these: those that decide about them are tried, also with
            // nothing ticked beside them.
            let others = deciding(mold, &factors, &meeting);
            let is_free =
                |at: usize| factors[at].option.is_some() && !meeting.iter().any(|(own, _)| *own == at);
            let bare = (0..row.len()).map(|at| if is_free(at) { 0 } else { row[at] }).collect::<Vec<_>>();
            let tried = |row: &[Level]| rows_with(row, &others, &levels);
            tried(&row).iter().find_map(|row| mended(row)).or_else(|| tried(&bare).into_iter().find_map(&met))
        });
        if let Some((row, set, kept)) = found {
            open.meet(&row, &kept);
            if seen.insert(set.clone()) {
                sets.push(set);
            }
        }
        // Incompatible choices are not tried again.
        open.met[seed] = true;
    }
    Ok(sets)
}

/// Returns a row without the ticks that do not go with the others: of options that are not on offer, or that exclude
/// each other. The choices of the meeting stay.
fn without_unwanted(mold: &Mold, factors: &[Factor], row: &[Level], meeting: &Meeting) -> Vec<Level> {
    let mut row = row.to_vec();
    let options = |at: usize| &mold.questions[factors[at].question].options;
    let ticks: Vec<(usize, u16)> = (0..row.len())
        .filter_map(|at| Some((at, factors[at].option?)))
        .filter(|(at, _)| row[*at] == 1)
        .collect();
    let is_fixed = |at: usize| meeting.iter().any(|(own, _)| *own == at);
    let excludes = |(at, option): (usize, u16), (other_at, other): (usize, u16)| {
        factors[at].question == factors[other_at].question
            && options(at).get(usize::from(option)).is_some_and(|option| option.excludes.contains(&other))
    };
    let mut kept: Vec<(usize, u16)> = ticks.iter().copied().filter(|(at, _)| is_fixed(*at)).collect();
    for tick in ticks.iter().filter(|(at, _)| !is_fixed(*at)) {
        if kept.iter().any(|other| excludes(*tick, *other) || excludes(*other, *tick)) {
            row[tick.0] = 0;
        } else {
            kept.push(*tick);
        }
    }
    let Some(session) = applicable(mold, &mut set_of(mold, factors, &row)) else { return row };
    for (at, option) in kept.into_iter().filter(|(at, _)| !is_fixed(*at)) {
        let on_offer = &session.resolved()[factors[at].question].options;
        if on_offer.get(usize::from(option)) == Some(&false) {
            row[at] = 0;
        }
    }
    row
}

/// Returns the answers of a row.
fn set_of(mold: &Mold, factors: &[Factor], row: &[Level]) -> AnswerSet {
    let mut set = AnswerSet::default();
    for (at, question) in mold.questions.iter().enumerate() {
        let chosen = factors.iter().zip(row).filter(|(factor, _)| factor.question == at);
        let chosen: Vec<(Factor, Level)> = chosen.map(|(factor, level)| (*factor, *level)).collect();
        set.answers.extend(answer(mold, at, &chosen).map(|text| (question.key.clone(), text)));
    }
    set
}

/// The most rows that are tried for choices that do not go with others.
const MOST_ROWS: usize = 512;

/// Returns the factors that decide whether the choices of a meeting are asked for and on offer.
fn deciding(mold: &Mold, factors: &[Factor], meeting: &Meeting) -> Vec<usize> {
    let mut by = Deciding::default();
    for (at, level) in meeting {
        let factor = factors[*at];
        let question = &mold.questions[factor.question];
        let option = question.options.get(usize::from(factor.option.unwrap_or(*level)));
        for when in question.when.iter().chain(option.and_then(|option| option.when.as_ref())) {
            let of = of_snippet(mold, when, true);
            by.names.extend(of.names);
            by.options.extend(of.options);
        }
    }
    let all = factors_of(mold, &by).unwrap_or_default();
    let is_other = |at: &usize| all.contains(&factors[*at]) && !meeting.iter().any(|(other, _)| other == at);
    (0..factors.len()).filter(is_other).collect()
}

/// Returns a row with every combination of the choices of some factors.
fn rows_with(row: &[Level], others: &[usize], levels: &[Level]) -> Vec<Vec<Level>> {
    let mut rows = vec![row.to_vec()];
    for at in others {
        if rows.len() * usize::from(levels[*at]) > MOST_ROWS {
            break;
        }
        let with = |row: &Vec<Level>, level| {
            let mut row = row.clone();
            row[*at] = level;
            row
        };
        rows = rows.iter().flat_map(|row| (0..levels[*at]).map(move |level| with(row, level))).collect();
    }
    rows
}

/// The meetings that are still to come.
struct Open {
    all: Vec<Meeting>,
    met: Vec<bool>,
    /// By factor: the meetings that it is part of.
    of: Vec<Vec<usize>>,
    /// Before this one all were met.
    at: usize,
}

impl Open {
    fn new(levels: &[Level], strength: usize) -> Self {
        let mut all: Vec<Meeting> = if levels.is_empty() { Vec::new() } else { vec![Vec::new()] };
        for _ in 0..strength {
            let next = |meeting: &Meeting| {
                let from = meeting.last().map_or(0, |(at, _)| at + 1);
                let each = |at: usize| (0..levels[at]).map(move |level| (at, level));
                let with = |choice| [meeting.as_slice(), &[choice]].concat();
                (from..levels.len()).flat_map(each).map(with).collect::<Vec<_>>()
            };
            all = all.iter().flat_map(next).take(MOST_MEETINGS).collect();
        }
        let mut of = vec![Vec::new(); levels.len()];
        for (number, meeting) in all.iter().enumerate() {
            meeting.iter().for_each(|(at, _)| of[*at].push(number));
        }
        Self { met: vec![false; all.len()], all, of, at: 0 }
    }

    fn next(&mut self) -> Option<usize> {
        self.at += self.met[self.at..].iter().take_while(|met| **met).count();
        (self.at < self.all.len()).then_some(self.at)
    }

    /// Returns a choice for each factor: those of the seed, and for the others what meets most of what is open.
    fn row(&self, levels: &[Level], seed: usize) -> Vec<Level> {
        let mut row: Vec<Option<Level>> = vec![None; levels.len()];
        self.all[seed].iter().for_each(|(at, level)| row[*at] = Some(*level));
        for at in 0..levels.len() {
            if row[at].is_some() {
                continue;
            }
            let mut met = vec![0_u64; usize::from(levels[at])];
            for meeting in self.of[at].iter().filter(|number| !self.met[**number]).map(|at| &self.all[*at]) {
                let fits =
                    |(other, level): &(usize, Level)| row[*other].is_none_or(|chosen| chosen == *level);
                if meeting.iter().all(fits) {
                    let decided = meeting.iter().filter(|(other, _)| row[*other].is_some()).count();
                    let own = meeting.iter().find(|(other, _)| *other == at);
                    let level = own.map_or(0, |(_, level)| usize::from(*level));
                    met[level] += 1 << (3 * decided.min(8));
                }
            }
            let most = met.iter().copied().max().unwrap_or(0);
            let best = met.iter().position(|met| *met == most).unwrap_or(0);
            row[at] = Some(Level::try_from(best).unwrap_or(0));
        }
        row.into_iter().map(Option::unwrap_or_default).collect()
    }

    /// Notes what meets in a row, as far as its choices were kept.
    fn meet(&mut self, row: &[Level], kept: &[bool]) {
        for (meeting, met) in self.all.iter().zip(&mut self.met) {
            *met |= meeting.iter().all(|(at, level)| kept[*at] && row[*at] == *level);
        }
    }
}

/// Returns the set of a row, and which factors' choices are in it: not those of questions that do
/// not apply or options that are not offered. `None` if the choices are incompatible.
fn compatible(mold: &Mold, factors: &[Factor], row: &[Level]) -> Option<(AnswerSet, Vec<bool>)> {
    let mut set = set_of(mold, factors, row);
    // What cannot be computed from these answers is reported where they are tried.
    let Some(session) = applicable(mold, &mut set) else { return Some((set, vec![true; factors.len()])) };
    if !session.problems().is_empty() {
        return None;
    }
    let resolved = session.resolved();
    let kept = factors.iter().zip(row).map(|(factor, level)| {
        resolved[factor.question].is_visible()
            && match (factor.option, &resolved[factor.question].value) {
                (Some(option), Value::List(values)) => {
                    let is_it = |value: &Value| matches!(value, Value::Option(_, is) if *is == Some(option));
                    values.iter().any(is_it) == (*level == 1)
                }
                _ => true,
            }
    });
    let kept = kept.collect();
    Some((set, kept))
}
