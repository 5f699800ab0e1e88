//! `tinmold`: starts a project from a parameterised template.

#[macro_use]
mod say;

mod args;
mod commands;
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
use exit::Exit;
use global::GlobalOptions;
use std::process::ExitCode;
use stop::Stop;

fn main() -> ExitCode {
    let args = match Args::try_parse() {
        Ok(args) => args,
        // A disk that is full behind standard output is told for these too.
        Err(help) if !help.use_stderr() => {
            text::style::result(help.render().ansi().to_string());
            return ExitCode::from(Exit::Done as u8);
        }
        Err(wrong) => wrong.exit(),
    };
    let exit = run(&args).unwrap_or_else(Stop::report);
    ExitCode::from(exit as u8)
}

fn run(args: &Args) -> Result<Exit, Stop> {
    let global = GlobalOptions::of(args);
    log::start(args.log.as_deref())?;
    interrupt::listen();
    if global.plain {
        anstream::ColorChoice::Never.write_global();
    }
    flow::recovery::here();
    match &args.command {
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
        Command::Check(check) => commands::check::run(check, global),
        Command::Prove(prove) => commands::prove::run(prove, global),
        Command::Assay(assay) => commands::assay::run(assay, global),
        Command::Pack(pack) => commands::pack::run(pack, global),
    }
}
