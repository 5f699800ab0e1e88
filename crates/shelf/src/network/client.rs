//! Files over HTTP: asked for conditionally, tried again, and resumed where they broke off.

use super::credentials::{Credentials, CredentialsError, is_this_machine};
use super::{DownloadObserver, Network};
use crate::cache::{Cache, heal, remove};
use std::fs::{self, File, TryLockError};
use std::io::{self, Read, Seek, SeekFrom, Write};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::thread::sleep;
use std::time::Duration;
use tinmold_platform::digest::{Digest, digest_of_reader};
use ureq::Agent;
use ureq::http::header::{
    AUTHORIZATION, CONTENT_LENGTH, CONTENT_RANGE, ETAG, IF_MODIFIED_SINCE, IF_NONE_MATCH, IF_RANGE,
    LAST_MODIFIED, RANGE, RETRY_AFTER,
};
use ureq::http::{HeaderMap, HeaderName, Uri};
use ureq::tls::{Certificate, PemItem, RootCerts, TlsConfig, parse_pem};

/// Retries without progress.
const TRIES: u32 = 3;
/// Read timeout if a cached copy exists.
const HASTE: Duration = Duration::from_secs(4);
/// Timeout of the whole request if a cached copy exists: a server may send a byte now and then.
const WHOLE_HASTE: Duration = Duration::from_secs(10);
/// The longest that a server's wish to wait is obeyed.
const LONGEST_WAIT: Duration = Duration::from_secs(5);
/// With so many new bytes a try that broke off got on.
const PROGRESS: u64 = 64 * 1024;
/// Maximum number of redirects.
const REDIRECTS: u32 = 5;

