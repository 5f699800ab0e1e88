//! The trait of shelves, and the built-in shelf.

use crate::catalogue::{Catalogue, Entry, Release};
use crate::error::ShelfError;
use crate::manifest_entry::entry_of;
use crate::skipped::Skipped;
use std::time::Duration;
use tinmold_mold::{Package, built_in, built_in_names};

/// The name of the shelf in the program.
pub const BUILT_IN: &str = "built-in";

/// The molds of a shelf.
#[derive(Debug)]
pub struct Listing {
    /// The molds in all versions.
    pub catalogue: Catalogue,
    /// What is left out, and why.
    pub skipped: Vec<Skipped>,
}

impl From<Catalogue> for Listing {
    fn from(catalogue: Catalogue) -> Self {
        Self { catalogue, skipped: Vec::new() }
    }
}

/// A source of molds.
pub trait Shelf: Send + Sync {
    /// Returns the name, which comes before the slash of an address.
    fn name(&self) -> &str;
    /// Returns its location, for the user.
    fn place(&self) -> String;
    /// Lists everything on the shelf.
    ///
    /// # Errors
    /// The shelf as a whole cannot be read.
    fn list(&self) -> Result<Listing, ShelfError>;
    /// Fetches the files of a mold that is listed.
    ///
    /// # Errors
    /// They cannot be fetched or read.
    fn fetch(&self, entry: &Entry, release: &Release) -> Result<Package, ShelfError>;
    /// Refreshes the listing that is kept, if one is.
    ///
    /// # Errors
    /// The shelf cannot be asked; the listing that is kept stays.
    fn refresh(&self) -> Result<(), ShelfError> {
        Ok(())
    }
    /// Returns the age of the listing that is kept; `None` if none is.
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

    fn list(&self) -> Result<Listing, ShelfError> {
        let (mut entries, mut skipped) = (Vec::new(), Vec::new());
        for name in built_in_names() {
            match entry_of(&built_in(name)?, name) {
                Ok(entry) => entries.push(Entry { owner: BUILT_IN.to_owned(), ..entry }),
                Err(error) => skipped.push(Skipped::new(name, error)),
            }
        }
        Ok(Listing { catalogue: Catalogue::of(BUILT_IN, entries), skipped })
    }

    fn fetch(&self, entry: &Entry, _: &Release) -> Result<Package, ShelfError> {
        Ok(built_in(&entry.name)?)
    }
}
