//! How a mold is named.

use crate::digest::Digest;
use semver::{Comparator, Op, Version, VersionReq};
use std::path::PathBuf;

/// How a mold is named.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Address {
    /// A folder or an archive on this machine.
    Path(PathBuf),
    /// An archive over HTTP.
    Archive {
        /// Where it is.
        url: String,
        /// The digest that it must have, if one is said.
        pinned: Option<Digest>,
    },
    /// A git repository.
    Repository {
        /// What git takes.
        url: String,
        /// The mold, where the repository holds several.
        name: Option<String>,
        /// The versions that will do.
        version: Wanted,
    },
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
    /// `.`, `/`, `~` or a drive, or ends in `.tar.gz`, or has more than one slash; or a URL: of an archive, with the digest that it must have behind
    /// `#sha256=`; or of a git repository, ended by `.git`, with the mold behind a slash and the version behind `@`.
    ///
    /// # Errors
    /// Why it is none, in a clause.
    pub fn parse(text: &str) -> Result<Self, String> {
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

/// Reads a URL; none if the text is none.
fn of_url(text: &str) -> Option<Result<Address, String>> {
    let scheme = text.split_once("://").map(|(scheme, _)| scheme);
    let is_web = matches!(scheme, Some("http" | "https"));
    // As ssh takes it: user@host:path.
    let by_ssh = text.split_once(':').is_some_and(|(host, path)| {
        !path.starts_with("//") && host.contains('@') && !host.contains('/') && !path.is_empty()
    });
    if !is_web && !by_ssh && !matches!(scheme, Some("ssh" | "git" | "file")) {
        return scheme.map(|scheme| Err(format!("{scheme}:// is nothing that a mold can be fetched by")));
    }
    if let Err(reason) = without_secret(text) {
        return Some(Err(reason));
    }
    let (plain, fragment) = text.split_once('#').map_or((text, None), |(plain, rest)| (plain, Some(rest)));
    if is_web && (plain.ends_with(".tar.gz") || plain.ends_with(".tgz")) {
        let pinned = fragment.map(|fragment| {
            let digest = fragment.strip_prefix("sha256=").and_then(|digest| digest.parse().ok());
            digest
                .ok_or_else(|| format!("{fragment:?} is no digest: write #sha256= and 64 hexadecimal digits"))
        });
        return Some(pinned.transpose().map(|pinned| Address::Archive { url: plain.to_owned(), pinned }));
    }
    Some(repository(text, is_web))
}

fn repository(text: &str, is_web: bool) -> Result<Address, String> {
    let end = text.match_indices(".git").map(|(at, dot)| at + dot.len());
    let end = end.into_iter().find(|end| matches!(text.as_bytes().get(*end), None | Some(b'/' | b'@')));
    let Some(end) = end else {
        let what = "a URL of a mold ends in .tar.gz, or names a git repository that ends in .git";
        return if is_web {
            Err(format!("{what}; an index is added with: tinmold shelf add NAME {text}"))
        } else {
            let (url, version) =
                match text.rsplit_once('@').filter(|(_, version)| !version.contains(['/', ':'])) {
                    Some((url, version)) => (url, of_tag(version)?),
                    None => (text, Wanted::Newest),
                };
            Ok(Address::Repository { url: url.to_owned(), name: None, version })
        };
    };
    let (url, rest) = text.split_at(end);
    let (name, version) = match rest.split_once('@') {
        Some((name, version)) => (name, of_tag(version)?),
        None => (rest, Wanted::Newest),
    };
    let name = name.trim_matches('/');
    let name = (!name.is_empty()).then(|| name.to_owned());
    Ok(Address::Repository { url: url.to_owned(), name, version })
}

/// A version as its tag says it.
fn of_tag(tag: &str) -> Result<Wanted, String> {
    wanted(tag.strip_prefix('v').unwrap_or(tag))
}

/// Refuses a URL with a password or a token in it: it would be in the shell's history, in the list of processes, and in the record.
///
/// # Errors
/// The URL holds one; what to do instead.
pub fn without_secret(url: &str) -> Result<(), String> {
    let Some((scheme, rest)) = url.split_once("://") else { return Ok(()) };
    let host = rest.split(['/', '?', '#']).next().unwrap_or_default();
    match host.rsplit_once('@') {
        Some((user, _)) if scheme.starts_with("http") || user.contains(':') => Err(
            "it has a user or a password in it; keep those in .netrc, in git's credential store, or in an environment variable that --token-env names".into(),
        ),
        _ => Ok(()),
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
