//! The project as it is on disk.

use super::decision::BlockedBy;
use super::tree::Print;
use std::io::{ErrorKind, Result};
use tinmold_platform::digest::{Digest, digest_of};
use tinmold_platform::paths::portable_path;
use tinmold_platform::read_dir::EntryKind;
use tinmold_platform::root_dir::{RootDir, is_link_on_the_way};

/// The largest file that is merged, in bytes.
pub(super) const LARGEST: u64 = 16 << 20;

/// What is at a path of the project.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Look {
    /// Nothing.
    Absent,
    /// A file, with its permission bits and its length.
    File(u32, u64),
    /// A link to this target.
    Link(String),
    /// Nothing can be written there.
    Blocked(BlockedBy),
}

/// Looks at a path.
///
/// # Errors
/// What the system refuses.
pub(super) fn look(root: &RootDir, path: &str) -> Result<Look> {
    if portable_path(path).is_err() {
        return Ok(Look::Blocked(BlockedBy::Link));
    }
    let found = match root.find(path) {
        Err(error) if is_link_on_the_way(&error) => return Ok(Look::Blocked(BlockedBy::Link)),
        Err(error) if error.kind() == ErrorKind::NotADirectory => return Ok(Look::Blocked(BlockedBy::File)),
        other => other?,
    };
    Ok(match found {
        Some(found) => match found.kind {
            EntryKind::File => Look::File(found.mode, found.length),
            EntryKind::Link => match root.read_link(path)?.to_str() {
                Some(target) => Look::Link(target.to_owned()),
                None => Look::Blocked(BlockedBy::Link),
            },
            EntryKind::Directory => Look::Blocked(BlockedBy::Folder),
            _ => Look::Blocked(BlockedBy::Other),
        },
        None => {
            let parents = path.match_indices('/').map(|(at, _)| &path[..at]);
            for parent in parents {
                match root.find(parent) {
                    Ok(None) => break,
                    Ok(Some(found)) if found.kind == EntryKind::Directory => {}
                    Ok(Some(found)) if found.kind == EntryKind::Link => {
                        return Ok(Look::Blocked(BlockedBy::Link));
                    }
                    _ => return Ok(Look::Blocked(BlockedBy::File)),
                }
            }
            Look::Absent
        }
    })
}

/// Returns what identifies the content at a path; `None` if there is no file or link.
///
/// # Errors
/// What the system refuses.
pub(super) fn print_of(root: &RootDir, path: &str, look: &Look) -> Result<Option<Print>> {
    Ok(match look {
        Look::File(..) => Some(Print::File(root.digest(path)?)),
        Look::Link(target) => Some(Print::Link(target.clone())),
        Look::Absent | Look::Blocked(_) => None,
    })
}

/// Returns the files of the project that no ignore file names, at most so many, without those of git and of this
/// program.
pub(super) fn own_files(root: &RootDir, most: usize) -> Vec<String> {
    let walk = ignore::WalkBuilder::new(root.path())
        .hidden(false)
        .follow_links(false)
        .require_git(false)
        .git_global(false)
        .filter_entry(|entry| !matches!(entry.file_name().to_str(), Some(".git" | crate::record::FOLDER)))
        .build();
    let files = walk.flatten().filter(|entry| entry.file_type().is_some_and(|kind| kind.is_file()));
    let paths = files.filter_map(|entry| {
        let inside = entry.path().strip_prefix(root.path()).ok()?.to_str()?;
        Some(inside.replace(std::path::MAIN_SEPARATOR, "/"))
    });
    let mut paths: Vec<String> = paths.take(most).collect();
    paths.sort();
    paths
}

/// Returns the bytes, or those with the other line endings, if they have this digest.
pub(super) fn with_digest(bytes: Vec<u8>, digest: Digest) -> Option<Vec<u8>> {
    if digest_of(&bytes) == digest {
        return Some(bytes);
    }
    let text = String::from_utf8(bytes).ok()?;
    let plain = text.replace("\r\n", "\n");
    let turned = plain.replace('\n', "\r\n");
    [plain, turned].map(String::into_bytes).into_iter().find(|bytes| digest_of(bytes) == digest)
}
