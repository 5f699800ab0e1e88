//! A shelf that is a folder: with molds in it, and archives of molds.

use super::archive::open_archive;
use super::catalogue::Catalogue;
use super::entry::{Entry, Release};
use super::folder::open_folder;
use super::index::{INDEX_FILE, IndexError, read_index, written_index};
use super::package::{Origin, Package, PackageError};
use super::remote::Cache;
use super::shelves::{Shelf, entry_of};
use crate::digest::digest_of_file;
use crate::parallel;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};
use std::time::SystemTime;

/// A folder with molds in it: folders with a `mold.toml`, and archives.
pub struct FolderShelf {
    name: String,
    folder: PathBuf,
    cache: Option<Cache>,
}

/// What an archive was when it was read, so that it need not be read again.
#[derive(Clone, Serialize, Deserialize)]
struct Seen {
    length: u64,
    modified: Option<SystemTime>,
    entry: Entry,
}

impl FolderShelf {
    /// The shelf `name` in `folder`. What its archives hold is remembered in `cache`.
    #[must_use]
    pub fn new(name: impl Into<String>, folder: impl Into<PathBuf>, cache: Option<Cache>) -> Self {
        Self { name: name.into(), folder: folder.into(), cache }
    }

    /// What its archives held when they were read last, by file name.
    fn seen(&self) -> BTreeMap<String, Seen> {
        self.cache.as_ref().and_then(|cache| cache.note(&self.place())).unwrap_or_default()
    }

    fn listed(&self, path: &Path, seen: &BTreeMap<String, Seen>) -> Result<(Entry, Option<Seen>), String> {
        let name = path.file_name().unwrap_or_default().to_string_lossy();
        if !is_archive(path) {
            let text = fs::read_to_string(path.join("mold.toml"));
            let entry =
                text.map_err(|error| error.to_string()).and_then(|text| Entry::of_manifest(&text, name));
            return entry
                .map(|entry| (entry, None))
                .map_err(|reason| format!("{}: {reason}", path.display()));
        }
        let metadata = fs::metadata(path).map_err(|error| format!("{}: {error}", path.display()))?;
        let (length, modified) = (metadata.len(), metadata.modified().ok());
        if let Some(seen) = seen.get(&*name)
            && (seen.length, seen.modified) == (length, modified)
        {
            return Ok((seen.entry.clone(), Some(seen.clone())));
        }
        let entry = of_archive(path)?;
        Ok((entry.clone(), Some(Seen { length, modified, entry })))
    }
}

impl Shelf for FolderShelf {
    fn name(&self) -> &str {
        &self.name
    }

    fn place(&self) -> String {
        self.folder.display().to_string()
    }

    fn list(&self) -> Result<(Catalogue, Vec<String>), PackageError> {
        let io = |source| PackageError::Io { path: self.folder.clone(), source };
        let mut places: Vec<PathBuf> = Vec::new();
        for entry in fs::read_dir(&self.folder).map_err(io)? {
            let path = entry.map_err(io)?.path();
            if is_archive(&path) || path.join("mold.toml").is_file() {
                places.push(path);
            }
        }
        places.sort();
        let seen = self.seen();
        let read = parallel::map(&places, |_, path| self.listed(path, &seen));
        let (mut entries, mut broken, mut now) = (Vec::new(), Vec::new(), BTreeMap::new());
        for (path, read) in places.iter().zip(read) {
            match read {
                Ok((entry, archive)) => {
                    let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
                    now.extend(archive.map(|archive| (name, archive)));
                    entries.push(entry);
                }
                Err(reason) => broken.push(reason),
            }
        }
        let is_same = now.len() == seen.len()
            && now.iter().all(|(name, now)| seen.get(name).is_some_and(|seen| seen.modified == now.modified));
        if let (false, Some(cache)) = (is_same, &self.cache) {
            // Without it they are read again at the next listing.
            let _ = cache.keep_note(&self.place(), &now);
        }
        let (entries, doubled) = Entry::gathered(entries);
        broken.extend(doubled);
        Ok((Catalogue::of(&self.name, entries), broken))
    }

    fn fetch(&self, entry: &Entry, release: &Release) -> Result<Package, PackageError> {
        let place = self.folder.join(&release.archive);
        let package = if is_archive(&place) { open_archive(&place)? } else { open_folder(&place)? };
        Ok(package.from(Origin::Shelf(entry.address(&self.name, release))))
    }
}

pub(super) fn is_archive(path: &Path) -> bool {
    let name = path.file_name().unwrap_or_default().to_string_lossy();
    name.ends_with(".tar.gz") || name.ends_with(".tgz")
}

/// What an archive tells of its mold, with its length and digest.
fn of_archive(path: &Path) -> Result<Entry, String> {
    let package = open_archive(path).map_err(|error| error.to_string())?;
    let here = |reason: String| format!("{}: {reason}", path.display());
    let name = path.file_name().unwrap_or_default().to_string_lossy();
    let mut entry = entry_of(&package, &name).map_err(here)?;
    let release = &mut entry.versions[0];
    release.size = fs::metadata(path).map_err(|error| here(error.to_string()))?.len();
    release.sha256 = digest_of_file(path).map_err(|error| here(error.to_string()))?.to_string();
    Ok(entry)
}

/// The index of the archives in a folder, and what cannot be in it. Archives that an index which is there already knows by their digest are not read again.
///
/// # Errors
/// The folder cannot be read.
pub fn index_folder(folder: &Path) -> Result<(String, usize, Vec<String>), PackageError> {
    let io = |source| PackageError::Io { path: folder.to_owned(), source };
    let mut places: Vec<PathBuf> = Vec::new();
    for entry in fs::read_dir(folder).map_err(io)? {
        let path = entry.map_err(io)?.path();
        if path.to_string_lossy().ends_with(".tar.gz") && path.is_file() {
            places.push(path);
        }
    }
    places.sort();
    let known = known(folder);
    let read = parallel::map(&places, |_, path| {
        let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
        let digest = digest_of_file(path).map_err(|error| format!("{}: {error}", path.display()))?;
        match known.get(&(name, digest.to_string())) {
            Some(entry) => Ok(entry.clone()),
            None => of_archive(path),
        }
    });
    let (mut entries, mut broken) = (Vec::new(), Vec::new());
    for read in read {
        match read {
            Ok(entry) => entries.push(entry),
            Err(reason) => broken.push(reason),
        }
    }
    let (mut entries, doubled) = Entry::gathered(entries);
    broken.extend(doubled);
    let index = loop {
        let index = written_index(&entries);
        // What nobody could read must not be in it.
        match read_index(&index) {
            Err(IndexError::BadEntry(name, why)) => {
                broken.push(format!("{name}: {why}"));
                entries.retain(|entry| format!("{:?}", entry.name) != name);
            }
            _ => break index,
        }
    };
    Ok((index, entries.len(), broken))
}

/// By file name and digest, what an index that is there tells of each archive whose mold it tells of no other version: only of
/// those does it say everything.
fn known(folder: &Path) -> BTreeMap<(String, String), Entry> {
    let text = fs::read_to_string(folder.join(INDEX_FILE)).unwrap_or_default();
    let entries = read_index(&text).unwrap_or_default();
    let single = entries.into_iter().filter(|entry| entry.versions.len() == 1);
    single
        .map(|entry| ((entry.versions[0].archive.clone(), entry.versions[0].sha256.clone()), entry))
        .collect()
}
