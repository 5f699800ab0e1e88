//! The command line.

use crate::deferred_args::Deferred;
use clap::{Parser, Subcommand, ValueHint};
use clap_complete::engine::ArgValueCompleter;
use help::{SHARED, examples};
use std::path::PathBuf;
use value_kind::ValueKind;

mod author;
pub mod help;
mod own;
mod recast;
pub mod refusal;
mod shelf;
pub mod value_kind;

pub use author::{AssayArgs, CheckArgs, CheckFormat, PackArgs, ProveArgs, ProveFormat};
pub use own::{CompletionArgs, HelpArgs, HelpFormat, SettingsArgs, ShellName};
pub use recast::{RecastArgs, RecastFormat};
pub use shelf::{ShelfArgs, ShelfCommand, ShelfKind};

/// Start a project from a template: answer, review, write
#[derive(Debug, Parser)]
#[command(name = "tinmold", version, max_term_width = 100, disable_help_subcommand = true)]
pub struct Args {
    /// Use plain lines: no colour, no full screen, no animation
    #[arg(long, global = true, help_heading = SHARED)]
    pub plain: bool,
    /// Print errors only
    #[arg(long, short, global = true, help_heading = SHARED)]
    pub quiet: bool,
    /// Never use the network; listings and molds come from the cache
    #[arg(long, global = true, help_heading = SHARED)]
    pub offline: bool,
    /// Print more: the output of finishing steps, and what a dry run leaves out
    #[arg(long, global = true, help_heading = SHARED)]
    pub verbose: bool,
    /// Append a log of what the program does to this file; TINMOLD_LOG=debug prints it instead
    #[arg(long, global = true, value_name = "FILE", help_heading = SHARED)]
    pub log: Option<PathBuf>,
    #[command(subcommand)]
    pub command: Option<Command>,
}

