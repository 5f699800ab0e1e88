//! What no answers write, reach or render.

use super::trial::{Known, Trial};
use crate::sets::{AnswerSet, applicable, enumerated, of_snippet};
use std::collections::{BTreeMap, HashMap};
use std::sync::Arc;
use tinmold_mold::{Mold, codes};
use tinmold_notation::{Deciding, Finding, Place, PlaceKind, Setting, Span, compile_name};
use tinmold_platform::parallel;
use tinmold_project::answers::Answers;
use tinmold_project::plan::Plan;

/// What no set reaches.
pub(super) struct Whole {
    pub(super) findings: Vec<Finding>,
    /// By file: the lines, from 1, that no set renders.
    pub(super) unrendered: Vec<(Arc<str>, Vec<usize>)>,
}

/// A place, as every file renders it that has it: a fragment is placed by several, under conditions of theirs.
#[derive(Default)]
struct Seen {
    is_reached: bool,
    /// The place, and the body file by its index.
    renderings: Vec<(Place, usize)>,
}

impl Seen {
    fn add(&mut self, place: &Place, is_reached: bool, body: usize) {
        self.is_reached |= is_reached;
        if !self.renderings.iter().any(|(other, of)| *of == body && other == place) {
            self.renderings.push((place.clone(), body));
        }
    }
}

/// The most combinations of choices that are tried to reach one place.
const MOST_TRIED: usize = 1_024;

/// Looks at everything that the trials reached.
pub(super) fn of(known: &Known<'_>, trials: &[Trial<'_>]) -> Whole {
    let mold = known.mold;
    let mut whole = Whole { findings: fragments(mold), unrendered: Vec::new() };
    if trials.iter().all(|trial| trial.cast.is_none()) || known.is_exhausted() {
        return whole;
    }
    let (mut written, mut reached) = (vec![false; mold.body.len()], HashMap::<(Arc<str>, Span), Seen>::new());
    for cast in trials.iter().filter_map(|trial| trial.cast.as_ref()) {
        for (entry, rendered) in cast.plan.entries.iter().zip(&cast.rendered) {
            written[entry.body] = true;
            for (place, is_reached) in &rendered.places {
                if matches!(place.kind, PlaceKind::Branch { .. }) {
                    let key = (Arc::clone(&place.file), place.span);
                    reached.entry(key).or_default().add(place, *is_reached, entry.body);
                }
            }
        }
    }
    let unwritten: Vec<usize> = (0..written.len()).filter(|at| !written[*at]).collect();
    let never =
        parallel::each(&unwritten, |at| is_never_written(known, *at).then(|| never_written(mold, *at)));
    whole.findings.extend(never.into_iter().flatten());
    let unreached = reached.values().filter(|seen| !seen.is_reached);
    let mut open: Vec<(&Place, &[(Place, usize)])> =
        unreached.map(|seen| (&seen.renderings[0].0, seen.renderings.as_slice())).collect();
    open.sort_by_key(|(place, _)| (Arc::clone(&place.file), place.span));
    // Branches inside one that is never reached are never reached either.
    let all = open.clone();
    open.retain(|(place, _)| !all.iter().any(|(other, _)| is_inside(place, other)));
    let never = parallel::each(&open, |(_, renderings)| {
        renderings.iter().all(|(place, body)| is_never_reached(known, place, *body))
    });
    for ((place, _), _) in open.iter().zip(never).filter(|(_, never)| *never) {
        let help = "no answers lead here: mend its conditions, or leave it out";
        let message = "no answers reach this branch";
        let file = Arc::clone(&place.file);
        whole.findings.push(Finding::new(file, place.span, codes::NEVER_REACHED, message, help));
    }
    whole.unrendered = unrendered(mold, &unwritten, &all);
    whole
}

fn is_inside(place: &Place, other: &Place) -> bool {
    let PlaceKind::Branch { content, .. } = &other.kind else { return false };
    place.file == other.file && content.start <= place.span.start && place.span.end <= content.end
}

/// Returns the fragments that no file places.
fn fragments(mold: &Mold) -> Vec<Finding> {
    let mut placed = mold.placed_fragments();
    for name in mold.parts() {
        placed.extend(mold.part(name).iter().flat_map(|part| part.mold.placed_fragments()));
    }
    let unused = mold.fragments.names().filter(|name| !placed.contains(*name));
    let finding = |name: &str| {
        let file = mold.fragments.file(name).unwrap_or(name);
        let help = "place it, or delete it";
        Finding::new(file, Span::default(), codes::UNUSED_FRAGMENT, "no file places this fragment", help)
    };
    unused.map(finding).collect()
}

