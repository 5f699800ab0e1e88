//! What is staged beside its destination under a name of its own, and moved there with one rename.

use super::error::WriteError;
use super::journals::{Journal, Journals, WriteKind};
use super::names::random_name;
use std::path::Path;
use tinmold_platform::root_dir::RootDir;

/// The prefix of staging folders and files.
const STAGE: &str = ".tinmold-stage-";

/// A folder or archive that is staged.
pub(super) struct Beside {
    /// The directory of the destination.
    pub(super) place: RootDir,
    /// Its name there.
    pub(super) name: String,
    /// Without a state directory there is none, and a killed write leaves behind what it staged.
    journal: Option<Journal>,
}

impl Beside {
    /// Begins a write to `destination`. Nothing is there yet under the name.
    ///
    /// # Errors
    /// The directory of the destination cannot be opened.
    pub(super) fn begin(
        destination: &Path,
        kind: WriteKind,
        journals: &Journals,
    ) -> Result<Self, WriteError> {
        let beside = parent_of(destination);
        let place = RootDir::open_through_links(beside).map_err(WriteError::io("open", beside))?;
        let name = format!("{STAGE}{}", random_name().map_err(WriteError::io("write in", beside))?);
        let journal = journals.begin(kind, &place, &name, false);
        let journal = journal.map_err(|error| tracing::warn!(%error, "this write has no journal")).ok();
        Ok(Self { place, name, journal })
    }

    /// Notes what was made under the name: only that is removed after a kill.
    pub(super) fn note(&mut self) {
        if let (Some(journal), Ok(Some(found))) = (&mut self.journal, self.place.find(&self.name))
            && let Err(error) = journal.staged(found.identity)
        {
            tracing::warn!(%error, "cannot note what is staged");
        }
    }

    /// Ends the write: nothing staged is left.
    pub(super) fn end(self) {
        if let Some(Err(error)) = self.journal.map(Journal::end) {
            tracing::warn!(%error, "a journal stays");
        }
    }
}

/// Returns the folder that `path` is in.
pub(super) fn parent_of(path: &Path) -> &Path {
    match path.parent() {
        Some(parent) if !parent.as_os_str().is_empty() => parent,
        _ => Path::new("."),
    }
}
