//! `tinmold`, `tinmold help`, and answers to a command line that is wrong.

use crate::args::help::{all_commands, first_steps, of_command};
use crate::args::refusal::{NamedCommand, Refusal, refusal};
use crate::args::{HelpArgs, HelpFormat};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::global::GlobalOptions;
use crate::stop::Stop;
use crate::text::style::{GOOD, NAME, count, result, result_document, safe};
use clap::error::ErrorKind;

mod man;
mod reference;

/// Prints the commands to begin with.
pub fn first() -> Exit {
    result(first_steps());
    Exit::Done
}

pub fn run(args: &HelpArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    if let Some(folder) = &args.man {
        let written = man::write(folder).map_err(|error| {
            Failure::new(Exit::Failed, format!("cannot write man pages to {}: {error}", folder.display()))
        })?;
        if !global.quiet {
            let folder = safe(&folder.display().to_string());
            say!("{GOOD}Written:{GOOD:#} {} to {NAME}{folder}{NAME:#}", count(written, "man page"));
        }
    } else if args.format == HelpFormat::Json {
        result_document("reference-1", reference::as_json());
    } else if args.command.is_empty() {
        result(all_commands());
    } else {
        let mut named = NamedCommand::program();
        for word in &args.command {
            named = named.inner(word).ok_or_else(|| failure(&named.without(word)))?;
        }
        result(of_command(&args.command));
    }
    Ok(Exit::Done)
}

/// Reports a command line that the parser did not take, or prints the help that was asked for.
pub fn refused(error: &clap::Error) -> Exit {
    if error.kind() == ErrorKind::DisplayHelp && NamedCommand::read().is_program() {
        result(all_commands());
        return Exit::Done;
    }
    if !error.use_stderr() {
        // A disk that is full behind standard output is reported for these too.
        result(error.render().ansi().to_string());
        return Exit::Done;
    }
    match refusal(error) {
        Some(refusal) => failure(&refusal).print(),
        None => say_text!("{}", error.render().ansi()),
    }
    Exit::Usage
}

fn failure(refusal: &Refusal) -> Failure {
    Failure::new(Exit::Usage, safe(&refusal.message)).help(safe(&refusal.help))
}
