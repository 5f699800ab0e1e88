//! Choosing a mold on a full screen: typing narrows at once, and what is chosen is described beside the list.

mod drawing;

use super::Stop;
use crate::given;
use crate::show::{grouped, safe};
use crossterm::event::{Event, KeyCode, KeyEvent, KeyEventKind, KeyModifiers, read};
use crossterm::execute;
use crossterm::terminal::{EnterAlternateScreen, LeaveAlternateScreen, disable_raw_mode, enable_raw_mode};
use ratatui::Terminal;
use ratatui::backend::CrosstermBackend;
use std::io::{Stderr, stderr};
use tinmold_core::shelf::{Choosing, Narrowing};

/// What has the keys.
enum Focus {
    /// The list of molds, and the words that are typed.
    List,
    /// The values to narrow by: what is open, and which line is chosen at each level.
    Narrow(Vec<Level>),
    /// The versions of the chosen mold: which one.
    Versions(usize),
}

/// A list of things to narrow by.
struct Level {
    title: String,
    lines: Vec<Choice>,
    at: usize,
}

/// One of them.
struct Choice {
    by: Narrowing,
    /// The value; none for the narrowing itself, which opens into its values.
    value: Option<String>,
    text: String,
}

/// The full screen, until it is dropped.
struct Screen(Terminal<CrosstermBackend<Stderr>>);

impl Screen {
    fn open() -> std::io::Result<Self> {
        // A panic must not leave the terminal as it is here.
        let before = std::panic::take_hook();
        std::panic::set_hook(Box::new(move |panic| {
            restore();
            before(panic);
        }));
        enable_raw_mode()?;
        execute!(stderr(), EnterAlternateScreen)?;
        Terminal::new(CrosstermBackend::new(stderr())).map(Self)
    }
}

impl Drop for Screen {
    fn drop(&mut self) {
        let _ = self.0.show_cursor();
        restore();
    }
}

fn restore() {
    let _ = disable_raw_mode();
    let _ = execute!(stderr(), LeaveAlternateScreen);
}

/// Lets the person choose; gives the address of what they take.
pub fn choose(choosing: &mut Choosing) -> Result<String, Stop> {
    let failed = |error: std::io::Error| Stop::Terminal(error.to_string());
    let mut screen = Screen::open().map_err(failed)?;
    let mut view = View { today: given::today(), coloured: coloured(), focus: Focus::List };
    loop {
        screen.0.draw(|frame| view.draw(frame, choosing)).map_err(failed)?;
        let key = match read().map_err(failed)? {
            Event::Key(key) if key.kind != KeyEventKind::Release => key,
            _ => continue,
        };
        if key.modifiers.contains(KeyModifiers::CONTROL) && key.code == KeyCode::Char('c') {
            return Err(Stop::Interrupted);
        }
        let page = isize::try_from(screen.0.size().map_err(failed)?.height.saturating_sub(6)).unwrap_or(10);
        if let Some(taken) = view.press(key, choosing, page)? {
            return Ok(taken);
        }
    }
}

fn coloured() -> bool {
    anstream::AutoStream::choice(&stderr()) != anstream::ColorChoice::Never
}

struct View {
    today: String,
    coloured: bool,
    focus: Focus,
}

