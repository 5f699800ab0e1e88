//! The rows of the form, the machine, the steps and the files in the way.

use super::board::Board;
use tinmold_project::setup::{SetupRow, rows};

/// A row of the form.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Row {
    /// A heading.
    Group(String),
    /// The question of this index.
    Question(usize),
    /// A value made on writing: the question of this index.
    Minted(usize),
    /// The details of a group, folded or not.
    Details { group: String, count: usize, open: bool },
    /// A tool that the machine lacks.
    Need(String),
    /// Something to know, which takes no focus.
    Note(String),
    /// A finishing step, by name.
    Step(String),
    /// Whether the user vouches for the mold from now on.
    Vouch,
    /// A file that is there already, by path.
    InTheWay(String),
    /// A file of this machine only that would get out, by path.
    Uncovered(String),
    /// The end: write it.
    Write,
}

impl Row {
    pub fn takes_focus(&self) -> bool {
        !matches!(self, Self::Group(_) | Self::Note(_))
    }

    /// Returns true if this is the other row, whatever state it is in.
    pub fn is_same(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Details { group: one, .. }, Self::Details { group: other, .. }) => one == other,
            _ => self == other,
        }
    }
}

/// Returns the rows from top to bottom.
pub fn all_rows(board: &Board<'_, '_>) -> Vec<Row> {
    let mut all: Vec<Row> = rows(&board.setup, &board.unfolded)
        .into_iter()
        .map(|row| match row {
            SetupRow::Group(group) if group.is_empty() => Row::Group("Settings".into()),
            SetupRow::Group(group) => Row::Group(group),
            SetupRow::Question(at) => Row::Question(at),
            SetupRow::Minted(at) => Row::Minted(at),
            SetupRow::Details { group, count, open } => Row::Details { group, count, open },
        })
        .collect();
    machine(board, &mut all);
    destination(board, &mut all);
    let steps = board.steps();
    if !steps.is_empty() {
        all.push(Row::Group("Afterwards".into()));
        all.extend(steps.iter().map(|(step, ..)| Row::Step(step.name.clone())));
        let choice = board.survey.as_ref().and_then(|survey| survey.steps.as_ref());
        if board.needs_vouching() && choice.is_some_and(|choice| choice.is_own) {
            all.push(Row::Vouch);
        }
    }
    all.push(Row::Group(String::new()));
    all.push(Row::Write);
    all
}

fn machine(board: &Board<'_, '_>, all: &mut Vec<Row>) {
    let Some(needs) = &board.needs else { return };
    if needs.is_empty() {
        return;
    }
    all.push(Row::Group("This machine".into()));
    let (met, unmet): (Vec<_>, Vec<_>) = needs.iter().partition(|(_, probe)| probe.verdict.is_met());
    all.extend(unmet.iter().map(|(need, _)| Row::Need(need.tool.clone())));
    if unmet.is_empty() {
        let names: Vec<&str> = met.iter().map(|(need, _)| need.tool.as_str()).collect();
        all.push(Row::Note(format!("{}: all that is needed", names.join(", "))));
    }
}

fn destination(board: &Board<'_, '_>, all: &mut Vec<Row>) {
    let Some(survey) = &board.survey else { return };
    let [in_the_way, notes] =
        survey.headings.unwrap_or(["Files that are there already", "In the destination"]);
    if !survey.in_the_way.is_empty() {
        all.push(Row::Group(in_the_way.into()));
        all.extend(survey.in_the_way.iter().map(|file| Row::InTheWay(file.path.clone())));
    }
    if !survey.uncovered.is_empty() {
        all.push(Row::Group("To be kept out of git".into()));
        all.extend(survey.uncovered.iter().map(|one| Row::Uncovered(one.path.clone())));
    }
    if !survey.blocked.is_empty() {
        all.push(Row::Group("Nothing can be written there".into()));
        all.extend(survey.blocked.iter().map(|line| Row::Note(line.clone())));
    }
    if !survey.notes.is_empty() {
        all.push(Row::Group(notes.into()));
        all.extend(survey.notes.iter().map(|line| Row::Note(line.clone())));
    }
}
