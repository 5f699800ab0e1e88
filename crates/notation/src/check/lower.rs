//! Blocks.

use super::{Compiler, Known, Placings};
use crate::Syntax;
use crate::finding::Code;
use crate::observed::PlaceKind;
use crate::program::{Op, Part};
use crate::scope::RESERVED;
use crate::span::Span;
use crate::syntax::Findings;
use crate::syntax::expression::{Expr, ExprId, ExprKind};
use crate::syntax::tag::Named;
use crate::syntax::tree::{Block, Node};
use crate::types::Type;
use std::borrow::Cow;

/// A name that the source itself gives: by `let`, `for` or `given`.
pub(crate) struct Local<'s> {
    pub(crate) name: &'s str,
    pub(crate) slot: u16,
    pub(crate) known: Known,
}

/// The lowering of one source.
pub(crate) struct Lower<'c, 's> {
    pub(crate) compiler: &'c mut Compiler<'s>,
    pub(super) source: &'s str,
    pub(crate) expressions: &'c [Expr<'s>],
    pub(crate) findings: Findings,
    pub(crate) ops: Vec<Op<'s>>,
    pub(crate) placings: Placings<'s>,
    pub(crate) rows: Vec<Vec<Part<'s>>>,
    pub(crate) spans: Vec<(u32, Span)>,
    pub(crate) locals: Vec<Local<'s>>,
    pub(crate) next_local: u16,
    pub(crate) most_locals: u16,
    /// A step before this one may be the target of a jump, so that it is merged with no step before it.
    barrier: usize,
    /// Returns true if a `between` with a text may be here: inside a loop's round.
    pub(crate) in_round: bool,
}

