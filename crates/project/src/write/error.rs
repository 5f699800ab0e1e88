//! Why nothing was written.

use super::cover::Uncovered;
use super::decision::Conflict;
use super::state::BlockReason;
use crate::plan::PlanError;
use crate::record::RecordError;
use std::path::PathBuf;
use tinmold_mold::PackageError;
use tinmold_platform::root_dir::{RootDir, is_link_on_the_way};

/// Why nothing was written.
#[derive(Debug, thiserror::Error)]
pub enum WriteError {
    /// The body has mistakes.
    #[error(transparent)]
    Plan(#[from] PlanError),
    /// A file of the mold cannot be read.
    #[error(transparent)]
    Package(#[from] PackageError),
    /// The destination exists and is not a folder.
    #[error("{0} exists and is not a folder")]
    NotAFolder(PathBuf),
    /// The archive exists.
    #[error("{0} exists")]
    ArchiveExists(PathBuf),
    /// The destination is a link.
    #[error("{0} is a link")]
    IsALink(PathBuf),
    /// The name of the destination is not UTF-8.
    #[error("the name of {0} is not UTF-8")]
    BadName(PathBuf),
    /// Something appeared at the destination during the write.
    #[error("{0} appeared during the write")]
    Appeared(PathBuf),
    /// Something at the destination changed since it was inspected.
    #[error("{0} changed during the write")]
    Changed(PathBuf),
    /// Files exist and differ, and there is no choice for them.
    #[error("files are in the way")]
    Conflicts(Vec<Conflict>),
    /// Things exist that cannot be overwritten.
    #[error("things are in the way that cannot be overwritten")]
    Blocked(Vec<(String, BlockReason)>),
    /// Folders in the destination are links that lead elsewhere: the paths below them.
    #[error("links in the destination lead elsewhere")]
    BehindLinks(Vec<String>),
    /// The destination is a project from another mold.
    #[error("{folder} is a project from the mold {mold}")]
    OtherProject {
        /// The destination.
        folder: PathBuf,
        /// The mold that it came from.
        mold: String,
    },
    /// The record in the destination cannot be read.
    #[error(transparent)]
    Record(#[from] RecordError),
    /// The user's state directory cannot hold the journal of the write.
    #[error("cannot keep the journal of the write in the state directory: {0}")]
    State(std::io::Error),
    /// Files of this machine only would get into git or into an image.
    #[error("files of this machine only are not kept out")]
    Uncovered(Vec<Uncovered>),
    /// Another program writes there.
    #[error("another tinmold is writing to {0}")]
    Busy(PathBuf),
    /// The user interrupted the write.
    #[error("interrupted; nothing was written")]
    Cancelled,
    /// The system refused.
    #[error("cannot {action} {path}: {source}")]
    Io {
        /// The action.
        action: &'static str,
        /// On what.
        path: PathBuf,
        /// The system's error.
        source: std::io::Error,
    },
    /// The write failed and could not be undone; the next run tries again.
    #[error("{error}; and what was done could not be undone: {undo}")]
    HalfDone {
        /// Why it failed.
        error: Box<Self>,
        /// Why it could not be undone.
        undo: Box<Self>,
    },
}

impl WriteError {
    /// Makes the error of a refused action beneath `root`; a link on the way has an error of its own.
    pub(crate) fn at(
        action: &'static str,
        root: &RootDir,
        path: &str,
    ) -> impl FnOnce(std::io::Error) -> Self + use<> {
        let (whole, path) = (root.path().join(path), path.to_owned());
        move |source| match is_link_on_the_way(&source) {
            true => Self::BehindLinks(vec![path]),
            false => Self::Io { action, path: whole, source },
        }
    }

    /// Makes the error of a path that belongs to the program and is something else.
    pub(crate) fn own_path_taken(path: &str) -> Self {
        Self::Blocked(vec![(path.to_owned(), BlockReason::OwnPath)])
    }

    /// Makes the error of a refused action.
    pub(crate) fn io(action: &'static str, path: impl Into<PathBuf>) -> impl FnOnce(std::io::Error) -> Self {
        move |source| Self::Io { action, path: path.into(), source }
    }
}

/// Collects results: all of them, or the mistakes of all together, or the first other error.
pub(super) fn collect<T>(
    results: impl IntoIterator<Item = Result<T, WriteError>>,
) -> Result<Vec<T>, WriteError> {
    let (mut all, mut findings) = (Vec::new(), Vec::new());
    for result in results {
        match result {
            Ok(one) => all.push(one),
            Err(WriteError::Plan(PlanError::Faulty(found))) => findings.extend(found),
            Err(other) => return Err(other),
        }
    }
    if findings.is_empty() {
        return Ok(all);
    }
    tinmold_notation::sort_findings(&mut findings);
    Err(PlanError::Faulty(findings).into())
}
