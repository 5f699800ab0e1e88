//! Starts the service on a free port, and asks it.

use std::net::SocketAddr;

use reqwest::{Method, StatusCode};
use serde_json::Value;
// {= if postgres =}
use sqlx::{Connection, PgConnection};
// {= else if sqlite =}
use tempfile::TempDir;
// {= end =}
use tokio::sync::oneshot;
use tokio::task::JoinHandle;
use tracing::Level;

use {= crate =}::{Format, Service, Settings};

/// A service that runs, and what asks it.
pub struct Client {
    pub address: SocketAddr,
    http: reqwest::Client,
    stop: oneshot::Sender<()>,
    task: JoinHandle<{= if axum =}(){= else =}anyhow::Result<()>{= end =}>,
    // {= if sqlite =}
    folder: TempDir,
    // {= else if postgres =}
    database: String,
    schema: String,
    // {= end =}
}

impl Client {
    // {= if postgres =}
    /// Starts the service with a schema of its own; gives none where no database is to be had.
    pub async fn start() -> Option<Self> {
        let Ok(database) = std::env::var("TEST_DATABASE_URL") else {
            eprintln!("left out: TEST_DATABASE_URL names no database");
            return None;
        };
        let schema = format!("test_{}", uuid::Uuid::new_v4().simple());
        let mut connection = PgConnection::connect(&database)
            .await
            .expect("the database answers");
        let made = sqlx::query(sqlx::AssertSqlSafe(format!("CREATE SCHEMA {schema}")));
        made.execute(&mut connection)
            .await
            .expect("a schema is made");
        let sign = if database.contains('?') { '&' } else { '?' };
        let database_url = format!("{database}{sign}options=-csearch_path%3D{schema}");
        // {= else =}
    /// Starts the service{= if sqlite =} with a database of its own{= end =}.
    pub async fn start() -> Self {
        // {= if sqlite =}
        let folder = tempfile::tempdir().expect("a folder is made");
        let database_url = format!("sqlite:{}", folder.path().join("notes.sqlite3").display());
        // {= end =}
        // {= end =}
        let settings = Settings {
            host: "127.0.0.1".into(),
            port: 0,
            log_format: Format::Text,
            log_level: Level::ERROR,
            // {= if stored =}
            database_url,
            // {= end =}
            healthy: false,
        };
        let service = Service::start(&settings).await.expect("it starts");
        let (stop, stopped) = oneshot::channel();
        {= if postgres =}Some(Self {{= else =}Self {{= end =}
            address: service.address(),
            http: reqwest::Client::new(),
            stop,
            task: tokio::spawn(service.run_until(async { drop(stopped.await) })),
            // {= if sqlite =}
            folder,
            // {= else if postgres =}
            database,
            schema,
            // {= end =}
        {= if postgres =}}){= else =}}{= end =}
    }

    /// Asks; gives the status and what the body says.
    pub async fn ask(
        &self,
        method: Method,
        path: &str,
        body: Option<Value>,
    ) -> (StatusCode, Value) {
        let url = format!("http://{}{path}", self.address);
        let mut request = self.http.request(method, url);
        if let Some(body) = body {
            request = request.json(&body);
        }
        let response = request.send().await.expect("it answers");
        let status = response.status();
        (status, response.json().await.expect("the answer is JSON"))
    }

    /// Asks with GET.
    pub async fn get(&self, path: &str) -> (StatusCode, Value) {
        self.ask(Method::GET, path, None).await
    }

    /// Ends the service, and waits for it.
    pub async fn stop(self) {
        drop(self.http);
        self.stop.send(()).expect("it runs");
        // {= if axum =}
        self.task.await.expect("it does not panic");
        // {= else =}
        self.task
            .await
            .expect("it does not panic")
            .expect("it ends well");
        // {= end =}
        // {= if sqlite =}
        self.folder.close().expect("the folder goes");
        // {= else if postgres =}
        let mut connection = PgConnection::connect(&self.database)
            .await
            .expect("the database answers");
        let dropped = format!("DROP SCHEMA {} CASCADE", self.schema);
        let dropped = sqlx::query(sqlx::AssertSqlSafe(dropped));
        dropped
            .execute(&mut connection)
            .await
            .expect("the schema goes");
        // {= end =}
    }
}
