//! The settings: a file of `key = value` lines.

use std::fmt;
use std::path::PathBuf;
use std::{env, fs, io};

/// The variable that says where the settings are.
const VARIABLE: &str = "{= name.constant =}_SETTINGS";

/// What the settings say.
#[derive(Debug, PartialEq, Eq)]
pub struct Config {
    /// Whether the sum of several files is shown.
    pub total: bool,
}

impl Default for Config {
    fn default() -> Self {
        Self { total: true }
    }
}

/// Why the settings cannot be used.
#[derive(Debug)]
pub enum ConfigError {
    /// The file is there and cannot be read.
    Unreadable(PathBuf, io::Error),
    /// A line of it says nothing that is known: its number, and why.
    Line(PathBuf, usize, String),
}

impl std::error::Error for ConfigError {}

impl fmt::Display for ConfigError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Unreadable(path, error) => write!(f, "{}: {error}", path.display()),
            Self::Line(path, line, why) => write!(f, "{}, line {line}: {why}", path.display()),
        }
    }
}

impl Config {
    /// Reads the settings; without a file they are the defaults.
    ///
    /// # Errors
    /// The file cannot be read, or says something that is not known.
    pub fn load() -> Result<Self, ConfigError> {
        let Some(path) = path() else {
            return Ok(Self::default());
        };
        match fs::read_to_string(&path) {
            Ok(text) => {
                Self::parse(&text).map_err(|(line, why)| ConfigError::Line(path, line, why))
            }
            Err(error) if error.kind() == io::ErrorKind::NotFound => Ok(Self::default()),
            Err(error) => Err(ConfigError::Unreadable(path, error)),
        }
    }

    fn parse(text: &str) -> Result<Self, (usize, String)> {
        let mut config = Self::default();
        for (number, line) in text.lines().enumerate() {
            let line = line.split('#').next().unwrap_or_default().trim();
            if line.is_empty() {
                continue;
            }
            let wrong = |why: String| (number + 1, why);
            let (key, value) = line
                .split_once('=')
                .ok_or_else(|| wrong("this is no `key = value`".into()))?;
            match (key.trim(), value.trim()) {
                ("total", "yes") => config.total = true,
                ("total", "no") => config.total = false,
                ("total", other) => {
                    return Err(wrong(format!("total is yes or no, and not {other:?}")));
                }
                (other, _) => return Err(wrong(format!("there is no setting {other:?}"))),
            }
        }
        Ok(config)
    }
}

/// Where the settings are.
fn path() -> Option<PathBuf> {
    if let Some(path) = env::var_os(VARIABLE) {
        return Some(path.into());
    }
    let config = env::var_os("XDG_CONFIG_HOME")
        .map(PathBuf::from)
        .or_else(|| Some(PathBuf::from(env::var_os("HOME")?).join(".config")))?;
    Some(config.join(env!("CARGO_PKG_NAME")).join("settings"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn settings_are_read() {
        assert_eq!(Config::parse("# nothing\n\n"), Ok(Config::default()));
        assert_eq!(
            Config::parse("total = no # quiet\n"),
            Ok(Config { total: false })
        );
    }

    #[test]
    fn mistakes_have_a_line() {
        for (text, line) in [
            ("total", 1),
            ("\ntotal = maybe", 2),
            ("total = no\n\nsum = 1", 3),
        ] {
            assert_eq!(
                Config::parse(text).map_err(|(line, _)| line),
                Err(line),
                "{text:?}"
            );
        }
    }
}
