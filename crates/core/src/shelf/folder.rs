//! A mold in a folder of this machine.

use super::package::{Content, File, Origin, Package, PackageError};
use crate::listing::{self, Kind};
use crate::parallel;
use arcstr::ArcStr;
use std::ffi::OsStr;
use std::fs;
use std::ops::Range;
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
    if all.iter().any(|listed| listed.empty.is_some()) {
        // The path of a folder with nothing in it has no slash at its end.
        files.sort_by(|a, b| a.path.cmp(&b.path));
    }
    Ok(Package::new(Origin::Folder(folder.to_owned()), files))
}

/// What is in one folder of a mold.
struct Listed {
    /// The paths of its files and links in the mold, one after another.
    paths: ArcStr,
    /// Each file and link, in the order of their paths.
    files: Vec<Found>,
    /// The folders that hold something, or may: where they are, and their paths in the mold. In the order of what is in them.
    folders: Vec<(PathBuf, String)>,
    /// The place of what is in the first of these folders among all that is listed; that of the others follows.
    below: usize,
    /// Where it is.
    folder: Arc<Path>,
    /// Its path in the mold, if it stands for itself, as nothing is in it.
    empty: Option<String>,
}

/// A file or link in a folder.
struct Found {
    /// Where its path begins among the paths of the folder, and where it ends.
    path: Range<usize>,
    /// What a link points to.
    target: Option<Box<str>>,
}

impl Listed {
    /// The file of the package that something found here is.
    fn file(&self, found: &mut Found) -> File {
        let path = self.paths.substr(found.path.clone());
        match found.target.take() {
            Some(target) => File::new(path, Content::Link(target.into()), 0o777),
            None => File::on_disk(path, Arc::clone(&self.folder)),
        }
    }
}

/// Takes the files of the listing `at` and all below it, in the order of their paths. No file is compared with one of another folder.
fn in_order(all: &mut [Listed], at: usize, files: &mut Vec<File>) {
    let (mut found, folders) = (std::mem::take(&mut all[at].files), std::mem::take(&mut all[at].folders));
    let mut rest = found.iter_mut().peekable();
    for (place, (_, folder)) in folders.iter().enumerate() {
        let own = &all[at];
        while let Some(file) = rest.next_if(|file| own.paths[file.path.clone()].bytes().lt(inside(folder))) {
            files.push(own.file(file));
        }
        in_order(all, all[at].below + place, files);
    }
    let own = &all[at];
    files.extend(rest.map(|file| own.file(file)));
    files.extend(own.empty.as_deref().map(|path| File::new(path, Content::EmptyFolder, 0o755)));
}

/// What the paths of all that is in a folder begin with.
fn inside(folder: &str) -> impl Iterator<Item = u8> {
    folder.bytes().chain([b'/'])
}

/// Lists the folder whose path in the mold is `inside`.
fn list(folder: &Path, inside: &str) -> Result<Listed, PackageError> {
    let (mut paths, mut files, mut folders) = (String::new(), Vec::new(), Vec::new());
    let each = |name: &OsStr, kind| {
        let path = || folder.join(name);
        let name = name.to_str().ok_or_else(|| PackageError::NotUtf8(path()))?;
        // A mold may live in a repository of its own.
        if inside.is_empty() && name == ".git" {
            return Ok(());
        }
        let target = match kind {
            Kind::Folder => {
                let inside = if inside.is_empty() { name.to_owned() } else { [inside, "/", name].concat() };
                folders.push((path(), inside));
                return Ok(());
            }
            Kind::File => None,
            Kind::Link => {
                let target =
                    fs::read_link(path()).map_err(|source| PackageError::Io { path: path(), source })?;
                Some(target.to_str().ok_or_else(|| PackageError::NotUtf8(target.clone()))?.into())
            }
            Kind::Special => return Err(PackageError::Special(path())),
        };
        let start = paths.len();
        if !inside.is_empty() {
            paths.push_str(inside);
            paths.push('/');
        }
        paths.push_str(name);
        files.push(Found { path: start..paths.len(), target });
        Ok(())
    };
    listing::list(folder, each).map_err(|source| PackageError::Io { path: folder.to_owned(), source })??;
    let is_empty = files.is_empty() && folders.is_empty() && !inside.is_empty();
    files.sort_unstable_by(|a, b| paths[a.path.clone()].cmp(&paths[b.path.clone()]));
    folders.sort_unstable_by(|(_, a), (_, b)| self::inside(a).cmp(self::inside(b)));
    let empty = is_empty.then(|| inside.to_owned());
    Ok(Listed { paths: paths.into(), files, folders, below: 0, folder: folder.into(), empty })
}
