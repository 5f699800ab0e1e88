{= match database =}
{= case "none" =}
//! Where notes are kept: in memory, the newest thousand, until the service ends.

use std::collections::VecDeque;
use std::sync::{Arc, Mutex, PoisonError};

use super::{Note, Text};

const MOST: usize = 1000;

/// The notes of a service.
#[derive(Clone, Default)]
pub struct Store(Arc<Mutex<Kept>>);

#[derive(Default)]
struct Kept {
    notes: VecDeque<Note>,
    last: i64,
}

impl Store {
    /// Gives at most `limit` notes with a higher number than `after`, the oldest first.
    pub fn after(&self, after: i64, limit: u8) -> Vec<Note> {
        let kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let later = kept.notes.iter().filter(|note| note.id > after);
        later.take(limit.into()).cloned().collect()
    }

    /// Gives the note with this number.
    pub fn one(&self, id: i64) -> Option<Note> {
        let kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        kept.notes.iter().find(|note| note.id == id).cloned()
    }

    /// Keeps a new note.
    pub fn add(&self, Text(text): Text) -> Note {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        kept.last += 1;
        let note = Note {
            id: kept.last,
            text,
        };
        kept.notes.push_back(note.clone());
        if kept.notes.len() > MOST {
            kept.notes.pop_front();
        }
        note
    }
}
{= case "sqlite", "postgres" =}
//! Where notes are kept: in the database.

use super::{Note, Text};
use crate::database::Pool;

/// The notes of a service.
#[derive(Clone)]
pub struct Store(Pool);

impl Store {
    /// Keeps notes in this database.
    pub fn new(pool: Pool) -> Self {
        Self(pool)
    }

    /// Gives at most `limit` notes with a higher number than `after`, the oldest first.
    ///
    /// # Errors
    /// The database does not answer.
    pub async fn after(&self, after: i64, limit: u8) -> sqlx::Result<Vec<Note>> {
        sqlx::query_as("SELECT id, text FROM notes WHERE id > $1 ORDER BY id LIMIT $2")
            .bind(after)
            .bind(i64::from(limit))
            .fetch_all(&self.0)
            .await
    }

    /// Gives the note with this number.
    ///
    /// # Errors
    /// The database does not answer.
    pub async fn one(&self, id: i64) -> sqlx::Result<Option<Note>> {
        sqlx::query_as("SELECT id, text FROM notes WHERE id = $1")
            .bind(id)
            .fetch_optional(&self.0)
            .await
    }

    /// Keeps a new note.
    ///
    /// # Errors
    /// The database does not answer.
    pub async fn add(&self, Text(text): Text) -> sqlx::Result<Note> {
        sqlx::query_as("INSERT INTO notes (text) VALUES ($1) RETURNING id, text")
            .bind(text)
            .fetch_one(&self.0)
            .await
    }
}
{= end =}
