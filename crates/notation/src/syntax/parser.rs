//! The parser: tokens become expressions, by the grammar of the reference.

use super::expression::{Binary, CaseExpr, Dotted, Expr, ExprId, ExprKind, Level, MatchExpr};
use super::lexer::{Lexer, Sign, Token};
use super::tag::case_values;
use super::{Failed, Findings, MOST_EXPRESSION_DEPTH};
use crate::finding::Code;
use crate::span::Span;

#[derive(Debug)]
pub(crate) struct Parser<'s> {
    pub(crate) lexer: Lexer<'s>,
    pub(crate) look: Token<'s>,
    pub(crate) look_span: Span,
    /// The opening mark of the tag that is read.
    pub(crate) opening: Span,
    pub(crate) expressions: Vec<Expr<'s>>,
    pub(crate) findings: Findings,
    /// True if the closing mark of the current tag was read.
    pub(crate) closed: bool,
    last_end: u32,
    depth: u16,
}

impl<'s> Parser<'s> {
    /// Reads from `source`; `close` is the closing mark, empty where the source is one expression.
    pub(crate) fn new(source: &'s str, close: &'s str, findings: Findings) -> Self {
        Self {
            lexer: Lexer::new(source, 0, close),
            look: Token::Close,
            look_span: Span::default(),
            opening: Span::default(),
            expressions: Vec::with_capacity(if close.is_empty() { 4 } else { 32 }),
            findings,
            closed: false,
            last_end: 0,
            depth: 0,
        }
    }

    /// Starts to read at the byte `at`.
    pub(crate) fn start(&mut self, at: usize, opening: Span) -> Result<(), Failed> {
        self.lexer.at = at;
        self.opening = opening;
        self.depth = 0;
        self.closed = false;
        self.fill()
    }

    fn fill(&mut self) -> Result<(), Failed> {
        (self.look, self.look_span) = self.lexer.next(self.opening, &mut self.findings)?;
        self.closed = self.look == Token::Close;
        Ok(())
    }

