//! From the tree to the flat program: resolves names, checks types, collects findings.
//!
//! `lower` walks blocks, `control` their conditions and loops, `expression` values, `dotted` views
//! and fields, `place` fragments, `watch`
//! what is told beside the program. A source with an error gives no program.

mod control;
mod dotted;
mod expression;
mod lower;
mod place;
mod watch;

use crate::finding::{Code, Finding};
use crate::observed::{Audit, Deciding, Place};
use crate::program::{Placing, Program, Routine};
use crate::scope::{NameId, Scope, Traits};
use crate::span::Span;
use crate::syntax::expression::{Expr, ExprId};
use crate::syntax::parser::Parser;
use crate::syntax::piece::PieceKind;
use crate::syntax::pieces;
use crate::syntax::tag::Tag;
use crate::syntax::tree::{self, Tree};
use crate::syntax::{Failed, Findings};
use crate::types::{ChoicesId, Type};
use crate::{Fragments, Setting};
use place::Instance;
use rustc_hash::FxHashMap;
use std::sync::Arc;

pub(crate) use lower::Lower;

/// The checked properties of an expression.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Known {
    pub(crate) of: Type,
    pub(crate) traits: Traits,
    /// The value of a flag that is the same whatever is answered.
    pub(crate) constant: Option<bool>,
    pub(crate) date: bool,
}

impl Known {
    pub(crate) fn plain(of: Type) -> Self {
        Self { of, traits: Traits::default(), constant: None, date: false }
    }
}

/// The state of compiling a source with all fragments that it places.
pub(crate) struct Compiler<'s> {
    pub(crate) scope: &'s Scope,
    pub(crate) fragments: &'s Fragments,
    pub(crate) setting: &'s Setting<'s>,
    pub(crate) routines: Vec<Routine<'s>>,
    pub(crate) texts: Vec<Box<str>>,
    columns: Vec<(ChoicesId, u16, Vec<&'s str>)>,
    pub(crate) findings: Vec<Finding>,
    pub(crate) used: Vec<bool>,
    pub(crate) placed: Vec<&'s str>,
    /// The traits of everything that is rendered.
    pub(crate) traits: Traits,
    instances: FxHashMap<Instance<'s>, u32>,
    /// The fragments that are being compiled, outermost first.
    active: Vec<&'s str>,
    /// True if the body's lines end with CRLF.
    crlf: bool,
    /// The body, if every step keeps its span and is not merged.
    pub(crate) traced: Option<&'s str>,
    /// The places that the program notes when it reaches them, if it does.
    pub(crate) places: Option<Vec<Place>>,
    /// What decides whether what is compiled comes out; `None` if a name of the source itself does.
    pub(crate) deciding: Option<Deciding>,
    /// What is said of options, if that is asked for.
    pub(crate) audit: Option<Audit>,
    /// The options of which a condition was compared, in order, for the audit.
    pub(crate) compared: Vec<ChoicesId>,
}

impl<'s> Compiler<'s> {
    pub(crate) fn new(scope: &'s Scope, setting: &'s Setting<'s>) -> Self {
        Self {
            scope,
            fragments: setting.fragments,
            setting,
            routines: Vec::new(),
            texts: Vec::new(),
            columns: Vec::new(),
            findings: Vec::new(),
            used: vec![false; scope.names().len()],
            placed: Vec::new(),
            traits: Traits::default(),
            instances: FxHashMap::default(),
            active: Vec::new(),
            crlf: false,
            traced: None,
            places: None,
            deciding: Some(Deciding::default()),
            audit: None,
            compared: Vec::new(),
        }
    }

    /// Compiles the source that is the program's first routine.
    pub(crate) fn body(&mut self, file: Arc<str>, source: &'s str) {
        self.crlf = has_crlf(source);
        let cut = pieces::cut(source, self.setting.marks, Findings::new(file), self.setting.rules);
        let tree = tree::nest(source, cut);
        self.routine(source, tree, |lower, root| lower.block(root));
    }

    /// Compiles an expression without marks and returns its type.
    pub(crate) fn expression(&mut self, file: Arc<str>, source: &'s str, wanted: Option<Type>) -> Type {
        let (expressions, value, findings) = parsed(source, Findings::new(file));
        let whole = Span::new(0, source.len());
        let mut of = Type::Unknown;
        self.routine(source, Tree { root: Vec::new(), expressions, findings }, |lower, _| {
            let known = match wanted {
                Some(Type::Flag) => lower.condition(value),
                _ => lower.value(value),
            };
            of = known.of;
            lower.compiler.traits = known.traits;
            let fits = |wanted: Type| wanted.joined(of).is_some();
            if let Some(wanted) = wanted.filter(|wanted| *wanted != Type::Flag && !fits(*wanted)) {
                let scope = lower.compiler.scope;
                let message =
                    format!("{} is wanted here, and this is {}", scope.describe(wanted), scope.describe(of));
                lower.findings.add(Code::WrongType, whole, message, "");
            }
        });
        of
    }

