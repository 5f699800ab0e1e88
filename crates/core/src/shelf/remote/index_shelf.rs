//! A shelf that is an index over HTTP.

use super::client::{Answer, Wanted, fetch};
use super::kept::{Listing, Listings};
use super::{Network, failed};
use crate::digest::{Digest, digest_of_file};
use crate::shelf::archive::open_archive;
use crate::shelf::entry::{Entry, Release};
use crate::shelf::index::{INDEX_FILE, MOST_BYTES};
use crate::shelf::package::{Origin, Package, PackageError};
use crate::shelf::shelves::Shelf;
use std::fs;
use std::sync::Arc;
use std::time::Duration;

/// The most bytes that an archive may have.
pub(super) const MOST_ARCHIVE: u64 = 256 << 20;

/// A shelf that is an index over HTTP, with the archives below it.
pub struct IndexShelf {
    name: String,
    url: String,
    token_env: Option<String>,
    network: Arc<Network>,
}

impl IndexShelf {
    /// The shelf `name` whose index is at `url`, or in the folder that `url` is. A token for it is in the environment variable
    /// `token_env`.
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

    fn wanted<'a>(&'a self, url: &'a str, what: &'a str, most: u64) -> Wanted<'a> {
        let known = Default::default();
        Wanted { url, what, token_env: self.token_env.as_deref(), known, most, hurried: false }
    }

    /// Asks the server what is on it now; `hurried` if what is kept will do.
    fn ask(&self, hurried: bool) -> Result<(), PackageError> {
        let failed = |reason: String| failed(&self.name, reason);
        let known = self.listings().validators().unwrap_or_default();
        let what = format!("the index of {}", self.name);
        let wanted = Wanted { known, hurried, ..self.wanted(&self.url, &what, MOST_BYTES) };
        match fetch(&self.network, &wanted).map_err(|error| failed(format!("{}: {error}", self.url)))? {
            Answer::Same => self.listings().confirm(),
            Answer::Fetched(place, validators) => {
                let text = fs::read(&place).map_err(|error| failed(error.to_string()));
                // Kept under its digest, or not at all.
                let _ = fs::remove_file(&place);
                let text = String::from_utf8(text?)
                    .map_err(|_| failed(format!("{}: it is no index of molds: it is not UTF-8", self.url)))?;
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

    fn list(&self) -> Result<Listing, PackageError> {
        self.listings().listed(|hurried| self.ask(hurried))
    }

    fn refresh(&self) -> Result<(), PackageError> {
        self.ask(false)
    }

    fn fetch(&self, entry: &Entry, release: &Release) -> Result<Package, PackageError> {
        let failed = |reason: String| failed(&self.name, reason);
        let address = entry.address(&self.name, release);
        // The index was looked at when it was read.
        let expected: Digest =
            release.sha256.parse().map_err(|()| failed(format!("{address} has no digest")))?;
        let cache = self.network.cache().map_err(failed)?;
        let place = match cache.file(&expected) {
            Some(place) => place,
            None => {
                let base = self.url.rfind('/').map_or("", |end| &self.url[..=end]);
                let url = format!("{base}{}", release.archive);
                let wanted = self.wanted(&url, &address, MOST_ARCHIVE);
                let place = match fetch(&self.network, &wanted) {
                    Ok(Answer::Fetched(place, _)) => place,
                    Ok(Answer::Same) => return Err(failed(format!("{url}: the server sent nothing"))),
                    Err(error) => return Err(failed(format!("{address}: {error} ({url})"))),
                };
                let found = digest_of_file(&place).map_err(|error| failed(error.to_string()))?;
                if found != expected {
                    let _ = fs::remove_file(&place);
                    return Err(PackageError::NotAsListed {
                        address,
                        reason: format!("its archive has the sha256 {found}, and the index says {expected}"),
                    });
                }
                cache.keep(&place, &expected).map_err(|error| failed(error.to_string()))?
            }
        };
        let package = open_archive(&place).map_err(|error| error.at(&address))?;
        super::address::as_listed(&package, entry, release, &address)?;
        Ok(package.from(Origin::Shelf(address)))
    }

    fn age(&self) -> Option<Duration> {
        self.listings().kept().map(|kept| kept.age())
    }
}
