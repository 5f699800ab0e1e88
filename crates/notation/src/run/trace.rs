//! The origin of a byte of the output.

use super::{Machine, before_settling, settle};
use crate::Budget;
use crate::program::{Op, Program};
use crate::span::Span;
use crate::values::Values;

/// The byte of the output whose origin is traced.
pub(crate) struct Wanted {
    /// Its offset in the output; never reached if nothing is traced.
    pub(super) byte: usize,
    /// The step that put it in, and which of the bytes that this step put in it is.
    step: Option<(usize, usize)>,
}

impl Wanted {
    pub(super) fn nothing() -> Self {
        Self { byte: usize::MAX, step: None }
    }
}

impl<'r> Machine<'r> {
    /// The wanted byte came out between the step `from` and the step `to`.
    #[cold]
    pub(super) fn came(&mut self, ops: &[Op<'r>], from: usize, to: usize) {
        if !self.marks.is_empty() {
            // It may still be indented.
            return;
        }
        let mut end = self.out.len();
        // Texts that follow each other are put in together.
        for at in (from..to.max(from + 1)).rev() {
            let start = match ops.get(at) {
                Some(Op::Text(text)) => end.saturating_sub(text.len()),
                _ => 0,
            };
            if start <= self.wanted.byte {
                self.wanted.step = Some((at, self.wanted.byte - start));
                break;
            }
            end = start;
        }
        self.wanted.byte = usize::MAX;
    }
}

impl Program<'_> {
    /// Returns the span in the source of the byte `at` of the output, in a program compiled for
    /// tracing.
    pub(crate) fn origin(&self, values: &Values, at: usize) -> Option<Span> {
        let budget = Budget::default();
        let mut out = Vec::new();
        Machine::new(self, values, &budget, &mut out).run(0).ok()?;
        let last = out.len().checked_sub(1)?;
        let byte = if self.json {
            let unsettled = out.clone();
            settle(&mut out, 0);
            before_settling(&unsettled, &out, at)
        } else {
            at
        };
        let mut again = Vec::new();
        let mut machine = Machine::new(self, values, &budget, &mut again);
        machine.wanted.byte = byte.min(last);
        machine.run(0).ok()?;
        let (step, within) = machine.wanted.step.take()?;
        let routine = &self.routines[0];
        let known = routine.spans.partition_point(|(op, _)| *op as usize <= step).checked_sub(1)?;
        let (op, span) = routine.spans[known];
        let is_text = op as usize == step && matches!(routine.ops[step], Op::Text(_));
        let start = span.start as usize + if is_text { within } else { 0 };
        Some(if is_text { Span::new(start, start + 1) } else { span })
    }
}
