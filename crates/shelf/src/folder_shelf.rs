//! A shelf that is a folder with molds, and archives of molds, in it.

use crate::cache::Cache;
use crate::catalogue::{Catalogue, Entry, INDEX_FILE, IndexError, Release, read_index, write_index};
use crate::error::{ShelfError, SourceError};
use crate::manifest_entry::{EntryError, entry_of, entry_of_manifest};
use crate::shelf::{Listing, Shelf};
use crate::skipped::Skipped;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};
use std::time::SystemTime;
use tinmold_mold::package::{open_archive, open_folder};
use tinmold_mold::{Origin, Package, PackageError};
use tinmold_platform::digest::digest_of_file;
use tinmold_platform::parallel;

/// A folder with molds in it: folders with a `mold.toml`, and archives.
pub struct FolderShelf {
    name: String,
    folder: PathBuf,
    cache: Option<Cache>,
}

/// The size and time of an archive when it was read, so that it is not read again.
#[derive(Clone, Serialize, Deserialize)]
struct Seen {
    length: u64,
    modified: Option<SystemTime>,
    entry: Entry,
}

impl FolderShelf {
    /// Returns the shelf `name` in `folder`. What its archives hold is remembered in `cache`.
    #[must_use]
    pub fn new(name: impl Into<String>, folder: impl Into<PathBuf>, cache: Option<Cache>) -> Self {
        Self { name: name.into(), folder: folder.into(), cache }
    }

    /// Returns the entries of its archives at the last reading, by file name.
    fn seen(&self) -> BTreeMap<String, Seen> {
        self.cache.as_ref().and_then(|cache| cache.note(&self.place())).unwrap_or_default()
    }

    fn listed(
        &self,
        path: &Path,
        seen: &BTreeMap<String, Seen>,
    ) -> Result<(Entry, Option<Seen>), EntryError> {
        let name = path.file_name().unwrap_or_default().to_string_lossy();
        if !is_archive(path) {
            let manifest = path.join("mold.toml");
            let text = fs::read_to_string(&manifest).map_err(io(&manifest))?;
            return Ok((entry_of_manifest(&text, name)?, None));
        }
        let metadata = fs::metadata(path).map_err(io(path))?;
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

    fn list(&self) -> Result<Listing, ShelfError> {
        let failed =
            |error| ShelfError::source(&self.name, SourceError::Folder { path: self.folder.clone(), error });
        let mut places: Vec<PathBuf> = Vec::new();
        for entry in fs::read_dir(&self.folder).map_err(failed)? {
            let path = entry.map_err(failed)?.path();
            if is_archive(&path) || path.join("mold.toml").is_file() {
                places.push(path);
            }
        }
        places.sort();
        let seen = self.seen();
        let read = parallel::map(&places, |_, path| self.listed(path, &seen));
        let (mut entries, mut skipped, mut now) = (Vec::new(), Vec::new(), BTreeMap::new());
        for (path, read) in places.iter().zip(read) {
            match read {
                Ok((entry, archive)) => {
                    let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
                    now.extend(archive.map(|archive| (name, archive)));
                    entries.push(entry);
                }
                Err(error) => skipped.push(Skipped::new(path.display().to_string(), error)),
            }
        }
        let is_same = now.len() == seen.len()
            && now.iter().all(|(name, now)| seen.get(name).is_some_and(|seen| seen.modified == now.modified));
        if let (false, Some(cache)) = (is_same, &self.cache)
            && let Err(error) = cache.store_note(&self.place(), &now)
        {
            tracing::warn!(%error, "cannot remember the archives; they are read again next time");
        }
        let (entries, doubled) = Entry::gathered(entries);
        skipped.extend(doubled);
        Ok(Listing { catalogue: Catalogue::of(&self.name, entries), skipped })
    }

    fn fetch(&self, entry: &Entry, release: &Release) -> Result<Package, ShelfError> {
        let place = self.folder.join(&release.archive);
        let package = if is_archive(&place) { open_archive(&place)? } else { open_folder(&place)? };
        Ok(package.with_origin(Origin::Shelf(entry.address(&self.name, release))))
    }
}

/// Returns true for the name of an archive.
pub(crate) fn is_archive(path: &Path) -> bool {
    let name = path.file_name().unwrap_or_default().to_string_lossy();
    name.ends_with(".tar.gz") || name.ends_with(".tgz")
}

fn io(path: &Path) -> impl FnOnce(std::io::Error) -> EntryError {
    let path = path.to_owned();
    move |source| EntryError::Package(PackageError::Io { path, source })
}

/// Reads the entry of an archive, with its length and digest.
fn of_archive(path: &Path) -> Result<Entry, EntryError> {
    let package = open_archive(path)?;
    let name = path.file_name().unwrap_or_default().to_string_lossy();
    let mut entry = entry_of(&package, &name)?;
    let release = &mut entry.versions[0];
    release.size = fs::metadata(path).map_err(io(path))?.len();
    release.sha256 = digest_of_file(path).map_err(io(path))?.to_string();
    Ok(entry)
}

/// The index of a folder of archives.
#[derive(Debug)]
pub struct FolderIndex {
    /// The index as JSON.
    pub text: String,
    /// The number of molds.
    pub molds: usize,
    /// What is left out, and why.
    pub skipped: Vec<Skipped>,
}

/// Makes the index of the archives in a directory. Archives whose digest is in the existing index
/// are not read again.
///
/// # Errors
/// The folder cannot be read.
pub fn index_folder(folder: &Path) -> Result<FolderIndex, PackageError> {
    let _span = tracing::debug_span!("index_folder", folder = %folder.display()).entered();
    let failed = |source| PackageError::Io { path: folder.to_owned(), source };
    let mut paths: Vec<PathBuf> = Vec::new();
    for entry in fs::read_dir(folder).map_err(failed)? {
        let path = entry.map_err(failed)?.path();
        if path.to_string_lossy().ends_with(".tar.gz") && path.is_file() {
            paths.push(path);
        }
    }
    paths.sort();
    let known = known(folder);
    let read = parallel::map(&paths, |_, path| {
        let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
        let digest = digest_of_file(path).map_err(io(path))?;
        match known.get(&(name, digest.to_string())) {
            Some(entry) => Ok(entry.clone()),
            None => of_archive(path),
        }
    });
    let (mut entries, mut skipped) = (Vec::new(), Vec::new());
    for (path, read) in paths.iter().zip(read) {
        match read {
            Ok(entry) => entries.push(entry),
            Err(error) => skipped.push(Skipped::new(path.display().to_string(), error)),
        }
    }
    let (mut entries, doubled) = Entry::gathered(entries);
    skipped.extend(doubled);
    loop {
        let text = write_index(&entries);
        // An entry that no program could read is left out.
        match read_index(&text) {
            Err(IndexError::BadEntry { name: Some(name), reason, .. }) => {
                entries.retain(|entry| entry.name != name);
                skipped.push(Skipped::new(name, reason));
            }
            _ => return Ok(FolderIndex { text, molds: entries.len(), skipped }),
        }
    }
}

/// Returns the entries of the existing index, by file name and digest, of molds with one version:
/// only of those does it hold every text.
fn known(folder: &Path) -> BTreeMap<(String, String), Entry> {
    let text = fs::read_to_string(folder.join(INDEX_FILE)).unwrap_or_default();
    let entries = read_index(&text).unwrap_or_default();
    let single = entries.into_iter().filter(|entry| entry.versions.len() == 1);
    single
        .map(|entry| ((entry.versions[0].archive.clone(), entry.versions[0].sha256.clone()), entry))
        .collect()
}
