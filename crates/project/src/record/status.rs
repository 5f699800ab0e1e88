//! The state of a project's files, compared with its record.

use super::find::Recorded;
use tinmold_platform::digest::Digest;
use tinmold_platform::parallel;
use tinmold_platform::read_dir::EntryKind;
use tinmold_platform::root_dir::RootDir;

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
    let root = RootDir::open_through_links(&recorded.root);
    let looked = parallel::map(&all, |_, (path, was)| {
        // A record is untrusted: a path that leads through a link is not followed.
        let Ok(root) = &root else { return FileStatus::Changed };
        let same = match (root.find(path), was) {
            (Ok(None), _) => return FileStatus::Missing,
            (Ok(Some(found)), Was::File(digest)) if found.kind == EntryKind::File => {
                root.digest(path).is_ok_and(|found| found == **digest)
            }
            (Ok(Some(found)), Was::Link(target)) if found.kind == EntryKind::Link => {
                root.read_link(path).is_ok_and(|found| found.to_str() == Some(*target))
            }
            _ => false,
        };
        if same { FileStatus::AsCast } else { FileStatus::Changed }
    });
    Status { files: all.into_iter().map(|(path, _)| path.clone()).zip(looked).collect() }
}
