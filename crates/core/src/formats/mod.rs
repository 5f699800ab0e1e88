//! Formats of files that have a parser: which one a file is of, and whether it is.

mod well_formed;

pub use well_formed::Holds;
pub(crate) use well_formed::{LARGEST_PARSED, check};
