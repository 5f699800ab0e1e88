//! The origin of every byte of the output.

use super::{Machine, PENDING_COMMA, settle};
use crate::Budget;
use crate::program::{Op, Program};
use crate::span::Span;
use crate::values::Values;
use std::ops::Range;

/// Records which step of the first routine put in which bytes.
pub(crate) struct Recorder {
    /// The output is recorded up to here; never reached if nothing is recorded.
    pub(super) to: usize,
    /// By run of bytes: the step, and where its bytes end.
    steps: Vec<(usize, usize)>,
}

impl Recorder {
    pub(super) fn off() -> Self {
        Self { to: usize::MAX, steps: Vec::new() }
    }

    fn on() -> Self {
        Self { to: 0, steps: Vec::new() }
    }
}

impl<'r> Machine<'r> {
    /// Records what came out between the step `from` and the step `to`.
    #[cold]
    pub(super) fn came(&mut self, ops: &[Op<'r>], from: usize, to: usize) {
        if !self.marks.is_empty() {
            // It may still be indented.
            return;
        }
        let mut end = self.out.len();
        let first = self.recorder.steps.len();
        // Texts that follow each other are put in together.
        for at in (from..to.max(from + 1)).rev() {
            let start = match ops.get(at) {
                Some(Op::Text(text)) => end.saturating_sub(text.len()).max(self.recorder.to),
                _ => self.recorder.to,
            };
            if start < end {
                self.recorder.steps.push((at, end));
            }
            if start <= self.recorder.to {
                break;
            }
            end = start;
        }
        self.recorder.steps[first..].reverse();
        self.recorder.to = self.out.len();
    }
}

/// Bytes of the output that come from one place of the source.
pub(crate) struct Origin {
    pub(crate) bytes: Range<usize>,
    /// The text or the tag in the source.
    pub(crate) span: Span,
    /// True for a text, whose bytes are those of the span.
    pub(crate) is_text: bool,
}

impl Program<'_> {
    /// Returns the output, and where every byte of it comes from, for a program compiled for tracing.
    pub(crate) fn origins(&self, values: &Values) -> Option<(Vec<u8>, Vec<Origin>)> {
        let budget = Budget::default();
        let mut out = Vec::new();
        let steps = {
            let mut machine = Machine::new(self, values, &budget, &mut out);
            machine.recorder = Recorder::on();
            machine.run(0).ok()?;
            std::mem::take(&mut machine.recorder.steps)
        };
        let settled = self.json.then(|| {
            let mut settled = out.clone();
            settle(&mut settled, 0);
            settled
        });
        let place = Settled::of(&out, settled.as_deref());
        let routine = &self.routines[0];
        let (mut origins, mut start) = (Vec::with_capacity(steps.len()), 0);
        for (step, end) in steps {
            let bytes = place.of_byte(start)..place.of_byte(end);
            start = end;
            let known = routine.spans.partition_point(|(op, _)| *op as usize <= step).checked_sub(1);
            let Some((op, span)) = known.map(|known| routine.spans[known]) else { continue };
            let is_text = op as usize == step && matches!(routine.ops[step], Op::Text(_));
            origins.push(Origin { bytes, span, is_text });
        }
        origins.retain(|origin| !origin.bytes.is_empty());
        Some((settled.unwrap_or(out), origins))
    }
}

/// Where the bytes of an output are after the commas of JSON are settled.
struct Settled(Option<Vec<usize>>);

impl Settled {
    fn of(unsettled: &[u8], settled: Option<&[u8]>) -> Self {
        Self(settled.filter(|settled| settled.len() < unsettled.len()).map(|settled| {
            let mut to = 0;
            let mut places = Vec::with_capacity(unsettled.len() + 1);
            for byte in unsettled {
                places.push(to);
                to += usize::from(*byte != PENDING_COMMA || settled.get(to) == Some(&b','));
            }
            places.push(to);
            places
        }))
    }

    fn of_byte(&self, at: usize) -> usize {
        self.0.as_ref().map_or(at, |places| places.get(at).copied().unwrap_or(at))
    }
}