impl<'c, 's> Lower<'c, 's> {
    pub(crate) fn new(
        compiler: &'c mut Compiler<'s>,
        source: &'s str,
        expressions: &'c [Expr<'s>],
        findings: Findings,
    ) -> Self {
        Self {
            compiler,
            source,
            expressions,
            findings,
            ops: Vec::new(),
            placings: Vec::new(),
            rows: Vec::new(),
            spans: Vec::new(),
            locals: Vec::new(),
            next_local: 0,
            most_locals: 0,
            barrier: 0,
            in_round: false,
        }
    }

    pub(crate) fn emit(&mut self, op: Op<'s>) -> usize {
        self.ops.push(op);
        self.ops.len() - 1
    }

    /// Emits a step that can fail at `span`.
    pub(crate) fn emit_at(&mut self, op: Op<'s>, span: Span) {
        self.spans.push((self.ops.len() as u32, span));
        self.ops.push(op);
    }

    /// Returns the next step, as the target of a jump.
    pub(crate) fn here(&mut self) -> u32 {
        self.barrier = self.ops.len();
        self.ops.len() as u32
    }

    /// Sets the target of the jumps at `from` to the next step.
    pub(crate) fn land(&mut self, from: &[usize]) {
        let here = self.here();
        for at in from {
            match &mut self.ops[*at] {
                Op::Jump(to)
                | Op::Unless(to)
                | Op::And(to)
                | Op::Or(to)
                | Op::UnlessOption(_, _, to)
                | Op::UnlessInteger(_, _, to)
                | Op::UnlessText(_, _, to)
                | Op::LeaveIfLast(to)
                | Op::For { exit: to, .. }
                | Op::Keep { exit: to, .. } => *to = here,
                _ => {}
            }
        }
    }

    pub(crate) fn kind(&self, id: ExprId) -> &'c ExprKind<'s> {
        &self.expressions[id.0 as usize].kind
    }

    pub(crate) fn span(&self, id: ExprId) -> Span {
        self.expressions[id.0 as usize].span
    }

    /// Lowers a block; the names that it gives end with it.
    pub(crate) fn block(&mut self, block: &Block<'s>) {
        let (names, next) = (self.locals.len(), self.next_local);
        for node in block {
            self.node(node);
        }
        self.locals.truncate(names);
        self.next_local = next;
    }

    fn node(&mut self, node: &Node<'s>) {
        match node {
            Node::Text(text) => self.text(text),
            Node::Value(value, indent) => self.put(*value, indent.clone()),
            Node::If { branches, otherwise, end } => self.choose(branches, otherwise.as_ref(), *end),
            Node::Match { span, subject, cases, otherwise, end } => {
                self.choose_by_value(*span, *subject, cases, otherwise.as_ref(), *end);
            }
            Node::For { span, head, body, between, end } => {
                self.repeat(*span, head, body, between.as_ref(), *end);
            }
            Node::BetweenText(text, span) => {
                if self.in_round {
                    let text = self.compiler.text(text.as_ref());
                    self.emit(Op::BetweenText(text));
                } else {
                    let help = "`between` belongs inside a `for`";
                    self.findings.add(Code::StrayTag, *span, "this `between` belongs to nothing", help);
                }
            }
            Node::Let(named) => {
                let known = self.value(named.value);
                if known.of == Type::List(crate::types::Element::Open) {
                    let help = "name a list that holds something";
                    let span = self.span(named.value);
                    self.findings.add(
                        Code::WrongType,
                        span,
                        "nothing tells the type of this empty list",
                        help,
                    );
                }
                if let Some(slot) = self.define(named, known) {
                    self.emit(Op::SetLocal(slot));
                }
            }
            Node::Place { head, span, indent, alone } => self.place(head, *span, indent, *alone),
        }
    }

    fn define(&mut self, named: &Named<'s>, known: Known) -> Option<u16> {
        self.add_local(named.name, named.span, known)
    }

    /// Returns a slot for a new name; none if the name may not be given here.
    pub(crate) fn add_local(&mut self, name: &'s str, span: Span, known: Known) -> Option<u16> {
        if name.is_empty() {
            return None;
        }
        if RESERVED.contains(&name) {
            let message = format!("`{name}` is a word of the language");
            self.findings.add(Code::ReservedWord, span, message, "choose another name");
            return None;
        }
        let local = self.locals.iter().any(|local| local.name == name);
        if local || self.compiler.scope.find(name).is_some() {
            let message = format!("`{name}` is defined already, and no name may hide another");
            self.findings.add(Code::HiddenName, span, message, "choose another name");
            return None;
        }
        let slot = self.hidden_local()?;
        self.locals.push(Local { name, slot, known });
        Some(slot)
    }

    /// Returns a slot that no name leads to.
    pub(crate) fn hidden_local(&mut self) -> Option<u16> {
        let slot = self.next_local;
        if slot >= u16::MAX - 1 {
            let message = "one file gives more than 65000 names";
            self.findings.add(Code::TooDeep, Span::default(), message, "split the file");
            return None;
        }
        self.next_local += 1;
        self.most_locals = self.most_locals.max(self.next_local);
        Some(slot)
    }

    fn text(&mut self, text: &'s str) {
        if self.compiler.setting.syntax == Syntax::Json {
            let mut rest = text;
            while let Some(at) = maybe_trailing_comma(rest) {
                self.plain_text(&rest[..at]);
                self.emit_traced(Op::Comma, &rest[at..]);
                rest = &rest[at + 1..];
            }
            self.plain_text(rest);
        } else {
            self.plain_text(text);
        }
    }

    /// Emits text with the line endings of its file.
    fn plain_text(&mut self, text: &'s str) {
        if text.is_empty() {
            return;
        }
        let in_fragment = !self.compiler.in_body();
        if in_fragment && memchr::memchr(b'\n', text.as_bytes()).is_some() {
            let lines = text.replace("\r\n", "\n");
            let text = if self.compiler.crlf { lines.replace('\n', "\r\n") } else { lines };
            let text = self.compiler.text(text);
            self.emit(Op::OwnText(text));
        } else if let Some(Op::PutLocalField(local, column)) = self.ops.last().copied()
            && self.merges(self.ops.len())
        {
            self.ops.pop();
            self.emit(Op::PutLocalFieldText(local, column, text));
        } else {
            self.emit_traced(Op::Text(text), text);
        }
    }

    /// Emits a step for a text of the source.
    fn emit_traced(&mut self, op: Op<'s>, text: &'s str) {
        if let Some(source) = self.traced() {
            let start = text.as_ptr().addr().saturating_sub(source.as_ptr().addr());
            self.spans.push((self.ops.len() as u32, Span::new(start, start + text.len())));
        }
        self.emit(op);
    }

    /// Returns the source, if its steps keep their spans.
    fn traced(&self) -> Option<&'s str> {
        self.compiler.traced.filter(|_| self.compiler.in_body())
    }

    /// Returns true if the step `at` may be merged into the one before it.
    fn merges(&self, at: usize) -> bool {
        self.barrier < at && self.traced().is_none()
    }

    fn put(&mut self, value: ExprId, indent: Cow<'s, str>) {
        let span = self.span(value);
        if self.compiler.places.is_some() {
            let names = self.printed(value);
            self.cover(PlaceKind::Value { names }, span);
        }
        self.put_steps(value, span, indent);
        if self.traced().is_some() {
            self.spans.push((self.ops.len() as u32 - 1, span));
        }
    }

    fn put_steps(&mut self, value: ExprId, span: Span, indent: Cow<'s, str>) {
        if let ExprKind::Text(text) = self.kind(value) {
            let text = self.compiler.text(text.as_ref());
            self.emit(Op::OwnText(text));
            return;
        }
        let in_name = self.compiler.setting.name;
        let open = in_name || !indent.is_empty();
        if open {
            self.emit(Op::Open);
        }
        let start = self.ops.len();
        let known = self.value(value);
        self.may_be_put(known, span);
        let merges = !open && self.merges(start);
        match self.ops[start..] {
            [Op::Name(name)] => {
                self.ops[start] = Op::PutName(name);
                if merges && let Some(Op::Text(text)) = self.ops.get(start - 1).copied() {
                    self.ops.pop();
                    self.ops[start - 1] = Op::PutTextName(text, name);
                }
            }
            [Op::Local(local)] => self.ops[start] = Op::PutLocal(local),
            [Op::Local(local), Op::Field(of, field)] if known.of == Type::Text => {
                self.ops.pop();
                self.ops[start] = Op::PutLocalField(local, self.compiler.column(of, field));
            }
            _ => drop(self.emit(Op::Put)),
        }
        if in_name {
            self.emit_at(Op::CheckName { path: known.traits.path }, span);
        } else if open {
            let indent = match indent {
                Cow::Borrowed(indent) => Op::Indent(indent),
                Cow::Owned(indent) => Op::OwnIndent(self.compiler.text(indent.as_str())),
            };
            self.emit(indent);
        }
    }

    fn may_be_put(&mut self, known: Known, span: Span) {
        self.compiler.traits = self.compiler.traits.with(known.traits);
        if matches!(known.of, Type::List(_)) {
            let help = "join it: `.join(\", \")`, or repeat with `for`";
            self.findings.add(Code::ListPutIn, span, "a list cannot be put in", help);
        }
        self.not_minted(known, span, "outside a file marked `local`", !self.compiler.setting.local);
        self.quoting(known.traits, span);
    }

    pub(crate) fn not_minted(&mut self, known: Known, span: Span, wher: &str, matters: bool) {
        if matters && known.traits.minted {
            let message = format!("a secret value stands {wher}");
            let help =
                "minted values and secret answers go only into a file that a `[[files]]` entry marks `local`";
            self.findings.add(Code::MintedOutsideLocal, span, message, help);
        }
    }
}

/// Returns the first comma of a JSON text that a closing bracket, a comment or the end of the text
/// follows.
fn maybe_trailing_comma(text: &str) -> Option<usize> {
    memchr::memchr_iter(b',', text.as_bytes()).find(|at| {
        let rest = text[at + 1..].trim_ascii_start();
        rest.is_empty() || rest.starts_with(['}', ']', '/', ','])
    })
}
