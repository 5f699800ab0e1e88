//! The setup screen: every answer, and what it does to the project, seen before it is given.
//!
//! `board` holds the state; `rows` lists what stands in the form; `keys` and `choosing` change the state; `worker`
//! computes outcomes, effects and the destination on threads of their own; `draw` shows it all.

mod board;
mod choosing;
mod draw;
mod field;
mod job;
mod keys;
mod own_editor;
mod rows;
mod worker;

pub use job::{Choices, Decision, FILE_WAYS, InTheWay, Job, Left, Survey, VALUE_WAYS};

use super::terminal::Terminal;
use super::theme::Theme;
use crate::stop::Stop;
use board::{Asked, Board, Open, Side};
use crossterm::event::{Event, KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use draw::{Places, draw};
use keys::Act;
use std::sync::mpsc::{Receiver, Sender, channel};
use std::time::{Duration, Instant};
use tinmold_project::answers::SessionState;
use tinmold_project::setup::{Setup, draft_of};
use worker::{Found, Latest, Visit, Wish, forecasts, surveys};

/// The longest that a key waits for what it changes, before the screen is drawn without it.
const PATIENCE: Duration = Duration::from_millis(8);
/// How often it is looked for results while some are on their way.
const BUSY: Duration = Duration::from_millis(12);
/// How long results are looked for often, after something was wished for.
const SETTLED: Duration = Duration::from_secs(3);
/// The time without a key after which what the user gave is kept.
const REST: Duration = Duration::from_millis(700);

/// Lets the user set up until they write or leave. Returns the setup, and how it was left.
pub fn set_up<'m>(
    setup: Setup<'m>,
    job: &dyn Job,
    has_list: bool,
    details: bool,
) -> Result<(Setup<'m>, Left), Stop> {
    let latest = Latest::default();
    std::thread::scope(|threads| {
        let (wishes, wished) = channel();
        let (visits, visited) = channel();
        let (finds, found) = channel();
        let survey_finds = finds.clone();
        let newest = &latest;
        threads.spawn(move || forecasts(job, newest, &wished, &finds));
        threads.spawn(move || surveys(job, &visited, &survey_finds));
        let board = Board::new(setup, job, has_list, details);
        let screen = Screen {
            board,
            terminal: Terminal::open()?,
            theme: Theme::of_terminal(),
            latest: &latest,
            wishes,
            visits,
            found,
            places: Places::default(),
            visited: None,
            kept: None,
            wished: Instant::now(),
        };
        let result = screen.run();
        // What is still computed is of no use any more.
        latest.set(u64::MAX);
        result
    })
}

/// Says that a draft is kept.
pub fn kept_words(has_secret: bool) -> String {
    let secrets = if has_secret { ", without the secrets" } else { "" };
    format!("Your answers are kept{secrets}: the same command offers them again.")
}

/// The screen with its threads.
struct Screen<'m, 'j> {
    board: Board<'m, 'j>,
    terminal: Terminal,
    theme: Theme,
    latest: &'j Latest,
    wishes: Sender<Wish>,
    visits: Sender<Visit>,
    found: Receiver<Found>,
    places: Places,
    /// The answers and decisions for which the destination was looked at last.
    visited: Option<(SessionState, Choices)>,
    /// What was kept last.
    kept: Option<String>,
    /// When something was wished for last: results may be on their way.
    wished: Instant,
}

