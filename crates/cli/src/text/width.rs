//! Texts in columns: cut, padded and wrapped by what people see as one letter.

use super::style::safe;
use unicode_segmentation::UnicodeSegmentation;
use unicode_width::UnicodeWidthStr;

/// Cuts a text to at most `width` columns; `…` stands for what is cut.
pub fn cut(text: &str, width: usize) -> String {
    let text = safe(text);
    if text.width() <= width {
        return text;
    }
    let mut out = String::new();
    let mut used = 0;
    for letter in text.graphemes(true) {
        if used + letter.width() + 1 > width {
            break;
        }
        used += letter.width();
        out.push_str(letter);
    }
    if width > 0 {
        out.push('…');
    }
    out
}

/// Pads or cuts a text to exactly `width` columns.
pub fn fit_width(text: &str, width: usize) -> String {
    let text = cut(text, width);
    let used = text.width();
    text + &" ".repeat(width.saturating_sub(used))
}

/// Breaks a text at its spaces into lines of at most `width` columns.
pub fn wrap(text: &str, width: usize) -> Vec<String> {
    let width = width.max(4);
    let mut lines = Vec::new();
    for paragraph in text.lines() {
        let mut line = String::new();
        for word in safe(paragraph).split_whitespace() {
            let mut word = word.to_owned();
            if !line.is_empty() && line.width() + 1 + word.width() > width {
                lines.push(std::mem::take(&mut line));
            }
            // A word that is longer than a line is broken wherever it has to be.
            while word.width() > width {
                let mut head = String::new();
                for letter in word.graphemes(true) {
                    if head.width() + letter.width() > width {
                        break;
                    }
                    head.push_str(letter);
                }
                word = word.split_off(head.len());
                lines.push(head);
            }
            if !line.is_empty() {
                line.push(' ');
            }
            line.push_str(&word);
        }
        lines.push(line);
    }
    lines
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn columns_are_kept() {
        for (text, width, expected) in [
            ("Tern Quay", 9, "Tern Quay"),
            ("Tern Quay", 6, "Tern …"),
            ("潮汐表", 5, "潮汐…"),
            ("潮汐表", 4, "潮…"),
            ("e\u{301}e\u{301}e\u{301}", 2, "e\u{301}…"),
            ("x", 0, ""),
        ] {
            assert_eq!(cut(text, width), expected, "{text:?} {width}");
            assert_eq!(fit_width(text, width).width(), width, "{text:?} {width}");
        }
        assert_eq!(wrap("from Gull Point to Tern Quay", 10), ["from Gull", "Point to", "Tern Quay"]);
        assert_eq!(wrap("abcdefgh x", 4), ["abcd", "efgh", "x"]);
    }
}
