//! Every setting: from the environment, or from an option of the same name.

use clap::{Parser, ValueEnum};
use tracing::Level;

// {= if sqlite =}
const DATABASE_URL: &str = "sqlite:{= name =}.sqlite3";

// {= end =}
/// What the service is told.
// What the database's address holds is not for a log, and so this has no `Debug`.
#[derive(Clone, Parser)]
#[command(version, about)]
pub struct Settings {
    /// The address to listen on; 0.0.0.0 for all
    #[arg(long, env, default_value = "127.0.0.1")]
    pub host: String,
    /// The port to listen on; 0 takes a free one
    #[arg(long, env, default_value_t = {= port =})]
    pub port: u16,
    /// What a line of the log looks like
    #[arg(long, env, value_enum, default_value = "{= log =}")]
    pub log_format: Format,
    /// The least that is logged: error, warn, info, debug or trace
    #[arg(long, env, default_value = "info")]
    pub log_level: Level,
    // {= if sqlite =}
    /// The file that holds the notes
    #[arg(long, env, default_value = DATABASE_URL)]
    pub database_url: String,
    // {= else if postgres =}
    /// The database that holds the notes
    #[arg(long, env, hide_env_values = true)]
    pub database_url: String,
    // {= end =}
    /// Ask the service that runs whether it can answer, and end
    #[arg(long)]
    pub healthy: bool,
}

/// What a line of the log looks like.
#[derive(Clone, Copy, ValueEnum)]
pub enum Format {
    /// One object a line, for machines that gather logs
    Json,
    /// For people at a terminal
    Text,
}
