//! `tinmold finish`: runs the finishing steps of a project that are still open.

use crate::args::{FinishArgs, Format};
use crate::exit::Exit;
use crate::failure::{Failure, of_choice, of_mismatch, of_plan, of_record};
use crate::flow::fetch::fetch_recorded;
use crate::flow::finishing::{identity, run_chosen};
use crate::flow::recovery;
use crate::global::GlobalOptions;
use crate::settings::Settings;
use crate::state;
use crate::stop::Stop;
use crate::text::steps::{consent, offered};
use crate::text::style::{BOLD, FAINT, result_document, safe};
use crate::ui::{Dialogue, Interface};
use serde_json::{Value as Json, json};
use std::path::Path;
use tinmold_mold::Mold;
use tinmold_project::fit::in_folder;
use tinmold_project::plan::Plan;
use tinmold_project::record;
use tinmold_project::steps::{OfferedStep, StepChoice};

pub fn run(args: &FinishArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    let inside = args.dir.as_deref().unwrap_or(Path::new("."));
    if args.recover {
        return recovery::ask(inside, Interface::of_terminal(global.plain));
    }
    finish(args, global, true)
}

/// Runs the steps that are named, and does not list what else is open.
pub fn run_steps(args: &FinishArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    finish(args, global, false)
}

fn finish(args: &FinishArgs, global: GlobalOptions, lists_open: bool) -> Result<Exit, Stop> {
    let inside = args.dir.as_deref().unwrap_or(Path::new("."));
    let recorded = record::find(inside).map_err(|error| of_record(&error))?;
    let mold = Mold::load(fetch_recorded(&recorded, global)?).map_err(Failure::from)?;
    let answers = recorded.answers(&mold).map_err(|error| of_mismatch(&recorded.root, &error))?;
    let failed = |error| of_choice(error, &mold.package);
    let read = in_folder(&recorded.root);
    let read = |path: &str| read(path).ok()?.ok();
    let is_own = state::is_own(&recorded.root);
    let vouch = args.vouch.as_deref();
    let mut steps = StepChoice::new(&mold, &answers.values, Some(&read), is_own, vouch, state::is_vouched)
        .map_err(failed)?;
    let limits = Settings::read()?.limits();
    let plan = Plan::new(&mold, &answers, &limits).map_err(|error| of_plan(error, &mold.package))?;
    steps.leave_out_local(&plan);
    if args.steps.is_empty() {
        // A step is open until it ran as it is now. Proofs are always offered.
        let done = state::done_steps(&recorded.root);
        steps.retain(|step| step.proof || done.get(&step.name) != Some(&identity(step)));
        if args.format == Format::Json {
            result_document("finish-1", json!({ "folder": recorded.root, "steps": open_as_json(&steps) }));
            return Ok(Exit::Done);
        }
        if steps.steps.is_empty() {
            say!("Nothing is open.");
            return Ok(Exit::Done);
        }
        if Interface::of_terminal(global.plain).is_none() {
            print_open(&steps);
            return Ok(Exit::Done);
        }
        say!("{}", offered(&steps).trim_start());
        match Dialogue.steps(&mut steps) {
            Ok(true) => {}
            Ok(false) | Err(Stop::Left | Stop::InputEnded) => {
                say!("Left without running anything.");
                return Ok(Exit::Done);
            }
            Err(stop) => return Err(stop),
        }
    } else {
        steps.tick(&args.steps.join(",")).map_err(failed)?;
    }
    let quiet = GlobalOptions { quiet: global.quiet || args.format == Format::Json, ..global };
    let finished = run_chosen(&steps, &recorded.root, quiet);
    if args.format == Format::Json {
        result_document("finish-1", json!({ "folder": recorded.root, "steps": finished.as_json() }));
    } else if !global.quiet && lists_open {
        finished.print_open();
    }
    Ok(finished.exit())
}

/// Returns the open steps as data.
fn open_as_json(steps: &StepChoice) -> Vec<Json> {
    let open = |step: &OfferedStep| json!({ "name": step.name, "result": "open", "why": null, "log": null });
    steps.steps.iter().map(open).collect()
}

/// Lists the open steps and their commands.
fn print_open(steps: &StepChoice) {
    say!("{BOLD}Open{BOLD:#} {FAINT}(name them, or say `all`, to run them){FAINT:#}");
    for step in &steps.steps {
        say!("  {}  {FAINT}{}{FAINT:#}", safe(&step.name), safe(&step.label));
        for line in consent(step) {
            say!("    {line}");
        }
    }
}
