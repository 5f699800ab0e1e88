//! Drawing the form.

use super::{Pane, options, rows};
use crate::text::style::{count, safe};
use crate::text::width::{cut, fit_width, wrap};
use crate::ui::drawing::put_line;
use crate::ui::setup::board::{Board, Open, Side};
use crate::ui::setup::rows::Row;
use ratatui::Frame;
use ratatui::style::Style;
use ratatui::text::{Line, Span};
use tinmold_mold::Kind;
use tinmold_notation::Value;
use tinmold_project::answers::{AnswerSource, display_label};
use tinmold_project::setup::Standing;
use unicode_segmentation::UnicodeSegmentation;
use unicode_width::UnicodeWidthStr;

/// The column where rows begin, after the mark of the one in focus.
const INDENT: usize = 4;
/// The columns that tell where an answer comes from.
const SOURCE: usize = 11;
/// The most lines of help below a question.
const HELP: usize = 2;

/// The most elements of a list that are named.
const MOST_NAMED: usize = 3;

/// A drawn line of the form: the row, the option of it, and the text.
pub type FormLine = (usize, Option<usize>, Line<'static>);

/// The measures of the columns.
#[derive(Clone, Copy)]
struct Columns {
    width: usize,
    label: usize,
}

impl Columns {
    fn value(self) -> usize {
        self.width.saturating_sub(INDENT + self.label + 2 + SOURCE + 1)
    }
}

/// Draws the rows around the focus; returns which row is on which line.
pub fn draw(frame: &mut Frame<'_>, board: &Board<'_, '_>, pane: Pane) -> Vec<(usize, Option<usize>)> {
    let labels = board.rows.iter().filter_map(|row| match row {
        Row::Question(at) | Row::Minted(at) => Some(safe(&board.setup.question(*at).ask).width()),
        _ => None,
    });
    let most = pane.width() * 2 / 5;
    let columns = Columns { width: pane.width(), label: labels.max().unwrap_or(0).min(most) };
    let theme = pane.theme;
    let mut lines: Vec<FormLine> = Vec::new();
    let mut caret = None;
    let (mut from, mut to) = (0, 0);
    for (at, row) in board.rows.iter().enumerate() {
        if matches!(row, Row::Group(_)) && at > 0 {
            lines.push((at, None, Line::default()));
        }
        if at == board.focus {
            from = lines.len();
        }
        let column = draw_row(board, pane, columns, at, row, &mut lines);
        if at == board.focus {
            to = lines.len();
            caret = column.map(|column| (from, column));
        }
    }
    // The heading above the first row of a group stays in sight, and so does all that is open.
    let height = pane.height();
    let wanted = from.saturating_sub(2);
    let top = if to > wanted + height {
        to.saturating_sub(height).min(from)
    } else {
        wanted.min(lines.len().saturating_sub(height))
    };
    let top = if to <= height { 0 } else { top };
    for (line, y) in lines.iter().skip(top).zip(pane.area.top()..pane.area.bottom()) {
        put_line(frame, pane.area, y, &line.2);
    }
    let more = |y: u16, hidden: usize, word: &str, frame: &mut Frame<'_>| {
        let text = fit_width(&format!("    … {} {word}", count(hidden, "line")), pane.width());
        put_line(frame, pane.area, y, &Line::styled(text, theme.faint()));
    };
    let below = lines.len().saturating_sub(top + height);
    if below > 0 && to < top + height {
        more(pane.area.bottom() - 1, below + 1, "below", frame);
    }
    if top > 0 && from > top {
        more(pane.area.top(), top + 1, "above", frame);
    }
    if let Some((line, column)) = caret.filter(|_| board.side == Side::Form && board.open == Open::Nothing)
        && let (Ok(x), Ok(y)) = (u16::try_from(column), u16::try_from(line.saturating_sub(top)))
    {
        frame.set_cursor_position((pane.area.x + x, pane.area.y + y));
    }
    lines.into_iter().skip(top).take(height).map(|(row, option, _)| (row, option)).collect()
}

/// Draws a row with all that is open below it; returns the column of the caret.
fn draw_row(
    board: &Board<'_, '_>,
    pane: Pane,
    columns: Columns,
    at: usize,
    row: &Row,
    lines: &mut Vec<FormLine>,
) -> Option<usize> {
    let theme = pane.theme;
    let is_focus = at == board.focus;
    let below = |text: &str, indent: usize| -> Vec<FormLine> {
        let wrapped = wrap(text, columns.width.saturating_sub(indent)).into_iter();
        let indent = " ".repeat(indent);
        wrapped.map(|line| (at, None, Line::styled(format!("{indent}{line}"), theme.faint()))).collect()
    };
    match row {
        // The end stands apart, without a heading.
        Row::Group(name) if name.is_empty() => {}
        Row::Group(name) => {
            let name = cut(name, columns.width.saturating_sub(2));
            lines.push((at, None, Line::styled(format!("  {name}"), theme.bold())));
        }
        Row::Note(text) => lines.extend(below(text, INDENT)),
        Row::Minted(question) => {
            let length = match board.setup.question(*question).kind {
                Kind::Minted { length } => length,
                _ => 0,
            };
            let value = format!("{length} random letters");
            lines.push((at, None, cells(board, pane, columns, *question, is_focus, &value, "on writing")));
        }
        Row::Question(question) => return draw_question(board, pane, columns, at, *question, lines),
        other => {
            let (text, style) =
                rows::text(board, pane, columns.width.saturating_sub(INDENT), other, is_focus);
            let mark = if is_focus { "  ▸ " } else { "    " };
            let text = cut(&text, columns.width.saturating_sub(INDENT));
            let spans = vec![Span::styled(mark, theme.accent()), Span::styled(text, style)];
            lines.push((at, None, Line::from(spans)));
            match (other, &board.open) {
                (Row::Need(tool), _) => lines.extend(below(&rows::need(board, tool), INDENT + 2)),
                (Row::InTheWay(path), Open::Options(chosen)) if is_focus => {
                    lines.extend(options::ways(board, pane, at, path, *chosen));
                }
                _ => {}
            }
        }
    }
    None
}

