//! A shelf that is a git repository: its tags are versions, and it holds one mold or many.
//!
//! A mold is a directory with a `mold.toml`: the repository itself, or a directory at most two
//! levels deep. Each version becomes an archive when it is first seen: the cache holds a listing
//! and archives by digest, as for an index.

use crate::catalogue::{Entry, Release, read_index, write_index};
use crate::error::{ShelfError, SourceError};
use crate::listing::Listings;
use crate::manifest_entry::entry_of_manifest;
use crate::network::Network;
use crate::repository::{GitError, Object, Reader, Repository, TIP};
use crate::shelf::{Listing, Shelf};
use crate::skipped::Skipped;
use semver::Version;
use std::collections::{HashMap, HashSet};
use std::sync::Arc;
use std::time::Duration;
use tinmold_mold::package::{MOST_BYTES, pack};
use tinmold_mold::{Origin, Package};
use tinmold_platform::digest::digest_of;
use tinmold_platform::paths::joined;

/// The depth of a mold's directory in a repository with several.
const DEEPEST: usize = 2;

/// A shelf that is a git repository.
pub struct GitShelf {
    name: String,
    url: String,
    network: Arc<Network>,
}

impl GitShelf {
    /// Returns the shelf `name` in the repository at `url`, which is whatever git takes.
    #[must_use]
    pub fn new(name: impl Into<String>, url: impl Into<String>, network: Arc<Network>) -> Self {
        Self { name: name.into(), url: url.into(), network }
    }

