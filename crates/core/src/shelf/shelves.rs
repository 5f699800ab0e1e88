//! Shelves: places with molds, and how one of them is found by its address.

use super::address::{Address, Wanted};
use super::archive::open_archive;
use super::built_in::{built_in, built_in_names};
use super::folder::open_folder;
use super::listing::Listed;
use super::package::{Origin, Package, PackageError};
use crate::parallel;
use std::fs;
use std::path::{Path, PathBuf};
use tinmold_notation::did_you_mean;

/// The name of the shelf in the program.
pub const BUILT_IN: &str = "built-in";

/// A place with molds.
pub trait Shelf: Sync {
    /// Its name, which stands before the slash of an address.
    fn name(&self) -> &str;
    /// Everything on it, in all versions; and what on it cannot be read, each with the reason.
    ///
    /// # Errors
    /// The shelf as a whole cannot be read.
    fn list(&self) -> Result<(Vec<Listed>, Vec<String>), PackageError>;
    /// The files of a mold that it listed.
    ///
    /// # Errors
    /// They cannot be had.
    fn fetch(&self, listed: &Listed) -> Result<Package, PackageError>;
}

/// The shelf in the program.
pub struct BuiltInShelf;

impl Shelf for BuiltInShelf {
    fn name(&self) -> &str {
        BUILT_IN
    }

    fn list(&self) -> Result<(Vec<Listed>, Vec<String>), PackageError> {
        let (mut listed, mut broken) = (Vec::new(), Vec::new());
        for name in built_in_names() {
            match listed_of(BUILT_IN, &built_in(name)?) {
                Ok(mold) => listed.push(mold),
                Err(reason) => broken.push(format!("{name}: {reason}")),
            }
        }
        Ok((listed, broken))
    }

    fn fetch(&self, listed: &Listed) -> Result<Package, PackageError> {
        built_in(&listed.name)
    }
}

/// Molds with their places, and what cannot be read.
type Molds = (Vec<(Listed, PathBuf)>, Vec<String>);

/// A folder with molds in it: folders with a `mold.toml`, and archives.
pub struct FolderShelf {
    name: String,
    folder: PathBuf,
}

impl FolderShelf {
    /// The shelf `name` in `folder`.
    #[must_use]
    pub fn new(name: impl Into<String>, folder: impl Into<PathBuf>) -> Self {
        Self { name: name.into(), folder: folder.into() }
    }

    /// The molds in it, each with its place; and what cannot be read.
    fn molds(&self) -> Result<Molds, PackageError> {
        let io = |source| PackageError::Io { path: self.folder.clone(), source };
        let mut places: Vec<PathBuf> = Vec::new();
        for entry in fs::read_dir(&self.folder).map_err(io)? {
            let path = entry.map_err(io)?.path();
            if is_archive(&path) || path.join("mold.toml").is_file() {
                places.push(path);
            }
        }
        places.sort();
        let read = parallel::map(&places, |_, path| self.listed(path));
        let (mut molds, mut broken) = (Vec::new(), Vec::new());
        for (path, read) in places.into_iter().zip(read) {
            match read {
                Ok(listed) => molds.push((listed, path)),
                Err(reason) => broken.push(reason),
            }
        }
        Ok((molds, broken))
    }

    fn listed(&self, path: &Path) -> Result<Listed, String> {
        if is_archive(path) {
            let package = open_archive(path).map_err(|error| error.to_string())?;
            return listed_of(&self.name, &package).map_err(|reason| format!("{}: {reason}", path.display()));
        }
        let here = |reason: String| format!("{}: {reason}", path.display());
        let text = fs::read_to_string(path.join("mold.toml")).map_err(|error| here(error.to_string()))?;
        Listed::of_manifest(&self.name, &text).map_err(here)
    }
}

impl Shelf for FolderShelf {
    fn name(&self) -> &str {
        &self.name
    }

    fn list(&self) -> Result<(Vec<Listed>, Vec<String>), PackageError> {
        let (molds, broken) = self.molds()?;
        Ok((molds.into_iter().map(|(listed, _)| listed).collect(), broken))
    }

    fn fetch(&self, listed: &Listed) -> Result<Package, PackageError> {
        let (molds, _) = self.molds()?;
        let place = molds.into_iter().find(|(found, _)| found == listed).map(|(_, place)| place);
        let place = place.ok_or_else(|| PackageError::NotAMold(self.folder.clone()))?;
        let package = if is_archive(&place) { open_archive(&place)? } else { open_folder(&place)? };
        Ok(Package { origin: Origin::Shelf(listed.address()), ..package })
    }
}

