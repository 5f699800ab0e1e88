//! Paths, checked for links before each use, where the system has no directory handles.

use super::{Found, Identity, link_on_the_way};
use crate::read_dir::{self, EntryKind};
use std::ffi::{OsStr, OsString};
use std::fs::{self, File, Metadata};
use std::io::{Error, ErrorKind, Result};
use std::path::{Path, PathBuf};

/// The path of a directory.
pub(super) type Handle = PathBuf;

pub(super) fn open_root(path: &Path) -> Result<Handle> {
    let metadata = fs::symlink_metadata(path)?;
    match (metadata.is_symlink(), metadata.is_dir()) {
        (true, _) => Err(link_on_the_way()),
        (_, true) => path.canonicalize(),
        _ => Err(ErrorKind::NotADirectory.into()),
    }
}

fn beneath(root: &Handle, inside: &str) -> Result<PathBuf> {
    let mut path = root.clone();
    let mut parts = inside.split('/').filter(|part| !part.is_empty()).peekable();
    while let Some(part) = parts.next() {
        if matches!(part, "." | "..") || part.contains('\\') {
            return Err(Error::new(ErrorKind::InvalidInput, "the path leads out of the directory"));
        }
        path.push(part);
        if parts.peek().is_some() && fs::symlink_metadata(&path).is_ok_and(|found| found.is_symlink()) {
            return Err(link_on_the_way());
        }
    }
    Ok(path)
}

fn of_metadata(metadata: &Metadata) -> Found {
    let kind = EntryKind::from(metadata.file_type());
    let identity = Identity { device: 0, inode: 0 };
    Found { kind, length: metadata.len(), mode: 0o644, identity, owner: 0 }
}

pub(super) fn open_directory(root: &Handle, inside: &str) -> Result<Handle> {
    let path = beneath(root, inside)?;
    if fs::symlink_metadata(&path)?.is_symlink() { Err(link_on_the_way()) } else { Ok(path) }
}

pub(super) fn found_root(root: &Handle) -> Result<Found> {
    Ok(of_metadata(&fs::symlink_metadata(root)?))
}

pub(super) fn found(root: &Handle, inside: &str) -> Result<Found> {
    Ok(of_metadata(&fs::symlink_metadata(beneath(root, inside)?)?))
}

pub(super) fn open_file(root: &Handle, inside: &str) -> Result<File> {
    let path = beneath(root, inside)?;
    if fs::symlink_metadata(&path)?.is_symlink() { Err(link_on_the_way()) } else { File::open(path) }
}

pub(super) fn read_link(root: &Handle, inside: &str) -> Result<OsString> {
    Ok(fs::read_link(beneath(root, inside)?)?.into_os_string())
}

pub(super) fn list(root: &Handle, inside: &str) -> Result<Vec<(OsString, EntryKind)>> {
    read_dir::list(&open_directory(root, inside)?)
}

pub(super) fn make_directory(root: &Handle, inside: &str, _: u32) -> Result<()> {
    fs::create_dir(beneath(root, inside)?)
}

pub(super) fn create(root: &Handle, inside: &str, _: u32) -> Result<File> {
    File::create_new(beneath(root, inside)?)
}

pub(super) fn set_mode(_: &Handle, _: &str, _: u32) -> Result<()> {
    Ok(())
}

pub(super) fn make_link(_: &Handle, _: &str, _: &str) -> Result<()> {
    Err(Error::new(ErrorKind::Unsupported, "this system makes no symbolic links"))
}

pub(super) fn hard_link(root: &Handle, from: &str, to: &str) -> Result<()> {
    fs::hard_link(beneath(root, from)?, beneath(root, to)?)
}

pub(super) fn rename(root: &Handle, from: &str, to: &str) -> Result<()> {
    fs::rename(beneath(root, from)?, beneath(root, to)?)
}

pub(super) fn rename_new(root: &Handle, from: &str, to: &str) -> Result<()> {
    let to = beneath(root, to)?;
    if fs::symlink_metadata(&to).is_ok() {
        return Err(ErrorKind::AlreadyExists.into());
    }
    fs::rename(beneath(root, from)?, to)
}

pub(super) fn remove(root: &Handle, inside: &str, is_directory: bool) -> Result<()> {
    let path = beneath(root, inside)?;
    if is_directory { fs::remove_dir(path) } else { fs::remove_file(path) }
}

pub(super) fn remove_named(directory: &Handle, name: &OsStr) -> Result<()> {
    fs::remove_file(directory.join(name))
}
