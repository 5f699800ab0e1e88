//! Counts the lines, words and bytes of files.

use std::error::Error;
use std::fs;
use std::io::{self, Read};
use std::ops::Add;
use std::path::{Path, PathBuf};

/// How much a text holds.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Counts {
    /// How many lines end in it.
    pub lines: usize,
    /// How many words, with white space between them.
    pub words: usize,
    /// How many bytes.
    pub bytes: usize,
}

impl Counts {
    /// Counts a text.
    pub fn of(text: &[u8]) -> Self {
        Self {
            lines: text.iter().filter(|byte| **byte == b'\n').count(),
            words: text
                .split(u8::is_ascii_whitespace)
                .filter(|word| !word.is_empty())
                .count(),
            bytes: text.len(),
        }
    }
}

impl Add for Counts {
    type Output = Self;

    fn add(self, other: Self) -> Self {
        Self {
            lines: self.lines + other.lines,
            words: self.words + other.words,
            bytes: self.bytes + other.bytes,
        }
    }
}

/// Prints the counts of each file, and of all together if `total` and there are several.
///
/// # Errors
/// A file cannot be read; the message names it.
pub fn run(files: &[PathBuf], total: bool) -> Result<(), Box<dyn Error>> {
    let standard_input = [PathBuf::from("-")];
    let files = if files.is_empty() {
        &standard_input
    } else {
        files
    };
    let mut sum = Counts::default();
    for file in files {
        let counts =
            Counts::of(&read(file).map_err(|error| format!("{}: {error}", file.display()))?);
        print(counts, &file.display().to_string());
        sum = sum + counts;
    }
    if total && files.len() > 1 {
        print(sum, "in all");
    }
    Ok(())
}

fn read(file: &Path) -> io::Result<Vec<u8>> {
    if file.as_os_str() != "-" {
        return fs::read(file);
    }
    let mut text = Vec::new();
    io::stdin().read_to_end(&mut text)?;
    Ok(text)
}

fn print(counts: Counts, name: &str) {
    let Counts {
        lines,
        words,
        bytes,
    } = counts;
    println!("{lines:>8} {words:>8} {bytes:>8}  {name}");
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
        ] {
            assert_eq!(
                Counts::of(text.as_bytes()),
                Counts {
                    lines,
                    words,
                    bytes
                },
                "{text:?}"
            );
        }
    }
}
