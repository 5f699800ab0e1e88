//! The parts that go into a project, on the full screen: typing narrows them.

use super::PartLine;
use super::drawing::{put_line, too_small};
use super::terminal::Terminal;
use super::theme::Theme;
use crate::stop::Stop;
use crate::text::width::{cut, fit_width, wrap};
use crossterm::event::{Event, KeyCode, KeyModifiers, MouseEventKind};
use ratatui::Frame;
use ratatui::style::Style;
use ratatui::text::{Line, Span};
use std::time::Duration;
use unicode_width::UnicodeWidthStr;

/// How long it is waited for a key before the screen is drawn again.
const WAIT: Duration = Duration::from_secs(60);

/// Lets the user pick a part; returns its index. `others` says which parts do not go into the project.
pub fn pick(parts: &[PartLine], others: &str) -> Result<usize, Stop> {
    let mut terminal = Terminal::open()?;
    let theme = Theme::of_terminal();
    let (mut words, mut at) = (String::new(), 0_usize);
    loop {
        let lower = words.to_lowercase();
        let is_left = |at: &usize| {
            let text = format!("{} {}", parts[*at].name, parts[*at].summary).to_lowercase();
            lower.split_whitespace().all(|word| text.contains(word))
        };
        let left: Vec<usize> = (0..parts.len()).filter(is_left).collect();
        at = at.min(left.len().saturating_sub(1));
        terminal.draw(|frame| draw(frame, theme, parts, (&left, at), &words, others))?;
        let key = match terminal.event(WAIT)? {
            Some(Event::Key(key)) => key,
            Some(Event::Mouse(mouse)) => {
                match mouse.kind {
                    MouseEventKind::ScrollDown => at += 1,
                    MouseEventKind::ScrollUp => at = at.saturating_sub(1),
                    _ => {}
                }
                continue;
            }
            _ => continue,
        };
        match key.code {
            KeyCode::Esc => return Err(Stop::Left),
            KeyCode::Enter => {
                if let Some(part) = left.get(at) {
                    return Ok(*part);
                }
            }
            KeyCode::Up => at = at.saturating_sub(1),
            KeyCode::Down => at += 1,
            KeyCode::Home => at = 0,
            KeyCode::End => at = left.len(),
            KeyCode::Backspace => drop(words.pop()),
            KeyCode::Char('u') if key.modifiers.contains(KeyModifiers::CONTROL) => words.clear(),
            KeyCode::Char(c) if !key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT) => {
                words.push(c);
            }
            _ => {}
        }
    }
}

fn draw(
    frame: &mut Frame<'_>,
    theme: Theme,
    parts: &[PartLine],
    (left, at): (&[usize], usize),
    words: &str,
    others: &str,
) {
    let area = frame.area();
    if too_small(frame) {
        return;
    }
    let width = usize::from(area.width);
    let names = parts.iter().map(|part| part.name.width()).max().unwrap_or(0).min(width / 2);
    let mut lines = vec![
        Line::from(vec![
            Span::styled("Choose a part", theme.bold()),
            Span::styled(format!("  {} of {}", left.len(), parts.len()), theme.faint()),
        ]),
        Line::from(vec![
            Span::styled("Narrow: ", theme.bold()),
            Span::styled(words.to_owned(), theme.accent()),
        ]),
        Line::default(),
    ];
    let others = wrap(others, width.saturating_sub(2));
    let room = usize::from(area.height).saturating_sub(5 + others.len()).max(1);
    for (number, part) in left.iter().enumerate().skip((at + 1).saturating_sub(room)).take(room) {
        let part = &parts[*part];
        let mark = if number == at { "▸ " } else { "  " };
        let style = if number == at { theme.accent() } else { Style::new() };
        lines.push(Line::from(vec![
            Span::styled(mark, theme.accent()),
            Span::styled(fit_width(&part.name, names), style),
            Span::styled(format!("  {}", cut(&part.summary, width.saturating_sub(names + 4))), theme.faint()),
        ]));
    }
    lines.push(Line::default());
    lines.extend(others.into_iter().map(|line| Line::styled(line, theme.faint())));
    for (line, y) in lines.iter().zip(area.top()..area.bottom()) {
        put_line(frame, area, y, line);
    }
    let keys = Line::styled("Up Down move   Enter takes it   typing narrows   Esc leaves", theme.faint());
    put_line(frame, area, area.bottom().saturating_sub(1), &keys);
    let column = u16::try_from(8 + words.width()).unwrap_or(0).min(area.width.saturating_sub(1));
    frame.set_cursor_position((area.x + column, area.y + 1));
}
