//! A verified plan becomes files: all of them, or none.
//!
//! `inspect` compares the plan with the destination, `decision` holds the choices for files in the
//! way. `stage` renders everything into a staging directory; `folder` makes that the project with
//! one rename; `existing` selects what is written into an existing directory, and `apply` moves it
//! there with a `journal` that can be undone after a kill; `journals` keeps it in the state directory;
//! `archive` packs instead; `beside` stages next to a destination; `recovery`
//! recovers from an interrupted run; `lock` excludes concurrent writes. Every decision is made before
//! the write.

mod apply;
mod archive;
mod beside;
mod change;
pub mod cover;
mod decision;
mod error;
mod existing;
mod folder;
mod inspect;
mod journal;
mod journals;
mod lock;
mod names;
mod observer;
mod recovery;
mod stage;
mod staging;
mod state;

pub(crate) use apply::LockedFolder;
pub use archive::{ArchiveFormat, write_archive};
pub use change::Change;
pub use decision::{Choice, Conflict, WriteSummary};
pub use error::WriteError;
pub(crate) use existing::{MoreLines, Selection, free_name, select};
pub use inspect::{ExistingFile, Inspection, inspect};
pub use journals::{Journals, WriteKind};
pub use observer::Observer;
pub use recovery::{Pending, Recovered, Unrecovered, pending, recover};
pub(crate) use stage::{Item, stage, stage_record};
pub(crate) use staging::Staging;
pub use state::{BlockReason, FileState};

use crate::verify::VerifiedPlan;

impl VerifiedPlan<'_> {
    /// Writes the plan into the inspected folder. `choices` decide about [`Inspection::conflicts`], in
    /// their order. `journals` keeps what a later run needs if this one is killed.
    ///
    /// # Errors
    /// Conflicts without a choice, what changed since the inspection, mistakes in the body, and
    /// what the system refuses. The destination is then as before.
    pub fn write(
        &self,
        inspection: &Inspection,
        choices: &[Choice],
        journals: &Journals,
        observer: &dyn Observer,
    ) -> Result<WriteSummary, WriteError> {
        let folder = &inspection.folder;
        let _span = tracing::debug_span!("write", folder = %folder.display()).entered();
        match (inspection.is_new, folder.is_dir()) {
            (true, _) => folder::write_new_folder(self, inspection, journals, observer),
            (false, true) => existing::write_into_folder(self, inspection, choices, journals, observer),
            (false, false) => Err(WriteError::Changed(folder.clone())),
        }
    }
}
