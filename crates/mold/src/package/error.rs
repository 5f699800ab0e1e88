//! Why the files of a mold cannot be read.

use super::limits::{MOST_BYTES, MOST_ENTRIES};
use std::path::PathBuf;

/// Why the files of a mold cannot be read.
#[derive(Debug, thiserror::Error)]
pub enum PackageError {
    /// The folder has no `mold.toml`.
    #[error("there is no mold at {0}: a mold is a folder with a file `mold.toml`")]
    NotAMold(PathBuf),
    /// The archive cannot be used.
    #[error("cannot read the archive {name}: {reason}")]
    Archive {
        /// The archive, as the user knows it.
        name: String,
        /// Why.
        reason: ArchiveError,
    },
    /// The program has no built-in mold of this name.
    #[error("no mold is called {name:?}")]
    Unknown {
        /// The name.
        name: String,
        /// The nearest built-in name.
        nearest: Option<String>,
    },
    /// A path that is not UTF-8.
    #[error("the name of {0} is not UTF-8; a mold holds no such files")]
    NotUtf8(PathBuf),
    /// Something that is not a file, folder or link.
    #[error("{0} is not a file, a folder or a link; a mold holds nothing else")]
    Special(PathBuf),
    /// A path with a control character.
    #[error("the path {0:?} holds a control character; a mold holds no such files")]
    ControlCharacter(String),
    /// A file that is too large to be read as a whole.
    #[error("{path} is larger than {} MiB; mark it `copy` if it is not rendered", limit >> 20)]
    TooLarge {
        /// The path in the mold.
        path: String,
        /// The limit in bytes.
        limit: u64,
    },
    /// A file that changed while the mold was used.
    #[error("{0} of the mold changed while it was used")]
    Changed(String),
    /// The system refused.
    #[error("cannot read {path}: {source}")]
    Io {
        /// The path.
        path: PathBuf,
        /// The system's error.
        source: std::io::Error,
    },
}

/// Why an archive is not that of one mold.
#[derive(Debug, thiserror::Error)]
pub enum ArchiveError {
    /// The archive cannot be read as `.tar.gz`.
    #[error("it is not a readable .tar.gz: {0}")]
    Format(#[from] std::io::Error),
    /// The archive has too many entries.
    #[error("it has more than {MOST_ENTRIES} entries")]
    TooManyEntries,
    /// The archive unpacks to too much.
    #[error("it unpacks to more than {} MiB", MOST_BYTES >> 20)]
    TooLarge,
    /// A name or link target that is not UTF-8.
    #[error("a name in it is not UTF-8")]
    NotUtf8,
    /// An entry that leads out of the archive.
    #[error("the entry {0:?} leads out of it")]
    Outside(String),
    /// An entry that is not a file, folder or link.
    #[error("the entry {0:?} is not a file, a folder or a link")]
    Special(String),
    /// Two entries have one path.
    #[error("the entry {0:?} is in it twice")]
    Twice(String),
    /// The entries do not lie in one folder.
    #[error("its files are not in one folder")]
    SeveralRoots,
    /// The folder has no `mold.toml`.
    #[error("it holds no mold: there is no mold.toml in its folder")]
    NoManifest,
}
