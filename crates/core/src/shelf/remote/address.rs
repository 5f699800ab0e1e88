//! Molds by a URL of their own, without a shelf: an archive, or a repository.

use super::client::{Answer, Validators, Wanted, fetch};
use super::git_shelf::GitShelf;
use super::index_shelf::MOST_ARCHIVE;
use super::{Network, failed, how_long};
use crate::digest::{Digest, digest_of_file};
use crate::shelf::address::Wanted as WantedVersion;
use crate::shelf::archive::open_archive;
use crate::shelf::entry::{Entry, Release};
use crate::shelf::package::{Origin, Package, PackageError};
use crate::shelf::shelves::Shelf;
use serde::{Deserialize, Serialize};
use std::fs;
use std::sync::Arc;
use std::time::{Duration, SystemTime};

/// A note of an archive that is kept.
#[derive(Serialize, Deserialize)]
struct KeptArchive {
    sha256: String,
    fetched: u64,
    validators: Validators,
}

/// The mold in the archive at a URL; `pinned` is the digest that it must have.
///
/// # Errors
/// It cannot be had, or is another than it must be.
pub(in crate::shelf) fn fetch_archive(
    network: &Network,
    url: &str,
    pinned: Option<Digest>,
) -> Result<Package, PackageError> {
    let wrong = |reason: String| PackageError::Address(format!("{url}: {reason}"));
    let cache = network.cache().map_err(wrong)?;
    let kept: Option<KeptArchive> = cache.note(url);
    let kept = kept.and_then(|kept| Some((cache.file(&kept.sha256.parse().ok()?)?, kept)));
    let place = match (pinned.and_then(|digest| cache.file(&digest)), &kept) {
        (Some(place), _) => place,
        (None, Some((place, _))) if network.settings.offline => place.clone(),
        _ => {
            let known = kept.as_ref().map(|(_, kept)| kept.validators.clone()).unwrap_or_default();
            let hurried = kept.is_some();
            let wanted = Wanted { url, what: url, token_env: None, known, most: MOST_ARCHIVE, hurried };
            let io = |error: std::io::Error| wrong(format!("it cannot be kept: {error}"));
            let note = |digest: String, validators: Validators| {
                let now = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
                cache
                    .keep_note(url, &KeptArchive { sha256: digest, fetched: now.as_secs(), validators })
                    .map_err(io)
            };
            match (fetch(network, &wanted), kept) {
                (Ok(Answer::Fetched(fetched, validators)), _) => {
                    let digest = digest_of_file(&fetched).map_err(io)?;
                    // What is no mold is not kept.
                    if let Err(error) = open_archive(&fetched) {
                        let _ = fs::remove_file(&fetched);
                        return Err(error.at(url));
                    }
                    let place = cache.keep(&fetched, &digest).map_err(io)?;
                    note(digest.to_string(), validators)?;
                    place
                }
                (Ok(Answer::Same), Some((place, kept))) => {
                    note(kept.sha256, kept.validators)?;
                    place
                }
                (Ok(Answer::Same), None) => return Err(wrong("the server sent nothing".into())),
                (Err(error), Some((place, kept))) => {
                    let then = SystemTime::UNIX_EPOCH + Duration::from_secs(kept.fetched);
                    let age = how_long(SystemTime::now().duration_since(then).unwrap_or_default());
                    network.observer.said(&format!("{url}: {error}; this is what was there {age} ago"));
                    place
                }
                (Err(error), None) => return Err(wrong(error.to_string())),
            }
        }
    };
    let found = digest_of_file(&place).map_err(|error| wrong(error.to_string()))?;
    if let Some(pinned) = pinned.filter(|pinned| *pinned != found) {
        let reason = format!("it has the sha256 {found}, and {pinned} was asked for");
        return Err(PackageError::NotAsListed { address: url.to_owned(), reason });
    }
    let package = open_archive(&place).map_err(|error| error.at(url))?;
    Ok(package.from(Origin::Shelf(format!("{url}#sha256={found}"))))
}

/// The mold in the repository at a URL: the one of this name, or the only one.
///
/// # Errors
/// The repository cannot be read, or has no such mold or version.
pub(in crate::shelf) fn fetch_repository(
    network: &Arc<Network>,
    url: &str,
    name: Option<&str>,
    version: &WantedVersion,
) -> Result<Package, PackageError> {
    let shelf = GitShelf::new("git", url, Arc::clone(network));
    let wrong = |reason: String| failed(url, reason);
    let pick = || -> Result<(Entry, Release), PackageError> {
        let (catalogue, _) = shelf.list()?;
        let all: Vec<&str> = catalogue.names().collect();
        let row = match (name, &all[..]) {
            (Some(name), _) => catalogue.row_of(name),
            (None, [_]) => Some(0),
            (None, _) => None,
        };
        let (several, first) = (all.join(", "), all.first().copied().unwrap_or_default());
        let row = row.ok_or_else(|| match name {
            Some(name) => wrong(format!("no mold is called {name:?} in it; there are {several}")),
            None => wrong(format!("it holds several molds; name one behind it, as {url}/{first}: {several}")),
        })?;
        let entry = catalogue.entry(row).map_err(|error| wrong(error.to_string()))?;
        let release = entry.versions.iter().find(|release| version.takes(&release.version)).cloned();
        let versions: Vec<String> =
            entry.versions.iter().map(|release| release.version.to_string()).collect();
        let release = release.ok_or_else(|| {
            wrong(format!("no such version of {} is in it; there are {}", entry.name, versions.join(", ")))
        })?;
        Ok((entry, release))
    };
    let picked = pick();
    // A listing may be older than the version that is asked for.
    let is_old = shelf.age().is_some_and(|age| age > Duration::from_secs(1));
    let (entry, release) = match picked {
        Err(_) if is_old && !network.settings.offline => {
            shelf.refresh()?;
            pick()?
        }
        picked => picked?,
    };
    let package = shelf.fetch(&entry, &release)?;
    Ok(package.from(Origin::Shelf(format!("{url}/{}@{}", entry.name, release.version))))
}

/// Refuses an archive that holds another mold than its listing says.
pub(super) fn as_listed(
    package: &Package,
    entry: &Entry,
    release: &Release,
    address: &str,
) -> Result<(), PackageError> {
    let found = crate::shelf::shelves::entry_of(package, "");
    let is_it = found
        .as_ref()
        .is_ok_and(|found| found.name == entry.name && found.versions[0].version == release.version);
    if is_it {
        return Ok(());
    }
    let holds = match found {
        Ok(found) => format!("{} {}", found.name, found.versions[0].version),
        Err(reason) => reason,
    };
    Err(PackageError::NotAsListed {
        address: address.to_owned(),
        reason: format!("its archive holds {holds}"),
    })
}
