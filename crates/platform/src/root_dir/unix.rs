//! Directory handles, relative to which everything is looked up.

use super::{Found, Identity, link_on_the_way};
use crate::read_dir::EntryKind;
use rustix::fs::{AtFlags, CWD, Dir, FileType, Mode, OFlags, Stat};
use rustix::io::Errno;
use std::ffi::{OsStr, OsString};
use std::fs::File;
use std::io::{Error, ErrorKind, Result};
use std::os::fd::OwnedFd;
use std::os::unix::ffi::OsStringExt;
use std::path::Path;

/// An open directory.
pub(super) type Handle = OwnedFd;

/// How a directory is opened that is only looked up in.
#[cfg(target_os = "linux")]
const LOOK_UP: OFlags = OFlags::PATH.union(OFlags::DIRECTORY).union(OFlags::CLOEXEC);
#[cfg(not(target_os = "linux"))]
const LOOK_UP: OFlags = OFlags::RDONLY.union(OFlags::DIRECTORY).union(OFlags::CLOEXEC);

pub(super) fn open_root(path: &Path) -> Result<Handle> {
    match rustix::fs::open(path, LOOK_UP | OFlags::NOFOLLOW, Mode::empty()) {
        Err(Errno::NOTDIR | Errno::LOOP) if is_link(CWD, path) => Err(link_on_the_way()),
        other => Ok(other?),
    }
}

/// Opens a directory beneath `root`.
pub(super) fn open_directory(root: &Handle, inside: &str) -> Result<Handle> {
    if inside.is_empty() {
        return Ok(rustix::fs::openat(root, ".", LOOK_UP, Mode::empty())?);
    }
    #[cfg(target_os = "linux")]
    {
        use rustix::fs::ResolveFlags;
        let stay = ResolveFlags::BENEATH | ResolveFlags::NO_SYMLINKS | ResolveFlags::NO_MAGICLINKS;
        match rustix::fs::openat2(root, inside, LOOK_UP, Mode::empty(), stay) {
            // Old systems and some sandboxes do not have the call.
            Err(Errno::NOSYS | Errno::PERM | Errno::AGAIN) => {}
            Err(Errno::LOOP) => return Err(link_on_the_way()),
            Err(Errno::XDEV) => return Err(leads_out()),
            other => return Ok(other?),
        }
    }
    walk(root, inside)
}

/// Opens one directory after another, and follows no link.
fn walk(root: &Handle, inside: &str) -> Result<Handle> {
    let mut handle: Option<Handle> = None;
    for part in inside.split('/') {
        if matches!(part, "" | "." | "..") {
            return Err(leads_out());
        }
        let from = handle.as_ref().unwrap_or(root);
        let next = match rustix::fs::openat(from, part, LOOK_UP | OFlags::NOFOLLOW, Mode::empty()) {
            Err(Errno::NOTDIR | Errno::LOOP) if is_link(from, part) => return Err(link_on_the_way()),
            other => other?,
        };
        handle = Some(next);
    }
    handle.ok_or_else(leads_out)
}

fn is_link(from: impl std::os::fd::AsFd, name: impl rustix::path::Arg) -> bool {
    rustix::fs::statat(from, name, AtFlags::SYMLINK_NOFOLLOW)
        .is_ok_and(|found| FileType::from_raw_mode(found.st_mode) == FileType::Symlink)
}

fn leads_out() -> Error {
    Error::new(ErrorKind::InvalidInput, "the path leads out of the directory")
}

/// The directory that a path's last name is in.
enum Parent<'r> {
    Root(&'r Handle),
    Inside(Handle),
}

impl std::os::fd::AsFd for Parent<'_> {
    fn as_fd(&self) -> std::os::fd::BorrowedFd<'_> {
        match self {
            Self::Root(handle) => handle.as_fd(),
            Self::Inside(handle) => handle.as_fd(),
        }
    }
}

fn parent<'r, 'p>(root: &'r Handle, inside: &'p str) -> Result<(Parent<'r>, &'p str)> {
    let (parent, name) = inside.rsplit_once('/').unwrap_or(("", inside));
    if matches!(name, "" | "." | "..") {
        return Err(leads_out());
    }
    let parent =
        if parent.is_empty() { Parent::Root(root) } else { Parent::Inside(open_directory(root, parent)?) };
    Ok((parent, name))
}

fn kind_of(found: FileType) -> EntryKind {
    match found {
        FileType::RegularFile => EntryKind::File,
        FileType::Directory => EntryKind::Directory,
        FileType::Symlink => EntryKind::Link,
        _ => EntryKind::Special,
    }
}

fn of_stat(stat: &Stat) -> Found {
    let kind = kind_of(FileType::from_raw_mode(stat.st_mode));
    // The types of the fields differ between systems.
    #[allow(clippy::unnecessary_cast, clippy::cast_sign_loss, clippy::useless_conversion)]
    Found {
        kind,
        length: u64::try_from(stat.st_size).unwrap_or(0),
        mode: (stat.st_mode as u32) & 0o7777,
        identity: Identity { device: stat.st_dev as u64, inode: stat.st_ino as u64 },
        owner: stat.st_uid,
    }
}

pub(super) fn found_root(root: &Handle) -> Result<Found> {
    Ok(of_stat(&rustix::fs::fstat(root)?))
}

