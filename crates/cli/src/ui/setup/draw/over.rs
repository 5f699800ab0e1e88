//! Drawing what stands over the form: what is asked, the pane for text, the help.

use super::Pane;
use crate::text::style::{count, safe, size};
use crate::text::width::{cut, wrap};
use crate::ui::drawing::put_line;
use crate::ui::setup::board::{Asked, Board};
use crate::ui::setup::field::Lines;
use crate::ui::setup::rows::Row;
use ratatui::Frame;
use ratatui::layout::Rect;
use ratatui::style::Style;
use ratatui::text::{Line, Span};
use ratatui::widgets::Clear;
use tinmold_mold::Kind;

/// The widest that something asked becomes.
const WIDEST: usize = 72;

/// Draws something that is asked, above the bottom of the screen.
pub fn asked(frame: &mut Frame<'_>, board: &Board<'_, '_>, pane: Pane, asked: &Asked, cursor: usize) {
    let theme = pane.theme;
    let width = pane.width().min(WIDEST);
    let (title, text, answers) = words(board, asked);
    let mut lines = vec![Line::styled("─".repeat(pane.width()), theme.accent())];
    lines.push(Line::styled(format!(" {}", cut(&title, width - 2)), theme.bold()));
    lines
        .extend(text.iter().flat_map(|text| wrap(text, width - 2)).map(|line| Line::raw(format!(" {line}"))));
    for (at, answer) in answers.iter().enumerate() {
        let mark = if at == cursor { " ▸ " } else { "   " };
        let style = if at == cursor { theme.accent() } else { Style::new() };
        lines.push(Line::from(vec![
            Span::styled(mark, theme.accent()),
            Span::styled(cut(answer, width.saturating_sub(3)), style),
        ]));
    }
    let height = (lines.len() as u16).min(pane.area.height);
    let area = Rect { y: pane.area.bottom() - height, height, ..pane.area };
    frame.render_widget(Clear, area);
    for (line, y) in lines.iter().zip(area.top()..area.bottom()) {
        put_line(frame, area, y, line);
    }
}

fn words(board: &Board<'_, '_>, asked: &Asked) -> (String, Vec<String>, Vec<String>) {
    match asked {
        Asked::Draft(_) => (
            "There is a draft of this mold".to_owned(),
            vec!["You left without writing, and your answers were kept.".to_owned()],
            vec!["Go on with these answers".to_owned(), "Begin anew".to_owned()],
        ),
        Asked::Leave => (
            "Leave without writing?".to_owned(),
            Vec::new(),
            vec![
                "Stay here".to_owned(),
                match board.has_secret() {
                    true => "Leave, and keep my answers but no secret for the next time".to_owned(),
                    false => "Leave, and keep my answers for the next time".to_owned(),
                },
                "Leave, and throw my answers away".to_owned(),
            ],
        ),
        Asked::Write => {
            let survey = board.survey.as_ref();
            let place = survey.map_or_else(String::new, |survey| survey.destination.display().to_string());
            let files = board.outcome.as_ref().map_or_else(String::new, |outcome| {
                format!("{}, {}", count(outcome.count(), "file"), size(outcome.bytes()))
            });
            let steps: Vec<String> = board
                .steps()
                .into_iter()
                .filter(|(_, ticked, _)| *ticked)
                .map(|(step, ..)| format!("then: {}", safe(&step.label)))
                .collect();
            let mut text = vec![format!("{files}, into {place}")];
            text.extend(steps);
            ("Write it?".to_owned(), text, vec!["Write it".to_owned(), "Not yet".to_owned()])
        }
    }
}

