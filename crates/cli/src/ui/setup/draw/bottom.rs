//! The lines at the bottom: what is said, the facts, and the keys that work here.

use super::Pane;
use super::keys::keys_of;
use crate::text::needs;
use crate::text::style::{count, safe, size};
use crate::text::width::cut;
use crate::ui::drawing::put_line;
use crate::ui::setup::board::Board;
use ratatui::Frame;
use ratatui::style::Style;
use ratatui::text::{Line, Span};
use tinmold_project::preflight::Verdict;
use unicode_width::UnicodeWidthStr;

/// Draws what is said of the last key.
pub fn notice(frame: &mut Frame<'_>, board: &Board<'_, '_>, pane: Pane) {
    let style = if board.notice.is_bad { pane.theme.bad() } else { pane.theme.accent() };
    let sign = if board.notice.is_bad { "! " } else { "" };
    let text = cut(&format!("{sign}{}", board.notice.text), pane.width());
    put_line(frame, pane.area, pane.area.y, &Line::styled(text, style));
}

/// Draws the size of the project, the tools, and the steps that will run.
pub fn facts(frame: &mut Frame<'_>, board: &Board<'_, '_>, pane: Pane) {
    let mut facts: Vec<Span<'static>> = Vec::new();
    let mut add = |text: String, style| {
        if !facts.is_empty() {
            facts.push(Span::styled(" · ", pane.theme.faint()));
        }
        facts.push(Span::styled(text, style));
    };
    let plain = pane.theme.faint();
    match &board.outcome {
        Some(outcome) => add(format!("{}, {}", count(outcome.count(), "file"), size(outcome.bytes())), plain),
        None => add("…".to_owned(), plain),
    }
    let open = board.setup.unusable().len();
    if open > 0 {
        add(format!("{} needed", count(open, "answer")), pane.theme.bad());
    }
    match &board.needs {
        Some(needs) => {
            for (need, probe) in needs {
                let version = probe.found.as_ref().and_then(|found| found.version.as_ref());
                let version = version.map_or_else(String::new, |version| format!(" {version}"));
                match &probe.verdict {
                    Verdict::Fine | Verdict::Unknown => {
                        add(format!("{}{version} ok", safe(&need.tool)), plain);
                    }
                    verdict => {
                        add(format!("{} {}", safe(&need.tool), needs::word(verdict)), pane.theme.changed());
                    }
                }
            }
        }
        None => add("tools …".to_owned(), plain),
    }
    let steps = board.steps();
    if !steps.is_empty() {
        let ticked = steps.iter().filter(|(_, ticked, _)| *ticked).count();
        add(format!("{} will run", count(ticked, "step")), plain);
    }
    let line = cut_line(facts, pane.width(), pane.theme.faint());
    put_line(frame, pane.area, pane.area.y, &line);
}

/// Cuts a line of several texts to so many columns.
fn cut_line(spans: Vec<Span<'static>>, width: usize, faint: Style) -> Line<'static> {
    let mut line = Line::default();
    let mut room = width;
    for span in spans {
        if span.width() > room {
            line.push_span(Span::styled(cut(&span.content, room), faint));
            break;
        }
        room -= span.width();
        line.push_span(span);
    }
    line
}

/// Draws the keys that work here, the most important first.
pub fn keys(frame: &mut Frame<'_>, board: &Board<'_, '_>, pane: Pane) {
    let mut spans: Vec<Span<'static>> = Vec::new();
    let mut used = 0;
    for (key, does) in keys_of(board) {
        let width = key.width() + 1 + does.width() + if spans.is_empty() { 0 } else { 3 };
        if used + width > pane.width() {
            break;
        }
        used += width;
        if !spans.is_empty() {
            spans.push(Span::raw("   "));
        }
        spans.push(Span::styled(*key, pane.theme.bold()));
        spans.push(Span::styled(format!(" {does}"), pane.theme.faint()));
    }
    put_line(frame, pane.area, pane.area.y, &Line::from(spans));
}
