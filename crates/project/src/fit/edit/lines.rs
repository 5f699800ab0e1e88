//! Changes of single lines, and of entries between braces.

use std::ops::Range;

/// Returns the start of the line that holds the byte at `at`.
pub(super) fn line_start(text: &str, at: usize) -> usize {
    text[..at].rfind('\n').map_or(0, |end| end + 1)
}

/// Returns the end of the line that holds the byte at `at`, before its line feed.
pub(super) fn line_end(text: &str, at: usize) -> usize {
    text[at..].find('\n').map_or(text.len(), |end| at + end)
}

/// Inserts a line behind the one that holds the byte at `at`.
pub(super) fn behind_line(text: &str, at: usize, line: &str) -> String {
    let end = line_end(text, at);
    format!("{}\n{line}{}", &text[..end], &text[end..])
}

/// Returns the start of the comment lines that touch the line which begins at `start`; `start` itself if there are
/// none, or if they are the licence at the head of the file.
pub(super) fn comment_start(text: &str, start: usize, mark: &str) -> usize {
    let mut first = start;
    while first > 0 {
        let above = line_start(text, first - 1);
        if !text[above..first].trim_start().starts_with(mark) {
            break;
        }
        first = above;
    }
    let head = text[first..start].to_lowercase();
    let is_licence = first == 0 && ["copyright", "licen", "spdx"].iter().any(|word| head.contains(word));
    if is_licence { start } else { first }
}

/// Removes the lines of an entry, with the comment that touches it and the one behind it on its line.
pub(super) fn without_lines(text: &str, span: &Range<usize>, mark: &str) -> String {
    let start = comment_start(text, line_start(text, span.start), mark);
    let end = (line_end(text, span.end) + 1).min(text.len());
    format!("{}{}", &text[..start], &text[end..])
}

/// Inserts an entry as the last one between braces or brackets, in the style of the others.
pub(super) fn into_braces(text: &str, span: &Range<usize>, is_empty: bool, new: &str) -> String {
    let (inner_start, inner_end) = (span.start + 1, span.end - 1);
    let inner = &text[inner_start..inner_end];
    if is_empty {
        // As other braces of the file have it, or as is usual.
        let pad = if text[span.start..].starts_with('{') && is_airy(text) { " " } else { "" };
        return format!("{}{pad}{new}{pad}{}", &text[..inner_start], &text[inner_end..]);
    }
    let last = inner_start + inner.trim_end().trim_end_matches(',').trim_end().len();
    let comma = if is_airy(&text[span.clone()]) { ", " } else { "," };
    format!("{}{comma}{new}{}", &text[..last], &text[last..])
}

/// Returns true if white space follows commas or colons, or begins braces, as people write them.
pub(super) fn is_airy(text: &str) -> bool {
    [", ", "{ ", ": ", "= ", ",\n", "{\n", "[\n"].iter().any(|pair| text.contains(pair))
        || !text.contains([',', ':', '='])
}

/// Removes the entry at `at` of those on one line, with its comma; `alone` goes if there is no other.
pub(super) fn out_of_line(text: &str, spans: &[Range<usize>], at: usize, alone: Range<usize>) -> String {
    let span = &spans[at];
    let cut = match (at.checked_sub(1).map(|before| &spans[before]), spans.get(at + 1)) {
        (_, Some(next)) => span.start..next.start,
        (Some(before), None) => before.end..span.end,
        (None, None) => alone,
    };
    format!("{}{}", &text[..cut.start], &text[cut.end..])
}
