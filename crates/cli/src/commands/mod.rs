//! One file a command.

pub mod assay;
pub mod cast;
pub mod check;
pub mod demo;
mod dry_run;
mod farewell;
pub mod show;
pub mod status;

use std::path::Path;
use tinmold_core::shelf::{self, Package, PackageError};

/// The mold at a path if the address looks like one, else the built-in one.
fn find(address: &str) -> Result<Package, PackageError> {
    if address.contains(['/', '\\']) || address == "." || address == ".." {
        return shelf::open_folder(Path::new(address));
    }
    shelf::built_in(address)
}
