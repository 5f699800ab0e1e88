//! A small server that makes a shelf of a directory of archives: it serves the index and the
//! archives only.

use crate::catalogue::INDEX_FILE;
use crate::folder_shelf::index_folder;
use std::collections::BTreeMap;
use std::fs::{self, File};
use std::io::{Read, Seek, SeekFrom};
use std::net::SocketAddr;
use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError};
use std::time::SystemTime;
use tinmold_mold::PackageError;
use tinmold_platform::digest::digest_of;
use tiny_http::{Header, Method, Request, Response, StatusCode};

/// Maximum number of concurrent requests.
const WORKERS: usize = 4;

/// Why a shelf cannot be served.
#[derive(Debug, thiserror::Error)]
pub enum ServeError {
    /// The address cannot be listened at.
    #[error("cannot listen at {0}: {1}")]
    Listen(String, String),
}

/// Returns the name, size and time of every archive in a directory.
type State = BTreeMap<String, (u64, Option<SystemTime>)>;

/// A server of one folder.
pub struct Server {
    http: tiny_http::Server,
    folder: PathBuf,
    index: Mutex<Option<(State, String)>>,
}

impl Server {
    /// Listens at `address`, as in `127.0.0.1:7850`; port 0 takes any that is free.
    ///
    /// # Errors
    /// The address cannot be bound.
    pub fn listen(folder: &Path, address: &str) -> Result<Self, ServeError> {
        let http = tiny_http::Server::http(address).map_err(|error| {
            let why = error.downcast_ref::<std::io::Error>().map(|error| match error.kind() {
                std::io::ErrorKind::AddrInUse => "it is in use".to_owned(),
                _ => error.to_string(),
            });
            ServeError::Listen(address.to_owned(), why.unwrap_or_else(|| error.to_string()))
        })?;
        Ok(Self { http, folder: folder.to_owned(), index: Mutex::new(None) })
    }

    /// Returns its address.
    #[must_use]
    pub fn address(&self) -> Option<SocketAddr> {
        self.http.server_addr().to_ip()
    }

    /// Serves until the process ends. Calls `each` with the path and the status of every request.
    pub fn run(&self, each: &(dyn Fn(&str, u16) + Sync)) {
        std::thread::scope(|scope| {
            for _ in 0..WORKERS {
                scope.spawn(|| {
                    while let Ok(request) = self.http.recv() {
                        let asked = request.url().to_owned();
                        each(&asked, self.answer(request));
                    }
                });
            }
        });
    }

    fn answer(&self, request: Request) -> u16 {
        let path = request.url().split('?').next().unwrap_or_default().trim_start_matches('/').to_owned();
        if !matches!(request.method(), Method::Get | Method::Head) {
            return plain(request, 405, "only GET and HEAD");
        }
        if path.is_empty() || path == INDEX_FILE {
            return match self.index() {
                Ok(index) => {
                    let tag = format!("\"{}\"", digest_of(index.as_bytes()));
                    send(request, index.as_bytes(), index.len() as u64, &tag, "application/json")
                }
                Err(error) => plain(request, 500, &error.to_string()),
            };
        }
        // Serves only files of the directory itself, by their exact names.
        let is_plain =
            path.ends_with(".tar.gz") && !path.contains(['/', '\\', '%']) && !path.starts_with('.');
        let place = self.folder.join(&path);
        let is_file = is_plain && fs::symlink_metadata(&place).is_ok_and(|metadata| metadata.is_file());
        match File::open(&place).and_then(|file| Ok((file.metadata()?, file))) {
            Ok((metadata, file)) if is_file => {
                let modified = metadata
                    .modified()
                    .ok()
                    .and_then(|time| time.duration_since(SystemTime::UNIX_EPOCH).ok());
                let tag = format!("\"{:x}-{:x}\"", metadata.len(), modified.unwrap_or_default().as_nanos());
                send(request, file, metadata.len(), &tag, "application/gzip")
            }
            _ => plain(request, 404, "no such archive"),
        }
    }

