//! A change of the text of an existing file.

use std::collections::BTreeMap;
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
    /// Enters the digest of the file after the change, unless the user had changed it before.
    pub(crate) fn enter(&self, digests: &mut BTreeMap<String, Digest>) {
        if let Some(digest) = digests.get_mut(&self.path)
            && *digest == digest_of(self.before.as_bytes())
        {
            *digest = digest_of(self.after.as_bytes());
        }
    }

    /// Returns the state that the file must still have at the write.
    pub(crate) fn expected(&self) -> (String, Option<Digest>) {
        (self.path.clone(), Some(digest_of(self.before.as_bytes())))
    }
}