    /// Compiles the name of a file or folder.
    pub(crate) fn name(&mut self, file: Arc<str>, source: &'s str) {
        let mut cut = pieces::cut(source, self.setting.marks, Findings::new(file), false);
        for piece in &cut.pieces {
            let PieceKind::Tag { tag, .. } = &piece.kind else { continue };
            if !matches!(
                tag,
                Tag::Value(_)
                    | Tag::If(_)
                    | Tag::ElseIf(_)
                    | Tag::Else
                    | Tag::Match(_)
                    | Tag::Case(_)
                    | Tag::End(_)
                    | Tag::Broken
            ) {
                let help = "a name may hold values, `if … else … end` and `match … case … end`";
                cut.findings.add(Code::TagInName, piece.span, "this tag is not allowed in a name", help);
            }
        }
        let tree = tree::nest(source, cut);
        self.routine(source, tree, |lower, root| lower.block(root));
    }

    /// Lowers a tree into a routine and gives the routine's number.
    fn routine(
        &mut self,
        source: &'s str,
        tree: Tree<'s>,
        lower: impl FnOnce(&mut Lower<'_, 's>, &tree::Block<'s>),
    ) -> u32 {
        let Tree { root, expressions, findings } = tree;
        let number = self.routines.len();
        let file = Arc::clone(&findings.file);
        self.routines.push(Routine {
            ops: Vec::new(),
            placings: Vec::new(),
            rows: Vec::new(),
            spans: Vec::new(),
            locals: 0,
            file,
        });
        let mut state = Lower::new(self, source, &expressions, findings);
        state.ops.reserve(root.len() + 8);
        lower(&mut state, &root);
        let Lower { ops, placings, rows, spans, most_locals, findings, .. } = state;
        self.findings.extend(findings.all);
        let routine = &mut self.routines[number];
        (routine.ops, routine.placings, routine.rows) = (ops, placings, rows);
        (routine.spans, routine.locals) = (spans, most_locals);
        u32::try_from(number).unwrap_or(u32::MAX)
    }

    pub(crate) fn text(&mut self, text: impl Into<Box<str>>) -> u32 {
        self.texts.push(text.into());
        u32::try_from(self.texts.len() - 1).unwrap_or(u32::MAX)
    }

    /// Returns the column of a text field: the field's text of every option.
    pub(crate) fn column(&mut self, of: ChoicesId, field: u16) -> u32 {
        let known = self.columns.iter().position(|(other, name, _)| (*other, *name) == (of, field));
        let at = known.unwrap_or_else(|| {
            self.columns.push((of, field, self.scope.choices(of).text_column(field)));
            self.columns.len() - 1
        });
        u32::try_from(at).unwrap_or(u32::MAX)
    }

    pub(crate) fn finish(mut self, of: Type) -> crate::Compiled<'s> {
        crate::finding::sort_findings(&mut self.findings);
        let used = (0..).zip(&self.used).filter(|(_, used)| **used).map(|(at, _)| NameId(at)).collect();
        let sound = !self.findings.iter().any(Finding::is_error);
        let json = self.setting.syntax == crate::Syntax::Json;
        let columns = self.columns.into_iter().map(|(_, _, column)| column).collect();
        let program =
            Program { routines: self.routines, texts: self.texts, columns, scope: self.scope, json, of };
        crate::Compiled {
            program: sound.then_some(program),
            findings: self.findings,
            used,
            traits: self.traits,
            placed: self.placed,
        }
    }
}

/// Returns the expressions of a source that is one, which of them is the whole, and what is wrong with them.
pub(crate) fn parsed<'s>(source: &'s str, findings: Findings) -> (Vec<Expr<'s>>, ExprId, Findings) {
    let mut parser = Parser::new(source, "", findings);
    let read = parser.start(0, Span::default()).and_then(|()| {
        let value = parser.expression()?;
        parser.expect_close()?;
        Ok(value)
    });
    let value = read.unwrap_or_else(|Failed| parser.broken(Span::new(0, source.len())));
    (parser.expressions, value, parser.findings)
}

fn has_crlf(source: &str) -> bool {
    memchr::memchr(b'\n', source.as_bytes()).is_some_and(|at| source[..at].ends_with('\r'))
}

type Placings<'s> = Vec<Placing<'s>>;
