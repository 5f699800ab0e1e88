//! The state of the setup screen.

use super::field::{Field, Lines};
use super::job::{Choices, InTheWay, Job, Survey};
use super::rows::{Row, all_rows};
use super::worker::{Found, Shown, Wish};
use crate::failure::Failure;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;
use tinmold_mold::{Kind, Need};
use tinmold_notation::Finding;
use tinmold_project::answers::Answers;
use tinmold_project::outcome::{Effect, LineCounts, Outcome, dependents};
use tinmold_project::preflight::Probe;
use tinmold_project::setup::{Alternative, Setup, Standing};
use tinmold_project::steps::{OfferedStep, hindered};
use tinmold_project::write::cover::Uncovered;

/// The most options that stand open under their question; more have a list of their own.
pub const FEW: usize = 7;
/// The options of a long list, around the one under the cursor, whose effects are computed.
const NEAR: usize = 16;

/// The pane with the focus.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Side {
    Form,
    Outcome,
}

/// What is open over the form, for the row in focus.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Open {
    Nothing,
    /// Its few options, and the one under the cursor.
    Options(usize),
    /// Its many options, narrowed, the one under the cursor of those that are left, and whether the last key
    /// was a letter that narrows.
    List(Field, usize, bool),
    /// Its text, in a pane.
    Editor(Lines),
    /// Something that is asked, and the answer under the cursor.
    Asked(Asked, usize),
    /// All help, scrolled by so many lines.
    Help(usize),
}

/// Something that is asked over the form.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Asked {
    /// Whether a draft is taken over: its text.
    Draft(String),
    Leave,
    Write,
}

/// What is said of the last key.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Notice {
    pub text: String,
    pub is_bad: bool,
}

/// The tools of the machine, as far as they are known.
pub type Needs = Option<Vec<(Need, Probe)>>;

/// Everything that the screen shows.
pub struct Board<'m, 'j> {
    pub setup: Setup<'m>,
    pub job: &'j dyn Job,
    pub rows: Vec<Row>,
    /// The index of the row in focus.
    pub focus: usize,
    /// True once the user pressed a key: until then the focus is at the top, whatever rows come.
    pub is_touched: bool,
    pub open: Open,
    pub side: Side,
    /// The text that is edited in place, and its question.
    pub field: Option<(usize, Field)>,
    pub unfolded: BTreeSet<String>,
    pub notice: Notice,
    /// The file that the user went to.
    pub pinned: Option<String>,
    /// The first line of the file that is shown; `None` for what matters in it.
    pub scroll: Option<usize>,
    /// The number of the last wish.
    pub number: u64,
    pub outcome: Option<Arc<Outcome>>,
    pub effects: BTreeMap<u16, Effect>,
    pub shown: Option<Box<Shown>>,
    pub lines: BTreeMap<String, LineCounts>,
    /// Why nothing can come out.
    pub failure: Option<Vec<String>>,
    pub survey: Option<Survey>,
    pub needs: Needs,
    /// By name: the steps that the user ticked, or took the tick from.
    pub ticks: BTreeMap<String, bool>,
    /// By path: what the user decided.
    pub choices: Choices,
    /// The paths of the files whose ignore lines the user accepted.
    pub accepted: BTreeSet<String>,
    pub vouch: bool,
    /// True once what the user gave is kept for the next time.
    pub is_kept: bool,
    /// True if the screen came from a list of molds.
    pub has_list: bool,
}

impl<'m, 'j> Board<'m, 'j> {
    pub fn new(setup: Setup<'m>, job: &'j dyn Job, has_list: bool, details: bool) -> Self {
        let groups = setup.mold().questions.iter().map(|question| question.group.clone().unwrap_or_default());
        let unfolded = if details { groups.collect() } else { BTreeSet::new() };
        let mut board = Self {
            setup,
            job,
            rows: Vec::new(),
            focus: 0,
            is_touched: false,
            open: Open::Nothing,
            side: Side::Form,
            field: None,
            unfolded,
            notice: Notice::default(),
            pinned: None,
            scroll: None,
            number: 0,
            outcome: None,
            effects: BTreeMap::new(),
            shown: None,
            lines: BTreeMap::new(),
            failure: None,
            survey: None,
            needs: None,
            ticks: BTreeMap::new(),
            choices: BTreeMap::new(),
            accepted: BTreeSet::new(),
            vouch: false,
            is_kept: false,
            has_list,
        };
        board.refresh();
        board
    }

    /// Returns the row in focus.
    pub fn row(&self) -> &Row {
        self.rows.get(self.focus).unwrap_or(&Row::Write)
    }

    /// Returns the question in focus.
    pub fn question(&self) -> Option<usize> {
        match self.row() {
            Row::Question(at) => Some(*at),
            _ => None,
        }
    }

