//! A file as it comes out: in the colours of its language, with what comes from the question in focus, or with
//! what an option would change.

use super::Pane;
use crate::text::style::safe;
use crate::ui::setup::worker::Shown;
use ratatui::style::Style;
use ratatui::text::{Line, Span};
use similar::{ChangeTag, TextDiff};
use std::ops::Range;
use std::time::Duration;
use tinmold_grammar::Word;
use tinmold_project::outcome::FileMarks;
use unicode_segmentation::UnicodeSegmentation;
use unicode_width::UnicodeWidthStr;

/// The lines around a change that are shown with it.
const AROUND: usize = 3;
/// The columns of the number of a line.
const NUMBER: usize = 4;
/// The most lines that are prepared for drawing.
const MOST: usize = 20_000;

/// The lines of a file, and the first that matters.
pub struct Page {
    pub lines: Vec<Line<'static>>,
    pub first: usize,
}

/// A text with its words and what is marked in it.
struct Text<'a> {
    text: &'a str,
    words: &'a [Word],
    marks: &'a FileMarks,
    /// By line: its first byte.
    starts: Vec<usize>,
}

impl<'a> Text<'a> {
    fn new(text: &'a str, words: &'a [Word], marks: &'a FileMarks) -> Self {
        let starts = text.split_inclusive('\n').scan(0, |at, line| {
            let start = *at;
            *at += line.len();
            Some(start)
        });
        Self { text, words, marks, starts: starts.collect() }
    }

    /// Returns a line in its colours: number, sign at the edge, and text.
    fn line(&self, pane: Pane, at: usize, sign: &str, style: Option<Style>) -> Line<'static> {
        let theme = pane.theme;
        let start = self.starts[at];
        let end = self.starts.get(at + 1).copied().unwrap_or(self.text.len());
        let text = self.text[start..end].trim_end_matches(['\n', '\r']);
        let range = start..start + text.len();
        let is_marked = self.marks.lines.binary_search(&at).is_ok();
        let edge = if sign.is_empty() { if is_marked { "▌" } else { " " } } else { sign };
        let edge_style = style.unwrap_or_else(|| theme.accent());
        let mut spans = vec![
            Span::styled(format!("{:>NUMBER$} ", at + 1), theme.faint()),
            Span::styled(format!("{edge} "), edge_style),
        ];
        let mut room = pane.width().saturating_sub(NUMBER + 3);
        for piece in self.pieces(&range) {
            let word =
                self.words.iter().find(|word| word.bytes.start <= piece.start && piece.end <= word.bytes.end);
            let mut look = word.map_or_else(Style::new, |word| theme.word(word.kind));
            if self.marks.bytes.iter().any(|marked| marked.start <= piece.start && piece.end <= marked.end) {
                look = look.patch(theme.marked());
            }
            let shown = safe(&self.text[piece].replace('\t', "    "));
            let (shown, is_cut) = within(&shown, &mut room);
            spans.push(Span::styled(shown, look));
            if is_cut {
                spans.push(Span::styled("…", theme.faint()));
                break;
            }
        }
        Line::from(spans)
    }

    /// Cuts a range where a word or a mark begins or ends.
    fn pieces(&self, range: &Range<usize>) -> Vec<Range<usize>> {
        let inside = |at: &usize| range.start < *at && *at < range.end;
        let near = |bytes: &Range<usize>| bytes.end > range.start && bytes.start < range.end;
        let from = self.words.partition_point(|word| word.bytes.end <= range.start);
        let words = self.words[from..].iter().take_while(|word| word.bytes.start < range.end);
        let words = words.map(|word| word.bytes.clone());
        let marks = self.marks.bytes.iter().filter(|bytes| near(bytes)).cloned();
        let mut ends: Vec<usize> = words.chain(marks).flat_map(|bytes| [bytes.start, bytes.end]).collect();
        ends.retain(|at| inside(at) && self.text.is_char_boundary(*at));
        ends.extend([range.start, range.end]);
        ends.sort_unstable();
        ends.dedup();
        ends.windows(2).map(|pair| pair[0]..pair[1]).collect()
    }
}

/// Returns what fits, and whether the rest is cut; `room` becomes what is left.
fn within(text: &str, room: &mut usize) -> (String, bool) {
    let width = text.width();
    if width <= *room {
        *room -= width;
        return (text.to_owned(), false);
    }
    let mut out = String::new();
    for letter in text.graphemes(true) {
        if out.width() + letter.width() + 1 > *room {
            break;
        }
        out.push_str(letter);
    }
    (out, true)
}

/// Returns the page of a file.
pub fn page(shown: &Shown, pane: Pane) -> Page {
    let none = FileMarks::default();
    let told = |text: &str| Page { lines: vec![Line::styled(text.to_owned(), pane.theme.faint())], first: 0 };
    let now = shown.now.text.as_deref();
    if let Some(then) = &shown.then {
        return match (now, then.text.as_deref()) {
            (Some(now), Some(after)) if now == after => told("  Its text stays as it is."),
            (Some(now), Some(after)) => difference(
                pane,
                &Text::new(now, &shown.words, &none),
                &Text::new(after, &shown.words_then, &none),
            ),
            (None, Some(after)) => {
                all(pane, &Text::new(after, &shown.words_then, &none), "+", Some(pane.theme.added()))
            }
            (Some(now), None) => {
                all(pane, &Text::new(now, &shown.words, &none), "−", Some(pane.theme.removed()))
            }
            (None, None) => told("  It is not text."),
        };
    }
    match (shown.now.before.as_deref(), now) {
        (Some(before), Some(now)) => {
            difference(pane, &Text::new(before, &[], &none), &Text::new(now, &shown.words, &none))
        }
        (None, Some("")) => told("  It is empty."),
        (None, Some(now)) => {
            let mut page = all(pane, &Text::new(now, &shown.words, &shown.marks), "", None);
            let first_byte = shown.marks.bytes.first().map(|bytes| now[..bytes.start].matches('\n').count());
            let first = first_byte.into_iter().chain(shown.marks.lines.first().copied()).min();
            page.first = first.unwrap_or(0).saturating_sub(2);
            page
        }
        (_, None) => told("  It is not text."),
    }
}

fn all(pane: Pane, text: &Text<'_>, sign: &str, style: Option<Style>) -> Page {
    let lines = (0..text.starts.len().min(MOST)).map(|at| text.line(pane, at, sign, style));
    Page { lines: lines.collect(), first: 0 }
}

/// Returns the lines that differ, with those around them.
fn difference(pane: Pane, before: &Text<'_>, after: &Text<'_>) -> Page {
    let theme = pane.theme;
    let diff = TextDiff::configure().timeout(Duration::from_millis(100)).diff_lines(before.text, after.text);
    let mut lines = Vec::new();
    for (number, group) in diff.grouped_ops(AROUND).iter().enumerate() {
        if number > 0 {
            lines.push(Line::styled("   …", theme.faint()));
        }
        for change in group.iter().flat_map(|op| diff.iter_changes(op)) {
            let line = match (change.tag(), change.old_index(), change.new_index()) {
                (ChangeTag::Delete, Some(at), _) => before.line(pane, at, "−", Some(theme.removed())),
                (ChangeTag::Insert, _, Some(at)) => after.line(pane, at, "+", Some(theme.added())),
                (_, _, Some(at)) => after.line(pane, at, "", None),
                _ => Line::default(),
            };
            lines.push(line);
        }
    }
    Page { lines, first: 0 }
}
