//! The git repository that a file is in.

use std::fs;
use std::path::{Path, PathBuf};
use std::time::Duration;
use tinmold_platform::process::{self, Ended};
use tinmold_platform::repository;
use tinmold_platform::root_dir::RootDir;

/// The largest ignore file that is read, in bytes.
pub(super) const LARGEST: u64 = 4 << 20;
/// Time limit of git.
const LIMIT: Duration = Duration::from_secs(20);

/// A git repository.
pub(super) struct Repository {
    /// The root of its working directory.
    pub(super) root: PathBuf,
}

impl Repository {
    /// Finds the repository whose working directory holds `directory`, as git would.
    pub(super) fn around(directory: &Path) -> Option<Self> {
        Some(Self { root: repository::around(directory)?.to_owned() })
    }

    /// Returns the patterns of its `info/exclude`.
    pub(super) fn excludes(&self) -> Option<Vec<u8>> {
        let git = self.root.join(".git");
        let mut folder = match fs::symlink_metadata(&git).ok()?.is_dir() {
            true => git,
            // A working tree of its own, or a submodule: gitrepository-layout(5).
            false => {
                let text = read(&self.root, ".git")?;
                let target = String::from_utf8(text).ok()?;
                self.root.join(target.strip_prefix("gitdir:")?.trim())
            }
        };
        if let Some(common) = read(&folder, "commondir").and_then(|text| String::from_utf8(text).ok()) {
            folder = folder.join(common.trim());
        }
        read(&folder, "info/exclude")
    }

    /// Returns true if git tracks the file at `path`, relative to its root.
    pub(super) fn tracks(&self, path: &str) -> bool {
        let mut git = process::git(&self.root);
        // To list names runs nothing of the repository's, whoever owns it.
        git.args(["-c", "safe.directory=*", "--literal-pathspecs", "ls-files", "-z", "--", path]);
        match process::capture(&mut git, LIMIT) {
            Ok(captured) if captured.ended == Ended::Exit(0) => !captured.output.is_empty(),
            Ok(captured) => {
                tracing::warn!(root = %self.root.display(), ended = %captured.ended, "git cannot list what it tracks");
                false
            }
            Err(error) => {
                tracing::debug!(%error, "without git nothing is known to be tracked");
                false
            }
        }
    }
}

/// Reads a regular file that no link leads to.
pub(super) fn read(root: &Path, inside: &str) -> Option<Vec<u8>> {
    RootDir::open_through_links(root).ok()?.read(inside, LARGEST).ok()
}
