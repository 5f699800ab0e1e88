//! The entry point: arguments in, exit code out.

mod args;
mod commands;
// {= if config =}
mod config;
// {= end =}

use args::Command;
use std::process::ExitCode;

/// The work failed.
const FAILED: u8 = 1;
// {= if not clap =}
/// The command line is wrong.
const USAGE: u8 = 2;
// {= end =}

fn main() -> ExitCode {
    // {= if clap =}
    let command = args::read();
    // {= else =}
    let command = match args::read(std::env::args_os().skip(1)) {
        Ok(command) => command,
        Err(error) => {
            eprintln!("error: {error}");
            eprintln!("try: {} help", env!("CARGO_PKG_NAME"));
            return ExitCode::from(USAGE);
        }
    };
    // {= end =}
    let result = match command {
        // {= if not clap =}
        Command::Help => {
            print!("{}", args::HELP);
            Ok(())
        }
        Command::Version => {
            println!("{} {}", env!("CARGO_PKG_NAME"), env!("CARGO_PKG_VERSION"));
            Ok(())
        }
        // {= end =}
        // {= if config =}
        Command::Count { files } => config::Config::load()
            .map_err(Into::into)
            .and_then(|config| commands::count::run(&files, config.total)),
        // {= else =}
        Command::Count { files } => commands::count::run(&files, true),
        // {= end =}
        // joint: commands (tinmold)
    };
    match result {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) => {
            eprintln!("error: {error}");
            ExitCode::from(FAILED)
        }
    }
}
