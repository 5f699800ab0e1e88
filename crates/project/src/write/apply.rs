//! Moves staged files into an existing folder: all of them, or none.

use super::error::WriteError;
use super::journal::Work;
use super::journals::Journals;
use super::lock::Lock;
use super::observer::Observer;
use super::staging::Staging;
use std::path::Path;
use tinmold_platform::root_dir::RootDir;

/// A folder that no other program writes to.
pub(crate) struct LockedFolder {
    root: RootDir,
    _lock: Lock,
}

impl LockedFolder {
    /// Locks the folder.
    ///
    /// # Errors
    /// Another program writes there, or the folder cannot be opened.
    pub(crate) fn lock(folder: &Path) -> Result<Self, WriteError> {
        let lock = Lock::of(folder)?;
        // The folder itself may be a link that the user named.
        let root = RootDir::open_through_links(folder).map_err(WriteError::io("open", folder))?;
        Ok(Self { root, _lock: lock })
    }

    /// Returns the folder.
    pub(crate) fn root(&self) -> &RootDir {
        &self.root
    }

    /// Calls `stage` with a staging directory, and moves what it lists into the project.
    ///
    /// # Errors
    /// The state directory cannot hold the journal, an error of `stage`, what changed meanwhile, and what
    /// the system refuses. The folder is then as before.
    pub(crate) fn apply(
        &self,
        journals: &Journals,
        observer: &dyn Observer,
        stage: impl FnOnce(&RootDir) -> Result<Staging, WriteError>,
    ) -> Result<(), WriteError> {
        let root = &self.root;
        let _span = tracing::debug_span!("apply", folder = %root.path().display()).entered();
        let (work, mut journal) = Work::begin(root, journals)?;
        let result = work.new_files().and_then(|new_files| {
            let staging = stage(&new_files)?;
            let moves = work.plan(&staging)?;
            journal.moves(&moves).map_err(WriteError::State)?;
            let is_cancelled = || observer.is_cancelled();
            let committed =
                work.commit(&moves, &is_cancelled).and_then(|()| journal.done().map_err(WriteError::State));
            match committed {
                Ok(()) => work.drop_emptied(&moves),
                Err(error) => {
                    return Err(match work.undo(&moves) {
                        Ok(_) => error,
                        Err(undo) => WriteError::HalfDone { error: Box::new(error), undo: Box::new(undo) },
                    });
                }
            }
            Ok(())
        });
        // If the undo failed, the journal stays for the next run.
        if matches!(result, Err(WriteError::HalfDone { .. })) {
            return result;
        }
        let cleared = work.clear().and_then(|()| journal.end());
        if result.is_ok() {
            cleared?;
        }
        result
    }
}
