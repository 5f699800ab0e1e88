//! Opens many files of one directory, which is looked up once.

use std::ffi::OsStr;
use std::fs::{File, OpenOptions};
use std::io::{Result, Write};
use std::path::Path;

/// A handle of the directory that was used last.
///
/// Use it only while no directory is replaced by another.
#[derive(Default)]
pub struct DirHandle {
    /// Opened with the second file: a single file is opened as quickly by its path.
    #[cfg(unix)]
    last: Option<(std::path::PathBuf, Option<std::os::fd::OwnedFd>)>,
}

impl DirHandle {
    /// Creates a file with these permission bits and this content. Nothing may be at its path.
    ///
    /// # Errors
    /// As for [`DirHandle::create`], and what keeps the file from being written.
    pub fn write(&mut self, path: &Path, bytes: &[u8], mode: u32) -> Result<()> {
        self.create(path, mode)?.write_all(bytes)
    }
}

#[cfg(unix)]
impl DirHandle {
    /// Opens the file `name` in `directory` for reading.
    ///
    /// # Errors
    /// As for [`File::open`].
    pub fn open(&mut self, directory: &Path, name: &OsStr) -> Result<File> {
        use rustix::fs::{Mode, OFlags};
        match self.handle(directory) {
            Some(handle) => {
                let flags = OFlags::RDONLY | OFlags::CLOEXEC;
                Ok(rustix::fs::openat(handle, name, flags, Mode::empty())?.into())
            }
            None => File::open(directory.join(name)),
        }
    }

    /// Creates a file with these permission bits. Nothing may be at its path.
    ///
    /// # Errors
    /// As for [`File::create_new`].
    pub fn create(&mut self, path: &Path, mode: u32) -> Result<File> {
        use rustix::fs::{Mode, OFlags};
        use std::os::unix::fs::OpenOptionsExt;
        match self.split(path) {
            Some((handle, name)) => {
                let flags = OFlags::WRONLY | OFlags::CREATE | OFlags::EXCL | OFlags::CLOEXEC;
                Ok(rustix::fs::openat(handle, name, flags, Mode::from_bits_truncate(mode as _))?.into())
            }
            None => OpenOptions::new().write(true).create_new(true).mode(mode).open(path),
        }
    }

    /// Splits a path into the handle of its directory and its name; `None` if the path is to be used.
    fn split<'p>(&mut self, path: &'p Path) -> Option<(&std::os::fd::OwnedFd, &'p OsStr)> {
        use std::os::unix::ffi::OsStrExt;
        // `Path::parent` and `Path::file_name` take longer than opening the file.
        let bytes = path.as_os_str().as_bytes();
        let slash = memchr::memrchr(b'/', bytes)?;
        let (directory, name) =
            (Path::new(OsStr::from_bytes(&bytes[..slash])), OsStr::from_bytes(&bytes[slash + 1..]));
        if matches!(name.as_bytes(), b"" | b"." | b"..") || slash == 0 {
            return None;
        }
        self.handle(directory).map(|handle| (handle, name))
    }

    /// Returns the handle of a directory; `None` for the first file in it.
    fn handle(&mut self, directory: &Path) -> Option<&std::os::fd::OwnedFd> {
        use rustix::fs::{Mode, OFlags};
        if self.last.as_ref().is_none_or(|(last, _)| last.as_os_str() != directory.as_os_str()) {
            self.last = Some((directory.to_owned(), None));
            return None;
        }
        let (_, handle) = self.last.as_mut()?;
        if handle.is_none() {
            #[cfg(target_os = "linux")]
            let access = OFlags::PATH;
            #[cfg(not(target_os = "linux"))]
            let access = OFlags::RDONLY;
            let flags = access | OFlags::DIRECTORY | OFlags::CLOEXEC;
            *handle = rustix::fs::open(directory, flags, Mode::empty()).ok();
        }
        handle.as_ref()
    }
}

#[cfg(not(unix))]
impl DirHandle {
    /// Opens the file `name` in `directory` for reading.
    ///
    /// # Errors
    /// As for [`File::open`].
    pub fn open(&mut self, directory: &Path, name: &OsStr) -> Result<File> {
        File::open(directory.join(name))
    }

    /// Creates a file. Nothing may be at its path.
    ///
    /// # Errors
    /// As for [`File::create_new`].
    pub fn create(&mut self, path: &Path, _: u32) -> Result<File> {
        OpenOptions::new().write(true).create_new(true).open(path)
    }
}
