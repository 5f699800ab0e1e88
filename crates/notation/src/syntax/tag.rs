//! A tag: the source between two marks.

use super::expression::{ExprId, ExprKind};
use super::lexer::{Sign, Token};
use super::parser::Parser;
use super::{Failed, Findings};
use crate::finding::Code;
use crate::span::Span;
use std::borrow::Cow;

#[derive(Debug)]
pub(crate) enum Tag<'s> {
    Value(ExprId),
    If(ExprId),
    ElseIf(ExprId),
    Else,
    Match(ExprId),
    Case(Vec<CaseValue<'s>>),
    For(Box<ForHead<'s>>),
    Between,
    BetweenText(Cow<'s, str>),
    Let(Named<'s>),
    Place(Box<PlaceHead<'s>>),
    /// `end`, and the tag whose block it says to end.
    End(Option<&'s str>),
    AsIs,
    Note,
    /// A mistake that a finding reports.
    Broken,
}

impl Tag<'_> {
    /// Returns true if it renders nothing, so that a line of such tags leaves no trace.
    pub(crate) fn is_silent(&self) -> bool {
        !matches!(self, Self::Value(_) | Self::Place(_) | Self::BetweenText(_))
    }
}

#[derive(Clone, Debug)]
pub(crate) struct CaseValue<'s> {
    pub(crate) literal: Literal<'s>,
    pub(crate) span: Span,
}

#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Literal<'s> {
    Text(Cow<'s, str>),
    Integer(i64),
}

#[derive(Debug)]
pub(crate) struct ForHead<'s> {
    pub(crate) element: (&'s str, Span),
    pub(crate) counter: Option<(&'s str, Span)>,
    pub(crate) list: ExprId,
    pub(crate) filter: Option<ExprId>,
}

/// `x = EXPR`.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Named<'s> {
    pub(crate) name: &'s str,
    pub(crate) span: Span,
    pub(crate) value: ExprId,
}

#[derive(Debug)]
pub(crate) struct PlaceHead<'s> {
    pub(crate) fragment: Cow<'s, str>,
    pub(crate) span: Span,
    pub(crate) given: Vec<Named<'s>>,
}

/// Reads the tag whose opening mark is at `opening`; afterwards the lexer is after the closing
/// mark.
pub(crate) fn read<'s>(parser: &mut Parser<'s>, opening: Span) -> Tag<'s> {
    let source = parser.lexer.source;
    let inside = opening.end as usize;
    let rest = &source[inside..];
    let word_at = inside + (rest.len() - rest.trim_ascii_start().len());
    let head = &source[word_at..];
    let first = head.bytes().next().unwrap_or(b' ');
    if first == b'n' && is_note(head) {
        return to_closing_mark(parser, opening, word_at, Tag::Note);
    }
    if first == b'a' && head.starts_with("as-is") {
        return match to_closing_mark(parser, opening, word_at + 5, Tag::AsIs) {
            Tag::AsIs if source[word_at + 5..parser.lexer.at - mark_length(parser)].trim().is_empty() => {
                Tag::AsIs
            }
            Tag::AsIs => {
                let span = Span::new(word_at, parser.lexer.at);
                parser.findings.add(
                    Code::Unexpected,
                    span,
                    "`as-is` takes nothing",
                    "close the tag after `as-is`",
                );
                Tag::AsIs
            }
            other => other,
        };
    }
    let word = head.split(|c: char| !c.is_ascii_alphanumeric() && c != '_').next().unwrap_or("");
    if let Some(meant) = FOREIGN.iter().find(|foreign| foreign.word == word) {
        return foreign(parser, opening, word_at, meant);
    }
    if let Some(tag) = one_name(parser, word_at) {
        return tag;
    }
    match parser.start(inside, opening).and_then(|()| tag(parser)) {
        Ok(tag) => tag,
        Err(Failed) => recover(parser, opening, word),
    }
}

/// The words after `end` that say what it ends.
const ENDED: [&str; 3] = ["if", "match", "for"];

/// A word of other languages, reserved so that it is told apart from a name.
struct Foreign {
    word: &'static str,
    /// What the notation says instead.
    instead: &'static str,
    ends: bool,
}

