//! The settings of the user: a file in TOML.

use std::path::PathBuf;
use std::{fs, io};

use directories::ProjectDirs;
use serde::Deserialize;

/// What the settings say.
#[derive(Debug, Deserialize, PartialEq, Eq)]
#[serde(default, deny_unknown_fields, rename_all = "kebab-case")]
pub struct Settings {
    /// Whether the sum of several files is shown.
    pub total: bool,
}

impl Default for Settings {
    fn default() -> Self {
        Self { total: true }
    }
}

/// Why the settings cannot be used.
#[derive(Debug, thiserror::Error)]
pub enum Error {
    /// The file cannot be read.
    #[error("{}: {_1}", _0.display())]
    Unreadable(PathBuf, #[source] io::Error),
    /// It does not say what settings say.
    #[error("{}: {_1}", _0.display())]
    Wrong(PathBuf, #[source] Box<toml::de::Error>),
}

impl Settings {
    /// Reads the file that is named, or else the one in the user's folder for settings, where there is one.
    ///
    /// # Errors
    /// The file cannot be read, or says something that is no setting; the message names the line.
    pub fn load(named: Option<PathBuf>) -> Result<Self, Error> {
        let is_named = named.is_some();
        let usual = || {
            let folders = ProjectDirs::from("", "", env!("CARGO_PKG_NAME"))?;
            Some(folders.config_dir().join("settings.toml"))
        };
        let Some(path) = named.or_else(usual) else {
            return Ok(Self::default());
        };
        match fs::read_to_string(&path) {
            Ok(text) => toml::from_str(&text).map_err(|error| Error::Wrong(path, error.into())),
            Err(error) if error.kind() == io::ErrorKind::NotFound && !is_named => {
                Ok(Self::default())
            }
            Err(error) => Err(Error::Unreadable(path, error)),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_not_said_is_the_default() {
        for (text, settings) in [
            ("", Some(Settings::default())),
            ("total = false", Some(Settings { total: false })),
            ("total = 1", None),
            ("sum = true", None),
        ] {
            assert_eq!(toml::from_str(text).ok(), settings, "{text}");
        }
    }
}
