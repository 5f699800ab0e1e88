//! The origin of every byte of the output.

use super::{Machine, PENDING_COMMA, settle};
use crate::Budget;
use crate::program::{Op, Program};
use crate::span::Span;
use crate::values::Values;
use std::ops::Range;

/// The most runs of bytes that are recorded: one of a hostile body may have as many as bytes.
const MOST: usize = 1 << 20;

/// Records which step of the first routine put in which bytes.
pub(crate) struct Recorder {
    /// The output is recorded up to here; never reached if nothing is recorded.
    pub(super) to: usize,
    /// The only byte that is of interest.
    only: Option<usize>,
    /// By run of bytes: the step, and the bytes.
    steps: Vec<(usize, Range<usize>)>,
    /// True once there were too many.
    is_full: bool,
}

impl Recorder {
    pub(super) fn off() -> Self {
        Self { to: usize::MAX, only: None, steps: Vec::new(), is_full: false }
    }

    fn on(only: Option<usize>) -> Self {
        Self { to: 0, only, ..Self::off() }
    }

    fn add(&mut self, step: usize, bytes: Range<usize>) {
        if self.only.is_none_or(|only| bytes.contains(&only)) && !bytes.is_empty() {
            self.steps.push((step, bytes));
        }
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
            self.recorder.add(at, start..end);
            if start <= self.recorder.to {
                break;
            }
            end = start;
        }
        self.recorder.steps[first..].reverse();
        self.recorder.is_full = self.recorder.steps.len() > MOST;
        self.recorder.to = if self.recorder.is_full { usize::MAX } else { self.out.len() };
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
    fn recorded(&self, values: &Values, recorder: Recorder) -> Option<(Vec<u8>, Recorder)> {
        let budget = Budget::default();
        let mut out = Vec::new();
        let mut machine = Machine::new(self, values, &budget, &mut out);
        machine.recorder = recorder;
        machine.run(0).ok()?;
        let recorder = std::mem::replace(&mut machine.recorder, Recorder::off());
        drop(machine);
        Some((out, recorder))
    }

    /// Returns the output, and where every byte of it comes from, for a program compiled for tracing; `None` if
    /// it fails, or if the output is of too many pieces.
    pub(crate) fn origins(&self, values: &Values) -> Option<(Vec<u8>, Vec<Origin>)> {
        let (out, recorder) = self.recorded(values, Recorder::on(None))?;
        let (out, place) = Settled::of(out, self.json);
        let origins = recorder.steps.into_iter().filter_map(|(step, bytes)| {
            let bytes = place.of_byte(bytes.start)..place.of_byte(bytes.end);
            self.origin_of(step, bytes).filter(|origin| !origin.bytes.is_empty())
        });
        (!recorder.is_full).then(|| (out, origins.collect()))
    }

    /// Returns where the byte `at` of the output comes from, or the last one if there are fewer.
    pub(crate) fn origin_at(&self, values: &Values, at: usize) -> Option<(Origin, usize)> {
        let (out, _) = self.recorded(values, Recorder::off())?;
        let last = out.len().checked_sub(1)?;
        let byte = Settled::of(out, self.json).1.before(at).min(last);
        let (_, recorder) = self.recorded(values, Recorder::on(Some(byte)))?;
        let (step, bytes) = recorder.steps.into_iter().next()?;
        let within = byte - bytes.start;
        Some((self.origin_of(step, bytes)?, within))
    }

    fn origin_of(&self, step: usize, bytes: Range<usize>) -> Option<Origin> {
        let routine = &self.routines[0];
        let known = routine.spans.partition_point(|(op, _)| *op as usize <= step).checked_sub(1)?;
        let (op, span) = routine.spans[known];
        let is_text = op as usize == step && matches!(routine.ops[step], Op::Text(_));
        Some(Origin { bytes, span, is_text })
    }
}

/// Where the bytes of an output are after the commas of JSON are settled.
struct Settled(Option<Vec<usize>>);

impl Settled {
    /// Settles the commas of an output.
    fn of(unsettled: Vec<u8>, json: bool) -> (Vec<u8>, Self) {
        if !json {
            return (unsettled, Self(None));
        }
        let mut settled = unsettled.clone();
        settle(&mut settled, 0);
        if settled.len() == unsettled.len() {
            return (settled, Self(None));
        }
        let mut to = 0;
        let mut places = Vec::with_capacity(unsettled.len() + 1);
        for byte in unsettled {
            places.push(to);
            to += usize::from(byte != PENDING_COMMA || settled.get(to) == Some(&b','));
        }
        places.push(to);
        (settled, Self(Some(places)))
    }

    fn of_byte(&self, at: usize) -> usize {
        self.0.as_ref().map_or(at, |places| places.get(at).copied().unwrap_or(at))
    }

    /// Returns where a byte was before: after the commas there that were dropped.
    fn before(&self, at: usize) -> usize {
        let of = |places: &Vec<usize>| places.partition_point(|place| *place <= at).saturating_sub(1);
        self.0.as_ref().map_or(at, of)
    }
}
