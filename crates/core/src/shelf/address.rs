//! How a mold is named.

use semver::{Comparator, Op, Version, VersionReq};
use std::path::PathBuf;

/// How a mold is named.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Address {
    /// A folder or an archive on this machine.
    Path(PathBuf),
    /// A name on a shelf.
    Named {
        /// The shelf, if it is said.
        shelf: Option<String>,
        /// The mold's name.
        name: String,
        /// The versions that will do.
        version: Wanted,
    },
}

/// The versions that will do.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Wanted {
    /// The newest release.
    Newest,
    /// The newest release of this major, or major and minor version.
    Within(VersionReq),
    /// This one.
    Exactly(Version),
}

impl Wanted {
    /// Whether a version will do.
    #[must_use]
    pub fn takes(&self, version: &Version) -> bool {
        match self {
            // A pre-release is taken only by its name.
            Self::Newest => version.pre.is_empty(),
            Self::Within(range) => version.pre.is_empty() && range.matches(version),
            Self::Exactly(wanted) => wanted == version,
        }
    }
}

impl Address {
    /// Reads an address: `name`, `name@1`, `name@1.2`, `name@1.2.3`, any of them behind `shelf/`; or a path, which begins with
    /// `.`, `/`, `~` or a drive, or ends in `.tar.gz`, or has more than one slash.
    ///
    /// # Errors
    /// Why it is none, in a clause.
    pub fn parse(text: &str) -> Result<Self, String> {
        let drive = text.as_bytes().get(1) == Some(&b':') && text.as_bytes()[0].is_ascii_alphabetic();
        let is_path = text.starts_with(['.', '/', '\\', '~'])
            || drive
            || text.contains('\\')
            || text.ends_with('/')
            || text.ends_with(".tar.gz")
            || text.ends_with(".tgz")
            || text.matches('/').count() > 1;
        if is_path {
            return Ok(Self::Path(text.into()));
        }
        let (rest, version) = match text.split_once('@') {
            Some((rest, version)) => (rest, wanted(version)?),
            None => (text, Wanted::Newest),
        };
        let (shelf, name) = match rest.split_once('/') {
            Some((shelf, name)) => (Some(shelf.to_owned()), name),
            None => (None, rest),
        };
        if name.is_empty() || shelf.as_ref().is_some_and(String::is_empty) {
            return Err("a mold is named as name, shelf/name or shelf/name@version".into());
        }
        Ok(Self::Named { shelf, name: name.to_owned(), version })
    }
}

fn wanted(text: &str) -> Result<Wanted, String> {
    let wrong = || format!("{text:?} is no version: write 1, 1.2 or 1.2.3");
    let parts: Vec<&str> = text.split('.').collect();
    let number = |part: &str| part.parse::<u64>().map_err(|_| wrong());
    match parts[..] {
        [major] => Ok(Wanted::Within(range(number(major)?, None))),
        [major, minor] => Ok(Wanted::Within(range(number(major)?, Some(number(minor)?)))),
        _ => Version::parse(text).map(Wanted::Exactly).map_err(|_| wrong()),
    }
}

fn range(major: u64, minor: Option<u64>) -> VersionReq {
    let comparator = Comparator { op: Op::Exact, major, minor, patch: None, pre: semver::Prerelease::EMPTY };
    VersionReq { comparators: vec![comparator] }
}