pub(super) fn found(root: &Handle, inside: &str) -> Result<Found> {
    let (parent, name) = parent(root, inside)?;
    Ok(of_stat(&rustix::fs::statat(parent, name, AtFlags::SYMLINK_NOFOLLOW)?))
}

pub(super) fn open_file(root: &Handle, inside: &str) -> Result<File> {
    let (parent, name) = parent(root, inside)?;
    // A pipe would wait for its other end.
    let flags = OFlags::RDONLY | OFlags::CLOEXEC | OFlags::NOFOLLOW | OFlags::NONBLOCK;
    match rustix::fs::openat(parent, name, flags, Mode::empty()) {
        Err(Errno::LOOP) => Err(link_on_the_way()),
        other => Ok(other?.into()),
    }
}

pub(super) fn read_link(root: &Handle, inside: &str) -> Result<OsString> {
    let (parent, name) = parent(root, inside)?;
    Ok(OsString::from_vec(rustix::fs::readlinkat(parent, name, Vec::new())?.into_bytes()))
}

pub(super) fn list(root: &Handle, inside: &str) -> Result<Vec<(OsString, EntryKind)>> {
    let directory = open_directory(root, inside)?;
    let readable = OFlags::RDONLY | OFlags::DIRECTORY | OFlags::CLOEXEC;
    let opened = rustix::fs::openat(&directory, ".", readable, Mode::empty())?;
    let mut entries = Vec::new();
    for entry in Dir::new(opened)? {
        let entry = entry?;
        let name = entry.file_name();
        if matches!(name.to_bytes(), b"." | b"..") {
            continue;
        }
        let mut kind = entry.file_type();
        if kind == FileType::Unknown {
            let stat = rustix::fs::statat(&directory, name, AtFlags::SYMLINK_NOFOLLOW)?;
            kind = FileType::from_raw_mode(stat.st_mode);
        }
        entries.push((OsString::from_vec(name.to_bytes().to_vec()), kind_of(kind)));
    }
    entries.sort_unstable();
    Ok(entries)
}

pub(super) fn make_directory(root: &Handle, inside: &str, mode: u32) -> Result<()> {
    let (parent, name) = parent(root, inside)?;
    Ok(rustix::fs::mkdirat(parent, name, Mode::from_bits_truncate(mode as _))?)
}

pub(super) fn create(root: &Handle, inside: &str, mode: u32) -> Result<File> {
    let (parent, name) = parent(root, inside)?;
    let flags = OFlags::WRONLY | OFlags::CREATE | OFlags::EXCL | OFlags::CLOEXEC | OFlags::NOFOLLOW;
    Ok(rustix::fs::openat(parent, name, flags, Mode::from_bits_truncate(mode as _))?.into())
}

pub(super) fn set_mode(root: &Handle, inside: &str, mode: u32) -> Result<()> {
    let (parent, name) = parent(root, inside)?;
    // Opened first: a link that takes its place is not followed.
    let flags = OFlags::RDONLY | OFlags::CLOEXEC | OFlags::NOFOLLOW | OFlags::NONBLOCK;
    let opened = rustix::fs::openat(parent, name, flags, Mode::empty())?;
    Ok(rustix::fs::fchmod(opened, Mode::from_bits_truncate(mode as _))?)
}

pub(super) fn make_link(root: &Handle, target: &str, inside: &str) -> Result<()> {
    let (parent, name) = parent(root, inside)?;
    Ok(rustix::fs::symlinkat(target, parent, name)?)
}

pub(super) fn hard_link(root: &Handle, from: &str, to: &str) -> Result<()> {
    let ((from, from_name), (to, to_name)) = (parent(root, from)?, parent(root, to)?);
    Ok(rustix::fs::linkat(from, from_name, to, to_name, AtFlags::empty())?)
}

pub(super) fn rename(root: &Handle, from: &str, to: &str) -> Result<()> {
    let ((from, from_name), (to, to_name)) = (parent(root, from)?, parent(root, to)?);
    Ok(rustix::fs::renameat(from, from_name, to, to_name)?)
}

pub(super) fn rename_new(root: &Handle, from: &str, to: &str) -> Result<()> {
    let ((from, from_name), (to, to_name)) = (parent(root, from)?, parent(root, to)?);
    #[cfg(any(target_os = "linux", target_vendor = "apple"))]
    {
        use rustix::fs::{RenameFlags, renameat_with};
        match renameat_with(&from, from_name, &to, to_name, RenameFlags::NOREPLACE) {
            // Some file systems have no such rename.
            Err(Errno::INVAL | Errno::NOSYS | Errno::NOTSUP) => {}
            other => return Ok(other?),
        }
    }
    match rustix::fs::statat(&to, to_name, AtFlags::SYMLINK_NOFOLLOW) {
        Ok(_) => Err(ErrorKind::AlreadyExists.into()),
        Err(_) => Ok(rustix::fs::renameat(from, from_name, to, to_name)?),
    }
}

pub(super) fn remove(root: &Handle, inside: &str, is_directory: bool) -> Result<()> {
    let (parent, name) = parent(root, inside)?;
    let flags = if is_directory { AtFlags::REMOVEDIR } else { AtFlags::empty() };
    Ok(rustix::fs::unlinkat(parent, name, flags)?)
}

/// Removes a file of this name, which may be no UTF-8.
pub(super) fn remove_named(directory: &Handle, name: &OsStr) -> Result<()> {
    Ok(rustix::fs::unlinkat(directory, name, AtFlags::empty())?)
}
