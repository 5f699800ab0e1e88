//! The command line.

use crate::deferred_args::Deferred;
use clap::{Parser, Subcommand};
use std::path::PathBuf;

mod recast;

pub use recast::{RecastArgs, RecastFormat};

/// Start a project from a template: answer, review, write
#[derive(Debug, Parser)]
#[command(name = "tinmold", version, max_term_width = 100, disable_help_subcommand = true)]
pub struct Args {
    /// Use plain lines: no colour, no full screen, no animation
    #[arg(long, global = true)]
    pub plain: bool,
    /// Print errors only
    #[arg(long, short, global = true)]
    pub quiet: bool,
    /// Never use the network; listings and molds come from the cache
    #[arg(long, global = true)]
    pub offline: bool,
    /// Print more: the output of finishing steps, and what a dry run leaves out
    #[arg(long, global = true)]
    pub verbose: bool,
    /// Append a log of what the program does to this file; TINMOLD_LOG=debug prints it instead
    #[arg(long, global = true, value_name = "FILE")]
    pub log: Option<PathBuf>,
    #[command(subcommand)]
    pub command: Command,
}

#[derive(Debug, Subcommand)]
pub enum Command {
    /// Start a project from a mold
    Cast(Deferred<CastArgs>),
    /// Search the shelves for a mold
    Find(Deferred<FindArgs>),
    /// Show a mold: its questions, needs, steps and files
    Show(Deferred<ShowArgs>),
    /// Check the machine for the tools that a mold needs
    Preflight(Deferred<PreflightArgs>),
    /// Cast a full example into a folder of its own
    Demo(Deferred<DemoArgs>),
    /// Add a part to a project: a route, a module, a page, a dependency
    Fit(Deferred<FitArgs>),
    /// Bring a project to a newer version of its mold, or to other answers
    Recast(Deferred<RecastArgs>),
    /// Run the finishing steps of a project that are still open
    Finish(Deferred<FinishArgs>),
    /// Compare a project with what was cast
    Status(Deferred<StatusArgs>),
    /// Add, list, refresh and drop shelves; make or serve one
    Shelf(Deferred<ShelfArgs>),
    /// For authors: find the mistakes of a mold
    Check(Deferred<CheckArgs>),
    /// For authors: cast a mold in many ways, and run what it names as proofs
    Prove(Deferred<ProveArgs>),
    /// For authors: try an expression or a text against a mold
    Assay(Deferred<AssayArgs>),
    /// For authors: pack a mold into an archive for a shelf
    Pack(Deferred<PackArgs>),
}

/// The format of results on standard output.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, clap::ValueEnum)]
pub enum Format {
    /// For people
    #[default]
    Text,
    /// For programs
    Json,
}

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
    #[arg(required = true, value_name = "MOLD")]
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
    #[arg(required = true, value_name = "MOLD")]
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
    #[arg(long)]
    pub mold: String,
    #[command(flatten)]
    pub answers: AnswerArgs,
    /// The format of the result
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

// The options of every command that answers a mold's questions. Not a doc comment: clap would show
// it as the help of the command.
#[derive(Debug, Default, clap::Args)]
pub struct AnswerArgs {
    /// Answer a question; separate the elements of a list by commas (repeatable)
    #[arg(long = "set", value_name = "KEY=VALUE")]
    pub set: Vec<String>,
    /// Read answers from a file in TOML, JSON or YAML; `-` reads standard input
    #[arg(long, value_name = "FILE")]
    pub sheet: Option<PathBuf>,
    /// Use the mold's preset of this name
    #[arg(long, value_name = "NAME")]
    pub preset: Option<String>,
    /// Ask detail questions too, whose defaults usually fit
    #[arg(long)]
    pub details: bool,
    /// Ask nothing: unanswered questions take their defaults
    #[arg(long)]
    pub unattended: bool,
}