#[derive(Debug, Subcommand)]
pub enum Command {
    /// Start a project from a mold
    #[command(after_help = examples!(
        "tinmold cast" => "choose a mold, answer, review, write",
        "tinmold cast python-service harbor-times" => "this mold, into that folder",
        "tinmold cast python-service . --unattended --if-present keep" => "here, with all defaults; files that exist stay",
        "tinmold cast python-service tides --unattended --set port=8417 --finish all" => "no questions, one answer given, all steps run",
        "tinmold cast python-service --unattended --dry-run" => "show what would be written, and write nothing",
    ))]
    Cast(Deferred<CastArgs>),
    /// Search the shelves for a mold
    #[command(after_help = examples!(
        "tinmold find" => "all molds",
        "tinmold find rest python" => "by purpose and language; typos are fine",
        "tinmold find --only kind=cli --only language=rust" => "filters; all must match",
        "tinmold find --categories" => "the kinds, languages and shelves, with their numbers of molds",
    ))]
    Find(Deferred<FindArgs>),
    /// Show a mold: its questions, needs, steps and files
    #[command(after_help = examples!(
        "tinmold show python-service" => "a page for people",
        "tinmold show python-service --sheet > answers.toml" => "an answer sheet to fill in, for cast --sheet",
        "tinmold show python-service --format json-schema" => "a JSON Schema of such sheets",
    ))]
    Show(Deferred<ShowArgs>),
    /// Check the machine for the tools that a mold needs
    #[command(after_help = examples!(
        "tinmold preflight python-service" => "one mold",
        "tinmold preflight" => "all built-in molds",
    ))]
    Preflight(Deferred<PreflightArgs>),
    /// Cast a full example into a folder of its own
    #[command(after_help = examples!(
        "tinmold demo" => "a service with made-up answers, and its own tests",
        "tinmold demo --all" => "one project of each built-in mold",
    ))]
    Demo(Deferred<DemoArgs>),
    /// Add a part to a project: a route, a module, a page, a dependency
    #[command(after_help = examples!(
        "tinmold fit" => "choose among the parts of the project's mold",
        "tinmold fit route departures" => "this part, with that name",
        "tinmold fit route departures --unattended --dry-run" => "show what would change",
        "tinmold fit --undo" => "take the last one out again",
    ))]
    Fit(Deferred<FitArgs>),
    /// Run the finishing steps of a project that are still open
    #[command(after_help = examples!(
        "tinmold finish" => "choose among the open steps",
        "tinmold finish repository tests" => "these, without asking",
    ))]
    Finish(Deferred<FinishArgs>),
    /// Compare a project with what was cast
    #[command(after_help = examples!(
        "tinmold status" => "the project of the current directory",
        "tinmold status ferries/* --format json" => "several projects, for a program",
    ))]
    Status(Deferred<StatusArgs>),
    /// Bring a project to a newer version of its mold, or other answers
    #[command(after_help = examples!(
        "tinmold recast --check" => "say whether the project is behind its mold (exit code 4)",
        "tinmold recast --dry-run" => "show what would change",
        "tinmold recast" => "bring it to the newest version, and keep your changes",
        "tinmold recast --set port=8420" => "the same project with another answer",
        "tinmold recast --undo" => "give back every byte",
    ))]
    Recast(Deferred<RecastArgs>),
    /// Add, list, refresh and drop shelves; make or serve one
    #[command(after_help = examples!(
        "tinmold shelf add saltmarsh https://molds.saltmarsh.example/" => "a team's index over HTTP",
        "tinmold shelf add mine ~/molds" => "a folder with molds in it",
        "tinmold shelf list" => "the shelves, and how old their listings are",
        "tinmold help shelf add" => "more about one of these commands",
    ))]
    Shelf(Deferred<ShelfArgs>),
    /// Show the settings and where they come from, or change one
    #[command(after_help = examples!(
        "tinmold settings" => "all settings, with their values",
        "tinmold settings network.offline true" => "change one",
        "tinmold settings network.offline --reset" => "back to the default",
        "tinmold settings --forget" => "forget the answers that are remembered for the next cast",
    ))]
    Settings(Deferred<SettingsArgs>),
    /// Print the completion script of a shell
    #[command(after_help = examples!(
        "source <(tinmold completion bash)" => "switch it on in bash: this line in ~/.bashrc",
        "source <(tinmold completion zsh)" => "zsh: in ~/.zshrc, behind compinit",
        "tinmold completion fish | source" => "fish: in ~/.config/fish/config.fish",
        "tinmold completion powershell | Out-String | Invoke-Expression" => "PowerShell: in $PROFILE",
        "eval (tinmold completion elvish | slurp)" => "elvish: in ~/.config/elvish/rc.elv",
    ))]
    Completion(Deferred<CompletionArgs>),
    /// Explain a command, with examples
    #[command(after_help = examples!(
        "tinmold help" => "all commands",
        "tinmold help shelf add" => "one of them",
        "tinmold help --man ~/.local/share/man/man1" => "write the man pages of all commands to a folder",
        "tinmold help --format json" => "commands, options, exit codes, views, forms and codes, for a program",
    ))]
    Help(Deferred<HelpArgs>),
    /// For authors: find the mistakes of a mold
    #[command(after_help = examples!(
        "tinmold check ./my-mold" => "one mold",
        "tinmold check molds/* --strict --format sarif" => "all of a repository, for a code review system",
    ))]
    Check(Deferred<CheckArgs>),
    /// For authors: cast a mold in many ways, and run what it names as proofs
    #[command(after_help = examples!(
        "tinmold prove ./my-mold" => "build and test what comes out",
        "tinmold prove ./my-mold --from 1.2.0" => "prove that projects of that version can follow",
        "tinmold prove ./my-mold --approve" => "approve what comes out now",
    ))]
    Prove(Deferred<ProveArgs>),
    /// For authors: try an expression or a text against a mold
    #[command(after_help = examples!(
        "tinmold assay 'name.snake' --mold ./my-mold" => "the value of an expression",
        "tinmold assay 'name.' --mold ./my-mold" => "what can follow",
    ))]
    Assay(Deferred<AssayArgs>),
    /// For authors: pack a mold into an archive for a shelf
    #[command(after_help = examples!(
        "tinmold pack ./my-mold --to shelf/" => "write my-mold's archive into a folder",
        "tinmold shelf index shelf/" => "then make the index of that folder",
    ))]
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