    /// Says how the text of a question is read, as it stands now.
    pub fn reading(&self, question: usize) -> Option<String> {
        self.setup.question(question).reading(&self.setup.text(question))
    }

    /// Lists the rows anew; the focus stays on its row, or goes to the one before it.
    pub fn refresh(&mut self) {
        let was = self.rows.get(self.focus).cloned();
        self.rows = all_rows(self);
        if let Some(was) = was {
            let found = self.rows.iter().position(|row| row.is_same(&was));
            let last = self.rows.len().saturating_sub(1);
            let near = || (0..=self.focus.min(last)).rev().find(|at| self.rows[*at].takes_focus());
            self.focus = found.or_else(near).unwrap_or(last);
        }
        if !self.is_touched {
            self.focus = self.rows.iter().position(Row::takes_focus).unwrap_or(0);
        }
        self.sync_field();
    }

    /// Moves the focus to a row, and closes what is open.
    pub fn go_to(&mut self, row: usize) {
        self.setup.end_typing();
        self.open = Open::Nothing;
        self.focus = row.min(self.rows.len().saturating_sub(1));
        self.scroll = None;
        self.sync_field();
    }

    /// Moves the focus by so many rows that take it.
    pub fn step(&mut self, by: isize) {
        let all: Vec<usize> = (0..self.rows.len()).filter(|at| self.rows[*at].takes_focus()).collect();
        let here = all.iter().position(|at| *at == self.focus).unwrap_or(0);
        let next = here.saturating_add_signed(by).min(all.len().saturating_sub(1));
        if let Some(row) = all.get(next) {
            self.go_to(*row);
        }
    }

    /// Moves the focus to this row, if it is there.
    pub fn go_to_row(&mut self, wanted: &Row) {
        if let Some(at) = self.rows.iter().position(|row| row.is_same(wanted)) {
            self.go_to(at);
        }
    }

    /// Makes the line of text that is edited the one in focus.
    pub fn sync_field(&mut self) {
        let Some(at) = self.question().filter(|at| self.is_line(*at)) else {
            self.field = None;
            return;
        };
        let text = self.setup.text(at);
        let is_here = self.field.as_ref().is_some_and(|(of, field)| *of == at && field.text() == text);
        if !is_here {
            let is_theirs = self.setup.standing(at) != Standing::Yours;
            self.field = Some((at, Field::new(text, is_theirs)));
        }
    }

    /// Returns true for a question that is answered by one line of text.
    pub fn is_line(&self, at: usize) -> bool {
        match self.setup.question(at).kind {
            Kind::Integer => true,
            Kind::Text => !self.setup.text(at).contains('\n'),
            _ => false,
        }
    }

    /// Returns the options of the question in focus.
    pub fn alternatives(&self) -> Vec<Alternative> {
        self.question().map_or_else(Vec::new, |at| self.setup.alternatives(at))
    }

    /// Returns the options that are left in a long list.
    pub fn narrowed(&self, filter: &str) -> Vec<Alternative> {
        let Some(at) = self.question() else { return Vec::new() };
        let question = self.setup.question(at);
        let is_left = |one: &Alternative| question.options[one.option as usize].holds(filter);
        self.setup.alternatives(at).into_iter().filter(is_left).collect()
    }

    /// Returns the options on the screen, and the one under the cursor.
    pub fn offered(&self) -> (Vec<Alternative>, usize) {
        match &self.open {
            Open::Options(at) => (self.alternatives(), *at),
            Open::List(filter, at, _) => (self.narrowed(filter.text()), *at),
            _ => (Vec::new(), 0),
        }
    }

    /// Returns the option under the cursor, unless it is taken already.
    pub fn hovered(&self) -> Option<Alternative> {
        let (mut options, at) = self.offered();
        let question = self.question()?;
        let ticks = matches!(self.setup.question(question).kind, Kind::SomeOf(_));
        (at < options.len()).then(|| options.swap_remove(at)).filter(|one| ticks || !one.taken)
    }

    /// Returns what the option under the cursor would change, as far as that is known.
    pub fn effect(&self) -> Option<(Alternative, &Effect)> {
        let one = self.hovered()?;
        let effect = self.effects.get(&one.option)?;
        Some((one, effect))
    }

    /// Returns a tool that is needed, as it was found.
    pub fn need(&self, tool: &str) -> Option<&(Need, Probe)> {
        self.needs.iter().flatten().find(|(need, _)| need.tool == tool)
    }

    /// Returns a file that is in the way.
    pub fn in_the_way(&self, path: &str) -> Option<&InTheWay> {
        self.survey.as_ref()?.in_the_way.iter().find(|file| file.path == path)
    }

    /// Returns a file of this machine only that would get out.
    pub fn uncovered(&self, path: &str) -> Option<&Uncovered> {
        self.survey.as_ref()?.uncovered.iter().find(|one| one.path == path)
    }

