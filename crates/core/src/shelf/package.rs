//! The files of a mold.

use super::built_in::{Document, document};
use super::on_disk::OnDisk;
use crate::digest::{Digest, Digesting, digest_of, digest_of_file};
use crate::near::{Near, read_once};
use crate::parallel;
use arcstr::Substr;
use std::borrow::Cow;
use std::io::Read;
use std::path::{Path, PathBuf};
use std::sync::{Arc, OnceLock};
use toml::Spanned;
use toml::de::DeTable;

/// Where a mold comes from.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Origin {
    /// The shelf in the program; vouched for.
    BuiltIn(String),
    /// A folder on this machine.
    Folder(PathBuf),
    /// An archive on this machine.
    Archive(PathBuf),
    /// A shelf outside the program, by the address with its version.
    Shelf(String),
}

impl Origin {
    /// How a record names it: the address with its version, or the path from the root.
    #[must_use]
    pub fn address(&self, version: &str) -> String {
        match self {
            Self::BuiltIn(name) => format!("built-in/{name}@{version}"),
            Self::Shelf(address) => address.clone(),
            Self::Folder(folder) | Self::Archive(folder) => {
                let absolute = folder.canonicalize().unwrap_or_else(|_| folder.clone());
                absolute.display().to_string()
            }
        }
    }
}

impl std::fmt::Display for Origin {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::BuiltIn(name) => write!(f, "built-in/{name}"),
            Self::Shelf(address) => f.write_str(address),
            Self::Folder(folder) | Self::Archive(folder) => write!(f, "{}", folder.display()),
        }
    }
}

/// A mold's files, sorted by path.
#[derive(Clone, Debug)]
pub struct Package {
    /// Where it comes from.
    pub origin: Origin,
    /// All files and links, and folders that hold none, sorted by path.
    pub files: Vec<File>,
    /// The digest of them all, if it was said.
    digest: Option<Digest>,
    /// Those of its manifests that were read when the program was built.
    documents: &'static [Document],
}

/// One file of a mold.
#[derive(Clone, Debug)]
pub struct File {
    /// Its path in the mold, with `/` between the parts.
    pub path: Substr,
    /// What it holds.
    pub content: Content,
    /// The permission bits that it keeps, if they are not the disk's to say.
    mode: u32,
    /// The digest of its bytes, once it was computed.
    digest: OnceLock<Digest>,
}

/// What a file of a mold holds.
#[derive(Clone, Debug)]
pub enum Content {
    /// Bytes in memory.
    Held(Cow<'static, [u8]>),
    /// Bytes on disk.
    OnDisk(OnDisk),
    /// A symbolic link and what it points to.
    Link(String),
    /// A folder with nothing in it.
    EmptyFolder,
}

/// Why a mold's files cannot be had.
#[derive(Debug, thiserror::Error)]
pub enum PackageError {
    /// There is no mold there.
    #[error("there is no mold at {0}: a mold is a folder with a file `mold.toml`")]
    NotAMold(PathBuf),
    /// An archive that holds no mold, or what no mold may hold.
    #[error("{path} is no archive of a mold: {reason}")]
    BadArchive {
        /// The archive.
        path: PathBuf,
        /// Why not, in a clause.
        reason: String,
    },
    /// An address that leads to no mold, or to several; what to do about it.
    #[error("{0}")]
    Address(String),
    /// A shelf, or a place elsewhere, that could not do what was asked of it.
    #[error("shelf {shelf}: {reason}")]
    Shelf {
        /// Its name.
        shelf: String,
        /// Why not, in a clause.
        reason: String,
    },
    /// What was fetched is not what was to be fetched.
    #[error("{address} is not what it is said to be: {reason}; nothing of it was kept or used")]
    NotAsListed {
        /// What was asked for.
        address: String,
        /// What differs, in a clause.
        reason: String,
    },
    /// The built-in shelf has none of this name.
    #[error("no mold is called {name:?}{hint}")]
    Unknown {
        /// The name that was asked for.
        name: String,
        /// What to do about it; begins with a semicolon.
        hint: String,
    },
    /// A path that is not UTF-8.
    #[error("the name of {0} is not UTF-8; a mold holds no such files")]
    NotUtf8(PathBuf),
    /// Something that is no file, folder or link.
    #[error("{0} is neither a file, a folder nor a link; a mold holds nothing else")]
    Special(PathBuf),
    /// The system refused.
    #[error("cannot read {path}: {source}")]
    Io {
        /// What was to be read.
        path: PathBuf,
        /// What the system said.
        source: std::io::Error,
    },
}

impl PackageError {
    /// The same error with the name that people know an archive by.
    pub(super) fn at(self, name: &str) -> Self {
        match self {
            Self::BadArchive { reason, .. } => Self::BadArchive { path: name.into(), reason },
            other => other,
        }
    }
}

impl Package {
    /// A mold of these files, sorted by path.
    #[must_use]
    pub fn new(origin: Origin, files: Vec<File>) -> Self {
        Self { origin, files, digest: None, documents: &[] }
    }