// The options of every command that answers a mold's questions. Not a doc comment: clap would show
// it as the help of the command.
#[derive(Debug, Default, clap::Args)]
pub struct AnswerArgs {
    /// Answer a question; separate the elements of a list by commas (repeatable)
    #[arg(long = "set", value_name = "KEY=VALUE", add = ArgValueCompleter::new(ValueKind::Answer))]
    pub set: Vec<String>,
    /// Read answers from a file in TOML, JSON or YAML; `-` reads standard input
    #[arg(long, value_name = "FILE")]
    pub sheet: Option<PathBuf>,
    /// Use the mold's preset of this name
    #[arg(long, value_name = "NAME", add = ArgValueCompleter::new(ValueKind::Preset))]
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
    #[arg(add = ArgValueCompleter::new(ValueKind::Mold))]
    pub mold: Option<String>,
    /// The directory to write; the mold names it if this is left out
    #[arg(value_hint = ValueHint::DirPath)]
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
    #[arg(long, value_name = "STEPS", conflicts_with = "archive", add = ArgValueCompleter::new(ValueKind::Step))]
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
    /// The format of the result, or with --dry-run of the plan; json asks nothing
    #[arg(long, value_enum, default_value_t)]
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
    #[arg(long, value_name = "FACET=VALUE", add = ArgValueCompleter::new(ValueKind::Facet))]
    pub only: Vec<String>,
    /// The maximum number of molds; 20 if this is left out, and all of them as JSON
    #[arg(long, value_name = "NUMBER")]
    pub limit: Option<usize>,
    /// Show the kinds, languages and shelves instead, with their numbers of molds
    #[arg(long, conflicts_with = "limit")]
    pub categories: bool,
    /// The format of the result
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, clap::Args)]
pub struct PreflightArgs {
    /// A mold: name, shelf/name or name@version, or a path; all built-in molds if this is left out
    #[arg(add = ArgValueCompleter::new(ValueKind::Mold))]
    pub mold: Option<String>,
    /// The format of the result
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, clap::Args)]
pub struct FitArgs {
    /// The part, as `tinmold show` lists it; you choose if this is left out
    #[arg(add = ArgValueCompleter::new(ValueKind::Part))]
    pub part: Option<String>,
    /// The answer to the part's first question, usually a name
    pub name: Option<String>,
    #[command(flatten)]
    pub answers: AnswerArgs,
    /// Take the part from this mold, which says that it goes into the project
    #[arg(long, value_name = "MOLD", add = ArgValueCompleter::new(ValueKind::Mold))]
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
    /// Show what the recovery of interrupted writes would change, and ask
    #[arg(long, conflicts_with_all = ["steps", "vouch"])]
    pub recover: bool,
    /// The names of steps to run without asking, or `all`
    #[arg(add = ArgValueCompleter::new(ValueKind::Step))]
    pub steps: Vec<String>,
    /// The project, or a directory in it; the current directory if this is left out
    #[arg(long, value_name = "DIR")]
    pub dir: Option<PathBuf>,
    /// Vouch for the steps of a mold from elsewhere, as it is now: its digest as `tinmold show`
    /// prints it
    #[arg(long, value_name = "DIGEST")]
    pub vouch: Option<String>,
    /// The format of the result; json asks nothing
    #[arg(long, value_enum, default_value_t, conflicts_with = "recover")]
    pub format: Format,
}

#[derive(Debug, clap::Args)]
pub struct StatusArgs {
    /// The projects, or directories in them; the current directory if this is left out
    pub dirs: Vec<PathBuf>,
    /// The same, as fit and finish take it
    #[arg(long = "dir", value_name = "DIR")]
    pub more_dirs: Vec<PathBuf>,
    /// The format of the result
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, clap::Args)]
pub struct ShowArgs {
    /// A mold: name, shelf/name or name@version; or the path or URL of a directory, an archive or a
    /// git repository
    #[arg(add = ArgValueCompleter::new(ValueKind::Mold))]
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
    /// Cast one project of each built-in mold, with its defaults
    #[arg(long)]
    pub all: bool,
}
