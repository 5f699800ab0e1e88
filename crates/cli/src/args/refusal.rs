//! What is wrong with a command line, and what to type instead.

use super::Args;
use super::help::instead;
use clap::error::{ContextKind, ContextValue, ErrorKind};
use clap::{Command, CommandFactory, Error};
use std::error::Error as _;
use tinmold_notation::did_you_mean;

/// A command line that the parser does not take.
#[derive(Debug, PartialEq, Eq)]
pub struct Refusal {
    /// The mistake, a clause.
    pub message: String,
    /// What to do, an order.
    pub help: String,
}

/// The command that the line of this run names, as far as it does.
pub struct NamedCommand {
    /// The words, as in `tinmold shelf add`.
    pub name: String,
    command: Command,
}

impl NamedCommand {
    /// Reads the command line of this run; what is wrong with it does not matter.
    #[must_use]
    pub fn read() -> Self {
        let mut command = Args::command();
        let matches = command.clone().disable_help_flag(true).ignore_errors(true).try_get_matches();
        command.build();
        let mut name = command.get_name().to_owned();
        let matches = matches.ok();
        let mut inner = matches.as_ref().and_then(clap::ArgMatches::subcommand);
        while let Some((word, matches)) = inner {
            let Some(found) = command.find_subcommand(word) else { break };
            name = format!("{name} {word}");
            command = found.clone();
            inner = matches.subcommand();
        }
        Self { name, command }
    }

    /// Returns true if the line names no command.
    #[must_use]
    pub fn is_program(&self) -> bool {
        !self.name.contains(' ')
    }

    /// Returns what is wrong with a word that is no command of this one.
    #[must_use]
    pub fn without(&self, word: &str) -> Refusal {
        let message = format!("{} has no command `{word}`; nothing was done", self.name);
        let help = match instead(word, !self.is_program()) {
            Some(ours) => format!("type {ours}"),
            None => {
                let known = self.command.get_subcommands().map(Command::get_name);
                did_you_mean(word, known, format!("`{} --help` lists the commands", self.name))
            }
        };
        Refusal { message, help }
    }

    /// Returns the command of this name below this one.
    #[must_use]
    pub fn inner(&self, word: &str) -> Option<Self> {
        let command = self.command.find_subcommand(word)?.clone();
        Some(Self { name: format!("{} {word}", self.name), command })
    }

    /// Returns the program itself.
    #[must_use]
    pub fn program() -> Self {
        let mut command = Args::command();
        command.build();
        Self { name: command.get_name().to_owned(), command }
    }

    fn more(&self) -> String {
        match self.name.split_once(' ') {
            Some((program, words)) => format!("read {program} help {words}"),
            None => format!("read {} help", self.name),
        }
    }
}

fn text(error: &Error, kind: ContextKind) -> Option<String> {
    match error.get(kind)? {
        ContextValue::String(text) => Some(text.clone()),
        ContextValue::Strings(texts) => Some(texts.join(", ")),
        ContextValue::StyledStrs(texts) => {
            Some(texts.iter().map(ToString::to_string).collect::<Vec<_>>().join(", "))
        }
        _ => None,
    }
}

/// Returns what is wrong; `None` for what the parser tells best itself.
#[must_use]
pub fn refusal(error: &Error) -> Option<Refusal> {
    let command = NamedCommand::read();
    let (name, more) = (&command.name, command.more());
    let said = |kind| text(error, kind);
    let argument = said(ContextKind::InvalidArg).unwrap_or_default();
    let (message, help) = match error.kind() {
        ErrorKind::InvalidSubcommand => {
            return Some(command.without(&said(ContextKind::InvalidSubcommand)?));
        }
        ErrorKind::UnknownArgument => {
            let suggested = said(ContextKind::SuggestedArg).map(|near| format!("did you mean `{near}`?"));
            let is_option = argument.starts_with('-');
            let what = if is_option { "has no option" } else { "takes no further word" };
            (format!("{name} {what} `{argument}`"), suggested.unwrap_or(more))
        }
        ErrorKind::MissingRequiredArgument => (format!("{name} needs {argument}"), more),
        ErrorKind::InvalidValue | ErrorKind::ValueValidation => {
            let value = said(ContextKind::InvalidValue).unwrap_or_default();
            if value.is_empty() {
                (format!("{argument} needs a value"), more)
            } else {
                let why = error.source().map(|why| format!(": {why}")).unwrap_or_default();
                let near = said(ContextKind::SuggestedValue).map(|near| format!("did you mean `{near}`?"));
                let known = said(ContextKind::ValidValue).map(|all| format!("it is one of {all}"));
                (format!("{argument} cannot be `{value}`{why}"), near.or(known).unwrap_or(more))
            }
        }
        ErrorKind::ArgumentConflict => {
            let other = said(ContextKind::PriorArg).unwrap_or_default();
            if other == argument {
                (format!("{argument} can be given once"), more)
            } else {
                (format!("{argument} does not go with {other}"), "leave one of them out".to_owned())
            }
        }
        _ => return None,
    };
    Some(Refusal { message, help })
}
