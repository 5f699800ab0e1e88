//! One file a command.

pub mod assay;
pub mod cast;
pub mod check;
pub mod demo;
mod dry_run;
mod ending;
mod farewell;
pub mod find;
pub mod finish;
pub mod fit;
mod fitted;
pub mod pack;
pub mod preflight;
pub mod shelves;
pub mod show;
pub mod status;
mod unfit;

use crate::config::Config;
use crate::exit::Exit;
use crate::failure::Failure;
use crate::show::{FAINT, safe};
use std::path::Path;
use tinmold_core::record::Recorded;
use tinmold_core::shelf::{self, Address, Package, PackageError, Shelves};

/// The mold that a casting came from, at the address that its record names.
fn find_recorded(recorded: &Recorded) -> Result<Package, Failure> {
    let mold = &recorded.casting.mold;
    let found = match mold.address.strip_prefix("built-in/") {
        // The program has one version of each.
        Some(rest) => shelf::built_in(rest.split('@').next().unwrap_or(rest)),
        None => match Address::parse(&mold.address) {
            Ok(address) => Config::read()?.shelves().fetch(&address),
            Err(reason) => Err(PackageError::Address(reason)),
        },
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

/// The mold at an address.
fn find(address: &str) -> Result<Package, Failure> {
    find_on(&Config::read()?.shelves(), address)
}

/// The mold at an address, which may be on one of these shelves.
fn find_on(shelves: &Shelves, address: &str) -> Result<Package, Failure> {
    let parsed = Address::parse(address)
        .map_err(|reason| Failure::new(Exit::Usage, format!("{address:?}: {reason}")))?;
    // A path with one slash looks like a name on a shelf.
    if let Address::Named { shelf: Some(shelf), .. } = &parsed
        && !shelves.names().any(|name| name == shelf)
        && Path::new(address).join("mold.toml").is_file()
    {
        return Ok(shelf::open_folder(Path::new(address))?);
    }
    Ok(shelves.fetch(&parsed)?)
}
