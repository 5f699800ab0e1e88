//! Deciding about files that are in the way, before anything is written.

use crate::failure;
use crate::stop::Stop;
use crate::text::diff::{InTheWay, difference};
use crate::text::style::{NAME, safe};
use crate::ui::Dialogue;
use crate::ui::setup::Decision;
use tinmold_project::recast::Decided;
use tinmold_project::verify::VerifiedPlan;
use tinmold_project::write::Change;
use tinmold_project::write::cover;
use tinmold_project::write::{Choice, Inspection, WriteError};

/// Who decides about what the command line does not.
#[derive(Clone, Copy)]
pub enum Decider<'a> {
    /// Nobody can be asked.
    Nobody,
    /// The user is asked in plain lines.
    Lines,
    /// The user has decided on the screen.
    Decided(&'a Decision),
}

/// Decides about every file that is in the way: as the command line says, or as the user does.
///
/// Then every file of this machine only must be kept out of git: the lines that do so are offered as
/// changes of the user's ignore files. What nobody decides is listed in the failure.
pub fn decide(
    plan: &VerifiedPlan<'_>,
    changes: &[Change],
    inspection: &mut Inspection,
    if_present: Option<Choice>,
    decider: Decider<'_>,
) -> Result<Vec<Choice>, Stop> {
    let choices = choose(plan, inspection, if_present, decider)?;
    // In a new folder there is no ignore file of the user's to change: the write judges the mold's.
    if inspection.is_new {
        return Ok(choices);
    }
    let uncovered = cover::uncovered(plan, Some(inspection), &choices, changes);
    let refused = || failure::of_write(WriteError::Uncovered(uncovered.clone()), plan);
    for one in &uncovered {
        let Some(line) = &one.line else { return Err(refused().into()) };
        let is_accepted = match decider {
            Decider::Nobody => false,
            Decider::Decided(decision) => decision.lines.contains(line),
            Decider::Lines => {
                say!("{NAME}{}{NAME:#} is for this machine only and {}.", safe(&one.path), one.into);
                Dialogue.confirm(&format!("Add the line {} to {}?", safe(&line.line), safe(&line.file)))?
            }
        };
        if !is_accepted {
            return Err(refused().into());
        }
        inspection.accept_ignore_lines([line.clone()]);
    }
    Ok(choices)
}

/// Returns what was decided on the screen about a file.
pub fn choice_of(decided: &Decided) -> Choice {
    match decided {
        Decided::Mine | Decided::Both | Decided::Text(_) => Choice::Keep,
        Decided::Theirs => Choice::Replace,
        Decided::Aside => Choice::Aside,
    }
}

/// Decides about every file that is in the way.
fn choose(
    plan: &VerifiedPlan<'_>,
    inspection: &Inspection,
    if_present: Option<Choice>,
    decider: Decider<'_>,
) -> Result<Vec<Choice>, Stop> {
    let conflicts = inspection.conflicts(plan);
    if let Some(choice) = if_present {
        return Ok(vec![choice; conflicts.len()]);
    }
    let undecided = || failure::of_write(WriteError::Conflicts(conflicts.clone()), plan);
    let mut choices: Vec<Choice> = Vec::with_capacity(conflicts.len());
    for (at, conflict) in conflicts.iter().enumerate() {
        match decider {
            Decider::Nobody => return Err(undecided().into()),
            // A file that came since is not overwritten unseen.
            Decider::Decided(decision) => {
                let choice = decision.choices.get(&conflict.path).ok_or_else(undecided)?;
                choices.push(choice_of(choice));
            }
            Decider::Lines => {
                let shown = InTheWay {
                    path: &conflict.path,
                    number: at + 1,
                    of: conflicts.len(),
                    difference: difference(plan, &inspection.folder, conflict),
                };
                let reply = Dialogue.conflict(&shown).map_err(|stop| stop.or_missing(undecided))?;
                choices.push(reply.choice);
                if reply.for_all {
                    choices.resize(conflicts.len(), reply.choice);
                    break;
                }
            }
        }
    }
    Ok(choices)
}
