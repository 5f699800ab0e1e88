//! Shelves for the tests, and the network that they are fetched by.
#![allow(dead_code, clippy::unwrap_used)]

use std::fs;
use std::path::Path;
use std::sync::Arc;
use std::time::Duration;
use tempfile::TempDir;
use tinmold_mold::package::{open_folder, pack};
use tinmold_shelf::{Address, Cache, Network, NetworkSettings, Shelves, index_folder};

/// A network for the test: what is fetched lies in the folder.
pub fn network(place: &Path, settings: NetworkSettings) -> Arc<Network> {
    Arc::new(Network::new(settings, Some(Cache::new(place.join("cache"))), Box::new(())))
}

pub fn hasty() -> NetworkSettings {
    NetworkSettings {
        fresh: Duration::ZERO,
        timeout: Duration::from_millis(400),
        ..NetworkSettings::default()
    }
}

pub fn offline() -> NetworkSettings {
    NetworkSettings { offline: true, ..hasty() }
}

pub fn mold(folder: &Path, name: &str, version: &str, more: &str) {
    fs::create_dir_all(folder.join("body")).unwrap();
    fs::write(folder.join("body/file"), format!("{name} {version}")).unwrap();
    let head = format!(
        "[mold]\nname = \"{name}\"\nversion = \"{version}\"\n{more}\n[newer]\nthan = \"this program\"\n[[question]]\nkey = \"pier\"\nask = \"Which pier?\"\n[[question.option]]\nvalue = \"gull\"\nlabel = \"Gull Point\"\n"
    );
    fs::write(folder.join("mold.toml"), head).unwrap();
}

/// A folder of archives of molds with these versions, and their index.
pub fn archives(folder: &Path, molds: &[(&str, &str)]) -> String {
    fs::create_dir_all(folder).unwrap();
    for (name, version) in molds {
        let inside = TempDir::new().unwrap();
        mold(inside.path(), name, version, "summary = \"Of the tests\"\nreleased = 2026-01-02");
        let top = format!("{name}-{version}");
        let mut bytes = Vec::new();
        pack(&open_folder(inside.path()).unwrap(), &top, &mut bytes).unwrap();
        fs::write(folder.join(format!("{top}.tar.gz")), bytes).unwrap();
    }
    let index = index_folder(folder).unwrap();
    assert!(index.skipped.is_empty(), "{:?}", index.skipped);
    index.text
}

/// The origin of what an address names, or the error with its fields as `Debug` shows them.
pub fn fetched(shelves: &Shelves, text: &str) -> Result<String, String> {
    let package = shelves.fetch(&Address::parse(text).unwrap());
    package.map(|package| package.origin.to_string()).map_err(|error| format!("{error:?}"))
}