#[derive(Debug, clap::Args)]
pub struct CastArgs {
    /// A mold: name, shelf/name or name@version; or the path or URL of a directory, an archive or a
    /// git repository; you choose if this is left out
    pub mold: Option<String>,
    /// The directory to write; the mold names it if this is left out
    pub dir: Option<PathBuf>,
    #[command(flatten)]
    pub answers: AnswerArgs,
    /// Write an archive instead of a folder; its name ends in .zip or .tar.gz
    #[arg(long, value_name = "FILE")]
    pub archive: Option<PathBuf>,
    /// What to do with files that exist and differ
    #[arg(long, value_enum, value_name = "WHAT")]
    pub if_present: Option<IfPresent>,
    /// Run these finishing steps without asking: all, none, or names separated by commas
    #[arg(long, value_name = "STEPS", conflicts_with = "archive")]
    pub finish: Option<String>,
    /// Vouch for the finishing steps of a mold from elsewhere, as it is now: its digest as `tinmold
    /// show` prints it
    #[arg(long, value_name = "DIGEST")]
    pub vouch: Option<String>,
    /// Do not check whether the machine has what the mold needs
    #[arg(long)]
    pub skip_preflight: bool,
    /// Show what would be written, and write nothing
    #[arg(long)]
    pub dry_run: bool,
    /// With --dry-run: the format of the plan
    #[arg(long, value_enum, default_value_t, requires = "dry_run")]
    pub format: Format,
    /// With --dry-run: print the file at this path as it would be written
    #[arg(long, value_name = "PATH", requires = "dry_run", conflicts_with = "format")]
    pub show: Option<String>,
    /// Write the answers to a file for `--sheet`
    #[arg(long, value_name = "FILE")]
    pub save_sheet: Option<PathBuf>,
    /// Returns true if the answers are offered next time.
    #[arg(skip = true)]
    pub remember: bool,
}

/// What to do with files that exist and differ.
#[derive(Clone, Copy, Debug, PartialEq, Eq, clap::ValueEnum)]
pub enum IfPresent {
    /// Yours stay, and the new ones are not written
    Keep,
    /// The new ones replace them
    Replace,
    /// Yours stay, and the new ones are written beside them as NAME.from-mold
    Aside,
}

#[derive(Debug, clap::Args)]
pub struct FindArgs {
    /// Search by name, language or purpose; typos are fine
    pub words: Vec<String>,
    /// Filter by language, kind, tag, owner or shelf, as in language=python (repeatable)
    #[arg(long, value_name = "FACET=VALUE")]
    pub only: Vec<String>,
    /// The maximum number of molds
    #[arg(long, default_value_t = 20, value_name = "NUMBER")]
    pub limit: usize,
    /// The format of the result
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, clap::Args)]
pub struct ShelfArgs {
    #[command(subcommand)]
    pub command: ShelfCommand,
}

#[derive(Debug, Subcommand)]
pub enum ShelfCommand {
    /// Add a shelf: a folder, a git repository, or an index over HTTP
    Add {
        /// The name that comes before the slash of an address
        name: String,
        /// A folder, the URL of a git repository, or the URL of an index
        place: String,
        /// The kind of the shelf, if its URL does not tell
        #[arg(long = "as", value_enum, value_name = "KIND")]
        kind: Option<ShelfKind>,
        /// The environment variable with the token for the index
        #[arg(long, value_name = "VARIABLE")]
        token_env: Option<String>,
    },
    /// List the shelves, with their sizes and the ages of their listings
    List {
        /// The format of the result
        #[arg(long, value_enum, default_value_t)]
        format: Format,
    },
    /// Fetch the listings of remote shelves again
    Refresh {
        /// The names; all remote shelves if none is given
        names: Vec<String>,
    },
    /// Remove a shelf from the configuration; its files stay
    Drop {
        /// Its name
        name: String,
    },
    /// Say what the cache and the kept molds hold, and remove what no shelf and no recent use needs
    Clean {
        /// Only say what would be removed
        #[arg(long)]
        dry_run: bool,
    },
    /// Make or update the index of a folder of archives, so that any web server is a shelf
    Index {
        /// The folder
        folder: PathBuf,
    },
    /// Serve a folder of archives as a shelf, until Ctrl-C
    Serve {
        /// The folder
        folder: PathBuf,
        /// The address and port to listen at; port 0 takes a free one
        #[arg(long, default_value = "127.0.0.1:7850", value_name = "ADDRESS:PORT")]
        listen: String,
    },
}

