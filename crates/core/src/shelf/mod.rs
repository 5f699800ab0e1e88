//! Where molds come from.
//!
//! A mold reaches the rest of the program as a [`Package`]: its files, wherever they lie. What they mean is the business of
//! [`crate::mold`].

mod built_in;
mod folder;
mod package;

pub use built_in::{built_in, built_in_names};
pub use folder::open_folder;
pub use package::{Content, File, Origin, Package, PackageError};
