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
    let mut all: Vec<Listed> = Vec::new();
    let mut level = vec![(folder.to_owned(), String::new())];
    while !level.is_empty() {
        let one = |(folder, inside): &(PathBuf, String)| list(folder, inside);
        let listed: Vec<_> = if level.len() < WORTH_SHARING {
            level.iter().map(one).collect()
        } else {
            parallel::each(&level, one)
        };
        let mut below = all.len() + listed.len();
        level.clear();
        for listed in listed {
            let listed = Listed { below, ..listed? };
            below += listed.folders.len();
            level.extend_from_slice(&listed.folders);
            all.push(listed);
        }
    }
    let mut files = Vec::with_capacity(all.iter().map(|listed| listed.files.len()).sum());
    in_order(&mut all, 0, &mut files);
    if all.iter().any(|listed| listed.is_empty) {
        // The path of a folder with nothing in it has no slash at its end.
        files.sort_by(|a, b| a.path.cmp(&b.path));
    }
    Ok(Package::new(Origin::Folder(folder.to_owned()), files))
}

/// What is in one folder of a mold.
#[derive(Default)]
struct Listed {
    /// In the order of their paths.
    files: Vec<File>,
    /// The folders that hold something, or may: where they are, and their paths in the mold. In the order of what is in them.
    folders: Vec<(PathBuf, String)>,
    /// The place of what is in the first of these folders among all that is listed; that of the others follows.
    below: usize,
    /// Whether it stands for itself, as nothing is in it.
    is_empty: bool,
}

/// Takes the files of the listing `at` and all below it, in the order of their paths. No file is compared with one of another folder.
fn in_order(all: &mut [Listed], at: usize, files: &mut Vec<File>) {
    let own = &mut all[at];
    let (mut rest, below) = (std::mem::take(&mut own.files).into_iter().peekable(), own.below);
    for (place, (_, folder)) in std::mem::take(&mut own.folders).iter().enumerate() {
        while let Some(file) = rest.next_if(|file| file.path.bytes().lt(inside(folder))) {
            files.push(file);
        }
        in_order(all, below + place, files);
    }
    files.extend(rest);
}

/// What the paths of all that is in a folder begin with.
fn inside(folder: &str) -> impl Iterator<Item = u8> {
    folder.bytes().chain([b'/'])
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
        listed.is_empty = true;
    }
    listed.files.sort_unstable_by(|a, b| a.path.cmp(&b.path));
    listed.folders.sort_unstable_by(|(_, a), (_, b)| self::inside(a).cmp(self::inside(b)));
    Ok(listed)
}