/// Why a file cannot be fetched.
#[derive(Debug, thiserror::Error)]
pub enum NetworkError {
    /// No network is to be used.
    #[error("it is not in the cache, and --offline forbids fetching it")]
    Offline,
    /// The server cannot be reached, or broke off.
    #[error("{0}")]
    Unreachable(String),
    /// The server refused, with a status of RFC 9110.
    #[error("the server answered {0}{1}")]
    Status(u16, &'static str),
    /// The file is too large.
    #[error("it is larger than {} MiB", .0 >> 20)]
    TooLarge(u64),
    /// The server reported no change, but nothing is cached.
    #[error("the server sent nothing")]
    Nothing,
    /// The server names a length and sends another.
    #[error("the server said {0} bytes and sent {1}")]
    WrongLength(u64, u64),
    /// Too many redirects.
    #[error("it redirects more than {REDIRECTS} times")]
    Redirects,
    /// The URL cannot be read.
    #[error("this is not a URL")]
    BadUrl,
    /// The credentials cannot be used.
    #[error(transparent)]
    Credentials(#[from] CredentialsError),
    /// The certificates of the settings cannot be used.
    #[error("the certificates in {path} cannot be used: {reason}")]
    Certificates {
        /// The file.
        path: PathBuf,
        /// Why.
        reason: String,
    },
    /// TLS failed.
    #[error("no secure connection: {0}")]
    Tls(String),
    /// There is no cache directory.
    #[error("there is no cache directory: set HOME or XDG_CACHE_HOME")]
    NoCache,
    /// The file system refused.
    #[error("it cannot be kept: {0}")]
    Io(#[from] io::Error),
}

impl NetworkError {
    /// Returns true if a retry may succeed.
    fn may_pass(&self) -> bool {
        match self {
            Self::Unreachable(_) | Self::WrongLength(..) => true,
            Self::Status(status, _) => matches!(status, 408 | 429 | 500..=599),
            _ => false,
        }
    }
}

/// The validators of a response, for conditional requests.
#[derive(Clone, Debug, Default, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
pub(crate) struct Validators {
    etag: Option<String>,
    modified: Option<String>,
}

impl Validators {
    fn of(headers: &HeaderMap) -> Self {
        let text =
            |name: HeaderName| headers.get(name).and_then(|value| value.to_str().ok()).map(str::to_owned);
        Self { etag: text(ETAG), modified: text(LAST_MODIFIED) }
    }

    /// Returns the strong tag, which identifies parts of one file (RFC 9110, 8.8.3).
    fn strong(&self) -> Option<&str> {
        self.etag.as_deref().filter(|tag| !tag.starts_with("W/"))
    }
}

/// A request for a file.
pub(crate) struct FetchRequest<'a> {
    /// The URL.
    pub(crate) url: &'a str,
    /// The name that the user knows.
    pub(crate) what: &'a str,
    pub(crate) token_env: Option<&'a str>,
    /// The validators of the cached copy.
    pub(crate) known: Validators,
    /// The most bytes that it may have.
    pub(crate) most: u64,
    /// True if a cached copy would do, so that the request should not wait long.
    pub(crate) hurried: bool,
}

/// The result of a fetch.
pub(crate) enum Answer {
    /// The cached copy is current.
    Same,
    /// The whole file, and its validators.
    Fetched(Fetched, Validators),
}

/// A whole file that was fetched. No other process touches it until it is stored or thrown away.
pub(crate) struct Fetched {
    place: PathBuf,
    /// Holds the lock.
    file: File,
}

impl Fetched {
    /// Returns its path.
    pub(crate) fn path(&self) -> &Path {
        &self.place
    }

    /// Computes its digest.
    pub(crate) fn digest(&self) -> io::Result<Digest> {
        let mut file = &self.file;
        file.seek(SeekFrom::Start(0))?;
        digest_of_reader(file)
    }

    /// Stores it in the cache under its digest; returns the path there.
    pub(crate) fn store(self, cache: &Cache, digest: &Digest) -> io::Result<PathBuf> {
        cache.store(&self.place, digest)
    }

    /// Removes it.
    pub(crate) fn throw_away(self) {
        remove(&self.place);
    }
}

/// Fetches a file into a path of the cache, which stores or removes it.
///
/// # Errors
/// The file cannot be fetched. The part received so far stays for the next try.
pub(crate) fn fetch(network: &Network, request: &FetchRequest<'_>) -> Result<Answer, NetworkError> {
    let _span = tracing::debug_span!("fetch", url = request.url).entered();
    if network.settings.offline {
        return Err(NetworkError::Offline);
    }
    let url: Uri = request.url.parse().map_err(|_| NetworkError::BadUrl)?;
    let credentials = Credentials::of(&url, request.token_env)?;
    let usual = network.settings.timeout;
    let timeout = if request.hurried { usual.min(HASTE) } else { usual };
    let agent = agent(network, timeout, request.hurried, &url)?;
    let place = network.cache.as_ref().ok_or(NetworkError::NoCache)?.partial(request.url);
    let mut download = Download::open(&place, network.observer.as_ref(), request)?;
    let mut tries = 0;
    let answer = loop {
        let before = download.have;
        tracing::debug!(from = before, "attempt");
        match download.attempt(&agent, credentials.as_ref()) {
            Ok(answer) => break Ok(answer),
            Err((error, _)) if !error.may_pass() => break Err(error),
            Err((error, wait)) => {
                tries = if download.have >= before + PROGRESS { 1 } else { tries + 1 };
                if tries >= TRIES || request.hurried {
                    break Err(error);
                }
                sleep(wait.unwrap_or(network.settings.pause * 2_u32.pow(tries - 1)).min(LONGEST_WAIT));
            }
        }
    };
    network.observer.finished();
    match answer? {
        None => {
            download.throw_away();
            Ok(Answer::Same)
        }
        Some(validators) => {
            remove(&download.note);
            Ok(Answer::Fetched(Fetched { place: download.place, file: download.file }, validators))
        }
    }
}

/// Why a try failed, and how long the server wants us to wait.
type FailedAttempt = (NetworkError, Option<Duration>);

/// A partial download, which can be resumed.
struct Download<'a> {
    place: PathBuf,
    /// Returns the path of the file with the tag of the partial download.
    note: PathBuf,
    file: File,
    have: u64,
    observer: &'a dyn DownloadObserver,
    request: &'a FetchRequest<'a>,
}

impl<'a> Download<'a> {
    fn open(
        place: &Path,
        observer: &'a dyn DownloadObserver,
        request: &'a FetchRequest<'a>,
    ) -> io::Result<Self> {
        let mut place = place.to_owned();
        fs::create_dir_all(place.parent().unwrap_or(&place))?;
        let file = match open_locked(&place)? {
            Some(file) => file,
            // Another process is fetching it: then this one uses a path of its own.
            None => {
                place.as_mut_os_string().push(format!("-{}", std::process::id()));
                let taken = || io::Error::new(io::ErrorKind::ResourceBusy, "another program uses it");
                open_locked(&place)?.ok_or_else(taken)?
            }
        };
        let mut note = place.clone();
        note.as_mut_os_string().push(".tag");
        let have = file.metadata()?.len();
        Ok(Self { place, note, file, have, observer, request })
    }

