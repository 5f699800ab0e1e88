//! Moves staged files into an existing folder: all of them, or none.

use super::error::WriteError;
use super::journal::Work;
use super::lock::Lock;
use super::observer::Observer;
use super::recovery::recover_locked;
use super::staging::Staging;
use std::path::Path;

/// A folder that no other program writes to, and in which no killed write is left.
pub(crate) struct LockedFolder<'f> {
    folder: &'f Path,
    _lock: Lock,
}

impl<'f> LockedFolder<'f> {
    /// Locks the folder and recovers from an interrupted write.
    ///
    /// # Errors
    /// Another program writes there, or an interrupted write cannot be undone.
    pub(crate) fn lock(folder: &'f Path) -> Result<Self, WriteError> {
        let lock = Lock::of(folder)?;
        recover_locked(folder)?;
        Ok(Self { folder, _lock: lock })
    }

    /// Calls `stage` with a staging directory, and moves what it lists into the project.
    ///
    /// # Errors
    /// An error of `stage`, what changed meanwhile, and what the system refuses. The folder is then as
    /// before.
    pub(crate) fn apply(
        &self,
        observer: &dyn Observer,
        stage: impl FnOnce(&Path) -> Result<Staging, WriteError>,
    ) -> Result<(), WriteError> {
        let _span = tracing::debug_span!("apply", folder = %self.folder.display()).entered();
        let work = Work::at(self.folder);
        let result = work.begin().and_then(|()| {
            let staging = stage(&work.new_files())?;
            let journal = work.plan(&staging)?;
            work.commit(&journal, &|| observer.is_cancelled()).map_err(|error| match work.undo(&journal) {
                Ok(_) => error,
                Err(undo) => WriteError::HalfDone { error: Box::new(error), undo: Box::new(undo) },
            })
        });
        // If the undo failed, the journal stays for the next run.
        if !matches!(result, Err(WriteError::HalfDone { .. })) {
            let cleared = work.clear();
            if result.is_ok() {
                cleared?;
            }
        }
        result
    }
}