    /// Returns a step, whether it is ticked, and the tool that it lacks.
    pub fn step_named(&self, name: &str) -> Option<(&OfferedStep, bool, Option<String>)> {
        self.steps().into_iter().find(|(step, ..)| step.name == name)
    }

    /// Does something that a mistake of the mold can stop, and says so.
    pub fn done<T>(&mut self, result: Result<T, Finding>) -> Option<T> {
        match result {
            Ok(done) => Some(done),
            Err(finding) => {
                self.say_bad(format!("the mold is faulty: {}", finding.message));
                None
            }
        }
    }

    pub fn say(&mut self, text: impl Into<String>) {
        self.notice = Notice { text: text.into(), is_bad: false };
    }

    pub fn say_bad(&mut self, text: impl Into<String>) {
        self.notice = Notice { text: text.into(), is_bad: true };
    }

    /// Returns the answers as they are now.
    pub fn answers(&self) -> Result<Answers, Failure> {
        self.job.completed(self.setup.session().preview())
    }

    /// Returns what is to be computed now.
    pub fn wish(&mut self) -> Result<Wish, Failure> {
        self.number += 1;
        let (mut options, mut names) = (Vec::new(), Vec::new());
        if let Some(question) = self.question() {
            names = dependents(self.setup.session(), question);
            let (all, at) = self.offered();
            let first = at.saturating_sub(NEAR);
            for one in all.into_iter().skip(first).take(2 * NEAR) {
                // What an option makes impossible is told when it is taken.
                let answers = self.setup.answers_with(question, one.value);
                if let Ok(answers) =
                    answers.map_err(drop).and_then(|all| self.job.completed(all).map_err(drop))
                {
                    options.push((one.option, answers));
                }
            }
        }
        Ok(Wish {
            number: self.number,
            answers: self.answers()?,
            options,
            hovered: self.hovered().map(|one| one.option),
            path: self.pinned.clone(),
            names,
        })
    }

    /// Takes over what was found out; false for what nobody wishes any more.
    pub fn take(&mut self, found: Found) -> bool {
        let of_destination = matches!(found, Found::Survey(..) | Found::Needs(..));
        if found.number() != self.number && !of_destination {
            return false;
        }
        match found {
            Found::Outcome(_, outcome, effects) => {
                (self.outcome, self.failure) = (Some(outcome), None);
                self.effects = effects.into_iter().collect();
                self.lines.clear();
            }
            Found::File(_, shown) => {
                if self.shown.as_ref().map(|shown| &shown.path) != shown.as_ref().map(|shown| &shown.path) {
                    self.scroll = None;
                }
                self.shown = shown;
            }
            Found::Lines(_, lines) => self.lines = lines,
            Found::Failed(_, failure) => self.failure = Some(failure.lines()),
            Found::Survey(_, Ok(survey)) => {
                self.survey = Some(*survey);
                self.refresh();
            }
            Found::Survey(_, Err(failure)) => {
                self.survey = Some(Survey { blocked: failure.lines(), ..Survey::default() });
                self.refresh();
            }
            Found::Needs(_, needs) => {
                self.needs = Some(needs);
                self.refresh();
            }
        }
        true
    }

    /// Returns the steps that are offered, each with whether it is ticked and the tool that it lacks.
    pub fn steps(&self) -> Vec<(&OfferedStep, bool, Option<String>)> {
        let Some(survey) = &self.survey else { return Vec::new() };
        let Some(choice) = &survey.steps else { return Vec::new() };
        let unmet = self.needs.iter().flatten().filter(|(_, probe)| !probe.verdict.is_met());
        let unmet: Vec<&str> = unmet.map(|(need, _)| need.tool.as_str()).collect();
        let lacking = hindered(&choice.steps, &unmet);
        let steps = choice.steps.iter().zip(&choice.ticked).zip(lacking);
        steps
            .map(|((step, ticked), lacks)| {
                let by_itself = *ticked && (lacks.is_none() || survey.steps_named);
                (step, self.ticks.get(&step.name).copied().unwrap_or(by_itself), lacks)
            })
            .collect()
    }

    /// Returns true if the user gave a secret, which no draft holds.
    pub fn has_secret(&self) -> bool {
        let given = |at: &usize| self.setup.standing(*at) == Standing::Yours;
        (0..self.setup.mold().questions.len()).filter(given).any(|at| self.setup.question(at).secret)
    }

    /// Returns true if the user has to vouch for the steps that are ticked.
    pub fn needs_vouching(&self) -> bool {
        let choice = self.survey.as_ref().and_then(|survey| survey.steps.as_ref());
        choice.is_some_and(|choice| !choice.vouched) && self.steps().iter().any(|(_, ticked, _)| *ticked)
    }
}
