//! Where two texts differ from a third.

use similar::{Algorithm, DiffTag, capture_diff_slices};
use std::ops::Range;

/// A line: its text, and whether a line ending follows. Endings of both kinds are the same here.
pub(super) type Line<'a> = (&'a str, bool);

/// Returns the lines of a text.
pub(super) fn lines_of(text: &str) -> Vec<Line<'_>> {
    text.split_inclusive('\n')
        .map(|line| match line.strip_suffix('\n') {
            Some(body) => (body.strip_suffix('\r').unwrap_or(body), true),
            None => (line, false),
        })
        .collect()
}

/// A stretch of the base that at least one side changed, with the stretches that stand for it on both sides.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Change {
    pub(super) base: Range<usize>,
    pub(super) mine: Range<usize>,
    pub(super) theirs: Range<usize>,
}

/// Returns all changes, from the start to the end. Changes of both sides that touch are one.
pub(super) fn changes(base: &[Line<'_>], mine: &[Line<'_>], theirs: &[Line<'_>]) -> Vec<Change> {
    let (of_mine, of_theirs) = (one_sided(base, mine), one_sided(base, theirs));
    let (mut at_mine, mut at_theirs) = (of_mine.iter().peekable(), of_theirs.iter().peekable());
    // How far each side is ahead of the base behind its last change.
    let (mut ahead_mine, mut ahead_theirs) = (0_isize, 0_isize);
    let mut changes = Vec::new();
    loop {
        let start = match (at_mine.peek(), at_theirs.peek()) {
            (None, None) => return changes,
            (Some((base, _)), None) | (None, Some((base, _))) => base.start,
            (Some((mine, _)), Some((theirs, _))) => mine.start.min(theirs.start),
        };
        let (mut end, before) = (start, (ahead_mine, ahead_theirs));
        loop {
            let mut grew = false;
            for (side, ahead) in [(&mut at_mine, &mut ahead_mine), (&mut at_theirs, &mut ahead_theirs)] {
                while let Some((base, new)) = side.next_if(|(base, _)| base.start <= end) {
                    end = end.max(base.end);
                    *ahead += new.len().cast_signed() - base.len().cast_signed();
                    grew = true;
                }
            }
            if !grew {
                break;
            }
        }
        let side =
            |before: isize, after: isize| start.wrapping_add_signed(before)..end.wrapping_add_signed(after);
        changes.push(Change {
            base: start..end,
            mine: side(before.0, ahead_mine),
            theirs: side(before.1, ahead_theirs),
        });
    }
}

/// Returns which lines of the base became which lines of the other text.
fn one_sided(base: &[Line<'_>], other: &[Line<'_>]) -> Vec<(Range<usize>, Range<usize>)> {
    let ops = capture_diff_slices(Algorithm::Histogram, base, other);
    let changed = ops.iter().filter(|op| op.tag() != DiffTag::Equal);
    changed.map(|op| (op.old_range(), op.new_range())).collect()
}
