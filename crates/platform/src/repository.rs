//! Where the git repository around a directory is: gitrepository-layout(5).

use std::fs;
use std::path::Path;

/// Returns the root of the working directory that holds `directory`, an absolute path, as git finds it.
#[must_use]
pub fn around(directory: &Path) -> Option<&Path> {
    directory.ancestors().find(|directory| is_repository(&directory.join(".git")))
}

fn is_repository(git: &Path) -> bool {
    match fs::symlink_metadata(git) {
        // A working tree of its own, or a submodule.
        Ok(found) if found.is_file() => true,
        // A link is followed by git too.
        Ok(_) => git.join("HEAD").exists(),
        Err(_) => false,
    }
}
