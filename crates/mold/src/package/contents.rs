//! A package: the files of a mold, sorted by path.

use super::error::PackageError;
use super::limits::{LARGEST_TEXT, MOST_BYTES};
use super::mold_digest::MoldDigest;
use super::on_disk::OnDisk;
use super::origin::Origin;
use std::borrow::Cow;
use std::io::Read;
use std::sync::OnceLock;
use tinmold_platform::digest::{Digest, Hasher, digest_of};
use tinmold_platform::dir_handle::DirHandle;
use tinmold_platform::parallel;

/// The files of a mold, sorted by path.
#[derive(Clone, Debug)]
pub struct Package {
    /// The origin of the mold.
    pub origin: Origin,
    /// All files, links and empty folders, sorted by path.
    pub files: Vec<File>,
    /// By name of a layer that was taken from outside the mold: its path from the mold's folder.
    layers: Vec<(String, String)>,
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
    ///
    /// # Errors
    /// A path holds a control character: in the list that the digest is made of, it could stand for
    /// other lines.
    pub fn new(origin: Origin, files: Vec<File>) -> Result<Self, PackageError> {
        match files.iter().find(|file| has_control_character(&file.path)) {
            Some(file) => Err(PackageError::ControlCharacter(file.path.clone())),
            None => Ok(Self { origin, files, layers: Vec::new() }),
        }
    }

    /// Returns the same files with another origin.
    #[must_use]
    pub fn with_origin(self, origin: Origin) -> Self {
        Self { origin, ..self }
    }

    /// Says where layers were taken from that are not in the mold's own folder.
    pub(super) fn with_layers(self, layers: Vec<(String, String)>) -> Self {
        Self { layers, ..self }
    }

    /// Returns a path as its author knows it: that of a layer leads to the layer's own folder.
    ///
    /// ```
    /// # use tinmold_mold::{Origin, Package};
    /// let package = Package::new(Origin::BuiltIn("board".into()), Vec::new()).unwrap();
    /// assert_eq!(package.shown("layers/licence/layer.toml"), "layers/licence/layer.toml");
    /// ```
    #[must_use]
    pub fn shown<'p>(&self, path: &'p str) -> Cow<'p, str> {
        let below = |name: &str| path.strip_prefix("layers/")?.strip_prefix(name)?.strip_prefix('/');
        let found = self.layers.iter().find_map(|(name, from)| Some((from, below(name)?)));
        found.map_or(Cow::Borrowed(path), |(from, below)| Cow::Owned(format!("{from}/{below}")))
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

    /// Computes the digest of the mold, as [`MoldDigest`] describes it.
    ///
    /// # Errors
    /// A file cannot be read, or changed since it was read before.
    pub fn digest(&self) -> Result<MoldDigest, PackageError> {
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
        Ok(MoldDigest(hash.finish()))
    }
}

/// Returns true if the text holds a character of Unicode's category Cc.
fn has_control_character(text: &str) -> bool {
    text.bytes().any(|byte| !(0x20..0x7f).contains(&byte)) && text.chars().any(char::is_control)
}

impl File {
    /// Makes a file whose bytes were not read yet.
    #[must_use]
    pub fn new(path: impl Into<String>, content: Content, mode: u32) -> Self {
        Self { path: path.into(), content, mode, digest: OnceLock::new() }
    }

    /// Returns the file with the digest of its bytes, which was computed when the program was built.
    pub(super) fn with_digest(self, digest: Digest) -> Self {
        Self { digest: digest.into(), ..self }
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
    /// The file cannot be read, is too large to be held, or changed since it was read before.
    pub fn read(&self) -> Result<Cow<'_, [u8]>, PackageError> {
        match &self.content {
            Content::Held(bytes) => Ok(Cow::Borrowed(bytes)),
            Content::OnDisk(_) => {
                let mut bytes = Vec::new();
                self.read_up_to(MOST_BYTES, &mut bytes, &mut DirHandle::default())?;
                Ok(Cow::Owned(bytes))
            }
            Content::Link(_) | Content::EmptyFolder => Ok(Cow::Borrowed(&[])),
        }
    }

