//! Where molds come from.
//!
//! A mold reaches the rest of the program as a [`Package`]: its files, wherever they lie. What they mean is the business of
//! [`crate::mold`]. What is on a shelf is told by its [`Catalogue`], which is searched before anything is fetched.

mod address;
mod archive;
mod built_in;
mod catalogue;
mod choosing;
mod document;
mod entry;
mod folder;
mod folder_shelf;
mod index;
mod on_disk;
mod package;
mod remote;
mod search;
mod serve;
mod shelves;

pub use address::{Address, Wanted, without_secret};
pub use archive::{open_archive, pack};
pub use built_in::{built_in, built_in_names};
pub use catalogue::{Catalogue, Field};
pub use choosing::{Choosing, Narrowing};
pub use entry::{Entry, Release};
pub use folder::open_folder;
pub use folder_shelf::{FolderShelf, index_folder};
pub use index::{INDEX_FILE, INDEX_FORMAT, IndexError, read_index, written_index};
pub use on_disk::OnDisk;
pub(crate) use package::PackageDigest;
pub use package::{Content, File, Origin, Package, PackageError};
pub use remote::{
    Cache, GitShelf, IndexShelf, Network, NetworkError, NetworkSettings, Receiving, age_of_day, how_long,
};
pub use search::{Hit, Search, search, tally};
pub use serve::{ServeError, Server};
pub use shelves::{BUILT_IN, BuiltInShelf, Shelf, Shelves};
