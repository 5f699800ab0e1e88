//! Fetching a mold by its address.

use crate::exit::Exit;
use crate::failure::Failure;
use crate::global::GlobalOptions;
use crate::settings::Settings;
use crate::state;
use crate::text::style::{FAINT, safe};
use std::path::Path;
use tinmold_mold::package::{open_archive, open_folder};
use tinmold_mold::{Mold, MoldDigest, Package, built_in};
use tinmold_project::record::{CastingMold, Recorded, mold_in_repository};
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

/// Fetches the mold that a project was cast from, and reports whether it changed since. If it cannot be
/// had any more, the one that was kept at the cast is used.
pub fn fetch_recorded(recorded: &Recorded, global: GlobalOptions) -> Result<Package, Failure> {
    let mold = &recorded.casting.mold;
    // A digest that an earlier program computed in another way says nothing.
    let digest = mold.digest.parse::<MoldDigest>().ok();
    let root = safe(&recorded.root.display().to_string());
    let package = match at_recorded_address(recorded, global) {
        Ok(package) => package,
        Err(failure) => {
            let kept = || state::kept_molds()?.open(digest.as_ref()?);
            let Some(package) = kept() else { return Err(failure) };
            say!("{FAINT}The mold of {root} cannot be had any more; the one that was kept is used.{FAINT:#}");
            return Ok(package);
        }
    };
    if digest.is_some_and(|digest| package.digest().is_ok_and(|found| found != digest)) {
        say!("{FAINT}The mold {} changed since {root} was cast from it.{FAINT:#}", safe(&mold.name));
    }
    Ok(package)
}

fn at_recorded_address(recorded: &Recorded, global: GlobalOptions) -> Result<Package, Failure> {
    at_recorded(&recorded.casting.mold, recorded, global)
}

/// Fetches a mold at an address of a record.
fn at_recorded(mold: &CastingMold, recorded: &Recorded, global: GlobalOptions) -> Result<Package, Failure> {
    let failed = |reason: String| {
        Failure::new(Exit::Failed, format!("cannot load the mold this project was cast from: {reason}"))
    };
    let fetched = match mold.address.as_str() {
        // Only of the project's own mold it is known where it is on this machine.
        "" => match state::mold_of(&recorded.root).filter(|_| mold.name == recorded.casting.mold.name) {
            Some(path) => open(Path::new(&path)),
            None => {
                let name = format!("{} {}", mold.name, mold.version);
                return Err(failed(format!("{name} was a folder of the machine that cast it")));
            }
        },
        // The program has one version of each.
        address if address.starts_with("built-in/") => {
            let name = address.trim_start_matches("built-in/");
            built_in(name.split('@').next().unwrap_or(name)).map_err(ShelfError::from)
        }
        address if address.starts_with("./") || address.starts_with("../") => {
            let inside = mold_in_repository(&recorded.root, address);
            open(&inside.ok_or_else(|| failed(format!("{address:?} is not in the project's repository")))?)
        }
        address => match Address::parse(address) {
            Ok(address) => Settings::read()?.shelves(global).fetch(&address),
            Err(error) => Err(error.into()),
        },
    };
    fetched.map_err(|error| failed(error.to_string()))
}

/// Fetches what a project was cast from, as far as it can be had: the mold that was kept, or what is at its address
/// now. What is rendered of it is compared with the record.
pub fn fetch_old(mold: &CastingMold, recorded: &Recorded, global: GlobalOptions) -> Option<Package> {
    let digest = mold.digest.parse::<MoldDigest>().ok();
    let kept = digest.and_then(|digest| state::kept_molds()?.open(&digest));
    let fetched = || at_recorded(mold, recorded, global);
    kept.or_else(|| fetched().inspect_err(|error| tracing::debug!(?error, "the old version is gone")).ok())
}

/// Fetches the version of a project's mold that `to` names: a version, or an address; else the newest.
pub fn fetch_new(recorded: &Recorded, to: Option<&str>, global: GlobalOptions) -> Result<Package, Failure> {
    let mold = &recorded.casting.mold;
    let wanted = to.filter(|to| is_version(to));
    if let (Some(to), None) = (to, wanted) {
        return fetch(to, global);
    }
    let address = mold.address.as_str();
    let is_on_shelf =
        !(address.is_empty() || address.starts_with(['.', '/']) || address.ends_with(".tar.gz"));
    if !is_on_shelf || address.starts_with("built-in/") {
        let package = at_recorded(mold, recorded, global)
            .map_err(|failure| failure.help("name where it is now: --to ADDRESS"))?;
        return match wanted {
            Some(version) => of_version(package, version, recorded, global),
            None => Ok(package),
        };
    }
    let base = address.split('#').next().unwrap_or(address);
    let name = match base.rsplit_once('@') {
        Some((name, version)) if !version.contains(['/', ':']) => name,
        _ => base,
    };
    match wanted {
        Some(version) => fetch(&format!("{name}@{version}"), global),
        None => fetch(name, global),
    }
}

/// Returns true for a version, as opposed to an address.
pub fn is_version(text: &str) -> bool {
    text.starts_with(|c: char| c.is_ascii_digit()) && !text.contains(['/', '\\', ':'])
}

/// Returns the package if it is of this version, else the one that the project was cast from if that is.
fn of_version(
    package: Package,
    version: &str,
    recorded: &Recorded,
    global: GlobalOptions,
) -> Result<Package, Failure> {
    let mold = &recorded.casting.mold;
    let found = Mold::load(package)?;
    if found.version() == version {
        return Ok(found.package);
    }
    let old = (mold.version == version).then(|| fetch_old(mold, recorded, global)).flatten();
    old.ok_or_else(|| {
        let message =
            format!("{} is there in version {}, not {version}", safe(&mold.name), safe(found.version()));
        Failure::new(Exit::Usage, message).help("name the address of the mold: tinmold recast --to ADDRESS")
    })
}

/// Opens a folder or an archive.
fn open(path: &Path) -> Result<Package, ShelfError> {
    let opened = if path.is_dir() { open_folder(path) } else { open_archive(path) };
    opened.map_err(ShelfError::from)
}
