//! What is kept of a remote shelf between runs: its listing (when it was fetched, and its index) and
//! its archives.

use crate::age::{age_in_words, since};
use crate::cache::{Cache, heal};
use crate::catalogue::{Catalogue, Entry, Release};
use crate::error::{ShelfError, SourceError};
use crate::network::{Network, Validators};
use crate::shelf::Listing;
use serde::{Deserialize, Serialize};
use std::fs;
use std::path::PathBuf;
use std::time::{Duration, SystemTime};
use tinmold_mold::package::open_archive;
use tinmold_mold::{Origin, Package};
use tinmold_platform::digest::{Digest, digest_of};

/// A note of an index that is kept.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Kept {
    /// When it was last known to be right, in seconds since 1970.
    pub(crate) fetched: u64,
    /// The index's digest.
    pub(crate) index: String,
    /// The validators of the server's response.
    #[serde(default)]
    pub(crate) validators: Validators,
}

impl Kept {
    /// Returns the age of the listing; `None` if it is from the future.
    pub(crate) fn age(&self) -> Option<Duration> {
        since(self.fetched)
    }

    fn digest(&self) -> Option<Digest> {
        self.index.parse().ok()
    }
}

/// The listings that are kept of a shelf.
pub(crate) struct Listings<'a> {
    /// The shelf's name.
    pub(crate) shelf: &'a str,
    /// The URL, which is the key of the listing in the cache.
    pub(crate) place: &'a str,
    pub(crate) network: &'a Network,
}

impl Listings<'_> {
    fn cache(&self) -> Result<&Cache, ShelfError> {
        self.network.cache.as_ref().ok_or_else(|| ShelfError::source(self.shelf, SourceError::NoCache))
    }

    /// Returns the validators of the cached index, if it is intact.
    pub(crate) fn validators(&self) -> Option<Validators> {
        let kept = self.kept()?;
        let is_whole = self.cache().ok()?.file(&kept.digest()?).is_some();
        is_whole.then_some(kept.validators)
    }

    /// Opens a release: its archive in the cache, else the one that `get` stores there.
    ///
    /// `get` takes the cache, the archive's digest and the release's address, and returns the path.
    pub(crate) fn release(
        &self,
        entry: &Entry,
        release: &Release,
        get: impl FnOnce(&Cache, &Digest, &str) -> Result<PathBuf, ShelfError>,
    ) -> Result<Package, ShelfError> {
        let address = entry.address(self.shelf, release);
        // The index was validated when it was read.
        let no_digest = || ShelfError::source(self.shelf, SourceError::NoDigest(address.clone()));
        let digest: Digest = release.sha256.parse().map_err(|_| no_digest())?;
        let cache = self.cache()?;
        let place = match cache.file(&digest) {
            Some(place) => place,
            None => get(cache, &digest, &address)?,
        };
        let package = open_archive(&place).map_err(|error| ShelfError::named(error, &address))?;
        Ok(package.with_origin(Origin::Shelf(address)))
    }

    /// Returns the note of what is kept.
    pub(crate) fn kept(&self) -> Option<Kept> {
        self.cache().ok()?.note(self.place)
    }

    /// Returns the listing: from the cache if it is fresh or the shelf cannot be reached, else from
    /// `ask`, which is told whether the cached one would do.
    pub(crate) fn listed(
        &self,
        ask: impl FnOnce(bool) -> Result<(), ShelfError>,
    ) -> Result<Listing, ShelfError> {
        let settings = &self.network.settings;
        let before = self.kept().and_then(|kept| Some((self.open(&kept)?, kept)));
        let is_enough = |kept: &Kept| {
            settings.offline
                || kept.age().is_some_and(|age| age < settings.fresh)
                || self.network.unreachable().contains(self.place)
        };
        match before {
            Some((catalogue, kept)) if is_enough(&kept) => Ok(catalogue.into()),
            None if settings.offline => Err(ShelfError::source(self.shelf, SourceError::Offline)),
            before => match (ask(before.is_some()), before) {
                (Ok(()), _) => {
                    let kept = self.kept().and_then(|kept| self.open(&kept));
                    let lost = || ShelfError::source(self.shelf, SourceError::Lost("the index".into()));
                    Ok(kept.ok_or_else(lost)?.into())
                }
                (Err(error), Some((catalogue, kept))) => {
                    let age = age_in_words(kept.age());
                    self.network.unreachable().insert(self.place.to_owned());
                    self.network.observer.note(&format!("{error}; the listing of {age} is used"));
                    Ok(catalogue.into())
                }
                (Err(error), None) => Err(error),
            },
        }
    }

    /// Returns the catalogue that is kept, made anew if it is damaged.
    fn open(&self, kept: &Kept) -> Option<Catalogue> {
        let cache = self.cache().ok()?;
        let digest = kept.digest()?;
        let (stored, index) = (cache.catalogue(&digest), cache.place(&digest));
        heal(&stored);
        heal(&index);
        if !index.is_file() {
            return None;
        }
        if let Ok(catalogue) = Catalogue::open(self.shelf, &stored, &index) {
            return Some(catalogue);
        }
        let text = self.index(kept)?;
        let catalogue = Catalogue::of_index(self.shelf, &text, &index).ok()?;
        if let Err(error) = cache.write(&stored, &catalogue.to_bytes()) {
            tracing::warn!(%error, "cannot store the catalogue; it is made again at the next use");
        }
        Some(catalogue)
    }

    /// Returns the text of a kept index, if it is intact.
    pub(crate) fn index(&self, kept: &Kept) -> Option<String> {
        fs::read_to_string(self.cache().ok()?.file(&kept.digest()?)?).ok()
    }

    /// Keeps a new index, once it is known to be one.
    pub(crate) fn keep(&self, index: &str, validators: Validators) -> Result<(), ShelfError> {
        let cache = self.cache()?;
        let io = |error: std::io::Error| ShelfError::source(self.shelf, SourceError::Cache(error));
        let digest = digest_of(index.as_bytes());
        let place = cache.place(&digest);
        let catalogue = Catalogue::of_index(self.shelf, index, &place).map_err(|error| {
            ShelfError::source(self.shelf, SourceError::Index { url: self.place.to_owned(), error })
        })?;
        cache.write(&place, index.as_bytes()).map_err(io)?;
        cache.write(&cache.catalogue(&digest), &catalogue.to_bytes()).map_err(io)?;
        let before = self.kept().and_then(|kept| kept.digest());
        self.note(&digest, validators)?;
        if let Some(before) = before.filter(|before| *before != digest) {
            cache.forget(&before);
        }
        Ok(())
    }

    /// Notes that what is kept is still right.
    pub(crate) fn confirm(&self) -> Result<(), ShelfError> {
        match self.kept().and_then(|kept| Some((kept.digest()?, kept.validators))) {
            Some((digest, validators)) => self.note(&digest, validators),
            None => Ok(()),
        }
    }

    fn note(&self, digest: &Digest, validators: Validators) -> Result<(), ShelfError> {
        let now = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
        let kept = Kept { fetched: now.as_secs(), index: digest.to_string(), validators };
        self.cache()?
            .store_note(self.place, &kept)
            .map_err(|error| ShelfError::source(self.shelf, SourceError::Cache(error)))
    }
}
