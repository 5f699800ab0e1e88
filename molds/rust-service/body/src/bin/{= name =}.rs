//! The entry: settings, log, and the service until a signal ends it.

use std::io::IsTerminal;
use std::net::{TcpStream, ToSocketAddrs};
use std::process::ExitCode;
use std::time::Duration;
use std::{backtrace, io, panic};

use anyhow::{Context, bail};
use clap::Parser;
use tokio::signal;
use tracing::{error, info};

use {= crate =}::{Format, Service, Settings};

fn main() -> anyhow::Result<ExitCode> {
    // {= if stored =}
    match dotenvy::from_path(".env") {
        Err(dotenvy::Error::Io(error)) if error.kind() == io::ErrorKind::NotFound => {}
        read => read.context(".env")?,
    }
    // {= end =}
    let settings = Settings::parse();
    if settings.healthy {
        is_ready(&settings)?;
        return Ok(ExitCode::SUCCESS);
    }
    start_log(&settings);
    let served = tokio::runtime::Runtime::new()?.block_on(serve(&settings));
    Ok(match served {
        Ok(()) => ExitCode::SUCCESS,
        Err(failure) => {
            error!("{failure:#}");
            ExitCode::FAILURE
        }
    })
}

async fn serve(settings: &Settings) -> anyhow::Result<()> {
    let service = Service::start(settings).await?;
    info!("listening on http://{}", service.address());
    service.run_until(stopped()).await{= if not axum =}?{= end =};
    info!("stopped");
    Ok(())
}

/// Writes the log to standard error, panics included.
fn start_log(settings: &Settings) {
    let log = tracing_subscriber::fmt()
        .with_max_level(settings.log_level)
        .with_writer(io::stderr)
        .with_ansi(io::stderr().is_terminal());
    match settings.log_format {
        Format::Json => log.json().flatten_event(true).with_span_list(false).init(),
        Format::Text => log.init(),
    }
    panic::set_hook(Box::new(|panic| {
        let trace = backtrace::Backtrace::force_capture();
        error!(%trace, "{panic}");
    }));
}

/// Waits for Ctrl-C, or for SIGTERM, with which services are stopped.
async fn stopped() {
    #[cfg(unix)]
    let terminated = async {
        match signal::unix::signal(signal::unix::SignalKind::terminate()) {
            Ok(mut signal) => signal.recv().await,
            Err(_) => std::future::pending().await,
        }
    };
    #[cfg(not(unix))]
    let terminated = std::future::pending::<()>();
    tokio::select! {
        _ = signal::ctrl_c() => {}
        _ = terminated => {}
    }
}

/// Asks a running service whether it can answer: the health check of a container.
fn is_ready(settings: &Settings) -> anyhow::Result<()> {
    use io::{Read, Write};

    let wait = Duration::from_secs(2);
    let mut addresses = ("localhost", settings.port).to_socket_addrs()?;
    let mut stream = addresses
        .find_map(|address| TcpStream::connect_timeout(&address, wait).ok())
        .context("it does not listen")?;
    stream.set_read_timeout(Some(wait))?;
    stream.write_all(b"GET /ready HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n")?;
    let mut head = [0; 12];
    stream.read_exact(&mut head)?;
    if &head != b"HTTP/1.1 200" {
        bail!("it is not ready");
    }
    Ok(())
}
