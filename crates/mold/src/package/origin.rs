//! The origin of a mold.

use std::fmt;
use std::path::PathBuf;

/// The origin of a mold.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Origin {
    /// The shelf in the program; vouched for.
    BuiltIn(String),
    /// A folder on this machine.
    Folder(PathBuf),
    /// An archive on this machine.
    Archive(PathBuf),
    /// A shelf outside the program, by the address with its version.
    Shelf(String),
}

impl Origin {
    /// Returns the name in a record: the address with its version, or the absolute path.
    #[must_use]
    pub fn address(&self, version: &str) -> String {
        match self {
            Self::BuiltIn(name) => format!("built-in/{name}@{version}"),
            Self::Shelf(address) => address.clone(),
            Self::Folder(path) | Self::Archive(path) => {
                let absolute = path.canonicalize().unwrap_or_else(|_| path.clone());
                absolute.display().to_string()
            }
        }
    }

    /// Returns true for the shelf in the program.
    #[must_use]
    pub fn is_built_in(&self) -> bool {
        matches!(self, Self::BuiltIn(_))
    }
}

impl fmt::Display for Origin {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::BuiltIn(name) => write!(f, "built-in/{name}"),
            Self::Shelf(address) => f.write_str(address),
            Self::Folder(path) | Self::Archive(path) => write!(f, "{}", path.display()),
        }
    }
}
