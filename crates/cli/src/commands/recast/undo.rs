//! `tinmold recast --undo`: takes the last recast of a project back.

use crate::args::{RecastArgs, RecastFormat};
use crate::exit::Exit;
use crate::failure::{Failure, of_write_error};
use crate::global::GlobalOptions;
use crate::interrupt::Watch;
use crate::state;
use crate::stop::Stop;
use crate::text::style::{BOLD, FAINT, GOOD, NAME, count, result_document, safe};
use crate::ui::{Dialogue, Interface};
use serde_json::json;
use tinmold_project::recast::RecastUndoError;
use tinmold_project::record::Recorded;

pub fn run(args: &RecastArgs, global: GlobalOptions, recorded: &Recorded) -> Result<Exit, Stop> {
    let store = state::undo_store(&recorded.root);
    let store = store.ok_or_else(|| of_undo(&RecastUndoError::Nothing))?;
    let undo = store.undo(&recorded.root).map_err(|error| of_undo(&error))?;
    let root = safe(&recorded.root.display().to_string());
    let paths: Vec<String> = undo.paths().into_iter().map(str::to_owned).collect();
    let moves: Vec<_> = undo.moves().collect();
    let shown = |done: bool| json!({ "folder": root, "paths": paths, "moves": moves, "done": done });
    if args.dry_run {
        match args.format {
            RecastFormat::Text => {
                paths.iter().for_each(|path| say!("  {}", safe(path)));
                say!("Nothing was written.");
            }
            _ => result_document("recast-undo-1", shown(false)),
        }
        return Ok(Exit::Done);
    }
    let unattended = args.answers.unattended || args.format != RecastFormat::Text;
    if !unattended && Interface::of_terminal(global.plain).is_some() {
        say!("{BOLD}Undo the last recast{BOLD:#}  {FAINT}of {root}{FAINT:#}");
        paths.iter().take(40).for_each(|path| say!("  {}", safe(path)));
        match Dialogue.confirm("Undo it?") {
            Ok(true) => {}
            Ok(false) | Err(Stop::InputEnded) => return Err(Stop::Left),
            Err(stop) => return Err(stop),
        }
    }
    let watch = Watch::new(true);
    undo.write(&state::journals(), &watch).map_err(|error| of_undo(&error))?;
    drop(watch);
    match args.format {
        RecastFormat::Text if global.quiet => {}
        RecastFormat::Text => {
            say!("{GOOD}Undone:{GOOD:#} {NAME}{root}{NAME:#}, {} as before", count(paths.len(), "file"));
        }
        _ => result_document("recast-undo-1", shown(true)),
    }
    Ok(Exit::Done)
}

fn of_undo(error: &RecastUndoError) -> Failure {
    match error {
        RecastUndoError::Nothing => Failure::new(Exit::Usage, error.to_string()).help(
            "only the last recast can be undone, on the machine where it ran, and before the next fit or cast",
        ),
        RecastUndoError::NotAsLeft(paths) => {
            let failure = Failure::new(Exit::InTheWay, format!("{error}; nothing was written"));
            let failure = paths.iter().fold(failure, |failure, path| failure.line(safe(path)));
            failure.help("undo it by hand, or with version control")
        }
        RecastUndoError::Damaged(_) => {
            Failure::new(Exit::Failed, format!("{error}; nothing was written"))
        }
        RecastUndoError::Write(error) => of_write_error(error),
    }
}
