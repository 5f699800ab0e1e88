{= match web =}
{= case "std" =}
//! The server: a thread a connection, and no more than there may be at once.

use crate::config::Config;
// {= if stored =}
use crate::database::Database;
// {= end =}
use crate::http::{self, RequestError};
use crate::log::{Level, Log};
use crate::notes::Notes;
use crate::routes::{answer, refused};
use std::io;
use std::net::{SocketAddr, TcpListener, TcpStream};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::thread::{self, JoinHandle};

/// How many requests are answered at once.
const MOST_AT_ONCE: usize = 200;

/// A service that runs.
pub struct Running {
    /// Where it listens.
    pub address: SocketAddr,
    stopping: Arc<AtomicBool>,
    thread: JoinHandle<()>,
}

/// Starts the service.
///
/// # Errors
/// It cannot listen where the settings say{= if stored =}, or the database cannot be used{= end =}.
pub fn start(config: &Config) -> io::Result<Running> {
    // {= if stored =}
    let notes = Notes::of(Database::open(&config.database).map_err(io::Error::other)?);
    // {= else =}
    let notes = Notes::default();
    // {= end =}
    let listener = TcpListener::bind((config.host.as_str(), config.port))?;
    let address = listener.local_addr()?;
    let stopping = Arc::new(AtomicBool::new(false));
    let log = Log {
        level: config.log_level,
        format: config.log_format,
    };
    log.write(Level::Info, &format!("listening on http://{address}"));
    let stop = Arc::clone(&stopping);
    let thread = thread::spawn(move || serve(&listener, &stop, log, notes));
    Ok(Running {
        address,
        stopping,
        thread,
    })
}

fn serve(listener: &TcpListener, stopping: &AtomicBool, log: Log, notes: Notes) {
    let notes = Arc::new(notes);
    let at_work = Arc::new(AtomicUsize::new(0));
    for stream in listener.incoming() {
        if stopping.load(Ordering::SeqCst) {
            return;
        }
        let Ok(stream) = stream else { continue };
        if at_work.fetch_add(1, Ordering::SeqCst) >= MOST_AT_ONCE {
            at_work.fetch_sub(1, Ordering::SeqCst);
            log.write(Level::Warn, "too many requests at once");
            continue;
        }
        let (notes, at_work) = (Arc::clone(&notes), Arc::clone(&at_work));
        thread::spawn(move || {
            if let Err(error) = handle(&stream, &notes, log) {
                log.write(Level::Warn, &format!("the connection broke: {error}"));
            }
            at_work.fetch_sub(1, Ordering::SeqCst);
        });
    }
}

fn handle(stream: &TcpStream, notes: &Notes, log: Log) -> io::Result<()> {
    let (asked, answer) = match http::read(stream) {
        Ok(request) => {
            let answer = answer(notes, &request.method, &request.path, &request.body);
            (format!("{} {}", request.method, request.path), answer)
        }
        Err(RequestError::Bad(status, why)) => (why.to_owned(), refused(status, why)),
        Err(RequestError::Io(error)) => return Err(error),
    };
    log.write(Level::Info, &format!("{asked} {}", answer.status));
    http::write(stream, answer.status, &answer.body)
}

impl Running {
    /// Waits until the service ends.
    ///
    /// # Errors
    /// It broke.
    pub fn wait(self) -> io::Result<()> {
        self.thread
            .join()
            .map_err(|_| io::Error::other("the server broke"))
    }

    /// Ends the service.
    ///
    /// # Errors
    /// It broke.
    pub fn stop(self) -> io::Result<()> {
        self.stopping.store(true, Ordering::SeqCst);
        // It sees that it is to stop at the next connection.
        drop(TcpStream::connect(self.address));
        self.wait()
    }
}
{= case "axum" =}
//! The server: axum on tokio, in a thread of its own, with a clean stop.

use crate::config::Config;
// {= if stored =}
use crate::database::Database;
// {= end =}
use crate::log::{Level, Log};
use crate::notes::Notes;
use crate::routes::routes;
use axum::extract::Request;
use axum::middleware::{Next, from_fn};
use std::io;
use std::net::{SocketAddr, TcpListener};
use std::thread::{self, JoinHandle};
use tokio::sync::oneshot;

/// A service that runs.
pub struct Running {
    /// Where it listens.
    pub address: SocketAddr,
    stop: oneshot::Sender<()>,
    thread: JoinHandle<io::Result<()>>,
}

