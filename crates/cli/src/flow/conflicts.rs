//! Deciding about files that are in the way, before anything is written.

use crate::failure;
use crate::stop::Stop;
use crate::text::diff::{InTheWay, difference};
use crate::ui::Prompter;
use tinmold_project::verify::VerifiedPlan;
use tinmold_project::write::{Choice, Inspection, WriteError};

/// Decides about every file that is in the way: as the command line says, or by asking.
///
/// Without a prompter and a choice, the files are listed in the failure.
pub fn decide(
    plan: &VerifiedPlan<'_>,
    inspection: &Inspection,
    if_present: Option<Choice>,
    prompter: Option<&mut dyn Prompter>,
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
