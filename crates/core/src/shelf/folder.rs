//! A mold in a folder of this machine.

use super::package::{Content, File, Origin, Package, PackageError};
use crate::parallel;
use std::fs::{self, FileType};
use std::path::{Path, PathBuf};

/// Lists the mold in `folder`. Nothing but the list is read.
///
/// # Errors
/// The folder holds no `mold.toml`, a name that is not UTF-8, something that is no file, folder or link, or cannot be read.
pub fn open_folder(folder: &Path) -> Result<Package, PackageError> {
    if !folder.join("mold.toml").is_file() {
        return Err(PackageError::NotAMold(folder.to_owned()));
    }
    let mut found = Vec::new();
    list(folder, "", &mut found)?;
    let files = parallel::map(&found, |_, found| found.file());
    let mut files = files.into_iter().collect::<Result<Vec<_>, _>>()?;
    files.sort_unstable_by(|a, b| a.path.cmp(&b.path));
    Ok(Package { origin: Origin::Folder(folder.to_owned()), files })
}

/// Something in the folder that is no folder with something in it.
struct Found {
    /// Its path in the mold.
    inside: String,
    path: PathBuf,
    kind: Option<FileType>,
}

impl Found {
    fn file(&self) -> Result<File, PackageError> {
        let io = |source| PackageError::Io { path: self.path.clone(), source };
        let Some(kind) = self.kind else {
            return Ok(File::new(self.inside.clone(), Content::EmptyFolder, 0o755));
        };
        if kind.is_symlink() {
            let target = fs::read_link(&self.path).map_err(io)?;
            let target = target.to_str().ok_or(PackageError::NotUtf8(target.clone()))?.to_owned();
            return Ok(File::new(self.inside.clone(), Content::Link(target), 0o777));
        }
        if !kind.is_file() {
            return Err(PackageError::Special(self.path.clone()));
        }
        let metadata = fs::symlink_metadata(&self.path).map_err(io)?;
        let content = Content::OnDisk(self.path.clone(), metadata.len());
        Ok(File::new(self.inside.clone(), content, mode(&metadata)))
    }
}

fn list(folder: &Path, inside: &str, found: &mut Vec<Found>) -> Result<(), PackageError> {
    let io = |source| PackageError::Io { path: folder.to_owned(), source };
    let before = found.len();
    for entry in fs::read_dir(folder).map_err(io)? {
        let entry = entry.map_err(io)?;
        let path = entry.path();
        let name = entry.file_name().into_string().map_err(|_| PackageError::NotUtf8(path.clone()))?;
        // A mold may live in a repository of its own.
        if inside.is_empty() && name == ".git" {
            continue;
        }
        let inside = if inside.is_empty() { name } else { format!("{inside}/{name}") };
        let kind = entry.file_type().map_err(|source| PackageError::Io { path: path.clone(), source })?;
        if kind.is_dir() {
            list(&path, &inside, found)?;
        } else {
            found.push(Found { inside, path, kind: Some(kind) });
        }
    }
    if found.len() == before && !inside.is_empty() {
        found.push(Found { inside: inside.to_owned(), path: folder.to_owned(), kind: None });
    }
    Ok(())
}

/// The permission bits without those that only this machine's owner means: read and execute for all follow the owner's.
#[cfg(unix)]
fn mode(metadata: &fs::Metadata) -> u32 {
    use std::os::unix::fs::PermissionsExt;
    if metadata.permissions().mode() & 0o100 != 0 { 0o755 } else { 0o644 }
}

#[cfg(not(unix))]
fn mode(_: &fs::Metadata) -> u32 {
    0o644
}
