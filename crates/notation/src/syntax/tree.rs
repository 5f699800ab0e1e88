//! The tree: texts, values and nested blocks.

use super::expression::{Expr, ExprId};
use super::piece::{Piece, PieceKind};
use super::pieces::Pieces;
use super::tag::{CaseValue, ForHead, Named, PlaceHead, Tag};
use super::{Findings, MOST_BLOCK_DEPTH};
use crate::finding::Code;
use crate::span::Span;
use std::borrow::Cow;

pub(crate) type Block<'s> = Vec<Node<'s>>;

#[derive(Debug)]
pub(crate) enum Node<'s> {
    Text(&'s str),
    Value(ExprId, Cow<'s, str>),
    If {
        branches: Vec<Branch<'s>>,
        otherwise: Option<(Span, Block<'s>)>,
        end: Span,
    },
    Match {
        span: Span,
        subject: ExprId,
        cases: Vec<Case<'s>>,
        otherwise: Option<(Span, Block<'s>)>,
        end: Span,
    },
    For {
        span: Span,
        head: Box<ForHead<'s>>,
        body: Block<'s>,
        between: Option<(Span, Block<'s>)>,
        end: Span,
    },
    BetweenText(Cow<'s, str>, Span),
    Let(Named<'s>),
    Place {
        head: Box<PlaceHead<'s>>,
        span: Span,
        indent: Cow<'s, str>,
        /// The text after a `place` that is alone on its line.
        alone: Option<&'s str>,
    },
}

#[derive(Debug)]
pub(crate) struct Branch<'s> {
    pub(crate) span: Span,
    pub(crate) condition: ExprId,
    pub(crate) block: Block<'s>,
}

#[derive(Debug)]
pub(crate) struct Case<'s> {
    pub(crate) span: Span,
    pub(crate) values: Vec<CaseValue<'s>>,
    pub(crate) block: Block<'s>,
}

#[derive(Debug)]
pub(crate) struct Tree<'s> {
    pub(crate) root: Block<'s>,
    pub(crate) expressions: Vec<Expr<'s>>,
    pub(crate) findings: Findings,
}

/// A block that is being read.
struct Open<'s> {
    span: Span,
    kind: OpenKind<'s>,
    /// The blocks of an outer kind wait here while this one is filled.
    outer: Block<'s>,
}

enum OpenKind<'s> {
    If {
        done: Vec<Branch<'s>>,
        condition: ExprId,
        tag: Span,
    },
    IfElse {
        done: Vec<Branch<'s>>,
        tag: Span,
    },
    Match {
        subject: ExprId,
    },
    Case {
        subject: ExprId,
        done: Vec<Case<'s>>,
        values: Vec<CaseValue<'s>>,
        tag: Span,
    },
    MatchElse {
        subject: ExprId,
        done: Vec<Case<'s>>,
        tag: Span,
    },
    For {
        head: Box<ForHead<'s>>,
    },
    Between {
        head: Box<ForHead<'s>>,
        body: Block<'s>,
        tag: Span,
    },
    AsIs,
    /// A block too deep, or one that a mistake left without meaning.
    Dropped,
}

impl OpenKind<'_> {
    /// Returns the word of the tag that opened it; `None` if a mistake left it without meaning.
    fn word(&self) -> Option<&'static str> {
        Some(match self {
            Self::If { .. } | Self::IfElse { .. } => "if",
            Self::Match { .. } | Self::Case { .. } | Self::MatchElse { .. } => "match",
            Self::For { .. } | Self::Between { .. } => "for",
            Self::AsIs => "as-is",
            Self::Dropped => return None,
        })
    }
}

/// Nests what belongs into blocks.
pub(crate) fn nest<'s>(source: &'s str, pieces: Pieces<'s>) -> Tree<'s> {
    let Pieces { pieces, expressions, findings } = pieces;
    let mut builder = Builder { source, open: Vec::new(), block: Vec::with_capacity(pieces.len()), findings };
    for piece in pieces {
        builder.piece(piece);
    }
    while let Some(open) = builder.open.last() {
        let span = open.span;
        builder.findings.add(Code::UnclosedBlock, span, "no `end` closes this", "put `end` where it stops");
        builder.end(span, None);
    }
    Tree { root: builder.block, expressions, findings: builder.findings }
}

