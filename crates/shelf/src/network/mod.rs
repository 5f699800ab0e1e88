//! The HTTP client, and how the network is used.

mod client;
mod credentials;

pub use client::NetworkError;
pub(crate) use client::{Answer, FetchRequest, Validators, fetch};

use crate::cache::Cache;
use std::collections::HashSet;
use std::path::PathBuf;
use std::sync::{Mutex, MutexGuard, PoisonError};
use std::time::Duration;

/// Is told of the progress of downloads.
pub trait DownloadObserver: Send + Sync {
    /// `bytes` bytes of a file were received, of `total` if that is known.
    fn received(&self, what: &str, bytes: u64, total: Option<u64>) {
        let _ = (what, bytes, total);
    }

    /// The download is over.
    fn finished(&self) {}

    /// Something the user should know, in a line.
    fn note(&self, line: &str) {
        let _ = line;
    }
}

impl DownloadObserver for () {}

/// Settings of the network.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NetworkSettings {
    /// True to never use it.
    pub offline: bool,
    /// Age up to which a listing is used without asking for a newer one.
    pub fresh: Duration,
    /// Read and connect timeout.
    pub timeout: Duration,
    /// Time before the first retry; doubled for each further one.
    pub pause: Duration,
    /// PEM files with certificate authorities to trust beside the system's.
    pub certificates: Vec<PathBuf>,
}

impl Default for NetworkSettings {
    fn default() -> Self {
        Self {
            offline: false,
            fresh: Duration::from_secs(24 * 60 * 60),
            timeout: Duration::from_secs(30),
            pause: Duration::from_millis(300),
            certificates: Vec::new(),
        }
    }
}

/// The network: settings, cache and observer.
pub struct Network {
    /// The settings.
    pub settings: NetworkSettings,
    /// The cache; without one nothing can be fetched.
    pub cache: Option<Cache>,
    /// The observer of downloads.
    pub observer: Box<dyn DownloadObserver>,
    /// URLs that could not be reached in this run; their cached listings are used without another
    /// request.
    unreachable: Mutex<HashSet<String>>,
}

impl Network {
    /// Makes a network.
    #[must_use]
    pub fn new(settings: NetworkSettings, cache: Option<Cache>, observer: Box<dyn DownloadObserver>) -> Self {
        Self { settings, cache, observer, unreachable: Mutex::default() }
    }

    /// Returns the URLs that could not be reached in this run.
    pub(crate) fn unreachable(&self) -> MutexGuard<'_, HashSet<String>> {
        // A panic elsewhere leaves whole names behind.
        self.unreachable.lock().unwrap_or_else(PoisonError::into_inner)
    }
}
