//! Drawing options: few of them under their question, many in a list of their own.

use super::Pane;
use super::form::FormLine;
use super::rows::way;
use crate::text::style::{count, safe};
use crate::text::width::{cut, fit_width, wrap};
use crate::ui::drawing::put_line;
use crate::ui::setup::board::Board;
use crate::ui::setup::field::Field;
use ratatui::Frame;
use ratatui::style::Style;
use ratatui::text::{Line, Span};
use tinmold_mold::Kind;
use tinmold_project::setup::Alternative;
use unicode_width::UnicodeWidthStr;

/// The most lines of the note of the option under the cursor.
const NOTE: usize = 2;
/// The columns of what an option changes.
const COUNTS: usize = 12;

/// Returns the options of a question, one a line, with the note of the one under the cursor.
pub fn few(board: &Board<'_, '_>, pane: Pane, row: usize, question: usize, cursor: usize) -> Vec<FormLine> {
    let mut lines = Vec::new();
    for (at, one) in board.alternatives().iter().enumerate() {
        let line = option(board, pane, question, one, at == cursor, pane.width());
        lines.push((row, Some(at), line));
        let note = note(board, question, one, pane.width());
        if at == cursor && !note.is_empty() {
            let room = pane.width().saturating_sub(10);
            let all = wrap(&note, room);
            let mut shown: Vec<String> = all.iter().take(NOTE).cloned().collect();
            if all.len() > NOTE
                && let Some(last) = shown.last_mut()
            {
                *last = format!("{} (all: ?)", cut(&format!("{last} …"), room.saturating_sub(9)));
            }
            for line in shown {
                lines.push((row, Some(at), Line::styled(format!("          {line}"), pane.theme.faint())));
            }
        }
    }
    lines
}

/// Returns the label and the note of an option.
pub fn text_of(board: &Board<'_, '_>, question: usize, one: &Alternative) -> (String, String) {
    let definition = board.setup.question(question);
    if definition.kind == Kind::Flag {
        let label = if one.option == 0 { "yes" } else { "no" };
        return (label.to_owned(), String::new());
    }
    let option = &definition.options[one.option as usize];
    (option.label.clone(), option.note.clone().unwrap_or_default())
}

/// Returns the note of an option, after its label if that is cut in its row.
fn note(board: &Board<'_, '_>, question: usize, one: &Alternative, width: usize) -> String {
    let (label, note) = text_of(board, question, one);
    let is_cut = safe(&label).width() + 2 > label_room(width);
    match (is_cut, note.is_empty()) {
        (false, _) => note,
        (true, true) => label,
        (true, false) => format!("{label}: {note}"),
    }
}

/// Returns the columns that the label of an option has.
fn label_room(width: usize) -> usize {
    width.saturating_sub(8 + COUNTS + 1)
}

fn option(
    board: &Board<'_, '_>,
    pane: Pane,
    question: usize,
    one: &Alternative,
    is_cursor: bool,
    width: usize,
) -> Line<'static> {
    let theme = pane.theme;
    let several = matches!(board.setup.question(question).kind, Kind::SomeOf(_));
    let tick = match (several, one.taken) {
        (true, true) => "■ ",
        (true, false) => "□ ",
        (false, _) => "",
    };
    let cursor = if is_cursor { "      ▸ " } else { "        " };
    let label = format!("{tick}{}", text_of(board, question, one).0);
    let room = label_room(width);
    let style = if is_cursor { theme.accent() } else { Style::new() };
    let mut spans = vec![
        Span::styled(cursor, theme.accent()),
        Span::styled(fit_width(&label, room), style),
        Span::raw(" "),
    ];
    match (one.taken && !several, board.effects.get(&one.option)) {
        (true, _) => spans.push(Span::styled("taken", theme.faint())),
        (false, Some(effect)) => spans.extend(counts(pane, effect.counts())),
        (false, None) => spans.push(Span::styled("…", theme.faint())),
    }
    Line::from(spans)
}

/// Returns how many files come, go and change.
pub fn counts(pane: Pane, (added, removed, changed): (usize, usize, usize)) -> Vec<Span<'static>> {
    let theme = pane.theme;
    let all = [("+", added, theme.added()), ("−", removed, theme.removed()), ("~", changed, theme.changed())];
    let shown: Vec<Span<'static>> = all
        .into_iter()
        .filter(|(_, number, _)| *number > 0)
        .map(|(sign, number, style)| Span::styled(format!("{sign}{number} "), style))
        .collect();
    if shown.is_empty() { vec![Span::styled("no file", theme.faint())] } else { shown }
}