struct Builder<'s> {
    source: &'s str,
    open: Vec<Open<'s>>,
    block: Block<'s>,
    findings: Findings,
}

impl<'s> Builder<'s> {
    fn piece(&mut self, piece: Piece<'s>) {
        let span = piece.span;
        let (tag, indent, alone) = match piece.kind {
            PieceKind::Text => {
                if span.end > span.start {
                    self.block.push(Node::Text(&self.source[span.range()]));
                }
                return;
            }
            PieceKind::Tag { tag, indent, alone } => (tag, indent, alone),
        };
        match tag {
            Tag::Value(value) => self.block.push(Node::Value(value, indent)),
            Tag::BetweenText(text) => self.block.push(Node::BetweenText(text, span)),
            Tag::Let(named) => self.block.push(Node::Let(named)),
            Tag::Place(head) => {
                let alone = alone.map(|tail| tail.of(self.source));
                self.block.push(Node::Place { head, span, indent, alone });
            }
            Tag::Note | Tag::Broken => {}
            Tag::If(condition) => {
                self.enter(span, OpenKind::If { done: Vec::new(), condition, tag: span });
            }
            Tag::Match(subject) => self.enter(span, OpenKind::Match { subject }),
            Tag::For(head) => self.enter(span, OpenKind::For { head }),
            Tag::AsIs => self.enter(span, OpenKind::AsIs),
            Tag::ElseIf(condition) => self.else_if(span, condition),
            Tag::Else => self.otherwise(span),
            Tag::Case(values) => self.case(span, values),
            Tag::Between => self.between(span),
            Tag::End(ended) => self.end(span, ended),
        }
    }

    fn enter(&mut self, span: Span, kind: OpenKind<'s>) {
        let deep = self.open.len() >= MOST_BLOCK_DEPTH;
        if deep && !self.open.iter().any(|open| matches!(open.kind, OpenKind::Dropped)) {
            let message = format!("blocks are nested more than {MOST_BLOCK_DEPTH} deep here");
            self.findings.add(Code::TooDeep, span, message, "move the inner blocks into a fragment");
        }
        let kind = if deep { OpenKind::Dropped } else { kind };
        self.open.push(Open { span, kind, outer: std::mem::take(&mut self.block) });
    }

    fn stray(&mut self, span: Span, word: &str, owner: &str) {
        let message = format!("this `{word}` belongs to nothing");
        self.findings.add(Code::StrayTag, span, message, format!("`{word}` belongs {owner}"));
    }

    fn else_if(&mut self, span: Span, next: ExprId) {
        match self.open.last_mut() {
            Some(Open { kind: OpenKind::If { done, condition, tag }, .. }) => {
                let block = std::mem::take(&mut self.block);
                done.push(Branch { span: *tag, condition: *condition, block });
                (*condition, *tag) = (next, span);
            }
            Some(Open { kind: OpenKind::Dropped, .. }) => {}
            _ => self.stray(span, "else if", "inside an `if`, before its `else`"),
        }
    }

    fn otherwise(&mut self, span: Span) {
        let Some(Open { span: start, kind, outer }) = self.open.pop() else {
            return self.stray(span, "else", "inside an `if` or a `match`");
        };
        let block = std::mem::take(&mut self.block);
        let kind = match kind {
            OpenKind::If { mut done, condition, tag } => {
                done.push(Branch { span: tag, condition, block });
                OpenKind::IfElse { done, tag: span }
            }
            OpenKind::Match { subject } => {
                self.before_first_case(start, &block);
                OpenKind::MatchElse { subject, done: Vec::new(), tag: span }
            }
            OpenKind::Case { subject, mut done, values, tag } => {
                done.push(Case { span: tag, values, block });
                OpenKind::MatchElse { subject, done, tag: span }
            }
            OpenKind::Dropped => OpenKind::Dropped,
            other => {
                self.block = block;
                self.stray(span, "else", "once, inside an `if` or a `match`");
                other
            }
        };
        self.open.push(Open { span: start, kind, outer });
    }

