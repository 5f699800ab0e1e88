//! Sources of molds: the program, directories, git repositories and indexes over HTTP.
//!
//! `address` names a mold, `shelf` is what every shelf can do, `shelves` finds the mold of an address.
//! `folder_shelf`, `index_shelf` and `git` are the kinds of shelf, `by_url` fetches without one.
//! `catalogue` holds what is on a shelf and searches it, `listing` keeps it between runs, `cache` the
//! files, `network` is the HTTP client, `server` serves a folder as a shelf.

mod address;
mod age;
mod archive_check;
mod by_url;
mod cache;
mod catalogue;
mod clean;
mod error;
mod folder_shelf;
mod git_shelf;
mod index_shelf;
mod kept_molds;
mod listing;
mod manifest_entry;
mod network;
mod repository;
mod server;
mod shelf;
mod shelves;
mod skipped;

pub use address::{Address, AddressError, VersionRequest, refuse_secret};
pub use age::{age_of_day, duration_in_words};
pub use cache::Cache;
pub use catalogue::{
    Catalogue, Entry, Facet, Field, Hit, INDEX_FILE, INDEX_FORMAT, IndexError, Picker, Release, Search,
    read_index, rows_of, search, tally, write_index,
};
pub use clean::{Cleaned, Extent, clean};
pub use error::{Mismatch, ShelfError, SourceError};
pub use folder_shelf::{FolderIndex, FolderShelf, index_folder};
pub use git_shelf::GitShelf;
pub use index_shelf::IndexShelf;
pub use kept_molds::{KeepError, KeptMolds, MOST_KEPT};
pub use network::{DownloadObserver, Network, NetworkError, NetworkSettings};
pub use repository::GitError;
pub use server::{ServeError, Server};
pub use shelf::{BUILT_IN, BuiltInShelf, Listing, Shelf};
pub use shelves::Shelves;
pub use skipped::Skipped;
