//! What keys do.

use super::board::{Asked, Board, FEW, Open, Side};
use super::field::{Field, Lines};
use super::rows::Row;
use crate::ui::terminal::is_control;
use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use tinmold_mold::Kind;
use tinmold_notation::{Finding, Value};
use tinmold_project::setup::Standing;

/// What the screen has to do that the board cannot.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Act {
    /// Nothing more.
    Stay,
    /// Write the project.
    Write,
    /// Go back to where the mold was chosen, or leave. What the user gave is kept.
    Leave,
    /// The same, and what the user gave is thrown away.
    LeaveForGood,
    /// Open the text in the user's own editor.
    OwnEditor,
    /// Throw the kept draft away.
    DropDraft,
}

impl Board<'_, '_> {
    /// Handles a key. `page` is the number of lines of a page.
    pub fn press(&mut self, key: KeyEvent, page: usize) -> Act {
        self.notice = Default::default();
        self.is_touched = true;
        if key.code == KeyCode::F(1) && !matches!(self.open, Open::Asked(..)) {
            self.open = if matches!(self.open, Open::Help(_)) { Open::Nothing } else { Open::Help(0) };
            return Act::Stay;
        }
        match self.open.clone() {
            Open::Asked(asked, at) => return self.press_asked(key, &asked, at),
            Open::Help(top) => return self.press_help(key, top, page),
            Open::Editor(lines) => return self.press_editor(key, lines, page),
            _ => {}
        }
        if let Some(act) = self.press_anywhere(key, page) {
            return act;
        }
        if self.side == Side::Outcome {
            self.press_outcome(key, page);
            return Act::Stay;
        }
        match self.open.clone() {
            Open::Options(at) => self.press_options(key, at),
            Open::List(filter, at, typed) => self.press_list(key, filter, (at, typed), page),
            _ => return self.press_form(key),
        }
        Act::Stay
    }

    /// Handles the keys that work whatever has the focus.
    fn press_anywhere(&mut self, key: KeyEvent, page: usize) -> Option<Act> {
        match key.code {
            KeyCode::Tab | KeyCode::BackTab => {
                self.side = if self.side == Side::Form { Side::Outcome } else { Side::Form };
            }
            KeyCode::PageDown if self.side == Side::Form && !matches!(self.open, Open::List(..)) => {
                self.scroll_by(page as isize);
            }
            KeyCode::PageUp if self.side == Side::Form && !matches!(self.open, Open::List(..)) => {
                self.scroll_by(-(page as isize));
            }
            _ if is_control(key, 'b') => {
                let undone = self.setup.undo();
                self.went_back(undone, "There is nothing to undo.");
            }
            _ if is_control(key, 'f') => {
                let again = self.setup.redo();
                self.went_back(again, "There is nothing to do again.");
            }
            _ if is_control(key, 's') => return Some(self.ask_to_write()),
            _ if is_control(key, 'd') => {
                if let Some(at) = self.question() {
                    let forgotten = self.setup.forget(at);
                    self.done(forgotten);
                    self.field = None;
                    self.say("It takes what is offered again.");
                }
            }
            _ => return None,
        }
        Some(Act::Stay)
    }

    fn went_back(&mut self, result: Result<Option<usize>, Finding>, none: &str) {
        match self.done(result) {
            Some(Some(question)) => {
                self.refresh();
                self.field = None;
                // A list that is open stays.
                if self.question() != Some(question) {
                    self.go_to_row(&Row::Question(question));
                }
            }
            Some(None) => self.say(none),
            None => {}
        }
    }

    /// Scrolls the file by so many lines.
    pub fn scroll_by(&mut self, by: isize) {
        self.scroll = Some(self.scroll.unwrap_or(0).saturating_add_signed(by));
    }

    fn press_outcome(&mut self, key: KeyEvent, page: usize) {
        match key.code {
            KeyCode::Up => self.step_file(-1),
            KeyCode::Down => self.step_file(1),
            KeyCode::Home => self.step_file(isize::MIN + 1),
            KeyCode::End => self.step_file(isize::MAX),
            KeyCode::PageUp => self.scroll_by(-(page as isize)),
            KeyCode::PageDown | KeyCode::Char(' ') => self.scroll_by(page as isize),
            KeyCode::Esc | KeyCode::Left => self.side = Side::Form,
            _ => {}
        }
    }

    fn step_file(&mut self, by: isize) {
        let paths = self.paths();
        let here = self.shown.as_ref().and_then(|shown| paths.iter().position(|path| *path == shown.path));
        let next = here.unwrap_or(0).saturating_add_signed(by).min(paths.len().saturating_sub(1));
        if let Some(path) = paths.get(next) {
            self.pinned = Some(path.clone());
            self.scroll = None;
        }
    }

    /// Returns the files in the tree.
    pub fn paths(&self) -> Vec<String> {
        if let Some((_, effect)) = self.effect() {
            return effect.files.keys().cloned().collect();
        }
        let files = self.outcome.as_ref().map(|outcome| outcome.files()).unwrap_or_default();
        files.iter().map(|file| file.path.clone()).collect()
    }