/// The kind of a shelf.
#[derive(Clone, Copy, Debug, PartialEq, Eq, clap::ValueEnum)]
pub enum ShelfKind {
    /// A folder with molds, or archives of molds, in it
    Folder,
    /// A git repository
    Git,
    /// An index over HTTP
    Index,
}

#[derive(Debug, clap::Args)]
pub struct PackArgs {
    /// The path of a mold's folder
    pub mold: String,
    /// The folder to write the archive to
    #[arg(long, default_value = ".", value_name = "FOLDER")]
    pub to: PathBuf,
}

#[derive(Debug, clap::Args)]
pub struct PreflightArgs {
    /// A mold: name, shelf/name or name@version, or a path; all built-in molds if this is left out
    pub mold: Option<String>,
    /// The format of the result
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, clap::Args)]
pub struct FitArgs {
    /// The part, as `tinmold show` lists it; you choose if this is left out
    pub part: Option<String>,
    /// The answer to the part's first question, usually a name
    pub name: Option<String>,
    #[command(flatten)]
    pub answers: AnswerArgs,
    /// Take the part from this mold, which says that it goes into the project
    #[arg(long, value_name = "MOLD")]
    pub mold: Option<String>,
    /// Undo the last fit, if its files are as it left them
    #[arg(long, conflicts_with_all = ["part", "mold", "set", "sheet"])]
    pub undo: bool,
    /// What to do with files and values that exist and differ
    #[arg(long, value_enum, value_name = "WHAT")]
    pub if_present: Option<IfPresent>,
    /// Do the rest if a joint or file is missing, and print the missing lines
    #[arg(long)]
    pub skip_missing: bool,
    /// Show what would change, and write nothing
    #[arg(long)]
    pub dry_run: bool,
    /// The format of the result
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
    /// The project, or a directory in it; the current directory if this is left out
    #[arg(long, value_name = "DIR")]
    pub dir: Option<PathBuf>,
}

#[derive(Debug, clap::Args)]
pub struct FinishArgs {
    /// Show what the recovery of interrupted writes would change, and ask.
    #[arg(long, conflicts_with_all = ["steps", "vouch"])]
    pub recover: bool,
    /// The names of steps to run without asking, or `all`
    pub steps: Vec<String>,
    /// The project, or a directory in it; the current directory if this is left out
    #[arg(long, value_name = "DIR")]
    pub dir: Option<PathBuf>,
    /// Vouch for the steps of a mold from elsewhere, as it is now: its digest as `tinmold show`
    /// prints it
    #[arg(long, value_name = "DIGEST")]
    pub vouch: Option<String>,
}

#[derive(Debug, clap::Args)]
pub struct StatusArgs {
    /// The projects, or directories in them; the current directory if this is left out
    pub dirs: Vec<PathBuf>,
    /// The format of the result
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, clap::Args)]
pub struct ShowArgs {
    /// A mold: name, shelf/name or name@version; or the path or URL of a directory, an archive or a
    /// git repository
    pub mold: String,
    /// The format of the result
    #[arg(long, value_enum, default_value_t, conflicts_with = "sheet")]
    pub format: ShowFormat,
    /// Print an answer sheet to fill in
    #[arg(long)]
    pub sheet: bool,
}

/// The format of a mold's description.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, clap::ValueEnum)]
pub enum ShowFormat {
    /// For people
    #[default]
    Text,
    /// For programs
    Json,
    /// A JSON Schema of its answer sheets
    JsonSchema,
}

#[derive(Debug, clap::Args)]
pub struct DemoArgs {
    /// The directory to write; a new one in the system's temporary directory if this is left out
    pub dir: Option<PathBuf>,
}
