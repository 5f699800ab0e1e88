//! Where molds come from.
//!
//! A mold reaches the rest of the program as a [`Package`]: its files, wherever they lie. What they mean is the business of
//! [`crate::mold`].

mod address;
mod archive;
mod built_in;
mod folder;
mod listing;
mod package;
mod search;
mod shelves;

pub use address::{Address, Wanted};
pub use archive::{open_archive, pack};
pub use built_in::{built_in, built_in_names};
pub use folder::open_folder;
pub use listing::Listed;
pub use package::{Content, File, Origin, Package, PackageError};
pub use search::{Search, search};
pub use shelves::{BUILT_IN, BuiltInShelf, FolderShelf, Shelf, Shelves};
