//! By line, or else by content.

use super::content::{self, Disagreement};
use super::lines::Merge;
use crate::fit::Text;
use tinmold_mold::{Holds, formats};

/// What comes of three texts of a file.
#[derive(Clone, Debug, PartialEq)]
pub enum Merged {
    /// The text.
    Clean(String),
    /// Somebody decides: the places by line, and the values that differ where the file can be read.
    Conflicts(Merge, Vec<Disagreement>),
}

/// Merges three texts of a file that holds this format: by line if that is clean and can be read, else by content.
///
/// The result is the owner's text with as few changes as can be; its line endings stay.
///
/// ```
/// use tinmold_mold::Holds;
/// use tinmold_project::merge::{Merged, texts};
/// let merged = texts(Holds::Json, r#"{"a": 1, "b": 1}"#, r#"{"a": 2, "b": 1}"#, r#"{"a": 1, "b": 3}"#);
/// assert_eq!(merged, Merged::Clean(r#"{"a": 2, "b": 3}"#.into()));
/// ```
#[must_use]
pub fn texts(holds: Holds, base: &str, mine: &str, theirs: &str) -> Merged {
    let merge = Merge::of(base, mine, theirs);
    let is_read = |text: &str| formats::check(holds, text.as_bytes()).is_ok();
    if let Some(text) = merge.text().filter(|text| is_read(text) || !is_read(mine)) {
        return Merged::Clean(text);
    }
    if matches!(holds, Holds::Xml | Holds::Text) {
        return Merged::Conflicts(merge, Vec::new());
    }
    let file = Text::new(mine);
    let [base, theirs] = [base, theirs].map(|text| Text::new(text).plain());
    match content::merge(holds, &base, &file.plain(), &theirs) {
        Ok(Ok(text)) => Merged::Clean(file.with_plain(&text)),
        Ok(Err(disagreements)) => Merged::Conflicts(merge, disagreements),
        Err(_) => Merged::Conflicts(merge, Vec::new()),
    }
}