impl View {
    /// What a key does; an address once something is taken.
    fn press(&mut self, key: KeyEvent, choosing: &mut Choosing, page: isize) -> Result<Option<String>, Stop> {
        let control = key.modifiers.contains(KeyModifiers::CONTROL);
        let steps = match key.code {
            KeyCode::Up => Some(-1),
            KeyCode::Down => Some(1),
            KeyCode::PageUp => Some(-page),
            KeyCode::PageDown => Some(page),
            KeyCode::Home => Some(isize::MIN + 1),
            KeyCode::End => Some(isize::MAX),
            _ => None,
        };
        match &mut self.focus {
            Focus::List => match key.code {
                KeyCode::Esc => return Err(Stop::Left),
                KeyCode::Enter => return Ok(taken(choosing, None)),
                KeyCode::Left | KeyCode::Tab => self.focus = Focus::Narrow(vec![top(choosing)]),
                KeyCode::Right if choosing.found() > 0 => self.focus = Focus::Versions(0),
                KeyCode::Char('u') if control => choosing.set_text(""),
                KeyCode::Char(c) if !control => choosing.set_text(format!("{}{c}", choosing.text())),
                KeyCode::Backspace if choosing.text().is_empty() => {
                    if let Some((by, _)) = choosing.narrowed().last() {
                        choosing.narrow(*by, "");
                    }
                }
                KeyCode::Backspace => {
                    let mut text = choosing.text().to_owned();
                    text.pop();
                    choosing.set_text(text);
                }
                _ => choosing.step(steps.unwrap_or(0)),
            },
            Focus::Versions(at) => match key.code {
                KeyCode::Esc | KeyCode::Left => self.focus = Focus::List,
                KeyCode::Enter => return Ok(taken(choosing, Some(*at))),
                _ => {
                    let of = choosing.mold(choosing.at()).map_or(0, |(_, mold)| mold.versions.len());
                    *at = at.saturating_add_signed(steps.unwrap_or(0)).min(of.saturating_sub(1));
                }
            },
            Focus::Narrow(levels) => {
                let Some(level) = levels.last_mut() else { return Ok(None) };
                let chosen = level.lines.get(level.at);
                match key.code {
                    KeyCode::Esc | KeyCode::Left => {
                        levels.pop();
                        if levels.is_empty() {
                            self.focus = Focus::List;
                        }
                    }
                    KeyCode::Right => {
                        if let Some(opened) = chosen.and_then(|chosen| opened(choosing, chosen)) {
                            levels.push(opened);
                        }
                    }
                    KeyCode::Enter => match chosen {
                        Some(Choice { value: None, .. }) => {
                            if let Some(opened) = chosen.and_then(|chosen| opened(choosing, chosen)) {
                                levels.push(opened);
                            }
                        }
                        Some(_) => {
                            let all: Vec<(Narrowing, String)> = levels
                                .iter()
                                .filter_map(|level| level.lines.get(level.at))
                                .filter_map(|line| Some((line.by, line.value.clone()?)))
                                .collect();
                            all.iter().for_each(|(by, value)| choosing.narrow(*by, value));
                            self.focus = Focus::List;
                        }
                        None => {}
                    },
                    _ => {
                        let last = level.lines.len().saturating_sub(1);
                        level.at = level.at.saturating_add_signed(steps.unwrap_or(0)).min(last);
                    }
                }
            }
        }
        Ok(None)
    }
}

/// The address of what is chosen: its newest release unless a version is said.
fn taken(choosing: &Choosing, version: Option<usize>) -> Option<String> {
    let (shelf, mold) = choosing.mold(choosing.at()).ok()?;
    Some(match version.and_then(|at| mold.versions.get(at)) {
        Some(release) => mold.address(shelf, release),
        None if mold.newest().version.pre.is_empty() => format!("{shelf}/{}", mold.name),
        None => mold.address(shelf, mold.newest()),
    })
}

/// What can be narrowed by, with what it is narrowed to.
fn top(choosing: &Choosing) -> Level {
    let narrowed = choosing.narrowed();
    let value =
        |by: Narrowing| narrowed.iter().find(|(other, _)| *other == by).map(|(_, value)| value.clone());
    let line = |by: Narrowing| Choice { by, value: None, text: value(by).unwrap_or_default() };
    Level { title: "Narrow by".into(), lines: Narrowing::ALL.into_iter().map(line).collect(), at: 0 }
}

/// What a line opens into: a narrowing into its values, a language into the kinds that there are of it.
fn opened(choosing: &Choosing, chosen: &Choice) -> Option<Level> {
    let level = |by: Narrowing, title: String, values: Vec<(String, usize)>| {
        let line =
            |(value, number): (String, usize)| Choice { by, value: Some(value), text: grouped(number) };
        Level { title, lines: values.into_iter().map(line).collect(), at: 0 }
    };
    match &chosen.value {
        None => Some(level(chosen.by, chosen.by.name().into(), choosing.values(chosen.by))),
        Some(value) if chosen.by == Narrowing::Language => Some(level(
            Narrowing::Kind,
            safe(value),
            choosing.values_within(chosen.by, value, Narrowing::Kind),
        )),
        Some(_) => None,
    }
}
