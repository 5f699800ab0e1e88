//! The project that a part goes into.

use crate::args::FitArgs;
use crate::failure::{Failure, of_record};
use crate::flow::{fetch, recovery};
use crate::global::GlobalOptions;
use crate::settings::Settings;
use std::path::{Path, PathBuf};
use tinmold_mold::Mold;
use tinmold_project::record::{self, RecordError, Recorded};

/// The project that a part is fitted into, and the molds that it may come from.
pub(super) struct Project {
    pub(super) root: PathBuf,
    /// The record; `None` for a project that was not cast.
    pub(super) recorded: Option<Recorded>,
    /// The mold that the project was cast from.
    pub(super) own: Option<Mold>,
    /// The mold that `--mold` names.
    pub(super) other: Option<Mold>,
}

impl Project {
    /// Finds the project around the current directory; a directory without a record counts if a
    /// mold is named.
    pub(super) fn find(args: &FitArgs, settings: &Settings, global: GlobalOptions) -> Result<Self, Failure> {
        let inside = args.dir.as_deref().unwrap_or(Path::new("."));
        let may_lack_record = args.mold.is_some() && !args.undo;
        // A folder that is named is meant, not a project around it.
        let found = match &args.dir {
            Some(dir) if may_lack_record => record::at(dir),
            _ => record::find(inside),
        };
        let (root, recorded) = match found {
            Ok(recorded) => (recorded.root.clone(), Some(recorded)),
            Err(RecordError::NotAProject(_)) if may_lack_record && inside.is_dir() => {
                (inside.to_owned(), None)
            }
            Err(error) => return Err(of_record(&error)),
        };
        recovery::at(&root)?;
        if args.undo {
            return Ok(Self { root, recorded, own: None, other: None });
        }
        let own = match &recorded {
            Some(recorded) => Some(Mold::load(fetch::fetch_recorded(recorded, global)?)?),
            None => None,
        };
        let other = match &args.mold {
            Some(address) => Some(Mold::load(fetch::fetch_from(&settings.shelves(global), address)?)?),
            None => None,
        };
        Ok(Self { root, recorded, own, other })
    }

    /// Returns the name of the folder, as it was recorded.
    pub(super) fn folder_name(&self) -> String {
        let recorded = self.recorded.as_ref().map(|recorded| recorded.casting.built_in.project_dir.clone());
        let here = || Some(self.root.canonicalize().ok()?.file_name()?.to_string_lossy().into_owned());
        recorded.or_else(here).unwrap_or_default()
    }
}
