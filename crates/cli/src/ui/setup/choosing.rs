//! What keys do among options, steps and what is asked.

use super::board::{Asked, Board, Open};
use super::field::Field;
use super::field::Lines;
use super::job::Decision;
use super::keys::Act;
use super::rows::Row;
use crate::text::style::count;
use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use tinmold_mold::Kind;
use tinmold_project::recast::Decided;
use tinmold_project::setup::{Alternative, take_draft};

impl Board<'_, '_> {
    /// Handles a key among the few options of a row.
    pub(super) fn press_options(&mut self, key: KeyEvent, at: usize) {
        if let Row::InTheWay(path) = self.row().clone() {
            self.press_way(key, &path, at);
            return;
        }
        let options = self.alternatives();
        let last = options.len().saturating_sub(1);
        match key.code {
            KeyCode::Up => self.open = Open::Options(at.saturating_sub(1)),
            KeyCode::Down => self.open = Open::Options((at + 1).min(last)),
            KeyCode::Home => self.open = Open::Options(0),
            KeyCode::End => self.open = Open::Options(last),
            KeyCode::Esc | KeyCode::Left => self.open = Open::Nothing,
            KeyCode::Char('?') => self.open = Open::Help(0),
            KeyCode::Char(' ') => self.take_option(options.get(at), false),
            KeyCode::Enter => self.take_option(options.get(at), true),
            _ => {}
        }
    }

    /// Ticks an option, or takes it; `Enter` closes a list of ticks and goes on.
    fn take_option(&mut self, option: Option<&Alternative>, is_enter: bool) {
        let (Some(question), Some(option)) = (self.question(), option) else { return };
        match self.setup.question(question).kind {
            Kind::SomeOf(_) if is_enter => {
                self.open = Open::Nothing;
                self.step(1);
            }
            Kind::SomeOf(_) => self.tick(question, option.option),
            _ => self.take_value(option.value.clone()),
        }
    }

    fn tick(&mut self, question: usize, option: u16) {
        let ticked = self.setup.tick(question, option);
        let Some(ticked) = self.done(ticked) else { return };
        let options = &self.setup.question(question).options;
        let labels = |all: &[u16]| {
            all.iter().map(|at| options[*at as usize].label.clone()).collect::<Vec<_>>().join(", ")
        };
        match ticked {
            Err(refusal) => self.say_bad(format!("Not ticked: {refusal}.")),
            Ok(ticked) => {
                let mut said = Vec::new();
                if !ticked.ticked.is_empty() {
                    said.push(format!("Ticked with it: {}", labels(&ticked.ticked)));
                }
                if !ticked.unticked.is_empty() {
                    said.push(format!("No longer ticked: {}", labels(&ticked.unticked)));
                }
                if !said.is_empty() {
                    self.say(format!("{}. Ctrl-B undoes all of it.", said.join(". ")));
                }
            }
        }
    }

