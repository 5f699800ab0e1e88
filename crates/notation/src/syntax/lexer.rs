//! The tokens inside a tag, one at a time.

use super::{Failed, Findings};
use crate::finding::Code;
use crate::span::Span;
use std::borrow::Cow;

#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Token<'s> {
    Word(&'s str),
    Integer(u64),
    Text(Cow<'s, str>),
    Sign(Sign),
    /// The closing mark, or the end of an expression without marks.
    Close,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Sign {
    Plus,
    Minus,
    Star,
    Slash,
    Percent,
    Equal,
    NotEqual,
    Less,
    LessEqual,
    Greater,
    GreaterEqual,
    Is,
    Dot,
    Comma,
    OpenParen,
    CloseParen,
    OpenList,
    CloseList,
}

impl Sign {
    pub(crate) fn as_str(self) -> &'static str {
        match self {
            Self::Plus => "+",
            Self::Minus => "-",
            Self::Star => "*",
            Self::Slash => "/",
            Self::Percent => "%",
            Self::Equal => "==",
            Self::NotEqual => "!=",
            Self::Less => "<",
            Self::LessEqual => "<=",
            Self::Greater => ">",
            Self::GreaterEqual => ">=",
            Self::Is => "=",
            Self::Dot => ".",
            Self::Comma => ",",
            Self::OpenParen => "(",
            Self::CloseParen => ")",
            Self::OpenList => "[",
            Self::CloseList => "]",
        }
    }
}

#[derive(Debug)]
pub(crate) struct Lexer<'s> {
    pub(crate) source: &'s str,
    pub(crate) at: usize,
    /// The closing mark; empty for an expression that ends with its source.
    close: &'s str,
    /// True if the closing mark could be part of a name.
    close_is_in_names: bool,
}

impl<'s> Lexer<'s> {
    pub(crate) fn new(source: &'s str, at: usize, close: &'s str) -> Self {
        Self { source, at, close, close_is_in_names: close.contains('_') }
    }

