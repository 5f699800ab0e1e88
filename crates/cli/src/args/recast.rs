//! The arguments of `tinmold recast`.

use super::value_kind::ValueKind;
use super::{AnswerArgs, IfPresent};
use clap_complete::engine::ArgValueCompleter;
use std::path::PathBuf;

/// The format of a planned recast.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, clap::ValueEnum)]
pub enum RecastFormat {
    /// For people
    #[default]
    Text,
    /// For programs
    Json,
    /// For the text of a pull request
    Markdown,
}

#[derive(Debug, clap::Args)]
pub struct RecastArgs {
    /// The project, or a directory in it; the current directory if this is left out
    pub dir: Option<PathBuf>,
    /// The same, as fit and finish take it
    #[arg(long = "dir", value_name = "DIR", conflicts_with = "dir")]
    pub named_dir: Option<PathBuf>,
    /// The version to bring it to, or the address of the mold; the newest version if this is left out
    #[arg(long, value_name = "VERSION|ADDRESS", add = ArgValueCompleter::new(ValueKind::Version))]
    pub to: Option<String>,
    #[command(flatten)]
    pub answers: AnswerArgs,
    /// What to do with everything that both sides changed
    #[arg(long, value_enum, value_name = "WHAT")]
    pub if_present: Option<IfPresent>,
    /// Write texts that both sides changed with markers around both
    #[arg(long, conflicts_with = "if_present")]
    pub leave_marks: bool,
    /// Refuse if the project has changes that are not committed
    #[arg(long)]
    pub clean: bool,
    /// Undo the last recast, if its files are as it left them
    #[arg(long, conflicts_with_all = ["to", "set", "sheet", "preset", "check", "leave_marks", "if_present"])]
    pub undo: bool,
    /// Only say whether the project is behind its mold, with exit code 4 if it is
    #[arg(long, conflicts_with_all = ["dry_run", "leave_marks", "if_present"])]
    pub check: bool,
    /// Show what would change, and write nothing
    #[arg(long)]
    pub dry_run: bool,
    /// The format of the result
    #[arg(long, value_enum, default_value_t)]
    pub format: RecastFormat,
}