const FOREIGN: [Foreign; 6] = [
    Foreign { word: "elif", instead: "else if", ends: false },
    Foreign { word: "elseif", instead: "else if", ends: false },
    Foreign { word: "elsif", instead: "else if", ends: false },
    Foreign { word: "endif", instead: "end", ends: true },
    Foreign { word: "endfor", instead: "end", ends: true },
    Foreign { word: "endmatch", instead: "end", ends: true },
];

/// Reports a word of other languages and reads the tag as what it means there.
fn foreign<'s>(parser: &mut Parser<'s>, opening: Span, word_at: usize, meant: &Foreign) -> Tag<'s> {
    let span = Span::new(word_at, word_at + meant.word.len());
    let message = format!("the notation has no `{}`", meant.word);
    parser.findings.add(Code::Unexpected, span, message, format!("write `{}`", meant.instead));
    parser.closed = false;
    parser.lexer.at = span.end as usize;
    match recover(parser, opening, if meant.ends { "end" } else { "" }) {
        Tag::Broken if !meant.ends => {
            let span = Span::new(opening.start as usize, parser.lexer.at);
            Tag::ElseIf(parser.broken(span))
        }
        tag => tag,
    }
}

/// Returns the tag that most tags are, a name and nothing else, read without going through tokens.
fn one_name<'s>(parser: &mut Parser<'s>, word_at: usize) -> Option<Tag<'s>> {
    let rest = &parser.lexer.source.as_bytes()[word_at..];
    let length = rest.iter().position(|b| !b.is_ascii_alphanumeric() && *b != b'_')?;
    let space = rest[length..].iter().position(|b| !b.is_ascii_whitespace())?;
    let close = parser.lexer.close().as_bytes();
    if space == 0 || !rest[length + space..].starts_with(close) {
        return None;
    }
    let word = &parser.lexer.source[word_at..word_at + length];
    let value = parser.plain_name(word, word_at)?;
    parser.lexer.at = word_at + length + space + close.len();
    Some(Tag::Value(value))
}

fn mark_length(parser: &Parser<'_>) -> usize {
    parser.lexer.close().len()
}

fn is_note(head: &str) -> bool {
    head.strip_prefix("note")
        .is_some_and(|rest| !rest.starts_with(|c: char| c.is_ascii_alphanumeric() || c == '_'))
}

/// Jumps after the first closing mark after `from`, whatever comes before it.
fn to_closing_mark<'s>(parser: &mut Parser<'s>, opening: Span, from: usize, tag: Tag<'s>) -> Tag<'s> {
    let source = parser.lexer.source;
    let close = parser.lexer.close();
    match memchr::memmem::find(&source.as_bytes()[from..], close.as_bytes()) {
        Some(found) => {
            parser.lexer.at = from + found + close.len();
            tag
        }
        None => {
            parser.findings.add(
                Code::UnclosedTag,
                opening,
                "this tag is not closed",
                format!("close it with `{close}`"),
            );
            parser.lexer.at = source.len();
            Tag::Broken
        }
    }
}

/// After a mistake, goes on after the closing mark, and still opens the block that the tag's first
/// word begins.
fn recover<'s>(parser: &mut Parser<'s>, opening: Span, head: &str) -> Tag<'s> {
    let mut unheard = Findings::new(std::sync::Arc::clone(&parser.findings.file));
    if !parser.closed {
        std::mem::swap(&mut parser.findings, &mut unheard);
        let at = parser.lexer.at;
        to_closing_mark(parser, opening, at, Tag::Broken);
        std::mem::swap(&mut parser.findings, &mut unheard);
    }
    let span = Span::new(opening.start as usize, parser.lexer.at);
    let mut words = span.of(parser.lexer.source).split_ascii_whitespace();
    let is_value = words.any(|word| word == "then" || (word == "case" && head == "match"));
    match head {
        "if" | "match" if is_value => Tag::Broken,
        "if" => Tag::If(parser.broken(span)),
        "else" => Tag::Else,
        "match" => Tag::Match(parser.broken(span)),
        "case" => Tag::Case(Vec::new()),
        "end" => Tag::End(None),
        "for" => {
            let list = parser.broken(span);
            Tag::For(Box::new(ForHead { element: ("", span), counter: None, list, filter: None }))
        }
        _ => Tag::Broken,
    }
}

