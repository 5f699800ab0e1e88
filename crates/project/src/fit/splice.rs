//! The changes from one text to another, byte for byte.

use crate::record::Splice;
use similar::{Algorithm, capture_diff_slices};

/// Returns the splices that turn `from` into `to`, from the end to the start, by whole lines.
pub(crate) fn between(from: &str, to: &str) -> Vec<Splice> {
    let old: Vec<&str> = from.split_inclusive('\n').collect();
    let new: Vec<&str> = to.split_inclusive('\n').collect();
    let start = |at: usize| old[..at].iter().map(|line| line.len()).sum::<usize>();
    let ops = capture_diff_slices(Algorithm::Myers, &old, &new);
    let changes = ops.iter().rev().filter(|op| op.tag() != similar::DiffTag::Equal);
    changes
        .map(|op| {
            let at = start(op.old_range().start);
            Splice { at, length: start(op.old_range().end) - at, text: new[op.new_range()].concat() }
        })
        .collect()
}

/// Returns the text after the splices; none if they are not of this text.
pub(crate) fn made(text: &str, splices: &[Splice]) -> Option<String> {
    let mut out = text.to_owned();
    for splice in splices {
        let end = splice.at.checked_add(splice.length)?;
        out.get(splice.at..end)?;
        out.replace_range(splice.at..end, &splice.text);
    }
    Some(out)
}
