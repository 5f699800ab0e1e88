//! A verified plan becomes files. All of it or none of it.

mod folder;

pub use folder::new_folder;

use crate::plan::PlanError;
use std::path::PathBuf;

/// Is told what happens while it happens.
pub trait Observer: Sync {
    /// A file was written: how many so far, of how many.
    fn wrote(&self, done: usize, of: usize) {
        let _ = (done, of);
    }

    /// Whether somebody wants it to stop.
    fn is_cancelled(&self) -> bool {
        false
    }
}

impl Observer for () {}

/// What was written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Written {
    /// The casting's folder.
    pub folder: PathBuf,
    /// How many files and links.
    pub files: usize,
    /// How many bytes are in them.
    pub bytes: u64,
}

/// Why nothing was written.
#[derive(Debug, thiserror::Error)]
pub enum WriteError {
    /// Mistakes in the mold's body.
    #[error(transparent)]
    Plan(#[from] PlanError),
    /// The destination is there and not empty.
    #[error("{0} is there already and is not empty")]
    InTheWay(PathBuf),
    /// The destination is there and is no folder.
    #[error("{0} is there already and is not a folder")]
    NotAFolder(PathBuf),
    /// Somebody wanted it to stop.
    #[error("interrupted; nothing was written")]
    Cancelled,
    /// The system refused.
    #[error("cannot {what} {path}: {source}")]
    Io {
        /// What was tried.
        what: &'static str,
        /// On what.
        path: PathBuf,
        /// What the system said.
        source: std::io::Error,
    },
}

impl WriteError {
    pub(crate) fn io(what: &'static str, path: impl Into<PathBuf>) -> impl FnOnce(std::io::Error) -> Self {
        let path = path.into();
        move |source| Self::Io { what, path, source }
    }
}
