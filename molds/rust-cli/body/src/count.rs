//! Counts the lines, words and bytes of a text.

use std::io::{self, BufRead};
use std::ops::AddAssign;

/// How much a text holds.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Counts {
    /// How many lines end in it.
    pub lines: u64,
    /// How many words, with white space between them.
    pub words: u64,
    /// How many bytes.
    pub bytes: u64,
}

impl Counts {
    /// Counts what can be read, piece by piece.
    ///
    /// # Errors
    /// Reading fails.
    pub fn of(mut text: impl BufRead) -> io::Result<Self> {
        let mut counts = Self::default();
        let mut is_in_word = false;
        loop {
            let piece = match text.fill_buf() {
                Ok([]) => return Ok(counts),
                Ok(piece) => piece,
                Err(error) if error.kind() == io::ErrorKind::Interrupted => continue,
                Err(error) => return Err(error),
            };
            for byte in piece {
                let is_space = byte.is_ascii_whitespace();
                counts.lines += u64::from(*byte == b'\n');
                counts.words += u64::from(!is_space && !is_in_word);
                is_in_word = !is_space;
            }
            let length = piece.len();
            counts.bytes += length as u64;
            text.consume(length);
        }
    }
}

impl AddAssign for Counts {
    fn add_assign(&mut self, other: Self) {
        self.lines += other.lines;
        self.words += other.words;
        self.bytes += other.bytes;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_words_and_bytes_are_counted() {
        for (text, lines, words, bytes) in [
            ("", 0, 0, 0),
            ("one", 0, 1, 3),
            ("one two\nthree\n", 2, 3, 14),
            (" \n\n", 2, 0, 3),
            ("zwei W\u{f6}rter", 0, 2, 12),
        ] {
            let expected = Counts {
                lines,
                words,
                bytes,
            };
            // A word that is read in pieces is one word.
            for size in [1, 3, 64] {
                let pieces = io::BufReader::with_capacity(size, text.as_bytes());
                assert_eq!(Counts::of(pieces).ok(), Some(expected), "{text:?}");
            }
        }
    }
}