    /// Returns the index, made anew when the archives are others than before.
    fn index(&self) -> Result<String, PackageError> {
        let state = self.state().map_err(|source| PackageError::Io { path: self.folder.clone(), source })?;
        let mut kept = self.index.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some((of, index)) = kept.as_ref()
            && *of == state
        {
            return Ok(index.clone());
        }
        let index = index_folder(&self.folder)?.text;
        *kept = Some((state, index.clone()));
        Ok(index)
    }

    fn state(&self) -> std::io::Result<State> {
        let mut state = State::new();
        for entry in fs::read_dir(&self.folder)? {
            let entry = entry?;
            let name = entry.file_name().to_string_lossy().into_owned();
            if name.ends_with(".tar.gz") {
                let metadata = entry.metadata()?;
                state.insert(name, (metadata.len(), metadata.modified().ok()));
            }
        }
        Ok(state)
    }
}

fn plain(request: Request, status: u16, text: &str) -> u16 {
    // A client that hung up needs no response.
    done(request.respond(Response::from_string(format!("{text}\n")).with_status_code(status)));
    status
}

/// Logs an answer that the client did not wait for.
fn done(sent: std::io::Result<()>) {
    if let Err(error) = sent {
        tracing::debug!(%error, "the client is gone");
    }
}

fn header(name: &str, value: &str) -> Option<Header> {
    Header::from_bytes(name, value).ok()
}

/// Returns the value of a request header.
fn asked(request: &Request, name: &'static str) -> Option<String> {
    let found = request.headers().iter().find(|header| header.field.equiv(name));
    found.map(|header| header.value.as_str().to_owned())
}

/// Sends a file whole, from the requested offset, or not at all if the client has it: RFC 9110, 13
/// and 14.
fn send<R: Bytes>(request: Request, mut file: R, length: u64, tag: &str, kind: &str) -> u16 {
    let known = asked(&request, "If-None-Match");
    if known.is_some_and(|known| known.split(',').any(|one| one.trim() == tag || one.trim() == "*")) {
        let response = Response::empty(304);
        let response = header("ETag", tag).map_or(response.clone(), |tag| response.with_header(tag));
        done(request.respond(response));
        return 304;
    }
    let is_same = asked(&request, "If-Range").is_none_or(|range| range == tag);
    let from = asked(&request, "Range").filter(|_| is_same).and_then(|range| {
        let from: u64 = range.strip_prefix("bytes=")?.strip_suffix('-')?.parse().ok()?;
        (from < length).then_some(from)
    });
    let begin = from.unwrap_or(0);
    let Ok(body) = file.rest(begin) else { return plain(request, 500, "it cannot be read") };
    let status = if from.is_some() { 206 } else { 200 };
    let mut headers: Vec<Header> = [("ETag", tag), ("Content-Type", kind), ("Accept-Ranges", "bytes")]
        .iter()
        .filter_map(|(name, value)| header(name, value))
        .collect();
    if from.is_some() {
        headers.extend(header("Content-Range", &format!("bytes {begin}-{}/{length}", length - 1)));
    }
    let left = usize::try_from(length - begin).ok();
    done(request.respond(Response::new(StatusCode(status), headers, body, left, None)));
    status
}

/// Something that can be sent from any byte on.
trait Bytes {
    type Rest: Read;
    fn rest(&mut self, at: u64) -> std::io::Result<Self::Rest>;
}

impl Bytes for &[u8] {
    type Rest = std::io::Cursor<Vec<u8>>;

    fn rest(&mut self, at: u64) -> std::io::Result<Self::Rest> {
        let at = usize::try_from(at).unwrap_or(usize::MAX);
        Ok(std::io::Cursor::new(self.get(at..).unwrap_or_default().to_vec()))
    }
}

impl Bytes for File {
    type Rest = File;

    fn rest(&mut self, at: u64) -> std::io::Result<File> {
        self.seek(SeekFrom::Start(at))?;
        self.try_clone()
    }
}