    pub(crate) fn advance(&mut self) -> Result<Token<'s>, Failed> {
        let token = std::mem::replace(&mut self.look, Token::Close);
        self.last_end = self.look_span.end;
        if token != Token::Close {
            self.fill()?;
        }
        Ok(token)
    }

    pub(crate) fn is_word(&self, word: &str) -> bool {
        self.look == Token::Word(word)
    }

    pub(crate) fn is_sign(&self, sign: Sign) -> bool {
        self.look == Token::Sign(sign)
    }

    /// Reads the word or gives false.
    pub(crate) fn take_word(&mut self, word: &str) -> Result<bool, Failed> {
        let there = self.is_word(word);
        if there {
            self.advance()?;
        }
        Ok(there)
    }

    fn take_sign(&mut self, sign: Sign) -> Result<bool, Failed> {
        let there = self.is_sign(sign);
        if there {
            self.advance()?;
        }
        Ok(there)
    }

    pub(crate) fn expect_sign(&mut self, sign: Sign, after: &str) -> Result<(), Failed> {
        if self.take_sign(sign)? {
            return Ok(());
        }
        self.unexpected(&format!("`{}` {after}", sign.as_str()))
    }

    pub(crate) fn expect_word(&mut self, word: &str, after: &str) -> Result<(), Failed> {
        if self.take_word(word)? {
            return Ok(());
        }
        self.unexpected(&format!("`{word}` {after}"))
    }

    /// Returns the end of the tag; its closing mark is read.
    pub(crate) fn expect_close(&mut self) -> Result<(), Failed> {
        if self.look == Token::Close {
            return Ok(());
        }
        self.unexpected(if self.lexer_has_marks() {
            "the end of the tag"
        } else {
            "the end of the expression"
        })
    }

    fn lexer_has_marks(&self) -> bool {
        self.opening.end > self.opening.start
    }

    /// Makes a finding with what was expected instead of the current token.
    pub(crate) fn unexpected<T>(&mut self, expected: &str) -> Result<T, Failed> {
        let found = match &self.look {
            Token::Word(word) => format!("found `{word}`"),
            Token::Integer(number) => format!("found `{number}`"),
            Token::Text(_) => "found a text".to_owned(),
            Token::Sign(sign) => format!("found `{}`", sign.as_str()),
            Token::Close => "it ends here".to_owned(),
        };
        let help = match (&self.look, expected) {
            (Token::Sign(Sign::Is), _) => "values are compared with `==`",
            (Token::Sign(Sign::OpenParen), _) => "only views take arguments: `name.indent(4)`",
            _ => "",
        };
        self.findings.add(Code::Unexpected, self.look_span, format!("expected {expected}, {found}"), help);
        Err(Failed)
    }

    pub(crate) fn name(&mut self, what: &str) -> Result<(&'s str, Span), Failed> {
        match self.look {
            Token::Word(word) => {
                let span = self.look_span;
                self.advance()?;
                Ok((word, span))
            }
            _ => self.unexpected(what),
        }
    }

    fn add(&mut self, kind: ExprKind<'s>, span: Span, height: u16) -> Result<ExprId, Failed> {
        if height > MOST_EXPRESSION_DEPTH {
            return self.too_deep(span);
        }
        let id = ExprId(u32::try_from(self.expressions.len()).unwrap_or(u32::MAX));
        self.expressions.push(Expr { kind, span, height: height + 1 });
        Ok(id)
    }

    /// Returns the expression of a word that is a name; none if it is no name or means something else.
    pub(crate) fn plain_name(&mut self, word: &'s str, at: usize) -> Option<ExprId> {
        let starts = word.bytes().next().is_some_and(|b| !b.is_ascii_digit());
        if !starts || is_syntax(word) || matches!(word, "true" | "false") {
            return None;
        }
        self.add(ExprKind::Name(word), Span::new(at, at + word.len()), 0).ok()
    }

    fn too_deep<T>(&mut self, span: Span) -> Result<T, Failed> {
        let message = format!("this expression is nested more than {MOST_EXPRESSION_DEPTH} deep");
        self.findings.add(Code::TooDeep, span, message, "name parts of it with `let`");
        Err(Failed)
    }

    pub(crate) fn broken(&mut self, span: Span) -> ExprId {
        self.add(ExprKind::Broken, span, 0).unwrap_or(ExprId(0))
    }

    fn height(&self, id: ExprId) -> u16 {
        self.expressions[id.0 as usize].height
    }

    pub(crate) fn span(&self, id: ExprId) -> Span {
        self.expressions[id.0 as usize].span
    }

    fn since(&self, start: Span) -> Span {
        Span { start: start.start, end: self.last_end }
    }

    fn deeper<T>(&mut self, read: impl FnOnce(&mut Self) -> Result<T, Failed>) -> Result<T, Failed> {
        if self.depth >= MOST_EXPRESSION_DEPTH {
            return self.too_deep(self.look_span);
        }
        self.depth += 1;
        let result = read(self);
        self.depth -= 1;
        result
    }

    /// `expr` of the grammar.
    pub(crate) fn expression(&mut self) -> Result<ExprId, Failed> {
        let start = self.look_span;
        if self.take_word("match")? {
            let subject = self.or()?;
            return self.cases(start, subject);
        }
        if !self.take_word("if")? {
            return self.or();
        }
        let condition = self.or()?;
        self.expect_word("then", "after the condition")?;
        self.then_else(start, condition)
    }

    /// Returns the rest of `if … then … else …`, from behind `then`.
    pub(crate) fn then_else(&mut self, start: Span, condition: ExprId) -> Result<ExprId, Failed> {
        self.deeper(|parser| {
            let then = parser.expression()?;
            parser.expect_word("else", "and the other value")?;
            let otherwise = parser.expression()?;
            let height = parser.height(condition).max(parser.height(then)).max(parser.height(otherwise));
            let span = parser.since(start);
            parser.add(ExprKind::If(condition, then, otherwise), span, height)
        })
    }

    /// Returns the rest of `match … case … then … else …`, from behind the subject.
    pub(crate) fn cases(&mut self, start: Span, subject: ExprId) -> Result<ExprId, Failed> {
        self.deeper(|parser| {
            let mut cases = Vec::new();
            let mut height = parser.height(subject);
            while parser.take_word("case")? {
                let values = case_values(parser)?;
                parser.expect_word("then", "after the values of the case")?;
                let then = parser.expression()?;
                height = height.max(parser.height(then));
                cases.push(CaseExpr { values, then });
            }
            if cases.is_empty() {
                return parser.unexpected("`case` after the value to choose by");
            }
            let otherwise = if parser.take_word("else")? { Some(parser.expression()?) } else { None };
            height = otherwise.map_or(height, |otherwise| height.max(parser.height(otherwise)));
            let span = parser.since(start);
            parser.add(ExprKind::Match(Box::new(MatchExpr { subject, cases, otherwise })), span, height)
        })
    }

    /// `or` of the grammar.
    pub(crate) fn or(&mut self) -> Result<ExprId, Failed> {
        self.deeper(|parser| parser.binary(Level::Or))
    }

    fn binary(&mut self, level: Level) -> Result<ExprId, Failed> {
        let start = self.look_span;
        let mut left = if level <= Level::And && self.is_word("not") {
            self.advance()?;
            let operand = self.deeper(Self::negated)?;
            let (height, span) = (self.height(operand), self.since(start));
            self.add(ExprKind::Not(operand), span, height)?
        } else {
            self.unary()?
        };
        let mut compared = false;
        while let Some((operator, binds)) = Binary::of(&self.look) {
            if binds < level {
                break;
            }
            if binds == Level::Compare && compared {
                return self.unexpected("one comparison only (join two with `and`)");
            }
            compared |= binds == Level::Compare;
            self.advance()?;
            if operator == Binary::NotIn {
                self.expect_word("in", "after `not`")?;
            }
            let right = match binds {
                Level::Or => self.binary(Level::And)?,
                Level::And => self.negated()?,
                Level::Compare => self.binary(Level::Sum)?,
                Level::Sum => self.binary(Level::Term)?,
                Level::Term => self.unary()?,
            };
            let height = self.height(left).max(self.height(right));
            let span = self.since(start);
            left = self.add(ExprKind::Binary(operator, left, right), span, height)?;
        }
        Ok(left)
    }

    /// `not` of the grammar: `not` and what it negates, or a comparison.
    fn negated(&mut self) -> Result<ExprId, Failed> {
        if !self.is_word("not") {
            return self.binary(Level::Compare);
        }
        let start = self.look_span;
        self.advance()?;
        let operand = self.deeper(Self::negated)?;
        let (height, span) = (self.height(operand), self.since(start));
        self.add(ExprKind::Not(operand), span, height)
    }

    fn unary(&mut self) -> Result<ExprId, Failed> {
        let start = self.look_span;
        if !self.take_sign(Sign::Minus)? {
            return self.postfix();
        }
        if self.look == Token::Integer(1 << 63) {
            self.advance()?;
            let span = self.since(start);
            return self.add(ExprKind::Integer(i64::MIN), span, 0);
        }
        let operand = self.deeper(Self::unary)?;
        let (height, span) = (self.height(operand), self.since(start));
        self.add(ExprKind::Negative(operand), span, height)
    }

    fn postfix(&mut self) -> Result<ExprId, Failed> {
        let start = self.look_span;
        let mut value = self.primary()?;
        while self.take_sign(Sign::Dot)? {
            let (name, name_span) = self.name("the name of a view or field after `.`")?;
            let mut height = self.height(value);
            let arguments = if self.is_sign(Sign::OpenParen) {
                self.advance()?;
                let arguments = self.expressions_until(Sign::CloseParen)?;
                height = arguments.iter().map(|id| self.height(*id)).fold(height, u16::max);
                Some(arguments)
            } else {
                None
            };
            let span = self.since(start);
            let dotted = Box::new(Dotted { name, name_span, arguments });
            value = self.add(ExprKind::Dotted(value, dotted), span, height)?;
        }
        Ok(value)
    }

    fn expressions_until(&mut self, close: Sign) -> Result<Vec<ExprId>, Failed> {
        let mut all = Vec::new();
        if self.take_sign(close)? {
            return Ok(all);
        }
        loop {
            all.push(self.expression()?);
            if self.take_sign(close)? {
                return Ok(all);
            }
            if !self.take_sign(Sign::Comma)? {
                return self.unexpected(&format!("`,` or `{}`", close.as_str()));
            }
        }
    }

    fn primary(&mut self) -> Result<ExprId, Failed> {
        let span = self.look_span;
        match &self.look {
            Token::Word(word) if !matches!(*word, "true" | "false") => {
                let word = *word;
                if is_syntax(word) {
                    return self.unexpected("a value");
                }
                self.advance()?;
                self.add(ExprKind::Name(word), span, 0)
            }
            Token::Integer(number) if *number > i64::MAX as u64 => {
                let help = "integers go from -9223372036854775808 to 9223372036854775807";
                self.findings.add(Code::NumberTooBig, span, "this integer does not fit 64 bits", help);
                Err(Failed)
            }
            Token::Word(_) | Token::Integer(_) | Token::Text(_) => {
                let kind = match self.advance()? {
                    Token::Word(word) => ExprKind::Flag(word == "true"),
                    Token::Integer(number) => ExprKind::Integer(i64::try_from(number).unwrap_or(i64::MAX)),
                    Token::Text(text) => ExprKind::Text(text),
                    Token::Sign(_) | Token::Close => ExprKind::Broken,
                };
                self.add(kind, span, 0)
            }
            Token::Sign(Sign::OpenList) => {
                self.advance()?;
                let elements = self.expressions_until(Sign::CloseList)?;
                let height = elements.iter().map(|id| self.height(*id)).max().unwrap_or(0);
                let span = self.since(span);
                self.add(ExprKind::List(elements), span, height)
            }
            Token::Sign(Sign::OpenParen) => {
                self.advance()?;
                let inner = self.expression()?;
                self.expect_sign(Sign::CloseParen, "to match the opening one")?;
                Ok(inner)
            }
            _ => self.unexpected("a value"),
        }
    }
}

/// Returns the words that can begin no value.
fn is_syntax(word: &str) -> bool {
    matches!(
        word,
        "if" | "then"
            | "else"
            | "end"
            | "match"
            | "case"
            | "for"
            | "in"
            | "between"
            | "let"
            | "place"
            | "given"
            | "note"
            | "and"
            | "or"
            | "not"
    )
}
