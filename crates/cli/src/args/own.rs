//! The arguments of the commands about the program itself.

use super::value_kind::ValueKind;
use clap_complete::engine::ArgValueCompleter;
use std::path::PathBuf;

/// The format of the help.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, clap::ValueEnum)]
pub enum HelpFormat {
    /// For people
    #[default]
    Text,
    /// For programs: everything that the program knows of itself
    Json,
}

#[derive(Debug, clap::Args)]
pub struct HelpArgs {
    /// The command, such as `cast` or `shelf add`; all commands if this is left out
    #[arg(add = ArgValueCompleter::new(ValueKind::Command))]
    pub command: Vec<String>,
    /// Write the man pages of all commands to this folder
    #[arg(long, value_name = "FOLDER", conflicts_with_all = ["command", "format"])]
    pub man: Option<PathBuf>,
    /// The format of the help
    #[arg(long, value_enum, default_value_t, conflicts_with = "command")]
    pub format: HelpFormat,
}

/// A shell that completes command lines.
#[derive(Clone, Copy, Debug, PartialEq, Eq, clap::ValueEnum)]
pub enum ShellName {
    /// bash 4.4 and newer
    Bash,
    /// zsh
    Zsh,
    /// fish
    Fish,
    /// PowerShell
    Powershell,
    /// elvish
    Elvish,
}

impl ShellName {
    /// Returns its name.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Bash => "bash",
            Self::Zsh => "zsh",
            Self::Fish => "fish",
            Self::Powershell => "powershell",
            Self::Elvish => "elvish",
        }
    }
}

#[derive(Debug, clap::Args)]
pub struct CompletionArgs {
    /// The shell; the one that SHELL names if this is left out
    pub shell: Option<ShellName>,
}

#[derive(Debug, clap::Args)]
pub struct SettingsArgs {
    /// A setting, such as network.offline; all of them if this is left out
    #[arg(add = ArgValueCompleter::new(ValueKind::Setting))]
    pub setting: Option<String>,
    /// The new value; several, separated by commas, for a list
    #[arg(allow_negative_numbers = true)]
    pub value: Option<String>,
    /// Take the setting out of the file, so that it has its default again
    #[arg(long, requires = "setting", conflicts_with = "value")]
    pub reset: bool,
    /// Forget the answers that are remembered for the next casts, and which molds were used
    #[arg(long, conflicts_with_all = ["setting", "value", "reset"])]
    pub forget: bool,
    /// The format of the result
    #[arg(long, value_enum, default_value_t)]
    pub format: super::Format,
}
