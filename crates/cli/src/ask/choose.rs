//! Choosing a mold on a full screen: typing narrows at once, and what is chosen is described beside the list.

use super::Stop;
use crate::commands::find::cut;
use crate::given;
use crate::show::{grouped, safe, size};
use crossterm::event::{Event, KeyCode, KeyEvent, KeyEventKind, KeyModifiers, read};
use crossterm::execute;
use crossterm::terminal::{EnterAlternateScreen, LeaveAlternateScreen, disable_raw_mode, enable_raw_mode};
use ratatui::Terminal;
use ratatui::backend::CrosstermBackend;
use ratatui::layout::{Constraint, Layout, Rect};
use ratatui::style::{Color, Modifier, Style};
use ratatui::text::{Line, Span, Text};
use ratatui::widgets::{Paragraph, Wrap};
use std::io::{Stderr, stderr};
use tinmold_core::shelf::{Choosing, Entry, Narrowing, Release, age_of_day};

/// From so many columns on a list has room for what its molds give.
const WIDE: usize = 80;

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

    fn accent(&self) -> Style {
        if self.coloured { Style::new().fg(Color::Cyan) } else { Style::new().add_modifier(Modifier::BOLD) }
    }

    fn faint(&self) -> Style {
        if self.coloured { Style::new().add_modifier(Modifier::DIM) } else { Style::new() }
    }

    fn draw(&self, frame: &mut ratatui::Frame<'_>, choosing: &Choosing) {
        let [head, find, only, _, body, keys] = Layout::vertical([
            Constraint::Length(1),
            Constraint::Length(1),
            Constraint::Length(1),
            Constraint::Length(1),
            Constraint::Min(1),
            Constraint::Length(1),
        ])
        .areas(frame.area());
        let bold = Style::new().add_modifier(Modifier::BOLD);
        let counted = if choosing.found() == choosing.all() {
            format!("  {} molds", grouped(choosing.all()))
        } else {
            format!("  {} of {} molds", grouped(choosing.found()), grouped(choosing.all()))
        };
        let title = vec![Span::styled("Choose a mold", bold), Span::styled(counted, self.faint())];
        frame.render_widget(Line::from(title), head);
        let typed = vec![Span::styled("Find: ", bold), Span::styled(safe(choosing.text()), self.accent())];
        if matches!(self.focus, Focus::List) {
            let typed = Line::from(typed.clone()).width();
            frame.set_cursor_position((
                find.x + u16::try_from(typed).unwrap_or(0).min(find.width.saturating_sub(1)),
                find.y,
            ));
        }
        frame.render_widget(Line::from(typed), find);
        let narrowed = choosing.narrowed();
        let chips = narrowed.iter().map(|(by, value)| format!("{} {}", by.name(), safe(value)));
        let only_text = match chips.collect::<Vec<_>>().join(", ") {
            none if none.is_empty() => {
                "Words of its name, its language or what it gives; mistypings are forgiven".into()
            }
            all => format!("Only: {all} (Backspace takes the last away)"),
        };
        frame.render_widget(Span::styled(only_text, self.faint()), only);
        let [left, _, right] =
            Layout::horizontal([Constraint::Percentage(46), Constraint::Length(2), Constraint::Min(20)])
                .areas(body);
        match &self.focus {
            Focus::Narrow(levels) => self.draw_levels(frame, levels, left),
            _ => self.draw_list(frame, choosing, left),
        }
        self.draw_mold(frame, choosing, right);
        let help = match &self.focus {
            Focus::List => "Up and Down move, Enter takes, Left narrows, Right shows versions, Esc leaves",
            Focus::Narrow(_) => "Up and Down move, Enter takes, Right opens, Left goes back",
            Focus::Versions(_) => "Up and Down move, Enter takes this version, Left goes back",
        };
        frame.render_widget(Span::styled(help, self.faint()), keys);
    }

    /// A line of a list: marked if it is the chosen one, with something faint at its right end.
    fn line(&self, text: &str, end: &str, width: usize, is_chosen: bool) -> Line<'static> {
        self.row(text, "", end, (width, width), is_chosen)
    }

    /// The same with something faint between: the text is so wide, of so much in all.
    fn row(&self, text: &str, more: &str, end: &str, wide: (usize, usize), is_chosen: bool) -> Line<'static> {
        let mark = if is_chosen { "▸ " } else { "  " };
        let end = safe(end);
        let room = wide.1.saturating_sub(3 + end.chars().count());
        let style = if is_chosen { self.accent() } else { Style::new() };
        if wide.0 < room {
            let between = cut(more, room - wide.0 - 1);
            let text = Span::styled(format!("{mark}{} ", cut(text, wide.0)), style);
            return Line::from(vec![text, Span::styled(format!("{between} {end}"), self.faint())]);
        }
        let spans =
            vec![Span::styled(format!("{mark}{} ", cut(text, room)), style), Span::styled(end, self.faint())];
        Line::from(spans)
    }

    fn draw_list(&self, frame: &mut ratatui::Frame<'_>, choosing: &Choosing, area: Rect) {
        let (width, height) = (usize::from(area.width), usize::from(area.height));
        if choosing.found() == 0 {
            let none = "No mold matches. Fewer words find more; Ctrl-U clears them.";
            frame.render_widget(Paragraph::new(none).wrap(Wrap { trim: true }), area);
            return;
        }
        // The list stands in pages, so that what one looks at does not creep.
        let height = height.max(2) - 1;
        let first = choosing.at() / height * height;
        let mut lines: Vec<Line<'_>> = Vec::new();
        let shown = first..(first + height).min(choosing.found());
        let names =
            shown.clone().filter_map(|at| Some(choosing.mold(at).ok()?.1.name.len())).max().unwrap_or(0);
        let names = names.min(width / 2);
        for at in shown {
            let is_chosen = at == choosing.at();
            let line = match choosing.mold(at) {
                Ok((_, mold)) => {
                    let facets =
                        || mold.language.iter().chain(&mold.kind).cloned().collect::<Vec<_>>().join(" ");
                    let more = if width >= WIDE { mold.summary.clone() } else { facets() };
                    let end = if choosing.is_recent(at) {
                        "used lately".to_owned()
                    } else {
                        age_of_day(&mold.newest().released, &self.today).unwrap_or_default()
                    };
                    self.row(&mold.name, &more, &end, (names, width), is_chosen)
                }
                Err(error) => self.line(&error.to_string(), "", width, is_chosen),
            };
            lines.push(line);
        }
        frame.render_widget(Paragraph::new(lines), area);
        let last = (first + height).min(choosing.found());
        let place = format!("  {} to {} of {}", grouped(first + 1), grouped(last), grouped(choosing.found()));
        let foot = Rect { y: area.y + area.height - 1, height: 1, ..area };
        frame.render_widget(Span::styled(place, self.faint()), foot);
    }

    fn draw_levels(&self, frame: &mut ratatui::Frame<'_>, levels: &[Level], area: Rect) {
        let Some(level) = levels.last() else { return };
        let titles: Vec<&str> = levels.iter().map(|level| level.title.as_str()).collect();
        let bold = Style::new().add_modifier(Modifier::BOLD);
        let mut lines = vec![Line::styled(cut(&titles.join(" "), area.width.into()), bold)];
        let height = usize::from(area.height).saturating_sub(1).max(1);
        let first = level.at / height * height;
        for (at, choice) in level.lines.iter().enumerate().skip(first).take(height) {
            let name = choice.value.as_deref().unwrap_or(choice.by.name());
            lines.push(self.line(name, &choice.text, area.width.into(), at == level.at));
        }
        frame.render_widget(Paragraph::new(lines), area);
    }

    fn draw_mold(&self, frame: &mut ratatui::Frame<'_>, choosing: &Choosing, area: Rect) {
        let Ok((shelf, mold)) = choosing.mold(choosing.at()) else { return };
        let bold = Style::new().add_modifier(Modifier::BOLD);
        let newest = mold.newest();
        let mut lines = vec![
            Line::from(vec![
                Span::styled(safe(&mold.name), bold),
                Span::raw(format!(" {}", safe(&newest.version.to_string()))),
            ]),
            Line::raw(safe(&mold.summary)),
            Line::styled(facts(&mold, shelf), self.faint()),
        ];
        let versions = |at: Option<usize>, most: usize| {
            let mut lines = vec![Line::default(), Line::styled("Versions", bold)];
            let first = at.map_or(0, |at| at.saturating_sub(most.saturating_sub(1)));
            for (number, release) in mold.versions.iter().enumerate().skip(first).take(most) {
                let text = self.release(release);
                lines.push(self.line(
                    &release.version.to_string(),
                    &text,
                    usize::from(area.width).min(44),
                    at == Some(number),
                ));
            }
            if mold.versions.len() > first + most {
                lines.push(Line::styled(
                    format!("  and {} older", mold.versions.len() - first - most),
                    self.faint(),
                ));
            }
            lines
        };
        let room = usize::from(area.height);
        match self.focus {
            Focus::Versions(at) => lines.extend(versions(Some(at), room.saturating_sub(8).max(3))),
            _ => {
                if !mold.asks.is_empty() {
                    lines.push(Line::default());
                    lines.push(Line::styled("It asks", bold));
                    lines.extend(mold.asks.iter().map(|ask| Line::raw(format!("  {}", safe(ask)))));
                }
                lines.extend(versions(None, 3));
            }
        }
        frame.render_widget(Paragraph::new(Text::from(lines)).wrap(Wrap { trim: false }), area);
    }

    fn release(&self, release: &Release) -> String {
        let age = age_of_day(&release.released, &self.today);
        let facts =
            [age.unwrap_or_default(), if release.size > 0 { size(release.size) } else { String::new() }];
        facts.iter().filter(|fact| !fact.is_empty()).cloned().collect::<Vec<_>>().join(", ")
    }
}

/// Languages, kinds, tags, owner and shelf in a line.
fn facts(mold: &Entry, shelf: &str) -> String {
    let lists = [&mold.language, &mold.kind, &mold.tags].map(|list| list.join(", "));
    let owner = if mold.owner.is_empty() { String::new() } else { format!("by {}", mold.owner) };
    let all = lists.into_iter().chain([owner, format!("on {shelf}")]);
    safe(&all.filter(|fact| !fact.is_empty()).collect::<Vec<_>>().join("; "))
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