    /// Handles a key in a long list. Right after a letter that narrows, a space is one too, and Enter ticks what
    /// was looked for; else a space ticks, and Enter is the end.
    pub(super) fn press_list(
        &mut self,
        key: KeyEvent,
        mut filter: Field,
        (at, typed): (usize, bool),
        page: usize,
    ) {
        let options = self.narrowed(filter.text());
        let last = options.len().saturating_sub(1);
        let question = self.question().map(|at| self.setup.question(at).kind);
        let several = matches!(question, Some(Kind::SomeOf(_)));
        let (mut next, mut is_typed) = (at, false);
        match key.code {
            KeyCode::Up => next = at.saturating_sub(1),
            KeyCode::Down => next = (at + 1).min(last),
            KeyCode::PageUp => next = at.saturating_sub(page),
            KeyCode::PageDown => next = (at + page).min(last),
            KeyCode::Home => next = 0,
            KeyCode::End => next = last,
            KeyCode::Esc => return self.open = Open::Nothing,
            KeyCode::Enter if !(several && typed) => return self.take_option(options.get(at), true),
            KeyCode::Enter => self.take_option(options.get(at), false),
            KeyCode::Char(' ') if several && !typed => self.take_option(options.get(at), false),
            KeyCode::Char('u') if key.modifiers.contains(KeyModifiers::CONTROL) => {
                filter.clear();
                next = 0;
            }
            KeyCode::Char(c) if !key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT) => {
                filter.insert(c.encode_utf8(&mut [0; 4]));
                (next, is_typed) = (0, true);
            }
            KeyCode::Backspace => {
                filter.delete(true);
                (next, is_typed) = (0, !filter.text().is_empty());
            }
            _ => {}
        }
        self.open = Open::List(filter, next, is_typed);
    }

    /// Returns what may become of a file in the way.
    pub(super) fn ways(&self, path: &str) -> &'static [Decided] {
        self.in_the_way(path).map_or(&[], |file| file.ways)
    }

    /// Returns true if a text of the user's own can be put in place of what is in the way.
    pub fn may_edit(&self, path: &str) -> bool {
        self.in_the_way(path).is_some_and(|file| file.text.is_some())
    }

    /// Opens an editor for a text of one's own in place of what is in the way.
    pub(super) fn edit_way(&mut self, path: &str) {
        let Some(text) = self.in_the_way(path).and_then(|file| file.text.clone()) else {
            self.say_bad("A text of your own is no choice here.");
            return;
        };
        let text = match self.choices.get(path) {
            Some(Decided::Text(text)) => text.clone(),
            _ => text,
        };
        self.open = Open::Editor(Lines::new(text.strip_suffix('\n').unwrap_or(&text)));
    }

    /// Takes a text of one's own, as whole lines.
    pub(super) fn take_way_text(&mut self, path: &str, text: &str) {
        let text = if text.is_empty() { String::new() } else { format!("{text}\n") };
        self.choices.insert(path.to_owned(), Decided::Text(text));
        self.step(1);
    }

    /// Handles a key while it is decided about a file in the way.
    fn press_way(&mut self, key: KeyEvent, path: &str, at: usize) {
        let ways = self.ways(path);
        let last = ways.len().saturating_sub(1);
        match key.code {
            KeyCode::Up => self.open = Open::Options(at.saturating_sub(1)),
            KeyCode::Down => self.open = Open::Options((at + 1).min(last)),
            KeyCode::Esc | KeyCode::Left => self.open = Open::Nothing,
            KeyCode::Enter | KeyCode::Char(' ') => {
                self.choices.extend(ways.get(at).map(|way| (path.to_owned(), way.clone())));
                self.open = Open::Nothing;
                self.step(1);
            }
            KeyCode::Char('e') => self.edit_way(path),
            KeyCode::Char('a') => {
                let files = self.survey.iter().flat_map(|survey| &survey.in_the_way);
                let Some(way) = ways.get(at) else { return };
                let all = files.filter(|file| file.ways.contains(way));
                self.choices.extend(all.map(|file| (file.path.clone(), way.clone())));
                self.open = Open::Nothing;
                self.step(1);
            }
            _ => {}
        }
    }

    pub(super) fn tick_step(&mut self, name: &str) {
        let Some((_, ticked, lacks)) = self.step_named(name) else { return };
        self.ticks.insert(name.to_owned(), !ticked);
        if let Some(tool) = lacks.filter(|_| !ticked) {
            self.say_bad(format!("This machine lacks {tool}: the step may fail."));
        }
    }

    /// Asks whether to write, or goes to what keeps it from being written.
    pub(super) fn ask_to_write(&mut self) -> Act {
        self.setup.end_typing();
        self.open = Open::Nothing;
        if let Some(at) = self.setup.unusable().first().copied() {
            self.refresh();
            self.go_to_row(&Row::Question(at));
            self.say_bad("This answer is still needed.");
            return Act::Stay;
        }
        // The destination is looked at once more: it may have changed since.
        let survey = self.answers().and_then(|answers| self.job.survey(&answers, &self.choices));
        match survey {
            Err(failure) => {
                self.failure = Some(failure.lines());
                self.say_bad("Nothing can be written: see why beside this.");
                return Act::Stay;
            }
            Ok(survey) => self.survey = Some(survey),
        }
        self.refresh();
        if let Some(row) = self.undecided() {
            self.go_to_row(&row);
            self.say_bad(match row {
                Row::InTheWay(_) => "Decide first what becomes of this file.",
                _ => "This line is needed first: Enter accepts it.",
            });
            return Act::Stay;
        }
        let blocked = self.survey.as_ref().is_some_and(|survey| !survey.blocked.is_empty());
        if blocked {
            self.say_bad("Nothing can be written there: see why above.");
            return Act::Stay;
        }
        self.go_to_row(&Row::Write);
        self.open = Open::Asked(Asked::Write, 0);
        Act::Stay
    }

    /// Returns the first row that is not decided about.
    fn undecided(&self) -> Option<Row> {
        let survey = self.survey.as_ref()?;
        let file = survey.in_the_way.iter().find(|file| !self.choices.contains_key(&file.path));
        let line =
            survey.uncovered.iter().find(|one| !self.accepted.contains(&one.path) || one.line.is_none());
        file.map(|file| Row::InTheWay(file.path.clone()))
            .or_else(|| line.map(|one| Row::Uncovered(one.path.clone())))
    }

    /// Handles a key while something is asked.
    pub(super) fn press_asked(&mut self, key: KeyEvent, asked: &Asked, at: usize) -> Act {
        let last = match asked {
            Asked::Leave => 2,
            Asked::Draft(_) | Asked::Write => 1,
        };
        match key.code {
            KeyCode::Up | KeyCode::Left => self.open = Open::Asked(asked.clone(), at.saturating_sub(1)),
            KeyCode::Down | KeyCode::Right => self.open = Open::Asked(asked.clone(), (at + 1).min(last)),
            // Nothing is decided about a draft: it stays, and is offered again.
            KeyCode::Esc if matches!(asked, Asked::Draft(_)) => return Act::Leave,
            KeyCode::Esc => self.open = Open::Nothing,
            KeyCode::Enter => {
                self.open = Open::Nothing;
                return match (asked, at) {
                    (Asked::Draft(draft), 0) => {
                        let taken = take_draft(&mut self.setup, draft);
                        if let Some(taken) = self.done(taken) {
                            let answers = count(taken, "answer");
                            self.say(format!("{answers} taken from last time. Ctrl-B undoes one at a time."));
                        }
                        self.field = None;
                        Act::Stay
                    }
                    (Asked::Draft(_), _) => Act::DropDraft,
                    (Asked::Leave, 1) => Act::Leave,
                    (Asked::Leave, 2) => Act::LeaveForGood,
                    (Asked::Write, 0) => Act::Write,
                    _ => Act::Stay,
                };
            }
            _ => {}
        }
        Act::Stay
    }

    /// Returns what the user decided.
    pub fn decision(&self) -> Decision {
        let steps = self.steps().into_iter().filter(|(_, ticked, _)| *ticked);
        let survey = self.survey.as_ref();
        let lines = survey.into_iter().flat_map(|survey| &survey.uncovered);
        let accepted = lines.filter(|one| self.accepted.contains(&one.path));
        Decision {
            steps: steps.map(|(step, ..)| step.name.clone()).collect(),
            choices: self.choices.clone(),
            lines: accepted.filter_map(|one| one.line.clone()).collect(),
            vouch: self.vouch && self.needs_vouching(),
            is_kept: self.is_kept,
            has_secret: self.has_secret(),
        }
    }
}
