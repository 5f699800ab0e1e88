//! The log: what the program does to disk, network and processes. Off unless it is asked for.

use crate::exit::Exit;
use crate::failure::Failure;
use crate::text::style::safe;
use std::fs::File;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::sync::Mutex;
use tracing::level_filters::LevelFilter;
use tracing_subscriber::fmt::{self, format::FmtSpan};

/// The environment variable with the level: error, warn, info, debug or trace.
const VARIABLE: &str = "TINMOLD_LOG";

/// Starts the log: to `file` if it is given, else to standard error if `TINMOLD_LOG` sets a level.
/// A file gets the level `debug` unless the variable sets another.
pub fn start(file: Option<&Path>) -> Result<(), Failure> {
    let level = match std::env::var(VARIABLE) {
        Ok(text) if !text.is_empty() => Some(text.parse::<LevelFilter>().map_err(|_| {
            Failure::new(Exit::Usage, format!("{VARIABLE}={text:?} is not a level of the log"))
                .help("use error, warn, info, debug or trace")
        })?),
        _ => None,
    };
    let builder = fmt::fmt().with_ansi(false).with_span_events(FmtSpan::CLOSE).log_internal_errors(false);
    match (file, level) {
        (None, None) => {}
        (None, Some(level)) => {
            builder.with_max_level(level).with_writer(std::io::stderr).init();
        }
        (Some(path), level) => {
            let file = File::options().create(true).append(true).open(path).map_err(|error| {
                Failure::new(Exit::Failed, format!("cannot write the log {}: {error}", path.display()))
            })?;
            let level = level.unwrap_or(LevelFilter::DEBUG);
            let file = LogFile { file, path: path.to_owned(), has_failed: false };
            builder.with_max_level(level).with_writer(Mutex::new(file)).init();
        }
    }
    tracing::info!(version = env!("CARGO_PKG_VERSION"), "tinmold starts");
    Ok(())
}

/// A log file. The first failed write is reported, and the log then ends: the work goes on without it.
struct LogFile {
    file: File,
    path: PathBuf,
    has_failed: bool,
}

impl Write for LogFile {
    fn write(&mut self, bytes: &[u8]) -> std::io::Result<usize> {
        if !self.has_failed
            && let Err(error) = self.file.write_all(bytes)
        {
            self.has_failed = true;
            let path = safe(&self.path.display().to_string());
            // If standard error fails too, no way is left to report it; `say!` would log that.
            let _ = writeln!(anstream::stderr(), "cannot write the log {path}: {error}");
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> std::io::Result<()> {
        Ok(())
    }
}
