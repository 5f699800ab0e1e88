//! The molds of a shelf, and searching them.

mod entry;
mod index;
mod picker;
mod search;
mod searchable;
mod synonyms;

pub(crate) use entry::is_name;
pub use entry::{Entry, Release};
pub use index::{INDEX_FILE, INDEX_FORMAT, IndexError, MOST_BYTES, read_index, write_index};
pub use picker::{Picker, rows_of};
pub use search::{Facet, Hit, Search, search, tally};
pub use searchable::{Catalogue, Field};
