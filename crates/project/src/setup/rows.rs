//! What stands in the form, from top to bottom.

use super::state::Setup;
use std::collections::BTreeSet;
use tinmold_mold::Kind;

/// A row of the form.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum SetupRow {
    /// The heading of a group.
    Group(String),
    /// The question of this index.
    Question(usize),
    /// A value that is made when the project is written: the question of this index.
    Minted(usize),
    /// The details of a group: how many there are, and whether they are shown.
    Details {
        /// The group; empty for questions without one.
        group: String,
        /// The number of questions.
        count: usize,
        /// True if they are shown.
        open: bool,
    },
}

/// Returns the rows: groups in the order of their first question, the details of each at its end. Details in the
/// groups of `open` are shown, and those with an answer that cannot be used.
#[must_use]
pub fn rows(setup: &Setup<'_>, open: &BTreeSet<String>) -> Vec<SetupRow> {
    let mold = setup.mold();
    let group_of = |at: usize| mold.questions[at].group.clone().unwrap_or_default();
    let is_shown = |at: &usize| {
        let question = &mold.questions[*at];
        let session = setup.session();
        session.resolved()[*at].is_visible() && !question.from_casting && !session.leaves(*at)
    };
    let shown: Vec<usize> = (0..mold.questions.len()).filter(is_shown).collect();
    let mut groups: Vec<String> = Vec::new();
    for at in &shown {
        let group = group_of(*at);
        if !groups.contains(&group) {
            groups.push(group);
        }
    }
    let mut rows = Vec::new();
    for group in groups {
        let inside: Vec<usize> = shown.iter().copied().filter(|at| group_of(*at) == group).collect();
        let (details, plain): (Vec<usize>, Vec<usize>) =
            inside.into_iter().partition(|at| mold.questions[*at].detail);
        let row = |at: usize| match mold.questions[at].kind {
            Kind::Minted { .. } => SetupRow::Minted(at),
            _ => SetupRow::Question(at),
        };
        rows.push(SetupRow::Group(group.clone()));
        rows.extend(plain.into_iter().map(row));
        if !details.is_empty() {
            let is_open = open.contains(&group);
            rows.push(SetupRow::Details { group, count: details.len(), open: is_open });
            let is_shown = |at: &usize| is_open || setup.refusal(*at).is_some();
            rows.extend(details.into_iter().filter(is_shown).map(row));
        }
    }
    rows
}
