{= if clap =}
//! What the command line takes, and what each command does.

use std::io::{self, IsTerminal, Write};
use std::path::{Path, PathBuf};

use clap::{ArgAction, CommandFactory, Parser, Subcommand};
use clap_complete::Shell;
use tracing::Level;

use crate::Failure;
// {= if settings =}
use crate::settings::Settings;
// {= end =}

mod count;
// joint: modules (tinmold)

// {= if settings =}
/// The variable that says where the settings are.
const VARIABLE: &str = "{= name.constant =}_SETTINGS";

// {= end =}
/// The command line.
#[derive(Debug, Parser)]
#[command(version, about)]
pub struct CommandLine {
    /// Tell more; twice tells every detail
    #[arg(long, short, global = true, action = ArgAction::Count)]
    verbose: u8,
    // {= if settings =}
    /// Read the settings from this file
    #[arg(long, global = true, value_name = "FILE", env = VARIABLE)]
    settings: Option<PathBuf>,
    // {= end =}
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Count the lines, words and bytes of files, or of standard input
    Count(count::Arguments),
    /// Print a script that completes commands and options
    Completion {
        /// The shell that reads the script
        shell: Shell,
    },
    /// Write the manual pages into a folder
    Manual {
        /// The folder; it is made if it is not there
        folder: PathBuf,
    },
    // joint: commands (tinmold)
}

impl CommandLine {
    /// Sends what happens to standard error, as much of it as is asked for.
    pub fn start_log(&self) {
        let level = match self.verbose {
            0 => Level::WARN,
            1 => Level::INFO,
            _ => Level::DEBUG,
        };
        tracing_subscriber::fmt()
            .with_max_level(level)
            .with_writer(io::stderr)
            .with_ansi(io::stderr().is_terminal())
            .without_time()
            .with_target(false)
            .init();
    }

    /// Does what the command line asks for, and prints to `out`.
    ///
    /// # Errors
    /// A file cannot be read{= if settings =}, the settings cannot be used{= end =}, or the output cannot be written.
    pub fn run(self, out: &mut impl Write) -> Result<(), Failure> {
        match self.command {
            // {= if settings =}
            Command::Count(arguments) => {
                let settings = Settings::load(self.settings)?;
                count::run(&arguments.files, settings.total, out)
            }
            // {= else =}
            Command::Count(arguments) => count::run(&arguments.files, out),
            // {= end =}
            Command::Completion { shell } => completion(shell, out),
            Command::Manual { folder } => manual(&folder),
            // joint: runs (tinmold)
        }
    }
}

fn completion(shell: Shell, out: &mut impl Write) -> Result<(), Failure> {
    let mut script = Vec::new();
    let name = env!("CARGO_PKG_NAME");
    clap_complete::generate(shell, &mut CommandLine::command(), name, &mut script);
    out.write_all(&script).map_err(Failure::Output)
}

fn manual(folder: &Path) -> Result<(), Failure> {
    std::fs::create_dir_all(folder)
        .and_then(|()| clap_mangen::generate_to(CommandLine::command(), folder))
        .map_err(Failure::Output)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_declaration_holds() {
        CommandLine::command().debug_assert();
    }
}
{= else =}
//! What the command line takes, and what each command does.

use std::ffi::OsString;
use std::io::Write;
use std::path::PathBuf;

use crate::Failure;

mod count;
// joint: modules (tinmold)

const HELP: &str = concat!(
    {= summary.rust =},
    "\n\n",
    "{= name =} count [FILE]...    count lines, words and bytes; standard input without a file, or as -\n",
    // joint: help (tinmold)
    "{= name =} help               show this, as --help does\n",
    "{= name =} version            show the version, as --version does\n",
    "\n",
    "After --, every word is a file, whatever it begins with.\n",
);

/// What the command line asks for.
#[derive(Debug, PartialEq, Eq)]
pub enum Command {
    /// Show how it is used.
    Help,
    /// Show the version.
    Version,
    /// Count the lines, words and bytes of these files.
    Count(Vec<PathBuf>),
    // joint: commands (tinmold)
}

impl Command {
    /// Reads a command line, without the name of the program.
    ///
    /// # Errors
    /// The first word is no command, or another one is an option that it does not have.
    pub fn read(words: impl IntoIterator<Item = OsString>) -> Result<Self, Failure> {
        let mut words = words.into_iter();
        let first = words.next().unwrap_or_default();
        match first.to_str().unwrap_or_default() {
            "" if first.is_empty() => Err(Failure::Usage("a command is missing".into())),
            "help" | "-h" | "--help" => Ok(Self::Help),
            "version" | "-V" | "--version" => Ok(Self::Version),
            "count" => names(words).map(|mut files| {
                if files.is_empty() {
                    files.push("-".into());
                }
                Self::Count(files)
            }),
            // joint: words (tinmold)
            _ => {
                let word = first.display();
                Err(Failure::Usage(format!("there is no command {word}")))
            }
        }
    }

    /// Does it, and prints to `out`.
    ///
    /// # Errors
    /// A file cannot be read, or the output cannot be written.
    pub fn run(self, out: &mut impl Write) -> Result<(), Failure> {
        match self {
            Self::Help => out.write_all(HELP.as_bytes()).map_err(Failure::Output),
            Self::Version => {
                let (name, version) = (env!("CARGO_PKG_NAME"), env!("CARGO_PKG_VERSION"));
                writeln!(out, "{name} {version}").map_err(Failure::Output)
            }
            Self::Count(files) => count::run(&files, out),
            // joint: runs (tinmold)
        }
    }
}

/// Takes words that are no options; behind `--`, all are taken.
fn names(words: impl Iterator<Item = OsString>) -> Result<Vec<PathBuf>, Failure> {
    let mut names = Vec::new();
    let mut may_be_option = true;
    for word in words {
        if may_be_option && word == "--" {
            may_be_option = false;
        } else if may_be_option && word != "-" && word.as_encoded_bytes().starts_with(b"-") {
            let word = word.display();
            return Err(Failure::Usage(format!("there is no option {word}")));
        } else {
            names.push(PathBuf::from(word));
        }
    }
    Ok(names)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(words: &str) -> Option<Command> {
        Command::read(words.split_whitespace().map(OsString::from)).ok()
    }

    #[test]
    fn command_lines_are_read() {
        let files =
            |names: &[&str]| Some(Command::Count(names.iter().map(PathBuf::from).collect()));
        for (words, command) in [
            ("--version", Some(Command::Version)),
            ("help", Some(Command::Help)),
            ("count", files(&["-"])),
            ("count a -", files(&["a", "-"])),
            ("count -- -x", files(&["-x"])),
            ("count -x", None),
            ("cuont", None),
            ("", None),
        ] {
            assert_eq!(read(words), command, "{words}");
        }
    }
}
{= end =}
