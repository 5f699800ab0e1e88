//! A mold in a folder of this machine.

use super::package::{Content, File, Origin, Package, PackageError};
use std::fs;
use std::path::Path;

/// Lists the mold in `folder`. Nothing but the list is read.
///
/// # Errors
/// The folder holds no `mold.toml`, a name that is not UTF-8, something that is no file, folder or link, or cannot be read.
pub fn open_folder(folder: &Path) -> Result<Package, PackageError> {
    if !folder.join("mold.toml").is_file() {
        return Err(PackageError::NotAMold(folder.to_owned()));
    }
    let mut files = Vec::new();
    list(folder, "", &mut files)?;
    files.sort_by(|a, b| a.path.cmp(&b.path));
    Ok(Package { origin: Origin::Folder(folder.to_owned()), files })
}

fn list(folder: &Path, inside: &str, files: &mut Vec<File>) -> Result<(), PackageError> {
    let io = |source| PackageError::Io { path: folder.to_owned(), source };
    let before = files.len();
    for entry in fs::read_dir(folder).map_err(io)? {
        let entry = entry.map_err(io)?;
        let path = entry.path();
        let name = entry.file_name().into_string().map_err(|_| PackageError::NotUtf8(path.clone()))?;
        // A mold may live in a repository of its own.
        if inside.is_empty() && name == ".git" {
            continue;
        }
        let inside = if inside.is_empty() { name } else { format!("{inside}/{name}") };
        let io = |source| PackageError::Io { path: path.clone(), source };
        let metadata = entry.metadata().map_err(io)?;
        if metadata.is_dir() {
            list(&path, &inside, files)?;
            continue;
        }
        let content = if metadata.is_symlink() {
            let target = fs::read_link(&path).map_err(io)?;
            Content::Link(target.to_str().ok_or(PackageError::NotUtf8(target.clone()))?.to_owned())
        } else if metadata.is_file() {
            Content::OnDisk(path, metadata.len())
        } else {
            return Err(PackageError::Special(path));
        };
        files.push(File::new(inside, content, mode(&metadata)));
    }
    if files.len() == before && !inside.is_empty() {
        files.push(File::new(inside.to_owned(), Content::EmptyFolder, 0o755));
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
