//! All shelves, and how a mold is found by its address.

use crate::address::{Address, VersionRequest};
use crate::by_url::{fetch_archive, fetch_repository};
use crate::catalogue::{Catalogue, Entry, Release};
use crate::error::{ShelfError, SourceError};
use crate::folder_shelf::is_archive;
use crate::network::Network;
use crate::shelf::{BUILT_IN, BuiltInShelf, Shelf};
use crate::skipped::Skipped;
use std::sync::Arc;
use std::time::Duration;
use tinmold_mold::package::{open_archive, open_folder};
use tinmold_mold::{Package, built_in};
use tinmold_notation::nearest;

/// A listing younger than this was fetched by this run.
const JUST_FETCHED: Duration = Duration::from_secs(1);
/// The most names or versions in an error.
const MOST_NAMED: usize = 12;

/// All shelves that are known.
pub struct Shelves {
    all: Vec<Box<dyn Shelf>>,
    network: Arc<Network>,
}

impl Shelves {
    /// Makes the shelf in the program and `more`; URLs without a shelf are fetched by `network`.
    #[must_use]
    pub fn with(more: Vec<Box<dyn Shelf>>, network: Arc<Network>) -> Self {
        let mut all: Vec<Box<dyn Shelf>> = vec![Box::new(BuiltInShelf)];
        all.extend(more);
        Self { all, network }
    }

    /// Returns their names.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.all.iter().map(|shelf| shelf.name())
    }

    /// Returns all of them.
    pub fn iter(&self) -> impl Iterator<Item = &dyn Shelf> {
        self.all.iter().map(AsRef::as_ref)
    }

    /// Lists everything on all shelves, or on the one called `only`, and what cannot be read.
    #[must_use]
    pub fn list(&self, only: Option<&str>) -> (Vec<Catalogue>, Vec<Skipped>) {
        let (mut all, mut skipped) = (Vec::new(), Vec::new());
        for shelf in self.all.iter().filter(|shelf| only.is_none_or(|only| shelf.name() == only)) {
            match shelf.list() {
                Ok(listing) => {
                    all.push(listing.catalogue);
                    let named = |note: Skipped| Skipped::new(format!("shelf {}", shelf.name()), note);
                    skipped.extend(listing.skipped.into_iter().map(named));
                }
                Err(ShelfError::Source { shelf, reason }) => {
                    skipped.push(Skipped::new(format!("shelf {shelf}"), reason));
                }
                Err(error) => skipped.push(Skipped::new(format!("shelf {}", shelf.name()), error)),
            }
        }
        (all, skipped)
    }

    /// Returns the entry of a mold; `None` for a path or URL, and if no shelf or more than one has
    /// it.
    #[must_use]
    pub fn entry(&self, address: &Address) -> Option<Entry> {
        let Address::Named { shelf, name, .. } = address else { return None };
        let (catalogues, _) = self.list(shelf.as_deref());
        let mut rows = catalogues.iter().filter_map(|catalogue| Some((catalogue, catalogue.row_of(name)?)));
        let (catalogue, row) = rows.next()?;
        if rows.next().is_some() { None } else { catalogue.entry(row).ok() }
    }

    /// Fetches the mold at an address.
    ///
    /// # Errors
    /// There is none, more than one shelf has it, or its files cannot be fetched.
    pub fn fetch(&self, address: &Address) -> Result<Package, ShelfError> {
        let (shelf, name, version) = match address {
            Address::Path(path) if is_archive(path) => return Ok(open_archive(path)?),
            Address::Path(path) => return Ok(open_folder(path)?),
            Address::Archive { url, pinned } => return fetch_archive(&self.network, url, *pinned),
            Address::Repository { url, name, version } => {
                return fetch_repository(&self.network, url, name.as_deref(), version);
            }
            Address::Named { shelf, name, version } => (shelf.as_deref(), name, version),
        };
        // The shelf in the program needs no listing, and most casts are from it.
        let built_in_only = shelf == Some(BUILT_IN) || (shelf.is_none() && self.all.len() == 1);
        if built_in_only && *version == VersionRequest::Newest {
            return Ok(built_in(name)?);
        }
        if let Some(name) = shelf {
            self.named(name)?;
        }
        match self.pick(shelf, name, version) {
            Ok((on, entry, release)) => on.fetch(&entry, &release),
            // The listing may be older than what is asked for.
            Err(missing) if missing.is_missing() && !self.network.settings.offline => {
                let mut refreshed = false;
                for on in self.all.iter().filter(|on| shelf.is_none_or(|shelf| on.name() == shelf)) {
                    if on.age().is_some_and(|age| age > JUST_FETCHED) {
                        refreshed |= on.refresh().is_ok();
                    }
                }
                if !refreshed {
                    return Err(missing);
                }
                let (on, entry, release) = self.pick(shelf, name, version)?;
                on.fetch(&entry, &release)
            }
            Err(error) => Err(error),
        }
    }

    /// Returns the shelf of this name.
    ///
    /// # Errors
    /// There is none.
    pub fn named(&self, name: &str) -> Result<&dyn Shelf, ShelfError> {
        self.iter().find(|shelf| shelf.name() == name).ok_or_else(|| ShelfError::UnknownShelf {
            name: name.to_owned(),
            known: self.names().map(str::to_owned).collect(),
        })
    }

    /// Picks the one mold that an address means.
    fn pick(
        &self,
        shelf: Option<&str>,
        name: &str,
        version: &VersionRequest,
    ) -> Result<(&dyn Shelf, Entry, Release), ShelfError> {
        let mut best: Vec<(&dyn Shelf, Entry, Release)> = Vec::new();
        let mut versions: Vec<String> = Vec::new();
        let (mut catalogues, mut broken) = (Vec::new(), Vec::new());
        for on in self.iter().filter(|on| shelf.is_none_or(|shelf| on.name() == shelf)) {
            match on.list() {
                Ok(listing) => {
                    if let Some(row) = listing.catalogue.row_of(name) {
                        let entry = listing
                            .catalogue
                            .entry(row)
                            .map_err(|error| ShelfError::source(on.name(), SourceError::Listing(error)))?;
                        versions
                            .extend(entry.versions.iter().map(|release| entry.address(on.name(), release)));
                        let newest =
                            entry.versions.iter().find(|release| version.takes(&release.version)).cloned();
                        best.extend(newest.map(|newest| (on, entry, newest)));
                    }
                    catalogues.push(listing.catalogue);
                }
                Err(error) => broken.push(error),
            }
        }
        match best.len() {
            1 => Ok(best.remove(0)),
            // The mold may be on the shelf that cannot be read.
            0 if !broken.is_empty() => Err(broken.remove(0)),
            0 if !versions.is_empty() => {
                versions.truncate(MOST_NAMED);
                Err(ShelfError::UnknownVersion { name: name.to_owned(), versions })
            }
            0 => Err(unknown(name, &catalogues)),
            _ => {
                let addresses =
                    best.iter().map(|(on, entry, release)| entry.address(on.name(), release)).collect();
                Err(ShelfError::Ambiguous { name: name.to_owned(), addresses })
            }
        }
    }
}

fn unknown(name: &str, catalogues: &[Catalogue]) -> ShelfError {
    let names = || catalogues.iter().flat_map(Catalogue::names);
    let mut known: Vec<String> = names().take(MOST_NAMED + 1).map(str::to_owned).collect();
    if known.len() > MOST_NAMED {
        known.clear();
    }
    known.sort_unstable();
    known.dedup();
    let nearest = nearest(name, names()).map(str::to_owned);
    ShelfError::UnknownMold { name: name.to_owned(), nearest, known }
}
