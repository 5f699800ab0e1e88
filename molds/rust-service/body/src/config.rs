//! Every setting, read from the environment.

use crate::log::{Format, Level};
use std::fmt;

/// The settings.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Config {
    /// The address to listen on.
    pub host: String,
    /// The port; 0 takes a free one.
    pub port: u16,
    /// What the log leaves out is below this.
    pub log_level: Level,
    /// What a line of the log looks like.
    pub log_format: Format,
    // {= if stored =}
    /// The file of the database.
    pub database: String,
    // {= end =}
}

/// A setting that cannot stand: its name, and what it may be.
#[derive(Debug, PartialEq, Eq)]
pub struct ConfigError(&'static str, &'static str);

impl fmt::Display for ConfigError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} is {}", self.0, self.1)
    }
}

impl Config {
    /// Reads the settings; `read` gives the value of a variable.
    ///
    /// # Errors
    /// One of them cannot stand.
    pub fn from_environment(read: impl Fn(&str) -> Option<String>) -> Result<Self, ConfigError> {
        let read = |name: &str| read(name).filter(|value| !value.is_empty());
        let port = match read("PORT") {
            Some(port) => port
                .parse()
                .map_err(|_| ConfigError("PORT", "a number from 0 to 65535"))?,
            None => {= port =},
        };
        let log_level = match read("LOG_LEVEL") {
            Some(level) => {
                Level::parse(&level).ok_or(ConfigError("LOG_LEVEL", "one of info, warn, error"))?
            }
            None => Level::Info,
        };
        let log_format = match read("LOG_FORMAT") {
            Some(format) => {
                Format::parse(&format).ok_or(ConfigError("LOG_FORMAT", "json or text"))?
            }
            None => Format::Json,
        };
        let host = read("HOST").unwrap_or_else(|| "127.0.0.1".into());
        Ok(Self {
            host,
            port,
            log_level,
            log_format,
            // {= if stored =}
            database: read("DATABASE")
                .unwrap_or_else(|| concat!(env!("CARGO_PKG_NAME"), ".sqlite3").into()),
            // {= end =}
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn settings_come_from_the_environment() {
        let config = |name: &'static str, value: &'static str| {
            Config::from_environment(move |asked| (asked == name).then(|| value.into()))
        };
        assert_eq!(config("PORT", "0").map(|config| config.port), Ok(0));
        assert_eq!(config("PORT", "").map(|config| config.port), Ok({= port =}));
        for (name, value) in [
            ("PORT", "99999"),
            ("PORT", "x"),
            ("LOG_LEVEL", "loud"),
            ("LOG_FORMAT", "verse"),
        ] {
            assert!(config(name, value).is_err(), "{name}={value}");
        }
    }
}
