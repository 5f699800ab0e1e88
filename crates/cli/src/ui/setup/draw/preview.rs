//! A file as it comes out: in the colours of its language, with what comes from the question in focus, or with
//! what an option would change.

use super::Pane;
use crate::text::style::safe;
use crate::ui::setup::worker::Shown;
use ratatui::style::Style;
use ratatui::text::{Line, Span};
use std::ops::Range;
use tinmold_grammar::Word;
use tinmold_project::outcome::{DiffLine, FileMarks};
use unicode_segmentation::UnicodeSegmentation;
use unicode_width::UnicodeWidthStr;

/// The columns of the number of a line.
const NUMBER: usize = 4;
/// The lines of a file, drawn one by one, and the first that matters.
pub struct Page<'a> {
    pane: Pane,
    shape: Shape<'a>,
    pub first: usize,
}

/// Which lines a page has.
enum Shape<'a> {
    /// One, which says why there are no others.
    Told(&'static str),
    /// All of a text, each with this sign.
    All(Text<'a>, &'static str, Option<Style>),
    /// Those in which the second text differs from the first.
    Difference(Text<'a>, Text<'a>, &'a [DiffLine]),
}

/// A text with its words.
type Side<'a> = Option<(&'a str, &'a [Word])>;

/// Marks nothing.
static NONE: FileMarks = FileMarks { bytes: Vec::new(), lines: Vec::new() };

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
pub fn page(shown: &Shown, pane: Pane) -> Page<'_> {
    let now = shown.now.text.as_deref().map(|text| (text, shown.words.as_slice()));
    let before = shown.now.before.as_deref().map(|text| (text, [].as_slice()));
    if let Some(then) = &shown.then {
        let then = then.text.as_deref().map(|text| (text, shown.words_then.as_slice()));
        return Page { pane, shape: between(pane, now, then, &shown.difference), first: 0 };
    }
    let (shape, first) = match (before, now) {
        (Some(_), _) => (between(pane, before, now, &shown.difference), 0),
        (None, Some(("", _))) => (Shape::Told("  It is empty."), 0),
        (None, Some((text, words))) => {
            let first = first_mark(text, &shown.marks).saturating_sub(2);
            (Shape::All(Text::new(text, words, &shown.marks), "", None), first)
        }
        (None, None) => (Shape::Told(NO_TEXT), 0),
    };
    Page { pane, shape, first }
}

/// What is said of a link, and of bytes that are no text.
const NO_TEXT: &str = "  It is not text.";

/// Returns what one text has that the other has not.
fn between<'a>(pane: Pane, old: Side<'a>, new: Side<'a>, lines: &'a [DiffLine]) -> Shape<'a> {
    let text = |(text, words): (&'a str, &'a [Word])| Text::new(text, words, &NONE);
    match (old, new) {
        (Some((old, _)), Some((new, _))) if old == new => Shape::Told("  Its text stays as it is."),
        (Some(old), Some(new)) => Shape::Difference(text(old), text(new), lines),
        (None, Some(new)) => Shape::All(text(new), "+", Some(pane.theme.added())),
        (Some(old), None) => Shape::All(text(old), "−", Some(pane.theme.removed())),
        (None, None) => Shape::Told(NO_TEXT),
    }
}

/// Returns the first line of a text with a mark.
fn first_mark(text: &str, marks: &FileMarks) -> usize {
    let byte = marks.bytes.first().map(|bytes| text[..bytes.start].matches('\n').count());
    byte.into_iter().chain(marks.lines.first().copied()).min().unwrap_or(0)
}

impl Page<'_> {
    /// Returns the number of lines.
    pub fn len(&self) -> usize {
        match &self.shape {
            Shape::Told(_) => 1,
            Shape::All(text, ..) => text.starts.len(),
            Shape::Difference(_, _, lines) => lines.len(),
        }
    }

    /// Returns so many lines from the one at `top` on.
    pub fn lines(&self, top: usize, most: usize) -> Vec<Line<'static>> {
        (top..self.len().min(top.saturating_add(most))).map(|at| self.line(at)).collect()
    }

    fn line(&self, at: usize) -> Line<'static> {
        let (pane, theme) = (self.pane, self.pane.theme);
        match &self.shape {
            Shape::Told(text) => Line::styled(*text, theme.faint()),
            Shape::All(text, sign, style) => text.line(pane, at, sign, *style),
            Shape::Difference(old, new, lines) => match lines[at] {
                DiffLine::Gap => Line::styled("   …", theme.faint()),
                DiffLine::Same(at) => new.line(pane, at, "", None),
                DiffLine::Removed(at) => old.line(pane, at, "−", Some(theme.removed())),
                DiffLine::Added(at) => new.line(pane, at, "+", Some(theme.added())),
            },
        }
    }
}
