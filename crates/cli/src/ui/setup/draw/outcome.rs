//! Drawing what comes out: the tree, and the file under the cursor; or what a row of another kind is about.

use super::options::text_of;
use super::{Pane, preview, tree};
use crate::text::needs;
use crate::text::steps::consent;
use crate::text::style::plain;
use crate::text::width::{cut, wrap};
use crate::ui::drawing::put_line;
use crate::ui::setup::board::{Board, Side};
use crate::ui::setup::rows::Row;
use ratatui::Frame;
use ratatui::layout::Rect;
use ratatui::style::Style;
use ratatui::text::{Line, Span};
use tinmold_project::recast::Decided;
use tinmold_project::setup::Alternative;
use unicode_width::UnicodeWidthStr;

/// Draws the pane.
pub fn draw(frame: &mut Frame<'_>, board: &Board<'_, '_>, pane: Pane) {
    let lines = match board.row() {
        _ if board.failure.is_some() => {
            let all = board.failure.iter().flatten();
            let width = pane.width();
            let mut lines = vec![Line::styled("Nothing can be written with these answers", pane.theme.bad())];
            lines.extend(all.map(|line| Line::raw(cut(line, width))));
            lines
        }
        Row::Step(name) => step(board, pane, name),
        Row::Vouch => told(
            pane,
            "Vouch for this mold",
            "Its steps are then offered ticked, as long as the mold is exactly as it is now. Another version has to be vouched for anew.",
        ),
        Row::Need(tool) => need(board, pane, tool),
        Row::InTheWay(path) => in_the_way(board, pane, path),
        Row::Uncovered(path) => uncovered(board, pane, path),
        _ => return project(frame, board, pane),
    };
    let top = board.scroll.unwrap_or(0).min(lines.len().saturating_sub(1));
    put(frame, pane.area, &lines[top..]);
}

fn put(frame: &mut Frame<'_>, area: Rect, lines: &[Line<'static>]) {
    for (line, y) in lines.iter().zip(area.top()..area.bottom()) {
        put_line(frame, area, y, line);
    }
}

fn told(pane: Pane, title: &str, text: &str) -> Vec<Line<'static>> {
    let mut lines = vec![Line::styled(cut(title, pane.width()), pane.theme.bold()), Line::default()];
    lines.extend(wrap(text, pane.width()).into_iter().map(Line::raw));
    lines
}

/// Says all that a step runs.
fn step(board: &Board<'_, '_>, pane: Pane, name: &str) -> Vec<Line<'static>> {
    let Some((step, ticked, lacks)) = board.step_named(name) else { return Vec::new() };
    let word =
        if ticked { "It runs after the project is written:" } else { "It does not run. If ticked, it runs:" };
    let mut lines = told(pane, &step.label, word);
    lines.push(Line::default());
    for line in consent(step) {
        let line = plain(&line);
        let indent = line.len() - line.trim_start().len();
        for part in wrap(&line, pane.width().saturating_sub(indent + 2)) {
            lines.push(Line::raw(format!("  {}{part}", " ".repeat(indent))));
        }
    }
    if let Some(tool) = lacks {
        lines.push(Line::default());
        let text = format!("! This machine lacks {tool}, so that it is not ticked by itself.");
        lines.extend(
            wrap(&text, pane.width()).into_iter().map(|line| Line::styled(line, pane.theme.changed())),
        );
    }
    let choice = board.survey.as_ref().and_then(|survey| survey.steps.as_ref());
    if let Some(choice) = choice.filter(|choice| !choice.vouched) {
        lines.push(Line::default());
        let text = match choice.is_own {
            true => format!(
                "You have not vouched for these steps: they come from {}. A tick is your yes, this once. Digest {}",
                choice.origin, choice.digest
            ),
            false => format!(
                "This project was not cast on this machine: its own files run. A tick is your yes, this once. Digest {}",
                choice.digest
            ),
        };
        lines.extend(
            wrap(&text, pane.width()).into_iter().map(|line| Line::styled(line, pane.theme.changed())),
        );
    }
    lines
}

fn need(board: &Board<'_, '_>, pane: Pane, tool: &str) -> Vec<Line<'static>> {
    let Some((need, probe)) = board.need(tool) else { return Vec::new() };
    let why = if need.why.is_empty() { String::new() } else { format!("It is for: {}\n\n", need.why) };
    let text = format!("{why}{}\n\nThe project can be written without it.", needs::line(need, probe));
    told(pane, &format!("{tool}: {}", needs::word(&probe.verdict)), &text)
}

