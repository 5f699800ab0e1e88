//! The files staged for an existing directory.

use tinmold_platform::digest::Digest;

/// The files of a staging folder, and what becomes of them.
#[derive(Default)]
pub(crate) struct Staging {
    /// Paths of the staged files and links, in the order in which they are moved.
    pub(crate) files: Vec<String>,
    /// Folders with nothing in them.
    pub(crate) folders: Vec<String>,
    /// Paths of files and links that are removed.
    pub(crate) removed: Vec<String>,
    /// Files, links and folders that get another path before anything else happens, each to a path where nothing is.
    /// The other paths here are those afterwards.
    pub(crate) renames: Vec<(String, String)>,
    /// By path: what must still be there; nothing, or a file of this digest.
    pub(crate) expected: Vec<(String, Option<Digest>)>,
}
