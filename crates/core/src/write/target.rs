//! Where files are written: folders made as they are needed, files in them, links.

use super::WriteError;
use crate::near::Near;
use std::fs::{self, File};
use std::io::Result;
use std::path::{Path, PathBuf};

/// What a thread writes with, from file to file.
#[derive(Default)]
pub(super) struct Target {
    near: Near,
    /// The path that is written to.
    path: PathBuf,
    /// The folder that was made last.
    folder: String,
}

impl Target {
    /// The path `inside` the folder `root`, and what to open it with.
    pub(super) fn at(&mut self, root: &Path, inside: &str) -> (&mut Near, &Path) {
        let path = self.path.as_mut_os_string();
        path.clear();
        path.push(root);
        path.push("/");
        path.push(inside);
        (&mut self.near, &self.path)
    }

    /// Makes a folder inside `root`, with those that it is in, unless it is the one that was made last; another thread may make it
    /// at the same time.
    pub(super) fn make_folder(&mut self, root: &Path, inside: &str) -> std::result::Result<(), WriteError> {
        if inside.is_empty() || inside == self.folder {
            return Ok(());
        }
        let path = root.join(inside);
        fs::create_dir_all(&path).map_err(WriteError::io("make the folder", path))?;
        self.folder.clear();
        self.folder.push_str(inside);
        Ok(())
    }
}

/// Writes a new file.
pub(crate) fn write_file(path: &Path, bytes: &[u8], mode: u32) -> Result<u64> {
    write_near(&mut Near::default(), path, bytes, mode)
}

/// Writes a new file near others; gives its length.
pub(super) fn write_near(near: &mut Near, path: &Path, bytes: &[u8], mode: u32) -> Result<u64> {
    near.write(path, bytes, mode)?;
    Ok(bytes.len() as u64)
}

/// Copies without holding the file in memory; the system shares the blocks where it can.
pub(super) fn copy_file(mut from: File, to: &Path, mode: u32, near: &mut Near) -> Result<u64> {
    let mut target = near.create(to, mode)?;
    std::io::copy(&mut from, &mut target)
}

#[cfg(unix)]
pub(super) fn make_link(target: &str, path: &Path) -> Result<()> {
    std::os::unix::fs::symlink(target, path)
}

#[cfg(not(unix))]
pub(super) fn make_link(_: &str, _: &Path) -> Result<()> {
    Err(std::io::Error::new(std::io::ErrorKind::Unsupported, "this system makes no symbolic links"))
}
