//! Expressions: their tree.

use super::lexer::{Sign, Token};
use super::tag::CaseValue;
use crate::span::Span;
use std::borrow::Cow;

/// The index of an expression in [`Parser::expressions`].
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct ExprId(pub(crate) u32);

#[derive(Clone, Debug)]
pub(crate) struct Expr<'s> {
    pub(crate) kind: ExprKind<'s>,
    pub(crate) span: Span,
    pub(super) height: u16,
}

#[derive(Clone, Debug)]
pub(crate) enum ExprKind<'s> {
    Text(Cow<'s, str>),
    Integer(i64),
    Flag(bool),
    Name(&'s str),
    List(Vec<ExprId>),
    Dotted(ExprId, Box<Dotted<'s>>),
    Not(ExprId),
    Negative(ExprId),
    Binary(Binary, ExprId, ExprId),
    If(ExprId, ExprId, ExprId),
    Match(Box<MatchExpr<'s>>),
    /// An expression with a mistake.
    Broken,
}

impl ExprKind<'_> {
    /// Returns the expressions that it is made of.
    pub(crate) fn parts(&self) -> Vec<ExprId> {
        match self {
            Self::Dotted(of, dotted) => {
                let arguments = dotted.arguments.iter().flatten().copied();
                std::iter::once(*of).chain(arguments).collect()
            }
            Self::List(elements) => elements.clone(),
            Self::Not(of) | Self::Negative(of) => vec![*of],
            Self::Binary(_, left, right) => vec![*left, *right],
            Self::If(condition, then, otherwise) => vec![*condition, *then, *otherwise],
            Self::Match(chosen) => std::iter::once(chosen.subject).chain(chosen.outcomes()).collect(),
            Self::Text(_) | Self::Integer(_) | Self::Flag(_) | Self::Name(_) | Self::Broken => Vec::new(),
        }
    }
}

/// `match … case … then … else …`.
#[derive(Clone, Debug)]
pub(crate) struct MatchExpr<'s> {
    pub(crate) subject: ExprId,
    pub(crate) cases: Vec<CaseExpr<'s>>,
    pub(crate) otherwise: Option<ExprId>,
}

#[derive(Clone, Debug)]
pub(crate) struct CaseExpr<'s> {
    pub(crate) values: Vec<CaseValue<'s>>,
    pub(crate) then: ExprId,
}

impl MatchExpr<'_> {
    /// Returns the values that it chooses from.
    pub(crate) fn outcomes(&self) -> impl Iterator<Item = ExprId> + '_ {
        self.cases.iter().map(|case| case.then).chain(self.otherwise)
    }
}

#[derive(Clone, Debug)]
pub(crate) struct Dotted<'s> {
    pub(crate) name: &'s str,
    pub(crate) name_span: Span,
    pub(crate) arguments: Option<Vec<ExprId>>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Binary {
    Or,
    And,
    Equal,
    NotEqual,
    Less,
    LessEqual,
    Greater,
    GreaterEqual,
    In,
    NotIn,
    Plus,
    Minus,
    Times,
    Divided,
    Remainder,
}

/// The tightness with which operators bind, loosest first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Level {
    Or,
    And,
    Compare,
    Sum,
    Term,
}

impl Binary {
    pub(crate) fn as_str(self) -> &'static str {
        match self {
            Self::Or => "or",
            Self::And => "and",
            Self::Equal => "==",
            Self::NotEqual => "!=",
            Self::Less => "<",
            Self::LessEqual => "<=",
            Self::Greater => ">",
            Self::GreaterEqual => ">=",
            Self::In => "in",
            Self::NotIn => "not in",
            Self::Plus => "+",
            Self::Minus => "-",
            Self::Times => "*",
            Self::Divided => "/",
            Self::Remainder => "%",
        }
    }

    pub(super) fn of(token: &Token<'_>) -> Option<(Self, Level)> {
        Some(match token {
            Token::Word("or") => (Self::Or, Level::Or),
            Token::Word("and") => (Self::And, Level::And),
            Token::Word("in") => (Self::In, Level::Compare),
            Token::Word("not") => (Self::NotIn, Level::Compare),
            Token::Sign(sign) => match sign {
                Sign::Equal => (Self::Equal, Level::Compare),
                Sign::NotEqual => (Self::NotEqual, Level::Compare),
                Sign::Less => (Self::Less, Level::Compare),
                Sign::LessEqual => (Self::LessEqual, Level::Compare),
                Sign::Greater => (Self::Greater, Level::Compare),
                Sign::GreaterEqual => (Self::GreaterEqual, Level::Compare),
                Sign::Plus => (Self::Plus, Level::Sum),
                Sign::Minus => (Self::Minus, Level::Sum),
                Sign::Star => (Self::Times, Level::Term),
                Sign::Slash => (Self::Divided, Level::Term),
                Sign::Percent => (Self::Remainder, Level::Term),
                _ => return None,
            },
            _ => return None,
        })
    }
}
