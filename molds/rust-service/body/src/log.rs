//! The log: a JSON object a line, on standard error.

use crate::json;
use std::time::{SystemTime, UNIX_EPOCH};

/// How much something matters.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Level {
    /// What happens every day.
    Info,
    /// What one should look at.
    Warn,
    /// What went wrong.
    Error,
}

impl Level {
    /// Reads a level's name.
    pub fn parse(name: &str) -> Option<Self> {
        match name.to_ascii_lowercase().as_str() {
            "info" => Some(Self::Info),
            "warn" => Some(Self::Warn),
            "error" => Some(Self::Error),
            _ => None,
        }
    }
}

/// A log that drops what is below a level.
#[derive(Clone, Copy, Debug)]
pub struct Log(pub Level);

impl Log {
    /// Writes a line.
    pub fn write(self, level: Level, message: &str) {
        if level >= self.0 {
            eprintln!("{}", line(level, message));
        }
    }
}

fn line(level: Level, message: &str) -> String {
    let now = SystemTime::now().duration_since(UNIX_EPOCH);
    format!(
        "{{\"seconds\": {:.3}, \"level\": {}, \"message\": {}}}",
        now.unwrap_or_default().as_secs_f64(),
        json::text(&format!("{level:?}").to_lowercase()),
        json::text(message)
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_line_is_an_object() {
        let line = line(Level::Warn, "a \"b\"");
        assert!(
            line.ends_with(r#""level": "warn", "message": "a \"b\""}"#),
            "{line}"
        );
    }
}
