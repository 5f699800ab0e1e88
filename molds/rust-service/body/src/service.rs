{= match web =}
{= case "axum" =}
//! The routes, and the server with its limits and its clean stop.

use std::net::SocketAddr;
use std::pin::pin;
use std::time::Duration;

use anyhow::Context;
use axum::Router;
use axum::http::StatusCode;
use hyper::server::conn::http1;
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::server::graceful::GracefulShutdown;
use hyper_util::service::TowerToHyperService;
use tokio::net::TcpListener;
use tokio::time::{sleep, timeout};
use tracing::{debug, warn};

// {= if stored =}
use crate::database;
use crate::database::Pool;
// {= end =}
use crate::problem::Problem;
use crate::settings::Settings;
use crate::{health, notes, requests};

const LONGEST_HEAD: Duration = Duration::from_secs(10);
const LONGEST_STOP: Duration = Duration::from_secs(10);

/// A service that listens.
pub struct Service {
    listener: TcpListener,
    address: SocketAddr,
    routes: Router,
    // {= if stored =}
    pool: Pool,
    // {= end =}
}
{= case "actix" =}
//! The routes, and the server with its limits and its clean stop.

use std::net::{SocketAddr, TcpListener};
use std::time::Duration;

use actix_web::middleware::from_fn;
use actix_web::{App, HttpServer, web};
use anyhow::Context;

// {= if stored =}
use crate::database;
use crate::database::Pool;
// {= end =}
use crate::problem::Problem;
use crate::requests::{LARGEST_BODY, logged, within_limits};
use crate::settings::Settings;
use crate::{health, notes};

const LONGEST_HEAD: Duration = Duration::from_secs(10);
const LONGEST_STOP_SECONDS: u64 = 10;

/// A service that listens.
pub struct Service {
    listener: TcpListener,
    address: SocketAddr,
    store: notes::Store,
    // {= if stored =}
    pool: Pool,
    // {= end =}
}
{= end =}

impl Service {
    /// Listens where the settings say{= if stored =}, with the database up to date{= end =}.
    ///
    /// # Errors
    /// It cannot listen there{= if stored =}, or the database cannot be used{= end =}.
    pub async fn start(settings: &Settings) -> anyhow::Result<Self> {
        // {= if stored =}
        let pool = database::open(&settings.database_url).await?;
        let store = notes::Store::new(pool.clone());
        // {= else =}
        let store = notes::Store::default();
        // {= end =}
        let Settings { host, port, .. } = settings;
{= match web =}
{= case "axum" =}
        let listener = TcpListener::bind((host.as_str(), *port))
            .await
            .with_context(|| format!("{host}:{port} cannot be listened on"))?;
        let address = listener.local_addr()?;
        let routes = Router::new()
            .merge(health::routes({= if stored =}pool.clone(){= end =}))
            .merge(notes::http::routes(store))
            // joint: routes (tinmold)
            .fallback(async || Problem::missing())
            .method_not_allowed_fallback(other_method);
        Ok(Self {
            listener,
            address,
            routes: requests::around(routes),
            // {= if stored =}
            pool,
            // {= end =}
        })
    }
{= case "actix" =}
        let listener = TcpListener::bind((host.as_str(), *port))
            .with_context(|| format!("{host}:{port} cannot be listened on"))?;
        Ok(Self {
            address: listener.local_addr()?,
            listener,
            store,
            // {= if stored =}
            pool,
            // {= end =}
        })
    }
{= end =}

    /// Where it listens.
    pub fn address(&self) -> SocketAddr {
        self.address
    }

{= match web =}
{= case "axum" =}
    /// Answers until `stop`; what is being answered then has ten seconds.
    pub async fn run_until(self, stop: impl Future<Output = ()>) {
        let connections = GracefulShutdown::new();
        let mut server = http1::Builder::new();
        server
            .timer(TokioTimer::new())
            .header_read_timeout(LONGEST_HEAD);
        let mut stop = pin!(stop);
        loop {
            let accepted = tokio::select! {
                accepted = self.listener.accept() => accepted,
                () = &mut stop => break,
            };
            let stream = match accepted {
                Ok((stream, _)) => stream,
                Err(error) => {
                    // There are too many open files, say.
                    warn!(%error, "a connection was not taken");
                    sleep(Duration::from_millis(100)).await;
                    continue;
                }
            };
            let routes = TowerToHyperService::new(self.routes.clone());
            let connection = server.serve_connection(TokioIo::new(stream), routes);
            let connection = connections.watch(connection);
            tokio::spawn(async move {
                if let Err(error) = connection.await {
                    debug!(%error, "a connection broke");
                }
            });
        }
        drop(self.listener);
        if timeout(LONGEST_STOP, connections.shutdown()).await.is_err() {
            warn!("connections that were left are cut");
        }
        // {= if stored =}
        self.pool.close().await;
        // {= end =}
    }
}

async fn other_method() -> Problem {
    Problem::Refused(
        StatusCode::METHOD_NOT_ALLOWED,
        "this address has no such method".into(),
    )
}
{= case "actix" =}
    /// Answers until `stop`; what is being answered then has ten seconds.
    ///
    /// # Errors
    /// The server breaks.
    pub async fn run_until(
        self,
        stop: impl Future<Output = ()> + Send + 'static,
    ) -> anyhow::Result<()> {
        let store = web::Data::new(self.store);
        // {= if stored =}
        let pool = web::Data::new(self.pool.clone());
        // {= end =}
        let server = HttpServer::new(move || {
            App::new()
                .app_data(store.clone())
                // {= if stored =}
                .app_data(pool.clone())
                // {= end =}
                .app_data(
                    web::JsonConfig::default()
                        .limit(LARGEST_BODY)
                        .error_handler(|error, _| Problem::from(error).into()),
                )
                .app_data(
                    web::PathConfig::default()
                        .error_handler(|error, _| Problem::from(error).into()),
                )
                .app_data(
                    web::QueryConfig::default()
                        .error_handler(|error, _| Problem::from(error).into()),
                )
                .configure(health::routes)
                .configure(notes::http::routes)
                // joint: routes (tinmold)
                .default_service(web::to(async || Err::<&str, _>(Problem::missing())))
                // The last one is the outermost.
                .wrap(from_fn(within_limits))
                .wrap(from_fn(logged))
        });
        let running = server
            .client_request_timeout(LONGEST_HEAD)
            .shutdown_signal(stop)
            .shutdown_timeout(LONGEST_STOP_SECONDS)
            .listen(self.listener)?
            .run();
        running.await?;
        // {= if stored =}
        self.pool.close().await;
        // {= end =}
        Ok(())
    }
}
{= end =}
