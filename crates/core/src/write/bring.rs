//! What is staged comes to its place in a folder that is there: all of it, or none.

use super::journal::Work;
use super::lock::Lock;
use super::{Observer, WriteError, recover};
use crate::digest::Digest;
use std::path::Path;

/// A folder that nobody else writes to, and in which nothing is left of a write that was killed.
pub(crate) struct Held<'f> {
    folder: &'f Path,
    _lock: Lock,
}

/// What was staged, and what becomes of it.
#[derive(Default)]
pub(crate) struct Staging {
    /// The paths of the files and links that were staged, in the order in which they come to their places.
    pub(crate) files: Vec<String>,
    /// The folders that have nothing in them.
    pub(crate) folders: Vec<String>,
    /// The paths of files and links that go.
    pub(crate) removed: Vec<String>,
    /// By path: what must be there still. Nothing, or a file of this digest.
    pub(crate) expected: Vec<(String, Option<Digest>)>,
}

impl<'f> Held<'f> {
    /// Takes the folder.
    ///
    /// # Errors
    /// Another program is at work there, or what is left of one that was killed cannot be taken back.
    pub(crate) fn take(folder: &'f Path) -> Result<Self, WriteError> {
        let lock = Lock::of(folder)?;
        recover::settle(folder)?;
        Ok(Self { folder, _lock: lock })
    }

    /// Lets `stage` fill a folder, and brings what is in it to its place.
    ///
    /// # Errors
    /// What `stage` says, what changed meanwhile, and what the system refuses. The folder is then as it was.
    pub(crate) fn bring(
        &self,
        observer: &dyn Observer,
        stage: impl FnOnce(&Path) -> Result<Staging, WriteError>,
    ) -> Result<(), WriteError> {
        let work = Work::at(self.folder);
        let result = work.begin().and_then(|()| {
            let staging = stage(&work.new_files())?;
            let journal = work.plan(&staging)?;
            work.commit(&journal, &|| observer.is_cancelled()).map_err(|error| match work.undo(&journal) {
                Ok(_) => error,
                Err(undoing) => WriteError::HalfDone { error: Box::new(error), undoing: Box::new(undoing) },
            })
        });
        // What could not be undone stays with its journal, for the next run.
        if !matches!(result, Err(WriteError::HalfDone { .. })) {
            let cleared = work.clear();
            if result.is_ok() {
                cleared?;
            }
        }
        result
    }
}
