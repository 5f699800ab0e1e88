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
