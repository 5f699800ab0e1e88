//! Fetching a mold by its address.

use crate::exit::Exit;
use crate::failure::Failure;
use crate::global::GlobalOptions;
use crate::settings::Settings;
use crate::text::style::{FAINT, safe};
use std::path::Path;
use tinmold_mold::package::open_folder;
use tinmold_mold::{MoldDigest, Package, built_in};
use tinmold_project::record::Recorded;
use tinmold_shelf::{Address, ShelfError, Shelves};

/// Fetches the mold at an address, with the shelves of the settings.
pub fn fetch(address: &str, global: GlobalOptions) -> Result<Package, Failure> {
    fetch_from(&Settings::read()?.shelves(global), address)
}

/// Fetches the mold at an address from these shelves.
pub fn fetch_from(shelves: &Shelves, address: &str) -> Result<Package, Failure> {
    let parsed = Address::parse(address).map_err(ShelfError::from)?;
    // An address that was parsed holds no secret.
    let _span = tracing::debug_span!("resolve", address).entered();
    // A path with one slash looks like a name on a shelf.
    if let Address::Named { shelf: Some(shelf), .. } = &parsed
        && !shelves.names().any(|name| name == shelf)
        && Path::new(address).join("mold.toml").is_file()
    {
        return Ok(open_folder(Path::new(address))?);
    }
    Ok(shelves.fetch(&parsed)?)
}

/// Fetches the mold that a project was cast from, and reports whether it changed since.
pub fn fetch_recorded(recorded: &Recorded, global: GlobalOptions) -> Result<Package, Failure> {
    let mold = &recorded.casting.mold;
    let fetched = match mold.address.strip_prefix("built-in/") {
        // The program has one version of each.
        Some(rest) => built_in(rest.split('@').next().unwrap_or(rest)).map_err(ShelfError::from),
        None => match Address::parse(&mold.address) {
            Ok(address) => Settings::read()?.shelves(global).fetch(&address),
            Err(error) => Err(error.into()),
        },
    };
    let package = fetched.map_err(|error| {
        Failure::new(Exit::Failed, format!("cannot load the mold this project was cast from: {error}"))
    })?;
    // A digest that an earlier program computed in another way says nothing.
    let vouched = mold.digest.parse::<MoldDigest>();
    if vouched.is_ok_and(|vouched| package.digest().is_ok_and(|digest| digest != vouched)) {
        say!(
            "{FAINT}The mold {} changed since {} was cast from it.{FAINT:#}",
            safe(&mold.address),
            safe(&recorded.root.display().to_string())
        );
    }
    Ok(package)
}
