//! A mold in a folder of this machine.

use super::package::{Content, File, Origin, Package, PackageError};
use crate::parallel;
use std::fs;
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// So few folders are listed sooner by one thread than shared out.
const WORTH_SHARING: usize = 16;

/// Lists the mold in `folder`. Nothing but the list is read.
///
/// # Errors
/// The folder holds no `mold.toml`, a name that is not UTF-8, something that is no file, folder or link, or cannot be read.
pub fn open_folder(folder: &Path) -> Result<Package, PackageError> {
    if !folder.join("mold.toml").is_file() {
        return Err(PackageError::NotAMold(folder.to_owned()));
    }
    let mut files = Vec::new();
    let mut level = vec![(folder.to_owned(), String::new())];
    while !level.is_empty() {
        let mut below = Vec::new();
        let one = |(folder, inside): &(PathBuf, String)| list(folder, inside);
        let all: Vec<_> = if level.len() < WORTH_SHARING {
            level.iter().map(one).collect()
        } else {
            parallel::each(&level, one)
        };
        files.reserve(all.iter().flatten().map(|listed| listed.files.len()).sum());
        for listed in all {
            let listed = listed?;
            files.extend(listed.files);
            below.extend(listed.folders);
        }
        below.sort_unstable_by(|(_, a), (_, b)| a.cmp(b));
        level = below;
    }
    // The files of a folder stand in order already, which this sort takes note of.
    files.sort_by(|a, b| a.path.cmp(&b.path));
    Ok(Package::new(Origin::Folder(folder.to_owned()), files))
}

/// What is in one folder of a mold.
#[derive(Default)]
struct Listed {
    /// In the order of their paths.
    files: Vec<File>,
    /// The folders that hold something, or may: where they are, and their paths in the mold.
    folders: Vec<(PathBuf, String)>,
}

/// Lists the folder whose path in the mold is `inside`.
fn list(folder: &Path, inside: &str) -> Result<Listed, PackageError> {
    let io = |source| PackageError::Io { path: folder.to_owned(), source };
    let mut listed = Listed::default();
    let own: Arc<Path> = Arc::from(folder);
    for entry in fs::read_dir(folder).map_err(io)? {
        let entry = entry.map_err(io)?;
        let name = entry.file_name().into_string().map_err(|_| PackageError::NotUtf8(entry.path()))?;
        // A mold may live in a repository of its own.
        if inside.is_empty() && name == ".git" {
            continue;
        }
        let path = || folder.join(&name);
        let inside = if inside.is_empty() { name.clone() } else { [inside, "/", &name].concat() };
        let io = |source| PackageError::Io { path: path(), source };
        let kind = entry.file_type().map_err(io)?;
        if kind.is_dir() {
            listed.folders.push((path(), inside));
        } else if kind.is_symlink() {
            let target = fs::read_link(path()).map_err(io)?;
            let target = target.to_str().ok_or_else(|| PackageError::NotUtf8(target.clone()))?.to_owned();
            listed.files.push(File::new(inside, Content::Link(target), 0o777));
        } else if kind.is_file() {
            listed.files.push(File::on_disk(inside, Arc::clone(&own)));
        } else {
            return Err(PackageError::Special(path()));
        }
    }
    if listed.files.is_empty() && listed.folders.is_empty() && !inside.is_empty() {
        listed.files.push(File::new(inside.to_owned(), Content::EmptyFolder, 0o755));
    }
    listed.files.sort_unstable_by(|a, b| a.path.cmp(&b.path));
    Ok(listed)
}
