//! Addresses of molds.

use semver::{Comparator, Op, Version, VersionReq};
use std::path::PathBuf;
use tinmold_platform::digest::Digest;

/// Why a text is not an address.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum AddressError {
    /// A name with an empty part.
    #[error("{0:?}: a mold is named as name, shelf/name or shelf/name@version")]
    Name(String),
    /// A version that cannot be read.
    #[error("{0:?} is not a version: write 1, 1.2 or 1.2.3")]
    Version(String),
    /// A scheme that no mold can be fetched by.
    #[error("{0}:// is not a scheme that a mold can be fetched by")]
    Scheme(String),
    /// A fragment that is not a digest.
    #[error("{0:?} is not a digest: write #sha256= and 64 hexadecimal digits")]
    Digest(String),
    /// A URL that is neither an archive nor a repository.
    #[error("{0}: the URL of a mold ends in .tar.gz, or names a git repository that ends in .git")]
    Url(String),
    /// A URL with a user or password.
    #[error("the URL holds a user or a password")]
    Secret,
}

/// The address of a mold.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Address {
    /// A folder or an archive on this machine.
    Path(PathBuf),
    /// An archive over HTTP.
    Archive {
        /// The URL.
        url: String,
        /// The digest that it must have.
        pinned: Option<Digest>,
    },
    /// A git repository.
    Repository {
        /// The URL, as git takes it.
        url: String,
        /// The mold, where the repository holds several.
        name: Option<String>,
        /// The versions that will do.
        version: VersionRequest,
    },
    /// A name on a shelf.
    Named {
        /// The shelf, if it is named.
        shelf: Option<String>,
        /// The mold's name.
        name: String,
        /// The versions that will do.
        version: VersionRequest,
    },
}

/// The versions that will do.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum VersionRequest {
    /// The newest release.
    Newest,
    /// The newest release of this major, or major and minor version.
    Within(VersionReq),
    /// This one.
    Exactly(Version),
}

impl VersionRequest {
    /// Returns true if a version matches.
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
    /// Parses an address: `name`, `name@1`, `name@1.2`, `name@1.2.3`, each optionally after
    /// `shelf/`; or a path, which begins with `.`, `/`, `~` or a drive, ends in `.tar.gz`, or has
    /// more than one slash; or a URL: of an archive, optionally with its digest after `#sha256=`;
    /// or of a git repository, which ends in `.git`, optionally with the mold after a slash and the
    /// version after `@`.
    ///
    /// # Errors
    /// Why it is none, in a clause.
    pub fn parse(text: &str) -> Result<Self, AddressError> {
        if let Some(address) = of_url(text) {
            return address;
        }
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
            Some((rest, version)) => (rest, version_request(version)?),
            None => (text, VersionRequest::Newest),
        };
        let (shelf, name) = match rest.split_once('/') {
            Some((shelf, name)) => (Some(shelf.to_owned()), name),
            None => (None, rest),
        };
        if name.is_empty() || shelf.as_ref().is_some_and(String::is_empty) {
            return Err(AddressError::Name(text.to_owned()));
        }
        Ok(Self::Named { shelf, name: name.to_owned(), version })
    }
}

/// Reads a URL; none if the text is none.
fn of_url(text: &str) -> Option<Result<Address, AddressError>> {
    let scheme = text.split_once("://").map(|(scheme, _)| scheme);
    let is_web = matches!(scheme, Some("http" | "https"));
    // The form of ssh: user@host:path.
    let by_ssh = text.split_once(':').is_some_and(|(host, path)| {
        !path.starts_with("//") && host.contains('@') && !host.contains('/') && !path.is_empty()
    });
    if !is_web && !by_ssh && !matches!(scheme, Some("ssh" | "git" | "file")) {
        return scheme.map(|scheme| Err(AddressError::Scheme(scheme.to_owned())));
    }
    if let Err(reason) = refuse_secret(text) {
        return Some(Err(reason));
    }
    let (plain, fragment) = text.split_once('#').map_or((text, None), |(plain, rest)| (plain, Some(rest)));
    if is_web && (plain.ends_with(".tar.gz") || plain.ends_with(".tgz")) {
        let pinned = fragment.map(|fragment| {
            let digest = fragment.strip_prefix("sha256=").and_then(|digest| digest.parse().ok());
            digest.ok_or_else(|| AddressError::Digest(fragment.to_owned()))
        });
        return Some(pinned.transpose().map(|pinned| Address::Archive { url: plain.to_owned(), pinned }));
    }
    Some(repository(text, is_web))
}

fn repository(text: &str, is_web: bool) -> Result<Address, AddressError> {
    let end = text.match_indices(".git").map(|(at, dot)| at + dot.len());
    let end = end.into_iter().find(|end| matches!(text.as_bytes().get(*end), None | Some(b'/' | b'@')));
    let Some(end) = end else {
        return if is_web {
            Err(AddressError::Url(text.to_owned()))
        } else {
            let (url, version) =
                match text.rsplit_once('@').filter(|(_, version)| !version.contains(['/', ':'])) {
                    Some((url, version)) => (url, of_tag(version)?),
                    None => (text, VersionRequest::Newest),
                };
            Ok(Address::Repository { url: url.to_owned(), name: None, version })
        };
    };
    let (url, rest) = text.split_at(end);
    let (name, version) = match rest.split_once('@') {
        Some((name, version)) => (name, of_tag(version)?),
        None => (rest, VersionRequest::Newest),
    };
    let name = name.trim_matches('/');
    let name = (!name.is_empty()).then(|| name.to_owned());
    Ok(Address::Repository { url: url.to_owned(), name, version })
}

/// Parses a version as tags write it.
fn of_tag(tag: &str) -> Result<VersionRequest, AddressError> {
    version_request(tag.strip_prefix('v').unwrap_or(tag))
}

/// Refuses a URL with a password or a token, which would end up in the shell's history, the process
/// list and the record.
///
/// # Errors
/// The URL holds one; what to do instead.
pub fn refuse_secret(url: &str) -> Result<(), AddressError> {
    let Some((scheme, rest)) = url.split_once("://") else { return Ok(()) };
    let host = rest.split(['/', '?', '#']).next().unwrap_or_default();
    match host.rsplit_once('@') {
        Some((user, _)) if scheme.starts_with("http") || user.contains(':') => Err(AddressError::Secret),
        _ => Ok(()),
    }
}

fn version_request(text: &str) -> Result<VersionRequest, AddressError> {
    let wrong = || AddressError::Version(text.to_owned());
    let parts: Vec<&str> = text.split('.').collect();
    let number = |part: &str| part.parse::<u64>().map_err(|_| wrong());
    match parts[..] {
        [major] => Ok(VersionRequest::Within(range(number(major)?, None))),
        [major, minor] => Ok(VersionRequest::Within(range(number(major)?, Some(number(minor)?)))),
        _ => Version::parse(text).map(VersionRequest::Exactly).map_err(|_| wrong()),
    }
}

fn range(major: u64, minor: Option<u64>) -> VersionReq {
    let comparator = Comparator { op: Op::Exact, major, minor, patch: None, pre: semver::Prerelease::EMPTY };
    VersionReq { comparators: vec![comparator] }
}