    fn throw_away(&self) {
        remove(&self.place);
        remove(&self.note);
    }

    fn restart(&mut self) -> io::Result<()> {
        self.have = 0;
        self.file.set_len(0)
    }

    /// Asks once; none if what is kept is still right.
    fn attempt(
        &mut self,
        agent: &Agent,
        credentials: Option<&Credentials>,
    ) -> Result<Option<Validators>, FailedAttempt> {
        let plainly = |error: NetworkError| (error, None);
        let local = |error: io::Error| plainly(error.into());
        heal(&self.note);
        let tag = fs::read_to_string(&self.note).ok().filter(|_| self.have > 0);
        if tag.is_none() {
            self.restart().map_err(local)?;
        }
        let mut call = agent.get(self.request.url);
        if let Some(credentials) = credentials {
            call = call.header(AUTHORIZATION, credentials.header());
        }
        if let Some(tag) = &tag {
            call = call.header(RANGE, format!("bytes={}-", self.have)).header(IF_RANGE, tag);
        } else {
            let known = &self.request.known;
            for (name, value) in [(IF_NONE_MATCH, &known.etag), (IF_MODIFIED_SINCE, &known.modified)] {
                if let Some(value) = value {
                    call = call.header(name, value);
                }
            }
        }
        let mut response = call.call().map_err(|error| plainly(of_ureq(error)))?;
        let headers = response.headers();
        let number = |name: HeaderName| headers.get(name)?.to_str().ok()?.trim().parse::<u64>().ok();
        let length = number(CONTENT_LENGTH);
        let validators = Validators::of(headers);
        match response.status().as_u16() {
            304 if tag.is_none() => return Ok(None),
            200 => self.restart().map_err(local)?,
            206 if begins_at(headers, self.have) => {}
            206 | 416 => {
                self.restart().map_err(local)?;
                return Err(plainly(NetworkError::Unreachable(
                    "the server sent another piece than was asked for".into(),
                )));
            }
            status => {
                let wait = number(RETRY_AFTER).map(Duration::from_secs);
                return Err((NetworkError::Status(status, meaning(status)), wait));
            }
        }
        let most = self.request.most;
        let whole = length.map(|length| self.have.saturating_add(length));
        if whole.is_some_and(|whole| whole > most) {
            self.throw_away();
            return Err(plainly(NetworkError::TooLarge(most)));
        }
        match validators.strong() {
            Some(tag) => fs::write(&self.note, tag).map_err(local)?,
            None => remove(&self.note),
        }
        self.file.seek(SeekFrom::Start(self.have)).map_err(local)?;
        let mut body = response.body_mut().as_reader();
        let mut piece = vec![0; 64 * 1024];
        loop {
            match body.read(&mut piece) {
                Ok(0) => break,
                Ok(read) => {
                    self.file.write_all(&piece[..read]).map_err(local)?;
                    self.have += read as u64;
                    if self.have > most {
                        self.throw_away();
                        return Err(plainly(NetworkError::TooLarge(most)));
                    }
                    self.observer.received(self.request.what, self.have, whole);
                }
                Err(error) => return Err(plainly(of_ureq(ureq::Error::from(error)))),
            }
        }
        match whole {
            Some(whole) if whole != self.have => Err(plainly(NetworkError::WrongLength(whole, self.have))),
            _ => Ok(Some(validators)),
        }
    }
}

/// Opens the file of a partial download and locks it; `None` if another process has the lock.
fn open_locked(place: &Path) -> io::Result<Option<File>> {
    loop {
        heal(place);
        let file = File::options().read(true).write(true).create(true).truncate(false).open(place)?;
        match file.try_lock() {
            Err(TryLockError::WouldBlock) => return Ok(None),
            // Some network file systems have no locks; there the digest must do.
            Ok(()) | Err(TryLockError::Error(_)) => {}
        }
        // The process that had it before may have stored the file meanwhile.
        if is_still_at(&file, place)? {
            return Ok(Some(file));
        }
    }
}

#[cfg(unix)]
fn is_still_at(file: &File, place: &Path) -> io::Result<bool> {
    use std::os::unix::fs::MetadataExt;
    let own = file.metadata()?;
    Ok(fs::symlink_metadata(place).is_ok_and(|there| (there.dev(), there.ino()) == (own.dev(), own.ino())))
}

#[cfg(not(unix))]
fn is_still_at(_: &File, place: &Path) -> io::Result<bool> {
    Ok(place.exists())
}

/// Returns true if a response is the part that begins at `from` (RFC 9110, 14.4).
fn begins_at(headers: &HeaderMap, from: u64) -> bool {
    let range = headers.get(CONTENT_RANGE).and_then(|range| range.to_str().ok());
    range.is_some_and(|range| range.starts_with(&format!("bytes {from}-")))
}

fn meaning(status: u16) -> &'static str {
    match status {
        401 | 403 => ": it wants credentials, or others; a shelf's token is named with --token-env",
        404 | 410 => ": not found",
        429 => ": it was asked too often",
        500..=599 => ": it is in trouble",
        _ => "",
    }
}

