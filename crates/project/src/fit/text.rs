//! A text file, taken apart so that it can be put together again with every untouched byte as it was.

use similar::{Algorithm, DiffTag, capture_diff_slices};

const MARK: &str = "\u{feff}";

/// A text with its byte-order mark and line endings apart.
#[derive(Clone, Debug)]
pub struct Text<'a> {
    has_mark: bool,
    lines: Vec<Line<'a>>,
}

#[derive(Clone, Copy, Debug)]
struct Line<'a> {
    text: &'a str,
    /// The line ending; empty for a last line without one.
    ending: &'a str,
}

impl<'a> Text<'a> {
    pub(crate) fn new(text: &'a str) -> Self {
        let body = text.strip_prefix(MARK);
        let lines = body.unwrap_or(text).split_inclusive('\n').map(|line| {
            let text = line.strip_suffix("\r\n").or_else(|| line.strip_suffix('\n')).unwrap_or(line);
            Line { text, ending: &line[text.len()..] }
        });
        Self { has_mark: body.is_some(), lines: lines.collect() }
    }

    /// Returns the lines without what ends them.
    pub(crate) fn lines(&self) -> Vec<&'a str> {
        self.lines.iter().map(|line| line.text).collect()
    }

    /// Returns the text without a byte-order mark, every line but perhaps the last ended by a line feed.
    pub(crate) fn plain(&self) -> String {
        let mut out = String::new();
        for line in &self.lines {
            out.push_str(line.text);
            out.push_str(if line.ending.is_empty() { "" } else { "\n" });
        }
        out
    }

    /// Returns the ending of most lines.
    pub(crate) fn ending(&self) -> &'static str {
        let crlf = self.lines.iter().filter(|line| line.ending == "\r\n").count();
        let lf = self.lines.iter().filter(|line| line.ending == "\n").count();
        if crlf > lf { "\r\n" } else { "\n" }
    }

    /// True if most indented lines begin with a tab.
    pub(crate) fn uses_tabs(&self) -> bool {
        let begin = |c: char| self.lines.iter().filter(|line| line.text.starts_with(c)).count();
        begin('\t') > begin(' ')
    }

    /// Returns the file with these lines instead: lines that it had keep their endings, new ones
    /// get the most frequent one, and the last line has an ending if it had one.
    pub(crate) fn with_lines(&self, new: &[&str]) -> String {
        let old = self.lines();
        let mut out = String::from(if self.has_mark { MARK } else { "" });
        let usual = self.ending();
        let mut write = |text: &str, ending: &str| {
            out.push_str(text);
            out.push_str(ending);
        };
        let ends = self.lines.last().is_none_or(|line| !line.ending.is_empty());
        let ending = |at: usize, own: &'a str| match at + 1 == new.len() {
            true if !ends => "",
            _ if own.is_empty() => usual,
            _ => own,
        };
        for op in capture_diff_slices(Algorithm::Myers, &old, new) {
            let kept = op.old_range();
            for (nth, at) in op.new_range().enumerate() {
                let own =
                    if op.tag() == DiffTag::Equal { self.lines[kept.start + nth].ending } else { usual };
                write(new[at], ending(at, own));
            }
        }
        out
    }

    /// Returns the same for the lines of a whole text.
    pub(crate) fn with_plain(&self, new: &str) -> String {
        self.with_lines(&new.lines().collect::<Vec<_>>())
    }
}
