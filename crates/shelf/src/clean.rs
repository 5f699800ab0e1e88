//! Cleaning of the cache: what it holds, and what no shelf and no recent use needs.

use crate::cache::Cache;
use crate::listing::Kept;
use std::fs;
use std::path::{Path, PathBuf};
use std::time::{Duration, SystemTime};
use tinmold_platform::digest::Digest;

/// What was not used for so long is not needed.
const UNUSED: Duration = Duration::from_secs(90 * 86400);
/// A partial download is not resumed after so long.
const STALE: Duration = Duration::from_secs(86400);

/// Files of one kind in the cache.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Extent {
    /// Number of entries.
    pub entries: usize,
    /// Number of bytes in them.
    pub bytes: u64,
}

impl Extent {
    fn add(&mut self, bytes: u64) {
        self.entries += 1;
        self.bytes += bytes;
    }
}

/// The files of one kind: what stays, and what goes.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Cleaned {
    /// What they are.
    pub what: &'static str,
    /// What stays.
    pub kept: Extent,
    /// What was removed, or would be.
    pub removed: Extent,
}

/// Removes from the cache what neither a shelf at one of `places` nor a recent use needs; only counts if
/// `is_dry`.
#[must_use]
pub fn clean(cache: &Cache, places: &[String], is_dry: bool) -> Vec<Cleaned> {
    let now = SystemTime::now();
    let is_older = |path: &Path, age: Duration| {
        let modified = fs::symlink_metadata(path).and_then(|found| found.modified());
        // A time in the future is a wrong clock's.
        modified.is_ok_and(|then| now.duration_since(then).map_or(true, |old| old > age))
    };
    let indexes: Vec<Digest> = places
        .iter()
        .filter_map(|place| cache.note::<Kept>(place).and_then(|kept| kept.index.parse().ok()))
        .collect();
    let needed: Vec<PathBuf> = indexes
        .iter()
        .flat_map(|digest| [cache.place(digest), cache.catalogue(digest)])
        .chain(places.iter().flat_map(|place| [cache.folder("git", place), cache.note_place(place)]))
        .collect();
    let kinds: [(&str, &str, Duration); 5] = [
        ("archives and indexes", "files", UNUSED),
        ("search catalogues", "catalogues", UNUSED),
        ("copies of repositories", "git", UNUSED),
        ("partial downloads", "partial", STALE),
        ("notes", "notes", UNUSED),
    ];
    kinds
        .into_iter()
        .map(|(what, folder, age)| {
            let mut cleaned = Cleaned { what, kept: Extent::default(), removed: Extent::default() };
            for path in entries(&cache.root().join(folder), folder == "files") {
                let bytes = size(&path);
                if needed.contains(&path) || !is_older(&path, age) || is_locked(&path) {
                    cleaned.kept.add(bytes);
                    continue;
                }
                if !is_dry && let Err(error) = remove(&path) {
                    tracing::warn!(path = %path.display(), %error, "cannot remove from the cache");
                    cleaned.kept.add(bytes);
                    continue;
                }
                cleaned.removed.add(bytes);
            }
            cleaned
        })
        .collect()
}

/// Lists a folder of the cache; archives lie one level deeper.
fn entries(folder: &Path, is_nested: bool) -> Vec<PathBuf> {
    let list = |folder: &Path| -> Vec<PathBuf> {
        let mut all: Vec<PathBuf> =
            fs::read_dir(folder).into_iter().flatten().flatten().map(|entry| entry.path()).collect();
        all.sort();
        all
    };
    let all = list(folder);
    if is_nested { all.iter().flat_map(|folder| list(folder)).collect() } else { all }
}

/// Returns the bytes of a file, or of all files below a folder; links are not followed.
fn size(path: &Path) -> u64 {
    match fs::symlink_metadata(path) {
        Ok(found) if found.is_dir() => entries(path, false).iter().map(|path| size(path)).sum(),
        Ok(found) => found.len(),
        Err(_) => 0,
    }
}

/// Returns true if another program is using a file.
fn is_locked(path: &Path) -> bool {
    let is_file = fs::symlink_metadata(path).is_ok_and(|found| found.is_file());
    is_file && fs::File::open(path).is_ok_and(|file| file.try_lock().is_err())
}

fn remove(path: &Path) -> std::io::Result<()> {
    match fs::symlink_metadata(path)?.is_dir() {
        true => fs::remove_dir_all(path),
        false => fs::remove_file(path),
    }
}
