//! Entries that meet at one path, and links that lead out of the project.

use crate::plan::{Entry, EntryKind};
use std::borrow::Cow;
use std::collections::{HashMap, HashSet};
use tinmold_platform::paths::{PathError, folded, has_drive, joined, parent_of, portable_name};

/// Why a link is refused. Displayed as a clause that follows the path.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum LinkError {
    /// The target is outside the destination.
    #[error("is a link to {0:?}, which leads out of the destination")]
    Outside(String),
    /// The target belongs to git or to this program.
    #[error("is a link to {0:?}, which belongs to git or to Tin Mold")]
    Protected(String),
    /// The target leads round in a circle.
    #[error("is a link to {0:?}, which leads round in a circle")]
    Circle(String),
}

/// The most links that one path leads through.
const MOST_LINKS: usize = 40;

/// The paths of a plan, folded, in the order of its entries.
pub(super) struct Folded<'e> {
    entries: &'e [Entry<'e>],
    paths: Vec<Cow<'e, str>>,
}

/// The links of a plan, by folded path.
pub(super) struct Links<'f>(HashMap<&'f str, &'f str>);

impl<'f> Links<'f> {
    /// Checks that a link at `path` leads to something inside the project, through whatever other links of
    /// the plan.
    pub(super) fn check(&self, path: &str, target: &str) -> Result<(), LinkError> {
        let out = || LinkError::Outside(target.to_owned());
        let mut place: Vec<&str> = path.split('/').collect();
        place.pop();
        let mut rest: Vec<&str> = parts(target).ok_or_else(out)?;
        let mut links = 0;
        while let Some(part) = rest.pop() {
            match part {
                "" | "." => continue,
                ".." => {
                    place.pop().ok_or_else(out)?;
                    continue;
                }
                _ => place.push(part),
            }
            if portable_name(part) == Err(PathError::Protected) {
                return Err(LinkError::Protected(target.to_owned()));
            }
            if let Some(next) = self.0.get(&*folded(&place.join("/"))) {
                links += 1;
                if links > MOST_LINKS {
                    return Err(LinkError::Circle(target.to_owned()));
                }
                place.pop();
                rest.extend(parts(next).ok_or_else(out)?);
            }
        }
        Ok(())
    }
}

/// Returns the parts of a target, the last one first; `None` if it is not relative.
fn parts(target: &str) -> Option<Vec<&str>> {
    let is_relative =
        !target.is_empty() && !target.starts_with('/') && !target.contains('\\') && !has_drive(target);
    is_relative.then(|| target.split('/').rev().collect())
}

impl<'e> Folded<'e> {
    pub(super) fn new(entries: &'e [Entry<'e>]) -> Self {
        Self { entries, paths: entries.iter().map(|entry| folded(&entry.path)).collect() }
    }

    fn pairs(&self) -> impl Iterator<Item = (&'e Entry<'e>, &str)> {
        self.entries.iter().zip(self.paths.iter().map(|path| &**path))
    }

    /// Returns the links.
    pub(super) fn links(&self) -> Links<'_> {
        let links = self.pairs().filter_map(|(entry, path)| match entry.kind {
            EntryKind::Link(target) => Some((path, target)),
            _ => None,
        });
        Links(links.collect())
    }

    /// Returns the entries named `HEAD` of directories that git would take for a repository:
    /// gitrepository-layout(5).
    pub(super) fn repositories(&self) -> Vec<&'e Entry<'e>> {
        let is_head = |path: &str| path.rsplit('/').next() == Some("head");
        let mut heads = self.pairs().filter(|(_, path)| is_head(path)).peekable();
        if heads.peek().is_none() {
            return Vec::new();
        }
        let mut there: HashSet<&str> = HashSet::new();
        for (_, path) in self.pairs() {
            there.extend(path.match_indices('/').map(|(at, _)| &path[..at]));
            there.insert(path);
        }
        let is_repository = |(_, path): &(&Entry<'_>, &str)| {
            let has = |name: &str| there.contains(&*joined(parent_of(path), name));
            (has("objects") && has("refs")) || has("commondir")
        };
        heads.filter(is_repository).map(|(entry, _)| entry).collect()
    }

    /// Returns pairs of entries that some system takes for one path, and pairs where an entry needs a
    /// directory that another entry makes a file.
    pub(super) fn collisions(&self) -> Vec<(&'e Entry<'e>, &'e Entry<'e>)> {
        let mut by_path = HashMap::with_capacity(self.entries.len());
        let mut pairs = Vec::new();
        for (entry, path) in self.pairs() {
            if let Some(other) = by_path.insert(path, entry) {
                pairs.push((entry, other));
            }
        }
        for (entry, path) in self.pairs() {
            let mut parents = path.rmatch_indices('/').map(|(at, _)| &path[..at]);
            let above = parents.find_map(|parent| by_path.get(parent));
            pairs.extend(above.filter(|above| above.kind != EntryKind::Folder).map(|above| (entry, *above)));
        }
        pairs
    }
}