/// Starts the service.
///
/// # Errors
/// It cannot listen where the settings say{= if stored =}, or the database cannot be used{= end =}.
pub fn start(config: &Config) -> io::Result<Running> {
    // {= if stored =}
    let notes = Notes::of(Database::open(&config.database).map_err(io::Error::other)?);
    // {= else =}
    let notes = Notes::default();
    // {= end =}
    let listener = TcpListener::bind((config.host.as_str(), config.port))?;
    listener.set_nonblocking(true)?;
    let address = listener.local_addr()?;
    let log = Log {
        level: config.log_level,
        format: config.log_format,
    };
    log.write(Level::Info, &format!("listening on http://{address}"));
    let (stop, stopped) = oneshot::channel();
    let thread = thread::spawn(move || {
        let runtime = tokio::runtime::Builder::new_multi_thread()
            .enable_all()
            .build()?;
        runtime.block_on(async {
            let listener = tokio::net::TcpListener::from_std(listener)?;
            let app = routes(notes);
            let app = app.layer(from_fn(move |request: Request, next: Next| async move {
                let asked = format!("{} {}", request.method(), request.uri().path());
                let response = next.run(request).await;
                let status = response.status().as_u16();
                log.write(Level::Info, &format!("{asked} {status}"));
                response
            }));
            let ended = async {
                tokio::select! {
                    Ok(()) = stopped => {}
                    Ok(()) = tokio::signal::ctrl_c() => {}
                    () = terminated() => {}
                }
            };
            axum::serve(listener, app)
                .with_graceful_shutdown(ended)
                .await?;
            log.write(Level::Info, "stopped");
            Ok(())
        })
    });
    Ok(Running {
        address,
        stop,
        thread,
    })
}

/// Waits until a service manager or a container engine ends the service.
#[cfg(unix)]
async fn terminated() {
    use tokio::signal::unix::{SignalKind, signal};
    match signal(SignalKind::terminate()) {
        Ok(mut signal) => drop(signal.recv().await),
        Err(_) => std::future::pending().await,
    }
}

#[cfg(not(unix))]
async fn terminated() {
    std::future::pending().await
}

impl Running {
    /// Waits until the service ends.
    ///
    /// # Errors
    /// It broke.
    pub fn wait(self) -> io::Result<()> {
        let Self { stop, thread, .. } = self;
        let ended = thread
            .join()
            .map_err(|_| io::Error::other("the server broke"))?;
        drop(stop);
        ended
    }

    /// Ends the service.
    ///
    /// # Errors
    /// It broke.
    pub fn stop(self) -> io::Result<()> {
        let Self { stop, thread, .. } = self;
        // It may have ended already.
        let _ = stop.send(());
        thread
            .join()
            .map_err(|_| io::Error::other("the server broke"))?
    }
}
{= case "actix" =}
//! The server: Actix Web, in a thread of its own, with a clean stop.

use crate::config::Config;
// {= if stored =}
use crate::database::Database;
// {= end =}
use crate::log::{Level, Log};
use crate::notes::Notes;
use crate::routes::routes;
use actix_web::dev::{ServerHandle, Service};
use actix_web::web::Data;
use actix_web::{App, HttpServer, rt};
use std::io;
use std::net::{SocketAddr, TcpListener};
use std::sync::mpsc;
use std::thread::{self, JoinHandle};

/// A service that runs.
pub struct Running {
    /// Where it listens.
    pub address: SocketAddr,
    handle: ServerHandle,
    thread: JoinHandle<io::Result<()>>,
}

/// Starts the service.
///
/// # Errors
/// It cannot listen where the settings say{= if stored =}, or the database cannot be used{= end =}.
pub fn start(config: &Config) -> io::Result<Running> {
    // {= if stored =}
    let notes = Notes::of(Database::open(&config.database).map_err(io::Error::other)?);
    // {= else =}
    let notes = Notes::default();
    // {= end =}
    let listener = TcpListener::bind((config.host.as_str(), config.port))?;
    let address = listener.local_addr()?;
    let log = Log {
        level: config.log_level,
        format: config.log_format,
    };
    log.write(Level::Info, &format!("listening on http://{address}"));
    let (tell, told) = mpsc::channel();
    let thread = thread::spawn(move || {
        rt::System::new().block_on(async {
            let notes = Data::new(notes);
            let app = move || {
                App::new()
                    .app_data(notes.clone())
                    .configure(routes)
                    .wrap_fn(move |request, service| {
                        let asked = format!("{} {}", request.method(), request.path());
                        let answering = service.call(request);
                        async move {
                            let response = answering.await?;
                            let status = response.status().as_u16();
                            log.write(Level::Info, &format!("{asked} {status}"));
                            Ok(response)
                        }
                    })
            };
            let server = HttpServer::new(app).listen(listener)?.run();
            // The receiver is still waiting.
            let _ = tell.send(server.handle());
            server.await?;
            log.write(Level::Info, "stopped");
            Ok(())
        })
    });
    let handle = told
        .recv()
        .map_err(|_| io::Error::other("the server did not start"))?;
    Ok(Running {
        address,
        handle,
        thread,
    })
}

impl Running {
    /// Waits until the service ends.
    ///
    /// # Errors
    /// It broke.
    pub fn wait(self) -> io::Result<()> {
        self.thread
            .join()
            .map_err(|_| io::Error::other("the server broke"))?
    }

    /// Ends the service.
    ///
    /// # Errors
    /// It broke.
    pub fn stop(self) -> io::Result<()> {
        rt::System::new().block_on(self.handle.stop(true));
        self.wait()
    }
}
{= end =}
