//! What is in a folder.

use std::ffi::OsStr;
use std::fs::{self, FileType};
use std::io;
use std::path::Path;

/// What something in a folder is. A link is looked at itself, not what it points to.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Kind {
    File,
    Folder,
    Link,
    /// A device, a pipe, a socket.
    Special,
}

impl From<FileType> for Kind {
    fn from(found: FileType) -> Self {
        if found.is_file() {
            Self::File
        } else if found.is_dir() {
            Self::Folder
        } else if found.is_symlink() {
            Self::Link
        } else {
            Self::Special
        }
    }
}

/// Tells `each` of everything in a folder, in no order, until an error of `each`, which is given back.
///
/// # Errors
/// The folder cannot be read.
#[cfg(target_os = "linux")]
pub(crate) fn list<E>(
    folder: &Path,
    mut each: impl FnMut(&OsStr, Kind) -> Result<(), E>,
) -> io::Result<Result<(), E>> {
    use rustix::fs::{FileType, Mode, OFlags, RawDir, open};
    use std::os::unix::ffi::OsStrExt;
    /// As much as the system gives at a time.
    const BUFFER: usize = 32 * 1024;
    let flags = OFlags::RDONLY | OFlags::DIRECTORY | OFlags::CLOEXEC;
    let handle = open(folder, flags, Mode::empty())?;
    let mut buffer = Vec::with_capacity(BUFFER);
    let mut entries = RawDir::new(handle, buffer.spare_capacity_mut());
    while let Some(entry) = entries.next() {
        let entry = entry?;
        let name = entry.file_name().to_bytes();
        if name == b"." || name == b".." {
            continue;
        }
        let name = OsStr::from_bytes(name);
        let kind = match entry.file_type() {
            FileType::RegularFile => Kind::File,
            FileType::Directory => Kind::Folder,
            FileType::Symlink => Kind::Link,
            // Not all file systems say.
            FileType::Unknown => fs::symlink_metadata(folder.join(name))?.file_type().into(),
            _ => Kind::Special,
        };
        if let Err(error) = each(name, kind) {
            return Ok(Err(error));
        }
    }
    Ok(Ok(()))
}

/// Tells `each` of everything in a folder, in no order, until an error of `each`, which is given back.
///
/// # Errors
/// The folder cannot be read.
#[cfg(not(target_os = "linux"))]
pub(crate) fn list<E>(
    folder: &Path,
    mut each: impl FnMut(&OsStr, Kind) -> Result<(), E>,
) -> io::Result<Result<(), E>> {
    for entry in fs::read_dir(folder)? {
        let entry = entry?;
        if let Err(error) = each(&entry.file_name(), entry.file_type()?.into()) {
            return Ok(Err(error));
        }
    }
    Ok(Ok(()))
}

#[cfg(all(test, unix))]
mod tests {
    use super::*;
    use std::os::unix::{fs::symlink, net::UnixListener};

    #[test]
    fn everything_is_told_once_until_somebody_has_enough() {
        let folder = tempfile::tempdir().unwrap();
        let at = |name: &str| folder.path().join(name);
        fs::create_dir(at("deck")).unwrap();
        symlink("deck", at("to-deck")).unwrap();
        symlink("nowhere", at("to-nowhere")).unwrap();
        let _socket = UnixListener::bind(at("socket")).unwrap();
        let mut expected = vec![
            ("deck".into(), Kind::Folder),
            ("socket".into(), Kind::Special),
            ("to-deck".into(), Kind::Link),
            ("to-nowhere".into(), Kind::Link),
        ];
        // More than the system tells of at a time.
        for number in 0..2000 {
            let name = format!("a ferry of some length, {number}");
            fs::write(at(&name), "").unwrap();
            expected.push((name, Kind::File));
        }
        expected.sort_by(|(a, _), (b, _)| a.cmp(b));
        let mut told = Vec::new();
        let each = |name: &OsStr, kind| -> Result<(), ()> {
            told.push((name.to_str().unwrap().to_owned(), kind));
            Ok(())
        };
        assert_eq!(list(folder.path(), each).unwrap(), Ok(()));
        told.sort_by(|(a, _), (b, _)| a.cmp(b));
        assert_eq!(told, expected);
        let mut left = 3;
        let each = |_: &OsStr, _| {
            left -= 1;
            if left == 0 { Err("enough") } else { Ok(()) }
        };
        assert_eq!(list(folder.path(), each).unwrap(), Err("enough"));
        assert_eq!(left, 0);
        let kind = list(&at("none"), |_, _| Ok::<(), ()>(())).unwrap_err().kind();
        assert_eq!(kind, io::ErrorKind::NotFound);
    }
}