    fn listings(&self) -> Listings<'_> {
        Listings { shelf: &self.name, place: &self.url, network: &self.network }
    }

    fn failed(&self, reason: impl Into<SourceError>) -> ShelfError {
        ShelfError::source(&self.name, reason)
    }

    fn git(&self, error: GitError) -> ShelfError {
        self.failed(SourceError::Git { url: self.url.clone(), error })
    }

    /// Returns every mold at every tag that is a version, and what cannot be one.
    fn found(&self, repository: &Repository) -> Result<(Vec<Entry>, Vec<Skipped>), GitError> {
        let mut versions: Vec<(Tag, String)> =
            repository.tags()?.into_iter().filter_map(|tag| Some((Tag::parse(&tag)?, tag))).collect();
        versions.sort_by(|(a, _), (b, _)| a.version.cmp(&b.version));
        let places: Vec<(Option<Tag>, String, String)> = if versions.is_empty() {
            // A repository without a release is used at its last commit.
            vec![(None, TIP.to_owned(), "the default branch".to_owned())]
        } else {
            versions
                .into_iter()
                .map(|(tag, name)| (Some(tag), format!("refs/tags/{name}"), format!("tag {name}")))
                .collect()
        };
        let known = self.known();
        let mut reader = repository.reader()?;
        let (mut entries, mut notes) = (Vec::new(), Vec::new());
        let mut seen: HashSet<(String, Version)> = HashSet::new();
        for (tag, reference, what) in places {
            let objects = repository.tree(&reference)?;
            let folders = mold_folders(&objects);
            let alone = folders.len() == 1;
            let mut names: HashMap<String, String> = HashMap::new();
            for folder in folders {
                let mut one = match self.at(&objects, &folder, &known, &mut reader) {
                    Ok(one) => one,
                    Err(error) => {
                        notes.push(Skipped::new(format!("{what}, {}", shown(&folder)), error));
                        continue;
                    }
                };
                if let Some(other) = names.insert(one.name.clone(), folder.clone()) {
                    return Err(GitError::Twice {
                        at: what,
                        name: one.name,
                        first: shown(&other).to_owned(),
                        second: shown(&folder).to_owned(),
                    });
                }
                let release = &mut one.versions[0];
                if let Some(tag) = &tag {
                    if tag.mold.as_ref().is_some_and(|mold| *mold != one.name) {
                        continue;
                    }
                    if (alone || tag.mold.is_some()) && tag.version != release.version {
                        notes.push(Skipped::new(
                            &what,
                            format!(
                                "it holds {} {}, and the tag says another version",
                                one.name, release.version
                            ),
                        ));
                        continue;
                    }
                }
                if seen.insert((one.name.clone(), release.version.clone())) {
                    if release.sha256.is_empty() {
                        self.pack(&objects, &folder, &mut one, &mut reader)?;
                    }
                    entries.push(one);
                }
            }
        }
        Ok((entries, notes))
    }

    /// Returns the releases that are kept, by where they are.
    fn known(&self) -> HashMap<String, Entry> {
        let listings = self.listings();
        let text = listings.kept().and_then(|kept| listings.index(&kept));
        let kept = text.and_then(|text| read_index(&text).ok()).unwrap_or_default();
        let single =
            |entry: &Entry, release: &Release| Entry { versions: vec![release.clone()], ..entry.clone() };
        kept.iter()
            .flat_map(|entry| {
                entry.versions.iter().map(|release| (release.archive.clone(), single(entry, release)))
            })
            .collect()
    }

    /// Returns the mold in a folder; without a digest if it was not seen before.
    fn at(
        &self,
        objects: &[Object],
        folder: &str,
        known: &HashMap<String, Entry>,
        reader: &mut Reader,
    ) -> Result<Entry, GitError> {
        let tree = objects
            .iter()
            .find(|object| object.path == folder)
            .map(|tree| tree.id.clone())
            .unwrap_or_default();
        let manifest = joined(folder, "mold.toml");
        let manifest = objects.iter().find(|object| object.path == manifest).ok_or(GitError::Output)?;
        let text =
            String::from_utf8(reader.read(&manifest.id)?).map_err(|_| GitError::NotUtf8("mold.toml"))?;
        let mut entry = entry_of_manifest(&text, "").map_err(|error| GitError::Entry(error.to_string()))?;
        let release = &mut entry.versions[0];
        release.archive = format!("{tree}/{}-{}.tar.gz", entry.name, release.version);
        if let Some(known) = known.get(&release.archive) {
            *release = known.versions[0].clone();
        }
        Ok(entry)
    }

    /// Makes the archive of a mold, and keeps it.
    fn pack(
        &self,
        objects: &[Object],
        folder: &str,
        one: &mut Entry,
        reader: &mut Reader,
    ) -> Result<(), GitError> {
        let inside = |object: &Object| match folder {
            "" => Some(object.path.clone()),
            _ => object.path.strip_prefix(folder)?.strip_prefix('/').map(str::to_owned),
        };
        let blobs: Vec<(&Object, String)> = objects
            .iter()
            .filter(|object| object.size.is_some())
            .filter_map(|object| Some((object, inside(object)?)))
            .collect();
        let total: u64 = blobs.iter().filter_map(|(object, _)| object.size).sum();
        if total > MOST_BYTES {
            return Err(GitError::TooLarge { name: one.name.clone(), limit: MOST_BYTES });
        }
        let mut files =
            blobs.iter().map(|(object, path)| reader.file(object, path)).collect::<Result<Vec<_>, _>>()?;
        files.sort_by(|a, b| a.path.cmp(&b.path));
        let release = &mut one.versions[0];
        let package = Package::new(Origin::Shelf(self.name.clone()), files)
            .map_err(|error| GitError::Entry(error.to_string()))?;
        let mut bytes = Vec::new();
        pack(&package, &format!("{}-{}", one.name, release.version), &mut bytes)
            .map_err(|error| GitError::Entry(error.to_string()))?;
        let digest = digest_of(&bytes);
        (release.size, release.sha256) = (bytes.len() as u64, digest.to_string());
        let cache = self.network.cache.as_ref().ok_or(GitError::NoCache)?;
        cache.write(&cache.place(&digest), &bytes).map_err(GitError::Store)
    }

    /// Asks the repository, and makes the listing anew; `hurried` if what is kept will do.
    fn ask(&self, hurried: bool) -> Result<(), ShelfError> {
        if self.network.settings.offline {
            return Err(self.failed(SourceError::Offline));
        }
        let folder = self
            .network
            .cache
            .as_ref()
            .ok_or_else(|| self.failed(SourceError::NoCache))?
            .folder("git", &self.url);
        self.network.observer.received(&format!("the repository of {}", self.name), 0, None);
        let repository = Repository::fetched(&folder, &self.url, self.network.settings.timeout, hurried);
        self.network.observer.finished();
        let (entries, mut notes) =
            repository.and_then(|repository| self.found(&repository)).map_err(|error| self.git(error))?;
        let (entries, doubled) = Entry::gathered(entries);
        notes.extend(doubled);
        if entries.is_empty() {
            let why = notes.first().map_or_else(String::new, |note| format!(" ({note})"));
            return Err(self.git(GitError::NoMold { note: why }));
        }
        for note in notes {
            self.network.observer.note(&format!("shelf {}: {note}", self.name));
        }
        self.listings().keep(&write_index(&entries), Default::default())
    }
}

