//! `tinmold finish`: the finishing steps of a casting that are still open.

use crate::args::{Args, FinishArgs};
use crate::ask::{Asker, Stop, somebody};
use crate::exit::Exit;
use crate::failure::{Failure, of_record};
use crate::finishing::{Finishing, carry_out, identity, shell};
use crate::keep;
use crate::show::{BOLD, FAINT, safe};
use std::path::Path;
use tinmold_core::finish::Step;
use tinmold_core::mold::Mold;
use tinmold_core::record;

pub fn run(finish: &FinishArgs, args: &Args) -> Result<Exit, Failure> {
    let inside = finish.dir.as_deref().unwrap_or(Path::new("."));
    let recorded = record::find(inside).map_err(|error| of_record(&error))?;
    let mold = Mold::load(super::find_recorded(&recorded)?)?;
    let answers = recorded.answers(&mold).map_err(|why| {
        Failure::new(
            Exit::Failed,
            format!("the record of {} does not fit its mold: {why}", recorded.root.display()),
        )
    })?;
    let mut finishing = Finishing::new(&mold, &answers.values, finish.vouch.as_deref())?;
    if finish.steps.is_empty() {
        // Open is what was never done as it stands now; proofs are always offered.
        let done = keep::done_steps(&recorded.root);
        let open = |step: &Step| step.proof || done.get(&step.name) != Some(&identity(step));
        let keep: Vec<bool> = finishing.steps.iter().map(open).collect();
        let mut kept = keep.iter();
        finishing.steps.retain(|_| kept.next() == Some(&true));
        let mut kept = keep.iter();
        finishing.ticked.retain(|_| kept.next() == Some(&true));
        if finishing.steps.is_empty() {
            anstream::eprintln!("Nothing is open.");
            return Ok(Exit::Done);
        }
        match somebody(args.plain) {
            Some(mut asker) => {
                anstream::eprintln!("{}", finishing.text().trim_start());
                if !chosen_by(asker.as_mut(), &mut finishing)? {
                    anstream::eprintln!("Left without running anything.");
                    return Ok(Exit::Done);
                }
            }
            None => {
                anstream::eprintln!(
                    "{BOLD}Open{BOLD:#} {FAINT}(name them, or say `all`, to run them){FAINT:#}"
                );
                for step in &finishing.steps {
                    anstream::eprintln!("  {}  {FAINT}{}{FAINT:#}", safe(&step.name), safe(&step.label));
                    for command in step.commands() {
                        anstream::eprintln!("    {}", safe(&shell(&command)));
                    }
                }
                return Ok(Exit::Done);
            }
        }
    } else {
        finishing.tick(&finish.steps.join(","))?;
    }
    let finished = carry_out(&finishing, &recorded.root, args.verbose, args.plain, args.quiet);
    if !args.quiet {
        finished.say_what_is_left();
    }
    Ok(finished.exit())
}

/// Lets a person tick; false if they leave.
fn chosen_by(asker: &mut dyn Asker, finishing: &mut Finishing) -> Result<bool, Failure> {
    match asker.steps(finishing) {
        Ok(true) => Ok(true),
        Ok(false) | Err(Stop::Left | Stop::Ended) => Ok(false),
        Err(Stop::Interrupted) => Err(Failure::new(Exit::Interrupted, "interrupted; nothing was run")),
        Err(Stop::Terminal(error)) => {
            Err(Failure::new(Exit::Failed, format!("the terminal failed: {error}")))
        }
        Err(Stop::Mold(finding)) => Err(Failure::new(Exit::Faulty, finding.message)),
        Err(Stop::Failed(failure)) => Err(*failure),
    }
}
