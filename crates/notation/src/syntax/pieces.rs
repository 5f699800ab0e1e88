//! A body cut into its texts and tags.

use super::Findings;
use super::expression::Expr;
use super::lines;
use super::parser::Parser;
use super::piece::{Piece, PieceKind};
use super::tag::{self, Tag};
use crate::marks::Marks;
use crate::span::Span;
use std::borrow::Cow;

/// The pieces of a source, the expressions in its tags, and the findings so far.
#[derive(Debug)]
pub(crate) struct Pieces<'s> {
    pub(crate) pieces: Vec<Piece<'s>>,
    pub(crate) expressions: Vec<Expr<'s>>,
    pub(crate) findings: Findings,
}

/// Cuts `source` and carries out the line rule.
pub(crate) fn cut<'s>(source: &'s str, marks: &'s Marks, findings: Findings, rules: bool) -> Pieces<'s> {
    let mut parser = Parser::new(source, marks.close(), findings);
    let read = |opening| {
        let tag = tag::read(&mut parser, opening);
        Some((tag, parser.lexer.at))
    };
    // Capacity for most texts: few tags in short ones, and rarely more than one in five lines.
    let mut pieces = Vec::with_capacity((8 + source.len() / 256).min(64));
    // Here every tag is read.
    let _ = cut_by(source, marks, rules, read, &mut pieces);
    Pieces { pieces, expressions: parser.expressions, findings: parser.findings }
}

/// Does the same with `read`, which takes the span of an opening mark and returns the tag and its
/// end, into the empty `pieces`. Returns `None` if `read` does.
pub(crate) fn cut_by<'s>(
    source: &'s str,
    marks: &Marks,
    rules: bool,
    mut read: impl FnMut(Span) -> Option<(Tag<'s>, usize)>,
    pieces: &mut Vec<Piece<'s>>,
) -> Option<()> {
    let mut at = 0;
    while let Some(found) = marks.find(&source[at..]) {
        let open = at + found;
        pieces.push(Piece { kind: PieceKind::Text, span: Span::new(at, open) });
        let (tag, end) = read(Span::new(open, open + marks.open().len()))?;
        at = end;
        let is_as_is = matches!(tag, Tag::AsIs);
        pieces.push(piece(tag, open, at));
        if is_as_is {
            let end = end_of_as_is(&source[at..], marks);
            pieces.push(Piece { kind: PieceKind::Text, span: Span::new(at, at + end.0) });
            if end.1 > end.0 {
                pieces.push(piece(Tag::End(None), at + end.0, at + end.1));
            }
            at += end.1;
        }
    }
    pieces.push(Piece { kind: PieceKind::Text, span: Span::new(at, source.len()) });
    if rules && pieces.len() > 1 {
        lines::carry_out(source, pieces);
    }
    Some(())
}

/// Returns the room that the pieces of one source took, for those of another.
pub(crate) fn room<'s>(mut pieces: Vec<Piece<'_>>) -> Vec<Piece<'s>> {
    pieces.clear();
    // There are none, and what a list of none is collected from gives its room to that.
    pieces.into_iter().map_while(|_| None).collect()
}

fn piece<'s>(tag: Tag<'s>, start: usize, end: usize) -> Piece<'s> {
    let kind = PieceKind::Tag { tag, indent: Cow::Borrowed(""), alone: None };
    Piece { kind, span: Span::new(start, end) }
}

/// Start and end of the first `end` tag in `rest`; both the length of `rest` where there is none.
fn end_of_as_is(rest: &str, marks: &Marks) -> (usize, usize) {
    let mut at = 0;
    while let Some(found) = marks.find(&rest[at..]) {
        let open = at + found;
        let inside = rest[open + marks.open().len()..].trim_ascii_start();
        if let Some(after) = inside.strip_prefix("end").map(str::trim_ascii_start)
            && let after = after.strip_prefix("as-is").map_or(after, str::trim_ascii_start)
            && after.starts_with(marks.close())
        {
            return (open, rest.len() - after.len() + marks.close().len());
        }
        at = open + 1;
    }
    (rest.len(), rest.len())
}
