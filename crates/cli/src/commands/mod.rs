//! One file a command.

pub mod assay;
pub mod cast;
pub mod check;
pub mod demo;
mod dry_run;
mod farewell;
pub mod finish;
pub mod preflight;
pub mod show;
pub mod status;

use crate::exit::Exit;
use crate::failure::Failure;
use crate::show::{FAINT, safe};
use std::path::Path;
use tinmold_core::record::Recorded;
use tinmold_core::shelf::{self, Package, PackageError};

/// The mold that a casting came from, at the address that its record names.
fn find_recorded(recorded: &Recorded) -> Result<Package, Failure> {
    let mold = &recorded.casting.mold;
    let found = match mold.address.strip_prefix("built-in/") {
        Some(rest) => shelf::built_in(rest.split('@').next().unwrap_or(rest)),
        None => shelf::open_folder(Path::new(&mold.address)),
    };
    let package = found.map_err(|error| {
        Failure::new(Exit::Failed, format!("the mold of this casting cannot be had: {error}"))
    })?;
    if package.digest().is_ok_and(|digest| digest.to_string() != mold.digest) {
        anstream::eprintln!(
            "{FAINT}The mold {} is not as it was when {} was cast.{FAINT:#}",
            safe(&mold.address),
            safe(&recorded.root.display().to_string())
        );
    }
    Ok(package)
}

/// The mold at a path if the address looks like one, else the built-in one.
fn find(address: &str) -> Result<Package, PackageError> {
    if address.contains(['/', '\\']) || address == "." || address == ".." {
        return shelf::open_folder(Path::new(address));
    }
    shelf::built_in(address)
}
