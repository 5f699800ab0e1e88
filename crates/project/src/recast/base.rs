//! What the mold of the record made: the side that both others came from.

use super::disk::LARGEST;
use super::tree::{Node, Print, Tree, recorded_prints};
use crate::record::Recorded;
use std::collections::BTreeMap;
use tinmold_platform::digest::digest_of;
use tinmold_platform::root_dir::RootDir;

/// What was made, by path.
#[derive(Debug)]
pub(super) struct Base<'m> {
    /// What is recorded.
    pub(super) prints: BTreeMap<String, Print>,
    /// What the recorded mold renders, with its parts; empty if it cannot be had.
    pub(super) rendered: Tree<'m>,
}

impl<'m> Base<'m> {
    pub(super) fn new(recorded: &Recorded, rendered: Tree<'m>) -> Self {
        Self { prints: recorded_prints(recorded), rendered }
    }

    /// Returns what is rendered at a path if it is what was recorded: an older program may have rendered otherwise.
    pub(super) fn verified(&self, path: &str) -> Option<&Node<'m>> {
        let print = self.prints.get(path)?;
        self.rendered.nodes.get(path).filter(|node| node.was(print))
    }

    /// Returns the text of a file as it was made: as it is rendered, or as it is on disk if nobody changed it. `None` if that
    /// is not known, or no text.
    pub(super) fn as_made(&self, path: &str, root: &RootDir) -> Option<String> {
        if let Some(node) = self.verified(path) {
            return node.text(u64::MAX).ok()?;
        }
        let bytes = root.read(path, LARGEST).ok()?;
        let print = Print::File(digest_of(&bytes));
        let bytes = Some(bytes).filter(|_| self.prints.get(path) == Some(&print))?;
        String::from_utf8(bytes).ok()
    }

    /// Returns every path that was made.
    pub(super) fn paths(&self) -> impl Iterator<Item = &String> {
        let unrecorded = self.rendered.nodes.keys().filter(|path| !self.prints.contains_key(*path));
        self.prints.keys().chain(unrecorded)
    }
}
