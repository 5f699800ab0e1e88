//! Items left out of a shelf's listing.

/// Something on a shelf that is left out of its listing.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Skipped {
    /// The file, folder or version.
    pub what: String,
    /// Why.
    pub why: String,
}

impl Skipped {
    /// Makes a note of something that is left out.
    pub(crate) fn new(what: impl Into<String>, why: impl ToString) -> Self {
        Self { what: what.into(), why: why.to_string() }
    }
}

impl std::fmt::Display for Skipped {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}: {}", self.what, self.why)
    }
}
