//! The database: a pool of connections, and the migrations that make its tables.

use std::str::FromStr;
use std::time::Duration;

// {= if sqlite =}
use anyhow::{Context, ensure};
use sqlx::Connection;
// {= else =}
use anyhow::Context;
// {= end =}
use sqlx::migrate::Migrator;
// {= if sqlite =}
use sqlx::sqlite::{SqliteConnectOptions, SqliteJournalMode, SqlitePool, SqlitePoolOptions};
// {= else =}
use sqlx::postgres::{PgConnectOptions, PgPool, PgPoolOptions};
// {= end =}

/// Connections to the database.
pub type Pool = {= if sqlite =}SqlitePool{= else =}PgPool{= end =};

static MIGRATIONS: Migrator = sqlx::migrate!();

/// Connects, and brings the tables up to date.
///
/// # Errors
/// The address cannot be read, the database cannot be reached, or a migration fails and is not kept.
pub async fn open(url: &str) -> anyhow::Result<Pool> {
    // {= if sqlite =}
    // Any other text would be taken for the name of a file.
    ensure!(
        url.starts_with("sqlite:"),
        "DATABASE_URL begins with sqlite:"
    );
    let options = SqliteConnectOptions::from_str(url)
        .context("DATABASE_URL cannot be read")?
        .create_if_missing(true)
        .foreign_keys(true)
        .journal_mode(SqliteJournalMode::Wal)
        .busy_timeout(Duration::from_secs(5));
    let pool = SqlitePoolOptions::new()
        .max_connections(8)
        .acquire_timeout(Duration::from_secs(5))
        .connect_with(options)
        .await
        .context("the database cannot be opened")?;
    // Of several services that start together, one migrates and the others wait.
    let mut connection = pool.acquire().await?;
    let mut migration = connection.begin_with("BEGIN IMMEDIATE").await?;
    MIGRATIONS
        .run(&mut *migration)
        .await
        .context("the tables cannot be brought up to date")?;
    migration.commit().await?;
    // {= else =}
    let options = PgConnectOptions::from_str(url).context("DATABASE_URL cannot be read")?;
    let pool = PgPoolOptions::new()
        .max_connections(10)
        .acquire_timeout(Duration::from_secs(5))
        .connect_with(options)
        .await
        .context("the database cannot be reached")?;
    MIGRATIONS
        .run(&pool)
        .await
        .context("the tables cannot be brought up to date")?;
    // {= end =}
    Ok(pool)
}

/// Asks whether the database answers.
///
/// # Errors
/// It does not.
pub async fn ping(pool: &Pool) -> sqlx::Result<()> {
    sqlx::query("SELECT 1").execute(pool).await.map(drop)
}