    fn case(&mut self, span: Span, next: Vec<CaseValue<'s>>) {
        let block = std::mem::take(&mut self.block);
        let Some(open) = self.open.last_mut() else {
            self.block = block;
            return self.stray(span, "case", "inside a `match`, before its `else`");
        };
        let start = open.span;
        match &mut open.kind {
            OpenKind::Match { subject } => {
                open.kind = OpenKind::Case { subject: *subject, done: Vec::new(), values: next, tag: span };
                self.before_first_case(start, &block);
            }
            OpenKind::Case { done, values, tag, .. } => {
                let (values, before) = (std::mem::replace(values, next), std::mem::replace(tag, span));
                done.push(Case { span: before, values, block });
            }
            OpenKind::Dropped => {}
            _ => {
                self.block = block;
                self.stray(span, "case", "inside a `match`, before its `else`");
            }
        }
    }

    /// Only white space may come between `match` and its first case.
    fn before_first_case(&mut self, start: Span, block: &Block<'s>) {
        if block.iter().any(|node| !matches!(node, Node::Text(text) if text.trim_ascii().is_empty())) {
            let message = "there is text between this `match` and its first `case`";
            self.findings.add(Code::StrayTag, start, message, "begin with a `case`");
        }
    }

    fn between(&mut self, span: Span) {
        match self.open.pop() {
            Some(Open { span: start, kind: OpenKind::For { head }, outer }) => {
                let body = std::mem::take(&mut self.block);
                self.open.push(Open {
                    span: start,
                    kind: OpenKind::Between { head, body, tag: span },
                    outer,
                });
            }
            other => {
                let dropped = matches!(&other, Some(Open { kind: OpenKind::Dropped, .. }));
                self.open.extend(other);
                if !dropped {
                    self.stray(span, "between", "once, directly inside a `for`");
                }
            }
        }
    }

    fn end(&mut self, span: Span, ended: Option<&str>) {
        let Some(Open { span: start, kind, outer }) = self.open.pop() else {
            return self.findings.add(
                Code::StrayTag,
                span,
                "this `end` closes nothing",
                "there is one `end` too many, or the opening tag above it is broken",
            );
        };
        if let (Some(ended), Some(word)) = (ended, kind.word())
            && ended != word
        {
            let line =
                1 + memchr::memchr_iter(b'\n', &self.source.as_bytes()[..start.start as usize]).count();
            let message = format!("this says that it ends `{ended}`, and ends the `{word}` of line {line}");
            let help = format!("write `end {word}`, or close the blocks inside it first");
            self.findings.add(Code::WrongEnd, span, message, help);
        }
        let block = std::mem::replace(&mut self.block, outer);
        let node = match kind {
            OpenKind::If { mut done, condition, tag } => {
                done.push(Branch { span: tag, condition, block });
                Node::If { branches: done, otherwise: None, end: span }
            }
            OpenKind::IfElse { done, tag } => {
                Node::If { branches: done, otherwise: Some((tag, block)), end: span }
            }
            OpenKind::Match { subject } => {
                Node::Match { span: start, subject, cases: Vec::new(), otherwise: None, end: span }
            }
            OpenKind::Case { subject, mut done, values, tag } => {
                done.push(Case { span: tag, values, block });
                Node::Match { span: start, subject, cases: done, otherwise: None, end: span }
            }
            OpenKind::MatchElse { subject, done, tag } => {
                Node::Match { span: start, subject, cases: done, otherwise: Some((tag, block)), end: span }
            }
            OpenKind::For { head } => Node::For { span: start, head, body: block, between: None, end: span },
            OpenKind::Between { head, body, tag } => {
                Node::For { span: start, head, body, between: Some((tag, block)), end: span }
            }
            OpenKind::AsIs => return self.block.extend(block),
            OpenKind::Dropped => return,
        };
        self.block.push(node);
    }
}