    /// Opens the bytes for reading in pieces; `None` for a link or folder.
    ///
    /// # Errors
    /// The file cannot be opened.
    pub fn reader(&self, directory: &mut DirHandle) -> Option<Result<FileReader<'_>, PackageError>> {
        let source = match &self.content {
            Content::Held(bytes) => Source::Held(bytes),
            Content::OnDisk(disk) => match disk.open(&self.path, directory) {
                Ok(file) => Source::OnDisk(file),
                Err(source) => return Some(Err(self.io(source))),
            },
            Content::Link(_) | Content::EmptyFolder => return None,
        };
        Some(Ok(FileReader { file: self, source, hash: Hasher::new() }))
    }

    /// Appends the bytes of a file on disk to `buffer` and keeps their digest.
    ///
    /// # Errors
    /// The file cannot be read, is too large for a file that is rendered, or changed since it was read
    /// before.
    pub fn read_into(&self, buffer: &mut Vec<u8>, directory: &mut DirHandle) -> Result<(), PackageError> {
        self.read_up_to(LARGEST_TEXT, buffer, directory)
    }

    fn read_up_to(
        &self,
        limit: u64,
        buffer: &mut Vec<u8>,
        directory: &mut DirHandle,
    ) -> Result<(), PackageError> {
        let start = buffer.len();
        let too_large = || PackageError::TooLarge { path: self.path.clone(), limit };
        match &self.content {
            Content::Held(bytes) => buffer.extend_from_slice(bytes),
            Content::OnDisk(disk) => {
                let file = disk.open(&self.path, directory).map_err(|source| self.io(source))?;
                // The length is checked first: a sparse file can be larger than the memory.
                let length = disk.length_of(&file).map_err(|source| self.io(source))?;
                if length > limit {
                    return Err(too_large());
                }
                // One byte more lets one call see the end of the file.
                buffer.reserve(usize::try_from(length).unwrap_or(0) + 1);
                let read = file.take(limit + 1).read_to_end(buffer).map_err(|source| self.io(source))?;
                if read as u64 > limit {
                    return Err(too_large());
                }
            }
            Content::Link(_) | Content::EmptyFolder => {}
        }
        self.same(digest_of(&buffer[start..])).map(drop)
    }

    fn io(&self, source: std::io::Error) -> PackageError {
        let path = match &self.content {
            Content::OnDisk(disk) => disk.path(&self.path),
            _ => self.path.clone().into(),
        };
        PackageError::Io { path, source }
    }

    /// Keeps the digest of bytes that were read. Whoever vouches for a mold vouches for these bytes: every
    /// later reading must give the same.
    fn same(&self, found: Digest) -> Result<Digest, PackageError> {
        match *self.digest.get_or_init(|| found) == found {
            true => Ok(found),
            false => Err(PackageError::Changed(self.path.clone())),
        }
    }

    /// Computes the SHA-256 digest of the bytes; of a link, that of its target.
    ///
    /// # Errors
    /// The file cannot be read.
    pub fn digest(&self) -> Result<Digest, PackageError> {
        if let Some(digest) = self.digest.get() {
            return Ok(*digest);
        }
        let digest = match (&self.content, self.reader(&mut DirHandle::default())) {
            (Content::Held(bytes), _) => digest_of(bytes),
            (Content::Link(target), _) => digest_of(target.as_bytes()),
            (_, None) => digest_of(b""),
            (_, Some(reader)) => return reader?.finish(),
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

/// Reads the bytes of a file in pieces, and holds them against those that were read before.
pub struct FileReader<'f> {
    file: &'f File,
    source: Source<'f>,
    hash: Hasher,
}

enum Source<'f> {
    Held(&'f [u8]),
    OnDisk(std::fs::File),
}

impl FileReader<'_> {
    /// Reads what is left, and returns the digest of all bytes.
    ///
    /// # Errors
    /// The file cannot be read, or changed since it was read before.
    pub fn finish(mut self) -> Result<Digest, PackageError> {
        let mut buffer = vec![0; 64 * 1024];
        loop {
            match self.read(&mut buffer) {
                Ok(0) => return self.file.same(self.hash.finish()),
                Ok(_) => {}
                Err(source) => return Err(self.file.io(source)),
            }
        }
    }
}

impl Read for FileReader<'_> {
    fn read(&mut self, buffer: &mut [u8]) -> std::io::Result<usize> {
        let length = match &mut self.source {
            Source::Held(bytes) => bytes.read(buffer)?,
            Source::OnDisk(file) => file.read(buffer)?,
        };
        self.hash.update(&buffer[..length]);
        Ok(length)
    }
}