fn of_ureq(error: ureq::Error) -> NetworkError {
    match error {
        ureq::Error::TooManyRedirects | ureq::Error::RedirectFailed => NetworkError::Redirects,
        ureq::Error::Timeout(_) => NetworkError::Unreachable("the server took too long".into()),
        ureq::Error::HostNotFound => NetworkError::Unreachable("no host of that name is found".into()),
        ureq::Error::ConnectionFailed => NetworkError::Unreachable("no connection".into()),
        ureq::Error::Io(error) if error.get_ref().is_some_and(|inner| inner.is::<ureq::Error>()) => {
            match error.into_inner().and_then(|inner| inner.downcast::<ureq::Error>().ok()) {
                Some(inner) => of_ureq(*inner),
                None => NetworkError::Unreachable("the connection broke".into()),
            }
        }
        ureq::Error::Io(error) => match error.kind() {
            io::ErrorKind::ConnectionRefused => NetworkError::Unreachable("connection refused".into()),
            io::ErrorKind::UnexpectedEof
            | io::ErrorKind::ConnectionReset
            | io::ErrorKind::ConnectionAborted => NetworkError::Unreachable("the connection broke".into()),
            io::ErrorKind::TimedOut => NetworkError::Unreachable("the server took too long".into()),
            _ => NetworkError::Unreachable(error.to_string()),
        },
        ureq::Error::Tls(_)
        | ureq::Error::Rustls(_)
        | ureq::Error::RequireHttpsOnly(_)
        | ureq::Error::BadUri(_) => NetworkError::Tls(error.to_string()),
        error => NetworkError::Unreachable(error.to_string()),
    }
}

/// Makes the client: proxies from the usual variables, the system's certificate authorities and
/// those of the settings.
fn agent(network: &Network, timeout: Duration, hurried: bool, url: &Uri) -> Result<Agent, NetworkError> {
    let timeout = Some(timeout);
    let whole = hurried.then_some(WHOLE_HASTE);
    let tls = url.scheme_str() == Some("https");
    let mut config = Agent::config_builder()
        .http_status_as_error(false)
        .https_only(tls)
        .max_redirects(REDIRECTS)
        .user_agent(concat!("tinmold/", env!("CARGO_PKG_VERSION")))
        // Pieces of a file have no meaning in another encoding.
        .accept_encoding("identity")
        .timeout_global(whole)
        .timeout_resolve(timeout)
        .timeout_connect(timeout)
        .timeout_recv_response(timeout)
        .timeout_per_read(timeout);
    if is_this_machine(url) {
        // No proxy leads back here.
        config = config.proxy(None);
    }
    if tls {
        config = config
            .tls_config(TlsConfig::builder().root_certs(roots(&network.settings.certificates)?).build());
    }
    Ok(Agent::new_with_config(config.build()))
}

fn roots(more: &[PathBuf]) -> Result<RootCerts, NetworkError> {
    let system = rustls_native_certs::load_native_certs().certs;
    if system.is_empty() && more.is_empty() {
        return Ok(RootCerts::WebPki);
    }
    let mut all: Vec<Certificate<'static>> =
        system.iter().map(|held| Certificate::from_der(held.as_ref()).to_owned()).collect();
    for path in more {
        let wrong = |reason: String| NetworkError::Certificates { path: path.clone(), reason };
        let pem = fs::read(path).map_err(|error| wrong(error.to_string()))?;
        let before = all.len();
        for item in parse_pem(&pem) {
            if let PemItem::Certificate(found) = item.map_err(|error| wrong(error.to_string()))? {
                all.push(found);
            }
        }
        if all.len() == before {
            return Err(wrong("it holds none".into()));
        }
    }
    Ok(RootCerts::Specific(Arc::new(all)))
}
