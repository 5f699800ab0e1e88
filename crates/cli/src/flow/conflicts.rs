//! Deciding about files that are in the way, before anything is written.

use crate::failure;
use crate::stop::Stop;
use crate::text::diff::{InTheWay, difference};
use crate::text::style::{NAME, safe};
use crate::ui::Prompter;
use tinmold_project::verify::VerifiedPlan;
use tinmold_project::write::Change;
use tinmold_project::write::cover;
use tinmold_project::write::{Choice, Inspection, WriteError};

/// Decides about every file that is in the way: as the command line says, or by asking.
///
/// Then every file of this machine only must be kept out of git: the lines that do so are offered as
/// changes of the user's ignore files. Without a prompter, what is not decided is listed in the failure.
pub fn decide(
    plan: &VerifiedPlan<'_>,
    changes: &[Change],
    inspection: &mut Inspection,
    if_present: Option<Choice>,
    mut prompter: Option<&mut dyn Prompter>,
) -> Result<Vec<Choice>, Stop> {
    let choices = choose(plan, inspection, if_present, &mut prompter)?;
    // In a new folder there is no ignore file of the user's to change: the write judges the mold's.
    if inspection.is_new {
        return Ok(choices);
    }
    let uncovered = cover::uncovered(plan, Some(inspection), &choices, changes);
    if uncovered.is_empty() {
        return Ok(choices);
    }
    let refused = || failure::of_write(WriteError::Uncovered(uncovered.clone()), plan);
    let Some(prompter) = prompter else { return Err(refused().into()) };
    for one in &uncovered {
        let Some(line) = &one.line else { return Err(refused().into()) };
        say!("{NAME}{}{NAME:#} is for this machine only and {}.", safe(&one.path), one.into);
        let ask = format!("Add the line {} to {}?", safe(&line.line), safe(&line.file));
        if !prompter.confirm(&ask)? {
            return Err(refused().into());
        }
        inspection.accept_ignore_lines([line.clone()]);
    }
    Ok(choices)
}

/// Decides about every file that is in the way.
fn choose(
    plan: &VerifiedPlan<'_>,
    inspection: &Inspection,
    if_present: Option<Choice>,
    prompter: &mut Option<&mut dyn Prompter>,
) -> Result<Vec<Choice>, Stop> {
    let conflicts = inspection.conflicts(plan);
    if let Some(choice) = if_present {
        return Ok(vec![choice; conflicts.len()]);
    }
    if conflicts.is_empty() {
        return Ok(Vec::new());
    }
    let undecided = || failure::of_write(WriteError::Conflicts(conflicts.clone()), plan);
    let Some(prompter) = prompter else { return Err(undecided().into()) };
    let mut choices: Vec<Choice> = Vec::with_capacity(conflicts.len());
    for (at, conflict) in conflicts.iter().enumerate() {
        let shown = InTheWay {
            path: &conflict.path,
            number: at + 1,
            of: conflicts.len(),
            difference: difference(plan, &inspection.folder, conflict),
        };
        let reply = prompter.conflict(&shown).map_err(|stop| stop.or_missing(undecided))?;
        choices.push(reply.choice);
        if reply.for_all {
            choices.resize(conflicts.len(), reply.choice);
            break;
        }
    }
    Ok(choices)
}