fn tag<'s>(parser: &mut Parser<'s>) -> Result<Tag<'s>, Failed> {
    let start = parser.look_span;
    let tag = match &parser.look {
        Token::Word("if") => {
            parser.advance()?;
            let condition = parser.or()?;
            if parser.take_word("then")? {
                Tag::Value(parser.then_else(start, condition)?)
            } else {
                Tag::If(condition)
            }
        }
        Token::Word("else") => {
            parser.advance()?;
            if parser.take_word("if")? { Tag::ElseIf(parser.or()?) } else { Tag::Else }
        }
        Token::Word("end") => {
            parser.advance()?;
            let ended = ENDED.into_iter().find(|word| parser.is_word(word));
            if ended.is_some() {
                parser.advance()?;
            }
            Tag::End(ended)
        }
        Token::Word("match") => {
            parser.advance()?;
            let subject = parser.expression()?;
            match parser.is_word("case") {
                true => Tag::Value(parser.cases(start, subject)?),
                false => Tag::Match(subject),
            }
        }
        Token::Word("case") => {
            parser.advance()?;
            Tag::Case(case_values(parser)?)
        }
        Token::Word("for") => {
            parser.advance()?;
            for_head(parser)?
        }
        Token::Word("between") => {
            parser.advance()?;
            match &parser.look {
                Token::Text(text) => {
                    let text = text.clone();
                    parser.advance()?;
                    Tag::BetweenText(text)
                }
                _ => Tag::Between,
            }
        }
        Token::Word("let") => {
            parser.advance()?;
            Tag::Let(named(parser)?)
        }
        Token::Word("place") => {
            parser.advance()?;
            place(parser)?
        }
        _ => Tag::Value(parser.expression()?),
    };
    parser.expect_close()?;
    Ok(tag)
}

/// The values of a case, from behind `case`.
pub(crate) fn case_values<'s>(parser: &mut Parser<'s>) -> Result<Vec<CaseValue<'s>>, Failed> {
    let mut values = Vec::new();
    loop {
        let start = parser.look_span;
        let value = parser.or()?;
        let span = parser.span(value);
        let literal = match &parser.expressions[value.0 as usize].kind {
            ExprKind::Text(text) => Literal::Text(text.clone()),
            ExprKind::Integer(number) => Literal::Integer(*number),
            ExprKind::Negative(inner) => match &parser.expressions[inner.0 as usize].kind {
                ExprKind::Integer(number) => Literal::Integer(-*number),
                _ => return no_literal(parser, start.to(span)),
            },
            _ => return no_literal(parser, start.to(span)),
        };
        values.push(CaseValue { literal, span });
        if !parser.is_sign(Sign::Comma) {
            return Ok(values);
        }
        parser.advance()?;
    }
}

fn no_literal<T>(parser: &mut Parser<'_>, span: Span) -> Result<T, Failed> {
    let help = "name the values as they are: `case \"flask\"` or `case 3`";
    parser.findings.add(Code::Unexpected, span, "a case is a text or an integer, written out", help);
    Err(Failed)
}

fn for_head<'s>(parser: &mut Parser<'s>) -> Result<Tag<'s>, Failed> {
    let element = parser.name("a name for the element after `for`")?;
    let counter = if parser.is_sign(Sign::Comma) {
        parser.advance()?;
        Some(parser.name("a name for the counter")?)
    } else {
        None
    };
    parser.expect_word("in", "and a list")?;
    let list = parser.or()?;
    let filter = if parser.take_word("if")? { Some(parser.expression()?) } else { None };
    Ok(Tag::For(Box::new(ForHead { element, counter, list, filter })))
}

fn named<'s>(parser: &mut Parser<'s>) -> Result<Named<'s>, Failed> {
    let (name, span) = parser.name("a name")?;
    parser.expect_sign(Sign::Is, "after the name")?;
    Ok(Named { name, span, value: parser.expression()? })
}

fn place<'s>(parser: &mut Parser<'s>) -> Result<Tag<'s>, Failed> {
    let span = parser.look_span;
    let Token::Text(fragment) = parser.look.clone() else {
        return parser.unexpected("the name of a fragment in quotes");
    };
    parser.advance()?;
    let mut given = Vec::new();
    if parser.take_word("given")? {
        loop {
            given.push(named(parser)?);
            if !parser.is_sign(Sign::Comma) {
                break;
            }
            parser.advance()?;
        }
    }
    Ok(Tag::Place(Box::new(PlaceHead { fragment, span, given })))
}
