//! Why a mold cannot be fetched from its address.

use crate::address::AddressError;
use crate::catalogue::IndexError;
use crate::network::NetworkError;
use crate::repository::GitError;
use std::io;
use std::path::PathBuf;
use tinmold_mold::PackageError;
use tinmold_platform::digest::Digest;

/// Why a mold cannot be fetched from its address.
#[derive(Debug, thiserror::Error)]
pub enum ShelfError {
    /// The files of the mold cannot be read.
    #[error(transparent)]
    Package(#[from] PackageError),
    /// The address cannot be read.
    #[error(transparent)]
    Address(#[from] AddressError),
    /// No shelf has this name.
    #[error("no shelf is called {name:?}")]
    UnknownShelf {
        /// The name.
        name: String,
        /// The shelves that are known.
        known: Vec<String>,
    },
    /// No shelf has a mold of this name.
    #[error("no mold is called {name:?}")]
    UnknownMold {
        /// The name.
        name: String,
        /// The nearest name on the shelves.
        nearest: Option<String>,
        /// Names on the shelves, at most twelve; empty if there are more.
        known: Vec<String>,
    },
    /// The mold has no such version.
    #[error("{name:?} has no such version; there are {}", .versions.join(", "))]
    UnknownVersion {
        /// The mold.
        name: String,
        /// Versions that there are, at most twelve.
        versions: Vec<String>,
    },
    /// Several shelves have the mold.
    #[error("several shelves have {name:?}")]
    Ambiguous {
        /// The mold.
        name: String,
        /// The addresses that are clear.
        addresses: Vec<String>,
    },
    /// A shelf or URL cannot be read.
    #[error("shelf {shelf}: {reason}")]
    Source {
        /// The shelf's name, or the URL.
        shelf: String,
        /// Why.
        reason: Box<SourceError>,
    },
    /// An archive is not the one that was asked for.
    #[error("{address} is not what its listing says: {reason}; it was not stored or used")]
    Tampered {
        /// The address.
        address: String,
        /// The difference.
        reason: Mismatch,
    },
}

/// Why a shelf or URL cannot be read.
#[derive(Debug, thiserror::Error)]
pub enum SourceError {
    /// There is no cache directory.
    #[error("there is no cache directory: set HOME or XDG_CACHE_HOME")]
    NoCache,
    /// The network may not be used, and the cache does not help.
    #[error("the cache holds nothing of it, and --offline forbids to fetch it")]
    Offline,
    /// A file cannot be fetched.
    #[error("{url}: {error}")]
    Network {
        /// The URL.
        url: String,
        /// Why.
        error: NetworkError,
    },
    /// The index cannot be used.
    #[error("{url}: {error}")]
    Index {
        /// The URL.
        url: String,
        /// Why.
        error: IndexError,
    },
    /// Git failed.
    #[error("{url}: {error}")]
    Git {
        /// The repository.
        url: String,
        /// Why.
        error: GitError,
    },
    /// The cache cannot be read or written.
    #[error("cannot use the cache: {0}")]
    Cache(io::Error),
    /// The folder cannot be read.
    #[error("cannot read {path}: {error}")]
    Folder {
        /// The folder.
        path: PathBuf,
        /// The system's error.
        error: io::Error,
    },
    /// The listing cannot be read.
    #[error("cannot read its listing: {0}")]
    Listing(io::Error),
    /// The listing has no digest for the archive.
    #[error("{0} has no digest")]
    NoDigest(String),
    /// The archive is gone and cannot be made again.
    #[error("{0} cannot be made again as it was")]
    Lost(String),
    /// The repository holds no mold of this name.
    #[error("no mold is called {name:?} in it; there are {known}")]
    NoSuchMold {
        /// The name.
        name: String,
        /// The names that there are.
        known: String,
    },
    /// The repository holds several molds.
    #[error("it holds several molds; name one after it, as {example}: {known}")]
    SeveralMolds {
        /// An address of the first.
        example: String,
        /// The names that there are.
        known: String,
    },
}

/// The difference between an archive and its listing.
#[derive(Debug, thiserror::Error)]
pub enum Mismatch {
    /// The archive has another digest.
    #[error("the archive has the SHA-256 {found}, and {expected} was expected")]
    Digest {
        /// The digest of the archive.
        found: Digest,
        /// The digest that was expected.
        expected: Digest,
    },
    /// The archive holds another mold or version.
    #[error("the archive holds {0}")]
    Mold(String),
}

impl ShelfError {
    /// Makes the error of a shelf that cannot be read.
    pub(crate) fn source(shelf: &str, reason: impl Into<SourceError>) -> Self {
        Self::Source { shelf: shelf.to_owned(), reason: Box::new(reason.into()) }
    }

    /// Gives an archive the name that the user knows.
    pub(crate) fn named(error: PackageError, name: &str) -> Self {
        Self::Package(match error {
            PackageError::Archive { reason, .. } => PackageError::Archive { name: name.to_owned(), reason },
            other => other,
        })
    }

    /// Returns true if asking the shelf again may help: the name or version is not in the listing.
    pub(crate) fn is_missing(&self) -> bool {
        matches!(self, Self::UnknownMold { .. } | Self::UnknownVersion { .. })
    }
}
