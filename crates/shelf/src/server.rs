//! A small server that makes a shelf of a directory of archives: it serves the index and the
//! archives only.
//!
//! Clients are untrusted: headers have a deadline and a size, a connection that makes no progress is
//! closed, and the number of connections is bounded.

use crate::catalogue::INDEX_FILE;
use crate::folder_shelf::index_folder;
use hyper::body::{Body, Bytes, Frame, Incoming, SizeHint};
use hyper::header::{
    ACCEPT_RANGES, ALLOW, CONTENT_LENGTH, CONTENT_RANGE, CONTENT_TYPE, ETAG, IF_NONE_MATCH, IF_RANGE, RANGE,
};
use hyper::server::conn::http1;
use hyper::service::service_fn;
use hyper::{HeaderMap, Method, Request, Response, StatusCode};
use hyper_util::rt::{TokioIo, TokioTimer};
use std::cell::Cell;
use std::collections::BTreeMap;
use std::convert::Infallible;
use std::fs::{self, File};
use std::io::{Read, Seek, SeekFrom};
use std::net::{SocketAddr, TcpListener};
use std::path::{Path, PathBuf};
use std::pin::Pin;
use std::rc::Rc;
use std::sync::{Mutex, PoisonError};
use std::task::{Context, Poll};
use std::time::{Duration, Instant, SystemTime};
use tinmold_mold::PackageError;
use tinmold_platform::digest::digest_of;
use tokio::task::LocalSet;

/// Maximum number of connections.
const MOST_CONNECTIONS: usize = 512;
/// All headers of a request arrive within this time.
const HEADERS: Duration = Duration::from_secs(10);
/// The largest headers, in bytes.
const LARGEST_HEADERS: usize = 16 * 1024;
/// A connection is closed if neither a request arrives nor a piece of a response leaves for so long.
const IDLE: Duration = Duration::from_secs(15);
/// The pause when no connection can be accepted.
const PAUSE: Duration = Duration::from_millis(20);
/// The size of a piece of a response, in bytes.
const PIECE: usize = 64 * 1024;

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
    listener: TcpListener,
    folder: PathBuf,
    index: Mutex<Option<(State, String)>>,
}

impl Server {
    /// Listens at `address`, as in `127.0.0.1:7850`; port 0 takes any that is free.
    ///
    /// # Errors
    /// The address cannot be bound.
    pub fn listen(folder: &Path, address: &str) -> Result<Self, ServeError> {
        let bound = TcpListener::bind(address).and_then(|listener| {
            listener.set_nonblocking(true)?;
            Ok(listener)
        });
        let listener = bound.map_err(|error| {
            let why = match error.kind() {
                std::io::ErrorKind::AddrInUse => "it is in use".to_owned(),
                _ => error.to_string(),
            };
            ServeError::Listen(address.to_owned(), why)
        })?;
        Ok(Self { listener, folder: folder.to_owned(), index: Mutex::new(None) })
    }

    /// Returns its address.
    #[must_use]
    pub fn address(&self) -> Option<SocketAddr> {
        self.listener.local_addr().ok()
    }

    /// Serves until the process ends. Calls `each` with the path and the status of every request.
    ///
    /// # Errors
    /// The system gives no event loop.
    pub fn run(&self, each: &dyn Fn(&str, u16)) -> std::io::Result<()> {
        let runtime = tokio::runtime::Builder::new_current_thread().enable_all().build()?;
        runtime.block_on(self.accept_all(each))
    }

    async fn accept_all(&self, each: &dyn Fn(&str, u16)) -> std::io::Result<()> {
        let listener = tokio::net::TcpListener::from_std(self.listener.try_clone()?)?;
        let open = Rc::new(Cell::new(0_usize));
        let connections = LocalSet::new();
        // Tasks must not borrow: the requests come back here to be answered.
        let (sender, mut requests) = tokio::sync::mpsc::unbounded_channel();
        let accept = async {
            loop {
                if open.get() >= MOST_CONNECTIONS {
                    tokio::time::sleep(PAUSE).await;
                    continue;
                }
                let stream = match listener.accept().await {
                    Ok((stream, _)) => stream,
                    Err(error) => {
                        // Without descriptors the next connection waits until others end.
                        tracing::debug!(%error, "cannot accept a connection");
                        tokio::time::sleep(PAUSE).await;
                        continue;
                    }
                };
                open.set(open.get() + 1);
                let (open, sender) = (Rc::clone(&open), sender.clone());
                tokio::task::spawn_local(async move {
                    serve(stream, sender).await;
                    open.set(open.get() - 1);
                });
            }
        };
        let answer = async {
            while let Some(Job { request, progress, reply }) = requests.recv().await {
                let path = request.uri().path().to_owned();
                let response = self.answer(&request, progress);
                each(&path, response.status().as_u16());
                if reply.send(response).is_err() {
                    tracing::debug!("the client is gone");
                }
            }
        };
        connections
            .run_until(async {
                tokio::select! {
                    () = accept => {}
                    () = answer => {}
                }
            })
            .await;
        Ok(())
    }

