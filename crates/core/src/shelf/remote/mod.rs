//! Shelves elsewhere: fetched once, kept, and used from what is kept.

mod address;
mod age;
mod cache;
mod client;
mod credentials;
mod git;
mod git_shelf;
mod index_shelf;
mod kept;

pub(super) use address::{fetch_archive, fetch_repository};
pub use age::{age_of_day, how_long};
pub use cache::Cache;
pub use client::NetworkError;
pub use git_shelf::GitShelf;
pub use index_shelf::IndexShelf;

use super::package::PackageError;
use std::collections::HashSet;
use std::path::PathBuf;
use std::sync::{Mutex, MutexGuard, PoisonError};
use std::time::Duration;

/// What is told of a download while it runs.
pub trait Receiving: Send + Sync {
    /// So many bytes of a file were received, of so many if that is known.
    fn received(&self, what: &str, bytes: u64, of: Option<u64>) {
        let _ = (what, bytes, of);
    }

    /// The download is over.
    fn ended(&self) {}

    /// Something that is to be said, in a line.
    fn said(&self, line: &str) {
        let _ = line;
    }
}

impl Receiving for () {}

/// How the network is used.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NetworkSettings {
    /// Whether it is not used at all.
    pub offline: bool,
    /// For so long a listing is used without asking whether there is a newer one.
    pub fresh: Duration,
    /// For so long a server may say nothing.
    pub patience: Duration,
    /// So long it waits before it tries again; each further time twice as long.
    pub pause: Duration,
    /// Certificate authorities to trust beside the system's: files in PEM.
    pub certificates: Vec<PathBuf>,
}

impl Default for NetworkSettings {
    fn default() -> Self {
        let (day, half_a_minute) = (Duration::from_secs(24 * 60 * 60), Duration::from_secs(30));
        let pause = Duration::from_millis(300);
        Self { offline: false, fresh: day, patience: half_a_minute, pause, certificates: Vec::new() }
    }
}

/// The way to shelves elsewhere: the settings, what is kept, and who is told.
pub struct Network {
    /// How it is used.
    pub settings: NetworkSettings,
    /// What is kept of it; none where nothing can be kept, which makes it unusable.
    pub cache: Option<Cache>,
    /// Who is told of downloads.
    pub observer: Box<dyn Receiving>,
    /// The shelves that could not be asked: what is kept of them does for the rest of the run, and is said once.
    unreachable: Mutex<HashSet<String>>,
}

impl Network {
    /// A way to shelves elsewhere.
    #[must_use]
    pub fn new(settings: NetworkSettings, cache: Option<Cache>, observer: Box<dyn Receiving>) -> Self {
        Self { settings, cache, observer, unreachable: Mutex::default() }
    }

    fn unreachable(&self) -> MutexGuard<'_, HashSet<String>> {
        // A panic elsewhere leaves whole names behind.
        self.unreachable.lock().unwrap_or_else(PoisonError::into_inner)
    }

    fn cache(&self) -> Result<&Cache, String> {
        self.cache
            .as_ref()
            .ok_or_else(|| "there is no folder for what is fetched: set HOME or XDG_CACHE_HOME".into())
    }
}

/// Something that a shelf could not do.
fn failed(shelf: &str, reason: impl std::fmt::Display) -> PackageError {
    PackageError::Shelf { shelf: shelf.to_owned(), reason: reason.to_string() }
}
