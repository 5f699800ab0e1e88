//! Writing JSON texts.

use std::fmt::Write;

/// A text as JSON has it (RFC 8259), with its quotes.
pub fn text(text: &str) -> String {
    let mut out = String::with_capacity(text.len() + 2);
    out.push('"');
    for c in text.chars() {
        match c {
            '"' => out.push_str("\\\""),
            '\\' => out.push_str("\\\\"),
            '\n' => out.push_str("\\n"),
            c if c < ' ' => {
                // A text takes everything that is written to it.
                let _ = write!(out, "\\u{:04x}", u32::from(c));
            }
            c => out.push(c),
        }
    }
    out.push('"');
    out
}

#[cfg(test)]
mod tests {
    #[test]
    fn texts_are_quoted() {
        assert_eq!(super::text("a\"\\\n\u{1}"), r#""a\"\\\n\u0001""#);
    }
}
