//! Molds by a URL of their own, without a shelf: an archive, or a repository.

use crate::address::VersionRequest;
use crate::age::{age_in_words, since};
use crate::archive_check::MOST_ARCHIVE;
use crate::catalogue::{Entry, Release};
use crate::error::{Mismatch, ShelfError, SourceError};
use crate::git_shelf::GitShelf;
use crate::network::{Answer, FetchRequest, Network, NetworkError, Validators, fetch};
use crate::shelf::Shelf;
use serde::{Deserialize, Serialize};
use std::path::PathBuf;
use std::sync::Arc;
use std::time::{Duration, SystemTime};
use tinmold_mold::package::open_archive;
use tinmold_mold::{Origin, Package};
use tinmold_platform::digest::{Digest, digest_of_file};

/// The note of an archive in the cache.
#[derive(Serialize, Deserialize)]
struct CachedArchive {
    sha256: String,
    fetched: u64,
    validators: Validators,
}

/// Fetches the mold in the archive at a URL; `pinned` is the digest that it must have.
///
/// # Errors
/// The archive cannot be fetched or read, or has another digest.
pub(crate) fn fetch_archive(
    network: &Network,
    url: &str,
    pinned: Option<Digest>,
) -> Result<Package, ShelfError> {
    let cache = network.cache.as_ref().ok_or_else(|| ShelfError::source(url, SourceError::NoCache))?;
    let cached: Option<CachedArchive> = cache.note(url);
    let cached = cached.and_then(|cached| Some((cache.file(&cached.sha256.parse().ok()?)?, cached)));
    let path = match (pinned.and_then(|digest| cache.file(&digest)), cached) {
        (Some(path), _) => path,
        (None, Some((path, _))) if network.settings.offline => path,
        (None, cached) => download(network, url, cached)?,
    };
    let found = digest_of_file(&path).map_err(|error| ShelfError::source(url, SourceError::Cache(error)))?;
    if let Some(expected) = pinned.filter(|pinned| *pinned != found) {
        let reason = Mismatch::Digest { found, expected };
        return Err(ShelfError::Tampered { address: url.to_owned(), reason });
    }
    let package = open_archive(&path).map_err(|error| ShelfError::named(error, url))?;
    Ok(package.with_origin(Origin::Shelf(format!("{url}#sha256={found}"))))
}

/// Downloads an archive into the cache; the cached one stays if the server cannot be reached.
fn download(
    network: &Network,
    url: &str,
    cached: Option<(PathBuf, CachedArchive)>,
) -> Result<PathBuf, ShelfError> {
    let cache = network.cache.as_ref().ok_or_else(|| ShelfError::source(url, SourceError::NoCache))?;
    let io = |error: std::io::Error| ShelfError::source(url, SourceError::Cache(error));
    let failed =
        |error: NetworkError| ShelfError::source(url, SourceError::Network { url: url.to_owned(), error });
    let note = |sha256: String, validators: Validators| {
        let now = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
        cache.store_note(url, &CachedArchive { sha256, fetched: now.as_secs(), validators }).map_err(io)
    };
    let known = cached.as_ref().map(|(_, cached)| cached.validators.clone()).unwrap_or_default();
    let hurried = cached.is_some();
    let request = FetchRequest { url, what: url, token_env: None, known, most: MOST_ARCHIVE, hurried };
    match (fetch(network, &request), cached) {
        (Ok(Answer::Fetched(fetched, validators)), _) => {
            let digest = fetched.digest().map_err(io)?;
            // An archive that is not a mold is not kept.
            if let Err(error) = open_archive(fetched.path()) {
                fetched.throw_away();
                return Err(ShelfError::named(error, url));
            }
            let path = fetched.store(cache, &digest).map_err(io)?;
            note(digest.to_string(), validators)?;
            Ok(path)
        }
        (Ok(Answer::Same), Some((path, cached))) => {
            note(cached.sha256, cached.validators)?;
            Ok(path)
        }
        (Ok(Answer::Same), None) => Err(failed(NetworkError::Nothing)),
        (Err(error), Some((path, cached))) => {
            let age = age_in_words(since(cached.fetched));
            network.observer.note(&format!("{url}: {error}; the copy of {age} is used"));
            Ok(path)
        }
        (Err(error), None) => Err(failed(error)),
    }
}

/// Fetches the mold in the repository at a URL: the one of this name, or the only one.
///
/// # Errors
/// The repository cannot be read, or has no such mold or version.
pub(crate) fn fetch_repository(
    network: &Arc<Network>,
    url: &str,
    name: Option<&str>,
    version: &VersionRequest,
) -> Result<Package, ShelfError> {
    let shelf = GitShelf::new("git", url, Arc::clone(network));
    let picked = pick(&shelf, url, name, version);
    // The listing may be older than the version that is asked for.
    let is_old = shelf.age().is_some_and(|age| age > Duration::from_secs(1));
    let (entry, release) = match picked {
        Err(_) if is_old && !network.settings.offline => {
            shelf.refresh()?;
            pick(&shelf, url, name, version)?
        }
        picked => picked?,
    };
    let package = shelf.fetch(&entry, &release)?;
    Ok(package.with_origin(Origin::Shelf(format!("{url}/{}@{}", entry.name, release.version))))
}

fn pick(
    shelf: &GitShelf,
    url: &str,
    name: Option<&str>,
    version: &VersionRequest,
) -> Result<(Entry, Release), ShelfError> {
    let catalogue = shelf.list()?.catalogue;
    let all: Vec<&str> = catalogue.names().collect();
    let row = match (name, &all[..]) {
        (Some(name), _) => catalogue.row_of(name),
        (None, [_]) => Some(0),
        (None, _) => None,
    };
    let row = row.ok_or_else(|| {
        let known = all.join(", ");
        let reason = match name {
            Some(name) => SourceError::NoSuchMold { name: name.to_owned(), known },
            None => {
                let example = format!("{url}/{}", all.first().copied().unwrap_or_default());
                SourceError::SeveralMolds { example, known }
            }
        };
        ShelfError::source(url, reason)
    })?;
    let entry = catalogue.entry(row).map_err(|error| ShelfError::source(url, SourceError::Listing(error)))?;
    let release = entry.versions.iter().find(|release| version.takes(&release.version)).cloned();
    let release = release.ok_or_else(|| ShelfError::UnknownVersion {
        name: entry.name.clone(),
        versions: entry.versions.iter().map(|release| release.version.to_string()).collect(),
    })?;
    Ok((entry, release))
}
