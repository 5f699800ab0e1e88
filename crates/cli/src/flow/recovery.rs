//! Recovers from interrupted runs and reports what was restored.

use crate::text::style::{FAINT, count, safe};
use std::path::Path;
use tinmold_project::record::FOLDER;
use tinmold_project::write::{Recovered, WriteError, recover_beside, recover_inside};

/// Recovers in the current directory, and in the projects around it.
pub fn here() {
    let Ok(here) = std::env::current_dir() else { return };
    said(&recover_beside(&here));
    for folder in here.ancestors().filter(|folder| folder.join(FOLDER).is_dir()) {
        // A failed recovery is reported by the command that works there.
        if let Ok(Some(recovered)) = recover_inside(folder) {
            said(&[recovered]);
        }
    }
}

/// Clears up in `folder` and beside it, before something is written there.
pub fn at(folder: &Path) -> Result<(), WriteError> {
    if let Some(beside) = folder.parent() {
        said(&recover_beside(if beside.as_os_str().is_empty() { Path::new(".") } else { beside }));
    }
    said(recover_inside(folder)?.as_slice());
    Ok(())
}

fn said(all: &[Recovered]) {
    for recovered in all {
        let shown = |path: &Path| safe(&path.display().to_string());
        match recovered {
            Recovered::Undone(folder, left) => {
                say!("{FAINT}Recovered: an interrupted write into {} was undone.{FAINT:#}", shown(folder));
                if !left.is_empty() {
                    say!(
                        "{} changed since and stayed: {}. The earlier file is beside it as NAME.before-cast.",
                        count(left.len(), "file"),
                        safe(&left.join(", "))
                    );
                }
            }
            Recovered::Finished(folder) => say!(
                "{FAINT}Recovered: a write into {} was interrupted before its first or after its last step; no file is lost.{FAINT:#}",
                shown(folder)
            ),
            Recovered::Swept(path) => {
                say!("{FAINT}Removed {}, which an interrupted run left.{FAINT:#}", shown(path));
            }
        }
    }
}