    /// The same with the digest that [`Package::digest`] would compute.
    pub(super) fn of_digest(self, digest: Digest) -> Self {
        Self { digest: Some(digest), ..self }
    }

    /// The same with manifests that were read already.
    pub(super) fn of_documents(self, documents: &'static [Document]) -> Self {
        Self { documents, ..self }
    }

    /// What stands in a manifest, if that was read already.
    pub(crate) fn document(&self, path: &str) -> Option<Spanned<DeTable<'static>>> {
        let (_, bytes) = self.documents.iter().find(|(known, _)| *known == path)?;
        document(bytes)
    }

    /// The same files from another place.
    pub(super) fn from(self, origin: Origin) -> Self {
        Self { origin, ..self }
    }

    /// The file at `path`, if there is one.
    #[must_use]
    pub fn file(&self, path: &str) -> Option<&File> {
        self.files.binary_search_by(|file| file.path.as_str().cmp(path)).ok().map(|at| &self.files[at])
    }
}

impl Package {
    /// Whether some file of it may hold this text: false only if all were looked through.
    #[must_use]
    pub fn may_hold(&self, text: &str) -> bool {
        let finder = memchr::memmem::Finder::new(text);
        self.files.iter().any(|file| match &file.content {
            Content::Held(bytes) => finder.find(bytes).is_some(),
            Content::OnDisk(..) => true,
            Content::Link(_) | Content::EmptyFolder => false,
        })
    }

    /// The digest of everything in it. It is made of a list with a line a file, by path, that holds the file's SHA-256 digest (of a
    /// link, that of its target), its permission bits in octal (`link` and `folder` for what is no file) and its path: the SHA-256
    /// digest of the SHA-256 digests, 32 bytes each, of every 4096 bytes of that list.
    ///
    /// # Errors
    /// A file cannot be read.
    pub fn digest(&self) -> Result<Digest, PackageError> {
        self.digesting().finish()
    }

    /// The same for whoever comes to know the digests of the files one after another.
    pub(crate) fn digesting(&self) -> PackageDigest<'_> {
        PackageDigest { package: self, next: 0, list: Digesting::new() }
    }
}

/// The digest of a package, on the way.
pub(crate) struct PackageDigest<'p> {
    package: &'p Package,
    /// The first file that is not in the list.
    next: usize,
    list: Digesting,
}

