//! Why a command did not do its work.

// {= if not clap =}
use std::fmt;
// {= end =}
use std::io;
use std::path::PathBuf;
// {= if not clap =}
use std::process::ExitCode;
// {= end =}

// {= if clap =}
use thiserror::Error;

// {= if settings =}
use crate::settings;

// {= end =}
/// Why a command did not do its work.
#[derive(Debug, Error)]
pub enum Failure {
    /// A file cannot be read.
    #[error("{}: {_1}", _0.display())]
    Input(PathBuf, #[source] io::Error),
    /// What it prints does not arrive.
    #[error("the output cannot be written: {0}")]
    Output(#[source] io::Error),
    // {= if settings =}
    /// The settings cannot be used.
    #[error(transparent)]
    Settings(#[from] settings::Error),
    // {= end =}
    // joint: failures (tinmold)
}
// {= else =}
/// Why a command did not do its work.
#[derive(Debug)]
pub enum Failure {
    /// The command line is wrong.
    Usage(String),
    /// A file cannot be read.
    Input(PathBuf, io::Error),
    /// What it prints does not arrive.
    Output(io::Error),
}

impl std::error::Error for Failure {}

impl fmt::Display for Failure {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Usage(why) => write!(f, "{why}; --help shows how it is used"),
            Self::Input(path, error) => write!(f, "{}: {error}", path.display()),
            Self::Output(error) => write!(f, "the output cannot be written: {error}"),
        }
    }
}
// {= end =}

impl Failure {
    /// Whether nobody reads the output any more.
    pub fn is_closed_pipe(&self) -> bool {
        matches!(self, Self::Output(error) if error.kind() == io::ErrorKind::BrokenPipe)
    }
    // {= if not clap =}

    /// What scripts are told: 2 where the command line is wrong, 1 where the work failed.
    pub fn exit_code(&self) -> ExitCode {
        match self {
            Self::Usage(_) => ExitCode::from(2),
            Self::Input(..) | Self::Output(_) => ExitCode::FAILURE,
        }
    }
    // {= end =}
}
