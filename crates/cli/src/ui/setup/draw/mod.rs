//! Drawing the setup screen.

mod bottom;
mod form;
mod keys;
mod options;
mod outcome;
mod over;
mod preview;
mod rows;
mod tree;

use super::board::{Board, Open, Side};
use crate::text::width::cut;
use crate::ui::drawing::too_small;
use crate::ui::isolate::isolate;
use crate::ui::theme::Theme;
use ratatui::Frame;
use ratatui::layout::{Constraint, Layout, Rect};
use ratatui::text::{Line, Span};
use unicode_width::UnicodeWidthStr;

/// From so many columns on both panes are on the screen.
const WIDE: u16 = 100;

/// What lies where on the screen, for the mouse.
#[derive(Clone, Debug, Default)]
pub struct Places {
    /// By line of the form, from its top: the row, and the option of it.
    pub form: Vec<(usize, Option<usize>)>,
    pub form_area: Rect,
    pub outcome_area: Rect,
    /// The number of lines of a page.
    pub page: usize,
}

/// A pane that is drawn: its area, and the styles.
#[derive(Clone, Copy)]
pub struct Pane {
    pub area: Rect,
    pub theme: Theme,
}

impl Pane {
    pub fn width(self) -> usize {
        usize::from(self.area.width)
    }

    pub fn height(self) -> usize {
        usize::from(self.area.height)
    }
}

/// Draws everything.
pub fn draw(frame: &mut Frame<'_>, board: &Board<'_, '_>, theme: Theme) -> Places {
    let area = frame.area();
    if too_small(frame) {
        return Places { page: 1, ..Places::default() };
    }
    let [head, body, notice, facts, keys] = Layout::vertical([
        Constraint::Length(1),
        Constraint::Min(1),
        Constraint::Length(1),
        Constraint::Length(1),
        Constraint::Length(1),
    ])
    .areas(area);
    frame.render_widget(title(board, theme, usize::from(area.width)), head);
    let mut places = Places { page: usize::from(body.height).saturating_sub(2).max(1), ..Places::default() };
    if let Open::Help(top) = board.open {
        over::help(frame, board, Pane { area: body, theme }, top);
    } else if area.width >= WIDE {
        // The form needs what its texts need; the rest shows what comes of it.
        let left = (area.width * 48 / 100).clamp(48, 68);
        let [form, line, outcome] =
            Layout::horizontal([Constraint::Length(left), Constraint::Length(3), Constraint::Min(20)])
                .areas(body);
        for y in line.top()..line.bottom() {
            frame.buffer_mut().set_string(line.x + 1, y, "│", theme.faint());
        }
        form_pane(frame, board, Pane { area: form, theme }, &mut places);
        outcome::draw(frame, board, Pane { area: outcome, theme });
        places.outcome_area = outcome;
    } else if board.side == Side::Form {
        form_pane(frame, board, Pane { area: body, theme }, &mut places);
    } else {
        outcome::draw(frame, board, Pane { area: body, theme });
        places.outcome_area = body;
    }
    bottom::notice(frame, board, Pane { area: notice, theme });
    bottom::facts(frame, board, Pane { area: facts, theme });
    bottom::keys(frame, board, Pane { area: keys, theme });
    if let Open::Asked(asked, at) = &board.open {
        over::asked(frame, board, Pane { area: body, theme }, asked, *at);
    }
    isolate(frame.buffer_mut());
    places
}

fn form_pane(frame: &mut Frame<'_>, board: &Board<'_, '_>, pane: Pane, places: &mut Places) {
    places.form_area = pane.area;
    match &board.open {
        Open::List(filter, at, _) => options::list(frame, board, pane, filter, *at),
        Open::Editor(lines) => over::editor(frame, board, pane, lines),
        _ => places.form = form::draw(frame, board, pane),
    }
}

/// Returns the line at the top: what is set up, and what becomes of it if it is left.
fn title(board: &Board<'_, '_>, theme: Theme, width: usize) -> Line<'static> {
    let (name, version) = board.job.title();
    let mut right = Vec::new();
    if board.is_kept {
        right.push("draft kept".to_owned());
    }
    if let Some(survey) = board.survey.as_ref().filter(|survey| !survey.destination.as_os_str().is_empty()) {
        right.push(format!("into {}", survey.destination.display()));
    }
    let left = format!("{name} {version}");
    let right = cut(&right.join("  "), width.saturating_sub(left.width() + 2));
    let gap = width.saturating_sub(left.width() + right.width());
    Line::from(vec![
        Span::styled(cut(&name, width), theme.bold()),
        Span::styled(format!(" {version}"), theme.faint()),
        Span::raw(" ".repeat(gap)),
        Span::styled(right, theme.faint()),
    ])
}