    /// Returns the closing mark.
    pub(crate) fn close(&self) -> &'s str {
        self.close
    }

    fn closes(&self, at: usize) -> bool {
        let (rest, close) = (&self.source.as_bytes()[at..], self.close.as_bytes());
        // The first byte is nearly always enough.
        close.first().is_some_and(|first| rest.first() == Some(first)) && rest.starts_with(close)
    }

    /// Reads the next token and its span. `opening` is the span of the tag's mark, for the finding
    /// if the tag is not closed.
    pub(crate) fn next(
        &mut self,
        opening: Span,
        findings: &mut Findings,
    ) -> Result<(Token<'s>, Span), Failed> {
        let bytes = self.source.as_bytes();
        while self.at < bytes.len() && bytes[self.at].is_ascii_whitespace() {
            self.at += 1;
        }
        let start = self.at;
        let Some(&first) = bytes.get(start) else {
            if self.close.is_empty() {
                return Ok((Token::Close, Span::new(start, start)));
            }
            let help = format!("close it with `{}`", self.close);
            findings.add(Code::UnclosedTag, opening, "this tag is not closed", help);
            return Err(Failed);
        };
        if self.closes(start) {
            self.at += self.close.len();
            return Ok((Token::Close, Span::new(start, self.at)));
        }
        let token = match first {
            b'a'..=b'z' | b'A'..=b'Z' | b'_' => {
                let rest = &bytes[start..];
                let length =
                    rest.iter().position(|b| !b.is_ascii_alphanumeric() && *b != b'_').unwrap_or(rest.len());
                // A mark may hold an underscore; it beats the name.
                let length = if self.close_is_in_names {
                    (0..length).find(|n| self.closes(start + n)).unwrap_or(length)
                } else {
                    length
                };
                self.at += length;
                Token::Word(&self.source[start..self.at])
            }
            b'0'..=b'9' => self.integer(start, findings)?,
            b'"' | b'\'' => self.text(start, first, findings)?,
            _ => Token::Sign(self.sign(start, first, findings)?),
        };
        Ok((token, Span::new(start, self.at)))
    }

    fn integer(&mut self, start: usize, findings: &mut Findings) -> Result<Token<'s>, Failed> {
        let rest = &self.source[start..];
        let length = rest.bytes().position(|b| !b.is_ascii_digit()).unwrap_or(rest.len());
        self.at += length;
        match rest[..length].parse::<u64>() {
            Ok(number) if number <= 1 << 63 => Ok(Token::Integer(number)),
            _ => {
                let help = "integers go from -9223372036854775808 to 9223372036854775807";
                findings.add(
                    Code::NumberTooBig,
                    Span::new(start, self.at),
                    "this integer does not fit 64 bits",
                    help,
                );
                Err(Failed)
            }
        }
    }

    fn text(&mut self, start: usize, quote: u8, findings: &mut Findings) -> Result<Token<'s>, Failed> {
        let bytes = self.source.as_bytes();
        let body = start + 1;
        let mut made: Option<String> = None;
        let mut from = body;
        let mut at = body;
        loop {
            let Some(found) = memchr::memchr2(quote, b'\\', &bytes[at..]) else {
                self.at = body;
                let help = format!("end the text with `{}`", char::from(quote));
                findings.add(Code::UnclosedText, Span::new(start, body), "this text is not closed", help);
                return Err(Failed);
            };
            at += found;
            let plain = &self.source[from..at];
            if bytes[at] == quote {
                self.at = at + 1;
                return Ok(Token::Text(match made {
                    Some(mut text) => {
                        text.push_str(plain);
                        Cow::Owned(text)
                    }
                    None => Cow::Borrowed(plain),
                }));
            }
            let text = made.get_or_insert_default();
            text.push_str(plain);
            match escape(&self.source[at..]) {
                Ok((character, length)) => {
                    text.push(character);
                    at += length;
                }
                Err(length) => {
                    let span = Span::new(at, at + length);
                    let message = format!("`{}` is not an escape", span.of(self.source).escape_debug());
                    let help = r#"known are \n \t \\ \" \' and \u{…} with a Unicode number in hexadecimal"#;
                    findings.add(Code::BadEscape, span, message, help);
                    at += length;
                }
            }
            from = at;
        }
    }

    fn sign(&mut self, start: usize, first: u8, findings: &mut Findings) -> Result<Sign, Failed> {
        let second = self.source.as_bytes().get(start + 1).copied().filter(|_| !self.closes(start + 1));
        let (sign, length) = match (first, second) {
            (b'=', Some(b'=')) => (Sign::Equal, 2),
            (b'!', Some(b'=')) => (Sign::NotEqual, 2),
            (b'<', Some(b'=')) => (Sign::LessEqual, 2),
            (b'>', Some(b'=')) => (Sign::GreaterEqual, 2),
            (b'=', _) => (Sign::Is, 1),
            (b'<', _) => (Sign::Less, 1),
            (b'>', _) => (Sign::Greater, 1),
            (b'+', _) => (Sign::Plus, 1),
            (b'-', _) => (Sign::Minus, 1),
            (b'*', _) => (Sign::Star, 1),
            (b'/', _) => (Sign::Slash, 1),
            (b'%', _) => (Sign::Percent, 1),
            (b'.', _) => (Sign::Dot, 1),
            (b',', _) => (Sign::Comma, 1),
            (b'(', _) => (Sign::OpenParen, 1),
            (b')', _) => (Sign::CloseParen, 1),
            (b'[', _) => (Sign::OpenList, 1),
            (b']', _) => (Sign::CloseList, 1),
            _ => {
                let character = self.source[start..].chars().next().unwrap_or(' ');
                self.at += character.len_utf8();
                let message = format!("`{}` means nothing here", character.escape_debug());
                let help = match character {
                    '!' => "negate with `not`, or compare with `!=`",
                    '&' => "both at once is `and`",
                    '|' => "one or the other is `or`; views are written with a dot",
                    _ => "texts are in quotes; names are letters, digits and underscores (ASCII)",
                };
                findings.add(Code::BadCharacter, Span::new(start, self.at), message, help);
                return Err(Failed);
            }
        };
        self.at += length;
        Ok(sign)
    }
}

/// Returns the character of the escape at the start of `rest` and the escape's length in bytes, or
/// the length of an invalid escape.
fn escape(rest: &str) -> Result<(char, usize), usize> {
    let Some(letter) = rest[1..].chars().next() else { return Err(1) };
    match letter {
        'n' => Ok(('\n', 2)),
        't' => Ok(('\t', 2)),
        '\\' | '"' | '\'' => Ok((letter, 2)),
        'u' => {
            let digits = rest[2..].strip_prefix('{').and_then(|inner| inner.split_once('}'));
            match digits {
                Some((digits, _)) if digits.len() <= 6 => u32::from_str_radix(digits, 16)
                    .ok()
                    .filter(|_| digits.bytes().all(|b| b.is_ascii_hexdigit()))
                    .and_then(char::from_u32)
                    .map_or(Err(digits.len() + 4), |character| Ok((character, digits.len() + 4))),
                _ => Err(2),
            }
        }
        other => Err(1 + other.len_utf8()),
    }
}
