//! Writes `.tar.gz` archives with the same bytes on every run and machine: no user names, and one
//! time for all.

use flate2::write::GzEncoder;
use flate2::{Compression, GzBuilder};
use std::io::{ErrorKind, Read, Write};

/// Writes a reproducible `.tar.gz`.
pub struct Tarball<W: Write> {
    builder: tar::Builder<GzEncoder<W>>,
    seconds: u64,
}

impl<W: Write> Tarball<W> {
    /// Starts an archive. `seconds` since 1970 is the time of every entry.
    pub fn new(out: W, seconds: u64) -> Self {
        Self { builder: tar::Builder::new(GzBuilder::new().write(out, Compression::default())), seconds }
    }

    fn header(&self, kind: tar::EntryType, mode: u32, length: u64) -> tar::Header {
        let mut header = tar::Header::new_gnu();
        header.set_entry_type(kind);
        header.set_mode(mode);
        header.set_mtime(self.seconds);
        header.set_uid(0);
        header.set_gid(0);
        header.set_size(length);
        header
    }

    /// Adds a file of `length` bytes.
    ///
    /// # Errors
    /// The bytes cannot be read or are not `length` bytes, or the archive cannot be written. The archive
    /// is then of no use.
    pub fn file(&mut self, path: &str, mode: u32, length: u64, bytes: &mut dyn Read) -> std::io::Result<()> {
        let mut header = self.header(tar::EntryType::Regular, mode, length);
        let mut exact = bytes.take(length);
        self.builder.append_data(&mut header, path, &mut exact)?;
        let is_short = exact.limit() > 0;
        if is_short || bytes.read(&mut [0])? > 0 {
            return Err(std::io::Error::new(ErrorKind::InvalidData, "the file changed while it was read"));
        }
        Ok(())
    }

    /// Adds a directory.
    ///
    /// # Errors
    /// The archive cannot be written.
    pub fn folder(&mut self, path: &str) -> std::io::Result<()> {
        let mut header = self.header(tar::EntryType::Directory, 0o755, 0);
        self.builder.append_data(&mut header, path, &mut std::io::empty())
    }

    /// Adds a symbolic link.
    ///
    /// # Errors
    /// The archive cannot be written.
    pub fn link(&mut self, path: &str, target: &str) -> std::io::Result<()> {
        let mut header = self.header(tar::EntryType::Symlink, 0o777, 0);
        self.builder.append_link(&mut header, path, target)
    }

    /// Writes the end of the archive and returns the writer.
    ///
    /// # Errors
    /// The archive cannot be written.
    pub fn finish(self) -> std::io::Result<W> {
        self.builder.into_inner()?.finish()
    }
}