    fn press_form(&mut self, key: KeyEvent) -> Act {
        let row = self.row().clone();
        match (key.code, &row) {
            (KeyCode::Up, _) => self.step(-1),
            (KeyCode::Down, _) => self.step(1),
            (KeyCode::Esc, _) => return self.press_escape(),
            (KeyCode::Enter, Row::Question(at)) => self.enter(*at),
            (KeyCode::Enter | KeyCode::Char(' '), Row::Details { group, open, .. }) => {
                if *open {
                    self.unfolded.remove(group);
                } else {
                    self.unfolded.insert(group.clone());
                }
            }
            (KeyCode::Enter | KeyCode::Char(' '), Row::Step(name)) => self.tick_step(name),
            (KeyCode::Enter | KeyCode::Char(' '), Row::Vouch) => self.vouch = !self.vouch,
            (KeyCode::Enter | KeyCode::Char(' '), Row::Uncovered(path)) => self.accept_line(path),
            (KeyCode::Enter | KeyCode::Char(' '), Row::InTheWay(path)) => {
                let ways = self.ways(path);
                let chosen = self.choices.get(path).and_then(|way| ways.iter().position(|one| one == way));
                self.open = Open::Options(chosen.unwrap_or(0));
            }
            (KeyCode::Char('e'), Row::InTheWay(path)) => self.edit_way(path),
            (KeyCode::Enter, Row::Write) => return self.ask_to_write(),
            (KeyCode::Enter, _) => self.step(1),
            (_, Row::Question(at)) if self.is_line(*at) => self.press_field(key),
            (KeyCode::Char(' ' | '?') | KeyCode::Right, Row::Question(at)) => match key.code {
                KeyCode::Char('?') => self.open = Open::Help(0),
                _ => self.enter(*at),
            },
            (KeyCode::Char('?'), _) => self.open = Open::Help(0),
            (KeyCode::Char(c), Row::Question(at)) if !key.modifiers.contains(KeyModifiers::CONTROL) => {
                self.begin_lines(*at, &c.to_string());
            }
            (KeyCode::Home, _) => self.step(isize::MIN + 1),
            (KeyCode::End, _) => self.step(isize::MAX),
            _ => {}
        }
        Act::Stay
    }

    fn accept_line(&mut self, path: &str) {
        if !self.accepted.remove(path) {
            self.accepted.insert(path.to_owned());
        }
    }

    /// Goes to the first row, and from there back to where the mold was chosen.
    fn press_escape(&mut self) -> Act {
        let first = self.rows.iter().position(Row::takes_focus).unwrap_or(0);
        if self.focus > first {
            self.go_to(first);
            self.say(if self.has_list { "Esc again goes back to the molds." } else { "Esc again leaves." });
            return Act::Stay;
        }
        if self.setup.is_changed() {
            self.open = Open::Asked(Asked::Leave, 0);
            return Act::Stay;
        }
        Act::Leave
    }

    /// Opens a question; from a line, which was taken while it was typed, goes on.
    fn enter(&mut self, at: usize) {
        let question = self.setup.question(at);
        let alternatives = self.alternatives();
        let taken = alternatives.iter().position(|one| one.taken).unwrap_or(0);
        match question.kind {
            Kind::OneOf(_) | Kind::SomeOf(_) if alternatives.len() > FEW => {
                self.open = Open::List(Field::default(), taken, false);
            }
            Kind::Flag | Kind::OneOf(_) | Kind::SomeOf(_) => self.open = Open::Options(taken),
            _ if self.is_line(at) => {
                if self.setup.refusal(at).is_some() {
                    // What is offered may be refused too: typing nothing does not help then.
                    self.say_bad("This will not do yet: see why below it.");
                } else {
                    self.step(1);
                }
            }
            _ => self.open = Open::Editor(Lines::new(&self.editable(at))),
        }
    }

    /// Returns the text of a question as its pane shows it.
    pub fn editable(&self, at: usize) -> String {
        match self.setup.question(at).kind {
            Kind::Texts if self.setup.rejected(at).is_none() => self.setup.elements(at).join("\n"),
            _ => self.setup.text(at),
        }
    }

    /// Opens the pane of a question with more text at its end.
    fn begin_lines(&mut self, at: usize, more: &str) {
        if !matches!(self.setup.question(at).kind, Kind::Text | Kind::Texts) {
            return;
        }
        let mut lines = Lines::new(&self.editable(at));
        if !lines.text().is_empty() && self.setup.question(at).kind == Kind::Texts {
            lines.insert("\n");
        }
        lines.insert(more);
        self.open = Open::Editor(lines);
    }

