//! A place where a text is not of its language.

/// A place where a text is not of its language.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Mistake {
    /// The byte where that shows.
    pub at: usize,
    /// What would have to be there, if only that is missing.
    pub missing: Option<String>,
}
