//! Failures that look alike, put together and shown with the smallest answers.

use super::proven::Proven;
use super::report::{FailureGroup, SetProof, Target, TargetResult};
use super::set_run::SetRun;
use super::{ProveObserver, ProveOptions};
use crate::sets::{AnswerSet, smallest};
use std::cell::Cell;
use std::collections::BTreeMap;
use std::time::Instant;
use tinmold_mold::Mold;

/// The most projects that are built to find the smallest answers to one failure.
const MOST_TRIED: usize = 12;

/// What makes failures look alike: the target, and its last line without what differs from project to project.
type Look = (String, bool, String);

fn look(target: &Target) -> Look {
    let shown = |line: &&String| !line.trim().is_empty();
    let last = target.last.iter().rev().find(shown).cloned().unwrap_or_default();
    let TargetResult::Failed(why) = &target.result else { return Look::default() };
    let letters = |text: &str| text.chars().filter(|c| !c.is_ascii_digit()).collect::<String>();
    (target.name.clone(), target.with_parts, format!("{} {}", letters(why), letters(&last)))
}

/// Groups the failures of some proofs, and finds the smallest answers that show each.
pub(super) fn of(
    mold: &Mold,
    proofs: &mut [SetProof],
    options: &ProveOptions,
    proven: &Proven,
    observer: &dyn ProveObserver,
) -> Vec<FailureGroup> {
    let mut groups: BTreeMap<Look, Vec<usize>> = BTreeMap::new();
    for (at, proof) in proofs.iter().enumerate() {
        if let Some(target) = proof.failure() {
            groups.entry(look(target)).or_default().push(at);
        }
    }
    let mut failures = Vec::new();
    for (number, (shown, members)) in groups.into_iter().enumerate() {
        let fewest = members.iter().min_by_key(|at| (proofs[**at].set.answers.len(), **at));
        let Some(first) = fewest.map(|at| &proofs[*at]) else { continue };
        let tried = Cell::new(0);
        let last: Cell<Option<SetProof>> = Cell::new(None);
        let again = |set: &AnswerSet| {
            let is_late = options.until.is_some_and(|until| Instant::now() > until);
            if tried.get() >= MOST_TRIED || is_late || observer.is_cancelled() {
                return false;
            }
            tried.set(tried.get() + 1);
            let label = format!("smaller-{number}-{}", tried.get());
            let run = SetRun::new(mold, options, proven, &label);
            let proof = run.prove(set, observer);
            let is_same = proof.failure().is_some_and(|target| look(target) == shown);
            if is_same {
                last.set(Some(proof));
            }
            is_same
        };
        let set = smallest(&first.set, again);
        let shows = last.into_inner().unwrap_or_else(|| first.clone());
        if let Some(target) = shows.failure() {
            let (target, folder) = (target.clone(), shows.folder.clone());
            failures.push(FailureGroup { target, set, folder, sets: members.len() });
        }
    }
    failures
}