/// Returns what decides about whether a body file is written.
fn deciding(mold: &Mold, at: usize) -> Deciding {
    let file = &mold.body[at];
    let mut all = Deciding::default();
    for when in &file.whens {
        let of = of_snippet(mold, when, true);
        all.names.extend(of.names);
        all.options.extend(of.options);
    }
    let chooses = |part: &&str| part.contains("{= if") || part.contains("{= match");
    for part in mold.path_in_body(file).split('/').filter(chooses) {
        all.names.extend(compile_name("", part, mold.scope_of(file), &Setting::for_name()).used);
    }
    all
}

/// Returns the answers to every combination of the choices that decide about something, which go together.
fn tried(mold: &Mold, by: &Deciding) -> Option<Vec<Answers>> {
    let rows = enumerated(mold, by, MOST_TRIED)?;
    let answers = |row: Vec<(String, String)>| {
        let session = applicable(mold, &mut AnswerSet { preset: None, answers: row })?;
        session.problems().is_empty().then(|| session.preview())
    };
    Some(rows.into_iter().filter_map(answers).collect())
}

fn is_never_written(known: &Known<'_>, at: usize) -> bool {
    let mold = known.mold;
    if mold.body[at].each.is_some() {
        return false;
    }
    let Some(all) = tried(mold, &deciding(mold, at)) else { return false };
    let is_written = |answers: &Answers| {
        Plan::of_files(mold, answers, &known.limits, [at]).is_ok_and(|plan| !plan.entries.is_empty())
    };
    !all.iter().any(is_written)
}

fn never_written(mold: &Mold, at: usize) -> Finding {
    let file = &mold.body[at];
    let help = "mend the conditions that it has in [[files]] or in its name, or delete it";
    let message = match file.whens.as_slice() {
        [] => "no answers write this file".to_owned(),
        whens => {
            let all: Vec<String> = whens.iter().map(|when| format!("`{}`", when.text())).collect();
            format!("no answers write this file, whose conditions are {}", all.join(" and "))
        }
    };
    let (label, span) = match file.whens.last() {
        Some(when) => (Arc::clone(when.file()), when.span()),
        None => (mold.path_of(file).into(), Span::default()),
    };
    Finding::new(label, span, codes::NEVER_WRITTEN, message, help)
}

fn is_never_reached(known: &Known<'_>, place: &Place, body: usize) -> bool {
    let mold = known.mold;
    let PlaceKind::Branch { deciding: Some(own), is_case, .. } = &place.kind else { return false };
    // A `match` has a case for every option, also where the file is for some of them only.
    if *is_case && !mold.body[body].whens.is_empty() {
        return false;
    }
    let mut by = deciding(mold, body);
    by.names.extend(&own.names);
    by.options.extend(&own.options);
    let count = mold.scope.names().len();
    if mold.body[body].each.is_some() || by.names.iter().any(|name| name.index() >= count) {
        return false;
    }
    let Some(all) = tried(mold, &by) else { return false };
    let reaches = |answers: &Answers| {
        let Ok(plan) = Plan::of_files(mold, answers, &known.limits, [body]) else { return true };
        plan.entries.iter().any(|entry| {
            let places = plan.coverage(entry).unwrap_or_default();
            places.iter().any(|(other, is_reached)| *is_reached && other == place)
        })
    };
    !all.iter().any(reaches)
}

/// Returns the lines of files that are not written, and of branches that are not reached.
fn unrendered(
    mold: &Mold,
    unwritten: &[usize],
    open: &[(&Place, &[(Place, usize)])],
) -> Vec<(Arc<str>, Vec<usize>)> {
    let mut lines: BTreeMap<Arc<str>, Vec<usize>> = BTreeMap::new();
    let text_of = |path: &str| {
        let bytes = mold.package.file(path).and_then(|file| file.read().ok());
        bytes.and_then(|bytes| String::from_utf8(bytes.into_owned()).ok())
    };
    for at in unwritten {
        let path = mold.path_of(&mold.body[*at]);
        let count = text_of(path).map_or(0, |text| text.lines().count());
        lines.entry(path.into()).or_default().extend(1..=count);
    }
    for (place, _) in open {
        let PlaceKind::Branch { content, .. } = &place.kind else { continue };
        let Some(text) = text_of(&place.file) else { continue };
        let inside = content.of(&text);
        let first = 1 + text[..content.start as usize].matches('\n').count();
        let own = inside.lines().enumerate().filter(|(_, line)| !line.trim().is_empty());
        lines.entry(Arc::clone(&place.file)).or_default().extend(own.map(|(at, _)| first + at));
    }
    let sorted = |mut lines: Vec<usize>| {
        lines.sort_unstable();
        lines.dedup();
        lines
    };
    lines
        .into_iter()
        .map(|(file, lines)| (file, sorted(lines)))
        .filter(|(_, lines)| !lines.is_empty())
        .collect()
}
