//! A shelf that is an index over HTTP.

use crate::archive_check::{MOST_ARCHIVE, check_listed};
use crate::catalogue::{Entry, INDEX_FILE, IndexError, MOST_BYTES, Release};
use crate::error::{Mismatch, ShelfError, SourceError};
use crate::listing::Listings;
use crate::network::{Answer, FetchRequest, Network, NetworkError, fetch};
use crate::shelf::{Listing, Shelf};
use std::fs;
use std::sync::Arc;
use std::time::Duration;
use tinmold_mold::Package;

/// A shelf that is an index over HTTP, with the archives below it.
pub struct IndexShelf {
    name: String,
    url: String,
    token_env: Option<String>,
    network: Arc<Network>,
}

impl IndexShelf {
    /// Makes the shelf `name` with the index at `url`, which is that of the index or of its
    /// directory. The environment variable `token_env` holds its token.
    #[must_use]
    pub fn new(name: impl Into<String>, url: &str, token_env: Option<String>, network: Arc<Network>) -> Self {
        let url = if url.ends_with(".json") {
            url.to_owned()
        } else {
            format!("{}/{INDEX_FILE}", url.trim_end_matches('/'))
        };
        Self { name: name.into(), url, token_env, network }
    }

    fn listings(&self) -> Listings<'_> {
        Listings { shelf: &self.name, place: &self.url, network: &self.network }
    }

    fn request<'a>(&'a self, url: &'a str, what: &'a str, most: u64) -> FetchRequest<'a> {
        let known = Default::default();
        FetchRequest { url, what, token_env: self.token_env.as_deref(), known, most, hurried: false }
    }

    /// Asks the server what is on it now; `hurried` if what is kept will do.
    fn ask(&self, hurried: bool) -> Result<(), ShelfError> {
        let failed = |reason: SourceError| ShelfError::source(&self.name, reason);
        let known = self.listings().validators().unwrap_or_default();
        let what = format!("the index of {}", self.name);
        let request = FetchRequest { known, hurried, ..self.request(&self.url, &what, MOST_BYTES) };
        match fetch(&self.network, &request)
            .map_err(|error| failed(SourceError::Network { url: self.url.clone(), error }))?
        {
            Answer::Same => self.listings().confirm(),
            Answer::Fetched(fetched, validators) => {
                let text = fs::read(fetched.path()).map_err(|error| failed(SourceError::Cache(error)));
                // The listing is kept under its digest, or not at all.
                fetched.throw_away();
                let text = String::from_utf8(text?).map_err(|_| {
                    failed(SourceError::Index { url: self.url.clone(), error: IndexError::NotUtf8 })
                })?;
                self.listings().keep(&text, validators)
            }
        }
    }
}

impl Shelf for IndexShelf {
    fn name(&self) -> &str {
        &self.name
    }

    fn place(&self) -> String {
        self.url.clone()
    }

    fn list(&self) -> Result<Listing, ShelfError> {
        self.listings().listed(|hurried| self.ask(hurried))
    }

    fn refresh(&self) -> Result<(), ShelfError> {
        self.ask(false)
    }

    fn fetch(&self, entry: &Entry, release: &Release) -> Result<Package, ShelfError> {
        let failed = |reason: SourceError| ShelfError::source(&self.name, reason);
        let package = self.listings().release(entry, release, |cache, &expected, address| {
            let base = self.url.rfind('/').map_or("", |end| &self.url[..=end]);
            let url = format!("{base}{}", release.archive);
            let request = self.request(&url, address, MOST_ARCHIVE);
            let fetched = match fetch(&self.network, &request) {
                Ok(Answer::Fetched(fetched, _)) => fetched,
                Ok(Answer::Same) => {
                    return Err(failed(SourceError::Network { url, error: NetworkError::Nothing }));
                }
                Err(error) => return Err(failed(SourceError::Network { url, error })),
            };
            let found = fetched.digest().map_err(|error| failed(SourceError::Cache(error)))?;
            if found != expected {
                fetched.throw_away();
                let reason = Mismatch::Digest { found, expected };
                return Err(ShelfError::Tampered { address: address.to_owned(), reason });
            }
            fetched.store(cache, &expected).map_err(|error| failed(SourceError::Cache(error)))
        })?;
        check_listed(&package, entry, release, &entry.address(&self.name, release))?;
        Ok(package)
    }

    fn age(&self) -> Option<Duration> {
        self.listings().kept().and_then(|kept| kept.age())
    }
}
