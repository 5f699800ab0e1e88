//! The arguments of the commands for authors.

use super::value_kind::ValueKind;
use super::{AnswerArgs, Format};
use clap_complete::engine::ArgValueCompleter;
use std::path::PathBuf;

/// The format of findings.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, clap::ValueEnum)]
pub enum CheckFormat {
    /// For people, on standard error
    #[default]
    Text,
    /// For programs, on standard output
    Json,
    /// SARIF 2.1.0, for code review systems, on standard output
    Sarif,
    /// JUnit XML, for build servers, on standard output
    Junit,
}

#[derive(Debug, clap::Args)]
pub struct CheckArgs {
    /// Molds: name, shelf/name or name@version; or the path or URL of a directory, an archive or a
    /// git repository
    #[arg(required = true, value_name = "MOLD", add = ArgValueCompleter::new(ValueKind::Mold))]
    pub molds: Vec<String>,
    /// Make warnings count as errors
    #[arg(long)]
    pub strict: bool,
    /// Cast sets of answers in which every three choices meet, instead of every two
    #[arg(long)]
    pub triples: bool,
    /// Print the lines of the body that no answers render
    #[arg(long)]
    pub coverage: bool,
    /// The format of the findings
    #[arg(long, value_enum, default_value_t)]
    pub format: CheckFormat,
}

/// The format of the results of proofs.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, clap::ValueEnum)]
pub enum ProveFormat {
    /// For people, on standard error
    #[default]
    Text,
    /// For programs, on standard output
    Json,
    /// JUnit XML, for build servers, on standard output
    Junit,
}

#[derive(Debug, clap::Args)]
pub struct ProveArgs {
    /// Molds: name, shelf/name or name@version; or the path or URL of a directory, an archive or a
    /// git repository
    #[arg(required = true, value_name = "MOLD", add = ArgValueCompleter::new(ValueKind::Mold))]
    pub molds: Vec<String>,
    /// The number of projects that are built at the same time
    #[arg(long, value_name = "NUMBER")]
    pub jobs: Option<usize>,
    /// The time limit for each project, in minutes
    #[arg(long, value_name = "MINUTES", default_value_t = 15)]
    pub minutes: u64,
    /// Begin no more projects after this many minutes
    #[arg(long, value_name = "MINUTES")]
    pub within: Option<u64>,
    /// Cast this earlier version instead, fit its parts, bring each project to the mold, and prove that
    #[arg(long, value_name = "VERSION|ADDRESS", conflicts_with = "approve")]
    pub from: Option<String>,
    /// Build also what was proven before
    #[arg(long)]
    pub again: bool,
    /// Approve what comes out now for the answers in proofs/, instead of building anything
    #[arg(long)]
    pub approve: bool,
    /// Make what cannot be proven on this machine count as a failure
    #[arg(long)]
    pub strict: bool,
    /// The folder for the projects of failures and their logs; else one for temporary files
    #[arg(long, value_name = "FOLDER")]
    pub keep: Option<PathBuf>,
    /// Vouch for the mold of this digest: its proofs run
    #[arg(long, value_name = "DIGEST")]
    pub vouch: Option<String>,
    /// The format of the results
    #[arg(long, value_enum, default_value_t)]
    pub format: ProveFormat,
}

#[derive(Debug, clap::Args)]
pub struct AssayArgs {
    /// An expression, a text with tags, or an expression that ends in a dot to list what can follow
    pub expression: String,
    /// The mold whose names can be used: a built-in name or a path
    #[arg(long, add = ArgValueCompleter::new(ValueKind::Mold))]
    pub mold: String,
    #[command(flatten)]
    pub answers: AnswerArgs,
    /// The format of the result
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, clap::Args)]
pub struct PackArgs {
    /// The path of a mold's folder
    pub mold: String,
    /// The folder to write the archive to
    #[arg(long, default_value = ".", value_name = "FOLDER")]
    pub to: PathBuf,
    /// The format of the result
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}