    /// Takes a text that was pasted.
    pub fn paste(&mut self, text: &str) {
        let text = text.replace("\r\n", "\n").replace('\r', "\n");
        let question = self.question();
        match (&mut self.open, question) {
            (Open::Editor(lines), _) => lines.insert(&text),
            (Open::List(filter, at, typed), _) => {
                filter.insert(text.lines().next().unwrap_or(""));
                (*at, *typed) = (0, true);
            }
            (Open::Nothing, Some(at)) => {
                let line = text.strip_suffix('\n').unwrap_or(&text);
                if !line.contains('\n') && self.is_line(at) {
                    self.edit(|field| field.insert(line));
                } else if self.setup.question(at).secret {
                    self.say_bad("This is one line, and several were pasted: nothing was taken.");
                } else if self.setup.standing(at) == Standing::Yours {
                    self.begin_lines(at, &text);
                } else if matches!(self.setup.question(at).kind, Kind::Text | Kind::Texts) {
                    self.open = Open::Editor(Lines::new(&text));
                } else {
                    self.say_bad("A text cannot be pasted here: nothing was taken.");
                }
            }
            _ => self.say_bad("A text cannot be pasted here: nothing was taken."),
        }
    }

    fn press_field(&mut self, key: KeyEvent) {
        match key.code {
            KeyCode::Char('u') if key.modifiers.contains(KeyModifiers::CONTROL) => self.edit(Field::clear),
            KeyCode::Char('e') if key.modifiers.contains(KeyModifiers::CONTROL) => {
                if let Some(at) = self.question().filter(|at| !self.setup.question(*at).secret) {
                    self.begin_editor(at);
                }
            }
            KeyCode::Char(c) if !key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT) => {
                self.edit(|field| field.insert(c.encode_utf8(&mut [0; 4])));
            }
            KeyCode::Backspace => self.edit(|field| field.delete(true)),
            KeyCode::Delete => self.edit(|field| field.delete(false)),
            KeyCode::Left => self.edit(Field::left),
            KeyCode::Right => self.edit(Field::right),
            KeyCode::Home => self.edit(Field::home),
            KeyCode::End => self.edit(Field::end),
            _ => {}
        }
    }

    fn begin_editor(&mut self, at: usize) {
        if self.setup.question(at).kind == Kind::Text {
            self.open = Open::Editor(Lines::new(&self.editable(at)));
        }
    }

    /// Changes the line of text, and takes it as the answer.
    fn edit(&mut self, change: impl FnOnce(&mut Field)) {
        let Some((at, field)) = &mut self.field else { return };
        let before = field.text().to_owned();
        change(field);
        if field.text() != before {
            let (at, text) = (*at, field.text().to_owned());
            let typed = self.setup.type_text(at, &text);
            self.done(typed);
        }
    }

    fn press_editor(&mut self, key: KeyEvent, mut lines: Lines, page: usize) -> Act {
        let control = key.modifiers.contains(KeyModifiers::CONTROL);
        match key.code {
            KeyCode::Esc => {
                self.finish_editor(&lines);
                return Act::Stay;
            }
            KeyCode::Char('o') if control => return Act::OwnEditor,
            KeyCode::Char('u') if control => lines.line().clear(),
            KeyCode::Char(c) if !key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT) => {
                lines.insert(c.encode_utf8(&mut [0; 4]));
            }
            KeyCode::Tab => lines.insert("\t"),
            KeyCode::Enter => lines.split(),
            KeyCode::Backspace => lines.backspace(),
            KeyCode::Delete => lines.line().delete(false),
            KeyCode::Left => lines.line().left(),
            KeyCode::Right => lines.line().right(),
            KeyCode::Home => lines.line().home(),
            KeyCode::End => lines.line().end(),
            KeyCode::Up => lines.step(-1),
            KeyCode::Down => lines.step(1),
            KeyCode::PageUp => lines.step(-(page as isize)),
            KeyCode::PageDown => lines.step(page as isize),
            _ => {}
        }
        self.open = Open::Editor(lines);
        Act::Stay
    }

    /// Takes the text of the pane, and closes it.
    pub fn finish_editor(&mut self, lines: &Lines) {
        self.open = Open::Nothing;
        if let Row::InTheWay(path) = self.row().clone() {
            self.take_way_text(&path, &lines.text());
        }
        if let Some(at) = self.question()
            && lines.text() != self.editable(at)
        {
            let taken = self.setup.take_lines(at, &lines.text());
            self.done(taken);
            self.field = None;
        }
    }

    fn press_help(&mut self, key: KeyEvent, top: usize, page: usize) -> Act {
        self.open = match key.code {
            KeyCode::Up => Open::Help(top.saturating_sub(1)),
            KeyCode::Down => Open::Help(top + 1),
            KeyCode::PageUp => Open::Help(top.saturating_sub(page)),
            KeyCode::PageDown | KeyCode::Char(' ') => Open::Help(top + page),
            _ => Open::Nothing,
        };
        Act::Stay
    }

    /// Takes this option of a question with one answer, and goes on.
    pub fn take_value(&mut self, value: Value) {
        if let Some(at) = self.question() {
            let picked = self.setup.pick(at, value);
            self.done(picked);
            self.open = Open::Nothing;
            self.refresh();
            self.step(1);
        }
    }
}
