//! What the command line takes.

// {= if clap =}
use clap::{Parser, Subcommand};
use std::path::PathBuf;

#[derive(Debug, Parser)]
#[command(version, about)]
struct Args {
    #[command(subcommand)]
    command: Command,
}

/// The parsed command line.
#[derive(Debug, Subcommand)]
pub enum Command {
    /// Count the lines, words and bytes of files, or of standard input
    Count {
        /// The files; `-` is standard input
        files: Vec<PathBuf>,
    },
    // joint: commands (tinmold)
}

/// Reads the command line; ends the program where it is wrong or asks for help.
pub fn read() -> Command {
    Args::parse().command
}
// {= else =}
use std::ffi::OsString;
use std::fmt;
use std::path::PathBuf;

/// What `help` prints.
pub const HELP: &str = concat!(
    {= summary.rust =},
    "\n\n",
    "{= name =} count [FILE…]   count lines, words and bytes; standard input without a file, or as -\n",
    // joint: help (tinmold)
    "{= name =} help            show this\n",
    "{= name =} version         show the version\n",
);

/// The parsed command line.
#[derive(Debug, PartialEq, Eq)]
pub enum Command {
    /// Show how it is used.
    Help,
    /// Show the version.
    Version,
    /// Count lines, words and bytes.
    Count {
        /// The files; `-` is standard input.
        files: Vec<PathBuf>,
    },
    // joint: commands (tinmold)
}

/// Why a command line cannot be read.
#[derive(Debug, PartialEq, Eq)]
pub enum ArgsError {
    /// There is no such command.
    UnknownCommand(String),
    /// There is no such option.
    UnknownOption(String),
}

impl fmt::Display for ArgsError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::UnknownCommand(word) => write!(f, "there is no command {word:?}"),
            Self::UnknownOption(word) => write!(f, "there is no option {word:?}"),
        }
    }
}

/// Reads a command line without the program's name.
pub fn read(args: impl IntoIterator<Item = OsString>) -> Result<Command, ArgsError> {
    let mut args = args.into_iter();
    let Some(first) = args.next() else {
        return Ok(Command::Help);
    };
    match first.to_string_lossy().as_ref() {
        "help" | "-h" | "--help" => Ok(Command::Help),
        "version" | "-V" | "--version" => Ok(Command::Version),
        "count" => {
            let files: Vec<PathBuf> = args.map(PathBuf::from).collect();
            let is_option = |file: &&PathBuf| {
                let text = file.to_string_lossy();
                text.starts_with('-') && text != "-"
            };
            match files.iter().find(is_option) {
                Some(option) => Err(ArgsError::UnknownOption(option.display().to_string())),
                None => Ok(Command::Count { files }),
            }
        }
        // joint: words (tinmold)
        other => Err(ArgsError::UnknownCommand(other.to_owned())),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read_words(words: &str) -> Result<Command, ArgsError> {
        read(words.split_whitespace().map(OsString::from))
    }

    #[test]
    fn commands_are_read() {
        let files = vec![PathBuf::from("a"), PathBuf::from("-")];
        assert_eq!(read_words("count a -"), Ok(Command::Count { files }));
        assert_eq!(read_words(""), Ok(Command::Help));
        assert_eq!(read_words("--version"), Ok(Command::Version));
    }

    #[test]
    fn mistakes_are_named() {
        assert_eq!(
            read_words("cuont"),
            Err(ArgsError::UnknownCommand("cuont".into()))
        );
        assert_eq!(
            read_words("count -x"),
            Err(ArgsError::UnknownOption("-x".into()))
        );
    }
}
// {= end =}
