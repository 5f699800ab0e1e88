//! From source text to a tree with spans. Names and types are not known here.
//!
//! `lexer` cuts the inside of a tag into tokens, `parser` makes an `expression` of them, `tag`
//! whole tags, `pieces` cuts a body into texts and tags, `lines` applies the line and indentation
//! rules, `tree` nests blocks.

pub(crate) mod expression;
pub(crate) mod lexer;
pub(crate) mod lines;
pub(crate) mod parser;
pub(crate) mod piece;
pub(crate) mod pieces;
pub(crate) mod tag;
pub(crate) mod tree;

use crate::finding::{Code, Finding};
use crate::span::Span;
use std::sync::Arc;

/// The findings of one source.
#[derive(Debug)]
pub(crate) struct Findings {
    pub(crate) file: Arc<str>,
    pub(crate) all: Vec<Finding>,
}

/// More than anyone reads; a broken file of megabytes must not produce gigabytes of findings.
const MOST_FINDINGS: usize = 1000;

impl Findings {
    pub(crate) fn new(file: Arc<str>) -> Self {
        Self { file, all: Vec::new() }
    }

    pub(crate) fn add(
        &mut self,
        code: Code,
        span: Span,
        message: impl Into<String>,
        help: impl Into<String>,
    ) {
        if self.all.len() < MOST_FINDINGS {
            let file = Arc::clone(&self.file);
            self.all.push(Finding::new(file, span, code, message, help));
        }
    }

    /// Reports a name that nothing defines.
    pub(crate) fn unknown_name(&mut self, name: &str, span: Span, help: impl Into<String>) {
        let before = self.all.len();
        self.add(Code::UnknownName, span, format!("unknown name `{name}`"), help);
        self.all.iter_mut().skip(before).for_each(|finding| finding.subject = Some(name.into()));
    }
}

/// A finding was added; the tag is to be given up.
#[derive(Debug)]
pub(crate) struct Failed;

/// Expressions nested deeper than this are refused.
pub(crate) const MOST_EXPRESSION_DEPTH: u16 = 200;
/// Blocks nested deeper than this are refused.
pub(crate) const MOST_BLOCK_DEPTH: usize = 100;