/// Returns label, value and source of a question in their columns.
fn cells(
    board: &Board<'_, '_>,
    pane: Pane,
    columns: Columns,
    question: usize,
    is_focus: bool,
    value: &str,
    source: &str,
) -> Line<'static> {
    let theme = pane.theme;
    let label = fit_width(&board.setup.question(question).ask, columns.label);
    let is_theirs = board.setup.standing(question) != Standing::Yours;
    let style = if is_theirs { theme.faint() } else { theme.bold() };
    Line::from(vec![
        Span::styled(if is_focus { "  ▸ " } else { "    " }, theme.accent()),
        Span::styled(label, if is_focus { theme.accent() } else { Style::new() }),
        Span::raw("  "),
        Span::styled(fit_width(value, columns.value()), style),
        Span::styled(format!(" {}", fit_width(source, SOURCE)), theme.faint()),
    ])
}

fn draw_question(
    board: &Board<'_, '_>,
    pane: Pane,
    columns: Columns,
    at: usize,
    question: usize,
    lines: &mut Vec<FormLine>,
) -> Option<usize> {
    let theme = pane.theme;
    let is_focus = at == board.focus;
    let source = source(&board.setup.standing(question));
    let (value, caret) = shown(board, question, is_focus, columns.value());
    let mut line = cells(board, pane, columns, question, is_focus, &value, &source);
    let refusal = board.setup.refusal(question);
    if refusal.is_some() {
        line.spans[0] = Span::styled(if is_focus { "! ▸ " } else { "!   " }, theme.bad());
    }
    lines.push((at, None, line));
    let room = columns.width.saturating_sub(INDENT + 2);
    if let Some(refusal) = refusal {
        let all = wrap(&refusal.to_string(), room);
        let most = if is_focus { all.len() } else { 1 };
        for line in all.into_iter().take(most) {
            lines.push((at, None, Line::styled(format!("      {line}"), theme.bad())));
        }
    }
    if !is_focus {
        return None;
    }
    if let Open::Options(cursor) = board.open {
        lines.extend(options::few(board, pane, at, question, cursor));
        return None;
    }
    if let Some(reading) = board.reading(question) {
        lines.push((at, None, Line::styled(format!("      {}", cut(&reading, room)), theme.accent())));
    }
    let help = board.setup.question(question).help.as_deref().unwrap_or("");
    let help = wrap(help, room);
    for line in help.iter().take(HELP) {
        lines.push((at, None, Line::styled(format!("      {line}"), theme.faint())));
    }
    caret.map(|caret| INDENT + columns.label + 2 + caret)
}

/// Returns the value of a question as it is shown, and the column of the caret in it.
fn shown(board: &Board<'_, '_>, question: usize, is_focus: bool, width: usize) -> (String, Option<usize>) {
    let definition = board.setup.question(question);
    if is_focus
        && let Some((of, field)) = &board.field
        && *of == question
    {
        let (text, column) = match definition.secret {
            true => ("•".repeat(field.text().graphemes(true).count()), field.letters()),
            false => (safe(field.text()), field.column()),
        };
        // The end with the caret is shown of a text that is longer than its column.
        let skipped = (column + 1).saturating_sub(width);
        if skipped == 0 {
            return (text, Some(column));
        }
        let mut left = skipped;
        let rest: String = text
            .graphemes(true)
            .skip_while(|letter| {
                let goes = left > 0;
                left = left.saturating_sub(letter.width());
                goes
            })
            .collect();
        return (rest, Some(column.saturating_sub(skipped)));
    }
    let value = &board.setup.session().resolved()[question].value;
    let text = match (definition.kind, value) {
        _ if definition.secret && board.setup.text(question).is_empty() => String::new(),
        _ if definition.secret => "••••••••".to_owned(),
        _ if board.setup.rejected(question).is_some() => board.setup.text(question),
        (Kind::SomeOf(_), Value::List(all)) if all.len() > MOST_NAMED => {
            format!("{} of {}", all.len(), definition.options.len())
        }
        (Kind::Texts, Value::List(all)) if all.len() > MOST_NAMED => format!("{} of them", all.len()),
        _ => display_label(board.setup.mold(), value),
    };
    let first = text.lines().next().unwrap_or("").to_owned();
    match text.lines().count() {
        0 => ("none".to_owned(), None),
        1 => (first, None),
        several => (format!("{first} … {several} lines"), None),
    }
}

/// Returns where an answer comes from, in a word.
fn source(standing: &Standing) -> String {
    match standing {
        Standing::Yours => "yours".to_owned(),
        Standing::Follows => "follows".to_owned(),
        Standing::From(source) => match source {
            AnswerSource::Set => "flag".to_owned(),
            AnswerSource::Sheet(_) => "sheet".to_owned(),
            AnswerSource::Environment(_) => "environment".to_owned(),
            AnswerSource::Preset(_) => "preset".to_owned(),
            AnswerSource::Casting => "project".to_owned(),
            AnswerSource::Last => "last time".to_owned(),
            AnswerSource::Own => "settings".to_owned(),
            AnswerSource::Nobody => "needed".to_owned(),
            other => other.to_string(),
        },
    }
}
