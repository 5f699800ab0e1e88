//! What a recast would change in a project.

use super::file::{FileKind, Outcome, OutcomeFile, Preview};
use crate::recast::{FileChange, FileRecast, Recast, Written};
use std::hash::{DefaultHasher, Hash, Hasher};

/// Returns the files that a recast adds and changes.
#[must_use]
pub fn outcome_of_recast(recast: &Recast) -> Outcome {
    let files = recast.files.iter().filter(|file| file.kind != FileChange::Removed);
    Outcome::new(files.map(outcome_file).collect())
}

fn outcome_file(file: &FileRecast) -> OutcomeFile {
    let mut hasher = DefaultHasher::new();
    let (kind, bytes, lines) = match &file.after {
        Some(Written::File(bytes, mode)) => {
            (bytes, mode).hash(&mut hasher);
            let kind = if file.was.is_some() { FileKind::Edited } else { FileKind::File };
            let lines = std::str::from_utf8(bytes).ok().map(|text| text.lines().count());
            (kind, bytes.len() as u64, lines)
        }
        Some(Written::Link(target)) => {
            target.hash(&mut hasher);
            (FileKind::Link, 0, None)
        }
        None => (FileKind::Edited, 0, None),
    };
    OutcomeFile { path: file.path.clone(), kind, bytes, lines, print: hasher.finish() }
}

/// Returns the content of a file that a recast adds or changes; `None` if it does neither.
#[must_use]
pub fn preview_of_recast(recast: &Recast, path: &str) -> Option<Preview> {
    let file = recast.files.iter().find(|file| file.path == path)?;
    let text = match &file.after {
        Some(Written::File(bytes, _)) => String::from_utf8(bytes.clone()).ok(),
        _ => None,
    };
    Some(Preview { text, before: file.before.clone() })
}
