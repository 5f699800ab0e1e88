//! A package: the files of a mold, sorted by path.

use super::error::PackageError;
use super::on_disk::OnDisk;
use super::origin::Origin;
use std::borrow::Cow;
use std::io::Read;
use std::path::PathBuf;
use std::sync::OnceLock;
use tinmold_platform::digest::{Digest, Hasher, digest_of, digest_of_file};
use tinmold_platform::dir_handle::DirHandle;
use tinmold_platform::parallel;

/// The files of a mold, sorted by path.
#[derive(Clone, Debug)]
pub struct Package {
    /// The origin of the mold.
    pub origin: Origin,
    /// All files, links and empty folders, sorted by path.
    pub files: Vec<File>,
}

/// One file of a mold.
#[derive(Clone, Debug)]
pub struct File {
    /// The path in the mold, with `/`.
    pub path: String,
    /// The content.
    pub content: Content,
    /// The permission bits of what is held in memory.
    mode: u32,
    /// The digest of the bytes, once it is computed.
    digest: OnceLock<Digest>,
}

/// The content of a file of a mold.
#[derive(Clone, Debug)]
pub enum Content {
    /// Bytes in memory.
    Held(Cow<'static, [u8]>),
    /// Bytes on disk.
    OnDisk(OnDisk),
    /// A symbolic link and its target.
    Link(String),
    /// A folder with nothing in it.
    EmptyFolder,
}

impl Package {
    /// Makes a package of files that are sorted by path.
    #[must_use]
    pub fn new(origin: Origin, files: Vec<File>) -> Self {
        Self { origin, files }
    }

    /// Returns the same files with another origin.
    #[must_use]
    pub fn with_origin(self, origin: Origin) -> Self {
        Self { origin, ..self }
    }

    /// Returns the file at `path`.
    #[must_use]
    pub fn file(&self, path: &str) -> Option<&File> {
        self.files.binary_search_by(|file| file.path.as_str().cmp(path)).ok().map(|at| &self.files[at])
    }

    /// Returns false only if no file holds this text. Files on disk are not read: they may hold it.
    #[must_use]
    pub fn may_mention(&self, text: &str) -> bool {
        let finder = memchr::memmem::Finder::new(text);
        self.files.iter().any(|file| match &file.content {
            Content::Held(bytes) => finder.find(bytes).is_some(),
            Content::OnDisk(..) => true,
            Content::Link(_) | Content::EmptyFolder => false,
        })
    }

    /// Computes the digest of the mold: SHA-256 over a line `DIGEST MODE PATH` for each file, by path.
    /// DIGEST is that of the bytes (of a link, that of its target), MODE the permission bits in octal,
    /// or `link` or `folder`.
    ///
    /// # Errors
    /// A file cannot be read.
    pub fn digest(&self) -> Result<Digest, PackageError> {
        if self.files.iter().any(|file| file.digest.get().is_none()) {
            parallel::map(&self.files, |_, file| file.digest().map(drop))
                .into_iter()
                .collect::<Result<(), _>>()?;
        }
        let mut hash = Hasher::new();
        for file in &self.files {
            let kind = match (&file.content, file.mode()) {
                (Content::Link(_), _) => Cow::Borrowed(" link "),
                (Content::EmptyFolder, _) => Cow::Borrowed(" folder "),
                (_, 0o644) => Cow::Borrowed(" 644 "),
                (_, mode) => Cow::Owned(format!(" {mode:o} ")),
            };
            for piece in [file.digest()?.digits(&mut [0; 64]), &kind, &file.path, "\n"] {
                hash.update(piece.as_bytes());
            }
        }
        Ok(hash.finish())
    }
}

impl File {
    /// Makes a file whose bytes were not read yet.
    #[must_use]
    pub fn new(path: impl Into<String>, content: Content, mode: u32) -> Self {
        Self { path: path.into(), content, mode, digest: OnceLock::new() }
    }

    /// Returns the permission bits that the file keeps when it is cast.
    #[must_use]
    pub fn mode(&self) -> u32 {
        match &self.content {
            Content::OnDisk(disk) => disk.mode(&self.path),
            _ => self.mode,
        }
    }

    /// Returns the bytes; those of a link or folder are empty.
    ///
    /// # Errors
    /// The file cannot be read.
    pub fn read(&self) -> Result<Cow<'_, [u8]>, PackageError> {
        match &self.content {
            Content::Held(bytes) => Ok(Cow::Borrowed(bytes)),
            Content::OnDisk(disk) => {
                let path = disk.path(&self.path);
                std::fs::read(&path).map(Cow::Owned).map_err(|source| PackageError::Io { path, source })
            }
            Content::Link(_) | Content::EmptyFolder => Ok(Cow::Borrowed(&[])),
        }
    }

    /// Opens the file where it lies on disk; `None` for what is in memory.
    ///
    /// # Errors
    /// The file cannot be opened.
    pub fn open(&self, directory: &mut DirHandle) -> Option<std::io::Result<std::fs::File>> {
        match &self.content {
            Content::OnDisk(disk) => Some(disk.open(&self.path, directory)),
            _ => None,
        }
    }

    /// Appends the bytes of a file on disk to `buffer` and keeps their digest.
    ///
    /// # Errors
    /// The file cannot be read.
    pub fn read_into(&self, buffer: &mut Vec<u8>, directory: &mut DirHandle) -> Result<(), PackageError> {
        let start = buffer.len();
        match &self.content {
            Content::Held(bytes) => buffer.extend_from_slice(bytes),
            Content::OnDisk(disk) => {
                let read = disk.open(&self.path, directory).and_then(|file| {
                    let length = usize::try_from(disk.length_of(&file)?).unwrap_or(0);
                    // One byte more lets one call see the end of the file. `take` keeps the library from
                    // asking for the length again.
                    buffer.reserve(length + 1);
                    file.take(u64::MAX).read_to_end(buffer)
                });
                read.map_err(|source| PackageError::Io { path: disk.path(&self.path), source })?;
            }
            Content::Link(_) | Content::EmptyFolder => {}
        }
        self.digest.get_or_init(|| digest_of(&buffer[start..]));
        Ok(())
    }

    /// Computes the SHA-256 digest of the bytes; of a link, that of its target.
    ///
    /// # Errors
    /// The file cannot be read.
    pub fn digest(&self) -> Result<Digest, PackageError> {
        if let Some(digest) = self.digest.get() {
            return Ok(*digest);
        }
        let digest = match &self.content {
            Content::Held(bytes) => digest_of(bytes),
            Content::Link(target) => digest_of(target.as_bytes()),
            Content::EmptyFolder => digest_of(b""),
            Content::OnDisk(disk) => {
                let path: PathBuf = disk.path(&self.path);
                digest_of_file(&path).map_err(|source| PackageError::Io { path, source })?
            }
        };
        Ok(*self.digest.get_or_init(|| digest))
    }

    /// Returns the length in bytes; 0 for a missing file, whose reading then fails.
    #[must_use]
    pub fn len(&self) -> u64 {
        match &self.content {
            Content::Held(bytes) => bytes.len() as u64,
            Content::OnDisk(disk) => disk.length(&self.path),
            Content::Link(_) | Content::EmptyFolder => 0,
        }
    }

    /// Returns true if the file holds no bytes.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }
}