fn in_the_way(board: &Board<'_, '_>, pane: Pane, path: &str) -> Vec<Line<'static>> {
    let Some(file) = board.in_the_way(path) else { return Vec::new() };
    let name = path.rsplit('/').next().unwrap_or(path);
    let both = format!(" To keep both writes the new one beside yours, as {name}.from-mold.");
    let both = if file.ways.contains(&Decided::Aside) { both.as_str() } else { "" };
    let own = if file.text.is_some() { " e writes a text of your own." } else { "" };
    let mut lines = told(pane, path, &format!("Lines with − are yours, lines with + are new.{both}{own}"));
    lines.push(Line::default());
    for line in &file.lines {
        let (sign, rest) = line.split_at(line.char_indices().nth(1).map_or(line.len(), |(at, _)| at));
        let (sign, style) = match sign {
            "-" => ("−", pane.theme.removed()),
            "+" => ("+", pane.theme.added()),
            other => (other, Style::new()),
        };
        lines.push(Line::styled(cut(&format!("{sign}{rest}"), pane.width()), style));
    }
    lines
}

fn uncovered(board: &Board<'_, '_>, pane: Pane, path: &str) -> Vec<Line<'static>> {
    let Some(one) = board.uncovered(path) else { return Vec::new() };
    let next = match &one.line {
        Some(line) => format!(
            "With this line it is kept out:\n\n{}: {}\n\nNothing is written without it.",
            line.file, line.line
        ),
        None => "Nothing is written before that is settled.".to_owned(),
    };
    told(pane, path, &format!("It is for this machine only and {}. {next}", one.into))
}

/// Draws the tree, and below it the file under the cursor.
fn project(frame: &mut Frame<'_>, board: &Board<'_, '_>, pane: Pane) {
    let theme = pane.theme;
    let (title, lines) = match board.effect() {
        Some((one, effect)) => {
            let total = board.outcome.as_ref().map_or(0, |outcome| outcome.count());
            let (added, ..) = effect.counts();
            let stay = total.saturating_sub(effect.files.len() - added);
            let changed = match effect.files.is_empty() {
                true => "no file changes".to_owned(),
                false => format!("{stay} as before"),
            };
            (format!("{}: {changed}", taking(board, &one)), tree::changes(board, pane, effect))
        }
        None => ("What comes out".to_owned(), tree::whole(board, pane)),
    };
    let head = Line::styled(cut(&title, pane.width()), theme.bold());
    put_line(frame, pane.area, pane.area.y, &head);
    if board.outcome.is_none() {
        put(frame, below(pane.area, 1), &[Line::styled("  …", theme.faint())]);
        return;
    }
    let page = board.shown.as_ref().map(|shown| preview::page(shown, pane));
    // The tree gives way to the file down to two fifths of the pane.
    let rest = page.as_ref().map_or(0, |page| page.len() + 1);
    let room = pane.height().saturating_sub(1);
    let most = room.saturating_sub(rest).max(room * 2 / 5).max(3).min(room);
    let height = lines.len().min(most);
    let here = board
        .shown
        .as_ref()
        .and_then(|shown| lines.iter().position(|line| line.path.as_deref() == Some(shown.path.as_str())));
    let top = here.unwrap_or(0).saturating_sub(height / 2).min(lines.len() - height.min(lines.len()));
    let hidden = lines.len() - top - height;
    let mut drawn: Vec<Line<'static>> =
        lines.into_iter().skip(top).take(height).map(|line| line.line).collect();
    if let Some(last) = drawn.last_mut().filter(|_| hidden > 0) {
        *last = Line::styled(format!("  … {} more", hidden + 1), theme.faint());
    }
    put(frame, Rect { height: height as u16, ..below(pane.area, 1) }, &drawn);
    let (Some(shown), Some(page)) = (&board.shown, page) else { return };
    let rest = below(pane.area, 1 + height as u16);
    let name = cut(&shown.path, pane.width().saturating_sub(6));
    let rule = "─".repeat(pane.width().saturating_sub(name.width() + 4));
    let style = if board.side == Side::Outcome { theme.accent() } else { theme.faint() };
    let line = Line::from(vec![
        Span::styled("── ", style),
        Span::styled(name, if board.side == Side::Outcome { theme.accent() } else { theme.bold() }),
        Span::styled(format!(" {rule}"), style),
    ]);
    put(frame, rest, &[line]);
    let rest = below(rest, 1);
    let height = usize::from(rest.height);
    let last = page.len().saturating_sub(height);
    let top = board.scroll.map_or(page.first, |scroll| page.first + scroll).min(last);
    put(frame, rest, &page.lines(top, height));
}

fn below(area: Rect, lines: u16) -> Rect {
    let lines = lines.min(area.height);
    Rect { y: area.y + lines, height: area.height - lines, ..area }
}

/// Says which option the tree is about.
fn taking(board: &Board<'_, '_>, one: &Alternative) -> String {
    let label = board.question().map_or_else(String::new, |question| text_of(board, question, one).0);
    if one.taken { format!("Without {label}") } else { format!("With {label}") }
}
