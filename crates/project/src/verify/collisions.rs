//! Entries that meet at one path, and links that lead out of the project.

use crate::plan::{Entry, EntryKind};
use std::collections::HashMap;
use tinmold_platform::paths::{folded, has_drive};

/// Why a link is refused. Displayed as a clause that follows the path.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum LinkError {
    /// The target is outside the destination.
    #[error("is a link to {0:?}, which leads out of the destination")]
    Outside(String),
    /// The target belongs to git or to this program.
    #[error("is a link to {0:?}, which belongs to git or to Tin Mold")]
    Protected(String),
}

/// Checks that a link at `path` points to something inside the project.
pub(super) fn check_link(path: &str, target: &str) -> Result<(), LinkError> {
    let out = || Err(LinkError::Outside(target.to_owned()));
    if target.is_empty() || target.starts_with(['/', '\\']) || target.contains('\\') || has_drive(target) {
        return out();
    }
    let mut depth = path.split('/').count() - 1;
    for part in target.split('/') {
        match part {
            "" | "." => {}
            ".." if depth == 0 => return out(),
            ".." => depth -= 1,
            ".git" | ".tinmold" => {
                return Err(LinkError::Protected(target.to_owned()));
            }
            _ => depth += 1,
        }
    }
    Ok(())
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
