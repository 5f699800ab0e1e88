//! `tinmold`: starts a project from a parameterised template.

#[macro_use]
mod say;

mod args;
mod commands;
mod completion;
mod deferred_args;
mod exit;
mod failure;
mod flow;
mod global;
mod interrupt;
mod log;
mod progress;
mod settings;
mod state;
mod stop;
mod text;
mod ui;

use args::{Args, Command};
use clap::Parser;
use global::GlobalOptions;
use std::process::ExitCode;
use stop::Stop;

fn main() -> ExitCode {
    if completion::answer() {
        return ExitCode::SUCCESS;
    }
    let args = match Args::try_parse() {
        Ok(args) => args,
        Err(refused) => return ExitCode::from(commands::help::refused(&refused) as u8),
    };
    let exit = run(&args).unwrap_or_else(Stop::report);
    ExitCode::from(exit as u8)
}

fn run(args: &Args) -> Result<exit::Exit, Stop> {
    let global = GlobalOptions::of(args);
    log::start(args.log.as_deref())?;
    interrupt::listen();
    if global.plain {
        anstream::ColorChoice::Never.write_global();
    }
    flow::recovery::here();
    let Some(command) = &args.command else { return Ok(commands::help::first()) };
    match command {
        Command::Cast(cast) => commands::cast::run(cast, global),
        Command::Find(find) => commands::find::run(find, global),
        Command::Show(show) => commands::show::run(show, global),
        Command::Preflight(preflight) => commands::preflight::run(preflight, global),
        Command::Demo(demo) => commands::demo::run(demo, global),
        Command::Fit(fit) => commands::fit::run(fit, global),
        Command::Recast(recast) => commands::recast::run(recast, global),
        Command::Finish(finish) => commands::finish::run(finish, global),
        Command::Status(status) => commands::status::run(status, global),
        Command::Shelf(shelf) => commands::shelf::run(shelf, global),
        Command::Settings(settings) => commands::settings::run(settings, global),
        Command::Completion(completion) => commands::completion::run(completion),
        Command::Help(help) => commands::help::run(help, global),
        Command::Check(check) => commands::check::run(check, global),
        Command::Prove(prove) => commands::prove::run(prove, global),
        Command::Assay(assay) => commands::assay::run(assay, global),
        Command::Pack(pack) => commands::pack::run(pack, global),
    }
}
