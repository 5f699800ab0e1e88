//! Opens many files of one directory, which is looked up once.

use std::ffi::OsStr;
use std::fs::File;
use std::io::Result;
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
}