    fn answer(&self, request: &Request<Incoming>, progress: Progress) -> Response<Piecewise> {
        let path = request.uri().path().trim_start_matches('/').to_owned();
        let is_head = request.method() == Method::HEAD;
        if request.method() != Method::GET && !is_head {
            return with(
                plain(StatusCode::METHOD_NOT_ALLOWED, "only GET and HEAD", progress),
                ALLOW,
                "GET, HEAD",
            );
        }
        let headers = request.headers();
        if path.is_empty() || path == INDEX_FILE {
            return match self.index() {
                Ok(index) => {
                    let tag = format!("\"{}\"", digest_of(index.as_bytes()));
                    let length = index.len() as u64;
                    let body = Source::Held(std::io::Cursor::new(index.into_bytes()));
                    send(headers, is_head, body, length, &tag, "application/json", progress)
                }
                Err(error) => plain(StatusCode::INTERNAL_SERVER_ERROR, &error.to_string(), progress),
            };
        }
        // Serves only files of the directory itself, by their exact names.
        let is_plain =
            path.ends_with(".tar.gz") && !path.contains(['/', '\\', '%']) && !path.starts_with('.');
        let place = self.folder.join(&path);
        let is_file = is_plain && fs::symlink_metadata(&place).is_ok_and(|metadata| metadata.is_file());
        if !is_file {
            return plain(StatusCode::NOT_FOUND, "no such archive", progress);
        }
        match File::open(&place).and_then(|file| Ok((file.metadata()?, file))) {
            Ok((metadata, file)) => {
                let modified = metadata
                    .modified()
                    .ok()
                    .and_then(|time| time.duration_since(SystemTime::UNIX_EPOCH).ok());
                let tag = format!("\"{:x}-{:x}\"", metadata.len(), modified.unwrap_or_default().as_nanos());
                let body = Source::OnDisk(file);
                send(headers, is_head, body, metadata.len(), &tag, "application/gzip", progress)
            }
            Err(error) => plain(StatusCode::SERVICE_UNAVAILABLE, &error.to_string(), progress),
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

/// When a connection last made progress.
type Progress = Rc<Cell<Instant>>;

/// A request that waits for its response.
struct Job {
    request: Request<Incoming>,
    progress: Progress,
    reply: tokio::sync::oneshot::Sender<Response<Piecewise>>,
}

/// Serves one connection until it ends or makes no progress.
async fn serve(stream: tokio::net::TcpStream, sender: tokio::sync::mpsc::UnboundedSender<Job>) {
    let progress: Progress = Rc::new(Cell::new(Instant::now()));
    let watched = Rc::clone(&progress);
    let service = service_fn(move |request: Request<Incoming>| {
        let (progress, sender) = (Rc::clone(&progress), sender.clone());
        async move {
            progress.set(Instant::now());
            let (reply, response) = tokio::sync::oneshot::channel();
            let job = Job { request, progress: Rc::clone(&progress), reply };
            if sender.send(job).is_err() {
                tracing::debug!("the server ends");
            }
            let response = response.await;
            let gone = |_| plain(StatusCode::SERVICE_UNAVAILABLE, "the server ends", progress);
            Ok::<_, Infallible>(response.unwrap_or_else(gone))
        }
    });
    let connection = http1::Builder::new()
        .timer(TokioTimer::new())
        .header_read_timeout(HEADERS)
        .max_buf_size(LARGEST_HEADERS)
        .serve_connection(TokioIo::new(stream), service);
    let idle = async {
        loop {
            let left = IDLE.saturating_sub(watched.get().elapsed());
            if left.is_zero() {
                return;
            }
            tokio::time::sleep(left).await;
        }
    };
    tokio::select! {
        ended = connection => {
            if let Err(error) = ended {
                tracing::debug!(%error, "a connection ended");
            }
        }
        () = idle => tracing::debug!("a connection made no progress"),
    }
}

/// What is sent.
enum Source {
    Held(std::io::Cursor<Vec<u8>>),
    OnDisk(File),
    Nothing,
}

/// A body that is read piece by piece as the client takes it.
struct Piecewise {
    source: Source,
    left: u64,
    progress: Progress,
}

impl Body for Piecewise {
    type Data = Bytes;
    type Error = std::io::Error;

    fn poll_frame(
        mut self: Pin<&mut Self>,
        _: &mut Context<'_>,
    ) -> Poll<Option<Result<Frame<Bytes>, std::io::Error>>> {
        self.progress.set(Instant::now());
        if self.left == 0 {
            return Poll::Ready(None);
        }
        let mut piece = vec![0; usize::try_from(self.left).unwrap_or(PIECE).min(PIECE)];
        let read = match &mut self.source {
            Source::Held(bytes) => bytes.read(&mut piece),
            Source::OnDisk(file) => file.read(&mut piece),
            Source::Nothing => Ok(0),
        };
        Poll::Ready(Some(match read {
            // The length is promised already.
            Ok(0) => Err(std::io::ErrorKind::UnexpectedEof.into()),
            Ok(length) => {
                piece.truncate(length);
                self.left -= length as u64;
                Ok(Frame::data(piece.into()))
            }
            Err(error) => Err(error),
        }))
    }

    fn is_end_stream(&self) -> bool {
        self.left == 0
    }

    fn size_hint(&self) -> SizeHint {
        SizeHint::with_exact(self.left)
    }
}

fn plain(status: StatusCode, text: &str, progress: Progress) -> Response<Piecewise> {
    let text = format!("{text}\n").into_bytes();
    let left = text.len() as u64;
    let mut response =
        Response::new(Piecewise { source: Source::Held(std::io::Cursor::new(text)), left, progress });
    *response.status_mut() = status;
    with(response, CONTENT_TYPE, "text/plain; charset=utf-8")
}

fn with<B>(mut response: Response<B>, name: hyper::header::HeaderName, value: &str) -> Response<B> {
    if let Ok(value) = value.parse() {
        response.headers_mut().insert(name, value);
    }
    response
}

/// Sends a file whole, from the requested offset, or not at all if the client has it: RFC 9110, 13
/// and 14.
fn send(
    headers: &HeaderMap,
    is_head: bool,
    mut source: Source,
    length: u64,
    tag: &str,
    kind: &str,
    progress: Progress,
) -> Response<Piecewise> {
    let asked = |name: hyper::header::HeaderName| headers.get(name).and_then(|value| value.to_str().ok());
    let nothing = |progress| Piecewise { source: Source::Nothing, left: 0, progress };
    if asked(IF_NONE_MATCH).is_some_and(|known| known.split(',').any(|one| [tag, "*"].contains(&one.trim())))
    {
        let mut response = Response::new(nothing(progress));
        *response.status_mut() = StatusCode::NOT_MODIFIED;
        return with(response, ETAG, tag);
    }
    let is_same = asked(IF_RANGE).is_none_or(|range| range == tag);
    let from = asked(RANGE).filter(|_| is_same).and_then(|range| {
        let from: u64 = range.strip_prefix("bytes=")?.strip_suffix('-')?.parse().ok()?;
        (from < length).then_some(from)
    });
    let begin = from.unwrap_or(0);
    let sought = match &mut source {
        Source::Held(bytes) => bytes.seek(SeekFrom::Start(begin)),
        Source::OnDisk(file) => file.seek(SeekFrom::Start(begin)),
        Source::Nothing => Ok(0),
    };
    if sought.is_err() {
        return plain(StatusCode::INTERNAL_SERVER_ERROR, "it cannot be read", progress);
    }
    let left = length - begin;
    let body = if is_head { nothing(progress) } else { Piecewise { source, left, progress } };
    let mut response = Response::new(body);
    *response.status_mut() = if from.is_some() { StatusCode::PARTIAL_CONTENT } else { StatusCode::OK };
    let response = with(response, CONTENT_LENGTH, &left.to_string());
    let response = with(response, ETAG, tag);
    let response = with(response, CONTENT_TYPE, kind);
    let response = with(response, ACCEPT_RANGES, "bytes");
    match from {
        Some(_) => with(response, CONTENT_RANGE, &format!("bytes {begin}-{}/{length}", length - 1)),
        None => response,
    }
}
