//! Recovers from interrupted runs and reports what was restored.

use crate::exit::Exit;
use crate::failure::{Failure, of_write_error};
use crate::state;
use crate::stop::Stop;
use crate::text::style::{BOLD, FAINT, NAME, WARN, count, safe};
use crate::ui::{Dialogue, Interface};
use std::path::Path;
use tinmold_project::write::{Recovered, Unrecovered, pending, recover};

/// The most paths that are listed of a recovery.
const MOST_SHOWN: usize = 40;

/// Recovers in the current directory, and in the directories above it.
pub fn here() {
    let Ok(here) = std::env::current_dir() else { return };
    near(&here.ancestors().collect::<Vec<_>>());
}

/// Recovers in `folder` and beside it, before something is written there. Fails if an interrupted write
/// into the folder is left.
pub fn at(folder: &Path) -> Result<(), Failure> {
    let beside =
        folder.parent().map(|beside| if beside.as_os_str().is_empty() { Path::new(".") } else { beside });
    let is_clear = near(&beside.into_iter().chain([folder]).collect::<Vec<_>>()) == 0
        // What is left may be of the place beside it only.
        || recover(&state::journals(), &[folder]).1.is_empty();
    if is_clear {
        return Ok(());
    }
    let message = "an interrupted write into this folder is not recovered; nothing was written";
    Err(Failure::new(Exit::Failed, message).help("recover it first: tinmold finish --recover"))
}

/// Recovers in these directories; returns how many writes are left.
fn near(places: &[&Path]) -> usize {
    let (recovered, unrecovered) = recover(&state::journals(), places);
    recovered.iter().for_each(report);
    for left in &unrecovered {
        say!("{WARN}not recovered:{WARN:#} {}", safe(&left.to_string()));
        if let Unrecovered::Moved { .. } = left {
            say!("  {FAINT}next:{FAINT:#}  tinmold finish --recover shows what a recovery changes, and asks");
        }
    }
    unrecovered.len()
}

/// Shows what each recovery would change that was not made by itself, and asks.
pub fn ask(here: &Path, interface: Option<Interface>) -> Result<Exit, Stop> {
    let all = pending(&state::journals(), here);
    if all.is_empty() {
        say!("Nothing is to be recovered.");
        return Ok(Exit::Done);
    }
    if interface.is_none() {
        let failure = Failure::new(Exit::Missing, "a recovery is asked about, and there is no terminal");
        let lines = all.iter().map(|one| safe(&one.folder.display().to_string()));
        return Err(lines.fold(failure, Failure::line).help("type it in a terminal").into());
    }
    for one in all {
        let (folder, was) = (one.folder.display().to_string(), one.was.display().to_string());
        say!("{BOLD}An interrupted write into{BOLD:#} {NAME}{}{NAME:#}", safe(&folder));
        if folder != was {
            say!("  {FAINT}it was at {} then{FAINT:#}", safe(&was));
        }
        if one.paths.is_empty() {
            say!("  only the staging directory is removed");
        }
        for path in one.paths.iter().take(MOST_SHOWN) {
            say!("  becomes as before: {}", safe(path));
        }
        if one.paths.len() > MOST_SHOWN {
            say!("  and {} more", count(one.paths.len() - MOST_SHOWN, "file"));
        }
        if Dialogue.confirm("Recover it?")? {
            one.recover().map_err(|error| of_write_error(&error))?.iter().for_each(report);
        }
    }
    Ok(Exit::Done)
}

fn report(recovered: &Recovered) {
    let shown = |path: &Path| safe(&path.display().to_string());
    match recovered {
        Recovered::Undone(folder, left) => {
            say!("{FAINT}Recovered: an interrupted write into {} was undone.{FAINT:#}", shown(folder));
            if !left.is_empty() {
                say!("{} changed since and stayed:", count(left.len(), "file"));
            }
            for (path, beside) in left {
                match beside {
                    Some(beside) => say!("  {}; the earlier file is {}", safe(path), safe(beside)),
                    None => say!("  {}", safe(path)),
                }
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