impl<'m> Screen<'m, '_> {
    fn run(mut self) -> Result<(Setup<'m>, Left), Stop> {
        if let Some(draft) = self.board.job.draft() {
            self.board.is_kept = true;
            self.board.open = Open::Asked(Asked::Draft(draft), 0);
        }
        let left = self.events();
        // A signal ended it, or a terminal that is gone and cannot be drawn on.
        if left.is_err() {
            // What stands in a pane is kept too.
            if let Open::Editor(lines) = self.board.open.clone() {
                self.board.finish_editor(&lines);
            }
            self.keep();
        }
        let is_kept =
            !matches!(left, Ok(Left::Write(_))) && self.board.setup.is_changed() && self.board.is_kept;
        drop(self.terminal);
        if is_kept {
            say!("{}", kept_words(self.board.has_secret()));
        }
        left.map(|left| (self.board.setup, left))
    }

    fn events(&mut self) -> Result<Left, Stop> {
        self.wish();
        self.show()?;
        let mut quiet_since = Instant::now();
        loop {
            let wait = if self.wished.elapsed() < SETTLED { BUSY } else { REST };
            let Some(event) = self.terminal.event(wait)? else {
                let mut is_new = self.receive(Duration::ZERO);
                if quiet_since.elapsed() >= REST {
                    is_new |= self.keep();
                    quiet_since = Instant::now();
                }
                if is_new {
                    self.show()?;
                }
                continue;
            };
            quiet_since = Instant::now();
            if let Some(left) = self.handle(event)? {
                return Ok(left);
            }
            self.board.refresh();
            self.wish();
            self.receive(PATIENCE);
            self.show()?;
        }
    }

    fn show(&mut self) -> Result<(), Stop> {
        let (board, theme, places) = (&self.board, self.theme, &mut self.places);
        self.terminal.draw(|frame| *places = draw(frame, board, theme))
    }

    /// Asks for what the screen shows now.
    fn wish(&mut self) {
        match self.board.wish() {
            Ok(wish) => {
                self.latest.set(wish.number);
                let choices = self.board.choices.clone();
                let state = (self.board.setup.session().state(), choices.clone());
                if self.visited.as_ref() != Some(&state) {
                    self.visited = Some(state);
                    let visit = Visit { number: wish.number, answers: wish.answers.clone(), choices };
                    self.visits.send(visit).ok();
                }
                // The threads end with the screen, not before it.
                self.wishes.send(wish).ok();
                self.wished = Instant::now();
            }
            Err(failure) => self.board.failure = Some(failure.lines()),
        }
    }

    /// Takes over what was found out, and waits so long for the rest of what is on the screen. Returns true if
    /// there was something.
    fn receive(&mut self, patience: Duration) -> bool {
        let end = Instant::now() + patience;
        let mut is_new = false;
        loop {
            let left = end.saturating_duration_since(Instant::now());
            let Ok(found) = self.found.recv_timeout(left) else { break };
            let is_last = match &found {
                Found::File(number, _) | Found::Failed(number, _) => *number == self.board.number,
                _ => false,
            };
            is_new |= self.board.take(found);
            if is_last && !patience.is_zero() {
                break;
            }
        }
        is_new
    }

    /// Keeps what the user gave for the next time; returns true if there was something new.
    fn keep(&mut self) -> bool {
        let draft = draft_of(&self.board.setup);
        let is_new = self.board.setup.is_changed() && self.kept != draft;
        if is_new {
            self.board.job.keep_draft(draft.as_deref());
            self.board.is_kept = draft.is_some();
            self.kept = draft;
        }
        is_new
    }

    fn handle(&mut self, event: Event) -> Result<Option<Left>, Stop> {
        let act = match event {
            Event::Key(key) => self.board.press(key, self.places.page),
            Event::Mouse(mouse) => self.click(mouse),
            Event::Paste(text) => {
                self.board.paste(&text);
                Act::Stay
            }
            _ => Act::Stay,
        };
        match act {
            Act::Stay => {}
            // Should the write fail, nothing is lost.
            Act::Write => {
                self.keep();
                return Ok(Some(Left::Write(Box::new(self.board.decision()))));
            }
            Act::Leave => {
                self.keep();
                return Ok(Some(Left::Back));
            }
            Act::LeaveForGood => {
                self.board.job.keep_draft(None);
                self.board.is_kept = false;
                return Ok(Some(Left::Back));
            }
            Act::DropDraft => {
                self.board.job.keep_draft(None);
                self.board.is_kept = false;
            }
            Act::OwnEditor => {
                if let Open::Editor(lines) = &self.board.open {
                    let text = lines.text();
                    match self.terminal.aside(|| own_editor::edited(&text))? {
                        Ok(text) => self.board.open = Open::Editor(field::Lines::new(&text)),
                        Err(error) => self.board.say_bad(error.to_string()),
                    }
                }
            }
        }
        Ok(None)
    }

    /// Handles the mouse: what a click or the wheel does, keys do too.
    fn click(&mut self, mouse: MouseEvent) -> Act {
        let press = |board: &mut Board<'_, '_>, code: KeyCode, page: usize| {
            board.press(KeyEvent::new(code, KeyModifiers::NONE), page)
        };
        self.board.is_touched = true;
        let is_asked = matches!(self.board.open, Open::Asked(..));
        let at = (mouse.column, mouse.row).into();
        let in_outcome = self.places.outcome_area.contains(at);
        match mouse.kind {
            MouseEventKind::ScrollDown if in_outcome => self.board.scroll_by(3),
            MouseEventKind::ScrollUp if in_outcome => self.board.scroll_by(-3),
            MouseEventKind::ScrollDown => return press(&mut self.board, KeyCode::Down, self.places.page),
            MouseEventKind::ScrollUp => return press(&mut self.board, KeyCode::Up, self.places.page),
            // What is asked is decided, not clicked away.
            MouseEventKind::Down(_) if is_asked => {}
            MouseEventKind::Down(MouseButton::Left) if in_outcome => self.board.side = Side::Outcome,
            MouseEventKind::Down(MouseButton::Left) if self.places.form_area.contains(at) => {
                self.board.side = Side::Form;
                let line = usize::from(mouse.row - self.places.form_area.y);
                let Some((row, option)) = self.places.form.get(line).copied() else { return Act::Stay };
                if !self.board.rows.get(row).is_some_and(rows::Row::takes_focus) {
                    return Act::Stay;
                }
                match (option, &self.board.open) {
                    (Some(option), Open::Options(_)) => {
                        self.board.open = Open::Options(option);
                        return press(&mut self.board, KeyCode::Char(' '), self.places.page);
                    }
                    _ if row == self.board.focus && self.board.open == Open::Nothing => {
                        return press(&mut self.board, KeyCode::Enter, self.places.page);
                    }
                    _ => self.board.go_to(row),
                }
            }
            _ => {}
        }
        Act::Stay
    }
}
