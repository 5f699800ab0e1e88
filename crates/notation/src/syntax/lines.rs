//! The line rule and the indentation rule.
//!
//! A *line* here is the text between two line breaks outside tags: a tag over several lines counts
//! as one line with the text before and after it.

use super::piece::{Piece, PieceKind};
use super::tag::Tag;
use crate::span::Span;
use std::borrow::Cow;

/// The start and end of a comment in the languages around the tags.
const COMMENTS: &[(&str, &str)] = &[
    ("<!--", "-->"),
    ("/*", "*/"),
    ("(*", "*)"),
    ("#", ""),
    ("//", ""),
    ("--", ""),
    (";", ""),
    ("%", ""),
    ("::", ""),
    ("REM", ""),
];

/// Pieces alternate: text, tag, text, …, text. Cuts lines that leave no trace from the texts, and
/// sets the indentation of every value and `place`.
pub(crate) fn carry_out<'s>(source: &'s str, pieces: &mut [Piece<'s>]) {
    let body_start = if source.starts_with('\u{feff}') { '\u{feff}'.len_utf8() } else { 0 };
    let mut first = 0;
    while first + 2 < pieces.len() {
        let mut last = first + 2;
        while last + 2 < pieces.len() && !pieces[last].span.of(source).contains('\n') {
            last += 2;
        }
        line(source, pieces, first, last, body_start);
        first = last;
    }
}

/// The line that begins at the end of the text `first` and ends at the start of the text `last`.
fn line<'s>(source: &'s str, pieces: &mut [Piece<'s>], first: usize, last: usize, body_start: usize) {
    let before = pieces[first].span;
    let line_start = match memchr::memrchr(b'\n', before.of(source).as_bytes()) {
        Some(at) => before.start as usize + at + 1,
        None if first == 0 => body_start.min(before.end as usize),
        // The text was cut by the line before; what is left of it begins its own line.
        None => before.start as usize,
    };
    let after = pieces[last].span;
    let line_end = memchr::memchr(b'\n', after.of(source).as_bytes())
        .map_or(after.end, |at| after.start + at as u32 + 1);
    let head = &source[line_start..before.end as usize];
    let tail = &source[after.start as usize..line_end as usize];
    let silent = (first + 1..last).step_by(2).all(|at| match &pieces[at].kind {
        PieceKind::Tag { tag, .. } => tag.is_silent(),
        PieceKind::Text => false,
    });
    let middle_blank =
        (first + 2..last).step_by(2).all(|at| pieces[at].span.of(source).trim_ascii().is_empty());
    if silent && middle_blank && leaves_no_trace(head, tail) {
        pieces[first].span.end = line_start as u32;
        for at in (first + 2..last).step_by(2) {
            pieces[at].span.end = pieces[at].span.start;
        }
        pieces[last].span.start = line_end;
        return;
    }
    indent(source, pieces, first, last, line_start);
    if last == first + 2
        && head.trim_ascii().is_empty()
        && tail.trim_ascii().is_empty()
        && let PieceKind::Tag { tag: Tag::Place(_), alone, .. } = &mut pieces[first + 1].kind
    {
        *alone = Some(Span { start: after.start, end: line_end });
        pieces[first].span.end = line_start as u32;
        pieces[last].span.start = line_end;
    }
}

/// Returns true if `head` and `tail` of a line are white space, with at most one comment around the
/// tags.
fn leaves_no_trace(head: &str, tail: &str) -> bool {
    let (head, tail) = (head.trim_ascii(), tail.trim_ascii());
    // An empty end of a comment is found by its length: comparing with an empty text may be slow.
    let ends = |close: &str| if close.is_empty() { tail.is_empty() } else { tail == close };
    (head.is_empty() && tail.is_empty()) || COMMENTS.iter().any(|(open, close)| head == *open && ends(close))
}

/// Sets the indentation of the first value or `place` of the line, if only white space and silent
/// tags are before it.
fn indent<'s>(source: &'s str, pieces: &mut [Piece<'s>], first: usize, last: usize, line_start: usize) {
    let mut space = Cow::Borrowed(&source[line_start..pieces[first].span.end as usize]);
    for at in (first + 1..last).step_by(2) {
        if !space.bytes().all(|b| matches!(b, b' ' | b'\t')) {
            return;
        }
        if let PieceKind::Tag { tag, indent, .. } = &mut pieces[at].kind
            && !tag.is_silent()
        {
            if !matches!(tag, Tag::BetweenText(_)) {
                *indent = space;
            }
            return;
        }
        let more = pieces[at + 1].span.of(source);
        if space.is_empty() {
            space = Cow::Borrowed(more);
        } else if !more.is_empty() {
            space.to_mut().push_str(more);
        }
    }
}
