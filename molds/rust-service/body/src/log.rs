//! The log: one line an event, on standard error.

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

/// What a line of the log looks like.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Format {
    /// An object a line, for programs that gather logs.
    Json,
    /// A sentence a line, for people at a terminal.
    Text,
}

impl Format {
    /// Reads a format's name.
    pub fn parse(name: &str) -> Option<Self> {
        match name.to_ascii_lowercase().as_str() {
            "json" => Some(Self::Json),
            "text" => Some(Self::Text),
            _ => None,
        }
    }
}

/// A log that drops what is below a level.
#[derive(Clone, Copy, Debug)]
pub struct Log {
    /// What is below it is dropped.
    pub level: Level,
    /// What its lines look like.
    pub format: Format,
}

impl Log {
    /// Writes a line.
    pub fn write(self, level: Level, message: &str) {
        if level >= self.level {
            eprintln!("{}", line(self.format, level, message));
        }
    }
}

fn line(format: Format, level: Level, message: &str) -> String {
    let now = SystemTime::now()
        .duration_since(UNIX_EPOCH)
        .unwrap_or_default();
    let level = format!("{level:?}").to_lowercase();
    match format {
        Format::Json => format!(
            "{{\"seconds\": {:.3}, \"level\": {}, \"message\": {}}}",
            now.as_secs_f64(),
            json::text(&level),
            json::text(message)
        ),
        Format::Text => {
            let day = now.as_secs() % 86_400;
            let (hour, minute, second) = (day / 3600, day / 60 % 60, day % 60);
            // It stays one line, whatever a request brings.
            let message = message.replace(char::is_control, "?");
            format!("{hour:02}:{minute:02}:{second:02}Z {level:5} {message}")
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_line_is_an_object_or_a_sentence() {
        let object = line(Format::Json, Level::Warn, "a \"b\"");
        assert!(
            object.ends_with(r#""level": "warn", "message": "a \"b\""}"#),
            "{object}"
        );
        let sentence = line(Format::Text, Level::Warn, "a \"b\"\n\u{1b}c");
        assert!(sentence.ends_with("Z warn  a \"b\"??c"), "{sentence}");
    }
}
