//! The database: SQLite in one file, and the steps that bring it up to date.

use rusqlite::Connection;
use std::sync::{Mutex, PoisonError};
use std::time::Duration;

/// The steps, in their order. The database counts how many it has taken.
const STEPS: [&str; 1] = [include_str!("../migrations/0001_start.sql")];

/// A database that is up to date.
#[derive(Debug)]
pub struct Database(Mutex<Connection>);

impl Database {
    /// Opens the file, or makes it; `:memory:` is none at all.
    ///
    /// # Errors
    /// It cannot be opened, or a step fails; it is then as it was.
    pub fn open(path: &str) -> rusqlite::Result<Self> {
        let mut connection = Connection::open(path)?;
        connection.busy_timeout(Duration::from_secs(10))?;
        let transaction = connection.transaction()?;
        let taken: u32 = transaction.query_row("PRAGMA user_version", [], |row| row.get(0))?;
        for step in STEPS.iter().skip(taken as usize) {
            transaction.execute_batch(step)?;
        }
        let all = u32::try_from(STEPS.len()).unwrap_or(u32::MAX);
        if taken < all {
            transaction.pragma_update(None, "user_version", all)?;
        }
        transaction.commit()?;
        Ok(Self(Mutex::new(connection)))
    }

    /// Runs `work` with exclusive use of the database.
    ///
    /// # Errors
    /// What `work` fails with.
    pub fn with<T>(
        &self,
        work: impl FnOnce(&Connection) -> rusqlite::Result<T>,
    ) -> rusqlite::Result<T> {
        // A panic elsewhere leaves no half-done statement behind.
        work(&self.0.lock().unwrap_or_else(PoisonError::into_inner))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_step_runs_once() {
        let name = format!("{}-{}.sqlite3", env!("CARGO_PKG_NAME"), std::process::id());
        let path = std::env::temp_dir().join(name);
        let path = path.to_string_lossy().into_owned();
        for _ in 0..2 {
            let database = Database::open(&path).expect("it opens");
            let notes: i64 = database
                .with(|c| c.query_row("SELECT count(*) FROM notes", [], |row| row.get(0)))
                .expect("it has notes");
            assert_eq!(notes, 1);
        }
        std::fs::remove_file(path).expect("it is there");
    }
}