impl Shelf for GitShelf {
    fn name(&self) -> &str {
        &self.name
    }

    fn place(&self) -> String {
        self.url.clone()
    }

    fn list(&self) -> Result<Listing, ShelfError> {
        self.listings().listed(|hurried| self.ask(hurried))
    }

    fn refresh(&self) -> Result<(), ShelfError> {
        self.ask(false)
    }

    fn fetch(&self, entry: &Entry, release: &Release) -> Result<Package, ShelfError> {
        self.listings().release(entry, release, |cache, digest, address| {
            // The archive is gone, but the repository's copy may be there to make it again.
            let again = || -> Result<(), GitError> {
                let repository = Repository::kept(&cache.folder("git", &self.url)).ok_or(GitError::NoCopy)?;
                let tree = release.archive.split('/').next().unwrap_or_default();
                let mut one = Entry { versions: vec![release.clone()], ..entry.clone() };
                self.pack(&repository.tree(tree)?, "", &mut one, &mut repository.reader()?)
            };
            if let Err(error) = again() {
                tracing::debug!(%error, "the archive cannot be made from the copy");
                self.ask(false)?;
            }
            cache.file(digest).ok_or_else(|| self.failed(SourceError::Lost(address.to_owned())))
        })
    }

    fn age(&self) -> Option<Duration> {
        self.listings().kept().and_then(|kept| kept.age())
    }
}

/// A tag that is a version.
struct Tag {
    /// The one mold that it is a version of, if it names one.
    mold: Option<String>,
    version: Version,
}

impl Tag {
    /// Reads `1.2.3`, `v1.2.3`, and either behind `NAME-` or `NAME/`.
    fn parse(tag: &str) -> Option<Self> {
        let version = |text: &str| Version::parse(text.strip_prefix('v').unwrap_or(text)).ok();
        if let Some(version) = version(tag) {
            return Some(Self { mold: None, version });
        }
        tag.match_indices(['-', '/']).find_map(|(at, _)| {
            let version = version(&tag[at + 1..])?;
            Some(Self { mold: Some(tag[..at].to_owned()), version })
        })
    }
}

/// Returns the folders with a `mold.toml`: the root alone if it has one; in the order of their paths.
fn mold_folders(objects: &[Object]) -> Vec<String> {
    let mut folders: Vec<String> = objects
        .iter()
        .filter(|object| object.size.is_some())
        .filter_map(|object| match object.path.strip_suffix("mold.toml")? {
            "" => Some(String::new()),
            folder => folder.strip_suffix('/').map(str::to_owned),
        })
        .filter(|folder| folder.is_empty() || folder.split('/').count() <= DEEPEST)
        .collect();
    folders.sort();
    if folders.first().is_some_and(String::is_empty) {
        folders.truncate(1);
    }
    let mut outer: Vec<String> = Vec::new();
    for folder in folders {
        // Files in a mold's directory belong to that mold.
        if !outer.iter().any(|other| folder.starts_with(&format!("{other}/"))) {
            outer.push(folder);
        }
    }
    outer
}

fn shown(folder: &str) -> &str {
    if folder.is_empty() { "its root" } else { folder }
}
