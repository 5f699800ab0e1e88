//! The languages of the files that a mold writes.
//!
//! [`Language::of_path`] tells the language of a file by its name, [`words`] what the words of a text are, for
//! colouring it, and [`mistake`] where it is not of its language. The grammars are those of tree-sitter; without the feature `grammars` every text is plain.

mod language;
mod mistake;
#[cfg(feature = "grammars")]
mod parsers;
#[cfg(feature = "grammars")]
mod places;
mod word;

pub use language::Language;
pub use mistake::Mistake;
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

/// True if the grammars are there.
pub const HAS_GRAMMARS: bool = cfg!(feature = "grammars");

/// Returns the first place where a text is not of its language; `None` if it is, if it is longer than
/// [`LONGEST`], and without grammars.
///
/// ```
/// use tinmold_grammar::{Language, mistake};
/// assert_eq!(mistake(Language::Python, "def berth(pier):\n    return pier\n"), None);
/// assert_eq!(mistake(Language::Python, "def berth(pier:\n    return pier\n").unwrap().at, 15);
/// ```
#[must_use]
pub fn mistake(language: Language, text: &str) -> Option<Mistake> {
    if text.len() > LONGEST {
        return None;
    }
    #[cfg(feature = "grammars")]
    return places::mistake(language, text);
    #[cfg(not(feature = "grammars"))]
    {
        let _ = language;
        None
    }
}
