{= if stored =}
//! The first resource: notes, in the database. Copy it or replace it.

use crate::database::Database;
use crate::json;
use rusqlite::{OptionalExtension, Row};
use std::fmt;

/// How many characters a note may have.
const LONGEST: usize = 1000;

/// Why there is no note.
#[derive(Debug)]
pub enum NoteError {
    /// It is empty or too long; why, in a sentence.
    Refused(String),
    /// The database failed.
    Broken(rusqlite::Error),
}

impl From<rusqlite::Error> for NoteError {
    fn from(error: rusqlite::Error) -> Self {
        Self::Broken(error)
    }
}

impl fmt::Display for NoteError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Refused(why) => f.write_str(why),
            Self::Broken(error) => write!(f, "the database failed: {error}"),
        }
    }
}

/// Notes, numbered from 1.
#[derive(Debug)]
pub struct Notes(Database);

impl Notes {
    /// Those of a database.
    pub fn of(database: Database) -> Self {
        Self(database)
    }

    /// All of them, as JSON.
    ///
    /// # Errors
    /// The database failed.
    pub fn all(&self) -> Result<String, NoteError> {
        let all: Vec<String> = self.0.with(|connection| {
            let mut found = connection.prepare("SELECT number, text FROM notes ORDER BY number")?;
            found.query_map([], shown)?.collect()
        })?;
        Ok(format!("[{}]", all.join(", ")))
    }

    /// The one with this number, as JSON.
    ///
    /// # Errors
    /// The database failed.
    pub fn find(&self, number: &str) -> Result<Option<String>, NoteError> {
        let Ok(number) = number.parse::<u32>() else {
            return Ok(None);
        };
        let query = "SELECT number, text FROM notes WHERE number = ?";
        Ok(self
            .0
            .with(|connection| connection.query_row(query, [number], shown).optional())?)
    }

    /// Adds one; gives it as JSON.
    ///
    /// # Errors
    /// It is empty or too long, or the database failed.
    pub fn add(&self, text: &str) -> Result<String, NoteError> {
        let text = text.trim();
        if text.is_empty() || text.chars().count() > LONGEST {
            let why = format!("a note has 1 to {LONGEST} characters");
            return Err(NoteError::Refused(why));
        }
        let query = "INSERT INTO notes (text) VALUES (?) RETURNING number, text";
        Ok(self
            .0
            .with(|connection| connection.query_row(query, [text], shown))?)
    }
}

fn shown(row: &Row<'_>) -> rusqlite::Result<String> {
    let (number, text): (i64, String) = (row.get(0)?, row.get(1)?);
    Ok(format!(
        "{{\"number\": {number}, \"text\": {}}}",
        json::text(&text)
    ))
}
{= else =}
//! The first resource: notes, held in memory. Copy it or replace it.

use crate::json;
use std::sync::{Mutex, MutexGuard, PoisonError};

/// How many characters a note may have.
const LONGEST: usize = 1000;

/// Notes, numbered from 1.
#[derive(Debug)]
pub struct Notes(Mutex<Vec<String>>);

impl Default for Notes {
    fn default() -> Self {
        Self(Mutex::new(vec!["The first note".into()]))
    }
}

impl Notes {
    /// All of them, as JSON.
    pub fn all(&self) -> String {
        let notes = self.locked();
        let all: Vec<String> = notes
            .iter()
            .enumerate()
            .map(|(at, text)| shown(at, text))
            .collect();
        format!("[{}]", all.join(", "))
    }

    /// The one with this number, as JSON.
    pub fn find(&self, number: &str) -> Option<String> {
        let at = number.parse::<usize>().ok()?.checked_sub(1)?;
        self.locked().get(at).map(|text| shown(at, text))
    }

    /// Adds one; gives it as JSON.
    ///
    /// # Errors
    /// It is empty or too long; why, in a sentence.
    pub fn add(&self, text: &str) -> Result<String, String> {
        let text = text.trim();
        if text.is_empty() || text.chars().count() > LONGEST {
            return Err(format!("a note has 1 to {LONGEST} characters"));
        }
        let mut notes = self.locked();
        notes.push(text.to_owned());
        Ok(shown(notes.len() - 1, text))
    }

    fn locked(&self) -> MutexGuard<'_, Vec<String>> {
        // A panic elsewhere leaves whole notes behind.
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

fn shown(at: usize, text: &str) -> String {
    format!("{{\"number\": {}, \"text\": {}}}", at + 1, json::text(text))
}
{= end =}
