//! Places in a source text.

/// A range of bytes in a source text.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub struct Span {
    /// The first byte.
    pub start: u32,
    /// The byte after the last.
    pub end: u32,
}

impl Span {
    /// Returns the range from `start` up to and without `end`, both in bytes.
    ///
    /// Sources are at most 4 GiB long; positions past that are clamped.
    #[must_use]
    pub fn new(start: usize, end: usize) -> Self {
        let clamp = |at: usize| u32::try_from(at).unwrap_or(u32::MAX);
        Self { start: clamp(start), end: clamp(end) }
    }

    /// From the start of `self` to the end of `other`.
    #[must_use]
    pub fn to(self, other: Self) -> Self {
        Self { start: self.start, end: other.end }
    }

    /// Returns the range for indexing into the source.
    #[must_use]
    pub fn range(self) -> std::ops::Range<usize> {
        self.start as usize..self.end as usize
    }

    /// Returns the piece of `source` that it covers; empty where the source is too short.
    #[must_use]
    pub fn of(self, source: &str) -> &str {
        source.get(self.range()).unwrap_or("")
    }
}

/// A position for people: line and column count from 1, the column in characters.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Position {
    /// The line, from 1.
    pub line: usize,
    /// The character within the line, from 1.
    pub column: usize,
}

impl Position {
    /// Returns the position of the byte `at` in `source`. An offset past the end is the end.
    #[must_use]
    pub fn of(source: &str, at: usize) -> Self {
        let mut at = at.min(source.len());
        while !source.is_char_boundary(at) {
            at -= 1;
        }
        let before = &source[..at];
        let line_start = before.rfind('\n').map_or(0, |n| n + 1);
        Self {
            line: memchr::memchr_iter(b'\n', before.as_bytes()).count() + 1,
            column: before[line_start..].trim_start_matches('\u{feff}').chars().count() + 1,
        }
    }
}
