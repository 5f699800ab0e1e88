//! The keys that work, for the line at the bottom.

use crate::ui::setup::board::{Board, Open, Side};
use crate::ui::setup::rows::Row;
use tinmold_mold::Kind;

/// Keys, and what they do.
type Keys = &'static [(&'static str, &'static str)];

/// Returns the keys that work where the user is, the most important first.
pub fn keys_of(board: &Board<'_, '_>) -> Keys {
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
        (Open::List(..) | Open::Options(_), Row::Question(at)) => of_options(board, *at),
        (Open::Options(_), Row::InTheWay(path)) if board.may_edit(path) => &[
            ("Enter", "takes it"),
            ("a", "for all of them"),
            ("e", "a text of your own"),
            ("Esc", "back"),
            ("Tab", "difference"),
        ],
        (Open::Options(_), _) => {
            &[("Enter", "takes it"), ("a", "for all of them"), ("Esc", "back"), ("Tab", "difference")]
        }
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

/// Returns the keys among the options of a question.
fn of_options(board: &Board<'_, '_>, question: usize) -> Keys {
    let several = matches!(board.setup.question(question).kind, Kind::SomeOf(_));
    match (&board.open, several) {
        (Open::List(_, _, true), true) => &[
            ("Enter", "ticks it"),
            ("Up Down", "move"),
            ("typing", "narrows"),
            ("Esc", "done"),
            ("Ctrl-B", "undo"),
            ("Tab", "files"),
        ],
        (Open::List(..), true) => &[
            ("Space", "ticks"),
            ("Enter", "done"),
            ("typing", "narrows"),
            ("Esc", "back"),
            ("Ctrl-B", "undo"),
            ("Tab", "files"),
        ],
        (Open::List(..), false) => {
            &[("Enter", "takes it"), ("typing", "narrows"), ("Esc", "back"), ("Tab", "files")]
        }
        (_, true) => &[
            ("Space", "ticks"),
            ("Enter", "done"),
            ("Esc", "back"),
            ("Tab", "files"),
            ("Ctrl-B", "undo"),
            ("?", "more"),
        ],
        (_, false) => {
            &[("Up Down", "look"), ("Enter", "takes it"), ("Esc", "back"), ("Tab", "files"), ("?", "more")]
        }
    }
}
