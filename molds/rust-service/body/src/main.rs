//! The entry point: settings, log, server.

use std::process::ExitCode;

use {= crate =}::{Config, start};

fn main() -> ExitCode {
    let config = match Config::from_environment(|name| std::env::var(name).ok()) {
        Ok(config) => config,
        Err(error) => {
            eprintln!("error: {error}");
            return ExitCode::from(2);
        }
    };
    match start(&config).and_then(|running| running.wait()) {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) => {
            eprintln!("error: {}:{}: {error}", config.host, config.port);
            ExitCode::FAILURE
        }
    }
}
