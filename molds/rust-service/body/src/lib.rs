//! The service: settings, a log, routes, and what carries them.

mod config;
// {= if stored =}
mod database;
// {= end =}
// {= if web == "std" =}
mod http;
// {= end =}
mod json;
mod log;
mod notes;
mod routes;
mod server;
// joint: modules (tinmold)

pub use config::{Config, ConfigError};
pub use log::{Format, Level, Log};
pub use server::{Running, start};