/// Draws the pane where a text of several lines is edited.
pub fn editor(frame: &mut Frame<'_>, board: &Board<'_, '_>, pane: Pane, lines: &Lines) {
    let (ask, what, help) = match (board.question(), board.row()) {
        (Some(at), _) => {
            let question = board.setup.question(at);
            let what = if question.kind == Kind::Texts { "one a line" } else { "a text of lines" };
            (question.ask.clone(), what, question.help.clone())
        }
        (None, Row::InTheWay(path)) => (path.clone(), "in place of both", None),
        _ => return,
    };
    let theme = pane.theme;
    let width = pane.width();
    let head = Line::from(vec![
        Span::styled(format!("  {}  ", cut(&ask, width.saturating_sub(22))), theme.bold()),
        Span::styled(what, theme.faint()),
    ]);
    put_line(frame, pane.area, pane.area.y, &head);
    let room = pane.height().saturating_sub(2).max(1);
    let top = lines.at.saturating_sub(room.saturating_sub(1));
    for (number, line) in lines.lines.iter().enumerate().skip(top).take(room) {
        let y = pane.area.y + 1 + (number - top) as u16;
        let column = line.column();
        // The end with the caret is shown of a line that is longer than the pane.
        let from = if number == lines.at { (column + 8).saturating_sub(width) } else { 0 };
        let text: String = safe(line.text()).chars().skip(from).collect();
        let spans = vec![
            Span::styled(format!("{:>4} ", number + 1), theme.faint()),
            Span::raw(cut(&text, width.saturating_sub(6))),
        ];
        put_line(frame, pane.area, y, &Line::from(spans));
        if number == lines.at {
            let x = (5 + column - from).min(width.saturating_sub(1));
            frame.set_cursor_position((pane.area.x + x as u16, y));
        }
    }
    let help = wrap(help.as_deref().unwrap_or(""), width.saturating_sub(2));
    if let Some(line) = help.first() {
        let line = Line::styled(format!("  {line}"), theme.faint());
        put_line(frame, pane.area, pane.area.bottom().saturating_sub(1), &line);
    }
}

/// The keys, and what they do.
const KEYS: &[(&str, &str)] = &[
    ("Up, Down", "to the row or the option before and after"),
    ("Enter", "opens a question; takes an option or a line and goes on"),
    ("Space", "ticks and takes the tick back"),
    ("Tab", "to the files and back; Up and Down then go from file to file"),
    ("PgUp, PgDn", "scroll the file"),
    ("Esc", "closes what is open; goes to the first question; from there back"),
    ("Ctrl-B, Ctrl-F", "undo the last change; do it again"),
    ("Ctrl-D", "the answer that is offered, in place of yours"),
    ("Ctrl-U", "clears the line"),
    ("Ctrl-E", "a pane for a text of several lines"),
    ("Ctrl-S", "write the project; it asks once"),
    ("Ctrl-Z", "back to the shell; fg comes here again"),
    ("Ctrl-C", "leave at once; the answers are kept"),
];

/// Draws all help: of the question in focus, then of the keys.
pub fn help(frame: &mut Frame<'_>, board: &Board<'_, '_>, pane: Pane, top: usize) {
    let theme = pane.theme;
    let width = pane.width().saturating_sub(4).min(WIDEST + 8);
    let mut lines = Vec::new();
    if let Some(at) = board.question() {
        let question = board.setup.question(at);
        lines.push(Line::styled(format!("  {}", cut(&question.ask, width)), theme.bold()));
        let mut add = |text: &str, indent: &str| {
            for line in wrap(text, width - indent.len()) {
                lines.push(Line::raw(format!("  {indent}{line}")));
            }
        };
        add(question.help.as_deref().unwrap_or("There is no more help for this question."), "");
        for option in &question.options {
            let note = option.note.as_deref().map_or_else(String::new, |note| format!(": {note}"));
            add(&format!("{}{note}", option.label), "  ");
            add(option.more.as_deref().unwrap_or(""), "    ");
        }
        lines.push(Line::default());
    }
    lines.push(Line::styled("  Keys", theme.bold()));
    for (key, does) in KEYS {
        for (number, line) in wrap(does, width.saturating_sub(18)).into_iter().enumerate() {
            let key = if number == 0 { *key } else { "" };
            lines.push(Line::from(vec![
                Span::styled(format!("    {key:<16}"), theme.accent()),
                Span::raw(line),
            ]));
        }
    }
    let top = top.min(lines.len().saturating_sub(pane.height().min(lines.len())));
    for (line, y) in lines.iter().skip(top).zip(pane.area.top()..pane.area.bottom()) {
        put_line(frame, pane.area, y, line);
    }
}