impl PackageDigest<'_> {
    /// Takes in what is known by now.
    pub(crate) fn go_on(&mut self) {
        if self.package.digest.is_some() {
            return;
        }
        while let Some(file) = self.package.files.get(self.next)
            && let Some(digest) = file.known_digest()
        {
            let kind = match (&file.content, file.mode()) {
                (Content::Link(_), _) => Cow::Borrowed(" link "),
                (Content::EmptyFolder, _) => Cow::Borrowed(" folder "),
                (_, 0o644) => Cow::Borrowed(" 644 "),
                (_, mode) => Cow::Owned(format!(" {mode:o} ")),
            };
            for piece in [digest.digits(&mut [0; 64]), &kind, &file.path, "\n"] {
                self.list.push(piece);
            }
            self.next += 1;
        }
    }

    /// Computes what is not known.
    ///
    /// # Errors
    /// A file cannot be read.
    pub(crate) fn finish(mut self) -> Result<Digest, PackageError> {
        if let Some(digest) = self.package.digest {
            return Ok(digest);
        }
        let rest = &self.package.files[self.next..];
        if rest.iter().any(|file| file.known_digest().is_none()) {
            parallel::map(rest, |_, file| file.digest().map(drop)).into_iter().collect::<Result<(), _>>()?;
        }
        self.go_on();
        Ok(self.list.finish())
    }
}

impl File {
    /// A file that was not read yet.
    #[must_use]
    pub fn new(path: impl Into<Substr>, content: Content, mode: u32) -> Self {
        Self { path: path.into(), content, mode, digest: OnceLock::new() }
    }

    /// A file that lies under the last part of its path in this folder.
    pub(super) fn on_disk(path: Substr, folder: Arc<Path>) -> Self {
        Self::new(path, Content::OnDisk(OnDisk::new(folder)), 0)
    }

    /// The permission bits that it keeps.
    #[must_use]
    pub fn mode(&self) -> u32 {
        match &self.content {
            Content::OnDisk(disk) => disk.mode(&self.path),
            _ => self.mode,
        }
    }

    /// Opens it where it lies.
    ///
    /// # Errors
    /// It cannot be opened.
    pub(crate) fn open(&self, disk: &OnDisk, near: &mut Near) -> std::io::Result<std::fs::File> {
        disk.open(&self.path, near)
    }

    /// Its bytes; those of a link or folder are empty.
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

    /// Puts its bytes behind what is in `buffer`; those of a link or folder are empty.
    ///
    /// # Errors
    /// The file cannot be read.
    pub(crate) fn read_into(&self, buffer: &mut Vec<u8>, near: &mut Near) -> Result<(), PackageError> {
        match &self.content {
            Content::Held(bytes) => buffer.extend_from_slice(bytes),
            Content::OnDisk(disk) => {
                let read = disk.open(&self.path, near).and_then(|mut file| {
                    let length = usize::try_from(disk.length_of(&file)?).unwrap_or(0);
                    // One byte more tells in the same call that nothing follows.
                    buffer.reserve(length + 1);
                    let read = read_once(&mut file, buffer)?;
                    // A file that is not as long as it was is read to its end.
                    if read == length { Ok(0) } else { file.read_to_end(buffer) }
                });
                read.map_err(|source| PackageError::Io { path: disk.path(&self.path), source })?;
            }
            Content::Link(_) | Content::EmptyFolder => {}
        }
        Ok(())
    }

    /// The SHA-256 digest of its bytes; of a link, that of its target.
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
                let path = disk.path(&self.path);
                digest_of_file(&path).map_err(|source| PackageError::Io { path, source })?
            }
        };
        Ok(*self.digest.get_or_init(|| digest))
    }

    /// The digest, if it was computed or said already.
    pub(crate) fn known_digest(&self) -> Option<Digest> {
        self.digest.get().copied()
    }

    /// Says what the digest is, for whoever computed it from the bytes as they were read.
    pub(crate) fn set_digest(&self, digest: Digest) {
        let _ = self.digest.set(digest);
    }

    /// Its length in bytes.
    #[must_use]
    pub fn len(&self) -> u64 {
        match &self.content {
            Content::Held(bytes) => bytes.len() as u64,
            Content::OnDisk(disk) => disk.length(&self.path),
            Content::Link(_) | Content::EmptyFolder => 0,
        }
    }

    /// Whether it holds no bytes.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }
}
