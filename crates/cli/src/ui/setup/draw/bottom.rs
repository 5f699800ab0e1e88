//! The lines at the bottom: what is said, the facts, and the keys that work here.

use super::Pane;
use crate::text::needs;
use crate::text::style::{count, size};
use crate::text::width::cut;
use crate::ui::drawing::put_line;
use crate::ui::setup::board::{Board, Open, Side};
use crate::ui::setup::rows::Row;
use ratatui::Frame;
use ratatui::style::Style;
use ratatui::text::{Line, Span};
use tinmold_mold::Kind;
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
                    Verdict::Fine | Verdict::Unknown => add(format!("{}{version} ok", need.tool), plain),
                    verdict => add(format!("{} {}", need.tool, needs::word(verdict)), pane.theme.changed()),
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

type Keys = &'static [(&'static str, &'static str)];

fn keys_of(board: &Board<'_, '_>) -> Keys {
    match (&board.open, board.row()) {
        (Open::Asked(..), _) => &[("Up Down", "move"), ("Enter", "takes it"), ("Esc", "back")],
        (Open::Help(_), _) => &[("Up Down", "scroll"), ("Esc", "back")],
        (Open::Editor(_), _) => {
            &[("Esc", "takes the text"), ("Enter", "new line"), ("Ctrl-O", "your own editor")]
        }
        _ if board.side == Side::Outcome => &[
            ("Tab", "the form"),
            ("Up Down", "files"),
            ("PgUp PgDn", "scroll"),
            ("Ctrl-S", "write"),
            ("F1", "help"),
        ],
        (Open::List(..), _) => match board.question().map(|at| board.setup.question(at).kind) {
            Some(Kind::SomeOf(_)) if matches!(board.open, Open::List(_, _, true)) => &[
                ("Enter", "ticks it"),
                ("Up Down", "move"),
                ("typing", "narrows"),
                ("Esc", "done"),
                ("Ctrl-B", "undo"),
                ("Tab", "files"),
            ],
            Some(Kind::SomeOf(_)) => &[
                ("Space", "ticks"),
                ("Enter", "done"),
                ("typing", "narrows"),
                ("Esc", "back"),
                ("Ctrl-B", "undo"),
                ("Tab", "files"),
            ],
            _ => &[("Enter", "takes it"), ("typing", "narrows"), ("Esc", "back"), ("Tab", "files")],
        },
        (Open::Options(_), Row::InTheWay(_)) => {
            &[("Enter", "takes it"), ("a", "for all of them"), ("Esc", "back"), ("Tab", "difference")]
        }
        (Open::Options(_), _) => match board.question().map(|at| board.setup.question(at).kind) {
            Some(Kind::SomeOf(_)) => &[
                ("Space", "ticks"),
                ("Enter", "done"),
                ("Esc", "back"),
                ("Tab", "files"),
                ("Ctrl-B", "undo"),
                ("?", "more"),
            ],
            _ => &[
                ("Up Down", "look"),
                ("Enter", "takes it"),
                ("Esc", "back"),
                ("Tab", "files"),
                ("?", "more"),
            ],
        },
        (_, Row::Step(_) | Row::Vouch | Row::Uncovered(_)) => {
            &[("Space", "ticks"), ("Tab", "what runs"), ("Ctrl-S", "write"), ("Esc", "back"), ("F1", "help")]
        }
        (_, Row::Question(at)) if board.is_line(*at) => &[
            ("Enter", "next"),
            ("typing", "edits"),
            ("Tab", "files"),
            ("Ctrl-B", "undo"),
            ("Ctrl-S", "write"),
            ("F1", "help"),
            ("Esc", "back"),
        ],
        (_, Row::Write) => &[("Enter", "writes it"), ("Up", "the form"), ("Tab", "files"), ("F1", "help")],
        _ => &[
            ("Enter", "opens"),
            ("Up Down", "move"),
            ("Tab", "files"),
            ("Ctrl-B", "undo"),
            ("Ctrl-S", "write"),
            ("F1", "help"),
            ("Esc", "back"),
        ],
    }
}
