//! What a shelf tells of a mold before it is fetched.

use serde::Deserialize;

/// A mold on a shelf, in one version.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Listed {
    /// The name of the shelf.
    pub shelf: String,
    /// Its name.
    pub name: String,
    /// Its version.
    pub version: semver::Version,
    /// What it gives, in a line.
    pub summary: String,
    /// Whose it is, a domain written backwards; may be empty.
    pub owner: String,
    /// The languages of what it gives.
    pub language: Vec<String>,
    /// The kinds of project that it gives.
    pub kind: Vec<String>,
    /// More words to find it by.
    pub tags: Vec<String>,
    /// The day of its release, by ISO 8601; may be empty.
    pub released: String,
}

#[derive(Deserialize)]
struct Head {
    mold: HeadMold,
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

impl Listed {
    /// Reads the header of a `mold.toml`, and nothing else of it: what else a newer mold holds does not matter here.
    ///
    /// # Errors
    /// Why it is no header, in a line.
    pub fn of_manifest(shelf: &str, manifest: &str) -> Result<Self, String> {
        let head: Head = toml::from_str(manifest)
            .map_err(|error| error.message().lines().next().unwrap_or("").to_owned())?;
        let HeadMold { name, version, summary, owner, language, kind, tags, released } = head.mold;
        let released = released.map(|day| day.to_string()).unwrap_or_default();
        Ok(Self { shelf: shelf.to_owned(), name, version, summary, owner, language, kind, tags, released })
    }

    /// Its address, with the version.
    #[must_use]
    pub fn address(&self) -> String {
        format!("{}/{}@{}", self.shelf, self.name, self.version)
    }
}
