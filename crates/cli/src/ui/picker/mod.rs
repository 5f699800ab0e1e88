//! The mold picker on a full screen: typing narrows the list at once, and the selected mold is
//! described beside it.

use super::terminal::Terminal;
use super::theme::Theme;
use crate::stop::Stop;
use crate::text::style::{grouped, safe};
use crossterm::event::{Event, KeyCode, KeyEvent, KeyModifiers, MouseEventKind};
use std::time::Duration;
use tinmold_project::answers::BuiltIns;
use tinmold_shelf::{Facet, Picker};

mod drawing;

/// The part of the screen that has the focus.
enum Focus {
    /// The list of molds, and the words that are typed.
    List,
    /// The values to narrow by: what is open, and which line is chosen at each level.
    Narrow(Vec<Level>),
    /// The versions of the chosen mold: which one.
    Versions(usize),
}

/// A list of filters.
struct Level {
    title: String,
    lines: Vec<Choice>,
    at: usize,
}

/// One of them.
struct Choice {
    by: Facet,
    /// The value; none for the narrowing itself, which opens into its values.
    value: Option<String>,
    text: String,
}

/// Lets the user choose; returns the address of the chosen mold.
pub fn pick(picker: &mut Picker) -> Result<String, Stop> {
    let mut terminal = Terminal::open()?;
    let mut view =
        View { today: BuiltIns::of_system(None).today, theme: Theme::of_terminal(), focus: Focus::List };
    loop {
        terminal.draw(|frame| view.draw(frame, picker))?;
        let key = match terminal.event(WAIT)? {
            Some(Event::Key(key)) => key,
            Some(Event::Paste(text)) => {
                let words = text.split_whitespace().collect::<Vec<_>>().join(" ");
                picker.set_text(format!("{}{words}", picker.text()));
                continue;
            }
            Some(Event::Mouse(mouse)) => {
                picker.step(match mouse.kind {
                    MouseEventKind::ScrollDown => 1,
                    MouseEventKind::ScrollUp => -1,
                    _ => 0,
                });
                continue;
            }
            _ => continue,
        };
        let page = isize::try_from(terminal.size().1.saturating_sub(6)).unwrap_or(10);
        if let Some(taken) = view.press(key, picker, page)? {
            return Ok(taken);
        }
    }
}

/// How long it is waited for a key before the screen is drawn again.
const WAIT: Duration = Duration::from_secs(60);

struct View {
    today: String,
    theme: Theme,
    focus: Focus,
}

impl View {
    /// Handles a key; returns an address once a mold is chosen.
    fn press(&mut self, key: KeyEvent, picker: &mut Picker, page: isize) -> Result<Option<String>, Stop> {
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
                KeyCode::Enter => return Ok(taken(picker, None)),
                KeyCode::Left | KeyCode::Tab => self.focus = Focus::Narrow(vec![top(picker)]),
                KeyCode::Right if picker.found() > 0 => self.focus = Focus::Versions(0),
                KeyCode::Char('u') if control => picker.set_text(""),
                KeyCode::Char(c) if !control => picker.set_text(format!("{}{c}", picker.text())),
                KeyCode::Backspace if picker.text().is_empty() => {
                    if let Some((by, _)) = picker.narrowed().last() {
                        picker.narrow(*by, "");
                    }
                }
                KeyCode::Backspace => {
                    let mut text = picker.text().to_owned();
                    text.pop();
                    picker.set_text(text);
                }
                _ => picker.step(steps.unwrap_or(0)),
            },
            Focus::Versions(at) => match key.code {
                KeyCode::Esc | KeyCode::Left => self.focus = Focus::List,
                KeyCode::Enter => return Ok(taken(picker, Some(*at))),
                _ => {
                    let of = picker.mold(picker.at()).map_or(0, |(_, mold)| mold.versions.len());
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
                        if let Some(opened) = chosen.and_then(|chosen| opened(picker, chosen)) {
                            levels.push(opened);
                        }
                    }
                    KeyCode::Enter => match chosen {
                        Some(Choice { value: None, .. }) => {
                            if let Some(opened) = chosen.and_then(|chosen| opened(picker, chosen)) {
                                levels.push(opened);
                            }
                        }
                        Some(_) => {
                            let all: Vec<(Facet, String)> = levels
                                .iter()
                                .filter_map(|level| level.lines.get(level.at))
                                .filter_map(|line| Some((line.by, line.value.clone()?)))
                                .collect();
                            all.iter().for_each(|(by, value)| picker.narrow(*by, value));
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

/// Returns the address of the selected mold: its newest release unless a version is chosen.
fn taken(picker: &Picker, version: Option<usize>) -> Option<String> {
    let (shelf, mold) = picker.mold(picker.at()).ok()?;
    Some(match version.and_then(|at| mold.versions.get(at)) {
        Some(release) => mold.address(shelf, release),
        None if mold.newest().version.pre.is_empty() => format!("{shelf}/{}", mold.name),
        None => mold.address(shelf, mold.newest()),
    })
}

/// Returns the facets, with their filters.
fn top(picker: &Picker) -> Level {
    let narrowed = picker.narrowed();
    let value = |by: Facet| narrowed.iter().find(|(other, _)| *other == by).map(|(_, value)| value.clone());
    let line = |by: Facet| Choice { by, value: None, text: value(by).unwrap_or_default() };
    Level { title: "Narrow by".into(), lines: Facet::ALL.into_iter().map(line).collect(), at: 0 }
}

/// Returns what a line expands to: a facet into its values, a language into its kinds.
fn opened(picker: &Picker, chosen: &Choice) -> Option<Level> {
    let level = |by: Facet, title: String, values: Vec<(String, usize)>| {
        let line =
            |(value, number): (String, usize)| Choice { by, value: Some(value), text: grouped(number) };
        Level { title, lines: values.into_iter().map(line).collect(), at: 0 }
    };
    match &chosen.value {
        None => Some(level(chosen.by, chosen.by.name().into(), picker.values(chosen.by))),
        Some(value) if chosen.by == Facet::Language => {
            Some(level(Facet::Kind, safe(value), picker.values_within(chosen.by, value, Facet::Kind)))
        }
        Some(_) => None,
    }
}
