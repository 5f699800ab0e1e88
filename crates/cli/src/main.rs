//! `tinmold`: starts a project from a parameterised template.

mod args;
mod ask;
mod clear_up;
mod commands;
mod config;
mod exit;
mod failure;
mod findings;
mod finishing;
mod given;
mod interrupt;
mod keep;
mod later;
mod probing;
mod progress;
mod sarif;
mod show;
mod tree;

use args::{Args, Command};
use clap::Parser;
use exit::Exit;
use std::process::ExitCode;

fn main() -> ExitCode {
    let args = Args::parse();
    interrupt::listen();
    if args.plain {
        anstream::ColorChoice::Never.write_global();
    }
    config::behave(config::Manner { offline: args.offline, hidden: args.plain || args.quiet });
    clear_up::here();
    let result = match &args.command {
        Command::Cast(cast) => commands::cast::run(cast, &args),
        Command::Preflight(preflight) => commands::preflight::run(preflight),
        Command::Fit(fit) => commands::fit::run(fit, &args),
        Command::Finish(finish) => commands::finish::run(finish, &args),
        Command::Status(status) => commands::status::run(status),
        Command::Find(find) => commands::find::run(find),
        Command::Shelf(shelf) => commands::shelves::run(shelf, &args),
        Command::Pack(pack) => commands::pack::run(pack, args.quiet),
        Command::Show(show) => commands::show::run(show, &args),
        Command::Demo(demo) => commands::demo::run(demo, &args),
        Command::Check(check) => commands::check::run(check, &args),
        Command::Assay(assay) => commands::assay::run(assay),
    };
    match result {
        Ok(exit) => exit.into(),
        Err(failure) => {
            failure.print();
            failure.exit.into()
        }
    }
}

impl From<Exit> for ExitCode {
    fn from(exit: Exit) -> Self {
        Self::from(exit as u8)
    }
}
