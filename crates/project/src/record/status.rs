//! The state of a project's files, compared with its record.

use super::find::Recorded;
use std::fs;
use std::path::Path;
use tinmold_platform::digest::{Digest, digest_of_file};
use tinmold_platform::parallel;

/// The state of a file, compared with the record.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FileStatus {
    /// Unchanged.
    AsCast,
    /// Changed since.
    Changed,
    /// Not there any more.
    Missing,
}

/// The state of every file of a project, sorted by path.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Status {
    /// Each recorded file and link.
    pub files: Vec<(String, FileStatus)>,
}

impl Status {
    /// Returns the paths of the files in this state.
    pub fn of(&self, wanted: FileStatus) -> impl Iterator<Item = &str> {
        self.files.iter().filter(move |(_, status)| *status == wanted).map(|(path, _)| path.as_str())
    }
}

/// Compares every recorded file with the one on disk. An unreadable file counts as changed.
#[must_use]
pub fn status(recorded: &Recorded) -> Status {
    enum Was<'r> {
        File(&'r Digest),
        Link(&'r str),
    }
    let files = recorded.digests.iter().map(|(path, digest)| (path, Was::File(digest)));
    let links = recorded.casting.links.iter().map(|(path, target)| (path, Was::Link(target)));
    let mut all: Vec<(&String, Was<'_>)> = files.chain(links).collect();
    all.sort_by_key(|(path, _)| *path);
    let looked = parallel::map(&all, |_, (path, was)| {
        let at = recorded.root.join(path);
        // A record is untrusted: a path that leads through a link is not followed.
        if leads_elsewhere(&recorded.root, path) {
            return FileStatus::Changed;
        }
        let same = match (fs::symlink_metadata(&at), was) {
            (Err(error), _) if error.kind() == std::io::ErrorKind::NotFound => return FileStatus::Missing,
            (Ok(metadata), Was::File(digest)) if metadata.is_file() => {
                digest_of_file(&at).is_ok_and(|found| found == **digest)
            }
            (Ok(metadata), Was::Link(target)) if metadata.is_symlink() => {
                fs::read_link(&at).is_ok_and(|found| found.to_str() == Some(*target))
            }
            _ => false,
        };
        if same { FileStatus::AsCast } else { FileStatus::Changed }
    });
    Status { files: all.into_iter().map(|(path, _)| path.clone()).zip(looked).collect() }
}

/// Returns true if a directory on the way to `path` is a link.
pub(crate) fn leads_elsewhere(root: &Path, path: &str) -> bool {
    let folders = path.match_indices('/').map(|(at, _)| &path[..at]);
    folders
        .into_iter()
        .any(|folder| fs::symlink_metadata(root.join(folder)).is_ok_and(|metadata| metadata.is_symlink()))
}
