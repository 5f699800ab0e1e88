//! The entry of a mold in a listing.

use crate::skipped::Skipped;
use serde::{Deserialize, Serialize};
use std::cmp::Reverse;
use std::collections::BTreeMap;

/// A mold on a shelf, in all its versions. Its texts are those of the newest release.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Entry {
    /// Its name.
    pub name: String,
    /// Its summary, in a line.
    #[serde(default)]
    pub summary: String,
    /// Its owner, a reversed domain; may be empty.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub owner: String,
    /// The languages of what it gives.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub language: Vec<String>,
    /// The kinds of project that it gives.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub kind: Vec<String>,
    /// More words to find it by.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tags: Vec<String>,
    /// Its questions, a line each, with the options.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub asks: Vec<String>,
    /// Its versions, the newest first; never empty.
    pub versions: Vec<Release>,
}

/// A version of a mold.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Release {
    /// The version.
    pub version: semver::Version,
    /// The day of its release, by ISO 8601; may be empty.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub released: String,
    /// The length of the archive in bytes; for a mold in a directory, of all files; 0 if unknown.
    #[serde(default)]
    pub size: u64,
    /// The archive's SHA-256 digest in hexadecimal digits; empty where there is no archive.
    #[serde(default)]
    pub sha256: String,
    /// The location on the shelf: for an index the archive's URL, relative to the index.
    pub archive: String,
}

impl Entry {
    /// Returns the newest release, or the newest of all where there are only pre-releases.
    #[must_use]
    pub fn newest(&self) -> &Release {
        self.versions.iter().find(|release| release.version.pre.is_empty()).unwrap_or(&self.versions[0])
    }

    /// Returns its address on a shelf, with a version of it.
    #[must_use]
    pub fn address(&self, shelf: &str, release: &Release) -> String {
        format!("{shelf}/{}@{}", self.name, release.version)
    }

    /// Merges entries of single versions into one entry per mold, by name, with the texts of the
    /// newest release. Of duplicate versions the first stays; the others are returned as skipped.
    pub(crate) fn gathered(versions: impl IntoIterator<Item = Self>) -> (Vec<Self>, Vec<Skipped>) {
        let mut molds: BTreeMap<String, Vec<Self>> = BTreeMap::new();
        let mut doubled = Vec::new();
        for one in versions {
            let known = molds.entry(one.name.clone()).or_default();
            let release = &one.versions[0];
            match known.iter().find(|other| other.versions[0].version == release.version) {
                Some(other) => doubled.push(Skipped::new(
                    &release.archive,
                    format!("{} {} is in {} too", one.name, release.version, other.versions[0].archive),
                )),
                None => known.push(one),
            }
        }
        let molds = molds.into_values().map(|mut versions| {
            versions.sort_by_cached_key(|one| Reverse(one.versions[0].version.clone()));
            let speaks = versions.iter().position(|one| one.versions[0].version.pre.is_empty()).unwrap_or(0);
            let mut entry = versions[speaks].clone();
            entry.versions = versions.into_iter().flat_map(|one| one.versions).collect();
            entry
        });
        (molds.collect(), doubled)
    }
}

/// Returns true if this can be the name of a mold: lower-case letters, digits and hyphens.
pub(crate) fn is_name(name: &str) -> bool {
    let mut characters = name.chars();
    name.len() <= 100
        && characters.next().is_some_and(|first| first.is_ascii_lowercase() || first.is_ascii_digit())
        && characters.all(|c| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-')
}
