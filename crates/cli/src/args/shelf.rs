//! The arguments of `tinmold shelf`.

use super::Format;
use super::help::examples;
use super::value_kind::ValueKind;
use clap::Subcommand;
use clap_complete::engine::ArgValueCompleter;
use std::path::PathBuf;

#[derive(Debug, clap::Args)]
pub struct ShelfArgs {
    #[command(subcommand)]
    pub command: ShelfCommand,
}

#[derive(Debug, Subcommand)]
pub enum ShelfCommand {
    /// Add a shelf: a folder, a git repository, or an index over HTTP
    #[command(after_help = examples!(
        "tinmold shelf add saltmarsh https://molds.saltmarsh.example/" => "an index over HTTP",
        "tinmold shelf add crews git@git.saltmarsh.example:crews/molds.git --summary 'Molds of the crews'" => "a git repository, with a line for lists",
    ))]
    Add {
        /// The name that comes before the slash of an address
        name: String,
        /// A folder, the URL of a git repository, or the URL of an index
        place: String,
        /// The kind of the shelf, if its URL does not tell
        #[arg(long = "as", value_enum, value_name = "KIND")]
        kind: Option<ShelfKind>,
        /// A line that says what is on it, for lists
        #[arg(long, value_name = "TEXT")]
        summary: Option<String>,
        /// The environment variable with the token for the index
        #[arg(long, value_name = "VARIABLE")]
        token_env: Option<String>,
    },
    /// List the shelves, with their sizes and the ages of their listings
    #[command(after_help = examples!(
        "tinmold shelf list" => "all shelves",
    ))]
    List {
        /// The format of the result
        #[arg(long, value_enum, default_value_t)]
        format: Format,
    },
    /// Fetch the listings of remote shelves again
    #[command(after_help = examples!(
        "tinmold shelf refresh saltmarsh" => "ask this one now",
    ))]
    Refresh {
        /// The names; all remote shelves if none is given
        #[arg(add = ArgValueCompleter::new(ValueKind::Shelf))]
        names: Vec<String>,
    },
    /// Remove a shelf from the configuration; its files stay
    #[command(after_help = examples!(
        "tinmold shelf drop saltmarsh" => "its files stay where they are",
    ))]
    Drop {
        /// Its name
        #[arg(add = ArgValueCompleter::new(ValueKind::Shelf))]
        name: String,
    },
    /// Say what the cache and the kept molds hold, and remove what no shelf and no recent use needs
    #[command(after_help = examples!(
        "tinmold shelf clean --dry-run" => "say what would be removed",
    ))]
    Clean {
        /// Only say what would be removed
        #[arg(long)]
        dry_run: bool,
        /// The format of the result
        #[arg(long, value_enum, default_value_t)]
        format: Format,
    },
    /// Make or update the index of a folder of archives, so that any web server is a shelf
    #[command(after_help = examples!(
        "tinmold shelf index shelf/" => "read the archives of a folder, and write its index",
    ))]
    Index {
        /// The folder
        folder: PathBuf,
    },
    /// Serve a folder of archives as a shelf, until Ctrl-C
    #[command(after_help = examples!(
        "tinmold shelf serve shelf/ --listen 127.0.0.1:7850" => "for the colleagues on this machine's network, name its address",
    ))]
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
