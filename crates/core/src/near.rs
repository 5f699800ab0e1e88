//! Files opened one after another in the same folders: a folder is looked up once, and its files in it.

#[cfg(unix)]
use rustix::buffer::spare_capacity;
use std::ffi::OsStr;
use std::fs::{File, OpenOptions};
use std::io::{Result, Write};
use std::path::Path;

/// The folder that files were last opened in.
///
/// It is for a stretch of work in which no folder gives its place to another one.
#[derive(Default)]
pub(crate) struct Near {
    /// It is held open from the second file on: one file alone is opened as quickly by its path.
    #[cfg(unix)]
    last: Option<(std::path::PathBuf, Option<std::os::fd::OwnedFd>)>,
}

impl Near {
    /// Makes a file with these permission bits that holds these bytes. Nothing may be at its path.
    ///
    /// # Errors
    /// As [`Near::create`], and what keeps it from being written.
    pub(crate) fn write(&mut self, path: &Path, bytes: &[u8], mode: u32) -> Result<()> {
        let mut file = self.create(path, mode)?;
        // With several threads the standard library's calls take longer. They do what is left, and say what is wrong.
        #[cfg(unix)]
        let written = rustix::io::write(&file, bytes).unwrap_or(0);
        #[cfg(not(unix))]
        let written = 0;
        file.write_all(&bytes[written..])
    }
}

/// Puts what comes next in a file behind what is in `buffer`, where that has room and as far as one call of the system does it; says
/// how many bytes.
///
/// # Errors
/// It cannot be read.
pub(crate) fn read_once(file: &mut File, buffer: &mut Vec<u8>) -> Result<usize> {
    #[cfg(unix)]
    let read = rustix::io::retry_on_intr(|| rustix::io::read(&*file, spare_capacity(buffer)))?;
    #[cfg(not(unix))]
    let read = {
        let (length, room) = (buffer.len(), buffer.capacity());
        buffer.resize(room, 0);
        let read = std::io::Read::read(file, &mut buffer[length..]);
        buffer.truncate(length + read.as_ref().map_or(0, |read| *read));
        read?
    };
    Ok(read)
}

#[cfg(unix)]
impl Near {
    /// Opens the file called `name` in `folder` for reading.
    ///
    /// # Errors
    /// As [`File::open`].
    pub(crate) fn open(&mut self, folder: &Path, name: &OsStr) -> Result<File> {
        use rustix::fs::{Mode, OFlags};
        match self.handle(folder) {
            Some(folder) => {
                let opened =
                    rustix::fs::openat(folder, name, OFlags::RDONLY | OFlags::CLOEXEC, Mode::empty());
                Ok(opened?.into())
            }
            None => File::open(folder.join(name)),
        }
    }

    /// Makes a file with these permission bits and opens it for writing. Nothing may be at its path.
    ///
    /// # Errors
    /// As [`File::create_new`].
    pub(crate) fn create(&mut self, path: &Path, mode: u32) -> Result<File> {
        use rustix::fs::{Mode, OFlags};
        use std::os::unix::fs::OpenOptionsExt;
        match self.place(path) {
            Some((folder, name)) => {
                let flags = OFlags::WRONLY | OFlags::CREATE | OFlags::EXCL | OFlags::CLOEXEC;
                Ok(rustix::fs::openat(folder, name, flags, Mode::from_bits_truncate(mode as _))?.into())
            }
            None => OpenOptions::new().write(true).create_new(true).mode(mode).open(path),
        }
    }

    /// The folder of `path` and the name in it; none where the whole path has to do.
    fn place<'p>(&mut self, path: &'p Path) -> Option<(&std::os::fd::OwnedFd, &'p OsStr)> {
        use std::os::unix::ffi::OsStrExt;
        // A path as the file system's own functions take it; what `Path` knows of paths takes longer than to open a file.
        let bytes = path.as_os_str().as_bytes();
        let slash = memchr::memrchr(b'/', bytes)?;
        let (folder, name) =
            (Path::new(OsStr::from_bytes(&bytes[..slash])), OsStr::from_bytes(&bytes[slash + 1..]));
        if matches!(name.as_bytes(), b"" | b"." | b"..") || slash == 0 {
            return None;
        }
        self.handle(folder).map(|handle| (handle, name))
    }

    /// The handle of a folder; none the first time.
    fn handle(&mut self, folder: &Path) -> Option<&std::os::fd::OwnedFd> {
        use rustix::fs::{Mode, OFlags};
        if self.last.as_ref().is_none_or(|(last, _)| last.as_os_str() != folder.as_os_str()) {
            self.last = Some((folder.to_owned(), None));
            return None;
        }
        let (_, handle) = self.last.as_mut()?;
        if handle.is_none() {
            #[cfg(target_os = "linux")]
            let only_to_pass = OFlags::PATH;
            #[cfg(not(target_os = "linux"))]
            let only_to_pass = OFlags::RDONLY;
            let flags = only_to_pass | OFlags::DIRECTORY | OFlags::CLOEXEC;
            *handle = rustix::fs::open(folder, flags, Mode::empty()).ok();
        }
        handle.as_ref()
    }
}

#[cfg(not(unix))]
impl Near {
    /// Opens the file called `name` in `folder` for reading.
    ///
    /// # Errors
    /// As [`File::open`].
    pub(crate) fn open(&mut self, folder: &Path, name: &OsStr) -> Result<File> {
        File::open(folder.join(name))
    }

    /// Makes a file and opens it for writing. Nothing may be at its path.
    ///
    /// # Errors
    /// As [`File::create_new`].
    pub(crate) fn create(&mut self, path: &Path, _: u32) -> Result<File> {
        OpenOptions::new().write(true).create_new(true).open(path)
    }
}
