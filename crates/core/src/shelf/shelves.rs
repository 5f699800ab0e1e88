//! Shelves: places with molds, and how one of them is found by its address.

use super::address::{Address, Wanted};
use super::archive::open_archive;
use super::built_in::{built_in, built_in_names};
use super::catalogue::Catalogue;
use super::entry::{Entry, Release};
use super::folder::open_folder;
use super::folder_shelf::is_archive;
use super::package::{Package, PackageError};
use super::remote::{Network, fetch_archive, fetch_repository};
use std::sync::Arc;
use std::time::Duration;
use tinmold_notation::did_you_mean;

/// The name of the shelf in the program.
pub const BUILT_IN: &str = "built-in";
/// A listing that is younger than this was asked for by this very run.
const JUST_ASKED: Duration = Duration::from_secs(1);

/// A place with molds.
pub trait Shelf: Send + Sync {
    /// Its name, which stands before the slash of an address.
    fn name(&self) -> &str;
    /// Where it is, for people.
    fn place(&self) -> String;
    /// Everything on it, in all versions; and what on it cannot be read, each with the reason.
    ///
    /// # Errors
    /// The shelf as a whole cannot be read.
    fn list(&self) -> Result<(Catalogue, Vec<String>), PackageError>;
    /// The files of a mold that it listed.
    ///
    /// # Errors
    /// They cannot be had.
    fn fetch(&self, entry: &Entry, release: &Release) -> Result<Package, PackageError>;
    /// Asks anew what is on it, if that is not looked at each time anyway.
    ///
    /// # Errors
    /// It cannot be asked; what is kept of it stays.
    fn refresh(&self) -> Result<(), PackageError> {
        Ok(())
    }
    /// How old what is kept of it is; none if nothing is, or nothing needs to be.
    fn age(&self) -> Option<Duration> {
        None
    }
}

/// The shelf in the program.
pub struct BuiltInShelf;

impl Shelf for BuiltInShelf {
    fn name(&self) -> &str {
        BUILT_IN
    }

    fn place(&self) -> String {
        "in the program".into()
    }

    fn list(&self) -> Result<(Catalogue, Vec<String>), PackageError> {
        let (mut entries, mut broken) = (Vec::new(), Vec::new());
        for name in built_in_names() {
            match entry_of(&built_in(name)?, name) {
                Ok(entry) => entries.push(entry),
                Err(reason) => broken.push(format!("{name}: {reason}")),
            }
        }
        Ok((Catalogue::of(BUILT_IN, entries), broken))
    }

    fn fetch(&self, entry: &Entry, _: &Release) -> Result<Package, PackageError> {
        built_in(&entry.name)
    }
}

/// What a package tells of its mold.
pub(super) fn entry_of(package: &Package, place: &str) -> Result<Entry, String> {
    let file = package.file("mold.toml").ok_or("there is no mold.toml")?;
    let bytes = file.read().map_err(|error| error.to_string())?;
    let text = std::str::from_utf8(&bytes).map_err(|_| "mold.toml is not UTF-8")?;
    let mut entry = Entry::of_manifest(text, place)?;
    entry.versions[0].size = package.files.iter().map(super::package::File::len).sum();
    Ok(entry)
}

/// All shelves that are known.
pub struct Shelves {
    all: Vec<Box<dyn Shelf>>,
    network: Arc<Network>,
}

impl Shelves {
    /// The shelf in the program, and these; URLs without a shelf are fetched by `network`.
    #[must_use]
    pub fn with(more: Vec<Box<dyn Shelf>>, network: Arc<Network>) -> Self {
        let mut all: Vec<Box<dyn Shelf>> = vec![Box::new(BuiltInShelf)];
        all.extend(more);
        Self { all, network }
    }

