//! What the mold of the record made: the side that both others came from.

use super::tree::{Node, Print, Tree, recorded_prints};
use crate::record::Recorded;
use std::collections::BTreeMap;

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

    /// Returns every path that was made.
    pub(super) fn paths(&self) -> impl Iterator<Item = &String> {
        let unrecorded = self.rendered.nodes.keys().filter(|path| !self.prints.contains_key(*path));
        self.prints.keys().chain(unrecorded)
    }
}
