//! Entries that meet at one path, and links that lead out of the project.

use crate::plan::{Entry, EntryKind};
use std::borrow::Cow;
use std::collections::{HashMap, HashSet};
use tinmold_platform::paths::{PathError, folded, has_drive, portable_name};

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

/// The links of a plan, by folded path.
pub(super) struct Links<'e>(HashMap<Cow<'e, str>, &'e str>);

impl<'e> Links<'e> {
    pub(super) fn of(entries: &'e [Entry<'e>]) -> Self {
        let links = entries.iter().filter_map(|entry| match entry.kind {
            EntryKind::Link(target) => Some((folded(&entry.path), target)),
            _ => None,
        });
        Self(links.collect())
    }

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
            if let Some(next) = self.0.get(&folded(&place.join("/"))) {
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

/// Returns the entries named `HEAD` of directories that git would take for a repository: gitrepository-layout(5).
pub(super) fn repositories<'e>(entries: &'e [Entry<'e>]) -> Vec<&'e Entry<'e>> {
    let mut there: HashSet<Cow<'e, str>> = HashSet::new();
    for entry in entries {
        let path = &*entry.path;
        there.extend(path.match_indices('/').map(|(at, _)| folded(&path[..at])));
        there.insert(folded(path));
    }
    let is_repository = |entry: &&Entry<'e>| {
        let path = folded(&entry.path);
        let directory = match path.rsplit_once('/') {
            Some((directory, "head")) => format!("{directory}/"),
            None if path == "head" => String::new(),
            _ => return false,
        };
        let has = |name: &str| there.contains(format!("{directory}{name}").as_str());
        (has("objects") && has("refs")) || has("commondir")
    };
    entries.iter().filter(is_repository).collect()
}

/// Returns pairs of entries that some system takes for one path, and pairs where an entry needs a
/// directory that another entry makes a file.
pub(super) fn collisions<'e>(entries: &'e [Entry<'e>]) -> Vec<(&'e Entry<'e>, &'e Entry<'e>)> {
    let mut by_path = HashMap::with_capacity(entries.len());
    let mut pairs = Vec::new();
    for entry in entries {
        if let Some(other) = by_path.insert(folded(&entry.path), entry) {
            pairs.push((entry, other));
        }
    }
    for entry in entries {
        let path = folded(&entry.path);
        let mut parents = path.rmatch_indices('/').map(|(at, _)| &path[..at]);
        let above = parents.find_map(|parent| by_path.get(parent));
        pairs.extend(above.filter(|above| above.kind != EntryKind::Folder).map(|above| (entry, *above)));
    }
    pairs
}
