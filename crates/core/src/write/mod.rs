//! A verified plan becomes files. All of it or none of it.
//!
//! `stage` renders everything into a folder of its own, a `batch` of files at a time, to a `target`; `folder` gives that folder the casting's name with one rename;
//! `existing` decides what of it comes into a folder that is there; `bring` brings it there, by a `journal` that can be undone after a kill; `survey` looks at what is in
//! the way; `archive` packs instead; `recover` clears up after a program that was killed; `lock` keeps two of them apart.

mod archive;
mod batch;
mod bring;
mod existing;
mod folder;
mod journal;
mod lock;
mod recover;
mod stage;
mod survey;
mod target;

pub use archive::{ArchiveFormat, write_archive};
pub(crate) use bring::{Held, Staging};
pub(crate) use existing::{Chosen, chosen};
pub use recover::{Recovered, recover_beside, recover_inside};
pub(crate) use stage::{stage, stage_record, unreadable};
pub use survey::{Present, Surveyed, survey};
pub(crate) use target::write_file;

use crate::plan::PlanError;
use crate::record::RecordError;
use crate::verify::VerifiedPlan;
use std::path::{Path, PathBuf};

/// Is told what happens while it happens.
pub trait Observer: Sync {
    /// Files were written: how many so far, of how many.
    fn wrote(&self, done: usize, of: usize) {
        let _ = (done, of);
    }

    /// Whether somebody wants it to stop.
    fn is_cancelled(&self) -> bool {
        false
    }
}

impl Observer for () {}

/// A file that is there already and is not what the mold would write.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Conflict {
    /// Its path in the destination.
    pub path: String,
    /// The place of its entry in the plan.
    pub entry: usize,
}

/// What becomes of a file that is in the way.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Choice {
    /// What is there stays, and the new one is not written.
    Keep,
    /// The new one takes its place.
    Replace,
    /// What is there stays, and the new one is written beside it under another name.
    Aside,
}

/// Decides what the program cannot know.
pub trait Decide {
    /// What becomes of each of these files, in their order; none: there is nobody to say.
    fn conflicts(&mut self, conflicts: &[Conflict]) -> Option<Vec<Choice>>;
}

/// Nobody decides.
impl Decide for () {
    fn conflicts(&mut self, _: &[Conflict]) -> Option<Vec<Choice>> {
        None
    }
}

/// The same for all.
impl Decide for Choice {
    fn conflicts(&mut self, conflicts: &[Conflict]) -> Option<Vec<Choice>> {
        Some(vec![*self; conflicts.len()])
    }
}

/// What was written.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Written {
    /// The casting's folder, or the archive.
    pub place: PathBuf,
    /// How many files and links were written.
    pub files: usize,
    /// How many bytes are in them.
    pub bytes: u64,
    /// How many were there already, just so.
    pub same: usize,
    /// Files that were in the way and stayed.
    pub kept: Vec<String>,
    /// Files that were in the way and gave place.
    pub replaced: Vec<String>,
    /// Files that were in the way and stayed, with the path of the new one beside.
    pub aside: Vec<(String, String)>,
    /// Files for this machine only that were not written: they stay out of archives, and are never written over.
    pub local: Vec<String>,
}

/// Why nothing was written.
#[derive(Debug, thiserror::Error)]
pub enum WriteError {
    /// Mistakes in the mold's body.
    #[error(transparent)]
    Plan(#[from] PlanError),
    /// The destination is there and is no folder.
    #[error("{0} is there already and is not a folder")]
    NotAFolder(PathBuf),
    /// The destination is a link.
    #[error("{0} is a link")]
    IsALink(PathBuf),
    /// Something appeared at the destination while the cast was at work.
    #[error("{0} appeared while the cast was at work")]
    Appeared(PathBuf),
    /// Something in the destination changed while the cast was at work.
    #[error("{0} changed while the cast was at work")]
    Changed(PathBuf),
    /// Files are there already and are not what the mold would write.
    #[error("files are in the way")]
    InTheWay(Vec<Conflict>),
    /// Things are there already that cannot be written over: path and why.
    #[error("things are in the way that cannot be written over")]
    Blocked(Vec<(String, String)>),
    /// Folders in the destination are links that lead elsewhere: the paths below them.
    #[error("links in the destination lead elsewhere")]
    Elsewhere(Vec<String>),
    /// The destination is a casting of another mold.
    #[error("{folder} is a casting of {mold} already")]
    OtherCasting {
        /// The destination.
        folder: PathBuf,
        /// The mold that it came from.
        mold: String,
    },
    /// The destination has a record that cannot be read.
    #[error(transparent)]
    Record(#[from] RecordError),
    /// Another program is at work there.
    #[error("another tinmold is at work in {0}")]
    Busy(PathBuf),
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
    /// It failed half-way and could not be undone; the next run tries again.
    #[error("{error}; and what was done could not be undone: {undoing}")]
    HalfDone {
        /// Why it failed.
        error: Box<Self>,
        /// Why it could not be undone.
        undoing: Box<Self>,
    },
}

impl WriteError {
    pub(crate) fn io(what: &'static str, path: impl Into<PathBuf>) -> impl FnOnce(std::io::Error) -> Self {
        move |source| Self::Io { what, path: path.into(), source }
    }
}

/// Everything that was made, or why not: the mistakes of all together, and of anything else the first.
fn whole<T>(results: impl IntoIterator<Item = Result<T, WriteError>>) -> Result<Vec<T>, WriteError> {
    let results = results.into_iter();
    let (mut all, mut findings) = (Vec::with_capacity(results.size_hint().0), Vec::new());
    for result in results {
        match result {
            Ok(made) => all.push(made),
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

impl VerifiedPlan<'_> {
    /// Writes the plan into `folder`: as a new folder if nothing is there, else into the folder that is there.
    ///
    /// What is left by a program that was killed there is cleared up first.
    ///
    /// # Errors
    /// What is in the way, mistakes in the body, and what the system refuses. The destination is then as it was.
    pub fn write(
        &self,
        folder: &Path,
        observer: &dyn Observer,
        decide: &mut dyn Decide,
    ) -> Result<Written, WriteError> {
        match std::fs::symlink_metadata(folder) {
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => {
                folder::new_folder(self, folder, observer)
            }
            Err(error) => Err(WriteError::io("look at", folder)(error)),
            Ok(metadata) if metadata.is_symlink() => Err(WriteError::IsALink(folder.to_owned())),
            Ok(metadata) if metadata.is_dir() => existing::into_folder(self, folder, observer, decide),
            Ok(_) => Err(WriteError::NotAFolder(folder.to_owned())),
        }
    }
}