    /// Their names.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.all.iter().map(|shelf| shelf.name())
    }

    /// All of them.
    pub fn iter(&self) -> impl Iterator<Item = &dyn Shelf> {
        self.all.iter().map(AsRef::as_ref)
    }

    /// Everything on all of them, or on the one of this name; and what cannot be read.
    #[must_use]
    pub fn list(&self, only: Option<&str>) -> (Vec<Catalogue>, Vec<String>) {
        let (mut all, mut broken) = (Vec::new(), Vec::new());
        for shelf in self.all.iter().filter(|shelf| only.is_none_or(|only| shelf.name() == only)) {
            match shelf.list() {
                Ok((catalogue, more)) => {
                    all.push(catalogue);
                    broken.extend(more.into_iter().map(|reason| format!("shelf {}: {reason}", shelf.name())));
                }
                Err(error @ PackageError::Shelf { .. }) => broken.push(error.to_string()),
                Err(error) => broken.push(format!("shelf {}: {error}", shelf.name())),
            }
        }
        (all, broken)
    }

    /// What the shelf that an address leads to tells of the mold; none for a path or URL, and where there is none or more than one.
    #[must_use]
    pub fn entry(&self, address: &Address) -> Option<Entry> {
        let Address::Named { shelf, name, .. } = address else { return None };
        let (catalogues, _) = self.list(shelf.as_deref());
        let mut rows = catalogues.iter().filter_map(|catalogue| Some((catalogue, catalogue.row_of(name)?)));
        let (catalogue, row) = rows.next()?;
        if rows.next().is_some() { None } else { catalogue.entry(row).ok() }
    }

    /// The mold at an address.
    ///
    /// # Errors
    /// There is none, or more than one shelf has it; the files cannot be had.
    pub fn fetch(&self, address: &Address) -> Result<Package, PackageError> {
        let (shelf, name, version) = match address {
            Address::Path(path) if is_archive(path) => return open_archive(path),
            Address::Path(path) => return open_folder(path),
            Address::Archive { url, pinned } => return fetch_archive(&self.network, url, *pinned),
            Address::Repository { url, name, version } => {
                return fetch_repository(&self.network, url, name.as_deref(), version);
            }
            Address::Named { shelf, name, version } => (shelf.as_deref(), name, version),
        };
        // The shelf in the program needs no listing: most casts are from it.
        let built_in_only = shelf == Some(BUILT_IN) || (shelf.is_none() && self.all.len() == 1);
        if built_in_only && *version == Wanted::Newest {
            return built_in(name);
        }
        if let Some(wanted) = shelf {
            self.named(wanted)?;
        }
        match self.picked(shelf, name, version) {
            Ok((on, entry, release)) => on.fetch(&entry, &release),
            // What is kept of a shelf may be older than what is asked for.
            Err(none @ PackageError::Address(_)) if !self.network.settings.offline => {
                let mut asked = false;
                for on in self.all.iter().filter(|on| shelf.is_none_or(|shelf| on.name() == shelf)) {
                    if on.age().is_some_and(|age| age > JUST_ASKED) {
                        asked |= on.refresh().is_ok();
                    }
                }
                if !asked {
                    return Err(none);
                }
                let (on, entry, release) = self.picked(shelf, name, version)?;
                on.fetch(&entry, &release)
            }
            Err(error) => Err(error),
        }
    }

    /// The shelf of this name.
    ///
    /// # Errors
    /// There is none; the message names the nearest one.
    pub fn named(&self, name: &str) -> Result<&dyn Shelf, PackageError> {
        self.iter().find(|shelf| shelf.name() == name).ok_or_else(|| {
            let there = format!("there are {}", self.names().collect::<Vec<_>>().join(", "));
            let advice = did_you_mean(name, self.names(), there);
            PackageError::Address(format!("no shelf is called {name:?}; {advice}"))
        })
    }

    /// The one mold that an address means.
    fn picked(
        &self,
        shelf: Option<&str>,
        name: &str,
        version: &Wanted,
    ) -> Result<(&dyn Shelf, Entry, Release), PackageError> {
        let mut best: Vec<(&dyn Shelf, Entry, Release)> = Vec::new();
        let mut versions: Vec<String> = Vec::new();
        let (mut catalogues, mut broken) = (Vec::new(), Vec::new());
        for on in self.iter().filter(|on| shelf.is_none_or(|shelf| on.name() == shelf)) {
            match on.list() {
                Ok((catalogue, _)) => {
                    if let Some(row) = catalogue.row_of(name) {
                        let io = |source| PackageError::Io { path: on.place().into(), source };
                        let entry = catalogue.entry(row).map_err(io)?;
                        versions
                            .extend(entry.versions.iter().map(|release| entry.address(on.name(), release)));
                        let newest =
                            entry.versions.iter().find(|release| version.takes(&release.version)).cloned();
                        best.extend(newest.map(|newest| (on, entry, newest)));
                    }
                    catalogues.push(catalogue);
                }
                Err(error) => broken.push(error),
            }
        }
        match best.len() {
            1 => Ok(best.remove(0)),
            // It may well be on the one that cannot be read.
            0 if !broken.is_empty() => Err(broken.remove(0)),
            0 if !versions.is_empty() => {
                versions.truncate(12);
                Err(PackageError::Address(format!(
                    "no such version of {name:?} is there; there are {}",
                    versions.join(", ")
                )))
            }
            0 => Err(PackageError::Address(unknown(name, &catalogues))),
            _ => {
                let all: Vec<String> =
                    best.iter().map(|(on, entry, release)| entry.address(on.name(), release)).collect();
                Err(PackageError::Address(format!(
                    "several shelves have {name:?}; say which one: {}",
                    all.join(", ")
                )))
            }
        }
    }
}

fn unknown(name: &str, catalogues: &[Catalogue]) -> String {
    let names = || catalogues.iter().flat_map(Catalogue::names);
    let mut all: Vec<&str> = names().take(12).collect();
    all.sort_unstable();
    all.dedup();
    let none = match (all.is_empty(), names().count() > 12) {
        (true, _) => "the shelf is empty".into(),
        (false, true) => "tinmold find searches for it".into(),
        (false, false) => format!("there are {}", all.join(", ")),
    };
    let advice = did_you_mean(name, names(), none);
    let stop = if advice.ends_with('?') { "" } else { "." };
    format!(
        "no mold is called {name:?}; {advice}{stop} A path to a mold's folder begins with a dot: ./{name}"
    )
}