fn is_archive(path: &Path) -> bool {
    let name = path.file_name().unwrap_or_default().to_string_lossy();
    name.ends_with(".tar.gz") || name.ends_with(".tgz")
}

fn listed_of(shelf: &str, package: &Package) -> Result<Listed, String> {
    let file = package.file("mold.toml").ok_or("there is no mold.toml")?;
    let bytes = file.read().map_err(|error| error.to_string())?;
    let text = std::str::from_utf8(&bytes).map_err(|_| "mold.toml is not UTF-8")?;
    Listed::of_manifest(shelf, text)
}

/// All shelves that are known.
pub struct Shelves(Vec<Box<dyn Shelf>>);

impl Shelves {
    /// The shelf in the program, and these.
    #[must_use]
    pub fn with(more: Vec<Box<dyn Shelf>>) -> Self {
        let mut all: Vec<Box<dyn Shelf>> = vec![Box::new(BuiltInShelf)];
        all.extend(more);
        Self(all)
    }

    /// Their names.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.0.iter().map(|shelf| shelf.name())
    }

    /// Everything on all of them, and what cannot be read.
    #[must_use]
    pub fn list(&self) -> (Vec<Listed>, Vec<String>) {
        let (mut all, mut broken) = (Vec::new(), Vec::new());
        for shelf in &self.0 {
            match shelf.list() {
                Ok((listed, more)) => {
                    all.extend(listed);
                    broken.extend(more.into_iter().map(|reason| format!("shelf {}: {reason}", shelf.name())));
                }
                Err(error) => broken.push(format!("shelf {}: {error}", shelf.name())),
            }
        }
        (all, broken)
    }

    /// The mold at an address.
    ///
    /// # Errors
    /// There is none, or more than one shelf has it; the files cannot be had.
    pub fn fetch(&self, address: &Address) -> Result<Package, PackageError> {
        let (shelf, name, version) = match address {
            Address::Path(path) if is_archive(path) => return open_archive(path),
            Address::Path(path) => return open_folder(path),
            Address::Named { shelf, name, version } => (shelf.as_deref(), name, version),
        };
        // The shelf in the program needs no listing: most casts are from it.
        let built_in_only = shelf == Some(BUILT_IN) || (shelf.is_none() && self.0.len() == 1);
        if built_in_only && *version == Wanted::Newest {
            return built_in(name);
        }
        if let Some(wanted) = shelf
            && !self.names().any(|known| known == wanted)
        {
            let advice = did_you_mean(
                wanted,
                self.names(),
                format!("there are {}", self.names().collect::<Vec<_>>().join(", ")),
            );
            return Err(PackageError::Address(format!("no shelf is called {wanted:?}; {advice}")));
        }
        let mut best: Vec<(&dyn Shelf, Listed)> = Vec::new();
        let mut known: Vec<Listed> = Vec::new();
        for on in self.0.iter().filter(|on| shelf.is_none_or(|shelf| on.name() == shelf)) {
            let (listed, _) = on.list()?;
            let newest = listed
                .iter()
                .filter(|mold| mold.name == *name && version.takes(&mold.version))
                .max_by(|a, b| a.version.cmp(&b.version));
            best.extend(newest.map(|newest| (on.as_ref(), newest.clone())));
            known.extend(listed);
        }
        match best.as_slice() {
            [(on, listed)] => on.fetch(listed),
            [] => Err(PackageError::Address(unknown(name, &known))),
            several => {
                let all: Vec<String> = several.iter().map(|(_, listed)| listed.address()).collect();
                Err(PackageError::Address(format!(
                    "several shelves have {name:?}; say which one: {}",
                    all.join(", ")
                )))
            }
        }
    }
}

fn unknown(name: &str, known: &[Listed]) -> String {
    let versions: Vec<String> = known.iter().filter(|mold| mold.name == name).map(Listed::address).collect();
    if !versions.is_empty() {
        return format!("no such version of {name:?} is there; there are {}", versions.join(", "));
    }
    let names = || known.iter().map(|mold| mold.name.as_str());
    let mut all: Vec<&str> = names().collect();
    all.sort_unstable();
    all.dedup();
    let shown = all.iter().take(12).copied().collect::<Vec<_>>().join(", ");
    let none = if all.is_empty() { "the shelf is empty".into() } else { format!("there are {shown}") };
    let advice = did_you_mean(name, names(), none);
    let stop = if advice.ends_with('?') { "" } else { "." };
    format!(
        "no mold is called {name:?}; {advice}{stop} A path to a mold's folder begins with a dot: ./{name}"
    )
}
