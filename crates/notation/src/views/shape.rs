//! Views that shape text: lines, prefixes, width.

use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};

/// `prefix` in front of every non-empty line.
pub(crate) fn prefixed(text: &str, prefix: &str) -> String {
    let mut out = String::with_capacity(text.len() + prefix.len());
    for line in text.split_inclusive('\n') {
        if !line.trim_end_matches(['\n', '\r']).is_empty() {
            out.push_str(prefix);
        }
        out.push_str(line);
    }
    out
}

/// Breaks lines at white space so that none is wider than `width` columns, except for longer words.
/// Blank lines stay.
pub(crate) fn wrapped(text: &str, width: usize) -> String {
    let mut out = String::with_capacity(text.len());
    for (number, line) in text.split('\n').enumerate() {
        if number > 0 {
            out.push('\n');
        }
        let mut column = 0;
        for word in line.split_whitespace() {
            let wide = word.width();
            if column > 0 && column + 1 + wide > width {
                out.push('\n');
                column = 0;
            } else if column > 0 {
                out.push(' ');
                column += 1;
            }
            out.push_str(word);
            column += wide;
        }
    }
    out
}

/// Spaces on the right until the text is `width` columns wide.
pub(crate) fn padded(text: &str, width: usize) -> String {
    let wide: usize = text.chars().map(|c| c.width().unwrap_or(0)).sum();
    let mut out = text.to_owned();
    out.extend(std::iter::repeat_n(' ', width.saturating_sub(wide)));
    out
}

/// Zeros on the left until the number, its sign included, is `width` characters long.
pub(crate) fn zero_padded(number: i64, width: usize) -> String {
    format!("{number:0width$}")
}
