//! `tinmold fit --undo`: undoes the last fit of a project.

use crate::args::{FitArgs, Format};
use crate::exit::Exit;
use crate::failure::{Failure, of_write_error};
use crate::global::GlobalOptions;
use crate::interrupt::Watch;
use crate::state;
use crate::stop::Stop;
use crate::text::fit_report::{shown_change, unified};
use crate::text::style::{BOLD, ERROR, FAINT, GOOD, NAME, result, result_document, safe};
use crate::ui::{Dialogue, Interface};
use serde_json::json;
use std::fmt::Write;
use tinmold_project::fit::{Undo, UndoError};
use tinmold_project::record::Recorded;

pub fn run(fit: &FitArgs, global: GlobalOptions, recorded: Option<&Recorded>) -> Result<Exit, Stop> {
    let Some(recorded) = recorded else {
        return Err(Failure::new(Exit::Usage, "there is no record of a fit here").into());
    };
    let undo = Undo::of(recorded).map_err(|error| of_undo(&error))?;
    let first = undo.part.answers.values().next().and_then(toml::Value::as_str);
    let name = [Some(undo.part.name.as_str()), first].into_iter().flatten().collect::<Vec<_>>().join(" ");
    let name = safe(&name);
    let root = safe(&recorded.root.display().to_string());
    let summary = |done: bool| {
        let changes: Vec<_> = undo
            .changes
            .iter()
            .map(|change| json!({ "path": change.path, "diff": unified(change) }))
            .collect();
        let answers = &undo.part.answers;
        json!({ "part": undo.part.name, "answers": answers, "removed": undo.removed, "changes": changes, "done": done })
    };
    if fit.format == Format::Json && fit.dry_run {
        result_document("fit-undo-1", summary(false));
        return Ok(Exit::Done);
    }
    if fit.dry_run {
        result(text(&undo));
        say!("Nothing was written.");
        return Ok(Exit::Done);
    }
    let unattended = fit.answers.unattended || fit.format == Format::Json;
    if !unattended && Interface::of_terminal(global.plain).is_some() {
        say!("{BOLD}Undo {name}{BOLD:#}  {FAINT}in {root}{FAINT:#}\n{}", text(&undo));
        match Dialogue.confirm("Undo it?") {
            Ok(true) => {}
            Ok(false) | Err(Stop::InputEnded) => return Err(Stop::Left),
            Err(stop) => return Err(stop),
        }
    }
    let (shown, removed, changed) = (summary(true), undo.removed.clone(), undo.changes.clone());
    let watch = Watch::new(global.hides_progress());
    undo.write(&state::journals(), &watch).map_err(|error| of_write_error(&error))?;
    drop(watch);
    if fit.format == Format::Json {
        result_document("fit-undo-1", shown);
    } else if !global.quiet {
        say!("{GOOD}Undone:{GOOD:#} {name} in {NAME}{root}{NAME:#}");
        if !removed.is_empty() {
            say!("  removed: {}", safe(&removed.join(", ")));
        }
        let changed: Vec<String> = changed.into_iter().map(|change| change.path).collect();
        if !changed.is_empty() {
            say!("  as before: {}", safe(&changed.join(", ")));
        }
    }
    Ok(Exit::Done)
}

fn text(undo: &Undo) -> String {
    let mut out = String::new();
    for path in &undo.removed {
        let _ = writeln!(out, "  {ERROR}- {}{ERROR:#}", safe(path));
    }
    for change in &undo.changes {
        out += &shown_change(change, 40);
    }
    out
}

fn of_undo(error: &UndoError) -> Failure {
    match error {
        UndoError::Nothing(_) => Failure::new(Exit::Usage, error.to_string()),
        UndoError::Io(_) => Failure::new(Exit::Failed, error.to_string()),
        UndoError::NotAsFitted { files, .. } => {
            let failure = Failure::new(Exit::InTheWay, format!("{error}; nothing was written"));
            let lines = files.iter().map(|(path, why)| format!("{} {}", safe(path), safe(&why.to_string())));
            lines.fold(failure, Failure::line).help("undo it by hand, or with version control")
        }
    }
}
