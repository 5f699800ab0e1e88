//! A change of the text of an existing file.

use tinmold_platform::digest::{Digest, digest_of};

/// A file before and after.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Change {
    /// The path in the project.
    pub path: String,
    /// The text before.
    pub before: String,
    /// The text after.
    pub after: String,
}

impl Change {
    /// Returns the state that the file must still have at the write.
    pub(crate) fn expected(&self) -> (String, Option<Digest>) {
        (self.path.clone(), Some(digest_of(self.before.as_bytes())))
    }
}
