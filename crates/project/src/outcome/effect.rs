//! What other answers would change.

use super::file::{Outcome, OutcomeFile};
use std::collections::BTreeMap;
use std::sync::Arc;

/// The difference between two outcomes.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Effect {
    /// By path: what becomes of each file that differs.
    pub files: BTreeMap<String, FileEffect>,
}

/// What becomes of a file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum FileEffect {
    /// It comes.
    Added(OutcomeFile),
    /// It goes.
    Removed(OutcomeFile),
    /// Its content or its mode changes; before and after.
    Changed(OutcomeFile, OutcomeFile),
}

impl Effect {
    /// Compares two outcomes of one forecast.
    #[must_use]
    pub fn between(before: &Outcome, after: &Outcome) -> Self {
        let differs = |at: &usize| match (before.groups.get(*at), after.groups.get(*at)) {
            (Some(a), Some(b)) => !Arc::ptr_eq(a, b),
            _ => true,
        };
        let (mut old, mut new) = (BTreeMap::new(), BTreeMap::new());
        for at in (0..before.groups.len().max(after.groups.len())).filter(differs) {
            let files = |outcome: &Outcome| outcome.groups.get(at).cloned().unwrap_or_default();
            old.extend(files(before).iter().map(|file| (file.path.clone(), file.clone())));
            new.extend(files(after).iter().map(|file| (file.path.clone(), file.clone())));
        }
        let mut files = BTreeMap::new();
        for (path, file) in &new {
            match old.remove(path) {
                None => drop(files.insert(path.clone(), FileEffect::Added(file.clone()))),
                Some(was) if (was.print, was.kind) == (file.print, file.kind) => {}
                Some(was) => drop(files.insert(path.clone(), FileEffect::Changed(was, file.clone()))),
            }
        }
        files.extend(old.into_iter().map(|(path, was)| (path, FileEffect::Removed(was))));
        Self { files }
    }

    /// Returns how many files come, go and change.
    #[must_use]
    pub fn counts(&self) -> (usize, usize, usize) {
        let count = |is: fn(&FileEffect) -> bool| self.files.values().filter(|file| is(file)).count();
        (
            count(|file| matches!(file, FileEffect::Added(_))),
            count(|file| matches!(file, FileEffect::Removed(_))),
            count(|file| matches!(file, FileEffect::Changed(..))),
        )
    }
}