/// Returns what may become of a file in the way, one a line.
pub fn ways(board: &Board<'_, '_>, pane: Pane, row: usize, path: &str, cursor: usize) -> Vec<FormLine> {
    let all = board.ways(path).iter().enumerate();
    all.map(|(at, choice)| {
        let mark = if at == cursor { "      ▸ " } else { "        " };
        let style = if at == cursor { pane.theme.accent() } else { Style::new() };
        let text = way(choice);
        let line = Line::from(vec![Span::styled(mark, pane.theme.accent()), Span::styled(text, style)]);
        (row, Some(at), line)
    })
    .collect()
}

/// Draws a long list over the form: what is typed, what is left, and what is ticked.
pub fn list(frame: &mut Frame<'_>, board: &Board<'_, '_>, pane: Pane, filter: &Field, cursor: usize) {
    let Some(question) = board.question() else { return };
    let theme = pane.theme;
    let definition = board.setup.question(question);
    let all = board.alternatives();
    let left = board.narrowed(filter.text());
    let width = pane.width();
    let counted = match left.len() == all.len() {
        true => format!("{} to choose from", all.len()),
        false => format!("{} of {}", left.len(), all.len()),
    };
    let head = Line::from(vec![
        Span::styled(format!("  {}  ", cut(&definition.ask, width.saturating_sub(24))), theme.bold()),
        Span::styled(counted, theme.faint()),
    ]);
    let find = Line::from(vec![
        Span::styled("  Narrow: ", theme.bold()),
        Span::styled(cut(filter.text(), width.saturating_sub(11)), theme.accent()),
    ]);
    let mut lines: Vec<(Option<usize>, Line<'static>)> = Vec::new();
    let mut group = None;
    for (at, one) in left.iter().enumerate() {
        let of = &definition.options[one.option as usize].group;
        if *of != group {
            group.clone_from(of);
            let name = group.as_deref().unwrap_or("Other");
            lines.push((
                None,
                Line::styled(format!("    {}", cut(name, width.saturating_sub(4))), theme.bold()),
            ));
        }
        lines.push((Some(at), option(board, pane, question, one, at == cursor, width)));
    }
    let ticked = matches!(definition.kind, Kind::SomeOf(_)).then(|| pinned(board, question, &all, &left));
    let note = left.get(cursor).map(|one| note(board, question, one, width)).unwrap_or_default();
    let mut note: Vec<String> = wrap(&note, width.saturating_sub(4)).into_iter().take(NOTE).collect();
    // Where to read on.
    let more = left.get(cursor).and_then(|one| definition.options[usize::from(one.option)].more.as_deref());
    if let Some(more) = more.filter(|_| note.len() < NOTE) {
        note.push(cut(&safe(more), width.saturating_sub(4)));
    }
    let foot = NOTE + usize::from(ticked.is_some());
    let room = pane.height().saturating_sub(2 + foot).max(1);
    let here = lines.iter().position(|(at, _)| *at == Some(cursor)).unwrap_or(0);
    let top = here.saturating_sub(room / 2).min(lines.len().saturating_sub(room));
    let mut drawn = vec![head, find];
    drawn.extend(lines.into_iter().skip(top).take(room).map(|(_, line)| line));
    if left.is_empty() {
        drawn.push(Line::styled("    Nothing matches; Ctrl-U clears the words.", theme.faint()));
    }
    drawn.resize(2 + room, Line::default());
    drawn.extend(
        (0..NOTE).map(|at| {
            Line::styled(format!("    {}", note.get(at).map_or("", String::as_str)), theme.faint())
        }),
    );
    drawn.extend(
        ticked.map(|text| Line::styled(format!("  {}", cut(&text, width.saturating_sub(2))), theme.accent())),
    );
    for (line, y) in drawn.iter().zip(pane.area.top()..pane.area.bottom()) {
        put_line(frame, pane.area, y, line);
    }
    let column = u16::try_from(10 + filter.column().min(width.saturating_sub(11))).unwrap_or(10);
    frame.set_cursor_position((pane.area.x + column, pane.area.y + 1));
}

/// Says what is ticked, also what the words hide.
fn pinned(board: &Board<'_, '_>, question: usize, all: &[Alternative], left: &[Alternative]) -> String {
    let ticked: Vec<&Alternative> = all.iter().filter(|one| one.taken).collect();
    let is_hidden = |one: &&&Alternative| !left.iter().any(|other| other.option == one.option);
    let hidden = ticked.iter().filter(is_hidden).count();
    let labels: Vec<String> = ticked.iter().map(|one| text_of(board, question, one).0).collect();
    let hidden = if hidden > 0 { format!(" ({hidden} hidden)") } else { String::new() };
    match ticked.len() {
        0 => "Nothing is ticked.".to_owned(),
        number => format!("{} ticked{hidden}: {}", count(number, "option"), labels.join(", ")),
    }
}
