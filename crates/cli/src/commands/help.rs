//! `tinmold`, `tinmold help`, and answers to a command line that is wrong.

use crate::args::help::{all_commands, first_steps, instead, is_of_program, of_command};
use crate::args::{Args, HelpArgs, HelpFormat};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::global::GlobalOptions;
use crate::stop::Stop;
use crate::text::style::{GOOD, NAME, count, result, result_document, safe};
use clap::CommandFactory;
use clap::error::{ContextKind, ContextValue, ErrorKind};
use tinmold_notation::did_you_mean;

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
        match of_command(&args.command) {
            Ok(help) => result(help),
            Err((name, parent)) => {
                let known: Vec<&str> = parent.get_subcommands().map(clap::Command::get_name).collect();
                return Err(unknown_command(&name, &known, parent.get_name() == "shelf").into());
            }
        }
    }
    Ok(Exit::Done)
}

/// Reports a command line that the parser did not take, or prints the help that was asked for.
pub fn refused(error: &clap::Error) -> Exit {
    if error.kind() == ErrorKind::DisplayHelp && is_of_program() {
        result(all_commands());
        return Exit::Done;
    }
    if !error.use_stderr() {
        // A disk that is full behind standard output is reported for these too.
        result(error.render().ansi().to_string());
        return Exit::Done;
    }
    let word = match error.get(ContextKind::InvalidSubcommand) {
        Some(ContextValue::String(word)) if error.kind() == ErrorKind::InvalidSubcommand => word,
        _ => {
            say_text!("{}", error.render().ansi());
            return Exit::Usage;
        }
    };
    let usage = error.get(ContextKind::Usage).map(ToString::to_string).unwrap_or_default();
    let in_shelf = usage.contains("tinmold shelf");
    let mut command = Args::command();
    command.build();
    let parent = if in_shelf { command.find_subcommand("shelf") } else { Some(&command) };
    let known: Vec<&str> =
        parent.into_iter().flat_map(clap::Command::get_subcommands).map(clap::Command::get_name).collect();
    let failure = unknown_command(word, &known, in_shelf);
    failure.print();
    failure.exit
}

fn unknown_command(word: &str, known: &[&str], in_shelf: bool) -> Failure {
    let program = if in_shelf { "tinmold shelf" } else { "tinmold" };
    let message = format!("{program} has no command `{}`; nothing was done", safe(word));
    let help = match instead(word, in_shelf) {
        Some(ours) => format!("type {ours}"),
        None => {
            let all = format!("`{program} --help` lists the commands");
            did_you_mean(word, known.iter().copied(), all)
        }
    };
    Failure::new(Exit::Usage, message).help(help)
}
