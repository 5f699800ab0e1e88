//! The languages of the files that a mold writes.
//!
//! [`Language::of_path`] tells the language of a file by its name, [`words`] what the words of a text are, for
//! colouring it. The grammars are those of tree-sitter; without the feature `grammars` every text is plain.

mod language;
#[cfg(feature = "grammars")]
mod parsers;
mod word;

pub use language::Language;
pub use word::{Word, WordKind};

use std::sync::atomic::AtomicUsize;

/// The longest text that is looked at, in bytes.
pub const LONGEST: usize = 512 * 1024;

/// Returns the words of a text that have a colour, in order and without overlap; none for a text that is longer
/// than [`LONGEST`] and without grammars. Ends early, without words, once `cancelled` is not 0.
#[must_use]
pub fn words(language: Language, text: &str, cancelled: &AtomicUsize) -> Vec<Word> {
    if text.len() > LONGEST {
        return Vec::new();
    }
    #[cfg(feature = "grammars")]
    return parsers::words(language, text, cancelled);
    #[cfg(not(feature = "grammars"))]
    {
        let _ = (language, cancelled);
        Vec::new()
    }
}
