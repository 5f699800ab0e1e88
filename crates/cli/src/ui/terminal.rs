//! The full screen: taken over, given back whatever happens, and its events.

use crate::interrupt::{self, Held};
use crate::stop::Stop;
use crossterm::event::{
    self, DisableBracketedPaste, DisableMouseCapture, EnableBracketedPaste, EnableMouseCapture, Event,
    KeyCode, KeyEvent, KeyEventKind, KeyModifiers,
};
use crossterm::terminal::{EnterAlternateScreen, LeaveAlternateScreen, disable_raw_mode, enable_raw_mode};
use crossterm::{cursor, execute};
use ratatui::Frame;
use ratatui::backend::CrosstermBackend;
use std::io::{BufWriter, Stderr, stderr};
use std::sync::Once;
use std::time::{Duration, Instant};
use tinmold_platform::terminal::{Waited, wait_for_input};

/// The shortest time that the library looks for events, among them those that it has read already.
const BLINK: Duration = Duration::from_millis(1);
/// How often it is looked whether the program is to end.
const LOOK_EVERY: Duration = Duration::from_millis(200);

/// The full screen, until it is dropped.
pub struct Terminal {
    inner: ratatui::Terminal<CrosstermBackend<BufWriter<Stderr>>>,
    _held: Held,
}

impl Terminal {
    /// Takes the screen over.
    pub fn open() -> Result<Self, Stop> {
        // A panic must not leave the terminal as it is here.
        static HOOK: Once = Once::new();
        HOOK.call_once(|| {
            let before = std::panic::take_hook();
            std::panic::set_hook(Box::new(move |panic| {
                restore();
                before(panic);
            }));
        });
        let held = Held::new();
        enter().map_err(Stop::Terminal)?;
        let inner = ratatui::Terminal::new(CrosstermBackend::new(whole_frames())).map_err(|error| {
            restore();
            Stop::Terminal(error)
        })?;
        Ok(Self { inner, _held: held })
    }

    /// Draws the screen.
    pub fn draw(&mut self, draw: impl FnOnce(&mut Frame<'_>)) -> Result<(), Stop> {
        self.inner.draw(draw).map(|_| ()).map_err(Stop::Terminal)
    }

    /// Returns columns and rows.
    pub fn size(&self) -> (u16, u16) {
        self.inner.size().map_or((80, 24), |size| (size.width, size.height))
    }

    /// Waits for the next event; `None` if there is none for so long. Ctrl-C and a signal to end stop it; Ctrl-Z
    /// gives the terminal back until the program is called on again.
    pub fn event(&mut self, wait: Duration) -> Result<Option<Event>, Stop> {
        let end = Instant::now() + wait;
        loop {
            if interrupt::is_ended() {
                return Err(Stop::Interrupted);
            }
            if interrupt::is_stopped() {
                self.suspend()?;
                return Ok(Some(self.redraw()));
            }
            // Of a terminal that was closed, the library that reads keys never learns.
            if wait_for_input(Duration::ZERO).map_err(Stop::Terminal)? == Waited::Lost {
                return Err(Stop::Interrupted);
            }
            if event::poll(BLINK).map_err(Stop::Terminal)? {
                let event = event::read().map_err(Stop::Terminal)?;
                match event {
                    Event::Key(key) if key.kind == KeyEventKind::Release => {}
                    Event::Key(key) if is_control(key, 'c') => return Err(Stop::Interrupted),
                    Event::Key(key) if is_control(key, 'z') && cfg!(unix) => {
                        self.suspend()?;
                        return Ok(Some(self.redraw()));
                    }
                    other => return Ok(Some(other)),
                }
                continue;
            }
            let left = end.saturating_duration_since(Instant::now());
            if left.is_zero() {
                return Ok(None);
            }
            if cfg!(unix) {
                wait_for_input(left.min(LOOK_EVERY)).map_err(Stop::Terminal)?;
            } else {
                event::poll(left.min(LOOK_EVERY)).map_err(Stop::Terminal)?;
            }
        }
    }

    /// Gives the terminal back while `work` runs.
    pub fn aside<T>(&mut self, work: impl FnOnce() -> T) -> Result<T, Stop> {
        restore();
        let done = work();
        enter().map_err(Stop::Terminal)?;
        // A new one knows of nothing that is drawn, and asks the terminal nothing.
        self.inner = ratatui::Terminal::new(CrosstermBackend::new(whole_frames())).map_err(Stop::Terminal)?;
        Ok(done)
    }

    /// Returns the event after which everything is drawn anew.
    fn redraw(&self) -> Event {
        let (columns, rows) = self.size();
        Event::Resize(columns, rows)
    }

    fn suspend(&mut self) -> Result<(), Stop> {
        self.aside(interrupt::suspend)
    }
}

impl Drop for Terminal {
    fn drop(&mut self) {
        restore();
    }
}

/// Returns true for this letter with the control key.
pub fn is_control(key: KeyEvent, letter: char) -> bool {
    key.modifiers.contains(KeyModifiers::CONTROL) && key.code == KeyCode::Char(letter)
}

/// Returns a writer that holds a frame until all of it is drawn.
fn whole_frames() -> BufWriter<Stderr> {
    BufWriter::with_capacity(1 << 16, stderr())
}

fn enter() -> std::io::Result<()> {
    enable_raw_mode()?;
    let entered = execute!(stderr(), EnterAlternateScreen, EnableBracketedPaste, EnableMouseCapture);
    if entered.is_err() {
        restore();
    }
    entered
}

fn restore() {
    let restored =
        execute!(stderr(), DisableMouseCapture, DisableBracketedPaste, LeaveAlternateScreen, cursor::Show);
    if let Err(error) = disable_raw_mode().and(restored) {
        tracing::warn!(%error, "cannot restore the terminal");
    }
}
