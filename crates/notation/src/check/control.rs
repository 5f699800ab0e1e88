//! Conditions, choices and loops.

use super::{Known, Lower};
use crate::choices::Choices;
use crate::finding::Code;
use crate::nearest::did_you_mean;
use crate::observed::Else;
use crate::program::NO_COUNTER;
use crate::program::{Op, Part};
use crate::scope::{NameId, Traits};
use crate::span::Span;
use crate::syntax::expression::{ExprId, ExprKind};
use crate::syntax::tag::{CaseValue, ForHead, Literal};
use crate::syntax::tree::{Block, Branch, Case};
use crate::types::{ChoicesId, Element, Type};

impl<'s> Lower<'_, 's> {
    /// Returns a value that must be a flag.
    pub(crate) fn condition(&mut self, id: ExprId) -> Known {
        let known = self.value(id);
        let span = self.span(id);
        if !matches!(known.of, Type::Flag | Type::Unknown) {
            let found = self.compiler.scope.describe(known.of);
            let help = match known.of {
                Type::Text => "ask it something: `.empty`, `.has(\"…\")`, or compare it",
                Type::List(_) => "ask it something: `.empty`, `.has(…)`",
                _ => "compare it with a value: no other value counts as true or false",
            };
            self.findings.add(
                Code::WrongType,
                span,
                format!("a condition is a flag, and this is {found}"),
                help,
            );
        }
        self.not_minted(known, span, "in a condition", true);
        known
    }

    pub(super) fn choose(
        &mut self,
        branches: &[Branch<'s>],
        otherwise: Option<&(Span, Block<'s>)>,
        end: Span,
    ) {
        let last = otherwise.map_or(end, |(span, _)| *span);
        let mut to_end = Vec::new();
        let mut decided = false;
        let outer = self.compiler.deciding.clone();
        let (mut compared, mut flags) = (Vec::new(), Vec::new());
        for (number, branch) in branches.iter().enumerate() {
            self.compiler.compared.clear();
            let known = self.condition(branch.condition);
            compared.append(&mut self.compiler.compared);
            flags.extend(self.flags_in(branch.condition));
            self.decide(branch.condition);
            let never = decided || known.constant == Some(false);
            if never {
                let help =
                    if decided { "a condition before it always holds" } else { "its condition never holds" };
                self.findings.add(Code::DeadBranch, branch.span, "this branch can never be taken", help);
            }
            decided |= known.constant == Some(true);
            let skip = self.emit(Op::Unless(0));
            let next = branches.get(number + 1).map_or(last, |branch| branch.span);
            self.branch(branch.span, next, &branch.block);
            if number + 1 < branches.len() || otherwise.is_some() {
                to_end.push(self.emit(Op::Jump(0)));
            }
            self.land(&[skip]);
        }
        if let Some((span, block)) = otherwise {
            if decided {
                let help = "a condition before it always holds";
                self.findings.add(Code::DeadBranch, *span, "this `else` can never be taken", help);
            }
            self.falls_into(*span, compared, flags);
            self.branch(*span, end, block);
        }
        self.compiler.deciding = outer;
        self.land(&to_end);
    }

    pub(super) fn choose_by_value(
        &mut self,
        span: Span,
        subject: ExprId,
        cases: &[Case<'s>],
        otherwise: Option<&(Span, Block<'s>)>,
        end: Span,
    ) {
        let all: Vec<&[CaseValue<'s>]> = cases.iter().map(|case| case.values.as_slice()).collect();
        let known = self.subject(span, subject, &all, otherwise.map(|(span, _)| *span));
        let outer = self.compiler.deciding.clone();
        self.decide(subject);
        let next = self.next_local;
        let slot = self.hidden_local().unwrap_or(0);
        self.emit(Op::SetLocal(slot));
        let mut seen = Vec::new();
        let mut to_end = Vec::new();
        let last = otherwise.map_or(end, |(span, _)| *span);
        for (number, case) in cases.iter().enumerate() {
            let skips = self.case(&case.values, slot, known.of, &mut seen);
            let next = cases.get(number + 1).map_or(last, |case| case.span);
            self.branch(case.span, next, &case.block);
            to_end.push(self.emit(Op::Jump(0)));
            self.land(&skips);
        }
        if let Some((span, block)) = otherwise {
            self.branch(*span, end, block);
        }
        self.compiler.deciding = outer;
        self.land(&to_end);
        self.next_local = next;
    }

    /// Notes where the options that the conditions do not name fall into, for the audit.
    pub(super) fn falls_into(&mut self, span: Span, of: Vec<ChoicesId>, flags: Vec<NameId>) {
        let file = std::sync::Arc::clone(&self.findings.file);
        let is_meant = !of.is_empty() || !flags.is_empty();
        if let Some(audit) = self.compiler.audit.as_mut().filter(|_| is_meant) {
            audit.elses.push(Else { file, span, of, flags });
        }
    }

    /// Returns the flags of the scope in a condition, for the audit.
    pub(super) fn flags_in(&self, id: ExprId) -> Vec<NameId> {
        let (mut found, mut open) = (Vec::new(), vec![id]);
        while let Some(id) = open.pop().filter(|_| self.compiler.audit.is_some()) {
            let kind = self.kind(id);
            if let ExprKind::Name(name) = kind
                && let Some(id) = self.compiler.scope.find(name)
                && self.compiler.scope.name(id).of == Type::Flag
            {
                found.push(id);
            }
            open.extend(kind.parts());
        }
        found
    }

    /// Lowers the value that a `match` chooses by, and reports the cases that it lacks.
    pub(super) fn subject(
        &mut self,
        span: Span,
        subject: ExprId,
        cases: &[&[CaseValue<'s>]],
        otherwise: Option<Span>,
    ) -> Known {
        let known = self.value(subject);
        let subject_span = self.span(subject);
        self.not_minted(known, subject_span, "in a condition", true);
        // The cases of an invalid `case` are unknown.
        let is_whole = cases.iter().all(|values| !values.is_empty());
        if let (Type::Option { of, .. }, Some(otherwise)) = (known.of, otherwise) {
            self.falls_into(otherwise, vec![of], Vec::new());
        }
        match known.of {
            Type::Option { of, or_none } if is_whole => {
                let choices = self.compiler.scope.choices(of);
                self.all_options(span, choices, or_none, cases, otherwise);
            }
            Type::Text | Type::Integer if otherwise.is_none() => {
                let found = self.compiler.scope.describe(known.of);
                let message = format!("a `match` on {found} needs an `else`");
                let help = "say what comes out for every other value";
                self.findings.add(Code::MissingElse, span, message, help);
            }
            Type::Flag | Type::List(_) => {
                let found = self.compiler.scope.describe(known.of);
                let message = format!("a `match` is on an option, a text or an integer, and this is {found}");
                let help = if known.of == Type::Flag { "use `if`" } else { "use `if` with `in`" };
                self.findings.add(Code::WrongType, subject_span, message, help);
            }
            _ => {}
        }
        known
    }

    /// Emits the tests of a case; gives the jumps for when none of its values is meant.
    pub(super) fn case<'a>(
        &mut self,
        values: &'a [CaseValue<'s>],
        slot: u16,
        of: Type,
        seen: &mut Vec<&'a Literal<'s>>,
    ) -> Vec<usize> {
        let mut to_block = Vec::new();
        let mut skip = None;
        for (number, value) in values.iter().enumerate() {
            if seen.contains(&&value.literal) {
                let help = "the first case that names it is taken";
                self.findings.add(
                    Code::RepeatedCase,
                    value.span,
                    "another case names this value already",
                    help,
                );
            }
            seen.push(&value.literal);
            if let Some(before) = skip.take() {
                self.land(&[before]);
            }
            let test = match (&value.literal, of) {
                (Literal::Text(text), Type::Option { of, .. }) => {
                    let option = self.option_named(text, of, value.span);
                    self.emit(Op::UnlessOption(slot, option.unwrap_or(0), 0))
                }
                (Literal::Text(text), Type::Text) => {
                    let text = self.compiler.text(text.as_ref());
                    self.emit(Op::UnlessText(slot, text, 0))
                }
                (Literal::Integer(number), Type::Integer) => self.emit(Op::UnlessInteger(slot, *number, 0)),
                (_, Type::Text | Type::Integer | Type::Option { .. }) => {
                    let wanted = self.compiler.scope.describe(of);
                    let message = format!("the `match` is on {wanted}, and this case is of another type");
                    self.findings.add(Code::WrongType, value.span, message, "name a value of that type");
                    continue;
                }
                _ => continue,
            };
            if number + 1 < values.len() {
                to_block.push(self.emit(Op::Jump(0)));
                skip = Some(test);
            } else {
                skip = Some(test);
            }
        }
        self.land(&to_block);
        skip.into_iter().collect()
    }

    fn all_options(
        &mut self,
        span: Span,
        choices: &Choices,
        or_none: bool,
        cases: &[&[CaseValue<'s>]],
        otherwise: Option<Span>,
    ) {
        let named = |value: &str| {
            cases.iter().copied().flatten().any(|case| match &case.literal {
                Literal::Text(text) => text == value,
                Literal::Integer(_) => false,
            })
        };
        let missing: Vec<_> = choices
            .options()
            .iter()
            .filter(|option| !named(&option.value))
            .map(|option| format!("`{}`", option.value))
            .collect();
        match otherwise {
            Some(span) if missing.is_empty() && !or_none => {
                let help = "every option has its case";
                self.findings.add(Code::DeadBranch, span, "this `else` can never be taken", help);
            }
            Some(_) => {}
            None if !missing.is_empty() => {
                let message = format!("this `match` leaves out {}", missing.join(", "));
                let help = format!("give every option of `{}` its case, or add an `else`", choices.name());
                self.findings.add(Code::MissingCase, span, message, help);
            }
            None if or_none => {
                let message = format!("`{}` may have no answer, and no case is for that", choices.name());
                let help = "add an `else`: the question is not always asked";
                self.findings.add(Code::MissingElse, span, message, help);
            }
            None => {}
        }
    }

    /// Returns the option with this value, or a finding.
    pub(crate) fn option_named(&mut self, value: &str, of: ChoicesId, span: Span) -> Option<u16> {
        let choices = self.compiler.scope.choices(of);
        let position = choices.position(value);
        if position.is_none() {
            let values = || choices.options().iter().map(|option| option.value.as_str());
            let known: Vec<_> = values().take(12).map(|value| format!("`{value}`")).collect();
            let help = did_you_mean(value, values(), format!("its options are {}", known.join(", ")));
            let message = format!("`{}` has no option {value:?}", choices.name());
            self.findings.add(Code::NotAnOption, span, message, help);
        }
        if let (Some(audit), Some(position)) = (&mut self.compiler.audit, position) {
            audit.named.push((of, position));
        }
        position
    }

    pub(super) fn repeat(
        &mut self,
        tag: Span,
        head: &ForHead<'s>,
        body: &Block<'s>,
        between: Option<&(Span, Block<'s>)>,
        end: Span,
    ) {
        let list = self.value(head.list);
        let span = self.span(head.list);
        let element = match list.of {
            Type::List(element) => element.single(),
            Type::Unknown => Type::Unknown,
            other => {
                let found = self.compiler.scope.describe(other);
                let help = match other {
                    Type::Text => "cut it up first: `.lines`, `.words`, `.split(\",\")`",
                    _ => "",
                };
                self.findings.add(
                    Code::WrongType,
                    span,
                    format!("`for` goes over a list, and this is {found}"),
                    help,
                );
                Type::Unknown
            }
        };
        // The number of rounds would tell of the value.
        self.not_minted(list, span, "in a loop outside a file marked `local`", !self.compiler.setting.local);
        if list.of == Type::List(Element::Open) {
            self.findings.add(Code::DeadBranch, span, "this list is always empty", "");
        }
        let (names, next) = (self.locals.len(), self.next_local);
        let traits = Traits { path: false, ..list.traits };
        let known = Known { traits, ..Known::plain(element) };
        let slot = self.add_local(head.element.0, head.element.1, known).unwrap_or(0);
        let counter = head.counter.and_then(|(name, span)| {
            let traits = Traits { minted: list.traits.minted, ..Traits::default() };
            self.add_local(name, span, Known { traits, ..Known::plain(Type::Integer) })
        });
        self.most_locals = self.most_locals.max(1);
        let counter = counter.unwrap_or(NO_COUNTER);
        let open = self.emit(Op::For { element: slot, counter, exit: 0 });
        let mut exits = vec![open];
        if let Some(filter) = head.filter {
            let again = self.here();
            self.condition(filter);
            exits.push(self.emit(Op::Keep { again, exit: 0 }));
        }
        let outer_deciding = self.compiler.deciding.clone();
        self.decide(head.list);
        head.filter.into_iter().for_each(|filter| self.decide(filter));
        let first = self.here();
        let outer = std::mem::replace(&mut self.in_round, true);
        self.branch(tag, between.map_or(end, |(span, _)| *span), body);
        self.in_round = false;
        match between {
            Some((span, between)) => {
                exits.push(self.emit(Op::LeaveIfLast(0)));
                self.branch(*span, end, between);
                self.emit(Op::NextRound(first));
            }
            None => match self.simple_round(first as usize, slot) {
                Some(parts) if head.filter.is_none() && head.counter.is_none() => {
                    self.ops.truncate(open);
                    self.rows.push(parts);
                    self.emit(Op::Rows(self.rows.len() as u32 - 1));
                    exits.clear();
                }
                _ => drop(self.emit(Op::Round(first))),
            },
        }
        self.in_round = outer;
        self.compiler.deciding = outer_deciding;
        self.land(&exits);
        self.locals.truncate(names);
        self.next_local = next;
    }

    /// Returns what a round renders, if it is simple: no choice, no view, no inner loop, no name
    /// but the element's.
    fn simple_round(&self, first: usize, slot: u16) -> Option<Vec<Part<'s>>> {
        if self.compiler.traced.is_some() {
            return None;
        }
        let mut parts = Vec::with_capacity(8);
        for op in &self.ops[first..] {
            match *op {
                Op::Text(text) => parts.push(Part::Text(text)),
                Op::PutName(name) => parts.push(Part::Name(name)),
                Op::PutTextName(text, name) => parts.extend([Part::Text(text), Part::Name(name)]),
                Op::PutLocal(local) if local == slot => parts.push(Part::Element),
                Op::PutLocalField(local, column) if local == slot => parts.push(Part::Column(column)),
                Op::PutLocalFieldText(local, column, text) if local == slot => {
                    parts.push(Part::ColumnText(column, text));
                }
                Op::BetweenText(text) => parts.push(Part::Between(text)),
                _ => return None,
            }
        }
        Some(parts)
    }
}
