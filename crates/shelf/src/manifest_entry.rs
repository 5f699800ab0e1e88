//! The entry of a mold in a listing, from its `mold.toml`.

use crate::catalogue::{Entry, Release, is_name};
use serde::Deserialize;
use tinmold_mold::{File, Package, PackageError};

/// Why a mold cannot be listed.
#[derive(Debug, thiserror::Error)]
pub(crate) enum EntryError {
    #[error("there is no mold.toml")]
    NoManifest,
    #[error("mold.toml is not UTF-8")]
    NotUtf8,
    #[error("mold.toml: {0}")]
    Manifest(String),
    #[error("{0:?} cannot be a mold's name")]
    BadName(String),
    #[error(transparent)]
    Package(#[from] PackageError),
}

/// The part of a `mold.toml` that a listing shows. A newer mold may have more keys.
#[derive(Deserialize)]
struct Head {
    mold: HeadMold,
    #[serde(default)]
    question: Vec<HeadQuestion>,
}

#[derive(Deserialize)]
struct HeadMold {
    name: String,
    version: semver::Version,
    #[serde(default)]
    summary: String,
    #[serde(default)]
    owner: String,
    #[serde(default)]
    language: Vec<String>,
    #[serde(default)]
    kind: Vec<String>,
    #[serde(default)]
    tags: Vec<String>,
    released: Option<toml::value::Datetime>,
}

#[derive(Deserialize)]
struct HeadQuestion {
    #[serde(default)]
    ask: String,
    #[serde(default)]
    detail: bool,
    #[serde(default)]
    option: Vec<HeadOption>,
}

#[derive(Deserialize)]
struct HeadOption {
    value: String,
    label: Option<String>,
}

/// Reads the entry of a mold from the text of its `mold.toml`. Size and digest are not known yet.
pub(crate) fn entry_of_manifest(manifest: &str, archive: impl Into<String>) -> Result<Entry, EntryError> {
    let Head { mold, question } = toml::from_str(manifest).map_err(|error| {
        EntryError::Manifest(error.message().lines().next().unwrap_or_default().to_owned())
    })?;
    if !is_name(&mold.name) {
        return Err(EntryError::BadName(mold.name));
    }
    let release = Release {
        version: mold.version,
        released: mold.released.map(|day| day.to_string()).unwrap_or_default(),
        size: 0,
        sha256: String::new(),
        archive: archive.into(),
    };
    let asks = question.into_iter().filter(|question| !question.ask.is_empty() && !question.detail);
    Ok(Entry {
        name: mold.name,
        summary: mold.summary,
        owner: mold.owner,
        language: mold.language,
        kind: mold.kind,
        tags: mold.tags,
        asks: asks.map(HeadQuestion::line).collect(),
        versions: vec![release],
    })
}

/// Reads the entry of a package.
pub(crate) fn entry_of(package: &Package, archive: &str) -> Result<Entry, EntryError> {
    let file = package.file("mold.toml").ok_or(EntryError::NoManifest)?;
    let bytes = file.read()?;
    let text = std::str::from_utf8(&bytes).map_err(|_| EntryError::NotUtf8)?;
    let mut entry = entry_of_manifest(text, archive)?;
    entry.versions[0].size = package.files.iter().map(File::len).sum();
    Ok(entry)
}

impl HeadQuestion {
    /// Writes the question with its options in a line.
    fn line(self) -> String {
        let options: Vec<String> =
            self.option.into_iter().map(|option| option.label.unwrap_or(option.value)).collect();
        if options.is_empty() { self.ask } else { format!("{}: {}", self.ask, options.join(", ")) }
    }
}
