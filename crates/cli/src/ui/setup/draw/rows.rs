//! The texts of the rows that are no questions.

use super::Pane;
use crate::text::needs;
use crate::text::style::count;
use crate::text::width::{cut, fit_width};
use crate::ui::setup::board::Board;
use crate::ui::setup::rows::Row;
use ratatui::style::Style;
use tinmold_project::recast::Decided;
use unicode_width::UnicodeWidthStr;

/// The most columns of the path of a file in the way.
const PATH: usize = 40;

/// Returns the text of a row of so many columns, and how it looks.
pub fn text(board: &Board<'_, '_>, pane: Pane, width: usize, row: &Row, is_focus: bool) -> (String, Style) {
    let theme = pane.theme;
    let style = if is_focus { theme.accent() } else { Style::new() };
    let tick = |is_ticked: bool| if is_ticked { "■" } else { "□" };
    match row {
        Row::Details { count: number, open, .. } => {
            let what = if *open { "hide" } else { "show" };
            let style = if is_focus { style } else { theme.faint() };
            (format!("… {} ({what})", count(*number, "detail")), style)
        }
        Row::Need(tool) => {
            let word = board.need(tool).map_or("", |(_, probe)| needs::word(&probe.verdict));
            (format!("! {tool}: {word}"), theme.changed())
        }
        Row::Step(name) => match board.step_named(name) {
            Some((step, ticked, lacks)) => {
                let why = lacks.map_or_else(String::new, |tool| format!("  lacks {tool}"));
                let label = cut(&step.label, width.saturating_sub(2 + why.width()));
                (format!("{} {label}{why}", tick(ticked)), Style::new())
            }
            None => Default::default(),
        },
        Row::Vouch => (format!("{} vouch for this mold from now on, as it is now", tick(board.vouch)), style),
        Row::InTheWay(path) => {
            let choice = board.choices.get(path).map_or("not decided", way);
            let room = width.saturating_sub(choice.width() + 2).min(PATH);
            (format!("{}  {choice}", fit_width(path, room)), style)
        }
        Row::Uncovered(path) => {
            let text = match board.uncovered(path).and_then(|one| one.line.as_ref()) {
                Some(line) => {
                    format!("{} add {} to {}", tick(board.accepted.contains(path)), line.line, line.file)
                }
                None => format!("! {path}: no line of an ignore file keeps it out"),
            };
            (text, style)
        }
        _ => ("Write it".to_owned(), if is_focus { style } else { theme.bold() }),
    }
}

/// Returns what was found of a tool, and how to get it.
pub fn need(board: &Board<'_, '_>, tool: &str) -> String {
    board.need(tool).map_or_else(String::new, |(need, probe)| needs::line(need, probe))
}

/// Returns what becomes of a file in the way, in a word.
pub fn way(decided: &Decided) -> &'static str {
    match decided {
        Decided::Mine => "mine stays",
        Decided::Theirs => "the new one",
        Decided::Aside => "both",
        Decided::Both => "both, mine first",
        Decided::Text(_) => "my own text",
    }
}
